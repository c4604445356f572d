/** Spill and haze on pixels, against their twins on the CPU, which are held to the integrals themselves. */
import type { Page } from '@playwright/test';
import { shareOf, type Capsule, type Vec } from '../../src/core/optics/emitters.js';
import { inHaze } from '../../src/core/optics/haze.js';
import type { Stage } from '../../src/core/scene/stage.js';
import { expect, onCanvas, openBench, pixelsAt, test } from './app.js';
import { OPEN, effect, grey, onwards, plain, prop, seenAt, shown, stageWith, v } from './panes.js';

test.use({ viewport: { width: 1280, height: 800 } });

/** A plane that looks up, seen from above: white, matt, mirroring nothing. */
const white = (app: Parameters<typeof effect>[0]) =>
  effect(app, [grey('c', 1)], { baseColour: { from: 'c' }, roughness: v(1), reflectance: v(0) }, { lighting: 'lit' });
const LYING: [number, number, number, number] = [-Math.SQRT1_2, 0, 0, Math.SQRT1_2];
const DARK: Partial<Stage> = {
  lights: [],
  surroundings: { asset: null, rgb: [0, 0, 0], strength: 0, turn: 0, seen: false },
  spill: { on: true, strength: 1 },
};
/** IEC 61966-2-1. */
const linear = (byte: number) => (byte / 255 <= 0.04045 ? byte / 255 / 12.92 : ((byte / 255 + 0.055) / 1.055) ** 2.4);
const greyAt = async (page: Page, stage: Stage, point: [number, number, number]) => (await seenAt(page, stage, point))[1];

test('a tube lights the floor as the sum over its surface says, and two props as both of them; none lights itself', async ({
  page,
  app,
}) => {
  onwards(820);
  const floor = await white(app);
  const glow = await plain(app, 3);
  const lit = await effect(
    app,
    [grey('c', 1), grey('e', 0.25)],
    { baseColour: { from: 'c' }, emission: { from: 'e' }, roughness: v(1), reflectance: v(0) },
    { lighting: 'lit' },
  );
  // Along x, 40 cm above the floor.
  const turn: [number, number, number, number] = [0, 0, Math.SQRT1_2, Math.SQRT1_2];
  const stage = await stageWith(
    app,
    [
      prop('a', { primitive: 'plane', size: [5, 4] }, [0, 0, 0], floor, { turn: LYING }),
      prop('tube', { primitive: 'tube', radius: 0.04, length: 1.2 }, [0, 0.4, -0.8], glow, { turn }),
      prop('ball', { primitive: 'sphere', radius: 0.15 }, [0.9, 0.35, 0.8], lit),
    ],
    [0, 5, 5],
    false,
    DARK,
  );
  await openBench(page, app, floor, OPEN);
  const tube: Capsule = { kind: 'capsule', from: [-0.56, 0.4, -0.8], to: [0.56, 0.4, -0.8], radius: 0.04, ends: [1, 1] };
  const ball: Capsule = { kind: 'capsule', from: [0.9, 0.35, 0.8], to: [0.9, 0.35, 0.8], radius: 0.15, ends: [1, 1] };
  const points: [number, number, number][] = [
    [0, 0, 0],
    [-0.6, 0, -0.2],
    [-1.2, 0, 0.4],
    [0.6, 0, 0.3],
    [1.4, 0, 1.1],
    [-0.3, 0, 1.2],
  ];
  for (const point of points) {
    const exact = 3 * shareOf(tube, point as Vec, [0, 1, 0]) + 0.25 * shareOf(ball, point as Vec, [0, 1, 0]);
    expect(exact).toBeGreaterThan(0.004);
    await expect.poll(async () => Math.abs((await greyAt(page, stage, point)) / shown(exact) - 1)).toBeLessThan(0.07);
  }
  // A ball that glows is as bright as it glows, lit by the tube alone: its own light does not fall on it.
  const top: [number, number, number] = [0.9, 0.5, 0.8];
  const own = 0.25 + 3 * shareOf(tube, top, [0, 1, 0]);
  expect(Math.abs((await greyAt(page, stage, [0.9, 0.497, 0.82])) - shown(own))).toBeLessThan(6);
});

test('the light on a floor follows the flicker of what throws it, frame by frame', async ({ page, app }) => {
  onwards(840);
  const floor = await white(app);
  // Between 1 and 5, 2.3 times a second.
  const flickering = await effect(
    app,
    [
      { id: 't', name: 'T', op: 'time' },
      {
        id: 'e',
        name: 'E',
        op: 'formula',
        inputs: { a: { from: 't' }, formula: v({ text: 'vec3(3.0 + 2.0 * sin(a * 14.45))' }) },
      },
    ],
    { emission: { from: 'e' } },
  );
  const stage = await stageWith(
    app,
    [
      prop('a', { primitive: 'plane', size: [5, 4] }, [0, 0, 0], floor, { turn: LYING }),
      prop('ball', { primitive: 'sphere', radius: 0.2 }, [0, 0.5, 0], flickering),
    ],
    [0, 5, 5],
    false,
    DARK,
  );
  await openBench(page, app, floor, OPEN);
  const ball: Capsule = { kind: 'capsule', from: [0, 0.5, 0], to: [0, 0.5, 0], radius: 0.2, ends: [1, 1] };
  const point: [number, number, number] = [0.5, 0, 0.6];
  for (let frame = 0; frame < 12; frame++) {
    const exact = (3 + 2 * Math.sin((frame / 30) * 14.45)) * shareOf(ball, point as Vec, [0, 1, 0]);
    await expect
      .poll(async () => Math.abs((await greyAt(page, stage, point)) / shown(exact) - 1), { message: `frame ${frame}` })
      .toBeLessThan(0.05);
    await page.getByRole('button', { name: 'On one frame' }).click();
  }
});

test('what is far is hazy: opaque, see-through and added surfaces as their way through it says', async ({ page, app }) => {
  onwards(830);
  const [wall, pane, added] = [
    await plain(app, 0.5),
    await effect(app, [grey('c', 0.8)], { emission: { from: 'c' }, opacity: v(0.5) }, { alphaMode: 'blend', writesDepth: false }),
    await effect(app, [grey('c', 0.3)], { emission: { from: 'c' } }, { alphaMode: 'add', writesDepth: false }),
  ];
  const haze = { rgb: [0.1, 0.1, 0.1] as [number, number, number], density: 0.08, falls: 3, from: 0 };
  const square = { primitive: 'plane' as const, size: [2, 2] as [number, number] };
  const stage = await stageWith(
    app,
    [
      prop('a', { primitive: 'plane', size: [9, 4] }, [0, 0, -2], wall),
      prop('b', square, [-1.2, 0, 0], pane),
      prop('c', square, [1.2, 0, 0], added),
    ],
    [0, 0.6, 9],
    false,
    { ...DARK, haze },
  );
  await openBench(page, app, wall, OPEN);
  const eye: Vec = [0, 0.6, 9];
  const through = (light: number, point: Vec) => inHaze(haze, [light, light, light], eye, point)[0];
  const lost = (light: number, point: Vec) => through(light, point) - through(0, point);
  const behind = (x: number): Vec => [x * (11 / 9), 0.6 - 0.6 * (11 / 9), -2];
  const expected: [[number, number, number], number][] = [
    [[0, 1, -2], through(0.5, [0, 1, -2])],
    [[-1.2, 0, 0], 0.5 * through(0.8, [-1.2, 0, 0]) + 0.5 * through(0.5, behind(-1.2))],
    [[1.2, 0, 0], lost(0.3, [1.2, 0, 0]) + through(0.5, behind(1.2))],
  ];
  for (const [point, light] of expected)
    await expect.poll(async () => Math.abs((await greyAt(page, stage, point)) - shown(light))).toBeLessThan(2);
  // Over the wall the sky: what is behind all is black, and takes on the haze the more the lower one looks.
  const [low, high] = [await greyAt(page, stage, [4.6, -1.8, -2]), await greyAt(page, stage, [4.6, 2, -2])];
  expect(low).toBeGreaterThan(high);
});

test('while it moves, a shadow is sharp at what stands on the floor and as soft under what hangs as the lamp’s disc makes it', async ({
  page,
  app,
}) => {
  onwards(860);
  const floor = await white(app);
  const casts = await effect(app, [grey('c', 0)], { emission: { from: 'c' } }, { castsShadow: true });
  const HANGS = 2;
  const key = { id: 'key', name: 'Key', kind: 'key', place: [0, 6, 0], target: [0, 0, 0], rgb: [1, 1, 1] } as const;
  const stage = await stageWith(
    app,
    [
      prop('a', { primitive: 'plane', size: [5, 4] }, [0, 0, 0], floor, { turn: LYING }),
      prop('hangs', { primitive: 'box', size: [1, 0.02, 1] }, [-0.8, HANGS + 0.01, 0], casts),
      prop('stands', { primitive: 'box', size: [0.6, 0.1, 1] }, [0.8, 0.05, 0], casts),
    ],
    [0, 1.2, 3.2],
    false,
    { ...DARK, lights: [{ ...key, intensity: 0.8, shadow: true, drivenBy: null }] as unknown as Stage['lights'] },
  );
  await openBench(page, app, floor, OPEN);
  /** The share of the lamp that is seen from a line along an edge, in the mean. */
  const seen = async (x: number) => {
    const points = await Promise.all(
      Array.from({ length: 40 }, (_, k) => onCanvas(page, stage, 'front', [x, 0, -0.3 + k * 0.015])),
    );
    const bytes = await pixelsAt(page, points);
    return bytes.reduce((sum, [, g]) => sum + linear(g), 0) / bytes.length / 0.8;
  };
  // What hides a disc of radius 1 up to a straight edge at x: its lit segment (geometry of a circle).
  const open = (x: number) => (Math.abs(x) >= 1 ? Number(x > 0) : 0.5 + (x * Math.sqrt(1 - x * x) + Math.asin(x)) / Math.PI);
  // The lamp's disc has a radius of 0.02 at each metre.
  const half = HANGS * 0.02;
  await expect.poll(async () => Math.abs((await seen(0)) - 1)).toBeLessThan(0.03);
  for (const x of [-1.5, -0.75, -0.5, -0.25, 0, 0.25, 0.5, 0.75, 1.5]) {
    const is = await seen(-0.3 + x * half);
    expect(Math.abs(is - open(x)), `at ${x} of the soft edge: ${is}`).toBeLessThan(0.08);
  }
  // A box that stands on the floor has an edge as fine as the lamp's picture is: two texels of it.
  const texel = 8 / 2048;
  expect(await seen(0.5 - 3 * texel)).toBeGreaterThan(0.97);
  // The open floor does not lie in its own shadow.
  expect(await seen(0.3)).toBeGreaterThan(0.97);
});
