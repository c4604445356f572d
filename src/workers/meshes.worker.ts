/** The mesh worker: reads mesh files away from the page. */
import { expose, transfer } from 'comlink';
import { MeshRefused, readGlb, type MeshProgress } from '../core/formats/glb.js';
import type { MeshData } from '../core/mesh/mesh.js';

const reader = {
  /** @throws with a sentence when it is refused */
  async read(bytes: ArrayBuffer, onProgress?: MeshProgress): Promise<MeshData> {
    const mesh = await readGlb(new Uint8Array(bytes), onProgress).catch((error: Error) => {
      throw new Error(error instanceof MeshRefused ? error.message : 'It could not be read.');
    });
    const { position, normal, uv, uv1, colour, index, reduced } = mesh;
    const lists = [position, normal, uv, uv1, colour, index, reduced].filter((l) => l !== null);
    return transfer(
      mesh,
      lists.map((l) => l.buffer),
    );
  },
};
export type MeshReader = typeof reader;

expose(reader);
