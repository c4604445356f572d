/** Mote fields by hand: an effect becomes one of motes, its field is tuned, scrubbed and put away. On pixels. */
import type { Page } from '@playwright/test';
import type { Effect } from '../../src/core/effect/schema.js';
import type { Stage } from '../../src/core/scene/stage.js';
import { expect, onCanvas, openBench, pixelsAt, saved, stageCanvas, test } from './app.js';
import { crowding } from './boxes.js';
import { OPEN, effect, grey, onwards, plain, prop, shown, stageWith, v } from './panes.js';

test.use({ viewport: { width: 1280, height: 800 } });
const surroundings = { asset: null, rgb: [0, 0, 0], strength: 0, turn: 0, seen: false } as Stage['surroundings'];

/** How bright the picture is at a lattice of places. */
async function lattice(page: Page): Promise<number[]> {
  const { width, height } = (await stageCanvas(page).boundingBox())!;
  const places = Array.from({ length: 96 * 60 }, (_, k): [number, number] => [
    (((k % 96) + 0.5) / 96) * width,
    ((Math.floor(k / 96) + 0.5) / 60) * height,
  ]);
  return (await pixelsAt(page, places)).map(([, g]) => g);
}
const lit = (picture: readonly number[]) => picture.filter((g) => g > 40).length;
const apart = (p: readonly number[], q: readonly number[]) => p.filter((g, k) => Math.abs(g - q[k]!) > 2).length;

test('an effect becomes one of motes: they are seen, go, come back where they were when scrubbed back, and are put away', async ({
  page,
  app,
}) => {
  onwards(970);
  const id = await effect(
    app,
    [
      grey('hue', 1),
      { id: 'm', name: 'Mote', op: 'mote' },
      { id: 'large', name: 'Large', op: 'multiply', inputs: { a: { from: 'm', port: 'random' }, b: v(0.06) } },
    ],
    { emission: { from: 'hue' }, roughness: v(0.5) },
    {},
    { loop: 4 },
  );
  const dark = await plain(app, 0);
  const stage = await stageWith(app, [prop('a', { primitive: 'plane', size: [6, 4] }, [0, 0, -1], dark)], [0, 0.75, 5], false, {
    surroundings,
    lights: [],
  });
  const stored = () => app.get<Stage>(`/api/stages/${stage.id}`);
  await openBench(page, app, id, OPEN);
  await page.getByRole('combobox', { name: /^What the effect is made for/ }).click();
  await page.getByRole('option', { name: 'Mote' }).click();
  await expect(page.getByText('A mote has no Roughness: what was connected there is let go.')).toBeVisible();
  // Hands its number to the size of each.
  await page
    .locator('[data-strand][aria-label^="Large, "]')
    .first()
    .click({ position: { x: 100, y: 14 } });
  await page.keyboard.press('f');
  await page.getByRole('menuitem', { name: /^Size/ }).click();
  await saved(page);
  const kept = await app.effect(id);
  expect(kept).toMatchObject({
    kind: 'mote',
    outputs: { size: { from: 'large' } },
    finish: { alphaMode: 'add' },
  } satisfies object);
  expect((await stored()).motes).toMatchObject([{ effect: id, rate: 40, life: 6, visible: true }]);

  await expect.poll(async () => lit(await lattice(page))).toBeGreaterThan(40);
  const step = (name: string) => page.getByRole('button', { name });
  const first = await lattice(page);
  for (let k = 0; k < 15; k++) await step('On one frame').click();
  await expect.poll(async () => apart(await lattice(page), first)).toBeGreaterThan(40);
  for (let k = 0; k < 15; k++) await step('Back one frame').click();
  await expect.poll(async () => apart(await lattice(page), first)).toBe(0);

  await page.getByRole('button', { name: /^Stage settings:/ }).click();
  await page.getByRole('button', { name: 'Motes: settings' }).click();
  expect(await crowding(page)).toEqual([]);
  await page.getByLabel('Rate value').fill('1000000');
  await page.keyboard.press('Enter');
  await expect(page.getByText('A field holds 20,000 at once; this one asks for 4,000,000.')).toBeVisible();
  await saved(page);
  expect((await stored()).motes[0]!.rate).toBe(1e6);
  await page.keyboard.press('Control+z');
  await page.getByLabel('Motes seed').fill('9');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await expect.poll(async () => apart(await lattice(page), first)).toBeGreaterThan(40);

  await page.getByRole('button', { name: /^Stage settings:/ }).click();
  await page.getByRole('button', { name: 'Hide Motes' }).click();
  await page.keyboard.press('Escape');
  await expect.poll(async () => lit(await lattice(page))).toBe(0);
  await saved(page);
  expect((await stored()).motes).toMatchObject([{ visible: false, seed: 9, rate: 40 }]);
});

test('motes are soft where they meet a surface, hidden behind it, and cover one another from the farthest', async ({
  page,
  app,
}) => {
  onwards(980);
  const make = async (rgb: [number, number, number], alphaMode: Effect['finish']['alphaMode']) =>
    effect(
      app,
      [{ id: 'c', name: 'C', op: 'colour', inputs: { in: v({ rgb, intensity: 1, unit: 'factor' }) } }],
      { emission: { from: 'c' } },
      { alphaMode, writesDepth: false },
      { kind: 'mote', loop: 4 },
    );
  const [green, red] = [await make([0, 1, 0], 'blend'), await make([1, 0, 0], 'blend')];
  const wall = await plain(app, 0);
  const field = (id: string, worn: string, [x, z]: [number, number], more: object = {}) => ({
    ...{ id, name: id, effect: worn, variant: null, seed: 1, place: [x, 0, z], turn: [0, 0, 0, 1] },
    ...{ from: { kind: 'ball', radius: 1e-3 }, rate: 8, life: 4, lifeSpread: 0, size: 0.6, sizeSpread: 0 },
    ...{ speed: 0, speedSpread: 0, heading: [0, 1, 0], spread: 0, gravity: 0, spin: 0, soft: 0 },
    ...{ drift: { strength: 0, scale: 1, pace: 0 }, shape: { kind: 'square' }, burst: null, visible: true },
    ...more,
  });
  const place = (motes: object[]) => ({ surroundings, lights: [], motes }) as unknown as Partial<Stage>;
  const stage = await stageWith(
    app,
    // The wall stands before the left half.
    [
      prop('a', { primitive: 'plane', size: [2, 4] }, [-1, 0, 0.3], wall),
      prop('b', { primitive: 'plane', size: [9, 9] }, [0, 0, -0.2], wall),
    ],
    [0, 0, 5],
    false,
    place([
      field('near', green, [0, 0]),
      field('far', red, [0, -0.1]),
      // One mote alone, a quarter of its softness before the wall.
      field('soft', green, [1.2, -0.1], { soft: 0.4, rate: 0.25, size: 0.3 }),
    ]),
  );
  await openBench(page, app, wall, OPEN);
  const { width, height } = (await stageCanvas(page).boundingBox())!;
  const at = async (x: number) => (await pixelsAt(page, [[width / 2 + x, height / 2]]))[0]!;
  // In the middle of the right half: the nearer field covers all that is behind it.
  await expect.poll(() => at(30)).toMatchObject([0, expect.closeTo(254, -1), 0]);
  const [, soft] = await pixelsAt(page, [await onCanvas(page, stage, 'front', [1.2, 0, -0.1])]).then(([seen]) => seen!);
  expect(Math.abs(soft - shown(0.25))).toBeLessThan(6);
  // Behind the wall nothing is seen.
  expect(await at(-30)).toEqual([0, 0, 0]);
});

test('a trigger throws motes, where the field is told to: so many when it fires, and none before', async ({ page, app }) => {
  onwards(985);
  const id = await effect(
    app,
    [grey('hue', 1)],
    { emission: { from: 'hue' } },
    { alphaMode: 'add', writesDepth: false },
    { kind: 'mote', loop: null, triggers: [{ id: 'pop', name: 'Pop', at: [0.1], duration: 1 }] },
  );
  const field = {
    ...{ id: 'm', name: 'Motes', effect: id, variant: null, seed: 1, place: [0, 0, 0], turn: [0, 0, 0, 1] },
    ...{ from: { kind: 'box', size: [4, 2, 0.1] }, rate: 0, life: 4, lifeSpread: 0, size: 0.05, sizeSpread: 0 },
    ...{ speed: 0, speedSpread: 0, heading: [0, 1, 0], spread: 0, gravity: 0, spin: 0, soft: 0 },
    ...{ drift: { strength: 0, scale: 1, pace: 0 }, shape: { kind: 'square' }, burst: null, visible: true },
  };
  const stage = await stageWith(app, [], [0, 0, 5], false, {
    ...{ surroundings, lights: [], motes: [field] },
  } as unknown as Partial<Stage>);
  await openBench(page, app, id, OPEN);
  await page.getByRole('button', { name: /^Stage settings:/ }).click();
  await page.getByRole('button', { name: 'Motes: settings' }).click();
  await page.getByRole('combobox', { name: /^Motes burst/ }).click();
  await page.getByRole('option', { name: 'Pop' }).click();
  await page.getByLabel('At once value').fill('60');
  await page.keyboard.press('Enter');
  await saved(page);
  const stored = (await app.get<Stage>(`/api/stages/${stage.id}`)).motes[0]!;
  expect(stored.burst).toEqual({ trigger: 'pop', count: 60 });
  await page.keyboard.press('Escape');
  expect(lit(await lattice(page))).toBe(0);
  for (let k = 0; k < 4; k++) await page.getByRole('button', { name: 'On one frame' }).click();
  await expect.poll(async () => lit(await lattice(page))).toBeGreaterThan(30);
});

test('lit motes are lit as small matt balls: by Lambert’s cosine where a lamp reaches them, not in a shadow', async ({
  page,
  app,
}) => {
  onwards(990);
  const dust = await effect(
    app,
    [grey('albedo', 0.8)],
    { baseColour: { from: 'albedo' } },
    { alphaMode: 'blend', writesDepth: false, lighting: 'lit' },
    { kind: 'mote', loop: 4 },
  );
  const board = await effect(app, [grey('c', 0)], { emission: { from: 'c' } }, { castsShadow: true });
  const field = {
    ...{ id: 'm', name: 'Motes', effect: dust, variant: null, seed: 1, place: [0, 0, 0], turn: [0, 0, 0, 1] },
    ...{ from: { kind: 'ball', radius: 1e-3 }, rate: 0.25, life: 4, lifeSpread: 0, size: 1, sizeSpread: 0 },
    ...{ speed: 0, speedSpread: 0, heading: [0, 1, 0], spread: 0, gravity: 0, spin: 0, soft: 0.01 },
    ...{ drift: { strength: 0, scale: 1, pace: 0 }, shape: { kind: 'round' }, burst: null, visible: true },
  };
  const light = (id: string, place: [number, number, number], intensity: number) =>
    ({
      ...{ id, name: id, kind: 'sun', place, target: [0, 0, 0], rgb: [1, 1, 1], intensity },
      shadow: true,
      drivenBy: null,
    }) as const;
  const stage = await stageWith(
    app,
    // It keeps the light from the side off all that is higher than a tenth of a metre.
    [prop('a', { primitive: 'box', size: [0.1, 4, 4] }, [3, 2.1, 0], board)],
    [0, 0, 6],
    false,
    {
      ...{ surroundings, motes: [field] },
      lights: [light('front', [0, 0, 6], 0.4), light('side', [6, 0, 0], 0.5)],
    } as unknown as Partial<Stage>,
  );
  await openBench(page, app, dust, OPEN);
  for (const [x, y, lit] of [
    [0.35, -0.3, true],
    [-0.35, -0.3, true],
    [0.35, 0.3, false],
    [0, 0.4, false],
  ] as const) {
    const facing = Math.sqrt(1 - x * x - y * y);
    const wanted = shown(0.8 * (0.4 * facing + (lit ? 0.5 * Math.max(0, x) : 0)));
    await expect
      .poll(async () => Math.abs((await pixelsAt(page, [await onCanvas(page, stage, 'front', [x, y, 0])]))[0]![1] - wanted))
      .toBeLessThan(4);
  }
});
