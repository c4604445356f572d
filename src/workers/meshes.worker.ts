/** The mesh worker: reads mesh files away from the page. */
import { MeshRefused, readGlb } from '../core/formats/glb.js';
import type { MeshAnswer, MeshRequest } from './meshes.js';

addEventListener('message', ({ data }: MessageEvent<MeshRequest>) => {
  const answer = (message: MeshAnswer, transfer: Transferable[] = []) => postMessage(message, { transfer });
  const onProgress = (share: number, triangles: number) => answer({ ok: null, share, triangles });
  readGlb(new Uint8Array(data.bytes), onProgress).then(
    (mesh) => {
      const { position, normal, uv, uv1, colour, index, reduced } = mesh;
      const lists = [position, normal, uv, uv1, colour, index, reduced].filter((l) => l !== null);
      answer(
        { ok: true, mesh },
        lists.map((l) => l.buffer),
      );
    },
    (error: Error) => answer({ ok: false, why: error instanceof MeshRefused ? error.message : 'It could not be read.' }),
  );
});
