/** Messages of the image worker: a file in, its picture in linear light out. */
import type { Picture } from '../core/base/picture.js';
import type { ImageColour } from '../core/formats/imageFile.js';

export interface ImageRequest {
  readonly bytes: ArrayBuffer;
  readonly colour: ImageColour;
}
export type ImageAnswer = { readonly ok: true; readonly picture: Picture } | { readonly ok: false; readonly why: string };
