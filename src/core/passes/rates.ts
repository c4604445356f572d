/** At which rate each node changes, and where a strand may be read. */
import { LEAVES, costlier, type Rate } from '../ir/leaves.js';
import type { Node } from '../ir/types.js';

/**
 * Something of every node under the roots, made of what its arguments have; deep graphs are no depth of calls.
 * @param of a node and what was found of its arguments
 * @param known what was found before: it is added to, and nothing in it is asked again
 */
export function folded<T>(
  roots: Iterable<Node>,
  of: (node: Node, args: readonly T[]) => T,
  known = new Map<Node, T>(),
): Map<Node, T> {
  const pending = [...roots];
  while (pending.length > 0) {
    const node = pending[pending.length - 1]!;
    if (known.has(node)) {
      pending.pop();
      continue;
    }
    const missing = node.args.filter((a) => !known.has(a));
    if (missing.length > 0) {
      pending.push(...missing);
      continue;
    }
    pending.pop();
    known.set(
      node,
      of(
        node,
        node.args.map((a) => known.get(a)!),
      ),
    );
  }
  return known;
}

/** The rate of every node under the roots. @param known of a run before, added to */
export const rates = (roots: Iterable<Node>, known?: Map<Node, Rate>): Map<Node, Rate> =>
  folded<Rate>(roots, (node, args) => args.reduce(costlier, node.op === 'leaf' ? LEAVES[node.leaf!].rate : 'once'), known);

export const atMostFrame = (rate: Rate): boolean => rate === 'once' || rate === 'frame';
