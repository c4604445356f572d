/** What a brush needs of a mesh, made once: which vertices are one point, what lies beside what, a tree of its triangles, its sides. */
import type { Neighbours, Welds } from '../mesh/welds.js';

/** A tree of bounding volumes as plain arrays, as `three-mesh-bvh` writes and reads it. */
export interface TreeArrays {
  readonly version: number;
  readonly roots: ArrayBuffer[];
  readonly index: null;
  readonly indirectBuffer: Uint32Array | Uint16Array | null;
}

/** A mesh as plain arrays: three numbers a vertex; three vertices a triangle, or null where the vertices follow one another. */
export interface PlainMesh {
  readonly position: Float32Array;
  readonly index: Uint32Array | null;
}

/** All of it is arrays, so that a worker can hand it over. */
export interface Prepared {
  readonly welds: Welds;
  readonly neighbours: Neighbours;
  readonly tree: TreeArrays;
  /** The sides of its triangles, two vertices each, but those that only cut a quad in two. */
  readonly sides: Uint32Array;
  /** Their mean length, metres of the prop's own. */
  readonly side: number;
}
