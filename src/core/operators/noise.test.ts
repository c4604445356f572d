import { apply, readAt } from '../../../tests/fixtures/read.js';
import { effectOf, randomFrom } from '../../../tests/fixtures/sheets.js';
import { Builder } from '../ir/builder.js';
import { noiseAt } from '../ir/kernels/noise.js';
import { lower } from '../lower/lower.js';
import { scalarise } from '../passes/scalarise.js';
import { emitGlsl } from '../targets/glsl.js';
import { evaluate } from '../targets/reference.js';

const random = randomFrom(17);
const PLACES = Array.from({ length: 40 }, () => [0, 1, 2].map(() => Math.fround(random() * 20 - 10)));
const noise = (position: number[], seed: number) => apply('noise', { position, seed })[0]!;
/** One of the noises that a seed gives. */
function partOf(position: readonly number[], seed: number, part: number): number {
  const b = new Builder();
  return evaluate(scalarise([noiseAt(b, b.constant(...position), b.constant(seed), part)]), { params: [], leaves: {} })[0]![0]!;
}
const fractal = (position: number[], inputs: Record<string, number>, kind = 'fbm') =>
  apply('fractal', { position, ...inputs }, { kind })[0]!;

test('the first of a seed’s noises is the noise itself, and none of them is of another seed', () => {
  for (const position of PLACES.slice(0, 6)) expect(partOf(position, 3, 0)).toBe(noise(position, 3));
  // Pearson's, over places: what chance leaves of 4000 is about a sixtieth.
  const places = Array.from({ length: 4000 }, () => [0, 1].map(() => random() * 4000));
  const rows = [0, 1, 2].flatMap((seed) => [0, 1, 2].map((part) => places.map((p) => partOf(p, seed, part))));
  const dot = (a: readonly number[], b: readonly number[]) => a.reduce((s, v, k) => s + v * b[k]!, 0);
  rows.forEach((a, j) =>
    rows.slice(j + 1).forEach((b) => expect(Math.abs(dot(a, b) / Math.sqrt(dot(a, a) * dot(b, b)))).toBeLessThan(0.07)),
  );
});

describe('fractal', () => {
  // Musgrave's sum, of the noise whose values are checked on their own, in double precision.
  const FOLD: Record<string, (n: number) => number> = { fbm: (n) => n, turbulence: Math.abs, ridged: (n) => 1 - Math.abs(n) };
  const sum = (position: number[], seed: number, octaves: number, lacunarity: number, gain: number, kind: string) => {
    let [total, strength, amplitude] = [0, 0, 1];
    let place = position;
    for (let i = 0; i < octaves; i++) {
      const weight = amplitude * Math.min(1, octaves - i);
      total += FOLD[kind]!(partOf(place, seed, i)) * weight;
      strength += weight;
      amplitude *= gain;
      place = place.map((p) => Math.fround(p * lacunarity));
    }
    return total / strength;
  };
  test.each(['fbm', 'turbulence', 'ridged'])('%s is the sum of its octaves over their strengths', (kind) => {
    for (const position of PLACES.slice(0, 12))
      expect(fractal(position, { seed: 5, octaves: 5, lacunarity: 2.5, gain: 0.6 }, kind)).toBeCloseTo(
        sum(position, 5, 5, 2.5, 0.6, kind),
        4,
      );
  });
  test('one octave is the noise itself; a fraction lets the next come in', () => {
    for (const position of PLACES.slice(0, 6)) {
      expect(fractal(position, { seed: 3, octaves: 1 })).toBe(noise(position, 3));
      expect(fractal(position, { seed: 3, octaves: 2.25 })).toBeCloseTo(sum(position, 3, 2.25, 2, 0.5, 'fbm'), 5);
    }
  });
  test('what is folded keeps to 0..1, whatever the gain', () => {
    for (const position of PLACES)
      for (const [kind, gain] of [
        ['turbulence', 0.9],
        ['ridged', -0.7],
      ] as const) {
        const value = fractal(position, { gain }, kind);
        expect(value).toBeGreaterThanOrEqual(0);
        expect(value).toBeLessThanOrEqual(1);
      }
  });
  test('with its octaves frozen it computes no more than it needs', () => {
    const effect = effectOf([{ id: 'f', name: 'F', op: 'fractal', inputs: { octaves: { value: 3 } } }], {
      emission: { from: 'f' },
    });
    const loop = (build: 'live' | 'frozen') =>
      /i < (\d)/.exec(emitGlsl(lower(effect, { build }), { hoist: false }).fragment.library)![1];
    expect([loop('live'), loop('frozen')]).toEqual(['8', '3']);
  });
});

describe('random', () => {
  const at = (position: number | number[], inputs: Record<string, number> = {}) => apply('random', { position, ...inputs })[0]!;
  test('is one number a cell, and another in the next', () => {
    expect(at([0.1, 0.2, 0.3])).toBe(at([0.9, 0.8, 0.7]));
    expect(at([1.1, 0.2, 0.3])).not.toBe(at([0.1, 0.2, 0.3]));
    expect(at([0.1, 0.2, 0.3], { seed: 1 })).not.toBe(at([0.1, 0.2, 0.3]));
    expect(at(0.6, { size: 0.5 })).toBe(at(0.9, { size: 0.5 }));
  });
  test('is spread evenly over 0..1: mean and variance of a uniform variable, 1/2 and 1/12', () => {
    const values = Array.from({ length: 1500 }, (_, k) => at(k));
    const mean = values.reduce((a, b) => a + b) / values.length;
    const variance = values.reduce((a, b) => a + (b - mean) ** 2, 0) / values.length;
    expect(Math.abs(mean - 0.5)).toBeLessThan(0.025);
    expect(Math.abs(variance - 1 / 12)).toBeLessThan(0.008);
    expect(Math.min(...values)).toBeGreaterThanOrEqual(0);
    expect(Math.max(...values)).toBeLessThan(1);
  });
});

test('warp pushes each component by a noise of its own, and keeps the kind', () => {
  const [x, y] = [1.3, -0.4];
  const pushed = apply('warp', { position: [x, y], amount: 0.5, scale: 2, seed: 4 });
  [x, y].forEach((c, k) => expect(pushed[k]).toBeCloseTo(c + 0.5 * partOf([2 * x, 2 * y], 4, k), 5));
  expect(pushed).toHaveLength(2);
});

describe('time', () => {
  const pulse = (time: number, inputs = {}) => apply('pulse', { time, rate: 0.5, attack: 0.1, decay: 0.4, ...inputs })[0]!;
  test('a pulse rises over its attack, falls to 1/e in its decay, and starts over', () => {
    expect(pulse(0)).toBe(0);
    expect(pulse(0.05)).toBeCloseTo(0.5, 5);
    expect(pulse(0.1)).toBeCloseTo(1, 5);
    expect(pulse(0.5)).toBeCloseTo(Math.exp(-1), 5);
    expect(pulse(2.5)).toBeCloseTo(pulse(0.5), 4);
    expect(pulse(0, { attack: 0 })).toBe(1);
  });
  test('a delay lags by its seconds, also below 0', () => {
    const effect = effectOf([{ id: 'd', name: 'D', op: 'delay', inputs: { seconds: { value: 0.5 } } }]);
    expect(readAt(effect, 'd', { time: [0.25] })).toEqual([-0.25]);
  });
});
