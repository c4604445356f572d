/** Sets within the hull: the passage at the docks, and the wall beside hatch four. */
import { cableTray, grating, hatch, hullPlate, junction, lampFitting, piping, rib } from './hull.js';
import { Shape, block, marks, grid } from '../shape.js';

/** A floor of deck plates about the origin, with seams between them. */
function floor(west: number, east: number, near: number, far: number, pitch = 1.2): Shape {
  const shape = new Shape();
  for (let x = west; x < east - 0.01; x += pitch) {
    const w = Math.min(pitch, east - x);
    const xs = marks(w - 0.012, 0.01, 0.3);
    const zs = marks(near - far, 0.01, 0.35);
    shape.add(
      'deck',
      grid(xs.length - 1, zs.length - 1, (i, j) => {
        const rim = i === 0 || j === 0 || i === xs.length - 1 || j === zs.length - 1;
        return [x + w / 2 + xs[i]!, rim ? -0.012 : 0, (near + far) / 2 - zs[j]!];
      }),
      { tint: 0.85 + 0.15 * ((Math.abs(Math.round(x * 7)) % 3) / 2) },
    );
  }
  return shape.add('rubber', block([east - west, 0.02, near - far], 0), { at: [(east + west) / 2, -0.03, (near + far) / 2] });
}

/** A wall of plates in two rows along x, facing +z, with ribs before it. @param gap where a hatch stands */
export function wall(west: number, east: number, high: number, gap: number | null = null, pitch = 1.26): Shape {
  const shape = new Shape();
  const low = 1.02;
  const n = Math.round((east - west) / pitch);
  const w = (east - west) / n;
  for (let k = 0; k < n; k++) {
    const x = west + (k + 0.5) * w;
    const open = gap !== null && Math.abs(x - gap) < w * 0.6;
    if (!open) {
      shape.put(hullPlate(w - 0.03, low - 0.1), { at: [x, 0.1 + (low - 0.1) / 2, 0], tint: 0.86 + 0.14 * ((k * 7) % 5 / 4) });
      shape.put(hullPlate(w - 0.03, high - low - 0.06), { at: [x, low + 0.02 + (high - low - 0.06) / 2, 0], tint: 0.88 + 0.12 * ((k * 3) % 4 / 3) });
    } else shape.put(hullPlate(w - 0.03, high - 1.98), { at: [x, (high + 1.94) / 2, 0] });
    if (k > 0) shape.put(rib(high), { at: [west + k * w, 0, -0.02] });
  }
  // Behind the seams, along the foot and the head.
  shape.add('rubber', block([east - west, high, 0.02], 0), { at: [(east + west) / 2, high / 2, -0.02] });
  for (let x = west; x < east - 0.01; x += 0.7) {
    shape.add('iron', block([Math.min(0.7, east - x), 0.1, 0.07], 0), { at: [x + 0.35, 0.05, 0.035] });
    shape.add('iron', block([Math.min(0.7, east - x), 0.05, 0.05], 0), { at: [x + 0.35, low - 0.025, 0.025] });
  }
  return shape;
}

/** The passage at the docks: three tubes of light hang on its long wall, x = -1.8, 0 and 1.8, 1.72 m above the deck. */
export function dockPassage(): Shape {
  const [west, east, high, deep] = [-6.3, 6.3, 2.75, 3.4];
  const shape = new Shape();
  shape.put(wall(west, east, high, null, 1.8));
  shape.put(floor(west, east, deep, 0.62));
  for (let x = west + 0.5; x < east; x += 1) shape.put(grating(0.5), { at: [x, 0, 0.36] });
  shape.add('rubber', block([east - west, 0.02, 0.6], 0), { at: [(east + west) / 2, -0.2, 0.34] });
  // The end of it: a bulkhead with the hatch.
  const end = new Shape().put(wall(-0.1, 3.5, high, 1.7, 1.2)).put(hatch(), { at: [1.7, 0.02, -0.02], scale: 1.06 });
  shape.put(end, { at: [east, 0, 0], turn: [0, -90, 0] });
  // The side that one stands at, for what is mirrored and for other viewpoints.
  shape.put(wall(west, east, high, null, 3.15), { at: [(west + east), 0, deep + 0.1], turn: [0, 180, 0], tint: 0.8 });
  // Ceiling, its beams, its tray.
  for (let x = west; x < east - 0.01; x += 1.26) {
    shape.put(hullPlate(1.22, deep, { every: 0.8 }), { at: [x + 0.63, high, deep / 2], turn: [90, 0, 0], tint: 0.7 });
  }
  for (let x = west + 1.8; x < east - 0.01; x += 1.8) shape.put(rib(deep, 0.16), { at: [x, high, 0], turn: [90, 0, 0] });
  shape.put(cableTray(east - west, 5), { at: [(west + east) / 2, high - 0.3, 1] });
  shape.put(piping([[west, 2.46, 0.17], [east - 0.4, 2.46, 0.17], [east - 0.25, 2.46, 1.1], [east - 0.25, 2.46, deep]], 0.055, 'iron', 1.6));
  shape.put(piping([[west, 2.3, 0.14], [2.55, 2.3, 0.14], [2.55, 0.5, 0.14], [2.55, 0.5, 0.02]], 0.032, 'copper', 1.4));
  shape.put(piping([[west, 0.34, 0.15], [east, 0.34, 0.15]], 0.045, 'hull', 1.9));
  shape.put(piping([[-3.55, 2.46, 0.17], [-3.55, 0.34, 0.17]], 0.028, 'iron', 0.9));
  shape.put(junction(3), { at: [3.3, 1.5, 0.02] });
  shape.put(junction(8), { at: [-4.2, 1.35, 0.02], scale: 1.15 });
  for (const x of [-1.8, 0, 1.8]) shape.put(lampFitting(1.5), { at: [x, 1.72, 0.01], turn: [0, 0, 90] });
  return shape;
}

/** The wall beside hatch four: dark plates to carry a sign at 1.55 m, the hatch itself to its right. */
export function hatchFour(): Shape {
  const [west, east, high, deep] = [-3.3, 3.9, 2.9, 3.2];
  const shape = new Shape();
  const n = 6;
  const w = 0.92;
  // Large plates behind the sign, without ribs: what its light falls on.
  for (let k = 0; k < n; k++)
    for (const [y, h] of [
      [0.55, 0.86],
      [1.55, 1.08],
      [2.5, 0.76],
    ] as const)
      shape.put(hullPlate(w - 0.024, h, { every: 0.5 }), { at: [-2.84 + k * w + 0.2, y, -0.022], tint: 0.72 + 0.2 * (((k * 5 + Math.round(y * 3)) % 4) / 3) });
  shape.add('rubber', block([east - west, high, 0.02], 0), { at: [(east + west) / 2, high / 2, -0.05] });
  for (const x of [-3.1, 2.14]) shape.put(rib(high, 0.2), { at: [x, 0, -0.04] });
  shape.put(hullPlate(1.7, 0.9, { every: 0.4 }), { at: [3.02, 2.45, -0.02] });
  shape.put(hatch(), { at: [2.98, 0.04, -0.02], scale: [1.12, 1.08, 1.1] });
  shape.put(floor(west, east, deep, 0));
  for (let x = west; x < east - 0.01; x += 0.6) shape.add('iron', block([0.6, 0.12, 0.07], 0), { at: [x + 0.3, 0.06, 0.035] });
  // A rail that the cables of the sign hang from.
  shape.put(piping([[west, 2.06, 0.06], [2.1, 2.06, 0.06]], 0.016, 'iron', 0.7));
  shape.put(piping([[-2.7, 2.9, 0.1], [-2.7, 0.3, 0.1], [-3.3, 0.3, 0.1]], 0.045, 'iron', 0.9));
  shape.put(piping([[-2.55, 2.9, 0.08], [-2.55, 0.5, 0.08], [-3.3, 0.5, 0.08]], 0.028, 'copper', 0.8));
  shape.put(cableTray(east - west, 21), { at: [(west + east) / 2, 2.72, 0.3] });
  // The corner that one looks into from the side.
  shape.put(wall(0, deep, high, null, 1.1), { at: [east + 0.04, 0, 0], turn: [0, -90, 0] });
  shape.put(junction(11), { at: [1.86, 1.32, -0.01], scale: 0.9 });
  for (let x = west; x < east; x += 1.44) shape.put(rib(deep, 0.16), { at: [x, high, 0], turn: [90, 0, 0] });
  return shape;
}
