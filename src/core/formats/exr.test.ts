import { BadImage } from './badImage.js';
import { checkExr } from './exr.js';

/** A head and a table of chunks, each of no bytes, as the OpenEXR file layout has them. */
function exrOf(compression: number, height: number, chunks: number): Uint8Array {
  const bytes: number[] = [0x76, 0x2f, 0x31, 0x01, 2, 0, 0, 0];
  const text = (s: string) => bytes.push(...[...s].map((c) => c.charCodeAt(0)), 0);
  const whole = (...numbers: number[]) =>
    bytes.push(...numbers.flatMap((n) => [n & 255, (n >> 8) & 255, (n >> 16) & 255, (n >> 24) & 255]));
  text('channels');
  text('chlist');
  whole(19);
  text('Y');
  whole(1, 0, 1, 1);
  bytes.push(0);
  text('compression');
  text('compression');
  whole(1);
  bytes.push(compression);
  text('dataWindow');
  text('box2i');
  whole(16, 0, 0, 3, height - 1);
  bytes.push(0);
  const data = bytes.length + chunks * 8;
  for (let k = 0; k < chunks; k++) whole(data, 0);
  for (let k = 0; k < chunks; k++) whole(0, 0);
  return Uint8Array.from(bytes);
}

// Lines a chunk of each compression, in the order of their numbers: OpenEXR, "Technical Introduction" and "File Layout".
const LINES = { none: 1, rle: 1, zips: 1, zip: 16, piz: 32, pxr24: 16, b44: 32, b44a: 32, dwaa: 32, dwab: 256 };

test.each(Object.entries(LINES).map(([name, lines], k) => [name, k, lines] as const))(
  '%s: as many chunks are looked for as there are',
  (_, compression, lines) => {
    for (const height of [1, lines, lines + 1, 3 * lines]) {
      const chunks = Math.ceil(height / lines);
      expect(checkExr(exrOf(compression, height, chunks))).toEqual({ width: 4, height });
      // A table that is one short is read into what comes after it: never past the end.
      const cut = exrOf(compression, height, chunks).subarray(0, -9);
      expect(() => checkExr(cut)).toThrow(BadImage);
    }
    // What a table of more chunks would need is not asked for, and one of fewer is not enough.
    expect(() => checkExr(exrOf(compression, 3 * lines, 3).subarray(0, -16))).toThrow(BadImage);
  },
);

test('what is no head, or of a kind that is not read, is refused', () => {
  expect(() => checkExr(exrOf(10, 4, 4))).toThrow(/compression/);
  const tiled = exrOf(0, 4, 4);
  tiled[5] = 2;
  expect(() => checkExr(tiled)).toThrow(/tiled/);
});
