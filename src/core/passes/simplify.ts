/**
 * A program whose numbers are written in, made plainer: what cannot matter, by what every value can be, is left out.
 * Values stay what they were but for the last digit or two. A shader that is handed on pays for nothing that its numbers
 * rule out; a live one is left as it is, for its numbers turn.
 */
import { folded, reach } from '../base/reach.js';
import { own } from '../base/wholesome.js';
import type { Builder } from '../ir/builder.js';
import { LEAF_NAMES, type Leaf } from '../ir/leaves.js';
import { EVERYTHING } from '../ir/operations/ranges.js';
import type { Interval, Node } from '../ir/types.js';
import { ranges, type PlaceBounds } from './ranges.js';
import { NUMBERS, asksRanges } from './rules/numbers.js';
import { oneOf, type Rule } from './rules/rule.js';
import { VECTORS } from './rules/vectors.js';
import { scalarise } from './scalarise.js';

const FROM_0_TO_1: Interval = { low: 0, high: 1 };
const FROM_0: Interval = { low: 0, high: Infinity };
/**
 * What no stage can have otherwise. The other places' bounds are those of ordinary stages, which the readings show; a
 * program that is handed on may stand on any.
 */
const ALWAYS: Partial<Record<Leaf, Interval>> = {
  ...{ facing: FROM_0_TO_1, propRandom: FROM_0_TO_1, moteAge: FROM_0_TO_1, moteRandom: FROM_0_TO_1 },
  ...{ edgePixels: FROM_0, edgeMetres: FROM_0, edgePixelsQuad: FROM_0, edgeMetresQuad: FROM_0, moteIndex: FROM_0 },
};
const ANYWHERE: PlaceBounds = Object.fromEntries(
  LEAF_NAMES.map((name) => [name, Array<Interval>(4).fill(ALWAYS[name] ?? EVERYTHING)]),
);

const NEVER: Rule = () => null;
const RULES = Object.fromEntries(
  [...new Set([...Object.keys(NUMBERS), ...Object.keys(VECTORS)])].map((op) => [
    op,
    oneOf(NUMBERS[op as Node['op']] ?? NEVER, VECTORS[op as Node['op']] ?? NEVER),
  ]),
) as Partial<Record<Node['op'], Rule>>;

/**
 * @param roots what the program gives
 * @param params bounds of each live number, where any is left
 * @param loop in seconds; null for an effect that runs on
 * @returns what stands for each node under the roots
 */
export function simplified(
  b: Builder,
  roots: readonly Node[],
  params: readonly Interval[],
  loop: number | null,
): ReadonlyMap<Node, Node> {
  const asked = [
    ...new Set(
      reach(roots, (node) => node.args)
        .filter(asksRanges)
        .flatMap((node) => node.args),
    ),
  ];
  const bounds = ranges(scalarise(asked, { paste: false }), params, loop, ANYWHERE);
  const bound = new Map(
    asked.map((node, k): [Node, Interval] => [
      node,
      { low: Math.min(...bounds[k]!.map((i) => i.low)), high: Math.max(...bounds[k]!.map((i) => i.high)) },
    ]),
  );
  const readers = new Map<Node, number>();
  for (const node of reach(roots, (n) => n.args)) for (const arg of node.args) readers.set(arg, (readers.get(arg) ?? 0) + 1);
  return folded<Node, Node>(roots, (node, args) => {
    const plainer = own(RULES, node.op)?.(
      args,
      {
        b,
        range: (k) => bound.get(node.args[k]!)!,
        alone: (of) => (readers.get(of) ?? 0) <= 1,
      },
      node,
    );
    if (plainer) return plainer;
    return args.every((arg, k) => arg === node.args[k]) ? node : b.again(node, args);
  });
}
