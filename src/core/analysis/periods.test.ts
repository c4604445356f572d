import { applyMend } from '../effect/mends.js';
import type { Effect, Strand } from '../effect/schema.js';
import { lower } from '../lower/lower.js';
import { overTime } from '../../../tests/fixtures/read.js';
import { effectOf } from '../../../tests/fixtures/sheets.js';
import { readLoop } from './loop.js';
import { commonMultiple, fractionOf, readMotions, seconds } from './periods.js';

const v = (value: number | number[]) => ({ value });
const time: Strand = { id: 't', name: 'Time', op: 'time' };
const glow = (strands: Strand[], from: string, loop: number | null = 4, part?: string) =>
  effectOf(strands, { emission: { from, ...(part ? { part } : {}) } }, { loop });
const motionsOf = (effect: Effect) => readMotions(lower(effect, { build: 'live' }), effect);
const periodOf = (effect: Effect, id: string): number | string => {
  const { motion } = motionsOf(effect).get(id)!;
  return motion.kind === 'repeats' ? seconds(motion.period) : motion.kind;
};
/** What the nearest values propose, made; and whether, measured on both sides of the join, it then closes. */
function closed(effect: Effect): { effect: Effect; closes: boolean } {
  const made = structuredClone(effect);
  for (const { nearest } of readLoop(lower(effect, { build: 'live' }), effect).strands) if (nearest) applyMend(made, nearest);
  return { effect: made, closes: readLoop(lower(made, { build: 'live' }), made).closes };
}

test('common multiples of fractions, as in arithmetic', () => {
  const f = (top: number, bottom: number) => ({ top: BigInt(top), bottom: BigInt(bottom) });
  expect(commonMultiple(f(1, 2), f(1, 3))).toEqual(f(1, 1));
  expect(commonMultiple(f(2, 3), f(3, 4))).toEqual(f(6, 1));
  expect(commonMultiple(f(4, 1), f(10, 4))).toEqual(f(20, 1));
  expect(fractionOf(0.2)).toEqual(f(1, 5));
  expect(fractionOf(2 / 7)).toEqual(f(2, 7));
  expect(fractionOf(12)).toEqual(f(12, 1));
});

test('a wave repeats after 1 over its rate; two of them after their least common multiple', () => {
  const wave = (id: string, rate: number): Strand => ({ id, name: id, op: 'wave', inputs: { rate: v(rate) } });
  const effect = glow(
    [wave('a', 1.5), wave('b', 0.4), { id: 's', name: 'S', op: 'add', inputs: { a: { from: 'a' }, b: { from: 'b' } } }],
    's',
  );
  expect(periodOf(effect, 'a')).toBeCloseTo(1 / 1.5, 6);
  expect(periodOf(effect, 'b')).toBeCloseTo(2.5, 6);
  // lcm(2/3, 5/2) = 10 s
  expect(periodOf(effect, 's')).toBeCloseTo(10, 6);
  expect(closed(effect)).toMatchObject({ closes: true });
  expect(closed(effect).effect.strands.map((s) => (s as Strand).inputs!.rate)).toEqual([v(1.5), v(0.5), undefined]);
});

test('a time that runs faster makes shorter periods; fractions and sines of it repeat as well', () => {
  const fast: Strand = { id: 'fast', name: 'Fast', op: 'multiply', inputs: { a: { from: 't' }, b: v(3) } };
  const wave: Strand = { id: 'w', name: 'W', op: 'wave', inputs: { time: { from: 'fast' }, rate: v(0.5) } };
  const fract: Strand = { id: 'f', name: 'F', op: 'fract', inputs: { in: { from: 'fast' } } };
  const sine: Strand = { id: 's', name: 'S', op: 'sin', inputs: { in: { from: 'fast' } } };
  const effect = glow([time, fast, wave, fract, sine], 'w');
  expect(periodOf(effect, 'fast')).toBe('grows');
  expect(periodOf(effect, 'w')).toBeCloseTo(2 / 3, 6);
  expect(periodOf(effect, 'f')).toBeCloseTo(1 / 3, 6);
  expect(periodOf(effect, 's')).toBeCloseTo((2 * Math.PI) / 3, 5);
});

test('a beat repeats after its whole pattern, a cued dial after the loop, what is held still never moves', () => {
  const beat: Strand = { id: 'b', name: 'B', op: 'beat', inputs: { pattern: { value: { text: '1011000' } }, rate: v(2) } };
  expect(periodOf(glow([beat], 'b'), 'b')).toBeCloseTo(3.5, 6);
  expect(closed(glow([beat], 'b', 3)).closes).toBe(true);
  const still: Strand = { id: 'n', name: 'N', op: 'noise' };
  expect(periodOf(glow([still], 'n'), 'n')).toBe('still');
});

test('waves repeat after the least common multiple of wavelength over speed; whole turns close them', () => {
  const waves: Strand = {
    id: 'w',
    name: 'Swell',
    op: 'waves',
    // Facts of the trade (common practice, no source): four waves of these wavelengths and speeds hardly ever repeat.
    inputs: { wavelengths: v([1277, 500, 137, 67]), speeds: v([240, 218, 176, 144]) },
  };
  const effect = glow([waves], 'w', 10);
  // 1277/240, 250/109, 137/176, 67/144 s: lcm of the tops over gcd of the bottoms.
  const tops = [1277n, 250n, 137n, 67n].reduce((p, q) => p * q);
  const bottoms = 1n;
  const wanted = Number(tops / bottoms);
  expect(periodOf(effect, 'w')).toBe(wanted);
  expect(wanted / 3600 / 24).toBeGreaterThan(30000);
  expect(closed(effect).closes).toBe(true);
});

test('noise of a growing churn, flicker and scroll never repeat, until they are asked to close', () => {
  const churn: Strand = { id: 'c', name: 'C', op: 'multiply', inputs: { a: { from: 't' }, b: v(0.7) } };
  for (const [op, inputs] of [
    ['noise', { churn: { from: 'c' } }],
    ['fractal', { churn: { from: 'c' } }],
    ['cells', { churn: { from: 'c' } }],
    ['flicker', {}],
    ['gerstner', { position: v([0.3, 0, 0.1]) }],
  ] as const) {
    const strand: Strand = { id: 'n', name: 'Moving', op, inputs };
    const effect = glow([time, churn, strand], 'n', 4);
    if (op !== 'cells') expect([op, periodOf(effect, 'n')]).toEqual([op, 'free']);
    expect(readLoop(lower(effect, { build: 'live' }), effect).closes).toBe(false);
    const mended = closed(effect);
    expect([op, mended.closes]).toEqual([op, true]);
    expect(periodOf(mended.effect, 'n')).toBeCloseTo(4, 6);
  }
  // Scrolled coordinates themselves go on; a pattern that repeats over them closes.
  const scroll: Strand = { id: 's', name: 'S', op: 'scroll', inputs: { speed: v([0.3, 0]) } };
  const grid: Strand = { id: 'g', name: 'G', op: 'stripes', inputs: { uv: { from: 's' }, count: v(4), rotate: v(90) } };
  expect(closed(glow([scroll, grid], 'g')).closes).toBe(true);
});

test('an effect without a loop runs on: periods are told, and nothing is to be closed', () => {
  const effect = glow([{ id: 'w', name: 'W', op: 'wave', inputs: { rate: v(1.3) } }], 'w', null);
  const loop = readLoop(lower(effect, { build: 'live' }), effect);
  expect(loop).toMatchObject({ closes: false, period: null, strands: [{ strand: 'w', nearest: null }] });
  expect(loop.strands[0]!.period).toBeCloseTo(1 / 1.3, 6);
});

const closesAt = (strands: Strand[], from: string, loop = 4): boolean => {
  const effect = glow(strands, from, loop);
  return readLoop(lower(effect, { build: 'live' }), effect).closes;
};

test('a hundredth of a turn too many in a second does not close, however quick it is', () => {
  const wave = (rate: number): Strand[] => [{ id: 'w', name: 'W', op: 'wave', inputs: { rate: v(rate) } }];
  expect([12, 12.01, 12.05, 40, 40.02].map((rate) => closesAt(wave(rate), 'w'))).toEqual([true, false, false, true, false]);
});

test('what closes on one prop alone does not close: a rate that is each prop’s own', () => {
  const own: Strand[] = [
    { id: 'r', name: 'Own', op: 'propRandom' },
    { id: 'rate', name: 'Rate', op: 'mix', inputs: { a: v(1), b: v(1.6), amount: { from: 'r' } } },
    { id: 'w', name: 'W', op: 'wave', inputs: { rate: { from: 'rate' } } },
  ];
  expect(closesAt(own, 'w')).toBe(false);
  const shifted: Strand[] = [own[0]!, { id: 'w', name: 'W', op: 'wave', inputs: { rate: v(1), phase: { from: 'r' } } }];
  expect(closesAt(shifted, 'w')).toBe(true);
});

test('a coordinate that scrolls over the loop is back where a tile is, not where noise is', () => {
  const scroll: Strand = { id: 's', name: 'S', op: 'scroll', inputs: { speed: v([0.3, 0]) }, options: { over: 'loop' } };
  const noise: Strand = { id: 'n', name: 'N', op: 'noise', inputs: { position: { from: 's' }, scale: v(3.7) } };
  const tile: Strand = { id: 'f', name: 'F', op: 'fract', inputs: { in: { from: 's' } } };
  expect(periodOf(glow([scroll, noise], 'n'), 'n')).toBe('free');
  expect(periodOf(glow([scroll, tile], 'f'), 'f')).toBe(4);
  expect(closesAt([scroll, noise], 'n')).toBe(false);
});

describe('over the loop, with a churn that is not even', () => {
  const churn: Strand[] = [
    time,
    { id: 'sway', name: 'Sway', op: 'wave', inputs: { rate: v(0.75), low: v(-1), high: v(1) } },
    { id: 'fast', name: 'Fast', op: 'multiply', inputs: { a: { from: 't' }, b: v(1.3) } },
    { id: 'c', name: 'Churn', op: 'add', inputs: { a: { from: 'fast' }, b: { from: 'sway' } } },
  ];
  test.each(['noise', 'fractal', 'warp', 'cells', 'curl'])('%s closes, and jumps nowhere on its way', (op) => {
    const strand: Strand = { id: 'n', name: 'N', op, inputs: { churn: { from: 'c' }, scale: v(2) }, options: { over: 'loop' } };
    // The sway itself must close, which three quarters of a turn a second do over four.
    const strands = [...churn, strand];
    expect(closesAt(strands, 'n')).toBe(true);
    const effect = glow(strands, 'n');
    const steps = 4000;
    const times = Array.from({ length: steps + 1 }, (_, k) => (k * 4) / steps);
    const at = [...overTime(effect, 'n', times, { position: [0.31, 0.17, 0.73], loop: [4] })[0]!];
    const jumps = at.slice(1).map((value, k) => Math.abs(value - at[k]!));
    // A millisecond of it is a few hundredths at the most; a jump was up to six tenths.
    expect(Math.max(...jumps)).toBeLessThan(0.05);
    expect(Math.max(...at) - Math.min(...at)).toBeGreaterThan(0.1);
  });
});
