/**
 * Reading a binary glTF file (Khronos glTF 2.0) into one mesh: every triangle of its scene, placed as its nodes say.
 * The container is checked by hand before a library reads it, so that a hostile file is refused before it costs much.
 *
 * Limits: 64 MB, 2,000,000 triangles, 6,000,000 vertices, 10,000 nodes. Refused: files that refer to others, compressed meshes.
 */
import type { Accessor, Material, Node, Primitive, Root } from '@gltf-transform/core';
import { MAX_TRIANGLES, MAX_VERTICES, checkGlb, refuse } from './glbCheck.js';
import { reduced } from '../mesh/reduce.js';
import type { MeshAbout, MeshData, MeshPart } from '../mesh/mesh.js';
import { SurfaceReader, type ImageDecoder } from './glbSurfaces.js';

export { MAX_MESH_BYTES, MAX_TRIANGLES, MeshRefused, checkGlb } from './glbCheck.js';

/** Metres from the origin. */
const FARTHEST = 1e6;

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

/** A file as a library has it. */
export async function rootOf(bytes: Uint8Array): Promise<Root> {
  // Loaded when there is a mesh to read: most pages and every start of the server go without it.
  const { WebIO } = await import('@gltf-transform/core');
  const { Quantization } = await import('./quantization.js');
  const document = await new WebIO()
    .registerExtensions([Quantization])
    .readBinary(bytes)
    .catch(() => refuse('It is broken: what it describes and the numbers that it holds do not fit together.'));
  return document.getRoot();
}

/** A piece with where the file's own lists have it: which node, which mesh, and which of its primitives. */
export interface PlacedPiece {
  readonly node: number;
  readonly mesh: number;
  readonly place: number;
  readonly primitive: Primitive;
}

/** As `piecesOf`. */
export function placedPieces(root: Root): PlacedPiece[] {
  const [nodes, meshes] = [root.listNodes(), root.listMeshes()];
  return piecesOf(root).map(({ node, primitive }) => {
    const mesh = node.getMesh()!;
    return {
      ...{ node: nodes.indexOf(node), mesh: meshes.indexOf(mesh) },
      ...{ place: mesh.listPrimitives().indexOf(primitive), primitive },
    };
  });
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
  const pieces = piecesOf(await rootOf(bytes));
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

/** Smooth normals of a primitive that has none, in its own space: three numbers a vertex. */
export function madeNormals(primitive: Primitive): Float32Array<ArrayBuffer> {
  const points = primitive.getAttribute('POSITION')!;
  const count = points.getCount();
  const position = new Float32Array(count * 3);
  const item: number[] = [];
  for (let k = 0; k < count; k++) position.set(points.getElement(k, item), k * 3);
  const normal = new Float32Array(count * 3);
  smoothNormals(position, normal, cornersOf(primitive, count));
  for (let k = 0; k < count; k++) if (!normal.subarray(k * 3, k * 3 + 3).some((v) => v !== 0)) normal[k * 3 + 1] = 1;
  return normal;
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
