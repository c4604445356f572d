/** The mesh worker: reads mesh files away from the page. */
import { expose, transfer } from 'comlink';
import { imageSize } from 'image-size';
import { MAX_SIDE } from '../core/base/picture.js';
import { MeshRefused, readGlb, type MeshProgress } from '../core/formats/glb.js';
import { finerGlb } from '../core/formats/glbFiner.js';
import { toGlb, type NamedFile } from '../core/formats/meshFiles.js';
import type { MeshData, MeshImage } from '../core/mesh/mesh.js';

/** Texels along a side of a picture on a mesh; larger ones are brought down to it. */
const MOST_TEXELS = 2048;

async function decode(bytes: Uint8Array<ArrayBuffer>, type: string): Promise<MeshImage | null> {
  const size = imageSize(bytes);
  if (Math.max(size.width, size.height) > MAX_SIDE) return null;
  const share = Math.min(1, MOST_TEXELS / Math.max(size.width, size.height));
  const [width, height] = [size.width, size.height].map((n) => Math.max(1, Math.round(n * share))) as [number, number];
  const bitmap = await createImageBitmap(new Blob([bytes], { type }), {
    ...{ imageOrientation: 'flipY', colorSpaceConversion: 'none', premultiplyAlpha: 'none' },
    ...{ resizeWidth: width, resizeHeight: height, resizeQuality: 'high' },
  });
  const context = new OffscreenCanvas(width, height).getContext('2d')!;
  context.drawImage(bitmap, 0, 0);
  bitmap.close();
  return { width, height, rgba: new Uint8Array(context.getImageData(0, 0, width, height).data.buffer) };
}

const reader = {
  /** A mesh file of any kind as binary glTF. @throws with a sentence when it is refused */
  async convert(main: NamedFile, beside: readonly NamedFile[]): Promise<ArrayBuffer> {
    const bytes = await toGlb(main, beside).catch((error: Error) => {
      throw new Error(error instanceof MeshRefused ? error.message : 'It could not be read.');
    });
    return transfer(bytes.buffer, [bytes.buffer]);
  },

  /** The same surface of four times the triangles. @throws with a sentence when it is refused */
  async finer(bytes: ArrayBuffer): Promise<ArrayBuffer> {
    const finer = await finerGlb(new Uint8Array(bytes)).catch((error: Error) => {
      throw new Error(error instanceof MeshRefused ? error.message : 'It could not be read.');
    });
    return transfer(finer.buffer, [finer.buffer]);
  },

  /** @throws with a sentence when it is refused */
  async read(bytes: ArrayBuffer, onProgress?: MeshProgress): Promise<MeshData> {
    const mesh = await readGlb(new Uint8Array(bytes), onProgress, decode).catch((error: Error) => {
      throw new Error(error instanceof MeshRefused ? error.message : 'It could not be read.');
    });
    const { position, normal, uv, uv1, colour, index, reduced } = mesh;
    const pictures = mesh.images.map(({ rgba }) => rgba);
    const lists = [position, normal, uv, uv1, colour, index, reduced, ...pictures].filter((l) => l !== null);
    return transfer(
      mesh,
      lists.map((l) => l.buffer),
    );
  },
};
export type MeshReader = typeof reader;

expose(reader);
