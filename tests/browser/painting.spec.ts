/** Vertex paint, by hand in the Stage room: filled, brushed, taken back, kept, read by an effect, and saved as a mesh. On pixels and numbers. */
import { readFileSync } from 'node:fs';
import validator from 'gltf-validator';
import type { Mesh } from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import type { Page } from '@playwright/test';
import type { Stage } from '../../src/core/scene/stage.js';
import { expect, furnished, onCanvas, saved, stageCanvas, test, type Served } from './app.js';
import { finds } from './axe.js';
import { crowding } from './boxes.js';
import { effect, grey, onwards, prop, seenAt, stageWith, v } from './panes.js';

test.use({ viewport: { width: 1280, height: 800 } });

const openRoom = async (page: Page, app: Served, stage: Stage, query = '?clock=frozen') => {
  await page.goto(`${app.url}/stages/${stage.id}${query}`);
  await furnished(page);
};

/** Moves along x by its red paint, a metre a second: at its foot not at all, where it is 1 by all of the time. */
const swaying = (app: Served) =>
  effect(
    app,
    [
      grey('c', 0.8),
      { id: 'p', name: 'Paint', op: 'vertexColour' },
      { id: 't', name: 'Time', op: 'time' },
      { id: 's', name: 'Way', op: 'multiply', inputs: { a: { from: 'p', part: 'r' }, b: { from: 't' } } },
      { id: 'd', name: 'Offset', op: 'join', inputs: { x: { from: 's' }, y: v(0), z: v(0) } },
    ],
    { emission: { from: 'c' }, displacement: { from: 'd' } },
    { sides: 'both' },
    { loop: null },
  );

/** The pointer to where a point of the stage is seen. */
async function pointAt(page: Page, stage: Stage, point: [number, number, number]): Promise<void> {
  const box = (await stageCanvas(page).boundingBox())!;
  const [x, y] = await onCanvas(page, stage, 'front', point);
  await page.mouse.move(box.x + x, box.y + y);
}

test('a frond is painted from root to tip: brushed, taken back, kept; then its tip moves and its root does not', async ({
  page,
  app,
}) => {
  onwards(1500);
  const sway = await swaying(app);
  const stage = await stageWith(app, [prop('a', { primitive: 'plane', size: [1, 2] }, [0, 0, 0], sway)], [0, 0, 7], false);
  await openRoom(page, app, stage);
  await page.getByRole('button', { name: 'Paint its vertices' }).click();
  await expect(page.getByText('vertices under the brush')).toBeVisible();
  // As nobody has painted it: 1 everywhere.
  await expect.poll(() => seenAt(page, stage, [0.2, -0.9, 0])).toEqual([255, 255, 255]);
  await page.getByRole('button', { name: 'Fill', exact: true }).click();
  const at = async (point: [number, number, number]) => (await seenAt(page, stage, point))[0];
  await expect.poll(() => at([0.2, -0.9, 0])).toBeLessThan(20);
  // What is seen is the number: from 0 at the foot to 1 at the top, an even ramp.
  for (const y of [-0.75, -0.25, 0.25, 0.75]) expect(Math.abs((await at([0.22, y, 0])) / 255 - (y + 1) / 2)).toBeLessThan(0.02);
  expect(await crowding(page)).toEqual([]);
  expect(await finds(page)).toEqual([]);

  // The ruler beside it: its foot is dragged to the middle, and what is below is 0.
  const foot = page.getByRole('button', { name: 'Where the fill is 0' });
  await foot.hover();
  await page.mouse.down();
  await pointAt(page, stage, [-0.5, 0, 0]);
  await page.mouse.up();
  await expect(page.getByLabel('Fill from')).toHaveValue('0');
  await page.getByRole('button', { name: 'Fill', exact: true }).click();
  await expect.poll(async () => Math.abs((await at([0.22, 0.5, 0])) / 255 - 0.5)).toBeLessThan(0.02);
  expect(await at([0.22, -0.3, 0])).toBeLessThan(3);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => Math.abs((await at([0.22, 0.5, 0])) / 255 - 0.75)).toBeLessThan(0.02);

  // A stroke across, of what the brush is set to: 0.6 of 1 in its middle.
  await pointAt(page, stage, [-0.2, -0.5, 0]);
  await page.mouse.down();
  for (const x of [-0.1, 0, 0.1, 0.2]) await pointAt(page, stage, [x, -0.5, 0]);
  await page.mouse.up();
  await expect(page.getByTestId('under-brush')).toContainText('0.85');
  await page.mouse.move(300, 20);
  await expect.poll(() => at([0.03, -0.5, 0])).toBeGreaterThan(0.82 * 255);
  expect(Math.abs((await at([0.03, -0.5, 0])) / 255 - 0.85)).toBeLessThan(0.02);
  await page.keyboard.press('Control+z');
  await expect.poll(() => at([0.03, -0.5, 0])).toBeLessThan(0.3 * 255);
  // The right button takes away: nothing is left of a quarter.
  await pointAt(page, stage, [0, -0.5, 0]);
  await page.mouse.down({ button: 'right' });
  await page.mouse.up({ button: 'right' });
  await page.mouse.move(300, 20);
  await expect.poll(() => at([0.03, -0.5, 0])).toBeLessThan(5);
  await page.keyboard.press('Control+z');
  await expect.poll(() => at([0.03, -0.5, 0])).toBeGreaterThan(50);

  // A name of its own; and how it is read.
  await page.getByRole('button', { name: 'Channel R, red' }).click();
  await page.getByLabel('Name of the channel R').fill('sway');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Channel R, sway' })).toBeVisible();
  await saved(page);
  const stored = (await app.get<Stage>(`/api/stages/${stage.id}`)).props[0]!;
  expect(stored.channels).toEqual(['sway', 'green', 'blue', 'alpha']);
  expect(stored.paint).not.toBeNull();

  // Loaded again, with the time on: the tip has gone by what it was painted, the root stays.
  await openRoom(page, app, stage, '?clock=frozen&t=0.6');
  const lit = (point: [number, number, number]) => at(point).then((g) => g > 150);
  await expect.poll(() => lit([0.9, 0.95, 0])).toBe(true);
  expect(await lit([-0.4, 0.95, 0])).toBe(false);
  expect(await lit([-0.4, -0.95, 0])).toBe(true);
  expect(await lit([0.9, -0.95, 0])).toBe(false);
});

test('a painted prop is saved as a mesh that other tools read: COLOR_0 holds the same numbers', async ({ page, app }) => {
  onwards(1520);
  const sway = await swaying(app);
  const stage = await stageWith(app, [prop('a', { primitive: 'plane', size: [1, 2] }, [0, 0, 0], sway)], [0, 0, 7], false);
  await openRoom(page, app, stage);
  await page.getByRole('button', { name: 'Paint its vertices' }).click();
  await page.getByRole('button', { name: 'Fill', exact: true }).click();
  await expect(page.getByTestId('paint-mean')).toHaveText('0.50');
  await page.getByRole('button', { name: 'Fill from' }).click();
  const download = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: /^Save as a mesh/ }).click();
  const file = await download;
  expect(file.suggestedFilename()).toBe('a.glb');
  const bytes = new Uint8Array(readFileSync(await file.path()));
  const report = await validator.validateBytes(bytes);
  expect(report.issues.numErrors).toBe(0);
  // Read by another library.
  const { scene } = await new GLTFLoader().parseAsync(bytes.buffer, '');
  const geometry = (scene.children[0] as Mesh).geometry;
  const [position, colour] = [geometry.getAttribute('position'), geometry.getAttribute('color')];
  expect(colour.count).toBe(65 * 65);
  for (let k = 0; k < colour.count; k++) {
    expect(Math.abs(colour.getX(k) - (position.getY(k) + 1) / 2)).toBeLessThan(1 / 65535);
    expect([colour.getY(k), colour.getZ(k), colour.getW(k)]).toEqual([1, 1, 1]);
  }
});

test('other ways to fill: along the height from the Bench, two points, vertices, a strand, openness; an effect that is not made for it', async ({
  page,
  app,
}) => {
  onwards(1540);
  const sway = await swaying(app);
  const stage = await stageWith(app, [prop('a', { primitive: 'plane', size: [1, 2] }, [0, 0, 0], sway)], [0, 0, 7], false);
  const painted = async () => (await app.get<Stage>(`/api/stages/${stage.id}`)).props[0]!.paint;
  await page.goto(`${app.url}/effects/${sway}?clock=frozen`);
  await furnished(page);
  await page.getByRole('tab', { name: /Advice/ }).click();
  await page.getByRole('button', { name: 'Fill along the height' }).click();
  await saved(page);
  await expect.poll(painted).not.toBeNull();
  await openRoom(page, app, stage);
  await page.getByRole('button', { name: 'Paint its vertices' }).click();
  const mean = page.getByTestId('paint-mean');
  await expect(mean).toHaveText('0.50');
  const at = async (point: [number, number, number]) => (await seenAt(page, stage, point))[0] / 255;
  await expect.poll(async () => Math.abs((await at([0.2, 0.5, 0])) - 0.75)).toBeLessThan(0.02);

  // From left to right, by two presses.
  await page.getByRole('radio', { name: 'two points' }).click();
  const press = async (point: [number, number, number]) => {
    await pointAt(page, stage, point);
    await page.mouse.down();
    await page.mouse.up();
  };
  await press([-0.4, 0, 0]);
  await press([0.4, 0, 0]);
  await page.mouse.move(300, 20);
  await expect.poll(async () => Math.abs((await at([0.2, -0.9, 0])) - 0.75)).toBeLessThan(0.03);

  await page.getByRole('button', { name: 'Fill from' }).click();
  await page.getByRole('menuitem', { name: /^Openness/ }).click();
  // Nothing stands over a sheet.
  await expect(mean).toHaveText('1.00');
  await page.getByRole('button', { name: 'Invert' }).click();
  await expect(mean).toHaveText('0.00');
  await page.getByRole('radio', { name: 'vertices' }).click();
  await press([0, 0, 0]);
  await expect(page.getByText('1 picked')).toBeVisible();
  await page.getByRole('button', { name: 'Set', exact: true }).click();
  await page.mouse.move(300, 20);
  // One vertex of thousands; without its mark, which the brush takes away.
  await page.getByRole('radio', { name: 'brush' }).click();
  await expect.poll(() => at([0, 0, 0])).toBeGreaterThan(0.5);
  await expect.poll(() => at([0.05, 0.05, 0])).toBeLessThan(0.02);
  await page.getByRole('button', { name: 'Fill from' }).click();
  await page.getByRole('menuitem', { name: 'A strand of what it wears' }).press('ArrowRight');
  // Time, which stands still at 0.
  await page.getByRole('menuitem', { name: 'Time', exact: true }).press('Enter');
  await expect.poll(() => at([0, 0, 0])).toBeLessThan(0.02);
  await page.getByRole('button', { name: 'Fill from' }).click();
  await page.getByRole('menuitem', { name: /^Subdivide/ }).click();
  await expect(page.getByText('16,641')).toBeVisible();
});

test('by distance, by curvature, by chance; mirrored, and with a pen that is pressed half', async ({ page, app }) => {
  onwards(1560);
  const bright = await effect(app, [grey('c', 0.8)], { emission: { from: 'c' } }, { sides: 'both' });
  const stage = await stageWith(app, [prop('a', { primitive: 'plane', size: [2, 2] }, [0, 0, 0], bright)], [0, 0, 6], false);
  await openRoom(page, app, stage);
  await page.getByRole('button', { name: 'Paint its vertices' }).click();
  await expect(page.getByText('vertices under the brush')).toBeVisible();
  const at = async (x: number, y: number) => (await seenAt(page, stage, [x, y, 0]))[0] / 255;
  const fill = async (name: RegExp) => {
    await page.getByRole('button', { name: 'Fill from' }).click();
    await page.getByRole('menuitem', { name }).click();
  };
  // Within a cell of the sheet, where no side is drawn.
  const cell = 2 / 64;
  const is = (x: number, y: number, value: number) =>
    expect
      .poll(async () => Math.abs((await at((Math.floor(x / cell) + 0.5) * cell, (Math.floor(y / cell) + 0.5) * cell)) - value))
      .toBeLessThan(0.03);
  // From the middle: 1 at a metre, half of the sheet's side.
  await fill(/^Distance/);
  await is(0.5, 0, 0.5);
  await is(0, -0.25, 0.25);
  await is(0.6, 0.6, Math.hypot(0.6, 0.6));
  // A sheet is neither hollow nor ridged.
  await fill(/^Curvature/);
  await is(0.5, 0, 0.5);
  await is(-0.3, 0.4, 0.5);
  // All of it hangs together: one value, and another at the next throw.
  await fill(/^A random value/);
  const mean = page.getByTestId('paint-mean');
  await expect(mean).not.toHaveText('0.50');
  const first = Number(await mean.textContent());
  await is(0.6, 0.6, first);
  await is(-0.6, -0.2, first);
  await fill(/^A random value/);
  await expect(mean).not.toHaveText(first.toFixed(2));

  // From 0 everywhere, a mirrored press left of the middle.
  await fill(/^Distance/);
  for (const name of ['Invert', 'Smooth all']) await page.getByRole('button', { name }).click();
  const emptied = async () => {
    await page.getByRole('radio', { name: 'set', exact: true }).click();
    await page.getByLabel('Value value').fill('0');
    await page.keyboard.press('Enter');
  };
  await emptied();
  await page.getByLabel('Radius value').fill('9');
  await page.keyboard.press('Enter');
  for (const [label, value] of [
    ['Strength value', '1'],
    ['Falloff value', '0'],
  ] as const) {
    await page.getByLabel(label).fill(value);
    await page.keyboard.press('Enter');
  }
  await pointAt(page, stage, [0, 0, 0]);
  await page.mouse.down();
  await page.mouse.up();
  await expect(mean).toHaveText('0.00');
  await page.getByLabel('Value value').fill('1');
  await page.keyboard.press('Enter');
  await page.getByLabel('Radius value').fill('0.2');
  await page.keyboard.press('Enter');
  await page.getByRole('switch', { name: 'Mirrored across x' }).click();
  await pointAt(page, stage, [-0.6, 0.3, 0]);
  await page.mouse.down();
  await page.mouse.up();
  await page.mouse.move(300, 20);
  await is(-0.62, 0.32, 1);
  await is(0.62, 0.32, 1);
  await is(0, 0.3, 0);
  // A pen, pressed half, adds half of what it adds.
  await page.getByRole('radio', { name: 'add', exact: true }).click();
  const box = (await stageCanvas(page).boundingBox())!;
  const [x, y] = await onCanvas(page, stage, 'front', [-0.6, -0.4, 0]);
  const pen = await page.context().newCDPSession(page);
  for (const type of ['mouseMoved', 'mousePressed', 'mouseReleased'] as const)
    await pen.send('Input.dispatchMouseEvent', {
      ...{ type, x: box.x + x, y: box.y + y, pointerType: 'pen', force: type === 'mousePressed' ? 0.5 : 0 },
      ...(type === 'mouseMoved' ? {} : { button: 'left' as const, clickCount: 1 }),
    });
  await page.mouse.move(300, 20);
  await is(-0.62, -0.42, 0.5);
  await is(0.62, -0.42, 0.5);
});

test.describe('without the server', () => {
  // What keeps the application in the browser.
  test.use({ serviceWorkers: 'allow' });
  test('strokes made while the server does not answer are kept, and stored when it does', async ({ page, own }) => {
    onwards(1580);
    const bright = await effect(own, [grey('c', 0.8)], { emission: { from: 'c' } }, { sides: 'both' });
    const stage = await stageWith(own, [prop('a', { primitive: 'plane', size: [1, 2] }, [0, 0, 0], bright)], [0, 0, 7], false);
    await openRoom(page, own, stage);
    await page.getByRole('button', { name: 'Paint its vertices' }).click();
    await expect(page.getByText('vertices under the brush')).toBeVisible();
    await page.evaluate(() => navigator.serviceWorker.ready.then(() => undefined));
    await own.kill();
    await page.getByRole('button', { name: 'Fill', exact: true }).click();
    await expect(page.getByTestId('paint-mean')).toHaveText('0.50');
    await page.getByRole('button', { name: 'Invert' }).click();
    await expect(page.getByTestId('saved')).toHaveAttribute('data-state', 'unreachable');
    await own.start();
    await saved(page);
    // A page of its own knows nothing but what the server has.
    await openRoom(page, own, stage);
    await page.getByRole('button', { name: 'Paint its vertices' }).click();
    await expect.poll(async () => (await seenAt(page, stage, [0.2, 0.5, 0]))[0]).toBeLessThan(0.28 * 255);
    expect((await seenAt(page, stage, [0.2, -0.5, 0]))[0]).toBeGreaterThan(0.72 * 255);
  });
});
