/** Places: what a pin and a swatch say of a point of the surface is what the shader has there. */
import { expect, test, type Page } from '@playwright/test';
import type { Leaf } from '../../src/core/ir/leaves.js';
import { bundleFor } from '../fixtures/bundle.js';
import { stageOf } from '../fixtures/stages.js';
import { effectOf } from '../fixtures/sheets.js';

const text = bundleFor(new URL('./placesPage.ts', import.meta.url));
declare const window: { page: typeof import('./placesPage.js') };

const PLACES: readonly Leaf[] = [
  ...(['position', 'worldPosition', 'normal', 'objectNormal', 'viewNormal', 'view', 'uv', 'uv1', 'vertexColour'] as const),
  ...(['facing', 'screen', 'eyeDepth', 'depthGap', 'depthGapRay', 'depthGapDown', 'behindPosition', 'propRandom'] as const),
  ...(['pivot', 'modelX', 'modelY', 'modelZ', 'eyeRight', 'eyeUp', 'eyeBack', 'eye', 'lens'] as const),
];
/** Those that a swatch, which looks from an eye of its own, has in common with the picture. */
const OF_THE_MESH: readonly Leaf[] = ['position', 'worldPosition', 'uv', 'uv1', 'vertexColour'];
/** Those that do not depend on the eye: light goes out to all sides. */
const OF_SPILL: readonly Leaf[] = ['position', 'worldPosition', 'normal', 'objectNormal', 'uv', 'uv1', 'vertexColour'];
const TIME = 0.7;

/** A sheet of cloth, bent a quarter of the way round, painted, with two sets of coordinates. */
function cloth() {
  const side = 24;
  const [position, normal, uv, uv1, colour, index]: number[][] = [[], [], [], [], [], []];
  for (let j = 0; j <= side; j++)
    for (let i = 0; i <= side; i++) {
      const [u, v] = [i / side, j / side];
      const turn = (u - 0.5) * 1.4;
      position!.push(Math.sin(turn), v - 0.5, Math.cos(turn) - 1);
      normal!.push(Math.sin(turn), 0, Math.cos(turn));
      uv!.push(u, v);
      uv1!.push(0.3 + 0.5 * v, 1 - u);
      colour!.push(u, 0.5 + 0.4 * v, u * v, 0.25 + 0.5 * u);
      if (i === side || j === side) continue;
      const at = j * (side + 1) + i;
      index!.push(at, at + 1, at + side + 2, at, at + side + 2, at + side + 1);
    }
  return { position, normal, uv, uv1, colour, index } as Record<string, number[]>;
}

const SHA = 'c'.repeat(64);
const half = Math.SQRT1_2;
const prop = (id: string, more: object) => ({
  ...stageOf().props[0]!,
  ...{ id, name: id, source: { asset: 'cloth' }, seed: 5 },
  parts: [{ part: 'all', effect: 'e-cloth', variant: null, overrides: {} }],
  ...more,
});
/** A point of the cloth at rest, by its coordinates. */
const pin = (id: string, on: string, u: number, v: number) => {
  const turn = (u - 0.5) * 1.4;
  return {
    ...{ id, prop: on, uv: [u, v] },
    ...{ position: [Math.sin(turn), v - 0.5, Math.cos(turn) - 1], normal: [Math.sin(turn), 0, Math.cos(turn)] },
  };
};
const stage = stageOf({
  props: [
    prop('front', { place: [-0.75, 1, 0.9], turn: [0, 0.13, 0, Math.sqrt(1 - 0.13 ** 2)], scale: [0.7, 0.9, 1.2] }),
    // Turned right round: its back is seen; and the other hand, whose faces stay outward.
    prop('back', { place: [0.75, 1, 0.9], turn: [0, half * Math.SQRT2, 0, 0], scale: [-0.8, 0.8, 0.8] }),
  ],
  viewpoints: [{ id: 'front', name: 'Front', eye: [0.2, 1.3, 3.4], target: [0, 1, 0.6], fov: 40, lensBend: 0 }],
  assets: { cloth: { sha256: SHA, name: 'cloth.glb', type: 'model/gltf-binary', size: 1 } },
  extra: { pins: [pin('A', 'front', 0.4, 0.55), pin('B', 'front', 0.62, 0.35), pin('C', 'back', 0.45, 0.6)] },
});

const sheet = (moves: boolean, alphaMode: string) =>
  effectOf(
    [
      { id: 'n', name: 'N', op: 'normal', options: { space: 'object' } },
      { id: 'u', name: 'U', op: 'uv', options: { channel: '1' } },
      { id: 'c', name: 'C', op: 'vertexColour' },
      { id: 't', name: 'T', op: 'time' },
      {
        id: 'w',
        name: 'W',
        op: 'formula',
        inputs: {
          a: { from: 'u' },
          b: { from: 't' },
          c: { from: 'c' },
          formula: { value: { text: '0.12 * sin(a.x * 9.0 + b) * (0.4 + c.y)' } },
        },
      },
      { id: 'm', name: 'M', op: 'multiply', inputs: { a: { from: 'n' }, b: { from: 'w' } } },
      { id: 'p', name: 'P', op: 'position' },
    ],
    { emission: { from: 'p' }, ...(moves ? { displacement: { from: 'm' } } : {}) },
    {
      id: 'e-cloth',
      finish: { alphaMode, sides: 'both', lighting: 'unlit', castsShadow: false, writesDepth: true, order: 0, alphaCutoff: 0.5 },
    },
  );

/** The value at a place between pixels: of the plane that fits those around it best. */
function fitted(around: number[][], [x, y]: [number, number]): number[] | null {
  const seen = around.filter((p) => p[5] === 1);
  if (seen.length < 20) return null;
  return [0, 1, 2].map((lane) => {
    // Least squares of v = a + b dx + c dy, by the normal equations.
    const sums = { n: 0, x: 0, y: 0, xx: 0, xy: 0, yy: 0, v: 0, xv: 0, yv: 0 };
    for (const p of seen) {
      const [dx, dy, v] = [p[0]! - x, p[1]! - y, p[2 + lane]!];
      sums.n++;
      sums.x += dx;
      sums.y += dy;
      sums.xx += dx * dx;
      sums.xy += dx * dy;
      sums.yy += dy * dy;
      sums.v += v;
      sums.xv += dx * v;
      sums.yv += dy * v;
    }
    const det = (a: number[][]) =>
      a[0]![0]! * (a[1]![1]! * a[2]![2]! - a[1]![2]! * a[2]![1]!) -
      a[0]![1]! * (a[1]![0]! * a[2]![2]! - a[1]![2]! * a[2]![0]!) +
      a[0]![2]! * (a[1]![0]! * a[2]![1]! - a[1]![1]! * a[2]![0]!);
    const { n, xx, xy, yy, v, xv, yv } = sums;
    const whole = det([
      [n, sums.x, sums.y],
      [sums.x, xx, xy],
      [sums.y, xy, yy],
    ]);
    return (
      det([
        [v, sums.x, sums.y],
        [xv, xx, xy],
        [yv, xy, yy],
      ]) / whole
    );
  });
}

async function open(page: Page, moves: boolean, alphaMode: string) {
  await page.goto('about:blank');
  await page.addScriptTag({ content: await text });
  await page.evaluate(
    ([s, e, mesh, sha, time]) => {
      const { index, ...rest } = mesh;
      const floats = Object.fromEntries(Object.entries(rest).map(([name, list]) => [name, Float32Array.from(list)]));
      const made = { ...floats, index: Uint32Array.from(index!), reduced: null, parts: [], images: [], about: {} };
      return window.page.set({ stage: s, effect: e, meshes: { [sha]: made as never }, time });
    },
    [stage, sheet(moves, alphaMode), cloth(), SHA, TIME] as const,
  );
}

for (const [moves, alphaMode] of [
  [false, 'blend'],
  [true, 'blend'],
  [true, 'opaque'],
] as const)
  test(`pins have the shader’s own places: ${moves ? 'moved' : 'at rest'}, ${alphaMode}, both sides`, async ({ page }) => {
    await open(page, moves, alphaMode);
    const cpu = await page.evaluate(([l, t]) => window.page.onCpu(l, t), [PLACES, TIME] as const);
    const swatch = await page.evaluate((l) => window.page.inSwatch(l), PLACES);
    const failures: string[] = [];
    for (const leaf of PLACES) {
      const places = cpu.map((c) => c.at);
      const gpu = await page.evaluate(([l, p, t]) => window.page.onGpu(l, p, t), [leaf, places, TIME] as const);
      cpu.forEach(({ at, values }, k) => {
        const shader = fitted(gpu[k]!, at);
        const own = values[leaf]!;
        if (!shader) return failures.push(`pin ${k}: no surface at ${at.join()}`);
        const size = Math.max(1, ...shader.map(Math.abs));
        own.slice(0, 3).forEach((v, lane) => {
          const far = Math.abs(v - shader[lane]!) / size;
          // What bends between two pixels is not a plane, and the depth behind is that of a pixel's middle.
          if (!(far < 0.01)) failures.push(`${leaf}.${'xyz'[lane]} at pin ${k}: ${v}, in the shader ${shader[lane]!}`);
        });
        if (!OF_THE_MESH.includes(leaf)) return;
        swatch[k]!.values[leaf]!.slice(0, 3).forEach((v, lane) => {
          // Its nearest point is at most a point away.
          if (!(Math.abs(v - own[lane]!) < 0.06))
            failures.push(`${leaf}.${'xyz'[lane]} in the swatch of pin ${k}: ${v}, not ${own[lane]!}`);
        });
      });
    }
    // The light is gathered at places of the same surface: those that the picture shows of its front.
    const points = await page.evaluate(([l, t]) => window.page.inSpill('front', l, t), [OF_SPILL, TIME] as const);
    const inside = points.filter(({ at: [x, y] }) => x > 3 && y > 3 && x < 317 && y < 197);
    const onGpu = (leaf: Leaf) =>
      page.evaluate(([l, p, t]) => window.page.onGpu(l, p, t), [leaf, inside.map((p) => p.at), TIME] as const);
    const depths = await onGpu('eyeDepth');
    let compared = 0;
    for (const leaf of OF_SPILL) {
      const gpu = await onGpu(leaf);
      inside.forEach(({ at, depth, values }, k) => {
        const [shader, seen] = [fitted(gpu[k]!, at), fitted(depths[k]!, at)];
        // Something nearer hides it, or its edge is too near.
        if (!shader || !seen || Math.abs(seen[0]! - depth) > 0.01) return;
        compared++;
        values[leaf]!.slice(0, 3).forEach((v, lane) => {
          if (!(Math.abs(v - shader[lane]!) < 0.02))
            failures.push(`${leaf}.${'xyz'[lane]} of the spill at ${at.join()}: ${v}, in the shader ${shader[lane]!}`);
        });
      });
    }
    expect(compared).toBeGreaterThan(40 * OF_SPILL.length);
    // Which side is seen, a swatch tells like the picture does.
    swatch.forEach((s, k) => {
      if (s.values.facing![0] !== cpu[k]!.values.facing![0]) failures.push(`side in the swatch of pin ${k}`);
    });
    expect(failures).toEqual([]);
    expect(cpu.map((c) => c.values.facing![0])).toEqual([1, 1, 0]);
  });
