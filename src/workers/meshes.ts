/** Messages of the mesh worker: a file's bytes in, a mesh or a sentence out. */
import type { MeshData } from '../core/mesh/mesh.js';

export interface MeshRequest {
  readonly bytes: ArrayBuffer;
}

export type MeshAnswer =
  | { readonly ok: true; readonly mesh: MeshData }
  | { readonly ok: false; readonly why: string }
  /** Not the answer yet. */
  | { readonly ok: null; readonly share: number; readonly triangles: number };
