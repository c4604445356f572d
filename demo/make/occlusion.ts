/** How much of the sky each vertex sees, by rays: baked into the colour of the vertices, where glTF multiplies with it. */
import { DoubleSide, Ray, Vector3, type BufferGeometry } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { dice } from './field.js';

const RAYS = 40;

/** Directions of the half sphere about +z, spread by the cosine (Malley's method, Pharr et al. 2016, 13.6.2). */
const ABOUT_Z = (() => {
  const roll = dice(4711);
  return Array.from({ length: RAYS }, (_, k) => {
    const [u, v] = [(k + roll()) / RAYS, (k * 0.618034 + roll() / RAYS) % 1];
    const r = Math.sqrt(u);
    return new Vector3(r * Math.cos(2 * Math.PI * v), r * Math.sin(2 * Math.PI * v), Math.sqrt(Math.max(0, 1 - u)));
  });
})();

/**
 * @param whole all that stands there; @param reach metres from which on nothing takes light away
 * @returns a number a vertex, 1 where all of the sky is seen
 */
export function occlusionOf(geometry: BufferGeometry, whole: MeshBVH, reach: number): Float32Array {
  const [p, n] = [geometry.getAttribute('position'), geometry.getAttribute('normal')];
  const seen = new Float32Array(p.count);
  const ray = new Ray();
  const [normal, side, up] = [new Vector3(), new Vector3(), new Vector3()];
  for (let k = 0; k < p.count; k++) {
    normal.fromBufferAttribute(n, k).normalize();
    side.set(Math.abs(normal.y) < 0.9 ? 0 : 1, Math.abs(normal.y) < 0.9 ? 1 : 0, 0).cross(normal).normalize();
    up.crossVectors(normal, side);
    ray.origin.fromBufferAttribute(p, k).addScaledVector(normal, 0.004);
    let taken = 0;
    for (const d of ABOUT_Z) {
      ray.direction
        .set(0, 0, 0)
        .addScaledVector(side, d.x)
        .addScaledVector(up, d.y)
        .addScaledVector(normal, d.z)
        .normalize();
      const hit = whole.raycastFirst(ray, DoubleSide, 0, reach);
      if (hit) taken += 1 - hit.distance / reach;
    }
    seen[k] = 1 - taken / RAYS;
  }
  return seen;
}
