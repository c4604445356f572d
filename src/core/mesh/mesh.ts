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
  /** Runs of triangles and what each is made of, as its file says; empty where it says nothing. */
  readonly parts: readonly MeshPart[];
  /** Pictures that the surfaces of its parts look up. */
  readonly images: readonly MeshImage[];
  readonly about: MeshAbout;
}

/** Corners `start` to `start + count` of the index are made of one surface. */
export interface MeshPart {
  readonly start: number;
  readonly count: number;
  readonly surface: MeshSurface;
}

/** What a part is made of, as glTF 2.0 has it: metallic-roughness, linear numbers. Pictures by their place in `images`. */
export interface MeshSurface {
  readonly name: string;
  readonly rgb: readonly [number, number, number];
  readonly roughness: number;
  readonly metalness: number;
  readonly emission: readonly [number, number, number];
  readonly bothSides: boolean;
  /** sRGB; multiplied by `rgb`. */
  readonly base: number | null;
  /** Tangent space, +y up. */
  readonly normal: { readonly image: number; readonly strength: number } | null;
  /** Roughness in green, metalness in blue. */
  readonly rough: number | null;
}

/** Eight bits a channel, four channels, the lowest row first, as v goes. */
export interface MeshImage {
  readonly width: number;
  readonly height: number;
  readonly rgba: Uint8Array<ArrayBuffer>;
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
