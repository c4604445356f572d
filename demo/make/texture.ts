/** Pictures of surfaces: a sheet baked over a square that repeats without a seam, and written as files. */
import sharp from 'sharp';
import type { Strand } from '../../src/core/effect/schema.js';
import { srgbEncode } from '../../src/core/base/srgb.js';
import { field } from './field.js';

/** What a surface is: strands `colour` (rgb), `height` (metres) and `rough` (0 to 1) of its sheet, over `position` in metres. */
export interface SurfaceSheet {
  readonly name: string;
  /** Metres that a picture of it covers, each way. */
  readonly size: number;
  readonly strands: readonly Strand[];
  readonly metalness: number;
  /** How strongly its relief is seen. */
  readonly relief: number;
}

export interface SurfacePictures {
  readonly base: Uint8Array;
  readonly normal: Uint8Array;
  readonly rough: Uint8Array;
}

const SIDE = 512;

/** How much of the square before it is faded into the next, so that its ends meet. */
const FADE = 0.25;

/**
 * A plane that repeats: what lies beyond its right and upper end is faded in at its left and lower one. Two equal shares
 * would look paler than either: the square root of their squares' sum keeps the contrast (common practice, no source).
 */
function seamless(plane: Float32Array, wide: number): Float32Array {
  const out = new Float32Array(SIDE * SIDE);
  let mean = 0;
  for (const v of plane) mean += v / plane.length;
  const near = wide - SIDE;
  for (let y = 0; y < SIDE; y++)
    for (let x = 0; x < SIDE; x++) {
      const [a, b] = [Math.min(1, x / near), Math.min(1, y / near)];
      const parts = [
        [x, y, a * b],
        [x + SIDE, y, (1 - a) * b],
        [x, y + SIDE, a * (1 - b)],
        [x + SIDE, y + SIDE, (1 - a) * (1 - b)],
      ] as const;
      let [sum, squares] = [0, 0];
      for (const [px, py, w] of parts) {
        if (w === 0) continue;
        sum += (plane[py * wide + px]! - mean) * w;
        squares += w * w;
      }
      out[y * SIDE + x] = mean + sum / Math.sqrt(squares);
    }
  return out;
}

const byte = (v: number): number => Math.max(0, Math.min(255, Math.round(v * 255)));
const jpeg = (rgb: Uint8Array, side: number, quality: number, fine: boolean): Promise<Buffer> =>
  sharp(rgb, { raw: { width: side, height: side, channels: 3 } })
    .jpeg({ quality, chromaSubsampling: fine ? '4:4:4' : '4:2:0', mozjpeg: false, optimiseCoding: true })
    .toBuffer();

export async function picturesOf({ size, strands, relief, metalness }: SurfaceSheet): Promise<SurfacePictures> {
  const wide = SIDE + Math.round(SIDE * FADE);
  const texel = size / SIDE;
  const plane = (f: (k: number) => number) => Float32Array.from({ length: wide * wide }, (_, k) => f(k));
  const [x, y] = [plane((k) => (k % wide) * texel), plane((k) => Math.floor(k / wide) * texel)];
  const [colours, heights, roughs] = field(strands, 'colour', 'height', 'rough')(x, y, new Float32Array(wide * wide)) as [
    Float32Array[],
    Float32Array[],
    Float32Array[],
  ];
  const rgb = colours.map((lane) => seamless(lane, wide));
  const height = seamless(heights[0]!, wide);
  const rough = seamless(roughs[0]!, wide);
  const base = new Uint8Array(SIDE * SIDE * 3);
  const normal = new Uint8Array(SIDE * SIDE * 3);
  const uneven = new Uint8Array(SIDE * SIDE * 3);
  const at = (px: number, py: number) => height[((py + SIDE) % SIDE) * SIDE + ((px + SIDE) % SIDE)]!;
  for (let py = 0; py < SIDE; py++)
    for (let px = 0; px < SIDE; px++) {
      const k = py * SIDE + px;
      // Rows of pictures go down, and y goes up.
      const to = ((SIDE - 1 - py) * SIDE + px) * 3;
      rgb.forEach((lane, j) => {
        const v = Math.max(0, lane[k]!);
        base[to + j] = byte(srgbEncode(Math.min(1, v)));
      });
      const slope = [at(px + 1, py) - at(px - 1, py), at(px, py + 1) - at(px, py - 1)].map((d) => (-relief * d) / (2 * texel));
      const length = Math.hypot(slope[0]!, slope[1]!, 1);
      [slope[0]! / length, slope[1]! / length, 1 / length].forEach((v, j) => (normal[to + j] = byte(v * 0.5 + 0.5)));
      uneven.set([255, byte(rough[k]!), byte(metalness)], to);
    }
  // Four texels are one of half the size: whole numbers, the same on every machine.
  const half = new Uint8Array((SIDE / 2) ** 2 * 3);
  for (let y = 0; y < SIDE / 2; y++)
    for (let x = 0; x < SIDE / 2; x++)
      for (let j = 0; j < 3; j++) {
        const at = (dx: number, dy: number) => uneven[((2 * y + dy) * SIDE + 2 * x + dx) * 3 + j]!;
        half[(y * (SIDE / 2) + x) * 3 + j] = (at(0, 0) + at(1, 0) + at(0, 1) + at(1, 1) + 2) >> 2;
      }
  return {
    base: await jpeg(base, SIDE, 84, false),
    normal: await jpeg(normal, SIDE, 83, true),
    rough: await jpeg(half, SIDE / 2, 84, true),
  };
}
