/** How large compressed data becomes, found out without keeping it: looked at before a decoder that trusts it is given it. */
import { Inflate } from 'fflate';
import { BadImage } from './badImage.js';

/** Packed bytes handed over at a time: some thousand times as much comes out at most before the limit is looked at. */
const PIECE = 4096;
const [HEAD, SUM] = [2, 4];

/**
 * @param packed zlib data (RFC 1950), in pieces that follow one another
 * @param most bytes that may come out
 * @returns bytes that come out
 * @throws BadImage when more would, or when it is no such data
 */
export function unpackedSize(packed: readonly Uint8Array[], most: number): number {
  let size = 0;
  const inflate = new Inflate((piece) => {
    size += piece.length;
    if (size > most) throw new BadImage('it unpacks to more than a picture of its size holds');
  });
  // Between a head of two bytes and a sum of four.
  const end = packed.reduce((sum, p) => sum + p.length, 0) - SUM;
  let from = 0;
  try {
    for (const bytes of packed) {
      const [first, last] = [Math.max(0, HEAD - from), Math.min(bytes.length, end - from)];
      for (let at = first; at < last; at += PIECE) {
        const piece = bytes.subarray(at, Math.min(last, at + PIECE));
        inflate.push(piece, from + at + piece.length === end);
      }
      from += bytes.length;
    }
  } catch (error) {
    if (error instanceof BadImage) throw error;
    throw new BadImage('its compressed data are damaged');
  }
  return size;
}
