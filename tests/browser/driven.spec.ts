/** Lights that an effect drives, by hand: a lamp is added, follows a flicker, and wall and tube pulse together. On pixels. */
import type { Stage } from '../../src/core/scene/stage.js';
import { expect, openBench, saved, test } from './app.js';
import { crowding } from './boxes.js';
import { OPEN, effect, grey, onwards, prop, seenAt, stageWith, v } from './panes.js';

test.use({ viewport: { width: 1280, height: 800 } });
const linear = (byte: number) => (byte / 255 <= 0.04045 ? byte / 255 / 12.92 : ((byte / 255 + 0.055) / 1.055) ** 2.4);
const surroundings = { asset: null, rgb: [0, 0, 0], strength: 0, turn: 0, seen: false } as Stage['surroundings'];

test('a lamp follows a tube: both pulse alike, frame by frame; another seed, another pulse; one step takes it back', async ({
  page,
  app,
}) => {
  onwards(960);
  const wall = await effect(
    app,
    [grey('c', 1)],
    { baseColour: { from: 'c' }, roughness: v(1), reflectance: v(0) },
    { lighting: 'lit' },
  );
  // From a seed of its own, 1.7 times a second; as bright as a screen shows.
  const tube = await effect(
    app,
    [
      { id: 't', name: 'Time', op: 'time' },
      { id: 'own', name: 'Own', op: 'propRandom' },
      {
        id: 'pulse',
        name: 'Pulse',
        op: 'formula',
        inputs: { a: { from: 't' }, b: { from: 'own' }, formula: v({ text: '0.5 + 0.4 * sin(a * 10.7 + b * 6.28)' }) },
      },
      { id: 'hue', name: 'Hue', op: 'multiply', inputs: { a: { from: 'pulse' }, b: v([1, 1, 1]) } },
    ],
    { emission: { from: 'hue' } },
  );
  const stage = await stageWith(
    app,
    [
      prop('a', { primitive: 'plane', size: [6, 4] }, [0, 0, 0], wall),
      prop('tube', { primitive: 'box', size: [0.4, 0.4, 0.4] }, [-1.4, 0, 0.4], tube, { seed: 7 }),
    ],
    [0, 0, 7],
    false,
    { surroundings, lights: [] },
  );
  await openBench(page, app, tube, OPEN);
  await page.getByRole('button', { name: /^Stage settings:/ }).click();
  await page.getByRole('button', { name: 'Add a light' }).click();
  await page.getByRole('menuitem', { name: 'Point light' }).click();
  await page.getByRole('combobox', { name: /^Point light follows/ }).click();
  await page.getByRole('option', { name: /^tube,/ }).click();
  await expect(page.getByRole('combobox', { name: 'Point light strand: Hue' })).toBeVisible();
  expect(await crowding(page)).toEqual([]);
  await saved(page);
  const stored = async () => (await app.get<Stage>(`/api/stages/${stage.id}`)).lights[0]!;
  expect(await stored()).toMatchObject({
    ...{ kind: 'point', intensity: 1 },
    drivenBy: { effect: tube, variant: null, strand: 'hue', scale: 1, seed: 7 },
  });
  await page.keyboard.press('Escape');

  const at = async (point: [number, number, number]) => linear((await seenAt(page, stage, point))[1]);
  const step = () => page.getByRole('button', { name: 'On one frame' }).click();
  /** How bright wall and tube are, over some frames. */
  const watched = async () => {
    const both: { wall: number; tube: number }[] = [];
    for (let frame = 0; frame < 10; frame++) {
      both.push({ wall: await at([0.9, 0.7, 0]), tube: await at([-1.4, 0, 0.6]) });
      await step();
    }
    return both;
  };
  await expect.poll(() => at([0.9, 0.7, 0])).toBeGreaterThan(0.02);
  const together = await watched();
  const levels = together.map((b) => b.tube);
  expect(Math.max(...levels) / Math.min(...levels)).toBeGreaterThan(3);
  // A lamp without a floor of its own: the wall is as bright as the tube, times one number.
  const share = together.map((b) => b.wall / b.tube);
  expect(Math.max(...share) / Math.min(...share)).toBeLessThan(1.12);

  // As another prop would have it, it pulses at other moments.
  await page.getByRole('button', { name: /^Stage settings:/ }).click();
  await page.getByRole('button', { name: /^Point light: settings/ }).click();
  await page.getByLabel('Point light seed').fill('3');
  await page.keyboard.press('Enter');
  await saved(page);
  await page.keyboard.press('Escape');
  const apart = (await watched()).map((b) => b.wall / b.tube);
  expect(Math.max(...apart) / Math.min(...apart)).toBeGreaterThan(1.5);
  await page.keyboard.press('Control+z');
  await saved(page);
  expect((await stored()).drivenBy!.seed).toBe(7);
  // It shines as it is again where it follows nothing.
  await page.getByRole('button', { name: /^Stage settings:/ }).click();
  await page.getByRole('button', { name: /^Point light: settings/ }).click();
  await page.getByRole('combobox', { name: /^Point light follows/ }).click();
  await page.getByRole('option', { name: 'Nothing' }).click();
  await saved(page);
  expect((await stored()).drivenBy).toBeNull();
  await page.getByRole('button', { name: 'Delete Point light' }).click();
  await expect.poll(() => at([0.9, 0.7, 0])).toBe(0);
});
