/** Sets on the sea's floor: the shelf at dusk where samples are taken, and the kelp garden. */
import { dice } from '../field.js';
import { Shape, bar, block, cable, turned, type Triple } from '../shape.js';
import { TorusGeometry } from 'three';
import { boulder, chimney, outcrop, sand, shell, stones, tubeWorms, weed } from './seabed.js';

/** What samples are taken with: a mast on three legs, with rings, bottles and a lamp. */
export function samplingRig(): Shape {
  const shape = new Shape();
  for (let k = 0; k < 3; k++) {
    const a = (k * 2 * Math.PI) / 3 + 0.5;
    const [c, s] = [Math.cos(a), Math.sin(a)];
    const leg = (r: number, y: number): Triple => [c * r, y, s * r];
    shape.add('iron', cable([leg(0.03, 0.42), leg(0.13, 0.22), leg(0.24, 0)], 0.012, { around: 7, along: 8 }));
    shape.add('iron', cable([leg(0.02, 0.2), leg(0.1, 0.15), leg(0.17, 0.13)], 0.006, { around: 5, along: 6 }));
    shape.add('iron', turned([[0.035, 0], [0.03, 0.012], [0.01, 0.02]], 12), { at: leg(0.24, -0.005) });
  }
  const column: [number, number, number, string][] = [
    [0.034, 0.1, 0.3, 'iron'],
    [0.044, 0.06, 0.42, 'trim'],
    [0.028, 0.12, 0.5, 'bright'],
    [0.05, 0.09, 0.6, 'iron'],
    [0.024, 0.08, 0.68, 'bright'],
  ];
  for (const [r, h, y, surface] of column) shape.add(surface, bar(r, h, 18), { at: [0, y, 0] });
  for (const [y, r] of [[0.36, 0.062], [0.46, 0.055], [0.55, 0.058]] as const) shape.add('copper', new TorusGeometry(r, 0.007, 8, 24), { at: [0, y, 0], turn: [90, 0, 0] });
  for (let k = 0; k < 5; k++) {
    const a = (k * 2 * Math.PI) / 5;
    shape.add('glass', bar(0.012, 0.09, 8), { at: [Math.cos(a) * 0.07, 0.6, Math.sin(a) * 0.07] });
  }
  shape.add('iron', cable([[0, 0.7, 0], [0.002, 0.74, 0], [0, 0.78, 0]], 0.005, { along: 4 }));
  return shape.add('port', turned([[0.001, 0.775], [0.016, 0.785], [0.014, 0.8], [0, 0.806]], 12));
}

/** The shelf at dusk: a dome of 0.85 m stands at (0, 0, 0.9), among boulders that it cuts through. */
export function duskShelf(): Shape {
  const shape = new Shape();
  shape.put(sand({ west: -9, east: 9, near: 4.6, far: -11, step: 0.14, level: [0, 0.9, 1.3], high: 0.9 }));
  const rock = (seed: number, at: Triple, scale: Triple, turn: number, tint = 1, detail = 13) =>
    shape.add('stone', boulder(seed, detail), { at, scale, turn: [0, turn, 0], tint });
  // Those that the dome cuts through, then those behind, then the far ones.
  rock(3, [-0.82, 0.1, 1.15], [0.42, 0.3, 0.34], 20);
  rock(8, [0.78, 0.26, 0.72], [0.3, 0.52, 0.3], 75);
  rock(21, [-0.32, 0.04, 0.22], [0.24, 0.2, 0.2], 140, 0.9, 9);
  shape.put(outcrop(5, { high: 1.25, count: 6 }), { at: [2.6, -0.1, -0.9], turn: [0, 30, 0] });
  shape.put(outcrop(2, { high: 1.9, count: 7 }), { at: [-3.4, -0.15, -2.4] });
  shape.put(outcrop(9, { high: 2.6, count: 8, detail: 8 }), { at: [4.9, -0.2, -4.6] });
  shape.put(outcrop(12, { high: 3.4, count: 7, detail: 7 }), { at: [-5.6, -0.3, -7.2] });
  shape.put(outcrop(16, { high: 2.2, count: 5, detail: 7 }), { at: [0.8, -0.3, -6.4] });
  shape.put(chimney(4, 2.3), { at: [1.6, -0.1, -3.6], scale: 0.8 });
  shape.put(chimney(7, 1.4), { at: [2.25, -0.1, -3.2], scale: 0.62 });
  shape.put(samplingRig(), { at: [0.05, 0, 0.9], turn: [0, 20, 0], scale: 0.86 });
  shape.put(tubeWorms(6, 12), { at: [-0.36, 0, 1.02], scale: 0.8 });
  shape.put(tubeWorms(9, 9), { at: [1.28, 0, 1.5], scale: 0.9 });
  shape.put(tubeWorms(13, 10), { at: [-1.5, 0, 0.6] });
  shape.put(
    stones(40, 46, (roll) => {
      const [x, z] = [(roll() - 0.5) * 6.5, 3 - 5.5 * roll()];
      const near = Math.hypot(x, z - 0.9) < 0.8;
      return { at: [x, 0, z], size: (near ? 0.02 : 0.025) + 0.08 * roll() ** 3 };
    }),
  );
  const roll = dice(77);
  for (let k = 0; k < 14; k++) shape.put(shell(k), { at: [(roll() - 0.5) * 3.4, 0.015, 2.6 - 2.2 * roll()] });
  for (const [x, z, h, s] of [
    [-2.6, -1.2, 2.6, 1],
    [-2.2, -1.6, 3.1, 2],
    [-3, -1.9, 2.9, 3],
    [3.5, -2, 2.8, 4],
    [-4.2, -3.4, 3.4, 5],
  ] as const)
    shape.put(weed(s, h), { at: [x, -0.05, z], turn: [0, s * 70, 0] });
  return shape;
}

/** A stone to be moved about: the line where the dome cuts it goes along. */
export const nodule = (): Shape => new Shape().add('stone', boulder(14, 13), { scale: [0.26, 0.17, 0.2], turn: [0, 10, 0] });

/** What a plant of kelp holds on with, about the origin. */
export function holdfast(seed: number): Shape {
  const roll = dice(seed);
  const shape = new Shape();
  for (let k = 0; k < 9; k++) {
    const a = (k / 9) * 2 * Math.PI + roll();
    const r = 0.07 + 0.06 * roll();
    shape.add('stalk', cable([[0, 0.05, 0], [Math.cos(a) * r * 0.5, 0.035 + 0.02 * roll(), Math.sin(a) * r * 0.5], [Math.cos(a) * r, -0.015, Math.sin(a) * r]], 0.011, { around: 5, along: 7 }));
  }
  return shape;
}

/** The kelp garden: beds between stones, plants behind, and the holdfasts of those that one looks at. */
export function kelpGarden(feet: readonly Triple[]): Shape {
  const shape = new Shape();
  shape.put(sand({ west: -7, east: 7, near: 5.2, far: -9, step: 0.14, level: [0, 0.8, 1.2], high: 0.8 }));
  shape.put(outcrop(4, { high: 1.1, count: 6 }), { at: [-2.3, -0.1, -0.9] });
  shape.put(outcrop(7, { high: 1.5, count: 6 }), { at: [2.7, -0.12, -1.6], turn: [0, 120, 0] });
  shape.put(outcrop(15, { high: 2.6, count: 6, detail: 8 }), { at: [0.4, -0.3, -5.8] });
  shape.put(outcrop(18, { high: 2.2, count: 5, detail: 8 }), { at: [-4.8, -0.3, -4.8] });
  for (const [k, at] of feet.entries()) {
    shape.put(holdfast(k + 3), { at });
    shape.add('stone', boulder(50 + k, 6), { at: [at[0] + 0.03, -0.02, at[2] - 0.02], scale: [0.16, 0.07, 0.14], turn: [0, k * 50, 0] });
  }
  shape.put(stones(60, 50, (roll) => ({ at: [(roll() - 0.5) * 6, 0, 3.2 - 5 * roll()], size: 0.025 + 0.09 * roll() ** 3 })));
  const roll = dice(5);
  for (let k = 0; k < 16; k++) {
    const [x, z] = [(roll() - 0.5) * 7.5, -0.6 - 3.6 * roll()];
    if (Math.abs(x) < 0.3) continue;
    shape.put(weed(k + 20, 2 + 1.8 * roll()), { at: [x, -0.05, z], turn: [0, roll() * 360, 0] });
  }
  for (let k = 0; k < 10; k++) shape.put(shell(k + 30), { at: [(roll() - 0.5) * 3, 0.015, 2.8 - 2.4 * roll()] });
  shape.put(tubeWorms(31, 10), { at: [-1.35, 0, 1.5] });
  return shape.put(tubeWorms(35, 8), { at: [1.5, 0, 1.2] });
}

/** What a dome of 0.85 m stands on: a ring with its bolts and clamps, its middle in the origin. */
export function domeRing(): Shape {
  const [radius, around] = [0.872, 96];
  const shape = new Shape();
  shape.add('bright', turned([[radius - 0.03, -0.05], [radius + 0.05, -0.05], [radius + 0.05, 0.012], [radius + 0.03, 0.022], [radius - 0.01, 0.022], [radius - 0.03, 0.01], [radius - 0.03, -0.05]], around), { tint: 0.4 });
  shape.add('rubber', new TorusGeometry(radius - 0.022, 0.008, 6, around), { at: [0, 0.022, 0], turn: [90, 0, 0] });
  for (let k = 0; k < 24; k++) {
    const a = (k * Math.PI) / 12;
    shape.add('bright', turned([[0.012, 0], [0.012, 0.009], [0.009, 0.012], [0, 0.0125]], 6), { at: [Math.cos(a) * (radius + 0.034), 0.018, Math.sin(a) * (radius + 0.034)] });
  }
  for (let k = 0; k < 6; k++) {
    const a = (k * Math.PI) / 3 + 0.26;
    shape.add('marker', block([0.06, 0.05, 0.045], 0.006), { at: [Math.cos(a) * (radius + 0.04), 0.03, Math.sin(a) * (radius + 0.04)], turn: [0, (-a * 180) / Math.PI, 0] });
    shape.add('bright', block([0.14, 0.03, 0.03], 0.006), { tint: 0.4, at: [Math.cos(a) * (radius + 0.1), -0.02, Math.sin(a) * (radius + 0.1)], turn: [0, (-a * 180) / Math.PI, -10] });
  }
  return shape;
}
