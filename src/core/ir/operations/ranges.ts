/** What a scalar operation's value can be, for what its arguments can be: interval arithmetic, outward. */
import { nextDown, nextUp } from '../../base/floats.js';
import { SCALAR, type ScalarOp } from '../../base/scalar.js';
import type { Interval } from '../types.js';

export const EVERYTHING: Interval = { low: -Infinity, high: Infinity };
export const ANYTHING = { f: EVERYTHING, i: { low: -(2 ** 31), high: 2 ** 31 - 1 }, b: { low: 0, high: 1 } } as const;

const hull = (...values: number[]): Interval =>
  values.some((v) => v !== v) ? EVERYTHING : { low: Math.min(...values), high: Math.max(...values) };
const product = (a: number, b: number) => (a === 0 || b === 0 ? 0 : a * b);
const monotone = (f: (x: number) => number, x: Interval): Interval => ({ low: f(x.low), high: f(x.high) });

/** An interval, and whether an end of it, or of what it was made of, was rounded. */
export interface Bounds extends Interval {
  readonly rounded: boolean;
}

/** Both sides of a step that an end may stand on. */
const around = (x: Bounds): Interval => (x.rounded ? { low: nextDown(x.low), high: nextUp(x.high) } : x);
const steps = (f: (x: number) => number, x: Bounds): Interval => monotone(f, around(x));

/** A node as far as a rule looks at it: what it is made of, and whether two are the same. */
export interface Shape {
  readonly op: string;
  readonly args: readonly Shape[];
}
export type RangeRule = (args: readonly Bounds[], nodes: readonly Shape[]) => Interval;

const bits = (): Interval => ANYTHING.i;

/**
 * One component over the length of all of them. A square that is rounded may be so much too small, and a root again;
 * components below 1e-19, whose squares floats can hardly hold, count as nothing here: no surface has such.
 */
const UNIT: Interval = { low: -1 - 2 ** -22, high: 1 + 2 ** -22 };

/** Whether y is the root of a sum of squares, x's among them: `normalize`, written out. */
function isOwnLength(x: Shape, y: Shape): boolean {
  if (y.op !== 'sqrt') return false;
  return summands(y.args[0]!).some((s) => s.op === 'mul' && s.args[0] === x && s.args[1] === x);
}

/** Whether x is one of those that y is the sum of: its share of the whole. */
const isSummand = (x: Shape, y: Shape): boolean => y.op === 'add' && summands(y).includes(x);

const summands = (sum: Shape): readonly Shape[] => (sum.op === 'add' ? sum.args.flatMap(summands) : [sum]);

export const RANGES: Readonly<Record<ScalarOp, RangeRule>> = {
  add: ([a, b]) => hull(a!.low + b!.low, a!.high + b!.high),
  sub: ([a, b], [x, y]) => {
    // x - floor(x) is a fraction.
    if (y?.op === 'floor' && y.args[0] === x) return { low: 0, high: 1 };
    return x === y ? { low: 0, high: 0 } : hull(a!.low - b!.high, a!.high - b!.low);
  },
  mul: ([a, b], [x, y]) => {
    if (x === y) {
      const ends = [a!.low * a!.low, a!.high * a!.high];
      return { low: a!.low <= 0 && a!.high >= 0 ? 0 : Math.min(...ends), high: Math.max(...ends) };
    }
    return hull(product(a!.low, b!.low), product(a!.low, b!.high), product(a!.high, b!.low), product(a!.high, b!.high));
  },
  div: ([a, b], [x, y]) => {
    if (isOwnLength(x!, y!)) return UNIT;
    if (isSummand(x!, y!) && a!.low >= 0 && b!.low >= 0) return { low: 0, high: 1 };
    if (b!.low === 0 && b!.high === 0) return { low: 0, high: 0 };
    if (b!.low <= 0 && b!.high >= 0) return a!.low === 0 && a!.high === 0 ? { low: 0, high: 0 } : EVERYTHING;
    return hull(a!.low / b!.low, a!.low / b!.high, a!.high / b!.low, a!.high / b!.high);
  },
  neg: ([a]) => ({ low: -a!.high, high: -a!.low }),
  abs: ([a]) => ({
    low: a!.low <= 0 && a!.high >= 0 ? 0 : Math.min(Math.abs(a!.low), Math.abs(a!.high)),
    high: Math.max(Math.abs(a!.low), Math.abs(a!.high)),
  }),
  sign: ([a]) => steps(Math.sign, a!),
  floor: ([a]) => steps(Math.floor, a!),
  ceil: ([a]) => steps(Math.ceil, a!),
  round: ([a]) => steps(SCALAR.round.apply as (x: number) => number, a!),
  sqrt: ([a]) => monotone((x) => Math.sqrt(Math.max(0, x)), a!),
  min: ([a, b]) => ({ low: Math.min(a!.low, b!.low), high: Math.min(a!.high, b!.high) }),
  max: ([a, b]) => ({ low: Math.max(a!.low, b!.low), high: Math.max(a!.high, b!.high) }),
  select: ([c, a, b]) => (c!.low === 1 ? a! : c!.high === 0 ? b! : hull(a!.low, a!.high, b!.low, b!.high)),
  lt: ([x, y]) => {
    const [a, b] = [around(x!), around(y!)];
    return { low: a.high < b.low ? 1 : 0, high: a.low >= b.high ? 0 : 1 };
  },
  le: ([x, y]) => {
    const [a, b] = [around(x!), around(y!)];
    return { low: a.high <= b.low ? 1 : 0, high: a.low > b.high ? 0 : 1 };
  },
  eq: ([x, y]) => {
    const [a, b] = [around(x!), around(y!)];
    return {
      low: a.low === a.high && b.low === b.high && a.low === b.low ? 1 : 0,
      high: a.high < b.low || b.high < a.low ? 0 : 1,
    };
  },
  and: () => ANYTHING.b,
  or: () => ANYTHING.b,
  not: () => ANYTHING.b,
  // Hashes are made of these: their bits may be any.
  iadd: bits,
  isub: bits,
  imul: bits,
  ixor: bits,
  iand: ([a, b]) => (b!.low >= 0 ? { low: 0, high: b!.high } : a!.low >= 0 ? { low: 0, high: a!.high } : ANYTHING.i),
  ior: bits,
  ishl: bits,
  ishr: bits,
  ushr: ([a, by]) => {
    const places = by!.low === by!.high ? by!.low & 31 : 0;
    if (places === 0) return a!.low >= 0 && by!.low === by!.high ? a! : ANYTHING.i;
    return a!.low >= 0 ? { low: a!.low >>> places, high: a!.high >>> places } : { low: 0, high: 2 ** (32 - places) - 1 };
  },
  ftoi: bits,
  fbits: bits,
  itof: ([a]) => ({ low: Math.fround(a!.low), high: Math.fround(a!.high) }),
  ibits: () => EVERYTHING,
};
