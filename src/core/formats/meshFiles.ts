/**
 * Mesh files of other kinds, made into one binary glTF file that everything else reads: Wavefront OBJ, PLY (text and
 * binary), and glTF with its files beside it.
 */
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js';
import { mergeGeometries, mergeVertices } from 'three/examples/jsm/utils/BufferGeometryUtils.js';
import { kept } from '../paint/paint.js';
import { MAX_MESH_BYTES, MAX_TRIANGLES, MeshRefused } from './glb.js';
import { writeMesh, type PlainMesh } from './glbPaint.js';
import { endingOf } from './meshNames.js';

/** A file with what it is called. */
export interface NamedFile {
  readonly name: string;
  readonly bytes: Uint8Array<ArrayBuffer>;
}

type Geometry = ReturnType<PLYLoader['parse']>;

const refuse = (why: string): never => {
  throw new MeshRefused(why);
};

/**
 * @param main the mesh; @param beside files that were chosen together with it
 * @returns a binary glTF file; one that is one already, as it is
 * @throws MeshRefused with a sentence
 */
export async function toGlb(main: NamedFile, beside: readonly NamedFile[] = []): Promise<Uint8Array<ArrayBuffer>> {
  const size = [main, ...beside].reduce((sum, f) => sum + f.bytes.byteLength, 0);
  if (size > MAX_MESH_BYTES)
    refuse(`It is ${(size / 1048576).toFixed(0)} MB; a mesh may be at most ${MAX_MESH_BYTES / 1048576} MB.`);
  switch (endingOf(main.name)) {
    case 'gltf':
      return fromGltf(main, beside);
    case 'obj':
      return written(main.name, objGeometry(main.bytes));
    case 'ply':
      return written(main.name, { geometry: plyGeometry(main.bytes), parts: undefined });
    default:
      return main.bytes;
  }
}

type Named = { readonly name: string };

/** A geometry, and the runs of its corners that are made of one material; null where the file names none. */
interface Parted {
  readonly geometry: Geometry;
  readonly parts: PlainMesh['parts'];
}

function objGeometry(bytes: Uint8Array): Parted {
  const text = new TextDecoder().decode(bytes);
  if (!/^\s*(f|v)\s/m.test(text)) refuse('It is not an OBJ file: it has no lines of vertices and faces.');
  let group: ReturnType<OBJLoader['parse']>;
  try {
    group = new OBJLoader().parse(text);
  } catch {
    return refuse('It cannot be read as OBJ.');
  }
  const found: Geometry[] = [];
  const parts: { name: string; start: number; count: number }[] = [];
  let corners = 0;
  group.traverse((object) => {
    // Lines and points of such a file are no surface.
    if (!('isMesh' in object)) return;
    const { geometry, material } = object as unknown as { geometry: Geometry; material: Named | Named[] };
    const length = geometry.getAttribute('position').count;
    const runs = geometry.groups.length > 0 ? geometry.groups : [{ start: 0, count: length, materialIndex: 0 }];
    for (const { start, count, materialIndex } of runs) {
      const of = Array.isArray(material) ? material[materialIndex ?? 0] : material;
      if (count > 0) parts.push({ name: of?.name ?? '', start: corners + start, count });
    }
    corners += length;
    found.push(geometry);
  });
  if (found.length === 0) return refuse('It has no triangles.');
  // What some pieces lack, none has.
  for (const name of ['normal', 'uv', 'color'])
    if (found.some((g) => !g.hasAttribute(name))) for (const g of found) g.deleteAttribute(name);
  for (const g of found) g.clearGroups();
  // Corners stay in their order.
  return { geometry: mergeVertices(mergeGeometries(found)), parts: /^\s*usemtl\s/m.test(text) ? parts : undefined };
}

function plyGeometry(bytes: Uint8Array<ArrayBuffer>): Geometry {
  if (!/^ply\s/.test(new TextDecoder('latin1').decode(bytes.subarray(0, 4))))
    refuse('It is not a PLY file: it does not begin with "ply".');
  let geometry: Geometry;
  try {
    geometry = new PLYLoader().parse(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
  } catch {
    return refuse('It cannot be read as PLY.');
  }
  if (!geometry.hasAttribute('position') || !geometry.getIndex()) refuse('It has no triangles, only points.');
  return geometry;
}

function written(name: string, { geometry, parts }: Parted): Promise<Uint8Array<ArrayBuffer>> {
  const index = geometry.getIndex()?.array ?? null;
  const position = geometry.getAttribute('position');
  const triangles = (index?.length ?? position.count) / 3;
  if (triangles < 1) refuse('It has no triangles.');
  if (triangles > MAX_TRIANGLES)
    refuse(
      `It has ${Math.floor(triangles).toLocaleString('en')} triangles; at most ${MAX_TRIANGLES.toLocaleString('en')} are read.`,
    );
  const finite = (list: ArrayLike<number>) => {
    for (let k = 0; k < list.length; k++) if (!Number.isFinite(list[k]!)) return false;
    return true;
  };
  if (!finite(position.array)) refuse('A face of it names a vertex that is not there, or a place is not a number.');
  if (index)
    for (let k = 0; k < index.length; k++)
      if (index[k]! >= position.count) refuse('A face of it names a vertex that is not there.');
  const of = (attribute: string) => {
    const list = geometry.hasAttribute(attribute) ? geometry.getAttribute(attribute).array : null;
    return list && finite(list) ? list : null;
  };
  const colour = of('color');
  const paint =
    colour &&
    Float32Array.from({ length: position.count * 4 }, (_, k) => (k % 4 === 3 ? 1 : kept(colour[(k >> 2) * 3 + (k % 4)]!)));
  return writeMesh(
    { name: name.replace(/\.[^.]+$/, ''), position: position.array, normal: of('normal'), uv: of('uv'), index, parts },
    paint,
  );
}

/** A description with its numbers and pictures in files of their own, made one. */
async function fromGltf(main: NamedFile, beside: readonly NamedFile[]): Promise<Uint8Array<ArrayBuffer>> {
  let json: unknown;
  try {
    json = JSON.parse(new TextDecoder().decode(main.bytes));
  } catch {
    return refuse('It is not a glTF description: it is not JSON.');
  }
  if (typeof json !== 'object' || json === null) return refuse('It is not a glTF description.');
  const lists = ['buffers', 'images'].flatMap((name) => {
    const list = (json as Record<string, unknown>)[name];
    return Array.isArray(list) ? (list as unknown[]) : [];
  });
  const resources: Record<string, Uint8Array<ArrayBuffer>> = {};
  for (const item of lists) {
    const uri = typeof item === 'object' && item !== null && 'uri' in item ? item.uri : undefined;
    if (typeof uri !== 'string' || uri.startsWith('data:')) continue;
    const wanted = decodeURIComponent(uri).split(/[\\/]/).pop()!;
    const file = beside.find((f) => f.name === wanted);
    if (!file) return refuse(`It refers to ${JSON.stringify(wanted.slice(0, 60))}: choose both together.`);
    resources[uri] = file.bytes;
  }
  const { WebIO } = await import('@gltf-transform/core');
  const { Quantization } = await import('./quantization.js');
  const io = new WebIO().registerExtensions([Quantization]);
  try {
    const document = await io.readJSON({ json: json as Parameters<typeof io.readJSON>[0]['json'], resources });
    return Uint8Array.from(await io.writeBinary(document));
  } catch (error) {
    return refuse(`It cannot be read: ${(error as Error).message}.`);
  }
}
