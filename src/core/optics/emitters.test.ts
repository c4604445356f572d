/** Against the integral over the emitting surface, by points on it: the definition of irradiance. */
import fc from 'fast-check';
import { ballShare, shareOf, type Capsule, type Emitter, type Panel, type Vec } from './emitters.js';

type Patch = { readonly at: Vec; readonly normal: Vec; readonly area: number };
const dot = (a: Vec, b: Vec) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

/** The sum over patches of cos cos' dA / (pi d^2). */
function integral(patches: readonly Patch[], point: Vec, normal: Vec): number {
  let sum = 0;
  for (const { at, normal: n, area } of patches) {
    const way = at.map((v, k) => v - point[k]!) as unknown as Vec;
    const squared = dot(way, way);
    const [here, there] = [dot(way, normal), -dot(way, n)];
    if (here > 0 && there > 0) sum += (here * there * area) / (Math.PI * squared * squared);
  }
  return sum;
}

function ball(centre: Vec, radius: number, of = 120): Patch[] {
  return Array.from({ length: of * of }, (_, k): Patch => {
    const z = 1 - (2 * (Math.floor(k / of) + 0.5)) / of;
    const turn = (2 * Math.PI * ((k % of) + 0.5)) / of;
    const r = Math.sqrt(1 - z * z);
    const normal: Vec = [r * Math.cos(turn), r * Math.sin(turn), z];
    return {
      at: normal.map((v, j) => centre[j]! + radius * v) as unknown as Vec,
      normal,
      area: (4 * Math.PI * radius ** 2) / of ** 2,
    };
  });
}

/** A capsule along x about the origin. */
function capsule(half: number, radius: number): Patch[] {
  const [rings, round] = [400, 96];
  const side = Array.from({ length: rings * round }, (_, k): Patch => {
    const x = -half + (2 * half * (Math.floor(k / round) + 0.5)) / rings;
    const turn = (2 * Math.PI * ((k % round) + 0.5)) / round;
    const normal: Vec = [0, Math.cos(turn), Math.sin(turn)];
    return { at: [x, radius * normal[1], radius * normal[2]], normal, area: (2 * half * 2 * Math.PI * radius) / (rings * round) };
  });
  const ends = [-1, 1].flatMap((end) => ball([end * half, 0, 0], radius).filter(({ normal }) => normal[0] * end > 0));
  return [...side, ...ends];
}

function panel(width: number, height: number): Patch[] {
  const of = 160;
  return Array.from({ length: of * of }, (_, k) => ({
    at: [(((k % of) + 0.5) / of - 0.5) * width, ((Math.floor(k / of) + 0.5) / of - 0.5) * height, 0] as Vec,
    normal: [0, 0, 1] as Vec,
    area: (width * height) / of ** 2,
  }));
}

const LINE: Capsule = { kind: 'capsule', from: [-0.75, 0, 0], to: [0.75, 0, 0], radius: 0.045, ends: [1, 1] };
const SHEET: Panel = { kind: 'panel', centre: [0, 0, 0], across: [0.6, 0, 0], up: [0, 0.35, 0], both: false };
const BALL: Capsule = { kind: 'capsule', from: [0, 0, 0], to: [0, 0, 0], radius: 0.2, ends: [1, 1] };
/** With the share of its light that the horizon may make it err by: a wide panel is cut as a ball of its width would be. */
const SHAPES: readonly [string, Emitter, Patch[], number][] = [
  ['a sphere', BALL, ball([0, 0, 0], 0.2), 0.06],
  ['a capsule', LINE, capsule(0.75, 0.045), 0.06],
  ['a panel', SHEET, panel(1.2, 0.7), 0.2],
];

describe.each(SHAPES)('%s', (_, emitter, patches, cut) => {
  test('at fifty points of a wall, within 12 % of the integral over it', () => {
    const worst: number[] = [];
    for (let k = 0; k < 50; k++) {
      // A wall behind it that it shines at, points from near its middle to beside it.
      const point: Vec = [-1.8 + (3.6 * (k % 10)) / 9, -0.8 + (1.6 * Math.floor(k / 10)) / 4, 0.45];
      const exact = integral(patches, point, [0, 0, -1]);
      expect(exact).toBeGreaterThan(0);
      worst.push(Math.abs(shareOf(emitter, point, [0, 0, -1]) / exact - 1));
    }
    expect(Math.max(...worst)).toBeLessThan(0.12);
  });

  test('anywhere around it, whichever way the surface looks', () => {
    const place = fc.tuple(
      fc.double({ min: -1.5, max: 1.5, noNaN: true }),
      fc.double({ min: -1, max: 1, noNaN: true }),
      fc.double({ min: 0.3, max: 1.5, noNaN: true }),
    );
    const way = fc.tuple(
      fc.double({ min: -1, max: 1, noNaN: true }),
      fc.double({ min: -1, max: 1, noNaN: true }),
      fc.double({ min: -1, max: 1, noNaN: true }),
    );
    fc.assert(
      fc.property(place, way, (point, w) => {
        const long = Math.hypot(...w);
        fc.pre(long > 0.1);
        const normal = w.map((v) => v / long) as unknown as Vec;
        const exact = integral(patches, point, normal);
        // Where the horizon cuts it, what is left is little, and told to a share of what it would be squarely.
        const square = shareOf(emitter, point, point.map((v) => -v / Math.hypot(...point)) as unknown as Vec);
        expect(Math.abs(shareOf(emitter, point, normal) - exact)).toBeLessThan(0.12 * exact + cut * square + 1e-5);
      }),
      { seed: 20261129, numRuns: 60, endOnFailure: true },
    );
  });
});

test('form factors of the handbook: an endless cylinder faced squarely gives r / h, a sphere r^2 / d^2', () => {
  // Howell, A Catalog of Radiation Heat Transfer Configuration Factors, B-41 and C-130a; read from memory.
  const endless: Capsule = { kind: 'capsule', from: [-500, 0, 0], to: [500, 0, 0], radius: 0.1, ends: [1, 1] };
  for (const h of [0.1, 0.3, 2]) expect(shareOf(endless, [0, 0, h], [0, 0, -1])).toBeCloseTo(0.1 / h, 3);
  for (const d of [0.25, 1, 4]) expect(shareOf(BALL, [0, 0, d], [0, 0, -1])).toBeCloseTo((0.2 / d) ** 2, 6);
  expect(ballShare(1, 1)).toBe(1);
  expect(ballShare(0.3, -0.3)).toBe(0);
});

test('nothing from behind a panel of one side, the same from both of one of two; nothing below the horizon', () => {
  expect(shareOf(SHEET, [0, 0, -0.4], [0, 0, 1])).toBe(0);
  const two: Panel = { ...SHEET, both: true };
  expect(shareOf(two, [0.2, 0.1, -0.4], [0, 0, 1])).toBeCloseTo(shareOf(two, [0.2, 0.1, 0.4], [0, 0, -1]), 12);
  for (const shape of [BALL, LINE, two]) expect(shareOf(shape, [0, 0, 0.6], [0, 0, 1])).toBe(0);
});
