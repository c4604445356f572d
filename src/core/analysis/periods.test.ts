import { applyMend } from '../effect/mends.js';
import type { Effect, Strand } from '../effect/schema.js';
import { lower } from '../lower/lower.js';
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
