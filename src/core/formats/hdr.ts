/** Reads Radiance pictures (.hdr): shared-exponent colours, run-length coded. Source: Ward, "Real Pixels", Graphics Gems II, 1991. */
import { BadImage } from './badImage.js';

/** @returns linear RGB, three numbers a texel, top row first @throws BadImage */
export function readHdr(bytes: Uint8Array): { width: number; height: number; rgb: Float32Array } {
  let at = 0;
  const line = (): string => {
    const start = at;
    while (at < bytes.length && bytes[at] !== 10) if (++at - start > 4096) throw new BadImage('a line of its head is too long');
    if (at >= bytes.length) throw new BadImage('it ends within its head');
    return new TextDecoder().decode(bytes.subarray(start, at++));
  };
  if (!line().startsWith('#?')) throw new BadImage('it does not begin as a Radiance picture');
  for (let text = line(); text !== ''; text = line())
    if (text.startsWith('FORMAT=') && text !== 'FORMAT=32-bit_rle_rgbe')
      throw new BadImage(`its format ${text.slice(7)} is not read`);
  const size = /^-Y (\d+) \+X (\d+)$/.exec(line());
  if (!size) throw new BadImage('its rows do not run from the top left');
  const [height, width] = [Number(size[1]), Number(size[2])];
  if (!(width > 0 && height > 0 && width <= 8192 && height <= 8192))
    throw new BadImage(`it is ${width} by ${height}; at most 8192 by 8192 are read`);
  const rgb = new Float32Array(width * height * 3);
  const row = new Uint8Array(width * 4);
  for (let y = 0; y < height; y++) {
    at = readRow(bytes, at, width, row);
    for (let x = 0; x < width; x++) {
      const exponent = row[3 * width + x]!;
      const scale = exponent === 0 ? 0 : 2 ** (exponent - 136);
      for (let c = 0; c < 3; c++) rgb[(y * width + x) * 3 + c] = row[c * width + x]! * scale;
    }
  }
  return { width, height, rgb };
}

/** One row into four planes of bytes; @returns where the next begins */
function readRow(bytes: Uint8Array, start: number, width: number, row: Uint8Array): number {
  let at = start;
  const next = (): number => {
    if (at >= bytes.length) throw new BadImage('it ends too early');
    return bytes[at++]!;
  };
  const coded =
    bytes[at] === 2 && bytes[at + 1] === 2 && ((bytes[at + 2]! << 8) | bytes[at + 3]!) === width && width >= 8 && width < 32768;
  if (!coded) {
    for (let x = 0; x < width; x++) for (let c = 0; c < 4; c++) row[c * width + x] = next();
    return at;
  }
  at += 4;
  for (let c = 0; c < 4; c++)
    for (let x = 0; x < width;) {
      const count = next();
      const run = count > 128 ? count - 128 : count;
      if (run === 0 || x + run > width) throw new BadImage('a row of it is longer than it should be');
      if (count > 128) row.fill(next(), c * width + x, c * width + x + run);
      else for (let k = 0; k < run; k++) row[c * width + x + k] = next();
      x += run;
    }
  return at;
}
