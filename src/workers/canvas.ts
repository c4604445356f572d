/** Makes ready what a brush needs of a mesh; in the canvas worker, or on the page where the mesh is small. */
import { BufferAttribute, BufferGeometry } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { sidesOf } from '../core/mesh/edges.js';
import { neighboursOf, weldsOf } from '../core/mesh/welds.js';
import type { PlainMesh, Prepared, TreeArrays } from '../core/paint/prepared.js';

/** @param onShare how much of it is done, 0 to 1 */
export function prepareMesh({ position, index }: PlainMesh, onShare: (share: number) => void = () => undefined): Prepared {
  onShare(0);
  const welds = weldsOf(position);
  onShare(0.05);
  const neighbours = neighboursOf(index, welds);
  onShare(0.1);
  const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(position, 3));
  if (index) geometry.setIndex(new BufferAttribute(index, 1));
  const bvh = new MeshBVH(geometry, { indirect: true, onProgress: (share) => onShare(0.1 + 0.4 * share) });
  const tree = MeshBVH.serialize(bvh, { cloneBuffers: false }) as unknown as TreeArrays;
  onShare(0.5);
  const sides = sidesOf(position, index ?? Uint32Array.from({ length: position.length / 3 }, (_, k) => k));
  onShare(0.95);
  return { ...{ welds, neighbours, sides }, tree: { ...tree, index: null }, side: meanLength(position, sides) };
}

function meanLength(position: Float32Array, sides: Uint32Array): number {
  let sum = 0;
  for (let k = 0; k < sides.length; k += 2) {
    const [a, b] = [sides[k]! * 3, sides[k + 1]! * 3];
    sum += Math.hypot(position[a]! - position[b]!, position[a + 1]! - position[b + 1]!, position[a + 2]! - position[b + 2]!);
  }
  return sides.length > 0 ? sum / (sides.length / 2) : 0;
}
