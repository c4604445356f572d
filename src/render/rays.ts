/** What lies behind a point along a line, found among the opaque meshes: for places that no picture shows. */
import { DoubleSide, Matrix4, Ray, Vector3, type BufferGeometry, type Mesh } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { reducedOf } from './geometry.js';

/** By the array that says which triangles there are: meshes that differ in their paint alone share a tree. */
const trees = new WeakMap<object, MeshBVH>();

export function treeOf(geometry: BufferGeometry): MeshBVH {
  const coarse = reducedOf(geometry) ?? geometry;
  const key = (coarse.getIndex() ?? coarse.getAttribute('position')).array;
  let tree = trees.get(key);
  // Its own order of triangles, so that the mesh keeps the one it has.
  if (!tree) trees.set(key, (tree = new MeshBVH(coarse, { indirect: true })));
  return tree;
}

const inverse = new Matrix4();
const ray = new Ray();

/**
 * @param direction of unit length, on the stage
 * @returns the nearest point of the meshes from there on; null where there is none
 */
export function firstBehind(meshes: readonly Mesh[], from: Vector3, direction: Vector3): Vector3 | null {
  let nearest: Vector3 | null = null;
  for (const mesh of meshes) {
    if (mesh.matrixWorld.determinant() === 0) continue;
    inverse.copy(mesh.matrixWorld).invert();
    ray.origin.copy(from).applyMatrix4(inverse);
    ray.direction.copy(direction).transformDirection(inverse);
    const hit = treeOf(mesh.geometry).raycastFirst(ray, DoubleSide);
    if (!hit) continue;
    const point = hit.point.applyMatrix4(mesh.matrixWorld);
    if (!nearest || point.distanceToSquared(from) < nearest.distanceToSquared(from)) nearest = point;
  }
  return nearest;
}

/** Changes when any of the meshes does: where it is, or what it is. */
export const meshesKey = (meshes: readonly Mesh[]): string =>
  meshes.map((m) => `${m.geometry.uuid} ${m.matrixWorld.elements.join()}`).join(';');
