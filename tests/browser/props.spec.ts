/** The stage on the bench: several props in one effect, each with its own values; meshes of one's own; what is seen and measured. */
import { BufferAttribute, BufferGeometry, Mesh, MeshStandardMaterial, TorusGeometry } from 'three';
import type { Page } from '@playwright/test';
import type { Stage } from '../../src/core/scene/stage.js';
import { restingBox, drawn, expect, links, onCanvas, openBench, pixelAt, saved, stageCanvas, test, type Served } from './app.js';
import { dropOnStage, meshFile } from './meshes.js';

const TUBES = { effect: '0190a000-0000-7000-8000-000000000001', stage: '0190a100-0000-7000-8000-000000000002' };
const SIGN = { effect: '0190a000-0000-7000-8000-000000000003', stage: '0190a100-0000-7000-8000-000000000004' };
const stageOf = (app: Served, id: string) => app.get<Stage>(`/api/stages/${id}`);
const sum = (rgb: readonly number[]) => rgb.reduce((a, b) => a + b, 0);
const row = (page: Page, name: string) => page.getByRole('row', { name: new RegExp(`^${name},`) });

/** Looks from a viewpoint, as the artist would. */
async function lookFrom(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: /^Viewpoint/ }).click();
  await drawn(page, () => page.getByRole('menuitemradio', { name }).click());
}

async function clickAt(page: Page, [x, y]: readonly [number, number]): Promise<void> {
  const box = await restingBox(stageCanvas(page));
  await page.mouse.click(box.x + x, box.y + y);
}

test('three tubes of one effect have three different pulses, on the stage and in numbers', async ({ page, app }) => {
  await openBench(page, app, TUBES.effect);
  await expect.poll(() => links(page)).toBe(1);
  const stage = await stageOf(app, TUBES.stage);
  await lookFrom(page, 'Facing the wall');
  const tubes = stage.props.filter((p) => p.parts.length > 0);
  expect(tubes).toHaveLength(3);
  const places: [number, number][] = [];
  for (const tube of tubes) places.push(await onCanvas(page, stage, 'wall', tube.place));
  for (const [k, place] of places.entries()) {
    await page.getByRole('button', { name: 'Pin', exact: true }).click();
    await clickAt(page, place);
    await expect(page.getByRole('button', { name: `Pin ${'ABC'[k]!}: take it away` })).toBeVisible();
  }
  await row(page, 'Lit').click();
  await page.getByRole('tab', { name: 'Pulse' }).click();
  const pulse = page.getByTestId('pulse');
  const values = async () => JSON.parse((await pulse.getAttribute('data-values')) ?? '[]') as number[];
  // 64 moments of each pin’s 256.
  await expect.poll(async () => (await values()).length).toBe(3 * 64);
  const all = await values();
  const series = [0, 1, 2].map((k) => all.slice(k * 64, (k + 1) * 64));
  // Each keeps between the floor and ceiling that it alone has.
  const bounds = [
    [0.12, 1],
    [0.02, 1],
    [0.3, 0.8],
  ] as const;
  series.forEach((s, k) => {
    expect(Math.min(...s)).toBeGreaterThanOrEqual(bounds[k]![0] - 1e-6);
    expect(Math.max(...s)).toBeLessThanOrEqual(bounds[k]![1] + 1e-6);
    expect(Math.max(...s) - Math.min(...s)).toBeGreaterThan(0.1);
  });
  for (const [a, b] of [
    [0, 1],
    [0, 2],
    [1, 2],
  ] as const) {
    const apart = series[a]!.reduce((most, v, k) => Math.max(most, Math.abs(v - series[b]![k]!)), 0);
    expect(apart).toBeGreaterThan(0.2);
  }
  // And so they are seen: what is bright at one moment is dark at another, not all at once. One program draws all three.
  const seen: number[][] = [];
  for (let step = 0; step < 12; step++) {
    for (let k = 0; k < 3; k++) await drawn(page, () => page.getByRole('button', { name: 'On one frame' }).click());
    seen.push(await Promise.all(places.map(async ([x, y]) => sum(await pixelAt(page, x, y)))));
  }
  const changes = [0, 1, 2].map((k) =>
    seen
      .slice(1)
      .map((s, j) => Math.sign(s[k]! - seen[j]![k]!))
      .join(),
  );
  expect(new Set(changes).size).toBe(3);
  expect(await links(page)).toBe(1);
});

test('a value of one prop alone changes that prop alone, is undone, and can become a variant', async ({ page, app }) => {
  await openBench(page, app, TUBES.effect, '?clock=frozen&quality=draft&t=0.6');
  await expect.poll(() => links(page)).toBe(1);
  const stage = await stageOf(app, TUBES.stage);
  await lookFrom(page, 'Facing the wall');
  const at = await Promise.all(
    ['tube-1', 'tube-2', 'tube-3'].map((id) => onCanvas(page, stage, 'wall', stage.props.find((p) => p.id === id)!.place)),
  );
  const look = () => Promise.all(at.map((p) => pixelAt(page, ...p)));
  // Bloom and spill would carry one prop's light to the others.
  await page.getByRole('button', { name: /^Optics:/ }).click();
  await drawn(page, () => page.getByRole('switch', { name: 'Bloom' }).click());
  await page.keyboard.press('Escape');
  const before = await look();
  await clickAt(page, at[1]!);
  await page.getByRole('radio', { name: /only Tube 2/ }).click();
  await drawn(page, async () => {
    await page.getByLabel('Glow value').fill('0.2');
    await page.keyboard.press('Enter');
  });
  const after = await look();
  expect(sum(after[1]!)).toBeLessThan(sum(before[1]!) - 60);
  for (const k of [0, 2]) expect(Math.abs(sum(after[k]!) - sum(before[k]!))).toBeLessThan(12);
  await saved(page);
  const parts = async () => (await stageOf(app, TUBES.stage)).props.find((p) => p.id === 'tube-2')!.parts[0]!;
  await expect.poll(async () => (await parts()).overrides.glow).toBe(0.2);
  await page.getByRole('button', { name: 'Save as variant' }).click();
  await page.getByLabel('Name of the new variant').fill('Nearly gone');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Variant: Nearly gone' }).click();
  await page.getByRole('menuitem', { name: 'Rename Nearly gone' }).click();
  await page.getByLabel('Name of the variant Nearly gone').fill('Spent');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Variant: Spent' })).toBeVisible();
  await saved(page);
  await expect.poll(async () => (await parts()).overrides).toEqual({});
  expect(await look()).toEqual(after);
  for (let k = 0; k < 4; k++) await page.keyboard.press('Control+z');
  await expect.poll(look).toEqual(before);
});

test('props and the key light are added, dressed, moved and taken away; all of it is kept and undone', async ({ page, app }) => {
  await openBench(page, app, SIGN.effect);
  await page.getByRole('button', { name: /^Props:/ }).click();
  const before = await stageOf(app, SIGN.stage);
  await page.getByRole('button', { name: 'Add a prop' }).click();
  await page.getByRole('menuitem', { name: 'Dome' }).click();
  await page.getByRole('combobox', { name: 'Dome wears' }).click();
  await page.getByRole('option', { name: 'Ice' }).click();
  await page.getByRole('button', { name: 'Duplicate Dome', exact: true }).click();
  await page.getByRole('button', { name: 'Hide Dome 2' }).click();
  await page.keyboard.press('Escape');
  await saved(page);
  const stood = (await stageOf(app, SIGN.stage)).props.find((p) => p.name === 'Dome')!.place;
  await page.getByRole('button', { name: 'Handles', exact: true }).click();
  const drag = async (name: string, dx: number, dy: number) => {
    const handle = page.getByRole('button', { name: `Move ${name}` });
    const box = await restingBox(handle);
    await page.mouse.move(box.x + 12, box.y + 12);
    await page.mouse.down();
    await page.mouse.move(box.x + 12 + dx, box.y + 12 + dy, { steps: 4 });
    await page.mouse.up();
  };
  await drag('Dome', 60, -30);
  await drag('Key light', 40, 30);
  await saved(page);
  const now = async () => {
    const stage = await stageOf(app, SIGN.stage);
    return {
      added: stage.props.filter((p) => !before.props.some((b) => b.id === p.id)),
      key: stage.lights.find((l) => l.kind === 'key')!,
    };
  };
  await expect
    .poll(async () => (await now()).added.map((p) => [p.name, p.parts[0]?.variant, p.visible]))
    .toEqual([
      ['Dome', 'ice', true],
      ['Dome 2', 'ice', false],
    ]);
  const moved = await now();
  expect(moved.added[0]!.place[0]).toBeGreaterThan(stood[0] + 0.05);
  expect(moved.added[0]!.place[1]).toBeGreaterThan(stood[1] + 0.02);
  expect(moved.key.place).not.toEqual(before.lights.find((l) => l.kind === 'key')!.place);
  // Six steps: add, dress, duplicate, hide, two drags.
  for (let k = 0; k < 6; k++) await page.getByRole('button', { name: /^Undo/ }).click();
  await saved(page);
  await expect.poll(() => stageOf(app, SIGN.stage)).toEqual(before);
});

test('a mesh of one’s own is dropped, wears the effect, and is there after a reload; hostile ones are refused', async ({
  page,
  app,
}) => {
  await openBench(page, app, TUBES.effect, '?clock=frozen&quality=draft&t=0.6');
  await expect.poll(() => links(page)).toBe(1);
  const before = await stageOf(app, TUBES.stage);
  const notice = page.getByTestId('notice');
  const outside = new BufferGeometry();
  outside.setAttribute('position', new BufferAttribute(new Float32Array([0, 0, 0, NaN, 0, 0, 0, 1, 0]), 3));
  for (const [name, bytes, words] of [
    [
      'cut.glb',
      (await meshFile(new Mesh(new TorusGeometry(), new MeshStandardMaterial()))).subarray(0, 900),
      'cut off or added to',
    ],
    ['nan.glb', await meshFile(new Mesh(outside, new MeshStandardMaterial())), 'not a number'],
    ['page.glb', Buffer.from('<script>alert(1)</script> and more'), 'not a .glb file'],
    ['scene.obj', Buffer.from('v 0 0 0'), 'It has no triangles'],
    ['scene.blob', Buffer.from('v 0 0 0'), 'a mesh is a file of glTF'],
  ] as const) {
    await dropOnStage(page, name, bytes);
    await expect(notice).toContainText(words);
    await expect(notice).toContainText(name);
  }
  expect(await stageOf(app, TUBES.stage)).toEqual(before);
  await dropOnStage(
    page,
    'Valve wheel.glb',
    await meshFile(new Mesh(new TorusGeometry(0.4, 0.12, 24, 48), new MeshStandardMaterial())),
  );
  await expect(notice).toContainText('2,304 triangles');
  await expect(page.getByRole('button', { name: /^Props:/ })).toContainText('Valve wheel');
  await saved(page);
  const wheel = async () => (await stageOf(app, TUBES.stage)).props.find((p) => p.name === 'Valve wheel');
  await expect
    .poll(wheel)
    .toMatchObject({ source: { asset: expect.stringMatching(/^mesh-/) as unknown }, parts: [{ effect: TUBES.effect }] });
  const prop = (await wheel())!;
  // On its ring, to the right of its middle: seen in the hue of the effect, from the same program.
  const spot = await onCanvas(page, before, 'hatch', [prop.place[0] + 0.4, prop.place[1], prop.place[2] + 0.1]);
  const lit = async () => {
    const [r, g, b] = await pixelAt(page, ...spot);
    return g > r && g > b && g > 40;
  };
  await expect.poll(lit).toBe(true);
  expect(await links(page)).toBe(1);
  await page.reload();
  await expect.poll(() => links(page)).toBe(1);
  await expect.poll(lit).toBe(true);
});

test('the hatch sign says why it does not glow; the mend turns bloom on, and the gauge tells it', async ({ page, app }) => {
  await openBench(page, app, SIGN.effect);
  await page.getByRole('button', { name: /^Optics:/ }).click();
  await page.getByRole('switch', { name: 'Bloom' }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('tab', { name: /Advice/ }).click();
  const finding = page.locator('[data-finding=bloom-off]');
  await expect(finding).toContainText('bloom is off on this stage');
  await page.getByRole('button', { name: 'Turn bloom on' }).click();
  await expect(finding).toBeHidden();
  await saved(page);
  await expect.poll(async () => (await stageOf(app, SIGN.stage)).optics.bloom.on).toBe(true);
  const share = async (what: 'glows' | 'clips' | 'peak') =>
    Number((await page.getByTestId('headroom').getAttribute(`data-${what}`)) || NaN);
  await expect.poll(() => share('glows')).toBeGreaterThan(0.002);
  const [peak, glows] = [await share('peak'), await share('glows')];
  // So dim that nothing is over the threshold: said in stops, with a number that mends it.
  await page.getByRole('tab', { name: /Dials/ }).click();
  await page.getByLabel('Glow value').fill('0.5');
  await page.keyboard.press('Enter');
  await expect.poll(() => share('glows')).toBeLessThan(glows);
  await page.getByRole('tab', { name: /Advice/ }).click();
  const dim = page.locator('[data-finding=does-not-glow]');
  await expect(dim).toContainText(/stops under the threshold of 1/);
  // The gauge's diamond and the advice say the same number.
  const says = Number(/([\d.]+) stops under/.exec((await dim.textContent())!)![1]);
  const shows = Number(await page.getByTestId('own-peak').getAttribute('data-stops'));
  expect(Math.abs(-shows - says)).toBeLessThan(0.051);
  await page.getByRole('button', { name: /^Set Glow to/ }).click();
  await expect(page.locator('[data-finding=does-not-glow]')).toBeHidden();
  // Far too bright: the hue is gone, the mend brings it back.
  await page.getByRole('tab', { name: /Dials/ }).click();
  await page.getByLabel('Glow value').fill('2000');
  await page.keyboard.press('Enter');
  await expect.poll(() => share('peak')).toBeGreaterThan(20 * peak);
  await page.getByRole('tab', { name: /Advice/ }).click();
  const white = page.locator('[data-finding=whites-out]');
  await expect(white).toContainText(/% of the hue/);
  // Waved aside it stays so, through a reload.
  await page.getByRole('button', { name: /^Dismiss: Its brightest/ }).click();
  await expect(white).toBeHidden();
  await saved(page);
  await page.reload();
  await page.getByRole('tab', { name: /Advice/ }).click();
  await page.getByRole('button', { name: 'Show again' }).click();
  await expect(white).toBeVisible();
  await page.getByRole('button', { name: /^Set Glow to/ }).click();
  await expect(white).toBeHidden();
});

test.describe('on the whole stage', () => {
  test.use({ sets: true });
  test('light spills from the effect onto what stands near it, in its hue, as strong as the stage says', async ({
    page,
    app,
  }) => {
    await openBench(page, app, TUBES.effect, '?clock=frozen&quality=draft&t=1.2');
    await expect.poll(() => links(page)).toBe(1);
    const stage = await stageOf(app, TUBES.stage);
    await page.getByRole('button', { name: /^Optics:/ }).click();
    await drawn(page, () => page.getByRole('switch', { name: 'Bloom' }).click());
    await page.keyboard.press('Escape');
    const tube = stage.props.find((p) => p.id === 'tube-2')!.place;
    // A plate of the wall, a hand's breadth under the tube.
    const wall = await onCanvas(page, stage, 'hatch', [tube[0] + 0.2, tube[1] - 0.25, -0.075]);
    const lit = sum(await pixelAt(page, ...wall));
    await page.getByRole('button', { name: /^Stage settings:/ }).click();
    await drawn(page, async () => {
      await page.getByLabel('Spill value').fill('0');
      await page.keyboard.press('Enter');
    });
    const dark = sum(await pixelAt(page, ...wall));
    await drawn(page, async () => {
      await page.getByLabel('Spill value').fill('6');
      await page.keyboard.press('Enter');
    });
    const twice = sum(await pixelAt(page, ...wall));
    expect(lit).toBeGreaterThan(dark + 15);
    expect(twice).toBeGreaterThan(lit + 10);
    expect(await links(page)).toBe(1);
  });
});
