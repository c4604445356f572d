/** Meshes of the primitive props, and of the room they stand in. */
import { BoxGeometry, BufferGeometry, CapsuleGeometry, Float32BufferAttribute, PlaneGeometry, SphereGeometry } from 'three';
import type { PropSource } from '../core/formats/stage.js';

export function geometryOf(source: PropSource): BufferGeometry {
  switch (source.primitive) {
    case 'sphere':
      return new SphereGeometry(source.radius, 96, 48);
    case 'box':
      return new BoxGeometry(...source.size, 8, 8, 8);
    case 'plane':
      return new PlaneGeometry(...source.size, 64, 64);
    case 'tube':
      return withLengthwiseUv(
        new CapsuleGeometry(source.radius, Math.max(1e-3, source.length - 2 * source.radius), 12, 48, 24),
        source.length,
      );
  }
}

/** v runs evenly from one end of the tube to the other, u once around. */
function withLengthwiseUv(geometry: BufferGeometry, length: number): BufferGeometry {
  const position = geometry.getAttribute('position');
  const uv = geometry.getAttribute('uv');
  const next = new Float32Array(uv.count * 2);
  for (let k = 0; k < uv.count; k++) {
    next[k * 2] = uv.getX(k);
    next[k * 2 + 1] = position.getY(k) / length + 0.5;
  }
  geometry.setAttribute('uv', new Float32BufferAttribute(next, 2));
  return geometry;
}
