/** What the rules of `simplify.ts` are: one says what an operation is, more plainly, or nothing. */
import type { Builder } from '../../ir/builder.js';
import type { Interval, Node } from '../../ir/types.js';

/** What a rule knows: where the plainer program is built, and what an argument can be, all its components together. */
export interface Known {
  readonly b: Builder;
  readonly range: (arg: number) => Interval;
  /** Whether no more than one reads a node, as it was. */
  readonly alone: (node: Node) => boolean;
}

/**
 * @param args already made plainer @param node as it was
 * @returns null for what the operation gives of them anyway
 */
export type Rule = (args: readonly Node[], known: Known, node: Node) => Node | null;

/** Whether all of it is one written-in number. */
export const is = (node: Node | undefined, value: number): boolean =>
  node?.op === 'const' && node.values!.every((v) => v === value);

/** The first rule that has something to say. */
export const oneOf =
  (...rules: readonly Rule[]): Rule =>
  (args, known, node) => {
    for (const rule of rules) {
      const found = rule(args, known, node);
      if (found) return found;
    }
    return null;
  };

/** `x times c`, however it is written: what is scaled, and by how much. */
export function scaled(b: Builder, node: Node): readonly [Node, Node] | null {
  const [x, y] = node.args as [Node, Node];
  if (node.op === 'mul' && y.op === 'const') return [x, y];
  if (node.op === 'mul' && x.op === 'const') return [y, x];
  return node.op === 'div' && y.op === 'const' && y.values!.every((v) => v !== 0) ? [x, b.div(1, y)] : null;
}

/** `x + c`: what is moved, and by how much; by nothing where it is not. */
export function moved(b: Builder, node: Node): readonly [Node, Node] {
  const [x, y] = node.args as [Node, Node];
  if (node.op === 'add' && y.op === 'const') return [x, y];
  if (node.op === 'add' && x.op === 'const') return [y, x];
  return [node, b.constant(0)];
}

/** What is chosen or mixed between two written-in numbers, times another. */
export function scaledEnds(b: Builder, node: Node, by: Node): Node | null {
  const [x, y, z] = node.args as [Node, Node, Node];
  if (node.op === 'mix' && x.op === 'const' && y.op === 'const') return b.composite('mix', b.mul(x, by), b.mul(y, by), z);
  if (node.op === 'select' && y.op === 'const' && z.op === 'const') return b.op('select', x, b.mul(y, by), b.mul(z, by));
  return null;
}

/** The product of all, its constants in one. */
export function product(b: Builder, parts: readonly Node[]): Node {
  const by = parts.filter((part) => part.op === 'const').reduce((p, q) => b.mul(p, q), b.constant(1));
  const rest = parts.filter((part) => part.op !== 'const');
  const at = is(by, 1) ? -1 : rest.findIndex((part) => scaledEnds(b, part, by) !== null);
  const all = at < 0 ? [...rest, by] : rest.map((part, k) => (k === at ? scaledEnds(b, part, by)! : part));
  return all.reduce((p, q) => b.mul(p, q));
}
