/** Meshes of the artists' own: fetched once, read in a worker, kept for as long as the page lives. */
import { proxy, transfer } from 'comlink';
import type { MeshProgress } from '../core/formats/glb.js';
import type { NamedFile } from '../core/formats/meshFiles.js';
import type { MeshData } from '../core/mesh/mesh.js';
import type { MeshReader } from '../workers/meshes.worker.js';
import { readInWorker } from './fileWorker.js';

const reads = new Map<string, Promise<MeshData>>();

/** Reads a mesh file in a worker of its own, which ends with it. @throws with a sentence when it is refused */
export const readMeshFile = (name: string, bytes: ArrayBuffer, onProgress?: MeshProgress): Promise<MeshData> =>
  readInWorker<MeshReader, MeshData>(
    new Worker(new URL('../workers/meshes.worker.ts', import.meta.url), { type: 'module' }),
    name,
    (reader) => reader.read(transfer(bytes, [bytes]), onProgress && proxy(onProgress)),
  );

/** A mesh file of any kind as binary glTF, in a worker of its own. @throws with a sentence when it is refused */
export const convertMesh = (main: NamedFile, beside: readonly NamedFile[]): Promise<ArrayBuffer> =>
  readInWorker<MeshReader, ArrayBuffer>(
    new Worker(new URL('../workers/meshes.worker.ts', import.meta.url), { type: 'module' }),
    main.name,
    (reader) => reader.convert(main, [...beside]),
  );

/** Every triangle of a .glb as four. @throws with a sentence when it is refused */
export const finerMesh = (name: string, bytes: ArrayBuffer): Promise<ArrayBuffer> =>
  readInWorker<MeshReader, ArrayBuffer>(
    new Worker(new URL('../workers/meshes.worker.ts', import.meta.url), { type: 'module' }),
    name,
    (reader) => reader.finer(transfer(bytes, [bytes])),
  );

/** The file of a mesh as the server has it. @param why what is said where it cannot be had @throws with that */
export async function meshBytes(sha256: string, why: string): Promise<ArrayBuffer> {
  const response = await fetch(`/api/assets/${sha256}`).catch(() => null);
  if (!response?.ok) throw new Error(why);
  return response.arrayBuffer();
}

const fetchMesh = async (sha256: string): Promise<MeshData> =>
  readMeshFile(
    'A mesh of this stage',
    await meshBytes(sha256, 'A mesh of this stage is not on the server, so its prop is not shown.'),
  );

/** Keeps a mesh that was read already. */
export function keepMesh(sha256: string, mesh: MeshData): void {
  reads.set(sha256, Promise.resolve(mesh));
}

/** The mesh with this content. @throws with a sentence when it cannot be had */
export function meshOf(sha256: string): Promise<MeshData> {
  let read = reads.get(sha256);
  if (!read) {
    reads.set(sha256, (read = fetchMesh(sha256)));
    read.catch(() => reads.delete(sha256));
  }
  return read;
}
