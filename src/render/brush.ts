/** A brush on a mesh: where the pointer's ray meets it, and which vertices are within reach. By a tree of bounding volumes. */
import { DoubleSide, Matrix4, Ray, Sphere, Triangle, Vector3, type BufferGeometry, type Mesh } from 'three';
import { MeshBVH, type SerializedBVH } from 'three-mesh-bvh';
import { canvasOf, type Canvas } from '../core/paint/paint.js';
import type { Prepared } from '../core/paint/prepared.js';
import type { Touched } from '../core/paint/stroke.js';

/** Where a ray meets the mesh. */
export interface Struck {
  /** On the stage. */
  readonly world: [number, number, number];
  /** In the prop's own space. */
  readonly local: [number, number, number];
  /** The corners of the triangle there, and the share of each. */
  readonly corners: readonly [number, number, number];
  readonly shares: readonly [number, number, number];
}

/** A mesh that is drawn, to be painted. */
export const canvasOfGeometry = (geometry: BufferGeometry): Canvas =>
  canvasOf({
    position: geometry.getAttribute('position').array,
    normal: geometry.getAttribute('normal').array,
    index: geometry.getIndex()?.array ?? null,
  });

export class BrushOnMesh {
  private readonly tree: MeshBVH;
  private readonly position: ArrayLike<number>;
  /** In which search each vertex was last met. */
  private readonly met: Uint32Array;
  private search = 0;

  /** @param mesh as it is when it is asked for @param base its geometry at rest, all of its triangles */
  constructor(
    private readonly mesh: () => Mesh | undefined,
    private readonly base: BufferGeometry,
    prepared: Pick<Prepared, 'tree'>,
  ) {
    this.tree = MeshBVH.deserialize(prepared.tree as unknown as SerializedBVH, base, { setIndex: false });
    this.position = base.getAttribute('position').array;
    this.met = new Uint32Array(base.getAttribute('position').count);
  }

  private corner(triangle: number, k: number): number {
    const index = this.base.getIndex();
    return index ? index.getX(triangle * 3 + k) : triangle * 3 + k;
  }

  private point(vertex: number, into: Vector3): Vector3 {
    return into.fromArray(this.position as number[], vertex * 3);
  }

  /** The nearest place of the mesh, whichever of its sides is seen. @param direction of length 1, on the stage */
  strike(origin: readonly [number, number, number], direction: readonly [number, number, number]): Struck | null {
    const matrixWorld = this.mesh()?.matrixWorld;
    if (!matrixWorld || matrixWorld.determinant() === 0) return null;
    const ray = new Ray(new Vector3(...origin), new Vector3(...direction)).applyMatrix4(new Matrix4().copy(matrixWorld).invert());
    const hit = this.tree.raycastFirst(ray, DoubleSide);
    if (!hit) return null;
    const triangle = hit.faceIndex!;
    const corners = [0, 1, 2].map((k) => this.corner(triangle, k)) as [number, number, number];
    const [a, b, c] = corners.map((v) => this.point(v, new Vector3()));
    const shares = Triangle.getBarycoord(hit.point, a!, b!, c!, new Vector3());
    return {
      ...{ corners, shares: shares ? [shares.x, shares.y, shares.z] : [1, 0, 0] },
      local: hit.point.toArray(),
      world: hit.point.clone().applyMatrix4(matrixWorld).toArray(),
    };
  }

  /** The vertices of the nearest point within reach; of the triangle where none is. @param point which point each vertex is at */
  nearest(struck: Struck, reach: number, point: ArrayLike<number>): [number, ...number[]] {
    const near = this.within(struck.local, reach).sort((a, b) => a.distance - b.distance);
    const first = near[0]?.vertex ?? struck.corners[struck.shares.indexOf(Math.max(...struck.shares))]!;
    return [first, ...near.map((t) => t.vertex).filter((v) => v !== first && point[v] === point[first])];
  }

  /** The vertices within reach of a place, on whichever side of the mesh. @param local of the prop's own @param radius metres on the stage */
  within(local: readonly [number, number, number], radius: number): Touched[] {
    const matrixWorld = this.mesh()?.matrixWorld;
    if (!matrixWorld) return [];
    const middle = new Vector3(...local);
    const scales = [0, 1, 2].map((k) => new Vector3().setFromMatrixColumn(matrixWorld, k).length());
    const least = Math.max(1e-9, Math.min(...scales));
    const sphere = new Sphere(middle, radius / least);
    const there = middle.clone().applyMatrix4(matrixWorld);
    const now = ++this.search;
    const found: Touched[] = [];
    const at = new Vector3();
    this.tree.shapecast({
      intersectsBounds: (box) => sphere.intersectsBox(box),
      intersectsTriangle: (_, triangle) => {
        for (let k = 0; k < 3; k++) {
          const vertex = this.corner(triangle, k);
          if (this.met[vertex] === now) continue;
          this.met[vertex] = now;
          const distance = this.point(vertex, at).applyMatrix4(matrixWorld).distanceTo(there);
          if (distance <= radius) found.push({ vertex, distance });
        }
        return false;
      },
    });
    return found;
  }
}
