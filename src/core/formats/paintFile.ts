/**
 * Vertex paint as a file: a picture of four channels of sixteen bits (W3C Portable Network Graphics), a pixel a vertex in
 * the order of the mesh, in rows of at most `ROW`; what is left of the last row is 0.
 */
import { decode, encode } from 'fast-png';
import { kept, type Paint } from '../paint/paint.js';

/** Pixels a row. */
const ROW = 1024;
const STEPS = 65535;
export const PAINT_TYPE = 'image/png';

/** Why a paint file is not taken, as a sentence. */
export class PaintRefused extends Error {}

const sizeOf = (vertices: number) => {
  const width = Math.max(1, Math.min(ROW, vertices));
  return { width, height: Math.max(1, Math.ceil(vertices / width)) };
};

export function writePaint(paint: Paint): Uint8Array<ArrayBuffer> {
  const { width, height } = sizeOf(paint.length / 4);
  const data = new Uint16Array(width * height * 4);
  for (let k = 0; k < paint.length; k++) data[k] = Math.round(paint[k]! * STEPS);
  return new Uint8Array(encode({ width, height, data, depth: 16, channels: 4 }));
}

/** @returns four numbers a pixel @throws PaintRefused with a sentence where the file is no paint */
export function readPaint(bytes: Uint8Array): Paint {
  let image: ReturnType<typeof decode>;
  try {
    image = decode(bytes, { checkCrc: true });
  } catch {
    throw new PaintRefused('The paint of a prop cannot be read, so the prop is shown without it.');
  }
  const { width, height, channels, depth, data } = image;
  if (channels !== 4 || depth !== 16)
    throw new PaintRefused('The paint of a prop is a picture of another kind, so the prop is shown without it.');
  return Float32Array.from({ length: width * height * 4 }, (_, k) => kept(data[k]! / STEPS));
}

/** The paint of a mesh, or what its file holds, as paint of so many vertices; null where it is another mesh's. */
export function paintFor(all: Paint, vertices: number): Paint | null {
  const { width, height } = sizeOf(vertices);
  return all.length === vertices * 4 || all.length === width * height * 4 ? all.subarray(0, vertices * 4) : null;
}
