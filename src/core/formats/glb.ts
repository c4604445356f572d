/**
 * Reading a binary glTF file (Khronos glTF 2.0) into one mesh: every triangle of its scene, placed as its nodes say.
 * The container is checked by hand before a library reads it, so that a hostile file is refused before it costs much.
 *
 * Limits: 64 MB, 2,000,000 triangles, 6,000,000 vertices, 10,000 nodes. Refused: files that refer to others, compressed meshes.
 */
import type { Accessor, Material, Node, Primitive, Root } from '@gltf-transform/core';
import { reduced } from '../mesh/reduce.js';
import type { MeshAbout, MeshData, MeshPart } from '../mesh/mesh.js';
import { SurfaceReader, type ImageDecoder } from './glbSurfaces.js';

export const MAX_MESH_BYTES = 64 * 1024 * 1024;
export const MAX_TRIANGLES = 2_000_000;
const MAX_VERTICES = 6_000_000;
const MAX_NODES = 10_000;
const MAX_JSON_BYTES = 16 * 1024 * 1024;
/** What its lists come to when each is unpacked. */
const MAX_DESCRIBED_BYTES = 4 * MAX_MESH_BYTES;
/** Metres from the origin. */
const FARTHEST = 1e6;

/** Why a mesh file is refused, as a sentence. */
export class MeshRefused extends Error {}

const MAGIC = 0x46546c67;
const JSON_CHUNK = 0x4e4f534a;
const BIN_CHUNK = 0x004e4942;

const refuse = (why: string): never => {
  throw new MeshRefused(why);
};

type Json = Record<string, unknown>;
const isRecord = (v: unknown): v is Json => typeof v === 'object' && v !== null && !Array.isArray(v);
const list = (json: Json, name: string): Json[] => {
  const value = json[name] ?? [];
  if (!Array.isArray(value) || !value.every(isRecord)) return refuse(`Its "${name}" is not a list, as glTF has it.`);
  return value;
};
const count = (value: unknown, fallback: number, what: string): number => {
  const n = value ?? fallback;
  return typeof n === 'number' && Number.isInteger(n) && n >= 0 ? n : refuse(`Its ${what} is not a whole number.`);
};

const COMPONENT_BYTES: Readonly<Record<number, number>> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
const WIDTH: Readonly<Record<string, number>> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 };
/** What a mesh needs of a file's extensions; materials and animations are passed over. */
const UNREADABLE = /draco|meshopt|EXT_mesh_gpu_instancing/i;

/**
 * Checks the container: lengths, chunks, that nothing points outside the file or beyond its own data.
 * @throws MeshRefused with a sentence
 */
export function checkGlb(bytes: Uint8Array): void {
  if (bytes.byteLength > MAX_MESH_BYTES)
    refuse(`It is ${(bytes.byteLength / 1048576).toFixed(0)} MB; a mesh may be at most ${MAX_MESH_BYTES / 1048576} MB.`);
  if (bytes.byteLength < 20) refuse('It is too short to be a .glb file.');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (view.getUint32(0, true) !== MAGIC) refuse('It is not a .glb file: its first letters are not "glTF".');
  const version = view.getUint32(4, true);
  if (version !== 2) refuse(`It is of glTF version ${version}; version 2 is read.`);
  if (view.getUint32(8, true) !== bytes.byteLength)
    refuse(`It says it is ${view.getUint32(8, true)} bytes long and is ${bytes.byteLength}: it was cut off or added to.`);
  const jsonLength = view.getUint32(12, true);
  if (view.getUint32(16, true) !== JSON_CHUNK || jsonLength > bytes.byteLength - 20)
    refuse('Its first part is not a glTF description.');
  if (jsonLength > MAX_JSON_BYTES) refuse('Its description is larger than 16 MB.');
  let binLength = 0;
  const binAt = 20 + jsonLength;
  if (binAt + 8 <= bytes.byteLength) {
    binLength = view.getUint32(binAt, true);
    if (view.getUint32(binAt + 4, true) !== BIN_CHUNK || binLength > bytes.byteLength - binAt - 8)
      refuse('Its second part is not the data that the first describes.');
  }
  let json: unknown;
  try {
    json = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + jsonLength)));
  } catch {
    refuse('Its description is not JSON.');
  }
  if (!isRecord(json)) return refuse('Its description is not an object.');
  checkDescription(json, binLength);
}

function checkDescription(json: Json, binLength: number): void {
  const required = Array.isArray(json.extensionsRequired) ? json.extensionsRequired.map(String) : [];
  const unreadable = required.find((name) => UNREADABLE.test(name));
  if (unreadable) refuse(`It needs ${unreadable.slice(0, 60)}, which is not read here; export it without compression.`);
  for (const name of ['buffers', 'images'])
    for (const { uri } of list(json, name))
      if (uri !== undefined)
        refuse(
          typeof uri === 'string' && uri.startsWith('data:')
            ? 'It carries data as text inside its description; export it as one binary file.'
            : `It refers to another file, ${JSON.stringify(String(uri).slice(0, 60))}; export it as one file with everything inside.`,
        );
  const buffers = list(json, 'buffers').map((b) => count(b.byteLength, 0, 'buffer length'));
  if (buffers.length > 1) refuse('It has several buffers; a .glb file has one.');
  if ((buffers[0] ?? 0) > binLength) refuse(`It describes ${buffers[0]} bytes of data and holds ${binLength}.`);
  const views = list(json, 'bufferViews').map((v) => {
    const at = count(v.byteOffset, 0, 'data offset');
    const length = count(v.byteLength, 0, 'data length');
    if (count(v.buffer, 0, 'buffer') >= buffers.length || at + length > (buffers[0] ?? 0))
      refuse('A part of its data lies beyond its end.');
    return { length, stride: count(v.byteStride, 0, 'stride') };
  });
  const accessors = list(json, 'accessors');
  let described = 0;
  for (const a of accessors) {
    const size = COMPONENT_BYTES[Number(a.componentType)];
    const width = WIDTH[String(a.type)];
    if (size === undefined || width === undefined) return refuse('It holds numbers of a kind that glTF does not have.');
    const items = count(a.count, 0, 'count');
    if (items > MAX_VERTICES * 3) refuse(`It has a list of ${items} items, more than are read.`);
    if (a.sparse !== undefined) refuse('It stores numbers sparsely, which is not read here.');
    described += items * size * width;
    // Several lists may share data, but each is unpacked by itself.
    if (described > MAX_DESCRIBED_BYTES) refuse('It describes many times more numbers than it holds.');
    if (a.bufferView === undefined) refuse('A list of its numbers has no data of its own, which is not read here.');
    const source = views[count(a.bufferView, 0, 'buffer view')];
    if (!source) return refuse('A list of its numbers points at data that is not there.');
    const stride = source.stride || size * width;
    if (items > 0 && count(a.byteOffset, 0, 'offset') + stride * (items - 1) + size * width > source.length)
      refuse('A list of its numbers is longer than its data.');
  }
  const nodes = list(json, 'nodes');
  if (nodes.length > MAX_NODES) refuse(`It has ${nodes.length} nodes; at most ${MAX_NODES} are read.`);
  checkTree(nodes);
}

/** A node that is its own ancestor, or has two parents, would be walked for ever or many times. */
function checkTree(nodes: readonly Json[]): void {
  const parents = new Int32Array(nodes.length).fill(-1);
  nodes.forEach((node, k) => {
    const children = node.children ?? [];
    if (!Array.isArray(children)) return refuse('The children of a node are not a list.');
    for (const child of children) {
      const c = count(child, 0, 'child');
      if (c >= nodes.length) refuse('A node has a child that is not there.');
      if (parents[c] !== -1) refuse('A node has two parents.');
      parents[c] = k;
    }
  });
  for (let k = 0; k < nodes.length; k++) {
    let steps = 0;
    for (let at = k; at !== -1; at = parents[at]!) if (++steps > nodes.length) refuse('A node is its own ancestor.');
  }
}

interface Piece {
  readonly node: Node;
  readonly primitive: Primitive;
}

const TRIANGLES = 4;
const STRIP = 5;
const FAN = 6;

/** The corners of a primitive's triangles, as places in its vertices. */
export function cornersOf(primitive: Primitive, vertices: number): Uint32Array {
  const given = primitive.getIndices();
  const n = given ? given.getCount() : vertices;
  const at = (k: number) => (given ? given.getScalar(k) : k);
  const mode = primitive.getMode() as number;
  const corners: number[] = [];
  if (mode === TRIANGLES) for (let k = 0; k + 2 < n; k += 3) corners.push(at(k), at(k + 1), at(k + 2));
  else if (mode === STRIP) for (let k = 0; k + 2 < n; k++) corners.push(at(k), at(k + 1 + (k & 1)), at(k + 2 - (k & 1)));
  else if (mode === FAN) for (let k = 1; k + 1 < n; k++) corners.push(at(0), at(k), at(k + 1));
  const list = Uint32Array.from(corners);
  if (list.some((c) => c >= vertices)) refuse('A triangle has a corner that is not there.');
  return list;
}

const TRANSFORM = {
  point: (m: readonly number[], [x, y, z]: readonly number[]) =>
    [0, 1, 2].map((r) => m[r]! * x! + m[r + 4]! * y! + m[r + 8]! * z! + m[r + 12]!),
  /** By the cofactors, which turn normals rightly under uneven scale; a mirror turns them round. */
  normal: (m: readonly number[], [x, y, z]: readonly number[]) => {
    const c = (a: number, b: number, d: number, e: number) => m[a]! * m[e]! - m[b]! * m[d]!;
    const out = [
      c(5, 6, 9, 10) * x! + c(9, 10, 1, 2) * y! + c(1, 2, 5, 6) * z!,
      c(6, 4, 10, 8) * x! + c(10, 8, 2, 0) * y! + c(2, 0, 6, 4) * z!,
      c(4, 5, 8, 9) * x! + c(8, 9, 0, 1) * y! + c(0, 1, 4, 5) * z!,
    ];
    const length = Math.hypot(...out) || 1;
    return out.map((v) => v / length);
  },
};

/** What of a file's scene is made of triangles, in the order in which a mesh has it: what is made of the same lies together. */
export function piecesOf(root: Root): Piece[] {
  const pieces: Piece[] = [];
  const scene = root.getDefaultScene() ?? root.listScenes()[0];
  scene?.traverse((node) => {
    for (const primitive of node.getMesh()?.listPrimitives() ?? [])
      if (primitive.getAttribute('POSITION') && [TRIANGLES, STRIP, FAN].includes(primitive.getMode() as number))
        pieces.push({ node, primitive });
  });
  const materials = [...new Set(pieces.map(({ primitive }) => primitive.getMaterial()))];
  return pieces.sort((a, b) => materials.indexOf(a.primitive.getMaterial()) - materials.indexOf(b.primitive.getMaterial()));
}

/**
 * One mesh from a file. Uv is turned so that v goes up, as it does here; normals that are missing are made smooth.
 * @param decode of the pictures that its surfaces look up; none are read without it
 * @throws MeshRefused with a sentence
 */
export async function readGlb(
  bytes: Uint8Array,
  onProgress: MeshProgress = () => undefined,
  decode: ImageDecoder | null = null,
): Promise<MeshData> {
  checkGlb(bytes);
  // Loaded when there is a mesh to read: most pages and every start of the server go without it.
  const { WebIO } = await import('@gltf-transform/core');
  const { Quantization } = await import('./quantization.js');
  const document = await new WebIO()
    .registerExtensions([Quantization])
    .readBinary(bytes)
    .catch((error: Error) => refuse(`It cannot be read: ${error.message}.`));
  const pieces = piecesOf(document.getRoot());
  let vertices = 0;
  let triangles = 0;
  for (const { primitive } of pieces) {
    const position = primitive.getAttribute('POSITION')!;
    vertices += position.getCount();
    const n = primitive.getIndices()?.getCount() ?? position.getCount();
    triangles += primitive.getMode() === TRIANGLES ? Math.floor(n / 3) : Math.max(0, n - 2);
  }
  if (triangles === 0) refuse('It has no triangles in its scene.');
  if (triangles > MAX_TRIANGLES || vertices > MAX_VERTICES)
    refuse(`It has ${triangles.toLocaleString('en')} triangles; at most ${MAX_TRIANGLES.toLocaleString('en')} are read.`);
  const mesh = gather(pieces, vertices, triangles, onProgress);
  const reader = new SurfaceReader();
  const parts = partsOf(pieces, reader);
  const images = decode && parts.length > 0 ? await reader.images(decode) : [];
  return { ...mesh, parts, images, reduced: await reduced(mesh.position, mesh.index) };
}

/** Runs of triangles by what they are made of; none where no material says anything. */
function partsOf(pieces: readonly Piece[], reader: SurfaceReader): MeshPart[] {
  const runs: { material: Material | null; start: number; count: number }[] = [];
  let start = 0;
  for (const { primitive } of pieces) {
    const count = cornersOf(primitive, primitive.getAttribute('POSITION')!.getCount()).length;
    const material = primitive.getMaterial();
    const last = runs.at(-1);
    if (last?.material === material) last.count += count;
    else runs.push({ material, start, count });
    start += count;
  }
  if (runs.every(({ material }) => material === null)) return [];
  return runs.map(({ material, start, count }) => ({
    ...{ start, count },
    surface: material ? reader.surfaceOf(material) : UNSAID,
  }));
}

/** What is made of nothing that its file names. */
const UNSAID: MeshPart['surface'] = {
  ...{ name: '', rgb: [0.2, 0.2, 0.2], roughness: 0.6, metalness: 0, emission: [0, 0, 0], bothSides: false },
  ...{ base: null, normal: null, rough: null },
};

/** Told how much of a mesh has been read: a share, and the triangles it has in all. */
export type MeshProgress = (share: number, triangles: number) => void;

/** Vertices and triangles between two words about progress. */
const STEP = 1 << 16;

function gather(
  pieces: readonly Piece[],
  vertices: number,
  triangles: number,
  onProgress: MeshProgress,
): Omit<MeshData, 'reduced' | 'parts' | 'images'> {
  let done = 0;
  const tick = () => {
    if (done++ % STEP === 0) onProgress(done / (vertices + triangles), triangles);
  };
  const position = new Float32Array(vertices * 3);
  const normal = new Float32Array(vertices * 3);
  const uv = new Float32Array(vertices * 2);
  const has = (name: string) => pieces.some(({ primitive }) => primitive.getAttribute(name));
  const uv1 = has('TEXCOORD_1') ? new Float32Array(vertices * 2) : null;
  const colour = has('COLOR_0') ? new Float32Array(vertices * 4).fill(1) : null;
  const index = new Uint32Array(triangles * 3);
  let at = 0;
  let corner = 0;
  let hadNormals = true;
  for (const { node, primitive } of pieces) {
    const matrix = node.getWorldMatrix();
    // A mirrored piece turns its triangles inside out, and the cofactors its normals: both are turned back.
    const mirrored = determinant(matrix) < 0;
    const points = primitive.getAttribute('POSITION')!;
    const normals = primitive.getAttribute('NORMAL');
    const n = points.getCount();
    const item: number[] = [];
    for (let k = 0; k < n; k++) {
      tick();
      position.set(TRANSFORM.point(matrix, points.getElement(k, item)), (at + k) * 3);
      if (normals)
        normal.set(
          TRANSFORM.normal(matrix, normals.getElement(k, item)).map((v) => (mirrored ? -v : v)),
          (at + k) * 3,
        );
    }
    copyUv(primitive.getAttribute('TEXCOORD_0'), uv, at);
    if (uv1) copyUv(primitive.getAttribute('TEXCOORD_1'), uv1, at);
    const paint = primitive.getAttribute('COLOR_0');
    if (colour && paint) for (let k = 0; k < n; k++) colour.set(paint.getElement(k, item).slice(0, 4), (at + k) * 4);
    const corners = cornersOf(primitive, n);
    for (let k = 0; k < corners.length; k += 3) {
      tick();
      const [a, b, c] = [corners[k]!, corners[k + (mirrored ? 2 : 1)]!, corners[k + (mirrored ? 1 : 2)]!];
      index.set([at + a, at + b, at + c], corner);
      corner += 3;
    }
    const own = index.subarray(corner - corners.length, corner);
    if (!normals) {
      hadNormals = false;
      smoothNormals(position, normal, own);
    } else mendNormals(position, normal, own, at, at + n);
    at += n;
  }
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let k = 0; k < position.length; k++) {
    const v = position[k]!;
    if (!Number.isFinite(v) || Math.abs(v) > FARTHEST)
      refuse('It has a corner that is not a number, or farther than 1000 km away.');
    low[k % 3] = Math.min(low[k % 3]!, v);
    high[k % 3] = Math.max(high[k % 3]!, v);
  }
  for (let k = 0; k < uv.length; k++) if (!Number.isFinite(uv[k]!)) uv[k] = 0;
  const about: MeshAbout = {
    vertices,
    triangles,
    low: low as [number, number, number],
    high: high as [number, number, number],
    hadNormals,
    hadUv: has('TEXCOORD_0'),
  };
  return { position, normal, uv, uv1, colour, index, about };
}

function copyUv(source: Accessor | null, into: Float32Array, at: number): void {
  if (!source) return;
  const item: number[] = [];
  for (let k = 0; k < source.getCount(); k++) {
    const [u, v] = source.getElement(k, item);
    into[(at + k) * 2] = u!;
    into[(at + k) * 2 + 1] = 1 - v!;
  }
}

const determinant = (m: readonly number[]): number =>
  m[0]! * (m[5]! * m[10]! - m[9]! * m[6]!) - m[4]! * (m[1]! * m[10]! - m[9]! * m[2]!) + m[8]! * (m[1]! * m[6]! - m[5]! * m[2]!);

/** Normals that are no direction are made smooth, as missing ones are. */
function mendNormals(position: Float32Array, normal: Float32Array, index: Uint32Array, from: number, to: number): void {
  const bad: number[] = [];
  for (let v = from; v < to; v++) {
    const length = Math.hypot(normal[v * 3]!, normal[v * 3 + 1]!, normal[v * 3 + 2]!);
    if (!(length > 1e-6 && length < 1e6)) bad.push(v);
  }
  if (bad.length === 0) return;
  const smooth = new Float32Array(normal.length);
  smoothNormals(position, smooth, index);
  for (const v of bad) {
    const n = smooth.subarray(v * 3, v * 3 + 3);
    normal.set(n.some((c) => c !== 0) ? n : [0, 1, 0], v * 3);
  }
}

/** Each corner's normal is the sum of its triangles', weighed by their area. */
function smoothNormals(position: Float32Array, normal: Float32Array, index: Uint32Array): void {
  const side = (a: number, b: number) => [0, 1, 2].map((k) => position[b * 3 + k]! - position[a * 3 + k]!);
  for (let t = 0; t < index.length; t += 3) {
    const [a, b, c] = [index[t]!, index[t + 1]!, index[t + 2]!];
    const u = side(a, b);
    const v = side(a, c);
    const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
    for (const corner of [a, b, c]) for (let k = 0; k < 3; k++) normal[corner * 3 + k]! += n[k]!;
  }
  for (const corner of new Set(index)) {
    const n = normal.subarray(corner * 3, corner * 3 + 3);
    const length = Math.hypot(n[0]!, n[1]!, n[2]!);
    if (length > 0) n.forEach((v, k) => (n[k] = v / length));
    else n.set([0, 1, 0]);
  }
}
