/** Lattices that have been walked along for long: kernels that count the laps of some of their axes in. */
import type { Builder } from '../builder.js';
import { typeOf, type Kernel, type Node } from '../types.js';

/** Cells with the laps of some of their axes counted in. @param far as many integers as there are such axes */
export function countedIn(b: Builder, cell: Node, lanes: readonly number[], far: Node | undefined): Node {
  if (!far) return cell;
  return b.join(...b.split(cell).map((c, k) => (lanes.includes(k) ? b.op('iadd', c, b.pick(far, lanes.indexOf(k))) : c)));
}

/** A kernel by the axes along which it may have come far, made when it is asked for. */
export function byLanes<K extends Kernel>(make: (lanes: readonly number[]) => K): (lanes: readonly number[]) => K {
  const made = new Map<string, K>();
  return (lanes) => {
    const key = lanes.join('');
    let kernel = made.get(key);
    if (!kernel) made.set(key, (kernel = make(lanes)));
    return kernel;
  };
}
/** What tells such a kernel from its like, and the argument that it has besides. */
export const farName = (lanes: readonly number[]) => (lanes.length > 0 ? `Far${lanes.map((k) => 'XYZW'[k]).join('')}` : '');
export const farParam = (lanes: readonly number[]) =>
  lanes.length > 0 ? [{ name: 'far', type: typeOf('i', lanes.length) }] : [];
