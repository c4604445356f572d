/** Meshes of another library, and dropping them on the stage. */
import type { Page } from '@playwright/test';
import type { Mesh } from 'three';
import { GLTFExporter } from 'three/examples/jsm/exporters/GLTFExporter.js';

/** A mesh file made by another library; the exporter needs a reader that Node does not have. */
export async function meshFile(mesh: Mesh): Promise<Buffer> {
  class Reader {
    result: ArrayBuffer | null = null;
    onloadend: (() => void) | null = null;
    readAsArrayBuffer = (blob: Blob) => void blob.arrayBuffer().then((bytes) => ((this.result = bytes), this.onloadend?.()));
  }
  Object.assign(globalThis, { FileReader: Reader });
  return Buffer.from((await new GLTFExporter().parseAsync(mesh, { binary: true })) as ArrayBuffer);
}

export async function dropOnStage(page: Page, name: string, bytes: Buffer): Promise<void> {
  const transfer = await page.evaluateHandle(
    ([file, base64]) => {
      const data = new DataTransfer();
      data.items.add(new File([Uint8Array.from(atob(base64!), (c) => c.charCodeAt(0))], file!));
      return data;
    },
    [name, bytes.toString('base64')],
  );
  await page.getByRole('region', { name: 'Stage', exact: true }).dispatchEvent('drop', { dataTransfer: transfer });
}

/** A rippled sheet of cells times cells quads, in a file that is nothing but its description and numbers (glTF 2.0, section 4). */
export function largeMesh(cells: number): Buffer {
  const side = cells + 1;
  const position = new Float32Array(side * side * 3);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const [u, v] = [x / cells - 0.5, y / cells - 0.5];
      position.set([2 * u, 2 * v, 0.05 * Math.sin(20 * u) * Math.sin(20 * v)], (y * side + x) * 3);
    }
  const index = new Uint32Array(cells * cells * 6);
  for (let y = 0; y < cells; y++)
    for (let x = 0; x < cells; x++) {
      const a = y * side + x;
      index.set([a, a + 1, a + side + 1, a, a + side + 1, a + side], (y * cells + x) * 6);
    }
  const json = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0 }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1 }] }],
    buffers: [{ byteLength: position.byteLength + index.byteLength }],
    bufferViews: [
      { buffer: 0, byteOffset: 0, byteLength: position.byteLength },
      { buffer: 0, byteOffset: position.byteLength, byteLength: index.byteLength },
    ],
    accessors: [
      { bufferView: 0, componentType: 5126, count: side * side, type: 'VEC3', min: [-1, -1, -0.05], max: [1, 1, 0.05] },
      { bufferView: 1, componentType: 5125, count: index.length, type: 'SCALAR' },
    ],
  };
  const words = Buffer.from(JSON.stringify(json));
  const padded = Buffer.concat([words, Buffer.alloc((4 - (words.length % 4)) % 4, 0x20)]);
  const head = (length: number, type: number) => {
    const bytes = Buffer.alloc(8);
    bytes.writeUInt32LE(length, 0);
    bytes.writeUInt32LE(type, 4);
    return bytes;
  };
  const bin = [Buffer.from(position.buffer), Buffer.from(index.buffer)];
  const binLength = position.byteLength + index.byteLength;
  const magic = Buffer.from('glTF');
  const sizes = Buffer.alloc(8);
  sizes.writeUInt32LE(2, 0);
  sizes.writeUInt32LE(28 + padded.length + binLength, 4);
  return Buffer.concat([magic, sizes, head(padded.length, 0x4e4f534a), padded, head(binLength, 0x004e4942), ...bin]);
}
