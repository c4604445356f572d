/** A finer mesh: every triangle of a binary glTF file (Khronos glTF 2.0) as four, cut at the middles of its sides. */
import type { Accessor, Primitive } from '@gltf-transform/core';
import { MAX_TRIANGLES, MeshRefused, checkGlb, cornersOf, placedPieces, rootOf } from './glb.js';
import { GlbSplice, type GlbPrimitive, type NewAccessor } from './glbSplice.js';

const TRIANGLES = 4;

/**
 * The same surface of four times the triangles: shape, materials and pictures stay, what vertices carry is halfway at the
 * middles of sides, in shapes to blend with too. Bones are left out: nothing here reads them, and halfway between two is none.
 * @throws MeshRefused with a sentence
 */
export async function finerGlb(bytes: Uint8Array): Promise<Uint8Array<ArrayBuffer>> {
  checkGlb(bytes);
  const root = await rootOf(bytes);
  const file = new GlbSplice(bytes);
  const placed = placedPieces(root);
  const primitives = [...new Set(placed.map(({ primitive }) => primitive))];
  const corners = new Map(primitives.map((p) => [p, cornersOf(p, p.getAttribute('POSITION')!.getCount())]));
  const triangles = [...corners.values()].reduce((sum, list) => sum + list.length / 3, 0);
  if (triangles * 4 > MAX_TRIANGLES)
    throw new MeshRefused(
      `It would have ${(triangles * 4).toLocaleString('en')} triangles; at most ${MAX_TRIANGLES.toLocaleString('en')} are read.`,
    );
  for (const k of root.listNodes().keys()) delete file.node(k).skin;
  for (const [primitive, list] of corners) {
    const { mesh, place } = placed.find((p) => p.primitive === primitive)!;
    cut(file, primitive, file.primitives(mesh)[place]!, list);
  }
  return file.bytes();
}

function cut(file: GlbSplice, primitive: Primitive, own: GlbPrimitive, corners: ArrayLike<number>): void {
  const count = primitive.getAttribute('POSITION')!.getCount();
  /** Pairs of vertices, by the place of the vertex between them after the first ones. */
  const pairs: [number, number][] = [];
  const known = new Map<number, number>();
  const between = (a: number, b: number): number => {
    const key = Math.min(a, b) * count + Math.max(a, b);
    const old = known.get(key);
    if (old !== undefined) return old;
    pairs.push([a, b]);
    known.set(key, count + pairs.length - 1);
    return count + pairs.length - 1;
  };
  const order = new Uint32Array(corners.length * 4);
  for (let k = 0; k < corners.length; k += 3) {
    const [a, b, c] = [corners[k]!, corners[k + 1]!, corners[k + 2]!];
    const [ab, bc, ca] = [between(a, b), between(b, c), between(c, a)];
    order.set([a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca], k * 4);
  }
  for (const name of primitive.listSemantics())
    if (/^(JOINTS|WEIGHTS)_/.test(name)) delete own.attributes[name];
    else
      own.attributes[name] = file.put(halfway(name, primitive.getAttribute(name)!, pairs, UNIT.has(name)), own.attributes[name]);
  // What shapes to blend with add to a vertex is halfway too; such a difference is no direction.
  primitive.listTargets().forEach((target, t) => {
    for (const name of target.listSemantics()) {
      const to = own.targets![t]!;
      to[name] = file.put(halfway(name, target.getAttribute(name)!, pairs, false), to[name]);
    }
  });
  own.indices = file.put({ type: 'SCALAR', array: order }, own.indices);
  own.mode = TRIANGLES;
}

/** Directions, of length 1. */
const UNIT: ReadonlySet<string> = new Set(['NORMAL', 'TANGENT']);

/** What vertices carry, and what is halfway between pairs of them; directions of length 1 stay so. */
function halfway(name: string, old: Accessor, pairs: readonly (readonly [number, number])[], unit: boolean): NewAccessor {
  const [count, width] = [old.getCount(), old.getElementSize()];
  const values = new Float32Array((count + pairs.length) * width);
  const one: number[] = [];
  for (let v = 0; v < count; v++) values.set(old.getElement(v, one), v * width);
  pairs.forEach(([a, b], k) => {
    const at = (count + k) * width;
    // The sign of a tangent is no direction: both ends have the same.
    for (let lane = 0; lane < width; lane++) values[at + lane] = 0.5 * (values[a * width + lane]! + values[b * width + lane]!);
    const length = Math.hypot(values[at]!, values[at + 1]!, values[at + 2] ?? 0);
    if (unit && length > 0) for (let lane = 0; lane < 3; lane++) values[at + lane] = values[at + lane]! / length;
    else if (unit) for (let lane = 0; lane < 3; lane++) values[at + lane] = values[a * width + lane]!;
  });
  return { type: old.getType() as NewAccessor['type'], array: values, bounds: name === 'POSITION' };
}
