/**
 * Reads picture files into linear light: PNG (8 and 16 bits), OpenEXR and Radiance here; JPEG and WebP by whoever runs
 * this, for a page and a command line each have a decoder of their own.
 */
import { decode } from 'fast-png';
import { imageSize } from 'image-size';
import { MAX_SIDE, fromSrgb, pictureOf, type Picture } from '../base/picture.js';
import { checkExr } from './exr.js';
import { BadImage } from './badImage.js';
import { readHdr } from './hdr.js';
import { checkPng } from './png.js';

export { BadImage };

/** Rows of red, green, blue and alpha, 0 to 255, the top row first. */
export interface Bitmap {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array | Uint8ClampedArray;
}
export type DecodeBitmap = (bytes: Uint8Array<ArrayBuffer>, type: string) => Promise<Bitmap>;

/** What the numbers of a file mean: colours as sRGB codes them, data as they are, or colours that are linear already. */
export type ImageColour = 'srgb' | 'data' | 'linear';

export const IMAGE_TYPES = {
  'image/png': 'PNG',
  'image/jpeg': 'JPEG',
  'image/webp': 'WebP',
  'image/x-exr': 'OpenEXR',
  'image/vnd.radiance': 'Radiance',
} as const;
export type ImageType = keyof typeof IMAGE_TYPES;
export const MAX_IMAGE_BYTES = 64 * 1024 * 1024;

const startsWith = (bytes: Uint8Array, ...wanted: number[]) => wanted.every((b, k) => bytes[k] === b);

/** What a file is, by its first bytes: names are not to be trusted. */
export function imageTypeOf(bytes: Uint8Array): ImageType | null {
  if (startsWith(bytes, 0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a)) return 'image/png';
  if (startsWith(bytes, 0xff, 0xd8, 0xff)) return 'image/jpeg';
  if (startsWith(bytes, 0x52, 0x49, 0x46, 0x46) && startsWith(bytes.subarray(8), 0x57, 0x45, 0x42, 0x50)) return 'image/webp';
  if (startsWith(bytes, 0x76, 0x2f, 0x31, 0x01)) return 'image/x-exr';
  if (startsWith(bytes, 0x23, 0x3f)) return 'image/vnd.radiance';
  return null;
}

/** Colours of pictures of many stops are linear; of others, coded as sRGB unless the artist says that they are data. */
export const usualColour = (type: ImageType): ImageColour =>
  type === 'image/x-exr' || type === 'image/vnd.radiance' ? 'linear' : 'srgb';

/** @throws BadImage with what is wrong, as the rest of a sentence that begins with the file's name */
export async function readImage(
  bytes: Uint8Array<ArrayBuffer>,
  colour: ImageColour,
  decodeBitmap: DecodeBitmap,
): Promise<Picture> {
  if (bytes.length > MAX_IMAGE_BYTES)
    throw new BadImage(
      `it is ${(bytes.length / 1048576).toFixed(0)} MB; an image may be at most ${MAX_IMAGE_BYTES / 1048576} MB`,
    );
  const type = imageTypeOf(bytes);
  if (!type) throw new BadImage('it is not a PNG, JPEG, WebP, EXR or HDR picture');
  try {
    switch (type) {
      case 'image/png':
        return fromPng(bytes, colour);
      case 'image/x-exr':
        return await fromExr(bytes);
      case 'image/vnd.radiance':
        return fromHdr(bytes);
      default: {
        // Looked at before anything is unpacked.
        const said = imageSize(bytes);
        checkSize(said.width, said.height);
        const { width, height, data } = await decodeBitmap(bytes, type);
        return fromCodes(width, height, 4, 255, data, colour);
      }
    }
  } catch (error) {
    if (error instanceof BadImage) throw error;
    throw new BadImage(`it is broken: ${(error as Error).message}`);
  }
}

function checkSize(width: number, height: number): void {
  if (!(width > 0 && height > 0 && width <= MAX_SIDE && height <= MAX_SIDE))
    throw new BadImage(`it is ${width} by ${height}; at most ${MAX_SIDE} by ${MAX_SIDE} are read`);
}

/** Grey, grey and alpha, colours, or colours and alpha, as whole numbers from 0 to `most`. */
function fromCodes(
  width: number,
  height: number,
  channels: number,
  most: number,
  data: ArrayLike<number>,
  colour: ImageColour,
): Picture {
  checkSize(width, height);
  const light = Float32Array.from({ length: most + 1 }, (_, k) => (colour === 'srgb' ? fromSrgb(k / most) : k / most));
  const texels = new Float32Array(width * height * 4);
  const hasAlpha = channels === 2 || channels === 4;
  const grey = channels < 3;
  for (let k = 0; k < width * height; k++) {
    for (let c = 0; c < 3; c++) texels[k * 4 + c] = light[data[k * channels + (grey ? 0 : c)]!]!;
    texels[k * 4 + 3] = hasAlpha ? data[k * channels + channels - 1]! / most : 1;
  }
  return pictureOf(width, height, texels);
}

function fromPng(bytes: Uint8Array<ArrayBuffer>, colour: ImageColour): Picture {
  const { width, height, channels, depth, data, palette } = decode(checkPng(bytes));
  if (palette) {
    const wide = palette[0]!.length;
    const flat = new Uint8Array(width * height * wide);
    const bits = depth;
    const rowBytes = Math.ceil((width * bits) / 8);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const index =
          bits === 8
            ? data[y * width + x]!
            : (data[y * rowBytes + ((x * bits) >> 3)]! >> (8 - bits - ((x * bits) & 7))) & ((1 << bits) - 1);
        palette[index]!.forEach((v, c) => (flat[(y * width + x) * wide + c] = v));
      }
    return fromCodes(width, height, wide, 255, flat, colour);
  }
  if (depth < 8) {
    const codes = new Uint8Array(width * height);
    const rowBytes = Math.ceil((width * depth) / 8);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        codes[y * width + x] = (data[y * rowBytes + ((x * depth) >> 3)]! >> (8 - depth - ((x * depth) & 7))) & ((1 << depth) - 1);
    return fromCodes(width, height, 1, (1 << depth) - 1, codes, colour);
  }
  return fromCodes(width, height, channels, depth === 16 ? 65535 : 255, data, colour);
}

/** FloatType, as the reader numbers it. */
const FULL_FLOATS = 1015;

async function fromExr(bytes: Uint8Array<ArrayBuffer>): Promise<Picture> {
  const { width, height } = checkExr(bytes);
  // Loaded when there is such a picture to read.
  const { EXRLoader } = await import('three/examples/jsm/loaders/EXRLoader.js');
  const read = new EXRLoader().setDataType(FULL_FLOATS as never).parse(bytes.slice().buffer) as ExrRead;
  if (read.width !== width || read.height !== height) throw new BadImage('its head is broken');
  const { data } = read;
  const channels = data.length / (width * height);
  const texels = new Float32Array(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      // The reader gives the bottom row first.
      const from = ((height - 1 - y) * width + x) * channels;
      const to = (y * width + x) * 4;
      for (let c = 0; c < 3; c++) texels[to + c] = data[from + (channels < 3 ? 0 : c)]!;
      texels[to + 3] = channels === 4 ? data[from + 3]! : 1;
    }
  return pictureOf(width, height, texels);
}

interface ExrRead {
  readonly width: number;
  readonly height: number;
  /** One, two or four numbers a pixel. */
  readonly data: Float32Array;
}

function fromHdr(bytes: Uint8Array): Picture {
  const { width, height, rgb } = readHdr(bytes);
  const texels = new Float32Array(width * height * 4);
  for (let k = 0; k < width * height; k++) {
    for (let c = 0; c < 3; c++) texels[k * 4 + c] = rgb[k * 3 + c]!;
    texels[k * 4 + 3] = 1;
  }
  return pictureOf(width, height, texels);
}
