/**
 * Meshes with their paint as binary glTF (Khronos glTF 2.0): COLOR_0, four channels of sixteen bits, normalised, as they
 * are kept. A mesh that came as a file keeps the rest of it.
 */
import type { Accessor, Document, Root } from '@gltf-transform/core';
import type { Paint } from '../paint/paint.js';
import { checkGlb, piecesOf } from './glb.js';

const STEPS = 65535;

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
}

function colourOf(document: Document, paint: Paint, from: number, vertices: number): Accessor {
  const values = Uint16Array.from(paint.subarray(from * 4, (from + vertices) * 4), (v) => Math.round(v * STEPS));
  return document.createAccessor().setType('VEC4').setArray(values).setNormalized(true).setBuffer(bufferOf(document));
}

const bufferOf = (document: Document) => document.getRoot().listBuffers()[0] ?? document.createBuffer();

/** @param paint its vertex colours, 0 to 1; null where it has none */
export async function writeMesh(
  { name, position, normal, uv, index }: PlainMesh,
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
  const primitive = document.createPrimitive().setAttribute('POSITION', accessor('VEC3', Float32Array.from(position)));
  if (normal) primitive.setAttribute('NORMAL', accessor('VEC3', Float32Array.from(normal)));
  // glTF has v go down.
  if (uv)
    primitive.setAttribute(
      'TEXCOORD_0',
      accessor(
        'VEC2',
        Float32Array.from(uv, (v, k) => (k % 2 === 1 ? 1 - v : v)),
      ),
    );
  if (paint) primitive.setAttribute('COLOR_0', colourOf(document, paint, 0, position.length / 3));
  if (index) primitive.setIndices(accessor('SCALAR', Uint32Array.from(index)));
  const node = document.createNode(name).setMesh(document.createMesh(name).addPrimitive(primitive));
  document.createScene().addChild(node);
  return Uint8Array.from(await new WebIO().writeBinary(document));
}

/** A mesh that two nodes show has other paint under each: it becomes two. */
function parted(root: Root): void {
  const shown = new Set<unknown>();
  for (const scene of root.listScenes())
    scene.traverse((node) => {
      const mesh = node.getMesh();
      if (!mesh) return;
      if (!shown.has(mesh)) {
        shown.add(mesh);
        return;
      }
      const copy = mesh.clone();
      for (const primitive of mesh.listPrimitives()) copy.removePrimitive(primitive);
      for (const primitive of mesh.listPrimitives()) copy.addPrimitive(primitive.clone());
      node.setMesh(copy);
    });
}

/**
 * A mesh file with paint in it, in the order in which `readGlb` has its vertices.
 * @throws MeshRefused with a sentence
 */
export async function withPaint(bytes: Uint8Array, paint: Paint): Promise<Uint8Array> {
  checkGlb(bytes);
  const { WebIO } = await import('@gltf-transform/core');
  const { Quantization } = await import('./quantization.js');
  const io = new WebIO().registerExtensions([Quantization]);
  const document = await io.readBinary(bytes);
  parted(document.getRoot());
  let from = 0;
  for (const { primitive } of piecesOf(document.getRoot())) {
    const vertices = primitive.getAttribute('POSITION')!.getCount();
    primitive.setAttribute('COLOR_0', colourOf(document, paint, from, vertices));
    from += vertices;
  }
  return io.writeBinary(document);
}
