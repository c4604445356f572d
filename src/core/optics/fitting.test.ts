/** What surfaces are taken for, and the light of a whole one against the integral over its points: irradiance as it is defined. */
import { randomFrom } from '../../../tests/fixtures/sheets.js';
import { shareOf, type Vec } from './emitters.js';
import { emitterOf, partsOf, type Glowing } from './fitting.js';

const COUNT = 256;

function surface(area: number, both: boolean, of: (roll: () => number) => readonly [Vec, Vec], count = COUNT): Glowing {
  const roll = randomFrom(20261129);
  const planes = () => [0, 1, 2].map(() => new Float32Array(count));
  const [position, normal] = [planes(), planes()];
  for (let k = 0; k < count; k++) {
    const [p, n] = of(roll);
    for (const axis of [0, 1, 2]) {
      position[axis]![k] = p[axis]!;
      normal[axis]![k] = n[axis]!;
    }
  }
  return { position, normal, area, both };
}
const around = (roll: () => number): Vec => {
  const [z, turn] = [2 * roll() - 1, 2 * Math.PI * roll()];
  const r = Math.sqrt(1 - z * z);
  return [r * Math.cos(turn), r * Math.sin(turn), z];
};
const scaled = (v: Vec, by: number, on: Vec = [0, 0, 0]): Vec => v.map((c, k) => c * by + on[k]!) as unknown as Vec;

type Maker = (roll: () => number) => readonly [Vec, Vec];
/** Areas in square metres, and points spread evenly over them. */
const MADE: Record<string, readonly [area: number, of: Maker]> = {
  sphere: [
    4 * Math.PI * 0.3 ** 2,
    (roll) => {
      const n = around(roll);
      return [scaled(n, 0.3), n];
    },
  ],
  capsule: [
    2 * Math.PI * 0.05 * 1.4,
    (roll) => {
      // Along its axis a capsule has the same area everywhere, its ends too (Archimedes).
      const [x, turn] = [1.4 * (roll() - 0.5), 2 * Math.PI * roll()];
      const beyond = Math.sign(x) * Math.max(0, Math.abs(x) - 0.65);
      const r = Math.sqrt(0.05 ** 2 - beyond ** 2);
      return [
        [x, r * Math.cos(turn), r * Math.sin(turn)],
        [beyond / 0.05, (r / 0.05) * Math.cos(turn), (r / 0.05) * Math.sin(turn)],
      ];
    },
  ],
  panel: [
    1.2 * 0.8,
    (roll) => [
      [1.2 * (roll() - 0.5), 0.8 * (roll() - 0.5), 0],
      [0, 0, 1],
    ],
  ],
  ring: [
    4 * Math.PI ** 2 * 0.6 * 0.03,
    (roll) => {
      const [a, b] = [2 * Math.PI * roll(), 2 * Math.PI * roll()];
      // The outer half of a ring is the larger one.
      const c = roll() < (0.6 + 0.03 * Math.cos(b)) / 0.63 ? b : Math.PI - b;
      const n: Vec = [Math.cos(c) * Math.cos(a), Math.cos(c) * Math.sin(a), Math.sin(c)];
      return [[0.6 * Math.cos(a) + 0.03 * n[0], 0.6 * Math.sin(a) + 0.03 * n[1], 0.03 * n[2]], n];
    },
  ],
  motes: [
    200 * 4 * Math.PI * 0.01 ** 2,
    (roll) => {
      const n = around(roll);
      return [scaled(n, 0.01, [1.6 * (roll() - 0.5), 0.8 * (roll() - 0.5), 0.3 * (roll() - 0.5)]), n];
    },
  ],
};
const made = (count?: number) =>
  Object.fromEntries(Object.entries(MADE).map(([name, [area, of]]) => [name, surface(area, false, of, count)]));
const SURFACES = made();
/** By many more points than the fit has. */
const DENSE = made(60_000);

/** The sum of cos cos' dA / (pi d^2). */
function integral({ position, normal, area }: Glowing, point: Vec, facing: Vec): number {
  const count = position[0]!.length;
  let sum = 0;
  for (let k = 0; k < count; k++) {
    const way = [0, 1, 2].map((a) => position[a]![k]! - point[a]!) as unknown as Vec;
    const squared = way[0] ** 2 + way[1] ** 2 + way[2] ** 2;
    const here = way[0] * facing[0] + way[1] * facing[1] + way[2] * facing[2];
    const there = -(way[0] * normal[0]![k]! + way[1] * normal[1]![k]! + way[2] * normal[2]![k]!);
    if (here > 0 && there > 0) sum += (here * there * area) / count / (Math.PI * squared * squared);
  }
  return sum;
}

test.each(Object.keys(SURFACES))('%s: at fifty points of a wall within 15 %% of the integral over it', (name) => {
  const glowing = SURFACES[name]!;
  const [parts] = partsOf([glowing], 16);
  const emitters = parts!.map((points) => emitterOf(glowing, points));
  const off: number[] = [];
  for (let k = 0; k < 50; k++) {
    const point: Vec = [-1.4 + (2.8 * (k % 10)) / 9, -0.9 + (1.8 * Math.floor(k / 10)) / 4, 0.55];
    const exact = integral(DENSE[name]!, point, [0, 0, -1]);
    const found = emitters.reduce((sum, e) => sum + shareOf(e, point, [0, 0, -1]), 0);
    off.push(Math.abs(found / exact - 1));
  }
  expect(Math.max(...off)).toBeLessThan(0.15);
});

test('a sphere is one ball, a panel one panel, a line a few capsules in a row, a ring some more', () => {
  const [sphere, panel, line, ring] = ['sphere', 'panel', 'capsule', 'ring'].map((n) => partsOf([SURFACES[n]!], 16)[0]!) as [
    number[][],
    number[][],
    number[][],
    number[][],
  ];
  expect(sphere).toHaveLength(1);
  expect(panel).toHaveLength(1);
  expect(emitterOf(SURFACES.panel!, panel[0]!)).toMatchObject({ kind: 'panel', both: false });
  expect(emitterOf(SURFACES.sphere!, sphere[0]!)).toMatchObject({ kind: 'capsule' });
  expect(line.length).toBeGreaterThan(1);
  expect(line.length).toBeLessThan(6);
  expect(ring.length).toBeGreaterThanOrEqual(5);
  // Every point belongs to one of the parts.
  expect(ring.flat().sort((a, b) => a - b)).toEqual(Array.from({ length: COUNT }, (_, k) => k));
});

test('many surfaces share what emitters there are: each has one at least, the same ones at every asking', () => {
  const many = Array.from({ length: 20 }, (_, k) => (k % 2 ? SURFACES.ring! : SURFACES.sphere!));
  const parts = partsOf(many, 24);
  expect(parts.every((p) => p.length >= 1)).toBe(true);
  expect(parts.flat()).toHaveLength(24);
  expect(partsOf(many, 24)).toEqual(parts);
});
