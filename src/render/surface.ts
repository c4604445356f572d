/** Points of a mesh with all that it carries there, found by the triangle that each lies on. */
import { Triangle, Vector3, type BufferAttribute, type BufferGeometry, type Mesh, type PerspectiveCamera } from 'three';
import type { RestPoints, Stand } from '../core/places/surface.js';
import type { Leaf } from '../core/ir/leaves.js';
import { addAllSlopes, reducedOf } from './geometry.js';
import { treeOf } from './rays.js';

/** How channels change along the surface, where an effect has asked for it: the attributes' names are the leaves'. */
const SLOPES: readonly Leaf[] = (['objectNormal', 'uv', 'uv1', 'vertexColour'] as const).flatMap((name): Leaf[] => [
  `${name}Dt`,
  `${name}Db`,
]);

/** What stands for a channel that a mesh has not. */
const ABSENT = { uv: [0, 0], uv1: [0, 0], vertexColour: [1, 1, 1, 1] } as const;

/** A point that is known to lie on a mesh, in the mesh's own space; normal and uv where they are known better than by its triangle. */
export interface OnMesh {
  readonly position: readonly number[];
  readonly normal?: readonly number[];
  readonly uv?: readonly number[];
}

/** @param geometry as it is drawn; @param moves the surface is moved, so that how its channels change along it counts */
export function pointsOn(geometry: BufferGeometry, wanted: readonly OnMesh[], moves = false): RestPoints {
  if (moves) addAllSlopes(geometry);
  const count = wanted.length;
  const tree = treeOf(geometry);
  // The tree's triangles are those of the reduced copy where there is one; its vertices are the same.
  const index = (reducedOf(geometry) ?? geometry).getIndex();
  const lanes = (width: number) => Array.from({ length: width }, () => new Float32Array(count));
  const corners = [new Vector3(), new Vector3(), new Vector3()] as const;
  const [point, weights, face] = [new Vector3(), new Vector3(), new Vector3()];
  const places = {
    ...{ position: lanes(3), objectNormal: lanes(3), faceNormal: lanes(3), uv: lanes(2), uv1: lanes(2), vertexColour: lanes(4) },
  };
  const asked = SLOPES.filter((name) => geometry.hasAttribute(name));
  const slopes = Object.fromEntries(asked.map((name) => [name, lanes(geometry.getAttribute(name).itemSize)])) as Partial<
    Record<Leaf, Float32Array[]>
  >;
  // Three numbers a corner, of which the least at a point is how far its nearest edge is.
  const edged = geometry.hasAttribute('edge') ? lanes(2) : null;
  const put = (planes: Float32Array[], k: number, values: readonly number[]) =>
    planes.forEach((plane, lane) => (plane[k] = values[lane]!));
  wanted.forEach(({ position, normal, uv }, k) => {
    point.fromArray(position);
    const found = tree.closestPointToPoint(point);
    const triangle = found?.faceIndex ?? 0;
    const vertices = [0, 1, 2].map((c) => (index ? index.getX(triangle * 3 + c) : triangle * 3 + c)) as [number, number, number];
    const at = geometry.getAttribute('position');
    corners.forEach((corner, c) => corner.fromBufferAttribute(at, vertices[c]!));
    Triangle.getBarycoord(found?.point ?? point, ...corners, weights);
    Triangle.getNormal(...corners, face);
    const shares = weights.toArray();
    const mean = (name: string): number[] => {
      const attribute = geometry.getAttribute(name) as BufferAttribute;
      return Array.from({ length: attribute.itemSize }, (_, lane) =>
        vertices.reduce((sum, v, c) => sum + shares[c]! * attribute.getComponent(v, lane), 0),
      );
    };
    const channel = (name: keyof typeof ABSENT) => (geometry.hasAttribute(name) ? mean(name) : ABSENT[name]);
    put(places.position, k, position);
    put(places.objectNormal, k, normal ?? new Vector3(...(mean('normal') as [number, number, number])).normalize().toArray());
    put(places.faceNormal, k, face.toArray());
    put(places.uv, k, uv ?? channel('uv'));
    put(places.uv1, k, channel('uv1'));
    put(places.vertexColour, k, channel('vertexColour'));
    for (const name of asked) put(slopes[name]!, k, mean(name));
    if (edged) put(edged, k, [Math.min(...mean('edge')), Math.min(...mean('edgeQuad'))]);
  });
  return { count, ...places, slopes, ...(edged ? { edges: edged } : {}) };
}

/** All vertices of a mesh, in their order, with what it carries there. */
export function verticesOf(geometry: BufferGeometry): RestPoints {
  const count = geometry.getAttribute('position').count;
  const lanesOf = (name: string, fallback: readonly number[]) =>
    fallback.map((absent, lane) => {
      const attribute = geometry.hasAttribute(name) ? geometry.getAttribute(name) : null;
      return Float32Array.from({ length: count }, (_, v) => attribute?.getComponent(v, lane) ?? absent);
    });
  const normal = lanesOf('normal', [0, 1, 0]);
  return {
    ...{ count, position: lanesOf('position', [0, 0, 0]), objectNormal: normal, faceNormal: normal },
    ...{ uv: lanesOf('uv', ABSENT.uv), uv1: lanesOf('uv1', ABSENT.uv1) },
    ...{ vertexColour: lanesOf('vertexColour', ABSENT.vertexColour), slopes: {} },
  };
}

/** Where a prop stands and how the camera sees it, as plain numbers. */
export function standOf(mesh: Mesh, camera: PerspectiveCamera): Stand {
  return {
    model: [...mesh.matrixWorld.elements],
    eye: { model: [...camera.matrixWorld.elements], projection: [...camera.projectionMatrix.elements] },
  };
}
