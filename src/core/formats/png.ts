/**
 * Looks over a PNG before a decoder is given it (W3C Portable Network Graphics, third edition): its size, that its data
 * unpack to what a picture of that size holds and no more, and nothing of it that is not needed for its pixels. Text and
 * colour profiles are left out: they may be of any size once they are unpacked.
 */
import { MAX_SIDE } from '../base/picture.js';
import { BadImage } from './badImage.js';
import { unpackedSize } from './inflate.js';

/** What says something of the pixels: header, palette, transparency, data, end. */
const NEEDED = new Set(['IHDR', 'PLTE', 'tRNS', 'IDAT', 'IEND']);
/** Samples a pixel, by colour type (11.2.1). */
const SAMPLES: ReadonlyMap<number, number> = new Map([
  [0, 1],
  [2, 3],
  [3, 1],
  [4, 2],
  [6, 4],
]);
/** Start and step of the seven passes of an interlaced picture (8.1): x, y, across, down. */
const PASSES = [
  [0, 0, 8, 8],
  [4, 0, 8, 8],
  [0, 4, 4, 8],
  [2, 0, 4, 4],
  [0, 2, 2, 4],
  [1, 0, 2, 2],
  [0, 1, 1, 2],
] as const;

/** Bytes of the rows, a filter's byte before each. */
function rowsOf(width: number, height: number, bits: number): number {
  return width > 0 && height > 0 ? height * (1 + Math.ceil((width * bits) / 8)) : 0;
}

/** @returns the file with what is needed of it @throws BadImage */
export function checkPng(bytes: Uint8Array<ArrayBuffer>): Uint8Array<ArrayBuffer> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const kept: Uint8Array[] = [bytes.subarray(0, 8)];
  const packed: Uint8Array[] = [];
  let most = 0;
  let name = '';
  for (let at = 8; name !== 'IEND';) {
    if (at + 12 > bytes.length) throw new BadImage('it ends too early');
    const length = view.getUint32(at);
    if (length > bytes.length - at - 12) throw new BadImage('it ends too early');
    name = String.fromCharCode(...bytes.subarray(at + 4, at + 8));
    const content = bytes.subarray(at + 8, at + 8 + length);
    if ((at === 8) !== (name === 'IHDR')) throw new BadImage('its head is broken');
    if (name === 'IHDR') {
      if (length !== 13) throw new BadImage('its head is broken');
      const [width, height] = [view.getUint32(at + 8), view.getUint32(at + 12)];
      if (!(width > 0 && height > 0 && width <= MAX_SIDE && height <= MAX_SIDE))
        throw new BadImage(`it is ${width} by ${height}; at most ${MAX_SIDE} by ${MAX_SIDE} are read`);
      const samples = SAMPLES.get(content[9]!);
      if (!samples || ![1, 2, 4, 8, 16].includes(content[8]!)) throw new BadImage('its head is broken');
      const bits = samples * content[8]!;
      most =
        content[12] === 1
          ? PASSES.reduce(
              (sum, [x, y, dx, dy]) => sum + rowsOf(Math.ceil((width - x) / dx), Math.ceil((height - y) / dy), bits),
              0,
            )
          : rowsOf(width, height, bits);
    }
    if (name === 'IDAT') packed.push(content);
    if (NEEDED.has(name)) kept.push(bytes.subarray(at, at + 12 + length));
    at += 12 + length;
  }
  if (packed.length === 0) throw new BadImage('it has no pixels');
  if (unpackedSize(packed, most) < most) throw new BadImage('it ends too early');
  const clean = new Uint8Array(kept.reduce((sum, k) => sum + k.length, 0));
  let to = 0;
  for (const k of kept) {
    clean.set(k, to);
    to += k.length;
  }
  return clean;
}
