/** The same value of other things: a graph built once more, some of its leaves replaced. */
import { folded } from '../base/reach.js';
import type { Builder } from './builder.js';
import type { Node } from './types.js';

/**
 * @param into the builder of the result, which may be the graph's own
 * @param replacing what stands for a node; null for the node itself, of its arguments as they have become
 * @param known of a run before with the same replacing, added to
 */
export const rebuilt = (into: Builder, root: Node, replacing: (node: Node) => Node | null, known?: Map<Node, Node>): Node =>
  folded<Node, Node>([root], (node, args) => replacing(node) ?? into.again(node, args), known).get(root)!;
