/** A mesh that is drawn, as a brush has it. */
import type { BufferGeometry } from 'three';
import type { Canvas } from '../core/paint/paint.js';
import type { PlainMesh, Prepared } from '../core/paint/prepared.js';

/** The arrays of a geometry, as they are where they are of these kinds already. */
export function plainOf(geometry: BufferGeometry): PlainMesh {
  const position = geometry.getAttribute('position').array;
  const index = geometry.getIndex()?.array ?? null;
  return {
    position: position instanceof Float32Array ? position : Float32Array.from(position),
    index: index === null || index instanceof Uint32Array ? index : Uint32Array.from(index),
  };
}

/** A mesh that is drawn, to be painted. */
export const canvasFrom = (geometry: BufferGeometry, { welds, neighbours }: Prepared): Canvas => ({
  vertices: geometry.getAttribute('position').count,
  position: geometry.getAttribute('position').array,
  normal: geometry.getAttribute('normal').array,
  index: geometry.getIndex()?.array ?? null,
  ...{ welds, neighbours },
});
