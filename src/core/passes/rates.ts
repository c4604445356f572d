/** At which rate each node changes, and where a strand may be read. */
import { LEAVES, costlier, type Rate } from '../ir/leaves.js';
import type { Node } from '../ir/types.js';

/** The rate of every node under the roots. */
export function rates(roots: Iterable<Node>): Map<Node, Rate> {
  const found = new Map<Node, Rate>();
  const pending = [...roots];
  while (pending.length > 0) {
    const node = pending[pending.length - 1]!;
    if (found.has(node)) {
      pending.pop();
      continue;
    }
    const missing = node.args.filter((a) => !found.has(a));
    if (missing.length > 0) {
      pending.push(...missing);
      continue;
    }
    pending.pop();
    const own: Rate = node.op === 'leaf' ? LEAVES[node.leaf!].rate : 'once';
    found.set(
      node,
      node.args.reduce<Rate>((rate, a) => costlier(rate, found.get(a)!), own),
    );
  }
  return found;
}

export const atMostFrame = (rate: Rate): boolean => rate === 'once' || rate === 'frame';
