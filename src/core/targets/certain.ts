/** What a node's shape alone makes certain of its value, so that the text needs no guard. */
import type { Node } from '../ir/types.js';

const constant = (node: Node | undefined, holds: (v: number) => boolean): boolean =>
  node?.op === 'const' && node.values!.every(holds);

/** Never below 0: a square, what is held there, and sums and products of such. */
export function isNotBelow0(node: Node): boolean {
  const [x, y] = node.args as [Node, Node];
  switch (node.op) {
    case 'const':
      return constant(node, (v) => v >= 0);
    case 'mul':
      return x === y || (isNotBelow0(x) && isNotBelow0(y));
    case 'add':
      return isNotBelow0(x) && isNotBelow0(y);
    case 'dot':
      return x === y;
    case 'max':
      return isNotBelow0(x) || isNotBelow0(y);
    case 'clamp':
      return constant(y, (v) => v >= 0) && constant(node.args[2], (v) => v >= 0);
    case 'abs':
    case 'sqrt':
    case 'length':
    case 'fract':
      return true;
    default:
      return false;
  }
}

/** Never 0: a number that is not, and what is held above it. */
export function isNever0(node: Node): boolean {
  const [x, y, z] = node.args as [Node, Node, Node];
  const above = (v: number) => v > 0;
  switch (node.op) {
    case 'const':
      return constant(node, (v) => v !== 0);
    case 'max':
      return constant(x, above) || constant(y, above);
    case 'clamp':
      return constant(y, above) && constant(z, above);
    default:
      return false;
  }
}
