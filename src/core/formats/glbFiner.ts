/** A finer mesh: every triangle of a binary glTF file (Khronos glTF 2.0) as four, cut at the middles of its sides. */
import type { Accessor, Document, Primitive } from '@gltf-transform/core';
import { MAX_TRIANGLES, MeshRefused, checkGlb, cornersOf, piecesOf } from './glb.js';

const TRIANGLES = 4;

/**
 * The same surface of four times the triangles: shape, materials and pictures stay, what vertices carry is halfway at the
 * middles of sides. Bones and shapes to blend with are left out: nothing here reads them.
 * @throws MeshRefused with a sentence
 */
export async function finerGlb(bytes: Uint8Array): Promise<Uint8Array<ArrayBuffer>> {
  checkGlb(bytes);
  const { WebIO } = await import('@gltf-transform/core');
  const { Quantization } = await import('./quantization.js');
  const io = new WebIO().registerExtensions([Quantization]);
  const document = await io.readBinary(bytes);
  const root = document.getRoot();
  const primitives = [...new Set(piecesOf(root).map(({ primitive }) => primitive))];
  const corners = new Map(primitives.map((p) => [p, cornersOf(p, p.getAttribute('POSITION')!.getCount())]));
  const triangles = [...corners.values()].reduce((sum, list) => sum + list.length / 3, 0);
  if (triangles * 4 > MAX_TRIANGLES)
    throw new MeshRefused(
      `It would have ${(triangles * 4).toLocaleString('en')} triangles; at most ${MAX_TRIANGLES.toLocaleString('en')} are read.`,
    );
  for (const node of root.listNodes()) node.setSkin(null);
  for (const [primitive, list] of corners) cut(document, primitive, list);
  return Uint8Array.from(await io.writeBinary(document));
}

function cut(document: Document, primitive: Primitive, corners: ArrayLike<number>): void {
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
  for (const target of primitive.listTargets()) primitive.removeTarget(target);
  for (const name of primitive.listSemantics()) {
    const old = primitive.getAttribute(name)!;
    primitive.setAttribute(name, /^(JOINTS|WEIGHTS)_/.test(name) ? null : halfway(document, name, old, pairs));
  }
  const index = document.createAccessor().setType('SCALAR').setArray(order).setBuffer(document.getRoot().listBuffers()[0]!);
  primitive.setIndices(index).setMode(TRIANGLES);
}

/** What vertices carry, and what is halfway between pairs of them; directions of length 1 stay so. */
function halfway(document: Document, name: string, old: Accessor, pairs: readonly (readonly [number, number])[]): Accessor {
  const [count, width] = [old.getCount(), old.getElementSize()];
  const values = new Float32Array((count + pairs.length) * width);
  const one: number[] = [];
  for (let v = 0; v < count; v++) values.set(old.getElement(v, one), v * width);
  const unit = name === 'NORMAL' || name === 'TANGENT';
  pairs.forEach(([a, b], k) => {
    const at = (count + k) * width;
    // The sign of a tangent is no direction: both ends have the same.
    for (let lane = 0; lane < width; lane++) values[at + lane] = 0.5 * (values[a * width + lane]! + values[b * width + lane]!);
    const length = Math.hypot(values[at]!, values[at + 1]!, values[at + 2] ?? 0);
    if (unit && length > 0) for (let lane = 0; lane < 3; lane++) values[at + lane] = values[at + lane]! / length;
    else if (unit) for (let lane = 0; lane < 3; lane++) values[at + lane] = values[a * width + lane]!;
  });
  return document
    .createAccessor()
    .setType(old.getType())
    .setArray(values)
    .setBuffer(document.getRoot().listBuffers()[0] ?? document.createBuffer());
}
