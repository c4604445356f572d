/** What is done to one component after another. */
import type { Builder } from '../ir/builder.js';
import { widthOf, type Kernel, type Node } from '../ir/types.js';

/** Calls a kernel of single numbers on every component. */
export function eachComponent(b: Builder, kernel: Kernel, ...values: Node[]): Node {
  const width = Math.max(...values.map((v) => widthOf(v.type)));
  const wide = values.map((v) => b.split(b.widen(v, width)));
  return b.join(...Array.from({ length: width }, (_, k) => b.call(kernel, ...wide.map((v) => v[k]!))));
}
