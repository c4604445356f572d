/** The outer walk at night: a deck between rails, beacons on their masts, the hull of the station afar, and water below. */
import { TorusGeometry } from 'three';
import { field, from, strand } from '../field.js';
import { Shape, bar, block, cable, grid, marks, turned, type Triple } from '../shape.js';
import { grating, hullPlate, piping } from './hull.js';

/** A cage and a foot for a bulb of 0.11 m whose middle is the origin. */
export function beaconHousing(): Shape {
  const shape = new Shape();
  shape.add('iron', turned([[0.001, -0.19], [0.09, -0.19], [0.1, -0.17], [0.085, -0.13], [0.06, -0.1], [0.055, -0.085]], 24));
  for (let k = 0; k < 6; k++) {
    const a = (k * Math.PI) / 3;
    const arc = Array.from({ length: 9 }, (_, j): Triple => {
      const t = -1.05 + (j / 8) * 2.55;
      const r = 0.142 * Math.cos(t);
      return [Math.cos(a) * r, 0.142 * Math.sin(t), Math.sin(a) * r];
    });
    shape.add('bright', cable(arc, 0.0045, { around: 5, along: 16 }));
  }
  for (const [y, r] of [[0, 0.142], [0.075, 0.12]] as const) shape.add('bright', new TorusGeometry(r, 0.004, 6, 32), { at: [0, y, 0], turn: [90, 0, 0] });
  return shape.add('iron', turned([[0.03, 0.135], [0.03, 0.148], [0.012, 0.16], [0, 0.162]], 16));
}

/** A mast with its foot, up to the housing. */
function mast(high: number): Shape {
  return new Shape()
    .add('iron', bar(0.028, high, 16, 4), { at: [0, high / 2, 0] })
    .add('trim', bar(0.034, 0.16, 16), { at: [0, high - 0.2, 0] })
    .add('iron', turned([[0.14, 0], [0.14, 0.015], [0.05, 0.03], [0.035, 0.1]], 20))
    .add('rubber', cable([[0.035, 0.02, 0], [0.045, high * 0.5, 0.01], [0.033, high - 0.05, 0]], 0.008, { along: 10 }));
}

/** A run of rail along x. */
function rail(length: number): Shape {
  const shape = new Shape();
  const n = Math.round(length / 1.2);
  for (let k = 0; k <= n; k++) {
    const x = -length / 2 + (k * length) / n;
    shape.add('iron', bar(0.024, 1.02, 12, 3), { at: [x, 0.51, 0] }).add('iron', block([0.12, 0.02, 0.12], 0.004), { at: [x, 0.01, 0] });
  }
  shape.put(piping([[-length / 2, 1.02, 0], [length / 2, 1.02, 0]], 0.026, 'trim', 99));
  for (const y of [0.36, 0.68]) shape.put(piping([[-length / 2, y, 0], [length / 2, y, 0]], 0.014, 'iron', 99));
  for (let k = 0; k < n; k++) shape.add('hull', block([length / n - 0.06, 0.14, 0.012], 0.003), { at: [-length / 2 + ((k + 0.5) * length) / n, 0.09, 0] });
  return shape;
}

/** The far side of the station: a long round hull with ribs, decks of lit ports, and cranes over it. */
function farHull(): Shape {
  const shape = new Shape();
  const [length, radius] = [46, 6.5];
  shape.add(
    'hull',
    grid(46, 16, (i, j) => {
      const a = -0.55 + (j / 16) * 2.1;
      return [-length / 2 + (i * length) / 46, radius * Math.sin(a) + 2.2, radius * Math.cos(a) - radius];
    }),
    { tint: 0.55 },
  );
  for (let k = 0; k <= 11; k++) {
    const arc = Array.from({ length: 12 }, (_, j): Triple => {
      const a = -0.55 + (j / 11) * 2.1;
      return [-length / 2 + (k * length) / 11, (radius + 0.05) * Math.sin(a) + 2.2, (radius + 0.05) * Math.cos(a) - radius];
    });
    shape.add('iron', cable(arc, 0.16, { around: 6, along: 22 }), { tint: 0.7 });
  }
  for (let row = 0; row < 3; row++)
    for (let k = 0; k < 44; k++) {
      const dark = (k * 7 + row * 5) % 9;
      if (dark < 3 || (k * 11) % 4 === 0) continue;
      const a = 0.02 + row * 0.3;
      const at: Triple = [-length / 2 + 1 + k * 1.02, radius * Math.sin(a) + 2.2, radius * Math.cos(a) - radius + 0.03];
      const turn: Triple = [(-a * 180) / Math.PI, 0, 0];
      shape.add('port', bar(0.16, 0.04, 12), { at, turn: [90 - (a * 180) / Math.PI, 0, 0] });
      shape.add('iron', new TorusGeometry(0.19, 0.05, 6, 16), { at, turn });
    }
  for (const x of [-9, 4.5, 15]) {
    shape.add('iron', bar(0.22, 6, 10), { at: [x, 10.2, -6], tint: 0.6 });
    shape.add('iron', block([5, 0.3, 0.3], 0), { at: [x + 1.4, 12.6, -6], tint: 0.6 });
    shape.add('iron', cable([[x + 3.6, 12.5, -6], [x + 3.6, 10, -6], [x + 3.62, 8.2, -6]], 0.03, { along: 4, around: 4 }));
    shape.add('port', bar(0.12, 0.2, 8), { at: [x, 13.3, -6] });
  }
  return shape;
}

const swell = field(
  [
    strand('p', 'position', {}, { space: 'object' }),
    strand('wide', 'noise', { position: from('p'), scale: 0.35, seed: 2 }),
    strand('fine', 'fractal', { position: from('p'), scale: 1.3, octaves: 3, seed: 7 }),
  ],
  'wide',
  'fine',
);

/** Still, dark water. */
function water(west: number, east: number, near: number, far: number, step: number): Shape {
  const [n, m] = [Math.round((east - west) / step), Math.round((near - far) / step)];
  const points: Triple[] = [];
  for (let j = 0; j <= m; j++) for (let i = 0; i <= n; i++) points.push([west + ((east - west) * i) / n, 0, near + ((far - near) * j) / m]);
  const plane = (k: number) => Float32Array.from(points, (p) => p[k]!);
  const [[wide], [fine]] = swell(plane(0), plane(1), plane(2)) as [[Float32Array], [Float32Array]];
  return new Shape().add(
    'water',
    grid(n, m, (i, j) => {
      const k = j * (n + 1) + i;
      return [points[k]![0], 0.07 * wide![k]! + 0.05 * fine![k]!, points[k]![2]];
    }),
  );
}

/** The walk: three beacons stand on it, their bulbs a metre above the deck. */
export function outerWalk(bulbs: readonly Triple[]): Shape {
  const shape = new Shape();
  const [west, east, near, far] = [-4.4, 5.2, 3.2, -1.7];
  for (let x = west; x < east - 0.01; x += 1.2) {
    const xs = marks(1.186, 0.01, 0.3);
    for (const [a, b] of [
      [near, 1.15],
      [0.62, far],
    ] as const) {
      const zs = marks(a - b - 0.014, 0.01, 0.35);
      shape.add(
        'deck',
        grid(xs.length - 1, zs.length - 1, (i, j) => {
          const rim = i === 0 || j === 0 || i === xs.length - 1 || j === zs.length - 1;
          return [x + 0.6 + xs[i]!, rim ? -0.014 : 0, (a + b) / 2 - zs[j]!];
        }),
        { tint: 0.8 + 0.2 * ((Math.abs(Math.round(x * 10)) % 3) / 2) },
      );
    }
  }
  for (let x = west + 0.5; x < east; x += 1) shape.put(grating(0.52), { at: [x, 0, 0.885] });
  shape.put(piping([[west, -0.16, 0.78], [east, -0.16, 0.78]], 0.05, 'copper', 2)).put(piping([[west, -0.15, 1], [east, -0.15, 1]], 0.035, 'iron', 2));
  for (let x = west; x <= east + 0.01; x += 2.4) shape.add('iron', block([0.12, 0.26, near - far], 0.01), { at: [x, -0.2, (near + far) / 2] });
  shape.put(rail(east - west), { at: [(west + east) / 2, 0, far + 0.06] });
  for (let x = west; x < east - 0.01; x += 1.2) shape.put(hullPlate(1.17, 0.4, { every: 0.5 }), { at: [x + 0.6, -0.24, far - 0.02], turn: [0, 180, 0] });
  for (const at of bulbs) shape.put(mast(at[1] - 0.19), { at: [at[0], 0, at[2]] }).put(beaconHousing(), { at });
  // What stands about: a locker, a coil of hose on its drum, a bollard.
  shape.add('hull', block([0.8, 0.5, 0.46], 0.02), { at: [1.35, 0.26, 0.15], tint: [1.2, 1.1, 0.9] }).add('iron', block([0.82, 0.03, 0.48], 0.008), { at: [1.35, 0.5, 0.15] });
  shape.add('marker', block([0.3, 0.1, 0.006], 0), { at: [1.35, 0.34, 0.383] });
  for (let k = 0; k < 5; k++) shape.add('rubber', new TorusGeometry(0.24 - 0.006 * k, 0.026, 8, 32), { at: [-0.42, 0.03 + k * 0.046, -0.7], turn: [90, 0, k * 11] });
  shape.add('trim', turned([[0.12, 0], [0.12, 0.02], [0.075, 0.04], [0.065, 0.26], [0.11, 0.3], [0.1, 0.34], [0, 0.36]], 24), { at: [2.7, 0, -1.1] });
  shape.put(farHull(), { at: [3.5, -1.6, -15], turn: [0, -12, 0] });
  return shape.put(water(-26, 30, -1.9, -34, 0.9), { at: [0, -1.7, 0] });
}
