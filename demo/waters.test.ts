/** The starters of water by their numbers: what each is said to do, it does. Bounds are those of the effects themselves. */
import { join } from 'node:path';
import sharp from 'sharp';
import { pictureOf } from '../src/core/base/picture.js';
import { pictureKey, type Effect } from '../src/core/effect/schema.js';
import { outputAt, starter, turned } from '../tests/fixtures/starters.js';

describe('Tide inlet', () => {
  const inlet = starter('tide-inlet');
  const depths = Array.from({ length: 41 }, (_, k) => k * 0.05);
  const at = (effect: Effect, output: string) => outputAt(effect, output, { depthGapDown: depths.map((d) => [d]) }, depths.length);

  test.each([0.05, 0.12, 0.4])('is never seen through more than at its shore: least %f', (least) => {
    const [opacity] = at(turned(inlet, { shoremin: least }), 'opacity') as [Float32Array];
    expect(Math.min(...opacity)).toBeCloseTo(least, 5);
    expect(opacity[0]).toBeCloseTo(least, 5);
    for (const [k, o] of [...opacity].entries()) if (k > 0) expect(o).toBeGreaterThanOrEqual(opacity[k - 1]!);
    expect(opacity.at(-1)).toBeCloseTo(0.82, 5);
  });

  test('its hue deepens to the deep one at the full depth, sooner with a falloff below 1', () => {
    const green = (effect: Effect) => at(turned(effect, { full: 1 }), 'baseColour')[1]!;
    const plain = green(turned(inlet, { fall: 1 }));
    const soon = green(turned(inlet, { fall: 0.5 }));
    for (let k = 1; k < plain.length; k++) expect(plain[k]).toBeLessThanOrEqual(plain[k - 1]! + 1e-6);
    // mix(shallow, deep, d^f) at d = 0.25 is a quarter and a half of the way.
    const way = (v: number) => (plain[0]! - v) / (plain[0]! - plain.at(-1)!);
    expect(way(plain[5]!)).toBeCloseTo(0.25, 3);
    expect(way(soon[5]!)).toBeCloseTo(0.5, 3);
    expect(plain[20]).toBeCloseTo(plain.at(-1)!, 5);
  });

  test('the ground at its edge is not moved, and what lies deeper is, in proportion', () => {
    const tilted = { normal: [[0.2, 0.97, 0.13]], eyeDepth: [[4]] };
    const shift = (effect: Effect, depth: number) =>
      Math.hypot(...outputAt(effect, 'refraction', { ...tilted, depthGapDown: [[depth]] }, 1).map((p) => p[0]!)) * (4 + depth);
    expect(shift(inlet, 0)).toBe(0);
    expect(shift(inlet, 0.8) / shift(inlet, 0.2)).toBeCloseTo(4, 3);
    expect(shift(turned(inlet, { bend: 0.6 }), 0.5) / shift(turned(inlet, { bend: 0.3 }), 0.5)).toBeCloseTo(2, 3);
  });
});

describe('Open swell', () => {
  const sea = starter('open-swell');
  /** Places along a heading, from near to beyond the reach of the waves. */
  const far = Array.from({ length: 120 }, (_, k) => [k * 4, 0, k * -3]);
  const heights = (effect: Effect, points = far) =>
    outputAt(effect, 'displacement', { position: points, worldPosition: points }, points.length)[1]!;

  test('waves where they are told apart, and a level sea beyond', () => {
    const y = heights(sea);
    const near = y.filter((_, k) => Math.hypot(far[k]![0]!, far[k]![2]!) < 37);
    const beyond = y.filter((_, k) => Math.hypot(far[k]![0]!, far[k]![2]!) > 150);
    expect(Math.max(...near) - Math.min(...near)).toBeGreaterThan(0.3);
    expect(Math.max(...beyond.map(Math.abs))).toBe(0);
  });

  test('the dial swell raises them in proportion', () => {
    const [one, half] = [heights(turned(sea, { swell: 1 })), heights(turned(sea, { swell: 0.5 }))];
    one.forEach((v, k) => expect(half[k]).toBeCloseTo(v / 2, 6));
  });
});


/** How much a row of numbers is like itself so many steps on: 1 the same, 0 not at all (Pearson's correlation). */
function likeness(row: ArrayLike<number>, lag: number): number {
  const pairs = Array.from({ length: row.length - lag }, (_, k) => [row[k]!, row[k + lag]!] as const);
  const [ma, mb] = [0, 1].map((side) => pairs.reduce((sum, p) => sum + p[side]! / pairs.length, 0)) as [number, number];
  let [ab, aa, bb] = [0, 0, 0];
  for (const [a, b] of pairs) {
    ab += (a - ma) * (b - mb);
    aa += (a - ma) ** 2;
    bb += (b - mb) ** 2;
  }
  return ab / Math.sqrt(aa * bb);
}

describe('what repeats is not seen to', () => {
  /** Along 120 m of water, 5 cm apart. */
  const STEP = 0.05;
  const COUNT = 2400;
  const row = Array.from({ length: COUNT }, (_, k) => [k * STEP, 0, 7.3]);
  /** How places and coordinates of a lying sheet of a metre change from pixel to pixel: u along x, v against z. */
  const LYING = {
    ...{ worldPositionDx: [[1e-3, 0, 0]], worldPositionDy: [[0, 0, -1e-3]] },
    ...{ uvDx: [[1e-3, 0]], uvDy: [[0, 1e-3]] },
  };
  /** The likeness at any distance of 1 m and more, at its greatest. */
  const greatest = (tilt: ArrayLike<number>) =>
    Math.max(...Array.from({ length: 980 }, (_, k) => likeness(tilt, 20 + k)));

  test('Open swell: one tiling alone is the same again after 4.6 m; with the other, twelve times as wide, nothing is', async () => {
    const sea = starter('open-swell');
    const { data, info } = await sharp(join(import.meta.dirname, 'images', 'sea-normals.jpg')).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
    const picture = pictureOf(info.width, info.height, Float32Array.from(data, (v) => v / 255));
    const pictures = new Map([[pictureKey(Object.values(sea.assets)[0]!), picture]]);
    const tilt = (effect: Effect) =>
      outputAt(effect, 'normal', { worldPosition: row, normal: [[0, 1, 0]], ...LYING }, COUNT, pictures)[0]!;
    expect(greatest(tilt(turned(sea, { surface: 0 })))).toBeGreaterThan(0.99);
    expect(greatest(tilt(sea))).toBeLessThan(0.8);
  });

  test('Tide inlet: of noise alone, no stretch is like another', () => {
    const height = outputAt(starter('tide-inlet'), 'chop', { worldPosition: row }, COUNT)[0]!;
    expect(greatest(height)).toBeLessThan(0.3);
  });
});

describe('Ripple tray', () => {
  const tray = starter('ripple-tray');
  const COUNT = 900;
  const places = Array.from({ length: COUNT }, (_, k) => [(k % 30) * 0.031, 0, Math.floor(k / 30) * 0.021]);
  const lines = (effect: Effect, time = 0) =>
    outputAt(effect, 'lines', { worldPosition: places, behindPosition: places, time: [[time]] }, COUNT)[0]!;
  const mean = (values: Float32Array) => values.reduce((sum, v) => sum + v / values.length, 0);

  test('thinner lines take less of the surface; nothing moves at rate 0', () => {
    const wide = (thin: number) => lines(turned(tray, { thin })).filter((v) => v > 0.25).length / COUNT;
    expect(wide(2)).toBeGreaterThan(wide(4));
    expect(wide(4)).toBeGreaterThan(wide(8));
    expect(wide(8)).toBeLessThan(0.2);
    const still = turned(tray, { rate: 0 });
    expect(lines(still, 3)).toEqual(lines(still, 0));
    expect(lines(tray, 3)).not.toEqual(lines(tray, 0));
  });

  test('its base is the dark hue, and the light one by F1 to the power', () => {
    const base = outputAt(tray, 'baseColour', { worldPosition: places }, COUNT);
    const at = lines(tray);
    [0.3, 0.75, 0.85].forEach((light, c) => {
      const dark = [0.012, 0.05, 0.07][c]!;
      at.forEach((v, k) => expect(base[c]![k]).toBeCloseTo(dark + light * v, 5));
    });
  });

  test('light lies on the floor where the floor is, however the water over it is looked at', () => {
    const cast = (above: readonly (readonly number[])[]) =>
      outputAt(tray, 'emission', { worldPosition: above, behindPosition: places }, COUNT);
    expect(cast(places.map(([x, y, z]) => [x! + 0.04, y!, z! - 0.02]))).toEqual(cast(places));
    const [twice, once] = [2, 1].map((cast_) =>
      mean(outputAt(turned(tray, { cast: cast_ }), 'emission', { worldPosition: places, behindPosition: places }, COUNT)[1]!),
    );
    expect(twice! / once!).toBeCloseTo(2, 4);
  });
});

describe('Tank water', () => {
  const tank = starter('tank-water');
  const COUNT = 1200;
  const depths = Array.from({ length: COUNT }, (_, k) => [k * 0.0003]);
  const places = Array.from({ length: COUNT }, (_, k) => [Math.sin(k * 12.9898) * 2, 0.3, Math.cos(k * 78.233) * 2]);
  const at = (effect: Effect, of: string) => outputAt(effect, of, { depthGapDown: depths, worldPosition: places }, COUNT);

  test('foam is only where it is shallow, and is torn there', () => {
    for (const foam of [0.02, 0.05]) {
      const [cover] = at(turned(tank, { foam }), 'foam') as [Float32Array];
      const deepest = Math.max(...[...cover].map((v, k) => (v > 0.01 ? depths[k]![0]! : 0)));
      expect(deepest).toBeGreaterThan(foam * 0.5);
      expect(deepest).toBeLessThan(foam * 1.5);
      const shallow = cover.filter((_, k) => depths[k]![0]! > foam * 0.5 && depths[k]![0]! < foam);
      // Holes and patches both: it is no band of one white.
      expect(Math.max(...shallow) - Math.min(...shallow)).toBeGreaterThan(0.4);
    }
  });

  test('its hue goes from shallow to deep, by e^-2.2 at the full depth', () => {
    const [deep] = at(turned(tank, { full: 0.2, foam: 0 }), 'deepness') as [Float32Array];
    depths.forEach(([d], k) => expect(deep[k]).toBeCloseTo(1 - Math.exp((-2.2 * d!) / 0.2), 4));
    const [red] = at(turned(tank, { foam: 0 }), 'baseColour') as [Float32Array];
    for (let k = 1; k < COUNT; k++) expect(red[k]).toBeLessThanOrEqual(red[k - 1]! + 1e-6);
  });

  test('each set of ripples drifts by its own speed; occlusion is what its dial says', () => {
    const drift = (of: string, speed: readonly [number, number]) => {
      const now = outputAt(tank, of, { worldPosition: places, time: [[0]] }, COUNT)[0]!;
      const moved = places.map(([x, y, z]) => [x! + speed[0] * 2, y!, z! + speed[1] * 2]);
      const later = outputAt(tank, of, { worldPosition: moved, time: [[2]] }, COUNT)[0]!;
      return Math.max(...later.map((v, k) => Math.abs(v - now[k]!)));
    };
    expect(drift('slow', [0.02, 0.015])).toBeLessThan(2e-4);
    expect(drift('quick', [-0.05, 0.035])).toBeLessThan(4e-4);
    expect(drift('slow', [-0.05, 0.035])).toBeGreaterThan(0.1);
    expect(at(turned(tank, { occlusion: 0.3 }), 'occlusion')[0]![5]).toBeCloseTo(0.3, 6);
  });
});
