/** The same value of other things: a graph built once more, some of its nodes replaced. */
import type { Builder } from './builder.js';
import type { Node } from './types.js';

/**
 * @param into the builder of the result, which may be the graph's own
 * @param replacing what stands for a node; null for the node itself, of its arguments as they have become
 */
export function rebuilt(into: Builder, root: Node, replacing: (node: Node) => Node | null): Node {
  const done = new Map<Node, Node>();
  const pending = [root];
  while (pending.length > 0) {
    const node = pending[pending.length - 1]!;
    if (done.has(node)) {
      pending.pop();
      continue;
    }
    const other = replacing(node);
    const missing = other ? [] : node.args.filter((a) => !done.has(a));
    if (missing.length > 0) {
      pending.push(...missing);
      continue;
    }
    pending.pop();
    done.set(
      node,
      other ??
        into.again(
          node,
          node.args.map((a) => done.get(a)!),
        ),
    );
  }
  return done.get(root)!;
}
