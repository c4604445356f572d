/**
 * Bloom: picture + intensity x blur(prefilter(picture)), after exposure. The blur is a sum of pictures, each half the
 * height of the one before, laid out for a picture of 1024 lines whatever its real height, so that a thumbnail and a
 * large still halo alike. The weights sum to 1: what is taken above the threshold is spread, not multiplied.
 */
import { luminance, type Rgb } from './tone.js';

/** Lines of each level of the nominal layout. */
export const LEVEL_LINES = [512, 256, 128, 64, 32, 16, 8] as const;

export interface BloomLevel {
  readonly lines: number;
  readonly weight: number;
}

/**
 * @param spread share of the picture's height that the halo reaches, 0.001 to 1
 * @param height lines of the real picture; levels finer than it are merged into its finest
 */
export function bloomLevels(spread: number, height: number): BloomLevel[] {
  // A level's blur reaches about two and a half of its lines; the spread picks where in the chain the weight lies.
  const middle = Math.log2(LEVEL_LINES[0] * (spread / 2.5));
  const raw = LEVEL_LINES.map((_, k) => Math.exp(-0.5 * ((k - middle) / 1.1) ** 2) + 1e-6);
  const total = raw.reduce((s, w) => s + w, 0);
  const levels: BloomLevel[] = [];
  // Larger pictures are halved first, so that a pixel of theirs is never between the taps of a coarse one.
  for (let lines = 2 * LEVEL_LINES[0]; lines < height; lines *= 2) levels.unshift({ lines, weight: 0 });
  let merged = 0;
  LEVEL_LINES.forEach((lines, k) => {
    const weight = raw[k]! / total;
    const last = k === LEVEL_LINES.length - 1;
    if (lines > height && !last) merged += weight;
    else {
      levels.push({ lines, weight: weight + merged });
      merged = 0;
    }
  });
  return levels;
}

/**
 * The share of an exposed colour that blooms: nothing under the threshold, everything far above it, a parabola of
 * half width `knee x threshold` between.
 */
export function bloomShare(rgb: Rgb, threshold: number, knee: number): number {
  const y = luminance(rgb);
  if (y <= 0) return 0;
  const soft = Math.max(threshold * knee, 1e-5);
  const into = Math.max(0, Math.min(2 * soft, y - threshold + soft));
  const curve = (into * into) / (4 * soft);
  return Math.max(curve, y - threshold) / y;
}

/** A picture of three channels, row after row. */
export interface Light {
  readonly width: number;
  readonly height: number;
  /** r, g, b of each pixel. */
  readonly rgb: Float32Array<ArrayBuffer>;
}

const darkness = (width: number, height: number): Light => ({ width, height, rgb: new Float32Array(width * height * 3) });

/** What is at a place of a picture, 0 to 1 in both directions, between its four nearest pixels; the border goes on outwards. */
function between({ width, height, rgb }: Light, u: number, v: number, lane: number): number {
  const [x, y] = [u * width - 0.5, v * height - 0.5];
  const [x0, y0] = [Math.floor(x), Math.floor(y)];
  const at = (i: number, j: number) =>
    rgb[(Math.max(0, Math.min(height - 1, j)) * width + Math.max(0, Math.min(width - 1, i))) * 3 + lane]!;
  const across = (j: number) => at(x0, j) + (at(x0 + 1, j) - at(x0, j)) * (x - x0);
  return across(y0) + (across(y0 + 1) - across(y0)) * (y - y0);
}

/** Taps of a 4 x 4 tent around a pixel of the coarser picture: places in its pixels, weights that sum to 1. */
const TENT = [-0.75, -0.25, 0.25, 0.75].flatMap((y) =>
  [-0.75, -0.25, 0.25, 0.75].map((x) => ({ x, y, weight: ((1 - Math.abs(x) / 2) * (1 - Math.abs(y) / 2)) / 9 })),
);

function smaller(from: Light, width: number, height: number): Light {
  const into = darkness(width, height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let lane = 0; lane < 3; lane++)
        into.rgb[(y * width + x) * 3 + lane] = TENT.reduce(
          (sum, t) => sum + t.weight * between(from, (x + 0.5 + t.x) / width, (y + 0.5 + t.y) / height, lane),
          0,
        );
  return into;
}

/**
 * What of a picture blooms, at the size of the chain's first level: each pixel is judged for itself, then a tent as wide
 * as the coarser pixels takes them together, so that each counts for as much as any other wherever it is.
 */
function prefiltered(picture: Light, width: number, height: number, exposure: number, threshold: number, knee: number): Light {
  const into = darkness(width, height);
  const [rx, ry] = [Math.max(1, picture.width / width), Math.max(1, picture.height / height)];
  const held = (k: number, size: number) => Math.max(0, Math.min(size - 1, k));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const cx = ((x + 0.5) * picture.width) / width - 0.5;
      const cy = ((y + 0.5) * picture.height) / height - 0.5;
      for (let j = Math.ceil(cy - ry); j < cy + ry; j++)
        for (let i = Math.ceil(cx - rx); i < cx + rx; i++) {
          const weight = ((1 - Math.abs(i - cx) / rx) * (1 - Math.abs(j - cy) / ry)) / (rx * ry);
          const at = (held(j, picture.height) * picture.width + held(i, picture.width)) * 3;
          const rgb = [0, 1, 2].map((lane) => picture.rgb[at + lane]! * exposure) as unknown as Rgb;
          const share = bloomShare(rgb, threshold, knee) * weight;
          for (let lane = 0; lane < 3; lane++) into.rgb[(y * width + x) * 3 + lane]! += rgb[lane]! * share;
        }
    }
  return into;
}

/**
 * What bloom adds to a picture, before its intensity: the stage's passes, on the CPU.
 * @param picture scene-linear; @param exposure stops
 * @returns exposed and scene-linear, at the size of the chain's finest level
 */
export function haloOf(
  picture: Light,
  exposure: number,
  { threshold, knee, spread }: { readonly threshold: number; readonly knee: number; readonly spread: number },
): Light {
  const levels = bloomLevels(spread, picture.height);
  const widthOf = (lines: number) => Math.max(1, Math.round((lines * picture.width) / picture.height));
  const down: Light[] = [];
  for (const { lines } of levels) {
    const before = down.at(-1);
    down.push(
      before
        ? smaller(before, widthOf(lines), lines)
        : prefiltered(picture, widthOf(lines), lines, 2 ** exposure, threshold, knee),
    );
  }
  let sum = down.at(-1)!;
  for (let k = down.length - 2; k >= 0; k--) {
    const fine = down[k]!;
    const coarser = sum;
    const weight = k === down.length - 2 ? levels[k + 1]!.weight : 1;
    sum = darkness(fine.width, fine.height);
    for (let y = 0; y < fine.height; y++)
      for (let x = 0; x < fine.width; x++)
        for (let lane = 0; lane < 3; lane++) {
          const [u, v] = [(x + 0.5) / fine.width, (y + 0.5) / fine.height];
          let around = 0;
          for (let j = -1; j <= 1; j++)
            for (let i = -1; i <= 1; i++)
              around +=
                ((2 - Math.abs(i)) * (2 - Math.abs(j)) * between(coarser, u + i / coarser.width, v + j / coarser.height, lane)) /
                16;
          const at = (y * fine.width + x) * 3 + lane;
          sum.rgb[at] = fine.rgb[at]! * levels[k]!.weight + around * weight;
        }
  }
  return sum;
}
