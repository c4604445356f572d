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
