/**
 * Laps made by something that has run for long: their whole number and what is left, each exact where the laps
 * themselves have outgrown a float. A float of a million seconds has steps of 62 milliseconds; time reaches programs as
 * two floats, `time` and `timeRest`, and a product of floats is exact in pieces of twelve bits.
 *
 * Source: exact products by splitting, Dekker, "A Floating-Point Technique for Extending the Available Precision", 1971;
 * the split is by bits here, which no compiler can take for nothing.
 */
import { type Builder } from '../builder.js';
import { defineKernel } from '../kernel.js';
import type { Kernel, Node } from '../types.js';

/** Of a float's 24 bits, the first twelve. */
const UPPER = 0xfffff000 | 0;
/** Counts are told in two floats: so many in one of the second. */
const MANY = 65536;

const params = [
  { name: 'rate', type: 'f1' },
  { name: 'time', type: 'f1' },
  { name: 'timeRest', type: 'f1' },
] as const;

/** Numbers whose exact sum is rate x (time + rest), within the last bit of the smallest. */
function pieces(b: Builder, rate: Node, time: Node, rest: Node): Node[] {
  const upper = (x: Node) => b.op('ibits', b.op('iand', b.op('fbits', x), b.integer(UPPER)));
  const [r, t] = [upper(rate), upper(time)];
  const [rLow, tLow] = [b.sub(rate, r), b.sub(time, t)];
  return [b.mul(r, t), b.mul(r, tLow), b.mul(rLow, t), b.mul(rLow, tLow), b.mul(rate, rest)];
}

function fractions(b: Builder, laps: readonly Node[]): { wholes: Node[]; sum: Node } {
  const wholes = laps.map((x) => b.op('floor', x));
  return { wholes, sum: laps.map((x, k) => b.sub(x, wholes[k]!)).reduce((p, q) => b.add(p, q)) };
}

/** What is left of rate x time beside whole numbers, 0 to 1; within 5e-7 for times to 1e6 s and rates to 60. */
export const lapFraction: Kernel = defineKernel({
  name: 'lapFraction',
  note: 'What is left of rate x (time + timeRest) beside whole numbers, however long it has run.',
  params,
  result: 'f1',
  continuous: false,
  range: () => ({ low: 0, high: 1 }),
  derivative: (b: Builder, [rate, time, rest], [byRate, byTime, byRest]) => {
    const seconds = byTime && byRest ? b.add(byTime, byRest) : (byTime ?? byRest);
    const parts = [byRate && b.mul(byRate, b.add(time!, rest!)), seconds && b.mul(seconds, rate!)];
    return parts.filter((p): p is Node => p !== null && p !== undefined).reduce((p, q) => b.add(p, q));
  },
  build: (b, rate, time, rest) => {
    const { sum } = fractions(b, pieces(b, rate!, time!, rest!));
    return b.sub(sum, b.op('floor', sum));
  },
});

/** The whole numbers of rate x time: 65536 x the first + the second. Both are whole, and floats, as a block of floats needs. */
export const lapCount: Kernel = defineKernel({
  name: 'lapCount',
  note: `The whole numbers in rate x (time + timeRest): ${MANY} times the first, and the second.`,
  params,
  result: 'f2',
  continuous: false,
  range: () => ({ low: -Infinity, high: Infinity }),
  build: (b, rate, time, rest) => {
    const { wholes, sum } = fractions(b, pieces(b, rate!, time!, rest!));
    const all = [...wholes, b.op('floor', sum)];
    const many = all.map((x) => b.op('floor', b.mul(x, 1 / MANY)));
    const few = all.map((x, k) => b.sub(x, b.mul(many[k]!, MANY)));
    const total = (of: Node[]) => of.reduce((p, q) => b.add(p, q));
    return b.join(total(many), total(few));
  },
});

/** A count as an integer, right to its last bit. */
export const countBits = (b: Builder, count: Node): Node =>
  b.op('iadd', b.op('imul', b.op('ftoi', b.pick(count, 0)), b.integer(MANY)), b.op('ftoi', b.pick(count, 1)));
/** A count as a float; exact below 2^24. */
export const countFloat = (b: Builder, count: Node): Node => b.add(b.mul(b.pick(count, 0), MANY), b.pick(count, 1));
