/** Meshes of the props: primitives made here, and those of the artist's own from plain numbers. */
import {
  BoxGeometry,
  BufferAttribute,
  BufferGeometry,
  CapsuleGeometry,
  CylinderGeometry,
  Float32BufferAttribute,
  PlaneGeometry,
  SphereGeometry,
  TorusGeometry,
} from 'three';
import type { MeshData } from '../core/formats/mesh.js';
import type { Primitive } from '../core/formats/stage.js';

/** Effects read vertex colours of every mesh: 1 where it has none. */
function withVertexColour(geometry: BufferGeometry, colour: Float32Array | null = null): BufferGeometry {
  const attribute = colour
    ? new BufferAttribute(colour, 4)
    : new BufferAttribute(new Uint8Array(geometry.getAttribute('position').count * 4).fill(255), 4, true);
  return geometry.setAttribute('vertexColour', attribute);
}

export const geometryOf = (source: Primitive): BufferGeometry => withVertexColour(shapeOf(source));

function shapeOf(source: Primitive): BufferGeometry {
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
    case 'ring':
      return new TorusGeometry(source.radius, source.thickness / 2, 24, 128);
    case 'dome':
      return new SphereGeometry(source.radius, 96, 32, 0, 2 * Math.PI, 0, Math.PI / 2);
    case 'cylinder':
      return new CylinderGeometry(source.radius, source.radius, source.length, 64, 16);
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

export function geometryFromMesh(mesh: MeshData): BufferGeometry {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(mesh.position, 3));
  geometry.setAttribute('normal', new BufferAttribute(mesh.normal, 3));
  geometry.setAttribute('uv', new BufferAttribute(mesh.uv, 2));
  if (mesh.uv1) geometry.setAttribute('uv1', new BufferAttribute(mesh.uv1, 2));
  geometry.setIndex(new BufferAttribute(mesh.index, 1));
  return withVertexColour(geometry, mesh.colour);
}
