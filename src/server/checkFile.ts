/** Reads an imported file to its end, in a thread of its own: what a page is to decode is decoded here first. */
import sharp from 'sharp';
import { MAX_SIDE } from '../core/base/picture.js';
import { MeshRefused, readGlb } from '../core/formats/glb.js';
import { BadImage, imageTypeOf, readImage, usualColour, type DecodeBitmap } from '../core/formats/imageFile.js';

const decodeBitmap: DecodeBitmap = async (bytes) => {
  const { data, info } = await sharp(bytes, { limitInputPixels: MAX_SIDE * MAX_SIDE })
    .ensureAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, data };
};

/** @returns why the file is refused, as a sentence, or null */
export async function check(bytes: Uint8Array<ArrayBuffer>): Promise<string | null> {
  const type = imageTypeOf(bytes);
  try {
    if (type) await readImage(bytes, usualColour(type), decodeBitmap);
    else await readGlb(bytes);
    return null;
  } catch (error) {
    if (error instanceof BadImage) return `The image cannot be read: ${error.message}.`;
    return error instanceof MeshRefused ? error.message : 'The file is neither a mesh nor an image that can be read.';
  }
}
