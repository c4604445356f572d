/** The hull from within: plates with ribs and bolts, pipes, hatches with a wheel, gratings, cable trays, lamp fittings. */
import { dice } from '../field.js';
import { Shape, bar, block, cable, grid, pipe, plate, turned, type Triple } from '../shape.js';
import { TorusGeometry } from 'three';

/** A bolt's head, lying on a wall that faces +z. */
function bolt(radius = 0.014): Shape {
  return new Shape().add('iron', turned([[radius * 1.5, 0], [radius * 1.5, 0.003], [radius, 0.004], [radius * 0.92, 0.012], [0, 0.013]], 6), {
    turn: [90, 0, 0],
  });
}

/** A plate with bolts along its rim, facing +z. */
export function hullPlate(width: number, height: number, { every = 0.42, surface = 'hull', tint = 1 as number | Triple } = {}): Shape {
  const shape = new Shape().add(surface, plate(width, height, 0.022, { edge: 0.018, step: 0.28 }), { tint });
  const one = bolt();
  const rim = 0.05;
  const along = (length: number) => Math.max(1, Math.round((length - 2 * rim) / every));
  const [nx, ny] = [along(width), along(height)];
  for (let i = 0; i <= nx; i++)
    for (const side of [-1, 1])
      shape.put(one, { at: [-width / 2 + rim + ((width - 2 * rim) * i) / nx, side * (height / 2 - rim), 0.021], turn: [0, 0, i * 37] });
  for (let j = 1; j < ny; j++)
    for (const side of [-1, 1])
      shape.put(one, { at: [side * (width / 2 - rim), -height / 2 + rim + ((height - 2 * rim) * j) / ny, 0.021], turn: [0, 0, j * 23] });
  return shape;
}

/** A frame of the hull: web and flange, standing upright before the wall. */
export function rib(height: number, deep = 0.14): Shape {
  const shape = new Shape();
  const cuts = Math.max(2, Math.round(height / 0.3));
  for (let k = 0; k < cuts; k++) {
    const at: Triple = [0, (height * (k + 0.5)) / cuts, deep / 2];
    shape.add('iron', block([0.018, height / cuts, deep], 0), { at });
    shape.add('iron', block([0.085, height / cuts, 0.018], 0), { at: [0, at[1], deep] });
  }
  for (let y = 0.3; y < height; y += 0.55) shape.put(bolt(0.011), { at: [0.026, y, deep + 0.009] }).put(bolt(0.011), { at: [-0.026, y, deep + 0.009] });
  return shape;
}

/** A pipe with flanges and straps, along points before a wall. */
export function piping(points: readonly Triple[], radius: number, surface = 'iron', every = 1.1): Shape {
  const shape = new Shape().add(surface, pipe(points, radius, { around: radius > 0.04 ? 14 : 9 }));
  for (let k = 0; k + 1 < points.length; k++) {
    const [a, b] = [points[k]!, points[k + 1]!];
    const way = b.map((v, j) => v - a[j]!) as unknown as Triple;
    const length = Math.hypot(...way);
    const turn: Triple = Math.abs(way[1]) > 0.7 * length ? [0, 0, 0] : Math.abs(way[0]) > 0.7 * length ? [0, 0, 90] : [90, 0, 0];
    for (let d = every / 2; d < length; d += every) {
      const at = a.map((v, j) => v + (way[j]! * d) / length) as unknown as Triple;
      shape.add('iron', bar(radius * 1.5, 0.022, 14), { at, turn });
      shape.add('iron', bar(radius * 1.5, 0.022, 14), { at: at.map((v, j) => v + (way[j]! * 0.03) / length) as unknown as Triple, turn });
    }
  }
  return shape;
}

/** A wheel that opens a hatch, facing +z. */
export function wheel(radius = 0.19): Shape {
  const shape = new Shape().add('trim', new TorusGeometry(radius, 0.017, 10, 40), { at: [0, 0, 0.11] });
  for (let k = 0; k < 5; k++) {
    const a = (k * 2 * Math.PI) / 5 + 0.3;
    shape.add('trim', bar(0.011, radius, 8), {
      at: [(Math.cos(a) * radius) / 2, (Math.sin(a) * radius) / 2, 0.105],
      turn: [0, 0, (a * 180) / Math.PI - 90],
    });
  }
  return shape
    .add('iron', turned([[0.05, 0], [0.05, 0.03], [0.034, 0.04], [0.034, 0.13], [0.02, 0.145], [0, 0.147]], 20), { turn: [90, 0, 0] });
}

/** An oval door in its frame, facing +z, its sill on y = 0. */
export function hatch(): Shape {
  const [w, h, r] = [0.78, 1.62, 0.3];
  const shape = new Shape();
  const around = (grow: number): Triple[] => {
    const list: Triple[] = [];
    const [a, b, q] = [w / 2 - r, h / 2 - r, r + grow];
    for (let k = 0; k < 48; k++) {
      const t = (k / 48) * 2 * Math.PI;
      const [c, s] = [Math.cos(t), Math.sin(t)];
      list.push([Math.sign(c) * a * Math.min(1, Math.abs(c) * 3) + q * c, h / 2 + 0.16 + Math.sign(s) * b * Math.min(1, Math.abs(s) * 3) + q * s, 0]);
    }
    return list;
  };
  const ring = (grow: number, z: number, radius: number, surface: string) => {
    const points = around(grow).map(([x, y]): Triple => [x, y, z]);
    shape.add(surface, cable([...points, points[0]!, points[1]!], radius, { around: 9, along: 96 }));
  };
  ring(0.075, 0.035, 0.035, 'iron');
  ring(0.01, 0.05, 0.016, 'rubber');
  // The leaf: a domed sheet within the frame.
  const rim = around(-0.005);
  const [cx, cy] = [0, h / 2 + 0.16];
  const rows = 7;
  const leaf: Triple[][] = Array.from({ length: rows + 1 }, (_, j) => {
    const t = j / rows;
    return rim.concat([rim[0]!]).map(([x, y]): Triple => [cx + (x - cx) * t, cy + (y - cy) * t, 0.05 + 0.045 * Math.sqrt(1 - 0.98 * t * t)]);
  });
  shape.add('hull', gridOf(leaf), { tint: [1.1, 1.02, 0.95] });
  for (let k = 0; k < 8; k++) {
    const [x, y] = rim[Math.round((k / 8) * 48 + 3) % 48]!;
    const a = (Math.atan2(y - cy, x) * 180) / Math.PI;
    shape.add('iron', block([0.13, 0.045, 0.03], 0.008), { at: [x * 0.97, cy + (y - cy) * 0.97, 0.095], turn: [0, 0, a] });
    shape.put(bolt(0.012), { at: [x * 0.9, cy + (y - cy) * 0.93, 0.11] });
  }
  for (const y of [0.55, 1.4]) {
    shape.add('iron', bar(0.028, 0.2, 14), { at: [-w / 2 - 0.09, y, 0.07] });
    shape.add('iron', block([0.2, 0.07, 0.03], 0.008), { at: [-w / 2 + 0.02, y, 0.09] });
  }
  shape.put(wheel(), { at: [0.02, cy + 0.02, 0.07] });
  // A small round pane over the wheel.
  shape.add('iron', new TorusGeometry(0.085, 0.018, 10, 28), { at: [0, cy + 0.42, 0.095] });
  shape.add('glass', bar(0.08, 0.012, 28), { at: [0, cy + 0.42, 0.092], turn: [90, 0, 0] });
  return shape;
}

/** A sheet through rows of points, from its middle outwards. */
function gridOf(rows: readonly (readonly Triple[])[]) {
  return grid(rows[0]!.length - 1, rows.length - 1, (i, j) => rows[rows.length - 1 - j]![i]!);
}

/** A tray of cables under the ceiling, along x. */
export function cableTray(length: number, seed: number): Shape {
  const roll = dice(seed);
  const shape = new Shape();
  const [w, high] = [0.26, 0.06];
  for (const side of [-1, 1]) {
    const bits = Math.round(length / 0.5);
    for (let k = 0; k < bits; k++)
      shape.add('iron', block([length / bits, high, 0.008], 0), { at: [-length / 2 + ((k + 0.5) * length) / bits, 0, (side * w) / 2] });
  }
  for (let x = -length / 2 + 0.1; x < length / 2; x += 0.24) shape.add('iron', block([0.035, 0.008, w], 0), { at: [x, -high / 2, 0] });
  for (let k = 0; k < 7; k++) {
    const z = -w / 2 + 0.03 + (k * (w - 0.06)) / 6;
    const points = Array.from({ length: 14 }, (_, j): Triple => [
      -length / 2 + (j * length) / 13,
      -high / 2 + 0.012 + 0.02 * roll() + (j % 3 === 1 ? 0.01 : 0),
      z + (roll() - 0.5) * 0.03,
    ]);
    shape.add('rubber', cable(points, 0.008 + 0.008 * roll(), { around: 6, along: 40 }), { tint: 0.7 + 0.6 * roll() });
  }
  return shape;
}

/** Bars to walk on over a channel, one metre by `deep`, along x. */
export function grating(deep = 0.5): Shape {
  const shape = new Shape();
  for (let k = 0; k <= 20; k++) shape.add('iron', block([0.008, 0.035, deep], 0), { at: [-0.5 + k / 20, -0.018, 0] });
  for (const z of [-0.5, -0.17, 0.17, 0.5]) shape.add('iron', block([1, 0.02, 0.007], 0), { at: [0, -0.018, z * (deep - 0.01)] });
  return shape;
}

/** A fitting for a tube of light that stands upright or lies: along y, its back to the wall at z = 0. */
export function lampFitting(length: number): Shape {
  const shape = new Shape();
  const bits = 5;
  for (let k = 0; k < bits; k++)
    shape.add('enamel', block([0.17, (length + 0.14) / bits, 0.028], 0), { at: [0, -(length + 0.14) / 2 + ((k + 0.5) * (length + 0.14)) / bits, 0.014] });
  for (const side of [-1, 1]) {
    // The wings that throw the light forward.
    for (let k = 0; k < bits; k++)
      shape.add('enamel', block([0.06, length / bits, 0.006], 0), {
        at: [side * 0.105, -length / 2 + ((k + 0.5) * length) / bits, 0.042],
        turn: [0, side * -32, 0],
      });
    shape.add('iron', block([0.12, 0.07, 0.13], 0.012), { at: [0, side * (length / 2 + 0.035), 0.075] });
    shape.add('rubber', bar(0.052, 0.02, 18), { at: [0, side * (length / 2 - 0.005), 0.09] });
    shape.put(bolt(0.01), { at: [0.055, side * (length / 2 + 0.035), 0.028] }).put(bolt(0.01), { at: [-0.055, side * (length / 2 + 0.035), 0.028] });
  }
  // Where its cable goes in.
  return shape.add('rubber', cable([[0, length / 2 + 0.06, 0.06], [0.01, length / 2 + 0.2, 0.05], [0, length / 2 + 0.42, 0.02]], 0.011, { along: 12 }));
}

/** A box with a lever, a plate and a cable: what walls are full of. */
export function junction(seed: number): Shape {
  const roll = dice(seed);
  const shape = new Shape().add('hull', block([0.26, 0.36, 0.12], 0.014), { at: [0, 0, 0.06], tint: [1.2, 1.15, 1] });
  shape.add('iron', block([0.2, 0.3, 0.012], 0.004), { at: [0, 0, 0.124] });
  shape.add('marker', block([0.11, 0.05, 0.004], 0), { at: [0, 0.09, 0.132] });
  shape.add('bright', bar(0.012, 0.09, 10), { at: [0.04, -0.04, 0.16], turn: [40, 0, 18] });
  for (const x of [-0.07, 0.02, 0.08]) shape.add('rubber', cable([[x, -0.18, 0.06], [x + (roll() - 0.5) * 0.05, -0.4, 0.05], [x, -0.75, 0.03]], 0.011, { along: 14 }));
  return shape;
}
