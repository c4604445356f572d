/**
 * Meshes with their paint as binary glTF (Khronos glTF 2.0): COLOR_0, four channels of sixteen bits, normalised, as they
 * are kept. A mesh that came as a file keeps the rest of it.
 */
import type { Accessor, Document } from '@gltf-transform/core';
import { alone } from '../mesh/parts.js';
import type { Paint } from '../paint/paint.js';
import { checkGlb, madeNormals, placedPieces, rootOf } from './glb.js';
import { GlbSplice } from './glbSplice.js';

const STEPS = 65535;
/** What is made of a thing that has a name and nothing else. */
const GREY: [number, number, number, number] = [0.216, 0.216, 0.216, 1];

/** A mesh of Wispen's own. */
export interface PlainMesh {
  readonly name: string;
  /** Three numbers a vertex, metres. */
  readonly position: ArrayLike<number>;
  readonly normal: ArrayLike<number> | null;
  /** Two numbers a vertex, v up. */
  readonly uv: ArrayLike<number> | null;
  /** Null where the vertices follow one another. */
  readonly index: ArrayLike<number> | null;
  /** Runs of corners, in their order and all of them, and what each is called; one of no name where nothing is said. */
  readonly parts?: readonly { readonly name: string; readonly start: number; readonly count: number }[];
}

function colourOf(document: Document, paint: Paint, from: number, vertices: number): Accessor {
  const values = Uint16Array.from(paint.subarray(from * 4, (from + vertices) * 4), (v) => Math.round(v * STEPS));
  return document.createAccessor().setType('VEC4').setArray(values).setNormalized(true).setBuffer(bufferOf(document));
}

const bufferOf = (document: Document) => document.getRoot().listBuffers()[0] ?? document.createBuffer();

/** @param paint its vertex colours, 0 to 1; null where it has none */
export async function writeMesh(
  { name, position, normal, uv, index, parts }: PlainMesh,
  paint: Paint | null,
): Promise<Uint8Array<ArrayBuffer>> {
  const { Document, WebIO } = await import('@gltf-transform/core');
  const document = new Document();
  const accessor = (type: 'VEC2' | 'VEC3' | 'SCALAR', array: Float32Array | Uint32Array) =>
    document
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(bufferOf(document));
  const mesh = document.createMesh(name);
  const add = (order: Uint32Array | null, vertices: readonly number[] | null) => {
    const taken = (list: ArrayLike<number>, width: number) =>
      vertices
        ? Float32Array.from(
            { length: vertices.length * width },
            (_, k) => list[vertices[Math.floor(k / width)]! * width + (k % width)]!,
          )
        : Float32Array.from(list);
    const primitive = document.createPrimitive().setAttribute('POSITION', accessor('VEC3', taken(position, 3)));
    if (normal) primitive.setAttribute('NORMAL', accessor('VEC3', taken(normal, 3)));
    // glTF has v go down.
    if (uv)
      primitive.setAttribute(
        'TEXCOORD_0',
        accessor(
          'VEC2',
          taken(uv, 2).map((v, k) => (k % 2 === 1 ? 1 - v : v)),
        ),
      );
    if (paint) primitive.setAttribute('COLOR_0', colourOf(document, taken(paint, 4), 0, vertices?.length ?? position.length / 3));
    if (order) primitive.setIndices(accessor('SCALAR', order));
    mesh.addPrimitive(primitive);
    return primitive;
  };
  if (parts)
    for (const part of parts) {
      const corners = Array.from({ length: part.count }, (_, k) => (index ? index[part.start + k]! : part.start + k));
      const { order, vertices } = alone(corners);
      add(order, vertices).setMaterial(
        document.createMaterial(part.name).setMetallicFactor(0).setRoughnessFactor(0.6).setBaseColorFactor(GREY),
      );
    }
  else add(index && Uint32Array.from(index), null);
  const node = document.createNode(name).setMesh(mesh);
  document.createScene().addChild(node);
  return Uint8Array.from(await new WebIO().writeBinary(document));
}

/**
 * A mesh file with paint in it, in the order in which `readGlb` has its vertices. It gets the
 * smooth normals that it is shown with where it has none. All else of the file stays as it is.
 * @throws MeshRefused with a sentence
 */
export async function withPaint(bytes: Uint8Array, paint: Paint): Promise<Uint8Array<ArrayBuffer>> {
  checkGlb(bytes);
  const root = await rootOf(bytes);
  const file = new GlbSplice(bytes);
  /** Meshes that a node shows already: another one that shows them has other paint. */
  const shown = new Map<number, number>();
  let from = 0;
  for (const { node, mesh, place, primitive } of placedPieces(root)) {
    const vertices = primitive.getAttribute('POSITION')!.getCount();
    const first = shown.get(mesh);
    if (first === undefined) shown.set(mesh, node);
    else if (first !== node && file.node(node).mesh === mesh) file.node(node).mesh = file.cloneMesh(mesh);
    const own = file.primitives(file.node(node).mesh!)[place]!;
    const array = Uint16Array.from(paint.subarray(from * 4, (from + vertices) * 4), (v) => Math.round(v * STEPS));
    // Whoever reads it lights it as it is lit here.
    if (own.attributes.NORMAL === undefined) own.attributes.NORMAL = file.put({ type: 'VEC3', array: madeNormals(primitive) });
    own.attributes.COLOR_0 = file.put({ type: 'VEC4', array, normalized: true }, own.attributes.COLOR_0);
    from += vertices;
  }
  return file.bytes();
}
