/**
 * Changes of a binary glTF file (Khronos glTF 2.0) that leave all else of it as it is: extensions, extras, animations, cameras
 * and other scenes, whether anybody here knows them or not. Numbers are added behind those that are there.
 */

type Json = Record<string, unknown>;
const COMPONENTS = { f32: 5126, u32: 5125, u16: 5123 } as const;
const MAGIC = 0x46546c67;
const JSON_CHUNK = 0x4e4f534a;
const BIN_CHUNK = 0x004e4942;

export interface GlbPrimitive extends Json {
  attributes: Record<string, number>;
  targets?: Record<string, number>[];
  indices?: number;
  mode?: number;
}

export interface NewAccessor {
  readonly type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4';
  readonly array: Float32Array | Uint32Array | Uint16Array;
  readonly normalized?: boolean;
  /** Least and most are told, as glTF has it of positions. */
  readonly bounds?: boolean;
}

const WIDTH = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4 } as const;
const padded = (n: number) => (n + 3) & ~3;

export class GlbSplice {
  private readonly json: Json;
  private readonly bin: Uint8Array;
  private readonly added: { readonly at: number; readonly bytes: Uint8Array }[] = [];
  private end: number;

  /** @param bytes that `checkGlb` takes */
  constructor(bytes: Uint8Array) {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const length = view.getUint32(12, true);
    this.json = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length))) as Json;
    const at = 20 + length;
    this.bin = at + 8 <= bytes.byteLength ? bytes.subarray(at + 8, at + 8 + view.getUint32(at, true)) : new Uint8Array();
    this.end = padded(this.bin.byteLength);
  }

  private list(name: string): Json[] {
    return (this.json[name] ??= []) as Json[];
  }

  primitives(mesh: number): GlbPrimitive[] {
    return this.list('meshes')[mesh]!.primitives as GlbPrimitive[];
  }

  node(k: number): Json & { mesh?: number; skin?: number } {
    return this.list('nodes')[k]!;
  }

  /** The same mesh once more, for a node that is to show it otherwise. @returns which it is */
  cloneMesh(mesh: number): number {
    return this.list('meshes').push(structuredClone(this.list('meshes')[mesh]!)) - 1;
  }

  /** How often each list of numbers is used; null where what is not known here might use them. */
  private uses(): Map<number, number> | null {
    const uses = new Map<number, number>();
    const count = (k: unknown) => typeof k === 'number' && uses.set(k, (uses.get(k) ?? 0) + 1);
    for (const mesh of this.list('meshes'))
      for (const { attributes, targets = [], indices, extensions } of mesh.primitives as GlbPrimitive[]) {
        if (extensions && JSON.stringify(extensions).match(/accessor|attributes|indices/i)) return null;
        for (const group of [attributes, ...targets]) for (const k of Object.values(group)) count(k);
        count(indices);
      }
    for (const node of this.list('nodes')) if (/accessor|attributes/i.test(JSON.stringify(node.extensions ?? ''))) return null;
    for (const animation of this.list('animations'))
      for (const { input, output } of (animation.samplers ?? []) as Json[]) (count(input), count(output));
    for (const { inverseBindMatrices } of this.list('skins')) count(inverseBindMatrices);
    return uses;
  }

  /** @param instead of which list it comes, if nothing else uses that: then none is left over @returns which it is */
  put({ type, array, normalized = false, bounds = false }: NewAccessor, instead?: number): number {
    const component = array instanceof Float32Array ? 'f32' : array instanceof Uint32Array ? 'u32' : 'u16';
    const bytes = new Uint8Array(array.buffer, array.byteOffset, array.byteLength);
    const view = { buffer: 0, byteOffset: this.end, byteLength: bytes.byteLength };
    this.added.push({ at: this.end, bytes });
    this.end = padded(this.end + bytes.byteLength);
    const width = WIDTH[type];
    const ends = bounds
      ? {
          min: Array.from({ length: width }, (_, lane) => least(array, width, lane)),
          max: Array.from({ length: width }, (_, lane) => -least(array, width, lane, -1)),
        }
      : {};
    const accessor: Json = {
      ...{ componentType: COMPONENTS[component], count: array.length / width, type },
      ...(normalized ? { normalized } : {}),
      ...ends,
    };
    const [accessors, views] = [this.list('accessors'), this.list('bufferViews')];
    const old = instead === undefined || this.uses()?.get(instead) !== 1 ? undefined : accessors[instead];
    const oldView = old?.bufferView as number | undefined;
    const alone = oldView !== undefined && accessors.filter((a) => uses(a, oldView)).length === 1 && !views[oldView]!.extensions;
    if (alone) views[oldView] = view;
    accessor.bufferView = alone ? oldView : views.push(view) - 1;
    if (!old) return accessors.push(accessor) - 1;
    accessors[instead!] = { ...('name' in old ? { name: old.name } : {}), ...accessor };
    return instead!;
  }

  bytes(): Uint8Array<ArrayBuffer> {
    const buffers = this.list('buffers');
    buffers[0] = { ...buffers[0], byteLength: this.end };
    for (const [name, value] of Object.entries(this.json)) if (Array.isArray(value) && value.length === 0) delete this.json[name];
    const text = new TextEncoder().encode(JSON.stringify(this.json));
    const length = padded(text.byteLength);
    const whole = new Uint8Array(28 + length + this.end);
    const view = new DataView(whole.buffer);
    [MAGIC, 2, whole.byteLength, length, JSON_CHUNK].forEach((v, k) => view.setUint32(k * 4, v, true));
    whole.fill(0x20, 20, 20 + length);
    whole.set(text, 20);
    view.setUint32(20 + length, this.end, true);
    view.setUint32(24 + length, BIN_CHUNK, true);
    whole.set(this.bin, 28 + length);
    for (const { at, bytes } of this.added) whole.set(bytes, 28 + length + at);
    return whole;
  }
}

const uses = (accessor: Json, view: number): boolean => {
  const sparse = accessor.sparse as { indices: Json; values: Json } | undefined;
  return accessor.bufferView === view || sparse?.indices.bufferView === view || sparse?.values.bufferView === view;
};

function least(array: ArrayLike<number>, width: number, lane: number, sign = 1): number {
  let found = Infinity;
  for (let k = lane; k < array.length; k += width) found = Math.min(found, sign * array[k]!);
  return found;
}
