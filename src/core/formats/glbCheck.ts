/**
 * What is looked at of a binary glTF file (Khronos glTF 2.0) before a library reads it, so that a hostile one is refused
 * before it costs much: lengths, chunks, and that nothing points outside the file or beyond its own data.
 */

export const MAX_MESH_BYTES = 64 * 1024 * 1024;
export const MAX_TRIANGLES = 2_000_000;
export const MAX_VERTICES = 6_000_000;
const MAX_NODES = 10_000;
const MAX_JSON_BYTES = 16 * 1024 * 1024;
/** What its lists come to when each is unpacked. */
const MAX_DESCRIBED_BYTES = 4 * MAX_MESH_BYTES;

/** Why a mesh file is refused, as a sentence. */
export class MeshRefused extends Error {}

const MAGIC = 0x46546c67;
const JSON_CHUNK = 0x4e4f534a;
const BIN_CHUNK = 0x004e4942;

export const refuse = (why: string): never => {
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
    const sparse = a.sparse === undefined ? 0 : sparsely(a.sparse, items, size * width, views);
    described += items * size * width;
    // Several lists may share data, but each is unpacked by itself.
    if (described > MAX_DESCRIBED_BYTES) refuse('It describes many times more numbers than it holds.');
    // Zeros, but for what is said sparsely: no more of them than a hundred for each that is said.
    if (a.bufferView === undefined && sparse > 0 && items <= sparse * 100 + 1024) continue;
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

/** Some numbers of a list in place of those that are there. @returns how many @throws MeshRefused where they lie beyond what there is */
function sparsely(sparse: unknown, items: number, bytes: number, views: readonly { readonly length: number }[]): number {
  if (!isRecord(sparse) || !isRecord(sparse.indices) || !isRecord(sparse.values))
    return refuse('A list of its numbers is sparse, and says not how.');
  const some = count(sparse.count, 0, 'count');
  if (some > items) refuse('A sparse list of its numbers says more than it has.');
  const size =
    COMPONENT_BYTES[Number(sparse.indices.componentType)] ?? refuse('It holds numbers of a kind that glTF does not have.');
  for (const [{ bufferView, byteOffset }, each] of [
    [sparse.indices, size],
    [sparse.values, bytes],
  ] as const) {
    const view = views[count(bufferView, -1, 'buffer view')];
    if (!view || count(byteOffset, 0, 'offset') + each * some > view.length)
      refuse('A sparse list of its numbers is longer than its data.');
  }
  return some;
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
