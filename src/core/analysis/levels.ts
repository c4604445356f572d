/** How the picture's light is spread: in stops around the bloom threshold, its peak, and the shares that glow and clip. */

/** Stops from the lowest bin to the highest; quarter stops a bin. */
export const LEVELS_LOW = -8;
export const LEVELS_HIGH = 5;
export const LEVELS_BINS = (LEVELS_HIGH - LEVELS_LOW) * 4;

export interface Levels {
  /** Share of the pixels in each quarter stop around the threshold; what is darker than the lowest is in none. */
  readonly bins: Float32Array;
  /** Exposed luminance of the brightest pixel. */
  readonly peak: number;
  /** Share of the picture over the threshold. */
  readonly glows: number;
  /** Share of the picture with a channel at the display's end. */
  readonly clips: number;
}

/** @param threshold of the bloom; with none, 0 stops is exposed luminance 1 */
export const zeroStop = (threshold: number): number => (threshold > 0 ? threshold : 1);

/**
 * @param luminance exposed, of every pixel before bloom
 * @param display the picture as it is shown, RGBA bytes, of any size
 */
export function measureLevels(luminance: Float32Array, display: Uint8Array, threshold: number): Levels {
  const bins = new Float32Array(LEVELS_BINS);
  const zero = zeroStop(threshold);
  let peak = 0;
  let glows = 0;
  for (const value of luminance) {
    if (!(value > 0)) continue;
    if (value > peak) peak = value;
    if (value > threshold) glows++;
    const bin = Math.floor((Math.log2(value / zero) - LEVELS_LOW) * 4);
    if (bin >= 0) bins[Math.min(bin, LEVELS_BINS - 1)]!++;
  }
  for (let k = 0; k < LEVELS_BINS; k++) bins[k]! /= luminance.length;
  let clips = 0;
  for (let k = 0; k < display.length; k += 4) if (display[k] === 255 || display[k + 1] === 255 || display[k + 2] === 255) clips++;
  return { bins, peak, glows: glows / luminance.length, clips: clips / (display.length / 4) };
}
