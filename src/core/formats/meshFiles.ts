/**
 * Mesh files of other kinds, made into one binary glTF file that everything else reads: Wavefront OBJ, PLY (text and
 * binary), and glTF with its files beside it.
 */
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { mergeGeometries, mergeVertices } from 'three/examples/jsm/utils/BufferGeometryUtils.js';
import { cutFace } from '../mesh/faces.js';
import { kept } from '../paint/paint.js';
import { MAX_MESH_BYTES, MAX_TRIANGLES, MeshRefused } from './glb.js';
import { writeMesh, type PlainMesh } from './glbPaint.js';
import { endingOf } from './meshNames.js';
import { BadPly, readPly } from './ply.js';

/** A file with what it is called. */
export interface NamedFile {
  readonly name: string;
  readonly bytes: Uint8Array<ArrayBuffer>;
}

type Geometry = ReturnType<typeof mergeVertices>;

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
      return written(main.name, plainOf(objGeometry(main.bytes)));
    case 'ply':
      return written(main.name, plyPlain(main.bytes));
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
    group = new OBJLoader().parse(cutObj(text));
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

function plyPlain(bytes: Uint8Array<ArrayBuffer>): Plain {
  try {
    return { ...readPly(bytes, MAX_TRIANGLES), parts: undefined };
  } catch (error) {
    return refuse(error instanceof BadPly ? error.message : 'It cannot be read as PLY.');
  }
}

/** Faces of more than three corners cut as they lie, where the loader would make a fan of each, beyond a hollow one's edge. */
function cutObj(text: string): string {
  if (!/^\s*f(\s+\S+){4}/m.test(text)) return text;
  const position: number[] = [];
  return text
    .replace(/\\\r?\n/g, ' ')
    .split('\n')
    .map((line) => {
      const [word, ...more] = line.trim().split(/\s+/);
      if (word === 'v') position.push(...more.slice(0, 3).map(Number));
      if (word !== 'f' || more.length < 4) return line;
      const there = position.length / 3;
      const corners = more.map((c) => ((n) => (n < 0 ? there + n : n - 1))(parseInt(c, 10)));
      if (corners.some((c) => !(c >= 0 && c < there))) return line;
      const cut = cutFace(position, corners);
      return Array.from({ length: cut.length / 3 }, (_, k) => `f ${[0, 1, 2].map((j) => more[cut[k * 3 + j]!]).join(' ')}`).join(
        '\n',
      );
    })
    .join('\n');
}

/** What is written of a mesh, whatever it came as. */
interface Plain extends Omit<PlainMesh, 'name'> {
  /** Four numbers a vertex, as the file has them. */
  readonly colour: ArrayLike<number> | null;
}

/** IEC 61966-2-1: the loader takes a file's colours for what is shown, and paint is numbers. */
const asWritten = (linear: number): number =>
  linear <= 0.0031308 ? linear * 12.92 : 1.055 * Math.max(linear, 0) ** (1 / 2.4) - 0.055;

function plainOf({ geometry, parts }: Parted): Plain {
  const of = (name: string) => (geometry.hasAttribute(name) ? geometry.getAttribute(name).array : null);
  const position = of('position')!;
  const rgb = of('color');
  const colour =
    rgb &&
    Float32Array.from({ length: (position.length / 3) * 4 }, (_, k) =>
      k % 4 === 3 ? 1 : asWritten(rgb[(k >> 2) * 3 + (k % 4)]!),
    );
  return { position, normal: of('normal'), uv: of('uv'), index: geometry.getIndex()?.array ?? null, colour, parts };
}

function written(name: string, { position, index, colour, ...mesh }: Plain): Promise<Uint8Array<ArrayBuffer>> {
  const vertices = position.length / 3;
  const triangles = (index?.length ?? vertices) / 3;
  if (triangles < 1) refuse('It has no triangles.');
  if (triangles > MAX_TRIANGLES)
    refuse(
      `It has ${Math.floor(triangles).toLocaleString('en')} triangles; at most ${MAX_TRIANGLES.toLocaleString('en')} are read.`,
    );
  const finite = (list: ArrayLike<number>) => {
    for (let k = 0; k < list.length; k++) if (!Number.isFinite(list[k]!)) return false;
    return true;
  };
  if (!finite(position)) refuse('A face of it names a vertex that is not there, or a place is not a number.');
  if (index)
    for (let k = 0; k < index.length; k++) if (index[k]! >= vertices) refuse('A face of it names a vertex that is not there.');
  const of = (list: ArrayLike<number> | null) => (list && finite(list) ? list : null);
  const paint = of(colour) && Float32Array.from(colour!, kept);
  return writeMesh(
    { ...mesh, name: name.replace(/\.[^.]+$/, ''), position, index, normal: of(mesh.normal), uv: of(mesh.uv) },
    paint,
  );
}

/** What a library says of a file that is broken, as an artist may be told it. */
function sentenceOf({ message }: Error): string {
  const lacking = /(?:extension|required)[^"]*"([\w]{1,60})"/i.exec(message)?.[1];
  if (lacking) return `It needs ${lacking}, an extension of glTF that is not read here.`;
  if (/resource|uri|base64/i.test(message)) return 'A file that it refers to is lacking or broken.';
  return 'It is broken: what it describes and the numbers that it holds do not fit together.';
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
    return refuse(sentenceOf(error as Error));
  }
}
