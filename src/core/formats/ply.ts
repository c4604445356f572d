/** PLY, as Greg Turk's description of the format has it (Stanford, 1994): text, and binary of either order of bytes. */
import { cutFace } from '../mesh/faces.js';

export interface PlyMesh {
  /** Three numbers a vertex. */
  readonly position: Float32Array<ArrayBuffer>;
  readonly normal: Float32Array<ArrayBuffer> | null;
  /** Two numbers a vertex, v up. */
  readonly uv: Float32Array<ArrayBuffer> | null;
  /** Four numbers a vertex: whole numbers as shares of the largest, others as they are. */
  readonly colour: Float32Array<ArrayBuffer> | null;
  readonly index: Uint32Array<ArrayBuffer>;
}

/** Why a file cannot be read, in a sentence. */
export class BadPly extends Error {}

const TYPES = {
  char: ['getInt8', 1, 127],
  uchar: ['getUint8', 1, 255],
  short: ['getInt16', 2, 32767],
  ushort: ['getUint16', 2, 65535],
  int: ['getInt32', 4, 2147483647],
  uint: ['getUint32', 4, 4294967295],
  float: ['getFloat32', 4, 1],
  double: ['getFloat64', 8, 1],
} as const;
type Type = keyof typeof TYPES;
/** Newer names of the same. */
const ALSO: Readonly<Record<string, Type>> = {
  ...{ int8: 'char', uint8: 'uchar', int16: 'short', uint16: 'ushort' },
  ...{ int32: 'int', uint32: 'uint', float32: 'float', float64: 'double' },
};

interface Property {
  readonly name: string;
  readonly type: Type;
  /** Of a list, the type of its length. */
  readonly length: Type | null;
}
interface Element {
  readonly name: string;
  readonly count: number;
  readonly properties: readonly Property[];
}
interface Head {
  readonly format: 'ascii' | 'binary_little_endian' | 'binary_big_endian';
  readonly elements: readonly Element[];
  /** Where the numbers begin. */
  readonly from: number;
}

const refuse = (why: string): never => {
  throw new BadPly(why);
};

function headOf(bytes: Uint8Array): Head {
  const text = new TextDecoder('latin1').decode(bytes.subarray(0, 65_536));
  if (!/^ply\s/.test(text)) refuse('It is not a PLY file: it does not begin with "ply".');
  const end = /(^|\n)end_header[^\S\n]*\r?(\n|$)/.exec(text.replace(/\r(?!\n)/g, '\n'));
  if (!end) return refuse('It cannot be read as PLY: its description has no end.');
  let format: string | undefined;
  const elements: { name: string; count: number; properties: Property[] }[] = [];
  const typeOf = (word = ''): Type =>
    Object.hasOwn(ALSO, word)
      ? ALSO[word]!
      : Object.hasOwn(TYPES, word)
        ? (word as Type)
        : refuse(`It cannot be read as PLY: it has numbers of a type ${JSON.stringify(word.slice(0, 20))}.`);
  for (const line of text.slice(0, end.index).split(/\r\n|\r|\n/)) {
    const [word, ...more] = line.trim().split(/\s+/);
    if (word === 'format') [format] = more;
    else if (word === 'element') {
      const count = Number(more[1]);
      if (!Number.isInteger(count) || count < 0) refuse('It cannot be read as PLY: a count in it is no number.');
      elements.push({ name: more[0] ?? '', count, properties: [] });
    } else if (word === 'property') {
      const list = more[0] === 'list';
      const [length, type, name] = list ? [typeOf(more[1]), typeOf(more[2]), more[3]] : [null, typeOf(more[0]), more[1]];
      elements.at(-1)?.properties.push({ name: name ?? '', type, length });
    }
  }
  if (format !== 'ascii' && format !== 'binary_little_endian' && format !== 'binary_big_endian')
    return refuse('It cannot be read as PLY: it is neither text nor binary of a kind that is known.');
  return { format, elements, from: end.index + end[0].length };
}

/** Number after number, as the file has them. */
function reader({ format, from }: Head, bytes: Uint8Array): (type: Type) => number {
  const early = (): never => refuse('It cannot be read as PLY: it ends too early.');
  if (format !== 'ascii') {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const little = format === 'binary_little_endian';
    let at = from;
    return (type) => {
      const [get, size] = TYPES[type];
      if (at + size > view.byteLength) return early();
      at += size;
      return view[get](at - size, little);
    };
  }
  const words = new TextDecoder('latin1').decode(bytes.subarray(from)).matchAll(/\S+/g);
  return () => {
    const { value, done } = words.next();
    return done ? early() : Number(value[0]);
  };
}

/** Names by which files call the same. */
const NAMES = {
  position: [['x'], ['y'], ['z']],
  normal: [['nx'], ['ny'], ['nz']],
  uv: [
    ['u', 's', 'texture_u', 'texture_s'],
    ['v', 't', 'texture_v', 'texture_t'],
  ],
  colour: [
    ['red', 'diffuse_red', 'r'],
    ['green', 'diffuse_green', 'g'],
    ['blue', 'diffuse_blue', 'b'],
    ['alpha', 'diffuse_alpha', 'a'],
  ],
} as const;

/**
 * @param most triangles that are taken; of more, no more are read than tells that there are
 * @throws BadPly with a sentence
 */
export function readPly(bytes: Uint8Array, most: number): PlyMesh {
  const head = headOf(bytes);
  // Each vertex and each face takes a byte of the file at least: what says that there are more is not believed.
  for (const { count } of head.elements)
    if (count > bytes.byteLength) refuse('It cannot be read as PLY: it says that it has more than it holds.');
  const next = reader(head, bytes);
  let vertices: Record<string, Float32Array<ArrayBuffer>> | null = null;
  let index: number[] | null = null;
  for (const { name, count, properties } of head.elements) {
    if (name === 'vertex') vertices = verticesOf(properties, count, next);
    else if (name === 'face' && vertices?.position) index = facesOf(properties, count, next, vertices.position, most);
    else
      for (let k = 0; k < count; k++)
        for (const { type, length } of properties) for (let n = length ? next(length) : 1; n > 0; n--) next(type);
  }
  if (!vertices?.position || !index || index.length === 0) return refuse('It has no triangles, only points.');
  const { position, normal = null, uv = null, colour = null } = vertices;
  return { position, normal, uv, colour, index: Uint32Array.from(index) };
}

function verticesOf(properties: readonly Property[], count: number, next: (type: Type) => number) {
  const lists: Record<string, Float32Array<ArrayBuffer>> = {};
  /** Where each property goes: which list, which of its lanes, and what it is divided by. */
  const places = properties.map(({ name, type, length }) => {
    if (length) return null;
    for (const [list, lanes] of Object.entries(NAMES)) {
      const lane = lanes.findIndex((names: readonly string[]) => names.includes(name));
      if (lane >= 0) return { list, lane, width: lanes.length, by: list === 'colour' ? TYPES[type][2] : 1 };
    }
    return null;
  });
  for (const [list, lanes] of Object.entries(NAMES)) {
    const there = new Set(places.flatMap((p) => (p?.list === list ? [p.lane] : [])));
    // An alpha may be lacking: it is 1 then.
    if (there.size >= Math.min(lanes.length, 3))
      lists[list] = new Float32Array(count * lanes.length).fill(list === 'colour' ? 1 : 0);
  }
  for (let k = 0; k < count; k++)
    properties.forEach(({ type, length }, p) => {
      if (length) for (let n = next(length); n > 0; n--) next(type);
      else {
        const value = next(type);
        const place = places[p];
        const list = place && lists[place.list];
        if (list) list[k * place.width + place.lane] = value / place.by;
      }
    });
  return lists;
}

function facesOf(
  properties: readonly Property[],
  count: number,
  next: (type: Type) => number,
  position: Float32Array,
  most: number,
): number[] {
  const index: number[] = [];
  for (let k = 0; k < count && index.length <= most * 3; k++)
    for (const { name, type, length } of properties) {
      const size = length ? next(length) : 1;
      const values = Array.from(
        { length: size > position.length ? refuse('A face of it has more corners than it has vertices.') : size },
        () => next(type),
      );
      if (!length || !/^vertex_ind(ex|ices)$/.test(name)) continue;
      if (values.some((v) => !Number.isInteger(v) || v < 0 || v * 3 >= position.length))
        refuse('A face of it names a vertex that is not there.');
      for (const corner of cutFace(position, values)) index.push(values[corner]!);
    }
  return index;
}
