/** Rooms of the station where one works: the moon pool, and the laboratory. */
import { TorusGeometry } from 'three';
import { dice, field, from, strand } from '../field.js';
import { Shape, bar, block, cable, grid, turned, type Triple } from '../shape.js';
import { cableTray, hatch, piping, rib } from './hull.js';
import { wall } from './passage.js';

/** The pool: a deck with a round opening of 1.5 m about the origin, a rim, a ladder, dark water 0.25 m below. */
export function moonPool(): Shape {
  const shape = new Shape();
  const [open, wide] = [1.5, 4.4];
  const ring = (inner: number, outer: (a: number) => number, y: number, surface: string, rows: number) =>
    shape.add(
      surface,
      grid(72, rows, (i, j) => {
        const a = (-i / 72) * 2 * Math.PI;
        const r = inner + ((outer(a) - inner) * (rows - j)) / rows;
        return [r * Math.cos(a), y, r * Math.sin(a)];
      }),
    );
  ring(open + 0.22, (a) => Math.min(wide / Math.abs(Math.cos(a)), wide / Math.abs(Math.sin(a))), 0, 'deck', 9);
  // Its rim, from without: a coping, a lip, the wall of the shaft.
  shape.add(
    'hull',
    turned(
      [
        [open + 0.24, -0.04],
        [open + 0.24, 0.02],
        [open + 0.2, 0.06],
        [open + 0.02, 0.06],
        [open, 0.02],
        [open, -0.3],
        [open, -0.7],
        [open, -1.4],
      ],
      72,
    ),
  );
  for (let k = 0; k < 24; k++) {
    const a = (k / 24) * 2 * Math.PI;
    shape.add('iron', bar(0.02, 0.012, 6), { at: [(open + 0.11) * Math.cos(a), 0.066, (open + 0.11) * Math.sin(a)] });
  }
  for (let k = 0; k < 8; k++) {
    const a = (k / 8) * 2 * Math.PI + 0.2;
    shape.add('marker', block([0.24, 0.004, 0.09], 0), { at: [(open + 0.34) * Math.cos(a), 0.003, (open + 0.34) * Math.sin(a)], turn: [0, (-a * 180) / Math.PI, 0] });
  }
  shape.add('water', grid(40, 8, (i, j) => {
    const a = (-i / 40) * 2 * Math.PI;
    const r = open * (1 - j / 8);
    return [r * Math.cos(a), -0.55, r * Math.sin(a)];
  }));
  for (const z of [-0.2, 0.2]) shape.add('bright', cable([[open - 0.06, -1.2, z], [open - 0.06, 0.1, z], [open - 0.04, 0.62, z], [open + 0.2, 0.74, z], [open + 0.42, 0.5, z], [open + 0.44, 0.02, z]], 0.018, { around: 8, along: 30 }));
  for (let y = -1.1; y < 0.1; y += 0.26) shape.add('bright', bar(0.014, 0.4, 8), { at: [open - 0.06, y, 0], turn: [90, 0, 0] });
  shape.put(wall(-wide, wide, 3, null, 1.76), { at: [0, 0, -wide] });
  shape.put(wall(-wide, wide, 3, 0, 1.76), { at: [-wide, 0, 0], turn: [0, 90, 0] }).put(hatch(), { at: [-wide, 0.02, 0], turn: [0, 90, 0] });
  shape.put(wall(-wide, wide, 3, null, 1.76), { at: [wide, 0, 0], turn: [0, -90, 0] });
  for (let x = -wide; x <= wide + 0.01; x += 1.76) shape.put(rib(2 * wide, 0.2), { at: [x, 3, -wide], turn: [90, 0, 0] });
  shape.put(cableTray(2 * wide, 3), { at: [0, 2.66, -wide + 0.4] });
  shape.put(piping([[-wide, 2.3, -wide + 0.16], [wide, 2.3, -wide + 0.16]], 0.06, 'iron', 1.8));
  // A gantry with its hook over the water.
  shape.add('trim', block([0.16, 2.6, 0.16], 0.01), { at: [-2.3, 1.3, -1.9] }).add('trim', block([0.16, 0.16, 2.2], 0.01), { at: [-2.3, 2.6, -0.9] });
  return shape.add('iron', cable([[-2.3, 2.52, 0.1], [-2.3, 2, 0.1], [-2.3, 1.5, 0.1]], 0.012, { around: 6, along: 4 })).add('iron', new TorusGeometry(0.06, 0.016, 8, 20, 4.6), { at: [-2.3, 1.43, 0.1] });
}

const relief = field(
  [
    strand('p', 'position', {}, { space: 'object' }),
    strand('wide', 'fractal', { position: from('p'), scale: 1.6, octaves: 5, seed: 8 }),
    strand('fold', 'fractal', { position: from('p'), scale: 1.1, octaves: 5, seed: 4 }, { kind: 'ridged' }),
  ],
  'wide',
  'fold',
);

/** The sea's floor in small, 1.4 by 0.9 m about the origin: what the chart table shows. @param n cells along it, two by 35 to 70 */
export function chartRelief(n = 70): Shape {
  const [m, w, d] = [Math.round((n * 9) / 14), 1.4, 0.9];
  const at = (i: number, j: number): Triple => [(i / n - 0.5) * w, 0, (0.5 - j / m) * d];
  const points = Array.from({ length: (n + 1) * (m + 1) }, (_, k) => at(k % (n + 1), Math.floor(k / (n + 1))));
  const plane = (k: number) => Float32Array.from(points, (p) => p[k]! * 1.4);
  const [[wide], [fold]] = relief(plane(0), plane(1), plane(2)) as [[Float32Array], [Float32Array]];
  return new Shape().add(
    'enamel',
    grid(n, m, (i, j) => {
      const [x, , z] = at(i, j);
      const k = j * (n + 1) + i;
      const hill = 0.2 * Math.exp(-(((x + 0.05) / 0.24) ** 2) - ((z - 0.02) / 0.2) ** 2);
      return [x, 0.02 + 0.12 * (wide[k]! + 0.4) * fold[k]! + hill * (0.7 + 0.5 * fold[k]!), z];
    }),
  );
}

const floorOf = field(
  [
    strand('p', 'position', {}, { space: 'object' }),
    strand('wide', 'fractal', { position: from('p'), scale: 2.6, octaves: 4, seed: 21 }),
  ],
  'wide',
);

/**
 * An open basin about the origin, standing on y = 0, its floor rising to the left.
 * @param size its length, depth and height in metres @param floor how high the floor lies on the right and on the left
 */
function basin([wide, deep, high]: Triple, floor: readonly [number, number], uneven: number): Shape {
  const shape = new Shape();
  const [n, m, thick] = uneven > 0 ? [40, 26, 0.03] : [8, 6, 0.03];
  const points = Array.from({ length: (n + 1) * (m + 1) }, (_, k): [number, number] => [
    ((k % (n + 1)) / n - 0.5) * (wide - thick),
    (0.5 - Math.floor(k / (n + 1)) / m) * (deep - thick),
  ]);
  const [[hills]] = floorOf(
    Float32Array.from(points, ([x]) => x),
    new Float32Array(points.length),
    Float32Array.from(points, ([, z]) => z),
  ) as [[Float32Array]];
  shape.add(
    'enamel',
    grid(n, m, (i, j) => {
      const k = j * (n + 1) + i;
      const [x, z] = points[k]!;
      const way = 0.5 - x / wide;
      return [x, floor[0] + (floor[1] - floor[0]) * way * way * (3 - 2 * way) + uneven * hills[k]!, z];
    }),
    { tint: uneven > 0 ? [0.7, 0.56, 0.36] : 0.8 },
  );
  for (const side of [-1, 1]) {
    shape.add('enamel', block([wide + thick, high, thick], 0), { at: [0, high / 2, (side * deep) / 2] });
    shape.add('enamel', block([thick, high, deep], 0), { at: [(side * wide) / 2, high / 2, 0] });
    shape.add('rubber', block([wide + 2.4 * thick, 0.018, thick * 1.8], 0), { at: [0, high, (side * deep) / 2] });
    shape.add('rubber', block([thick * 1.8, 0.018, deep], 0), { at: [(side * wide) / 2, high, 0] });
  }
  return shape;
}

/** A tank of 1.5 by 0.95 m for what lives in water, with a shore at its left; filled to 0.3 m. */
export const tank = (): Shape => basin([1.5, 0.95, 0.36], [0.035, 0.33], 0.035);

/** A shallow tray, 0.95 by 0.66 m, in which ripples are looked at; filled to 0.1 m. */
export const tray = (): Shape => basin([0.95, 0.66, 0.13], [0.016, 0.016], 0);

/** A table on four legs, its top at `high`. */
function table(wide: number, deep: number, high: number): Shape {
  const shape = new Shape().add('hull', block([wide, 0.05, deep], 0.012), { at: [0, high - 0.025, 0] });
  shape.add('iron', block([wide - 0.06, 0.08, deep - 0.06], 0.01), { at: [0, high - 0.09, 0] });
  for (const x of [-1, 1]) for (const z of [-1, 1]) shape.add('iron', block([0.06, high - 0.05, 0.06], 0.008), { at: [x * (wide / 2 - 0.07), (high - 0.05) / 2, z * (deep / 2 - 0.07)] });
  return shape.add('iron', block([wide - 0.14, 0.03, deep - 0.14], 0.006), { at: [0, 0.22, 0] });
}

/** The laboratory: a bench along the wall with a shelf of bottles, and a table in the middle, its top 0.82 m high. */
export function laboratory(): Shape {
  const shape = new Shape();
  const [west, east, high, deep] = [-3.6, 3.6, 2.75, 4.6];
  shape.put(wall(west, east, high, null, 1.2));
  shape.put(wall(0, deep, high, null, 1.15), { at: [east, 0, 0], turn: [0, -90, 0] });
  shape.put(wall(0, deep, high, 2.3, 1.15), { at: [west, 0, deep], turn: [0, 90, 0] }).put(hatch(), { at: [west, 0.02, deep - 2.3], turn: [0, 90, 0] });
  shape.add('hull', grid(24, 16, (i, j) => [west + ((east - west) * i) / 24, 0, deep - (deep * j) / 16]), { tint: 0.62 });
  shape.put(table(4.4, 0.62, 0.92), { at: [0.4, 0, 0.4] });
  shape.put(table(1.7, 1.15, 0.82), { at: [0, 0, 2.2] });
  shape.add('hull', block([4.2, 0.03, 0.3], 0.008), { at: [0.4, 1.52, 0.22] });
  const roll = dice(91);
  for (let k = 0; k < 22; k++) {
    const [h, r] = [0.09 + 0.13 * roll(), 0.025 + 0.03 * roll()];
    const x = -1.6 + k * 0.19 + 0.04 * roll();
    shape.add(k % 4 === 1 ? 'enamel' : 'glass', turned([[r, 0], [r, h * 0.7], [r * 0.5, h * 0.82], [r * 0.45, h]], 14), { at: [x, 1.535, 0.2 + 0.06 * roll()] });
    shape.add('iron', bar(r * 0.5, 0.02, 10), { at: [x, 1.545 + h, 0.22] });
  }
  // On the bench: a tank's frame, a lamp on an arm, trays, a stack of cases.
  for (const [x, z] of [[-1.35, 0.2], [-0.55, 0.2], [-1.35, 0.62], [-0.55, 0.62]] as const) shape.add('iron', block([0.022, 0.5, 0.022], 0), { at: [x, 1.17, z] });
  for (const y of [0.93, 1.41]) for (const z of [0.2, 0.62]) shape.add('iron', block([0.82, 0.022, 0.022], 0), { at: [-0.95, y, z] });
  shape.add('enamel', block([0.46, 0.05, 0.34], 0.012), { at: [0.15, 0.945, 0.42] }).add('enamel', block([0.46, 0.05, 0.34], 0.012), { at: [0.7, 0.945, 0.4] });
  shape.add('trim', block([0.5, 0.2, 0.36], 0.016), { at: [1.5, 1.02, 0.4] }).add('hull', block([0.44, 0.16, 0.32], 0.016), { at: [1.48, 1.2, 0.4], turn: [0, 12, 0] });
  shape.add('iron', cable([[2.2, 0.92, 0.35], [2.2, 1.3, 0.4], [1.95, 1.62, 0.55], [1.8, 1.5, 0.7]], 0.014, { around: 7, along: 20 }));
  shape.add('iron', turned([[0.012, 0], [0.09, -0.05], [0.1, -0.12]], 20), { at: [1.8, 1.52, 0.72] });
  shape.add('port', bar(0.05, 0.01, 16), { at: [1.8, 1.43, 0.72] });
  shape.put(cableTray(east - west, 31), { at: [0, 2.5, 0.5] });
  shape.put(piping([[west, 2.3, 0.14], [east, 2.3, 0.14]], 0.04, 'copper', 1.5));
  for (let x = west; x <= east + 0.01; x += 1.2) shape.put(rib(deep, 0.16), { at: [x, high, 0], turn: [90, 0, 0] });
  return shape;
}

/** What a specimen stands on: a plate of metal, 1.1 m wide, on a foot. */
export const specimenStand = (): Shape =>
  new Shape()
    .add('bright', turned([[0, 0.06], [0.5, 0.06], [0.53, 0.05], [0.55, 0.03], [0.54, 0], [0.3, -0.01]].map(([r, y]) => [r!, y!] as const).reverse(), 64))
    .add('iron', turned([[0.34, -0.3], [0.3, -0.24], [0.1, -0.18], [0.09, 0]], 32));
