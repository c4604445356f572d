/** Where the water has a surface: an inlet at low tide, and the open sea with what floats and stands there. Water is at height 0. */
import { TorusGeometry } from 'three';
import { dice } from '../field.js';
import { Shape, bar, block, cable, grid, turned, type Triple } from '../shape.js';
import { boulder, groundAt, outcrop, shell, stones } from './seabed.js';

const soft = (x: number) => {
  const t = Math.min(1, Math.max(0, x));
  return t * t * (3 - 2 * t);
};

/** Where the inlet's middle is, and half of how wide it is, so far from the sea. */
const courseAt = (z: number) => ({ middle: 0.35 + 0.9 * Math.sin(0.42 * z + 0.6), half: 2.7 + 0.2 * (z - 1) });

/** The middle of a pool beside the inlet; its water stands 0.74 m over the sea. */
const POOL = [-3.7, 1.7] as const;

/** How high the ground is. */
function inletHeights(points: readonly Triple[]): Float32Array {
  const { dune, rough, bend, crests } = groundAt(points);
  return Float32Array.from(points, ([x, , z], k) => {
    const { middle, half } = courseAt(z);
    const out = Math.abs(x - middle) - Math.max(0.4, half);
    const shore = out > 0 ? 0.24 * out + 0.5 * soft(out / 4) : Math.max(-1.55, 0.3 * out - 0.28 * soft(-out / 1.6));
    const ripple = 0.014 * (1 - Math.abs(Math.sin((5.2 * out + 2.6 * bend[k]! + 0.8 * z) * 1.5))) * (0.6 + crests[k]!);
    // A pool that the tide has left behind, and its rim.
    const pool = Math.hypot(x - POOL[0], (z - POOL[1]) * 1.15);
    if (pool < 2.2) return (shore + 0.34 * dune[k]! * soft(Math.abs(out) / 2)) * soft((pool - 1) / 1.2) + (0.84 - 0.5 * (1 - soft((pool - 0.35) / 0.95))) * (1 - soft((pool - 1) / 1.2)) + 0.03 * rough[k]!;
    return shore + 0.34 * dune[k]! * soft(Math.abs(out) / 2) + 0.035 * rough[k]! + ripple;
  });
}

/** A board that tells how high the tide is, standing on its foot. */
function tideGauge(): Shape {
  const shape = new Shape().add('bright', bar(0.03, 3, 12), { at: [0, 0.1, 0] }).add('enamel', block([0.16, 1.9, 0.02], 0.004), { at: [0, 0.5, 0.04] });
  for (let k = 0; k < 9; k++) shape.add('marker', block([k % 2 ? 0.07 : 0.13, 0.09, 0.006], 0), { at: [k % 2 ? -0.035 : 0, -0.3 + k * 0.2, 0.052] });
  return shape.add('enamel', turned([[0.05, 1.58], [0.05, 1.62], [0, 1.66]], 12));
}

/** A landing stage of planks on posts, from the origin 3 m along +x. */
function landing(): Shape {
  const shape = new Shape();
  for (let k = 0; k < 15; k++) shape.add('stalk', block([0.185, 0.04, 1.1], 0.008), { at: [0.1 + k * 0.2, 0.62, 0], turn: [0, (k % 3) - 1, 0], tint: [1.6 + 0.25 * ((k * 7) % 4), 1.7, 2.4] });
  for (const z of [-0.48, 0.48]) {
    shape.add('stalk', block([3, 0.12, 0.09], 0.01), { at: [1.5, 0.54, z], tint: [1.4, 1.5, 2.2] });
    for (const x of [0.2, 1.5, 2.8]) shape.add('stalk', bar(0.07, 2.6, 10, 3), { at: [x, -0.2, z * 1.1], tint: [1.3, 1.4, 2] }).add('rubber', new TorusGeometry(0.08, 0.012, 6, 16), { at: [x, 0.8, z * 1.1], turn: [90, 0, 0] });
  }
  return shape.add('marker', cable([[2.8, 0.86, -0.53], [2.2, 0.5, -0.66], [1.5, 0.86, -0.53]], 0.018, { along: 16 }));
}

/** The inlet at low tide: sand that goes under, stones in and out of the water, a landing stage, a tide gauge. */
export function tideInlet(): Shape {
  const [west, east, near, far, step] = [-8, 8, 5, -12, 0.25];
  const along = (a: number, b: number) => {
    const n = Math.round(Math.abs(b - a) / step);
    return Array.from({ length: n + 1 }, (_, k) => a + ((b - a) * k) / n);
  };
  const [xs, zs] = [along(west, east), along(near, far)];
  const points = zs.flatMap((z) => xs.map((x): Triple => [x, 0, z]));
  const heights = inletHeights(points);
  const shape = new Shape().add(
    'sediment',
    grid(xs.length - 1, zs.length - 1, (i, j) => [xs[i]!, heights[j * xs.length + i]!, zs[j]!]),
    { tint: [1.25, 1.15, 1] },
  );
  const ground = (x: number, z: number): number => inletHeights([[x, 0, z]])[0]!;
  const rock = (seed: number, [x, z]: readonly [number, number], scale: Triple, sunk = 0.1) =>
    shape.add('stone', boulder(seed, 7), { at: [x, ground(x, z) + scale[1] * (0.45 - sunk), z], scale, turn: [0, seed * 47, 0] });
  rock(31, [-0.9, 1.5], [0.42, 0.4, 0.34]);
  rock(32, [1.5, 0.4], [0.52, 0.62, 0.44]);
  rock(33, [0.3, -1.6], [0.36, 0.5, 0.4]);
  rock(34, [-1.7, -0.4], [0.3, 0.26, 0.26]);
  rock(35, [2.9, 2.2], [0.5, 0.34, 0.4]);
  rock(36, [-2.3, 2.6], [0.24, 0.18, 0.22]);
  for (const [seed, x, z, high, turn] of [
    [41, -5.2, -3.4, 1.7, 0],
    [42, 4.9, -4.6, 2.1, 60],
    [43, -3.4, -8.6, 2.6, 130],
    [44, 3.2, -10.4, 3, 20],
    [45, 6.8, -1.2, 1.3, 200],
  ] as const)
    shape.put(outcrop(seed, { high, count: 4, detail: 6 }), { at: [x, ground(x, z) - 0.2, z], turn: [0, turn, 0] });
  shape.put(
    stones(46, 60, (roll) => {
      const z = 4 - 8 * roll();
      const { middle, half } = courseAt(z);
      const x = middle + (roll() < 0.5 ? -1 : 1) * (half + 1.6 * (roll() - 0.55));
      return { at: [x, ground(x, z), z], size: 0.03 + 0.1 * roll() ** 3 };
    }),
  );
  const roll = dice(9);
  for (let k = 0; k < 8; k++) {
    const [x, z] = [-2.6 + roll() * 0.9, 3.6 - 2 * roll()];
    shape.put(shell(k + 60), { at: [x, ground(x, z) + 0.012, z] });
  }
  shape.put(landing(), { at: [2.3, 0, -1.3], turn: [0, 172, 0] });
  return shape.put(tideGauge(), { at: [-0.5, -0.7, -2.6] });
}

/** A buoy, 2.6 m over the water: a float with its keel, a tower of four legs, a day mark and a lamp. */
export function buoy(): Shape {
  const shape = new Shape();
  shape.add('enamel', turned([[0.02, -0.9], [0.2, -0.85], [0.3, -0.5], [0.85, -0.22], [0.95, 0.02], [0.95, 0.3], [0.88, 0.4], [0.3, 0.44], [0, 0.44]], 40), { tint: [1, 0.26, 0.09] });
  shape.add('enamel', new TorusGeometry(0.95, 0.05, 8, 48), { at: [0, 0.18, 0], turn: [90, 0, 0], tint: 0.25 });
  for (let k = 0; k < 4; k++) {
    const a = (k * Math.PI) / 2 + 0.4;
    const at = (r: number, y: number): Triple => [r * Math.cos(a), y, r * Math.sin(a)];
    shape.add('bright', cable([at(0.62, 0.4), at(0.42, 1.2), at(0.24, 2)], 0.024, { along: 8 }));
    const next = a + Math.PI / 2;
    for (const [r, y] of [[0.52, 0.8], [0.38, 1.35]] as const) shape.add('bright', cable([at(r, y), [(r * (Math.cos(a) + Math.cos(next))) / 2, y, (r * (Math.sin(a) + Math.sin(next))) / 2], [r * Math.cos(next), y, r * Math.sin(next)]], 0.014, { along: 4 }));
    shape.add('marker', block([0.34, 0.5, 0.012], 0), { at: [0.36 * Math.cos(a + 0.785), 1.5, 0.36 * Math.sin(a + 0.785)], turn: [0, 90 - ((a + 0.785) * 180) / Math.PI, 0] });
  }
  shape.add('enamel', bar(0.27, 0.05, 24), { at: [0, 2.02, 0] }).add('rubber', turned([[0.13, 2.04], [0.13, 2.12], [0.1, 2.16]], 20));
  shape.add('port', turned([[0.1, 2.16], [0.11, 2.24], [0.09, 2.36], [0, 2.4]], 20)).add('bright', turned([[0.12, 2.4], [0.12, 2.43], [0, 2.48]], 20));
  return shape.add('bright', new TorusGeometry(0.09, 0.02, 8, 20), { at: [0.8, 0.46, 0.2] });
}

/** A landing platform of the station far out, on its legs, with lit ports. */
function platform(): Shape {
  const shape = new Shape();
  for (const [x, z] of [[-9, -7], [9, -7], [-9, 7], [9, 7]] as const) shape.add('enamel', bar(1.1, 16, 12, 2), { at: [x, 4, z], tint: 0.35 });
  shape.add('enamel', block([26, 3.4, 20], 0.4), { at: [0, 13, 0], tint: 0.42 }).add('enamel', block([12, 6, 10], 0.3), { at: [-4, 17.6, -2], tint: 0.36 });
  shape.add('enamel', bar(0.5, 16, 8), { at: [8, 22, -4], tint: 0.3 }).add('enamel', block([11, 0.7, 0.7], 0), { at: [11, 27, -4], turn: [0, 0, 24], tint: 0.3 });
  for (let k = 0; k < 11; k++) if (k % 4 !== 2) shape.add('port', block([1, 0.7, 0.1], 0), { at: [-11 + k * 2.2, 13.2, 10.04] });
  return shape.add('port', bar(0.4, 0.5, 8), { at: [8, 30.2, -4] });
}

/** What stands far out on the open sea: a platform, and land along the horizon. */
export function openWater(): Shape {
  const shape = new Shape().put(platform(), { at: [-46, 0, -150], turn: [0, 24, 0] });
  const ridge = Array.from({ length: 61 }, (_, k): Triple => [-520 + (1040 * k) / 60, 0, -560 + 60 * Math.cos(k / 9)]);
  const { dune, rough } = groundAt(ridge.map(([x, y, z]): Triple => [x * 0.02, y, z * 0.02]));
  const high = (k: number) => Math.max(0.5, (16 + 52 * dune[k]! + 10 * rough[k]!) * soft((Math.abs(k - 24) - 3) / 14) + 4 * rough[k]!);
  return shape.add(
    'rubber',
    grid(60, 3, (i, j) => [ridge[i]![0], j === 0 ? -4 : (high(i) * j) / 3, ridge[i]![2] - 14 * j]),
  );
}

/**
 * The surface of the sea, 1.4 km across, level at height 0: fine about the origin, where waves move it, and coarse where
 * nobody sees them. Its uv are metres.
 */
export function seaSheet(): Shape {
  const [around, rings] = [96, 78];
  const radius = (j: number) => (j === 0 ? 0 : j * 0.16 + 0.55 * (1.0945 ** j - 1));
  const most = radius(rings);
  return new Shape().add(
    'water',
    grid(around, rings, (i, j) => {
      const a = (i / around) * 2 * Math.PI;
      const r = (700 * radius(j)) / most;
      return [r * Math.cos(a), 0, r * Math.sin(a)];
    }),
  );
}
