/**
 * What every value *can be*: interval arithmetic over scalar programs whose kernels are whole
 * (`scalarise(roots, { paste: false })`), so that each gives its proved range. Bounds are outer: never too narrow.
 *
 * Ends are rounded as values are. Rounding to a 32-bit float keeps order, so that an end that is computed in doubles and
 * then rounded is met by no value from beyond it. Where an end was rounded, other machines may have the float beside
 * it: a step there (`floor`, a comparison) counts as taken and as not taken.
 */
import { nextDown, nextUp } from '../base/floats.js';
import { ROW_HEAD, rowOf, type KeyTable } from '../base/keys.js';
import { LEAVES, type Leaf } from '../ir/leaves.js';
import { EVERYTHING, type Bounds } from '../ir/operations/ranges.js';
import { OPERATIONS } from '../ir/operations/table.js';
import type { Interval } from '../ir/types.js';
import type { ScalarNode, ScalarProgram } from './scalarise.js';

/** Bounds of places, a component each, where more is known of them than of any (`ir/leaves.ts`). */
export type PlaceBounds = Partial<Record<Leaf, readonly Interval[]>>;

/**
 * mix(x, y, t) with t in 0..1 stays between x and y, but for the one float that its roundings can add, and for none at an
 * end that is 0 or a power of two, where what they add is lost in the last (tried, 70 million of them); x (1 - t) + y t is
 * recognised by its shape. Where x or y is 0 alone, the other's product is all that is rounded, and the plain rule is as narrow.
 */
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
  const low = Math.min(a.low, b.low);
  const high = Math.max(a.high, b.high);
  if ([a, b].some((i) => i.low === 0 && i.high === 0)) return { low, high };
  return { low: isRound(low) ? low : nextDown(low), high: isRound(high) ? high : nextUp(high) };
}

/** Products with it are exact, and floats above it stand twice as far apart as those below. */
const isRound = (x: number): boolean => x === 0 || Math.abs(x) === 2 ** Math.round(Math.log2(Math.abs(x)));

/** What the roundings of that polynomial can come to, as a share. */
const ROUNDING = 2 ** -22;

/** The smoothstep polynomial c c (3 - 2 c) of c in 0..1 stays in 0..1: no float there gives more (tried, all of them). */
function easeOf(node: ScalarNode, range: (n: ScalarNode) => Interval): Interval | null {
  if (node.op !== 'mul') return null;
  const [square, rest] = node.args;
  const c = square?.args[0];
  if (square?.op !== 'mul' || !c || c !== square.args[1]) return null;
  if (rest?.op !== 'sub' || rest.args[0]?.value !== 3 || rest.args[1]?.op !== 'mul' || rest.args[1].args[1] !== c) return null;
  const { low, high } = range(c);
  const ease = (x: number) => x * x * (3 - 2 * x);
  return low >= 0 && high <= 1
    ? { low: Math.max(0, ease(low) * (1 - ROUNDING)), high: Math.min(1, ease(high) * (1 + ROUNDING)) }
    : null;
}

/** The polynomial c c c (c (6 c - 15) + 10) of c in 0..1 stays in 0..1, but for what its roundings come to. */
function smootherOf(node: ScalarNode, range: (n: ScalarNode) => Interval): Interval | null {
  if (node.op !== 'mul') return null;
  const [cube, rest] = node.args;
  const c = cube?.args[1];
  const isCube = cube?.op === 'mul' && cube.args[0]?.op === 'mul' && cube.args[0].args[0] === c && cube.args[0].args[1] === c;
  const inner = rest?.op === 'add' && rest.args[1]?.value === 10 ? rest.args[0] : undefined;
  const slope = inner?.op === 'mul' && inner.args[0] === c ? inner.args[1] : undefined;
  const line = slope?.op === 'sub' && slope.args[1]?.value === 15 ? slope.args[0] : undefined;
  if (!isCube || line?.op !== 'mul' || line.args[0] !== c || line.args[1]?.value !== 6) return null;
  const { low, high } = range(c!);
  return low >= 0 && high <= 1 ? { low: 0, high: 1 + 4 * ROUNDING } : null;
}

/** Bounds of one number of a look at keys, over all of them. */
function columnOf(table: KeyTable, index: number, params: readonly Interval[]): Interval {
  // From and to are both a row's time; the value after stands where the value before does.
  const column = index === 0 ? 0 : index <= ROW_HEAD ? index - 1 : ROW_HEAD + ((index - ROW_HEAD - 1) % table.width);
  const rows = Array.from({ length: table.count }, (_, k) => params[table.at + k * rowOf(table) + column] ?? EVERYTHING);
  return { low: Math.min(...rows.map((r) => r.low)), high: Math.max(...rows.map((r) => r.high)) };
}

/** What a kernel states of each of its components. */
function rangesOf(call: ScalarNode, args: readonly Interval[]): readonly Interval[] {
  const stated = call.kernel!.source.range(args);
  return 'low' in stated ? [stated] : stated;
}

const hullOf = (all: readonly Interval[]): Interval => ({
  low: Math.min(...all.map((i) => i.low)),
  high: Math.max(...all.map((i) => i.high)),
});

/** One of a kernel's components; what a table holds there, in any of its rows. */
function resultOf(
  { args: [whole], index }: ScalarNode,
  range: (n: ScalarNode) => Interval,
  params: readonly Interval[],
): Interval {
  if (whole!.op === 'keys') return columnOf(whole!.table!, index!, params);
  if (whole!.op !== 'call') return EVERYTHING;
  const stated = rangesOf(whole!, whole!.args.map(range));
  return stated[Math.min(index!, stated.length - 1)]!;
}

/** An interval of doubles, as the floats that values are. */
function settled({ low, high }: Interval, args: readonly Bounds[], computed: boolean): Bounds {
  // An end that is no number (0 times infinity, 1 to the infinite power) says nothing about the value.
  if (low !== low || high !== high) return { ...EVERYTHING, rounded: false };
  const [a, b] = [Math.fround(low), Math.fround(high)];
  return { low: a, high: b, rounded: computed && (a !== low || b !== high || args.some((x) => x.rounded)) };
}

/**
 * @param params bounds of each live number
 * @param loop in seconds; null for an effect that runs on, whose time has no end
 * @param places bounds of places where more is known of them than of any: of the props that wear the effect
 * @returns for each root, an interval a component
 */
export function ranges(
  program: ScalarProgram,
  params: readonly Interval[],
  loop: number | null,
  places: PlaceBounds = {},
): Interval[][] {
  const found = new Map<ScalarNode, Bounds>();
  const range = (node: ScalarNode): Bounds => found.get(node)!;
  for (const node of program.nodes) {
    const args = node.args.map(range);
    let interval: Interval;
    let computed = false;
    switch (node.op) {
      case 'const':
        interval = { low: node.value!, high: node.value! };
        break;
      case 'param':
        interval = params[node.index!] ?? EVERYTHING;
        break;
      case 'leaf':
        if (node.leaf === 'time') interval = { low: 0, high: loop ?? Infinity };
        else if (node.leaf === 'loop') interval = { low: loop ?? 0, high: loop ?? 0 };
        else interval = places[node.leaf!]?.[node.lane ?? 0] ?? { low: LEAVES[node.leaf!].low, high: LEAVES[node.leaf!].high };
        break;
      case 'call':
        interval = hullOf(rangesOf(node, args));
        break;
      case 'result':
        interval = resultOf(node, range, params);
        break;
      case 'keys':
      case 'arg':
      case 'repeat':
      case 'sample':
        interval = EVERYTHING;
        break;
      default: {
        const shaped = mixOf(node, range) ?? easeOf(node, range) ?? smootherOf(node, range);
        computed = shaped === null;
        interval = shaped ?? OPERATIONS[node.op].range(args, node.args);
      }
    }
    found.set(node, settled(interval, args, computed));
  }
  return program.roots.map((root) => root.map((n) => ({ low: range(n).low, high: range(n).high })));
}
