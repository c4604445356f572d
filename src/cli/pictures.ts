/** Images of an effect, decoded for the command line. */
import sharp from 'sharp';
import type { Picture } from '../core/base/picture.js';
import { pictureKey, type Effect } from '../core/effect/schema.js';
import { readImage, type DecodeBitmap } from '../core/formats/imageFile.js';
import { BadInput } from './input.js';

const decodeBitmap: DecodeBitmap = async (bytes) => {
  const { data, info } = await sharp(bytes).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, data };
};

/**
 * @param assets files by their SHA-256, as a bundle holds them
 * @throws BadInput when one that is looked up is not there, or cannot be read
 */
export async function picturesFor(
  effect: Effect,
  assets: ReadonlyMap<string, Uint8Array<ArrayBuffer>>,
): Promise<Map<string, Picture>> {
  const pictures = new Map<string, Picture>();
  for (const asset of Object.values(effect.assets)) {
    const bytes = assets.get(asset.sha256);
    if (!bytes) throw new BadInput(`the image ${asset.name} does not come with the effect; bake its bundle (.wispen) instead.`);
    try {
      pictures.set(pictureKey(asset), await readImage(bytes, asset.colour, decodeBitmap));
    } catch (error) {
      throw new BadInput(`the image ${asset.name} cannot be read: ${(error as Error).message}.`);
    }
  }
  return pictures;
}
