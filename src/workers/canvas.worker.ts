/** Gets a mesh ready for the brush, away from the page. */
import { expose, transfer } from 'comlink';
import type { PlainMesh, Prepared } from '../core/paint/prepared.js';
import { prepareMesh } from './canvas.js';

const preparer = {
  /** @param onShare how much of it is done, 0 to 1 */
  prepare(mesh: PlainMesh, onShare: (share: number) => void): Prepared {
    let told = -1;
    // A tree tells of every split: one message a percent is enough.
    const made = prepareMesh(mesh, (share) => {
      if (share < told + 0.01) return;
      told = share;
      onShare(share);
    });
    const { welds, neighbours, sides, tree } = made;
    const { roots, indirectBuffer: order } = tree;
    return transfer(made, [
      ...([welds.point.buffer, neighbours.first.buffer, neighbours.beside.buffer, sides.buffer] as ArrayBuffer[]),
      ...roots,
      ...(order ? [order.buffer as ArrayBuffer] : []),
    ]);
  },
};
export type Preparer = typeof preparer;

expose(preparer);
