/** The image worker: decodes picture files and makes their smaller levels, away from the page. */
import { BadImage, readImage, type DecodeBitmap } from '../core/formats/imageFile.js';
import type { ImageAnswer, ImageRequest } from './images.js';

const decodeBitmap: DecodeBitmap = async (bytes, type) => {
  const bitmap = await createImageBitmap(new Blob([bytes], { type }), { colorSpaceConversion: 'none', premultiplyAlpha: 'none' });
  const { width, height } = bitmap;
  const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!;
  context.drawImage(bitmap, 0, 0);
  return { width, height, data: context.getImageData(0, 0, width, height).data };
};

addEventListener('message', ({ data }: MessageEvent<ImageRequest>) => {
  const answer = (message: ImageAnswer, transfer: Transferable[] = []) => postMessage(message, { transfer });
  readImage(new Uint8Array(data.bytes), data.colour, decodeBitmap).then(
    (picture) =>
      answer(
        { ok: true, picture },
        picture.levels.map((l) => l.texels.buffer),
      ),
    (error: Error) => answer({ ok: false, why: error instanceof BadImage ? error.message : 'it could not be read' }),
  );
});
