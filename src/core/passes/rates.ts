/** At which rate each node changes, and where a strand may be read. */
import { folded } from '../base/reach.js';
import { LEAVES, costlier, type Rate } from '../ir/leaves.js';
import type { Node } from '../ir/types.js';

/** The rate of every node under the roots. @param known of a run before, added to */
export const rates = (roots: Iterable<Node>, known?: Map<Node, Rate>): Map<Node, Rate> =>
  folded<Node, Rate>(roots, (node, args) => args.reduce(costlier, node.op === 'leaf' ? LEAVES[node.leaf!].rate : 'once'), known);

export const atMostFrame = (rate: Rate): boolean => rate === 'once' || rate === 'frame';
