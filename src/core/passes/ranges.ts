/**
 * What every value *can be*: interval arithmetic over scalar programs whose kernels are whole
 * (`scalarise(roots, { paste: false })`), so that each gives its proved range. Bounds are outer: never too narrow.
 */
import { ROW_HEAD, rowOf, type KeyTable } from '../base/keys.js';
import { SCALAR, type ScalarOp } from '../base/scalar.js';
import { LEAVES } from '../ir/leaves.js';
import type { Interval } from '../ir/types.js';
import type { ScalarNode, ScalarProgram } from './scalarise.js';

export const EVERYTHING: Interval = { low: -Infinity, high: Infinity };
const ANYTHING = { f: EVERYTHING, i: { low: -(2 ** 31), high: 2 ** 31 - 1 }, b: { low: 0, high: 1 } } as const;

const hull = (...values: number[]): Interval =>
  values.some((v) => v !== v) ? EVERYTHING : { low: Math.min(...values), high: Math.max(...values) };
const product = (a: number, b: number) => (a === 0 || b === 0 ? 0 : a * b);
const monotone = (f: (x: number) => number, x: Interval): Interval => ({ low: f(x.low), high: f(x.high) });

type Rule = (args: readonly Interval[], nodes: readonly ScalarNode[]) => Interval;

const RULES: Partial<Record<ScalarOp, Rule>> = {
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
  div: ([a, b]) => {
    if (b!.low === 0 && b!.high === 0) return { low: 0, high: 0 };
    if (b!.low <= 0 && b!.high >= 0) return a!.low === 0 && a!.high === 0 ? { low: 0, high: 0 } : EVERYTHING;
    return hull(a!.low / b!.low, a!.low / b!.high, a!.high / b!.low, a!.high / b!.high);
  },
  neg: ([a]) => ({ low: -a!.high, high: -a!.low }),
  abs: ([a]) => ({
    low: a!.low <= 0 && a!.high >= 0 ? 0 : Math.min(Math.abs(a!.low), Math.abs(a!.high)),
    high: Math.max(Math.abs(a!.low), Math.abs(a!.high)),
  }),
  sign: ([a]) => monotone(Math.sign, a!),
  floor: ([a]) => monotone(Math.floor, a!),
  ceil: ([a]) => monotone(Math.ceil, a!),
  round: ([a]) => monotone(Math.round, a!),
  sqrt: ([a]) => monotone((x) => Math.sqrt(Math.max(0, x)), a!),
  min: ([a, b]) => ({ low: Math.min(a!.low, b!.low), high: Math.min(a!.high, b!.high) }),
  max: ([a, b]) => ({ low: Math.max(a!.low, b!.low), high: Math.max(a!.high, b!.high) }),
  select: ([c, a, b]) => (c!.low === 1 ? a! : c!.high === 0 ? b! : hull(a!.low, a!.high, b!.low, b!.high)),
  lt: ([a, b]) => ({ low: a!.high < b!.low ? 1 : 0, high: a!.low >= b!.high ? 0 : 1 }),
  le: ([a, b]) => ({ low: a!.high <= b!.low ? 1 : 0, high: a!.low > b!.high ? 0 : 1 }),
  eq: ([a, b]) => ({
    low: a!.low === a!.high && b!.low === b!.high && a!.low === b!.low ? 1 : 0,
    high: a!.high < b!.low || b!.high < a!.low ? 0 : 1,
  }),
  itof: () => ({ low: -(2 ** 31), high: 2 ** 31 }),
};

/** mix(x, y, t) with t in 0..1 stays between x and y; x (1 - t) + y t is recognised by its shape. */
function mixOf(node: ScalarNode, range: (n: ScalarNode) => Interval): Interval | null {
  if (node.op !== 'add') return null;
  const [p, q] = node.args;
  if (p?.op !== 'mul' || q?.op !== 'mul') return null;
  const [x, inverse] = p.args;
  const [y, t] = q.args;
  if (inverse?.op !== 'sub' || inverse.args[1] !== t || inverse.args[0]?.value !== 1) return null;
  const amount = range(t!);
  if (amount.low < 0 || amount.high > 1) return null;
  const [a, b] = [range(x!), range(y!)];
  return { low: Math.min(a.low, b.low), high: Math.max(a.high, b.high) };
}

/** The smoothstep polynomial c c (3 - 2 c) of c in 0..1 stays in 0..1. */
function easeOf(node: ScalarNode, range: (n: ScalarNode) => Interval): Interval | null {
  if (node.op !== 'mul') return null;
  const [square, rest] = node.args;
  const c = square?.args[0];
  if (square?.op !== 'mul' || !c || c !== square.args[1]) return null;
  if (rest?.op !== 'sub' || rest.args[0]?.value !== 3 || rest.args[1]?.op !== 'mul' || rest.args[1].args[1] !== c) return null;
  const { low, high } = range(c);
  const ease = (x: number) => x * x * (3 - 2 * x);
  return low >= 0 && high <= 1 ? { low: ease(low), high: ease(high) } : null;
}

/** Bounds of one number of a look at keys, over all of them. */
function columnOf(table: KeyTable, index: number, params: readonly Interval[]): Interval {
  // From and to are both a row's time; the value after stands where the value before does.
  const column = index === 0 ? 0 : index <= ROW_HEAD ? index - 1 : ROW_HEAD + ((index - ROW_HEAD - 1) % table.width);
  const rows = Array.from({ length: table.count }, (_, k) => params[table.at + k * rowOf(table) + column] ?? EVERYTHING);
  return { low: Math.min(...rows.map((r) => r.low)), high: Math.max(...rows.map((r) => r.high)) };
}

/** @returns for each root, an interval a component */
export function ranges(program: ScalarProgram, params: readonly Interval[], loop: number | null): Interval[][] {
  const found = new Map<ScalarNode, Interval>();
  const range = (node: ScalarNode) => found.get(node)!;
  for (const node of program.nodes) {
    const args = node.args.map(range);
    let interval: Interval;
    switch (node.op) {
      case 'const':
        interval = { low: node.value!, high: node.value! };
        break;
      case 'param':
        interval = params[node.index!] ?? EVERYTHING;
        break;
      case 'leaf':
        if (node.leaf === 'time') interval = { low: 0, high: loop ?? LEAVES.time.high };
        else if (node.leaf === 'loop') interval = { low: loop ?? 0, high: loop ?? 0 };
        else interval = { low: LEAVES[node.leaf!].low, high: LEAVES[node.leaf!].high };
        break;
      case 'call':
        interval = node.kernel!.source.range(args);
        break;
      case 'result':
        // One of a kernel's components: the kernel states one range for all of them.
        // What a table holds there, in any of its rows.
        interval =
          node.args[0]!.op === 'call'
            ? range(node.args[0]!)
            : node.args[0]!.op === 'keys'
              ? columnOf(node.args[0]!.table!, node.index!, params)
              : EVERYTHING;
        break;
      case 'keys':
      case 'arg':
      case 'repeat':
      case 'sample':
        interval = EVERYTHING;
        break;
      default: {
        const rule = RULES[node.op];
        interval = mixOf(node, range) ?? easeOf(node, range) ?? (rule ? rule(args, node.args) : ANYTHING[SCALAR[node.op].result]);
      }
    }
    // An end that is no number (0 times infinity, 1 to the infinite power) says nothing about the value.
    found.set(node, interval.low !== interval.low || interval.high !== interval.high ? EVERYTHING : interval);
  }
  return program.roots.map((root) => root.map(range));
}
