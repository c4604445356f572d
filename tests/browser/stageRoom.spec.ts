/** The Stage room by hand: its list, props copied and mirrored, meshes brought in, motes that are copies or born at a level; one undo with the Bench. */
import type { Page } from '@playwright/test';
import { Color, Mesh, MeshStandardMaterial, PlaneGeometry } from 'three';
import { mergeGeometries } from 'three/examples/jsm/utils/BufferGeometryUtils.js';
import type { Stage } from '../../src/core/scene/stage.js';
import { expect, furnished, onCanvas, restingBox, pixelsAt, saved, stageCanvas, test, type Served } from './app.js';
import { finds } from './axe.js';
import { crowding } from './boxes.js';
import { bent } from '../../src/core/optics/lens.js';
import { meshFile } from './meshes.js';
import { OPEN, effect, grey, onwards, plain, prop, seenAt, shown, stageWith, v } from './panes.js';

test.use({ viewport: { width: 1280, height: 800 } });
const dark = { asset: null, rgb: [0, 0, 0], strength: 0, turn: 0, seen: false } as Stage['surroundings'];
const openRoom = async (page: Page, app: Served, id: string, query = '?clock=frozen') => {
  await page.goto(`${app.url}/stages/${id}${query}`);
  await furnished(page);
};
const stored = (app: Served, stage: Stage) => app.get<Stage>(`/api/stages/${stage.id}`);

/** Pulses by a seed of its own, as bright as a screen shows. */
const pulsing = (app: Served) =>
  effect(
    app,
    [
      { id: 't', name: 'Time', op: 'time' },
      { id: 'own', name: 'Own', op: 'propRandom' },
      {
        id: 'pulse',
        name: 'Pulse',
        op: 'formula',
        inputs: { a: { from: 't' }, b: { from: 'own' }, formula: v({ text: '0.5 + 0.4 * sin(a * 6.283185 + b * 6.283185)' }) },
      },
      { id: 'hue', name: 'Hue', op: 'multiply', inputs: { a: { from: 'pulse' }, b: v([1, 1, 1]) } },
    ],
    { emission: { from: 'hue' } },
  );

test('from the list into the room: three copies of three seeds pulse each in its own time; one undo with the Bench', async ({
  page,
  app,
}) => {
  onwards(1600);
  const id = await pulsing(app);
  const stage = await stageWith(app, [prop('a', { primitive: 'plane', size: [0.8, 0.8] }, [0, 0, 0], id)], [0, 0, 10], false, {
    surroundings: dark,
  });
  await page.goto(`${app.url}/`);
  await page.getByRole('link', { name: 'Stages' }).click();
  await expect(page.getByRole('heading', { name: 'Stages' })).toBeAttached();
  await expect(page.locator('[data-stage]')).toHaveCount(20);
  expect(await crowding(page)).toEqual([]);
  expect(await finds(page)).toEqual([]);
  await page.locator(`[data-stage="${stage.id}"] a`).click();
  await expect(page.getByRole('button', { name: 'Panes', exact: true })).toBeVisible();
  await openRoom(page, app, stage.id);
  expect(await crowding(page)).toEqual([]);
  expect(await finds(page)).toEqual([]);
  for (const what of ['Key light', 'All around', 'Optics']) {
    const row = page
      .getByRole('complementary', { name: 'What stands on the stage' })
      .getByRole('button', { name: what, exact: true });
    if ((await row.count()) === 0) continue;
    await row.click();
    expect(await crowding(page)).toEqual([]);
  }
  await page.getByRole('button', { name: 'a', exact: true }).click();
  await page.getByRole('button', { name: 'Duplicate', exact: true }).click();
  await page.getByRole('button', { name: 'Duplicate', exact: true }).click();
  await expect(page.getByRole('button', { name: 'a 3', exact: true })).toBeVisible();
  await saved(page);
  const { props } = await stored(app, stage);
  expect(new Set(props.map((p) => p.seed)).size).toBe(3);
  // As many pulses as seeds: at one moment each is at another place of its swing.
  await page.getByRole('button', { name: /^Back to the viewpoint/ }).click();
  await page.getByRole('button', { name: 'Handles' }).click();
  const levels = async () => {
    const out: number[] = [];
    for (const { place } of props) out.push((await seenAt(page, { ...stage, props }, place))[1]);
    return out;
  };
  await expect.poll(async () => Math.min(...(await levels()))).toBeGreaterThan(10);
  const [p, q, r] = (await levels()) as [number, number, number];
  for (const [one, other] of [
    [p, q],
    [q, r],
    [p, r],
  ] as const)
    expect(Math.abs(one - other)).toBeGreaterThan(6);
  // The same steps on the Bench.
  await page.getByRole('link', { name: 'Open in Bench' }).click();
  await expect(page.getByRole('treegrid')).toBeVisible();
  await page.getByRole('button', { name: 'Undo: Duplicate a 2' }).click();
  await expect.poll(async () => (await stored(app, stage)).props.length).toBe(2);
});

test('a mirrored copy has its faces outward and its pattern the other way round', async ({ page, app }) => {
  onwards(1620);
  const across = await effect(
    app,
    [
      { id: 'u', name: 'U', op: 'uv' },
      { id: 'c', name: 'C', op: 'formula', inputs: { a: { from: 'u' }, formula: v({ text: 'vec3(a.x)' }) } },
    ],
    { emission: { from: 'c' } },
  );
  const stage = await stageWith(app, [prop('a', { primitive: 'plane', size: [1, 1] }, [0.8, 0, 0], across)], [0, 0, 7], false, {
    surroundings: dark,
  });
  await openRoom(page, app, stage.id);
  await page.getByRole('button', { name: 'Mirrored', exact: true }).click();
  await page.getByRole('button', { name: 'Handles' }).click();
  const at = async (x: number) => (await seenAt(page, stage, [x, 0.2, 0]))[1];
  await expect.poll(() => at(-1.2)).toBeGreaterThan(200);
  expect(await at(1.2)).toBeGreaterThan(200);
  for (const side of [-1, 1]) expect(await at(side * 0.4)).toBeLessThan(110);
  await saved(page);
  expect((await stored(app, stage)).props[1]).toMatchObject({ place: [-0.8, 0, 0], scale: [-1, 1, 1] });
});

test('meshes of other kinds are brought in: an OBJ, and a broken one that is refused and changes nothing', async ({
  page,
  app,
}) => {
  onwards(1640);
  const bright = await plain(app, 0.9);
  const stage = await stageWith(app, [prop('a', { primitive: 'sphere', radius: 0.2 }, [1.5, 0, 0], bright)], [0, 0, 7], false, {
    surroundings: dark,
  });
  await openRoom(page, app, stage.id);
  const file = (name: string, text: string) => ({ name, mimeType: 'text/plain', buffer: Buffer.from(text) });
  await page.getByLabel('Mesh file').setInputFiles(file('broken.obj', 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n'));
  await expect(page.getByTestId('notice')).toContainText('A face of it names a vertex that is not there');
  expect((await stored(app, stage)).props).toHaveLength(1);
  await page
    .getByLabel('Mesh file')
    .setInputFiles(file('pane.obj', 'v -0.5 -0.5 0\nv 0.5 -0.5 0\nv 0.5 0.5 0\nv -0.5 0.5 0\nf 1 2 3 4\n'));
  await expect(page.getByTestId('notice')).toContainText('pane.obj has 2 triangles');
  await saved(page);
  const [, pane] = (await stored(app, stage)).props;
  expect(pane!.name).toBe('pane');
  await page.getByRole('button', { name: 'Handles' }).click();
  await expect
    .poll(async () => (await seenAt(page, stage, [pane!.place[0] + 0.2, pane!.place[1] + 0.2, pane!.place[2]]))[1])
    .toBeGreaterThan(200);
});

/** Two panes of one mesh, written by another library: glass at the left, a frame at the right; each shines as its material says. */
async function twoPanes(): Promise<Buffer> {
  const pane = (x: number) => new PlaneGeometry(0.9, 0.9).translate(x, 0, 0);
  const of = (name: string, emissive: [number, number, number]) =>
    new MeshStandardMaterial({ name, color: 0, emissive: new Color(...emissive), roughness: 1 });
  const geometry = mergeGeometries([pane(-0.5), pane(0.5)], true);
  return meshFile(new Mesh(geometry, [of('Glass', [0, 0, 0.6]), of('Frame', [0.6, 0, 0])] as never));
}

test('parts of a mesh, by its materials, wear effects of their own: in the room, on the Bench, in pins, and undone', async ({
  page,
  app,
}) => {
  onwards(1680);
  const id = await effect(
    app,
    [grey('level', 0.2), { id: 'c', name: 'C', op: 'multiply', inputs: { a: { from: 'level' }, b: v([0, 1, 0]) } }],
    { emission: { from: 'c' } },
    {},
    { variants: [{ id: 'v1', name: 'Strong', values: {} }] },
  );
  const stage = await stageWith(app, [prop('a', { primitive: 'box', size: [0.1, 0.1, 0.1] }, [0, 3, 0], id)], [0, 0, 6], false, {
    surroundings: dark,
    lights: [],
  });
  await openRoom(page, app, stage.id);
  await page
    .getByLabel('Mesh file')
    .setInputFiles({ name: 'panes.glb', mimeType: 'model/gltf-binary', buffer: await twoPanes() });
  await expect(page.getByTestId('notice')).toContainText('panes.glb has 4 triangles');
  await saved(page);
  const placed = (await stored(app, stage)).props.find((p) => p.name === 'panes')!.place;
  await page.getByRole('button', { name: 'Handles' }).click();
  const sides = async (): Promise<string> => {
    const out: string[] = [];
    for (const x of [-0.5, 0.5]) {
      const [r, g, b] = await seenAt(page, stage, [placed[0] + x, placed[1], placed[2]]);
      out.push(r > 100 ? 'red' : g > 100 ? 'green' : b > 100 ? 'blue' : 'dark');
    }
    return out.join(' ');
  };
  const wears = async (what: string, choice: string) => {
    await page.getByRole('combobox', { name: `${what} wears` }).click();
    await page.getByRole('option', { name: choice, exact: true }).click();
  };
  // It says what it is made of: here, where a place is set up, it wears nothing.
  await expect.poll(sides).toBe('blue red');
  const name = (await app.get<{ name: string }>(`/api/effects/${id}`)).name;
  await wears('panes: Glass', name);
  await expect.poll(sides).toBe('green red');
  expect(await crowding(page)).toEqual([]);
  expect(await finds(page)).toEqual([]);
  await saved(page);
  expect((await stored(app, stage)).props.find((p) => p.name === 'panes')!.parts).toEqual([
    { part: 'Glass', effect: id, variant: null, overrides: {} },
  ]);
  // What is left wears it too; then the glass alone is what its file says.
  await wears('panes', name);
  await expect.poll(sides).toBe('green green');
  await wears('panes: Glass', 'nothing');
  await expect.poll(sides).toBe('blue green');
  await wears('panes: Glass', 'as the rest');
  await expect.poll(sides).toBe('green green');
  for (const back of ['blue green', 'green green', 'green red', 'blue red']) {
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect.poll(sides).toBe(back);
  }
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect.poll(sides).toBe('green red');
  await saved(page);
  // On the Bench a pin on the glass reads the effect, one on the frame beside it has nothing to read.
  await page.goto(`${app.url}/effects/${id}${OPEN}`);
  await furnished(page);
  await expect.poll(sides).toBe('green red');
  await page.getByRole('row', { name: /level/ }).click();
  const box = await restingBox(stageCanvas(page));
  for (const [k, x] of [-0.5, 0.5].entries()) {
    await page.getByRole('button', { name: 'Pin', exact: true }).click();
    const [px, py] = await onCanvas(page, stage, 'front', [placed[0] + x, placed[1], placed[2]]);
    await page.mouse.click(box.x + px, box.y + py);
    await expect(page.getByRole('button', { name: `Pin ${'AB'[k]!}: take it away` })).toBeVisible();
  }
  await expect(page.locator('[data-pin="A"] [data-number]')).toHaveText(/0\.2/);
  await expect(page.locator('[data-pin="B"] [data-number]')).toHaveText('');
  await page.getByRole('button', { name: /^Props:/ }).click();
  await page.getByRole('button', { name: 'panes', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Glass', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await wears('panes: Glass', 'Strong');
  await wears('panes: Frame', 'Base');
  await expect.poll(sides).toBe('green green');
  expect(await crowding(page)).toEqual([]);
  await saved(page);
  expect((await stored(app, stage)).props.find((p) => p.name === 'panes')!.parts).toEqual([
    { part: 'Glass', effect: id, variant: 'v1', overrides: {} },
    { part: 'Frame', effect: id, variant: null, overrides: {} },
  ]);
});

/** How many of a lattice of places of the picture are lit, left and right of its middle. */
async function litSides(page: Page, stage: Stage): Promise<[number, number]> {
  const { width, height } = (await stageCanvas(page).boundingBox())!;
  const [middle] = await onCanvas(page, stage, 'front', [0, 0, 0]);
  const places = Array.from({ length: 160 * 120 }, (_, k): [number, number] => [
    (((k % 160) + 0.5) / 160) * width,
    ((Math.floor(k / 160) + 0.5) / 120) * height,
  ]);
  const found: [number, number] = [0, 0];
  (await pixelsAt(page, places)).forEach(([, g], k) => {
    // One that is born on the line reaches over it.
    const x = places[k]![0] - middle;
    if (g > 60 && Math.abs(x) > 12) found[x < 0 ? 0 : 1]++;
  });
  return found;
}

test('motes are born only where a strand is above a level, and are copies of a prop where that is asked', async ({
  page,
  app,
}) => {
  onwards(1660);
  const half = await effect(
    app,
    [
      grey('c', 0),
      { id: 'u', name: 'U', op: 'uv' },
      { id: 'side', name: 'Side', op: 'formula', inputs: { a: { from: 'u' }, formula: v({ text: 'a.x' }) } },
    ],
    { emission: { from: 'c' }, roughness: { from: 'side' } },
  );
  const speck = await effect(
    app,
    [grey('hue', 1)],
    { emission: { from: 'hue' } },
    { alphaMode: 'add' },
    { kind: 'mote', loop: 4 },
  );
  const bright = await plain(app, 0.9);
  const field: Stage['motes'][number] = {
    ...{ id: 'm', name: 'Specks', effect: speck, variant: null, seed: 3, place: [0, 0, 0], turn: [0, 0, 0, 1] },
    ...{
      from: { kind: 'prop', prop: 'a' },
      rate: 150,
      life: 4,
      lifeSpread: 0,
      size: 0.02,
      sizeSpread: 0,
      speed: 0,
      speedSpread: 0,
    },
    ...{
      heading: [0, 1, 0],
      spread: 0,
      gravity: 0,
      drift: { strength: 0, scale: 1, pace: 0 },
      spin: 0,
      shape: { kind: 'round' },
    },
    ...{ soft: 0, burst: null, visible: true },
  };
  const stage = await stageWith(
    app,
    [
      prop('a', { primitive: 'plane', size: [3, 2] }, [0, 0, 0], half),
      prop('b', { primitive: 'sphere', radius: 0.1 }, [0, 9, 0], bright),
    ],
    [0, 0, 7],
    false,
    { surroundings: dark, motes: [field] },
  );
  await openRoom(page, app, stage.id);
  await page.getByRole('button', { name: 'Handles' }).click();
  await expect.poll(async () => (await litSides(page, stage))[0]).toBeGreaterThan(20);
  await page.getByRole('button', { name: 'Specks', exact: true }).click();
  await page.getByRole('combobox', { name: 'Specks where' }).click();
  await page.getByRole('option', { name: 'Side' }).click();
  // u is above a half in the right half alone.
  await expect.poll(async () => (await litSides(page, stage))[0]).toBe(0);
  expect((await litSides(page, stage))[1]).toBeGreaterThan(20);
  await saved(page);
  expect((await stored(app, stage)).motes[0]!.from).toEqual({ kind: 'prop', prop: 'a', where: { strand: 'side', above: 0.5 } });
  const specks = (await litSides(page, stage))[1];
  // Copies of the ball that stands out of sight, larger than the specks were.
  await page.getByLabel('Radius value').fill('0.06');
  await page.keyboard.press('Enter');
  await page.getByRole('combobox', { name: 'Specks shape' }).click();
  await page.getByRole('option', { name: 'Copies of b' }).click();
  await expect.poll(async () => (await litSides(page, stage))[1]).toBeGreaterThan(2 * specks);
  expect(await crowding(page)).toEqual([]);
});

test('a zone’s optics hold where the camera is; a lens bends what is seen, and the pointer with it', async ({ page, app }) => {
  onwards(1680);
  const [dim, bright] = [await plain(app, 0.2), await plain(app, 0.9)];
  const stage = await stageWith(
    app,
    [
      prop('a', { primitive: 'plane', size: [0.6, 0.6] }, [0, 0, 0], dim),
      prop('b', { primitive: 'plane', size: [0.16, 0.16] }, [1.3, 0.9, 0], bright),
    ],
    [0, 0, 7],
    false,
    { surroundings: dark },
  );
  await openRoom(page, app, stage.id);
  await page.getByRole('button', { name: 'Handles' }).click();
  const middle = async () => (await seenAt(page, stage, [0, 0, 0]))[1];
  await expect.poll(middle).toBeGreaterThan(100);
  expect(Math.abs((await middle()) - shown(0.2))).toBeLessThan(2);
  await page.getByRole('button', { name: 'Optics', exact: true }).click();
  await page.getByRole('button', { name: 'Add a zone' }).click();
  const zone = page.locator('[data-zone="zone-1"]');
  await expect(zone).toContainText('100 % here');
  await zone.getByLabel('Exposure value').fill('1');
  await page.keyboard.press('Enter');
  // A stop more is twice the light.
  await expect.poll(async () => Math.abs((await middle()) - shown(0.4))).toBeLessThan(2);
  // Out of it the stage's own hold: half of the way through its edge, half of a stop.
  await zone.getByLabel('Zone place z').fill('8');
  await page.keyboard.press('Enter');
  await expect.poll(async () => Math.abs((await middle()) - shown(0.2))).toBeLessThan(2);
  await zone.getByLabel('Zone place z').fill('7.75');
  await page.keyboard.press('Enter');
  await expect.poll(async () => Math.abs((await middle()) - shown(0.2 * Math.SQRT2))).toBeLessThan(2);
  await saved(page);
  expect((await stored(app, stage)).zones).toMatchObject([{ place: [0, 0, 7.75], blend: 0.5, optics: { exposure: 1 } }]);
  // Its box stands in the picture, and is moved there: before the eye a side of two metres is as long as one sees it.
  for (const [label, value] of [
    ['z', '0'],
    ['x', '0.5'],
  ] as const) {
    await zone.getByLabel(`Zone place ${label}`).fill(value);
    await page.keyboard.press('Enter');
  }
  await page.getByRole('button', { name: 'Handles' }).click();
  const ends = async () => {
    const d = (await page.locator('[data-box="zone-1"] path').first().getAttribute('d')) ?? '';
    const xs = [...d.matchAll(/[ML]([-\d.]+) /g)].map((m) => Number(m[1]));
    return [Math.min(...xs), Math.max(...xs)];
  };
  const near = async (side: number) => (await onCanvas(page, stage, 'front', [0.5 + side, 0, 1]))[0];
  await expect.poll(async () => Math.abs((await ends())[0]! - (await near(-1)))).toBeLessThan(1.5);
  expect(Math.abs((await ends())[1]! - (await near(1)))).toBeLessThan(1.5);
  await page.getByRole('button', { name: 'Move Zone' }).press('ArrowLeft');
  await saved(page);
  expect((await stored(app, stage)).zones[0]!.place).toEqual([0.45, 0, 0]);
  await page.getByRole('button', { name: 'Handles' }).click();

  const list = page.getByRole('complementary', { name: 'What stands on the stage' });
  await list.getByRole('button', { name: 'Front', exact: true }).click();
  await page.getByLabel('Lens bend value').fill('0.3');
  await page.keyboard.press('Enter');
  // Where the pane would be, and where the lens has it.
  const { width, height } = (await stageCanvas(page).boundingBox())!;
  const [x, y] = await onCanvas(page, stage, 'front', [1.3, 0.9, 0]);
  const lens = { bend: 0.3, aspect: width / height };
  const [u, v2] = bent(lens, (2 * x) / width - 1, 1 - (2 * y) / height);
  const there: [number, number] = [((u + 1) / 2) * width, ((1 - v2) / 2) * height];
  expect(Math.hypot(there[0] - x, there[1] - y)).toBeGreaterThan(20);
  const at = async (place: [number, number]) => (await pixelsAt(page, [place, [0, 0]]))[0]![1];
  await expect.poll(() => at(there)).toBeGreaterThan(200);
  expect(await at([x, y])).toBeLessThan(50);
  // A press there takes it in hand.
  await stageCanvas(page).click({ position: { x: there[0], y: there[1] } });
  await expect(list.getByRole('button', { name: 'b', exact: true })).toHaveAttribute('aria-current', 'true');
  await expect(page.getByRole('region', { name: 'Settings of b' })).toBeVisible();
});

test('a prop gets a surface of its own, is scattered in one step, and its group goes where it goes', async ({ page, app }) => {
  onwards(1700);
  const other = await plain(app, 0.5);
  const stage = await stageWith(
    app,
    [
      prop('a', { primitive: 'plane', size: [0.3, 0.3] }, [0, 0, 0], null),
      prop('b', { primitive: 'sphere', radius: 0.1 }, [0, 9, 0], other),
    ],
    [0, 0, 7],
    false,
    { surroundings: { ...dark, rgb: [1, 1, 1], strength: 1 }, lights: [] },
  );
  await openRoom(page, app, stage.id);
  const list = page.getByRole('complementary', { name: 'What stands on the stage' });
  await list.getByRole('button', { name: 'a', exact: true }).click();
  await page.getByRole('button', { name: 'Handles' }).click();
  const at = (x: number, y: number) => seenAt(page, stage, [x, y, 0]);
  await expect.poll(async () => (await at(0, 0.05))[0]).toBeGreaterThan(60);
  const [red, green] = await at(0, 0.05);
  expect(Math.abs(red - green)).toBeLessThan(3);
  const settings = page.getByRole('region', { name: 'Settings of a' });
  await settings.getByLabel('Metalness value').fill('0.5');
  await page.keyboard.press('Enter');
  // Half of it scatters no light: darker.
  await expect.poll(async () => (await at(0, 0.05))[0]).toBeLessThan(red - 10);
  await page.getByRole('button', { name: /^Undo: Metalness of a/ }).click();
  await expect.poll(async () => Math.abs((await at(0, 0.05))[0] - red)).toBeLessThan(3);

  await settings.getByRole('button', { name: 'Scatter' }).click();
  const panel = page.getByRole('dialog', { name: 'Scatter a' });
  await panel.getByLabel('How many value').fill('5');
  await page.keyboard.press('Enter');
  await panel.getByRole('button', { name: 'Scatter 5' }).click();
  await expect(list.getByRole('group', { name: 'Group a' })).toContainText('×6');
  await saved(page);
  const props = async () => (await stored(app, stage)).props.filter((p) => p.group === 'a');
  const before = await props();
  expect(before).toHaveLength(6);
  await list.getByLabel('a place y', { exact: true }).fill('0.4');
  await page.keyboard.press('Enter');
  await saved(page);
  await expect.poll(async () => (await props()).map((p) => p.place[1].toFixed(3))).toEqual(before.map(() => '0.400'));
  await expect.poll(async () => (await at(0, 0.45))[0]).toBeGreaterThan(60);
  await page.getByRole('button', { name: /^Undo: Move a/ }).click();
  await page.getByRole('button', { name: 'Undo: Scatter a' }).click();
  await saved(page);
  await expect.poll(async () => (await stored(app, stage)).props.length).toBe(2);
  expect(await crowding(page)).toEqual([]);
});

test('a slow move goes through its viewpoints by the time alone; a grade colours what is shown; both are kept', async ({
  page,
  app,
}) => {
  onwards(1690);
  const bright = await plain(app, 0.5);
  const ball = { primitive: 'sphere', radius: 0.3 } as const;
  const stage = await stageWith(app, [prop('a', ball, [0, 0, 0], bright)], [0, 0, 8], false, {
    surroundings: dark,
    lights: [],
    viewpoints: [
      { id: 'front', name: 'Front', eye: [0, 0, 8], target: [0, 0, 0], fov: 30, lensBend: 0 },
      { id: 'aside', name: 'Aside', eye: [2, 0, 8], target: [2, 0, 0], fov: 30, lensBend: 0 },
    ],
  });
  await openRoom(page, app, stage.id);
  await page.getByRole('button', { name: 'Handles' }).click();
  await page.getByRole('button', { name: 'Front', exact: true }).last().click();
  const stops = page.getByRole('list', { name: 'Viewpoints of the slow move' });
  await stops.getByRole('button', { name: 'Front' }).click();
  await stops.getByRole('button', { name: 'Aside' }).click();
  await page.getByLabel('Takes value').fill('8');
  await page.keyboard.press('Enter');
  await saved(page);
  expect((await stored(app, stage)).move).toEqual({ viewpoints: ['front', 'aside'], seconds: 8, closed: false });
  const green = async (x: number) => (await seenAt(page, stage, [x, 0, 0]))[1];
  await expect.poll(() => green(0)).toBeGreaterThan(150);
  await page.getByRole('button', { name: 'Show', exact: true }).click();
  // At its half it is aside: the ball, which stays, is as far to the left in the picture as the eye has gone.
  await openRoom(page, app, stage.id, '?clock=frozen&t=4');
  await page.getByRole('button', { name: 'Handles' }).click();
  await page.getByRole('button', { name: 'Front', exact: true }).last().click();
  await page.getByRole('button', { name: 'Show', exact: true }).click();
  await expect.poll(() => green(-2)).toBeGreaterThan(150);
  expect(await green(0)).toBeLessThan(20);
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await expect.poll(() => green(0)).toBeGreaterThan(150);

  // All of red, none of the others.
  await page.getByRole('button', { name: 'Optics', exact: true }).click();
  await page.getByRole('switch', { name: 'Grade' }).first().click();
  for (const axis of ['g', 'b']) {
    await page.getByLabel(`Slope ${axis}`).first().fill('0');
    await page.keyboard.press('Enter');
  }
  await expect.poll(() => green(0)).toBeLessThan(3);
  const [red] = await seenAt(page, stage, [0, 0, 0]);
  expect(Math.abs(red - shown(0.5))).toBeLessThan(3);
  await page.getByLabel('Saturation value').first().fill('0');
  await page.keyboard.press('Enter');
  // As grey as its luma.
  await expect.poll(async () => Math.abs((await green(0)) - 0.2126 * shown(0.5))).toBeLessThan(3);
  expect(await crowding(page)).toEqual([]);
  expect(await finds(page)).toEqual([]);
  await saved(page);
  expect((await stored(app, stage)).optics.grade).toEqual({
    slope: [1, 0, 0],
    offset: [0, 0, 0],
    power: [1, 1, 1],
    saturation: 0,
  });
});

test('shared copies are changed at once, until one is its own; scattered over another prop they stand on it', async ({
  page,
  app,
}) => {
  onwards(1700);
  const [bright, faint] = [await plain(app, 0.9), await plain(app, 0.2)];
  const stage = await stageWith(
    app,
    [
      prop('a', { primitive: 'box', size: [0.4, 0.4, 0.4] }, [0, 0, 0], bright),
      prop('hill', { primitive: 'sphere', radius: 0.7 }, [0, -3, 0], faint),
    ],
    [0, 0, 14],
    false,
    { surroundings: dark, lights: [] },
  );
  await openRoom(page, app, stage.id);
  await page.getByRole('button', { name: 'a', exact: true }).click();
  await page.getByRole('button', { name: 'Shared copy' }).click();
  await expect(page.getByText('Shares with a', { exact: true })).toBeVisible();
  expect(await crowding(page)).toEqual([]);
  const name = (await app.get<{ name: string }>(`/api/effects/${faint}`)).name;
  const dress = async (prop: string) => {
    await page.getByRole('combobox', { name: `${prop} wears` }).click();
    await page.getByRole('option', { name, exact: true }).click();
    await saved(page);
  };
  const worn = async () => Object.fromEntries((await stored(app, stage)).props.map((p) => [p.name, p.parts[0]?.effect]));
  await dress('a 2');
  expect(await worn()).toMatchObject({ a: faint, 'a 2': faint });
  await page.keyboard.press('Control+z');
  await saved(page);
  await expect.poll(worn).toMatchObject({ a: bright, 'a 2': bright });
  await page.getByRole('button', { name: 'Make it its own' }).click();
  await dress('a 2');
  expect(await worn()).toMatchObject({ a: bright, 'a 2': faint });

  await page.getByRole('button', { name: 'a', exact: true }).click();
  await page.getByRole('button', { name: 'Scatter', exact: true }).click();
  await page.getByLabel('How many value').fill('9');
  await page.keyboard.press('Enter');
  await page.getByRole('combobox', { name: 'Scatter on' }).click();
  await page.getByRole('option', { name: 'hill', exact: true }).click();
  await page.getByRole('button', { name: 'Scatter 9' }).click();
  await saved(page);
  const { props } = await stored(app, stage);
  const scattered = props.filter((p) => p.group !== null && p.id !== 'a');
  expect(scattered).toHaveLength(9);
  for (const { place, definition } of scattered) {
    // On the upper half of the ball, and of one definition.
    expect(Math.hypot(place[0], place[1] + 3, place[2])).toBeCloseTo(0.7, 1);
    expect(place[1]).toBeGreaterThan(-3);
    expect(definition).toBe('a');
  }
});

test('a PLY, and a glTF with its numbers beside it, are brought in as they are', async ({ page, app }) => {
  onwards(1710);
  const bright = await plain(app, 0.9);
  const stage = await stageWith(app, [prop('a', { primitive: 'sphere', radius: 0.2 }, [2.5, 0, 0], bright)], [0, 0, 7], false, {
    surroundings: dark,
  });
  await openRoom(page, app, stage.id);
  const ply =
    'ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\nelement face 2\nproperty list uchar int vertex_indices\nend_header\n-0.4 -0.4 0\n0.4 -0.4 0\n0.4 0.4 0\n-0.4 0.4 0\n3 0 1 2\n3 0 2 3\n';
  await page.getByLabel('Mesh file').setInputFiles({ name: 'pane.ply', mimeType: 'text/plain', buffer: Buffer.from(ply) });
  await expect(page.getByTestId('notice')).toContainText('pane.ply has 2 triangles');
  // A description of one triangle, as glTF 2.0 has it (3.7), with its numbers in another file.
  const numbers = Buffer.from(new Float32Array([-0.4, -0.4, 0, 0.4, -0.4, 0, 0, 0.4, 0]).buffer);
  const gltf = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0 }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    buffers: [{ byteLength: 36, uri: 'sail.bin' }],
    bufferViews: [{ buffer: 0, byteOffset: 0, byteLength: 36 }],
    accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [-0.4, -0.4, 0], max: [0.4, 0.4, 0] }],
  };
  const sail = { name: 'sail.gltf', mimeType: 'model/gltf+json', buffer: Buffer.from(JSON.stringify(gltf)) };
  await page.getByLabel('Mesh file').setInputFiles(sail);
  await expect(page.getByTestId('notice')).toContainText('It refers to "sail.bin": choose both together.');
  await page
    .getByLabel('Mesh file')
    .setInputFiles([sail, { name: 'sail.bin', mimeType: 'application/octet-stream', buffer: numbers }]);
  await expect(page.getByTestId('notice')).toContainText('sail.gltf has 1 triangle');
  await saved(page);
  const { props } = await stored(app, stage);
  expect(props.map((p) => p.name)).toEqual(['a', 'pane', 'sail']);

  // Too few vertices to paint: four triangles for each, with what has been painted carried over.
  await page.getByRole('button', { name: 'pane', exact: true }).click();
  await page.getByRole('combobox', { name: 'pane wears' }).click();
  await page.getByRole('option', { name: 'nothing', exact: true }).click();
  await page.getByRole('button', { name: 'Paint its vertices' }).click();
  await page.getByRole('radio', { name: 'x', exact: true }).click();
  await page.getByRole('button', { name: 'Fill', exact: true }).click();
  const mean = page.getByTestId('paint-mean');
  await expect(mean).toHaveText('0.50');
  for (const vertices of ['9', '25', '81']) {
    await page.getByRole('button', { name: 'Fill from' }).click();
    await page.getByRole('menuitem', { name: /^Subdivide/ }).click();
    await expect(page.getByText(`of ${vertices} vertices under the brush`)).toBeVisible();
  }
  await expect(mean).toHaveText('0.50');
  const { place } = props[1]!;
  await expect
    .poll(async () => Math.abs((await seenAt(page, stage, [place[0] + 0.22, place[1] + 0.03, place[2]]))[0] / 255 - 0.775))
    .toBeLessThan(0.03);
  await saved(page);
  const kept = await stored(app, stage);
  expect(Object.values(kept.assets).filter((asset) => asset.name === 'pane.glb')).toHaveLength(1);
});

test('a thin mesh with hardly any uv has swatches as it is seen: unrolled there would be next to nothing of it', async ({
  page,
  app,
}) => {
  onwards(1720);
  const [bright, other] = [await plain(app, 0.9), await plain(app, 0.1)];
  const rod =
    'v -0.5 -0.02 0\nv 0.5 -0.02 0\nv 0.5 0.02 0\nv -0.5 0.02 0\nvt 0.5 0.5\nvt 0.53 0.5\nvt 0.53 0.53\nvt 0.5 0.53\nf 1/1 2/2 3/3 4/4\n';
  const stage = await stageWith(app, [prop('a', { primitive: 'sphere', radius: 0.1 }, [2, 0, 0], other)], [0, 0, 5], false, {
    surroundings: dark,
  });
  await openRoom(page, app, stage.id);
  await page.getByLabel('Mesh file').setInputFiles({ name: 'rod.obj', mimeType: 'text/plain', buffer: Buffer.from(rod) });
  await expect(page.getByTestId('notice')).toContainText('rod.obj has 2 triangles');
  await page.getByRole('combobox', { name: 'rod wears' }).click();
  await page.getByRole('option', { name: (await app.effect(bright)).name, exact: true }).click();
  await saved(page);
  await page.goto(`${app.url}/effects/${bright}${OPEN}`);
  await furnished(page);
  const lit = () =>
    page
      .locator('[data-strand] canvas')
      .first()
      .evaluate((canvas: HTMLCanvasElement) => {
        const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
        return data.filter((v, k) => k % 4 === 0 && v > 200).length;
      });
  await expect.poll(lit).toBeGreaterThan(60);
});
