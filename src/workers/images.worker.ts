/** The image worker: decodes picture files and makes their smaller levels, away from the page. */
import { expose, transfer } from 'comlink';
import type { Picture } from '../core/base/picture.js';
import { BadImage, readImage, type DecodeBitmap, type ImageColour } from '../core/formats/imageFile.js';

const decodeBitmap: DecodeBitmap = async (bytes, type) => {
  const bitmap = await createImageBitmap(new Blob([bytes], { type }), { colorSpaceConversion: 'none', premultiplyAlpha: 'none' });
  const { width, height } = bitmap;
  const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!;
  context.drawImage(bitmap, 0, 0);
  return { width, height, data: context.getImageData(0, 0, width, height).data };
};

const reader = {
  /** @throws with the rest of a sentence when it is refused */
  async read(bytes: ArrayBuffer, colour: ImageColour): Promise<Picture> {
    const picture = await readImage(new Uint8Array(bytes), colour, decodeBitmap).catch((error: Error) => {
      throw new Error(error instanceof BadImage ? error.message : 'it could not be read');
    });
    return transfer(
      picture,
      picture.levels.map((l) => l.texels.buffer),
    );
  },
};
export type ImageReader = typeof reader;

expose(reader);
