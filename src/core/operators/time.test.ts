import { apply, applier, overTime, readerOf } from '../../../tests/fixtures/read.js';
import { effectOf } from '../../../tests/fixtures/sheets.js';

const moments = Array.from({ length: 60 }, (_, k) => k * 0.0731);
const over = (read: ReturnType<typeof applier>, loop = 4) => moments.map((t) => read({ time: [t], loop: [loop] })[0]!);

describe('flicker', () => {
  test('is gradient noise of rate x time and the seed’s fraction, between its floor and its ceiling', () => {
    const flicker = applier('flicker', { rate: 3.5, seed: 12.25, low: -0.2, high: 0.3 });
    const noise = readerOf(
      effectOf([
        { id: 't', name: 'T', op: 'time' },
        {
          id: 'x',
          name: 'X',
          op: 'formula',
          inputs: { a: { from: 't' }, formula: { value: { text: 'vec2(0.618034, a * 3.5 + 0.25)' } } },
        },
        { id: 'n', name: 'N', op: 'noise', inputs: { position: { from: 'x' }, seed: { value: 12 } } },
      ]),
      'n',
    );
    for (const t of moments) {
      const wanted = Math.max(-0.2, Math.min(0.3, noise({ time: [t] })[0]!));
      expect(flicker({ time: [t] })[0]).toBeCloseTo(wanted, 5);
    }
  });
  /** Pearson's, of two rows as they stand, the second `lag` later. */
  const correlation = (a: readonly number[], b: readonly number[], lag = 0): number => {
    const n = a.length - lag;
    const [x, y] = [a.slice(0, n), b.slice(lag)];
    const mean = (v: readonly number[]) => v.reduce((s, w) => s + w, 0) / v.length;
    const [mx, my] = [mean(x), mean(y)];
    const sum = (f: (k: number) => number) => x.reduce((s, _, k) => s + f(k), 0);
    const along = sum((k) => (x[k]! - mx) * (y[k]! - my));
    return along / Math.sqrt(sum((k) => (x[k]! - mx) ** 2) * sum((k) => (y[k]! - my) ** 2));
  };
  test('a hundred pairs of seeds have nothing to do with one another, neither at once nor one after the other', () => {
    // Two samples a cell, over thousands of cells: what chance leaves is less than a hundredth.
    const half = Array.from({ length: 40_000 }, (_, k) => k * 0.5 + 0.25);
    const rows = Array.from({ length: 15 }, (_, seed) => {
      const lamp = {
        id: 'f',
        name: 'F',
        op: 'flicker',
        inputs: { rate: { value: 1 }, seed: { value: seed }, low: { value: -1 } },
      };
      return [...overTime(effectOf([lamp], {}, { loop: null }), 'f', half)[0]!];
    });
    const pairs = rows.flatMap((a, j) => rows.slice(j + 1).map((b, k) => [a, b, k + 1] as const)).slice(0, 100);
    expect(pairs).toHaveLength(100);
    for (const [a, b, apart] of pairs)
      for (const lag of [0, 2, 2 * apart]) expect(Math.abs(correlation(a, b, lag))).toBeLessThan(0.05);
  });
  test('no moment comes again and again at which it stands in the middle', () => {
    const read = applier('flicker', { rate: 1, seed: 3, low: -1 }, {}, { loop: null });
    const size = (part: number) =>
      Array.from({ length: 400 }, (_, k) => Math.abs(read({ time: [k + part] })[0]!)).reduce((s, v) => s + v, 0) / 400;
    const sizes = [0, 0.25, 0.5, 0.75].map(size);
    expect(Math.min(...sizes)).toBeGreaterThan(0.5 * Math.max(...sizes));
  });
  test('no two seeds flicker together, not even when asked to close', () => {
    for (const mode of ['free', 'loop']) {
      const [a, c] = [3, 7].map((seed) => over(applier('flicker', { rate: 1, seed, low: -1 }, { over: mode })));
      const apart = Math.max(...a!.map((v, k) => Math.abs(v - c![k]!)));
      expect(apart).toBeGreaterThan(0.15);
    }
  });
  test('asked to close, value and direction at the end of the loop are those of its beginning, with octaves too', () => {
    for (const octaves of [1, 3.5]) {
      const read = applier('flicker', { rate: 2.3, seed: 5.4, low: -1, octaves }, { over: 'loop' }, { loop: 4 });
      const at = (time: number) => read({ time: [time], loop: [4] })[0]!;
      expect(at(4)).toBeCloseTo(at(0), 4);
      expect(at(4 - 1e-3) - at(4)).toBeCloseTo(at(-1e-3) - at(0), 3);
      expect(Math.max(...moments.map(at)) - Math.min(...moments.map(at))).toBeGreaterThan(0.3);
    }
  });
  test('without smoothness it holds a value and jumps', () => {
    const seen = new Set(over(applier('flicker', { rate: 2, low: -1, smoothness: 0 })).map((v) => v.toFixed(5)));
    expect(seen.size).toBeLessThan(12);
    expect(new Set(over(applier('flicker', { rate: 2, low: -1, smoothness: 1 })).map((v) => v.toFixed(5))).size).toBeGreaterThan(
      50,
    );
  });
});

test('beat follows its pattern, step by step, and refuses another with a sentence', () => {
  const read = applier('beat', { pattern: { text: '1011000' }, rate: 2, softness: 0 });
  const steps = Array.from({ length: 14 }, (_, k) => read({ time: [(k + 0.5) / 2] })[0]);
  expect(steps.join('')).toBe('10110001011000');
  const soft = applier('beat', { pattern: { text: '10' }, rate: 1, softness: 1 });
  expect(soft({ time: [1.5] })[0]).toBeCloseTo(0.5, 5);
  expect(() => apply('beat', { pattern: { text: '10201' } })).toThrow(/1 to 32 steps of 1 and 0/);
});

test('waves: each travels at its speed, the sum is theirs, and a bias leans it downstream', () => {
  const inputs = { wavelengths: [3, 2, 1.2, 0.8], speeds: [0.5, 0.4, 0.3, 0.2], amplitudes: [1, 0.5, 0.3, 0.2], heading: 30 };
  const of = (port: string, more = {}) => applier('waves', { ...inputs, ...more }, {}, { port, loop: null });
  const each = of('each');
  const a = Math.PI / 6;
  const at = (x: number, z: number, time: number) => each({ worldPosition: [x, 0, z], time: [time] });
  const wave = (k: number, along: number, time: number) =>
    inputs.amplitudes[k]! * Math.sin((2 * Math.PI * (along - inputs.speeds[k]! * time)) / inputs.wavelengths[k]!);
  for (const [x, z, t] of [
    [0.3, 0.2, 0],
    [-1, 0.7, 2.2],
  ] as const) {
    const along = x * Math.cos(a) - z * Math.sin(a);
    at(x, z, t).forEach((v, k) => expect(v).toBeCloseTo(wave(k, along, t), 4));
  }
  const point = { worldPosition: [0.4, 0, 0.1], time: [1.3] };
  const [p, q, r, s] = each(point) as [number, number, number, number];
  expect(of('total')(point)[0]).toBeCloseTo(p + q + r + s, 5);
  expect(of('first')(point)[0]).toBeCloseTo(p + q + r, 5);
  expect(of('fourth')(point)[0]).toBeCloseTo(s, 5);
  // Common practice, no source: biased so, a wave goes from -.25 to 1.75 of its strength.
  const biased = of('each', { biases: [0.75, 0, 0, 0] });
  const first = moments.map((t) => biased({ time: [t * 20] })[0]!);
  expect(Math.min(...first)).toBeGreaterThan(-0.2501);
  expect(Math.max(...first)).toBeGreaterThan(1.7);
});

test('churn asked to close: noise, fractal, cells, curl and warp are the same after the loop, and differ within it', () => {
  for (const op of ['noise', 'fractal', 'cells', 'curl', 'warp']) {
    const effect = effectOf(
      [
        { id: 't', name: 'T', op: 'time' },
        { id: 'c', name: 'C', op: 'multiply', inputs: { a: { from: 't' }, b: { value: 0.6 } } },
        { id: 'n', name: 'N', op, inputs: { churn: { from: 'c' } }, options: { over: 'loop' } },
      ],
      {},
      { loop: 5 },
    );
    const read = readerOf(effect, 'n');
    const at = (time: number) => read({ position: [0.3, 0.8, -0.4], time: [time], loop: [5] });
    at(5).forEach((v, k) => expect(v).toBeCloseTo(at(0)[k]!, 4));
    expect(Math.max(...at(1.9).map((v, k) => Math.abs(v - at(0)[k]!)))).toBeGreaterThan(0.02);
    // Without a loop it churns on at its own rate.
    const free = readerOf({ ...effect, loop: null }, 'n');
    const plain = readerOf(effectOf(effect.strands.map((s) => ({ ...s, options: {} })) as never), 'n');
    const point = { position: [0.3, 0.8, -0.4], time: [1.9] };
    free(point).forEach((v, k) => expect(v).toBeCloseTo(plain(point)[k]!, 4));
  }
});
