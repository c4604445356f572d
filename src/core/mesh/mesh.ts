/** A mesh as plain numbers: what a prop of the artist's own is made of. */

export interface MeshData {
  /** Three numbers a vertex, metres. */
  readonly position: Float32Array<ArrayBuffer>;
  /** Three numbers a vertex, unit length. */
  readonly normal: Float32Array<ArrayBuffer>;
  /** Two numbers a vertex, v up; zeros where the file has none. */
  readonly uv: Float32Array<ArrayBuffer>;
  readonly uv1: Float32Array<ArrayBuffer> | null;
  /** Four numbers a vertex, linear, 0 to 1. */
  readonly colour: Float32Array<ArrayBuffer> | null;
  readonly index: Uint32Array<ArrayBuffer>;
  /** The same shape of far fewer triangles; null for meshes that are small enough as they are. */
  readonly reduced: Uint32Array<ArrayBuffer> | null;
  readonly about: MeshAbout;
}

export interface MeshAbout {
  readonly vertices: number;
  readonly triangles: number;
  /** Smallest and largest corner, metres. */
  readonly low: readonly [number, number, number];
  readonly high: readonly [number, number, number];
  readonly hadNormals: boolean;
  readonly hadUv: boolean;
}
