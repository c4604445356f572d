/** Tone curves, luminance and the sRGB transfer, on the CPU; the stage's shaders hold the same. */
export const TONE_CURVES = ['hue-kept', 'khronos-neutral', 'aces', 'linear'] as const;

export type Rgb = readonly [number, number, number];

/** ITU-R BT.709. */
export const luminance = ([r, g, b]: Rgb): number => 0.2126 * r + 0.7152 * g + 0.0722 * b;

/**
 * The curve that stages have by default. Up to `KEPT_BELOW` colours are shown as they are; brighter ones are brought under 1
 * by their largest channel, and the others follow by a power that falls from 1 towards 0: the order of the channels stays,
 * so that fire goes from orange over yellow to white, and a deep blue stays blue, where mixing with white goes over pink.
 * Fades to white are by eye, on six hues at 1 to 100 times white (docs/tone.md); common practice, no source.
 */
export function hueKept(rgb: Rgb): Rgb {
  const peak = Math.max(...rgb);
  if (peak <= KEPT_BELOW) return rgb;
  const d = 1 - KEPT_BELOW;
  const shown = 1 - (d * d) / (peak + d - KEPT_BELOW);
  const over = peak - shown;
  const power = 1 / (1 + 0.26 * (Math.sqrt(1 + over) - 1));
  // A little of what is over goes to every channel: a pure primary has nothing else to go white by.
  const lift = 0.004 * over;
  return rgb.map((c) => shown * ((Math.max(c, 0) + lift) / (peak + lift)) ** power) as unknown as Rgb;
}
const KEPT_BELOW = 0.76;

/** Khronos PBR Neutral: base colours stay as they are up to 0.8, brighter ones are compressed and lose colour late. */
export function khronosNeutral(rgb: Rgb): Rgb {
  const start = 0.8 - 0.04;
  const desaturation = 0.15;
  const low = Math.min(...rgb);
  const offset = low < 0.08 ? low - 6.25 * low * low : 0.04;
  const shifted = rgb.map((c) => c - offset);
  const peak = Math.max(...shifted);
  if (peak < start) return shifted as unknown as Rgb;
  const d = 1 - start;
  const newPeak = 1 - (d * d) / (peak + d - start);
  const white = 1 - 1 / (desaturation * (peak - newPeak) + 1);
  return shifted.map((c) => ((c * newPeak) / peak) * (1 - white) + newPeak * white) as unknown as Rgb;
}

/** Rows of the matrices into and out of the space that the curve works in. */
const ACES_IN = [
  [0.59719, 0.35458, 0.04823],
  [0.076, 0.90834, 0.01566],
  [0.0284, 0.13383, 0.83777],
] as const;
const ACES_OUT = [
  [1.60475, -0.53108, -0.07367],
  [-0.10208, 1.10813, -0.00605],
  [-0.00327, -0.07276, 1.07602],
] as const;
const turned = (rows: readonly (readonly [number, number, number])[], [r, g, b]: Rgb): Rgb =>
  rows.map((row) => row[0] * r + row[1] * g + row[2] * b) as unknown as Rgb;

/** Stephen Hill's fit of the ACES reference rendering and sRGB output transforms (numbers from memory, checked against three's). */
export function acesFit(rgb: Rgb): Rgb {
  const curve = (v: number) => (v * (v + 0.0245786) - 0.000090537) / (v * (0.983729 * v + 0.432951) + 0.238081);
  return turned(ACES_OUT, turned(ACES_IN, rgb).map(curve) as unknown as Rgb);
}

const clip = (rgb: Rgb): Rgb => rgb.map((c) => Math.max(0, Math.min(1, c))) as unknown as Rgb;

/** Exposed scene-linear colour to display-linear colour. */
export const TONE: Record<(typeof TONE_CURVES)[number], (rgb: Rgb) => Rgb> = {
  'hue-kept': (rgb) => clip(hueKept(rgb)),
  'khronos-neutral': (rgb) => clip(khronosNeutral(rgb)),
  aces: (rgb) => clip(acesFit(rgb)),
  linear: clip,
};
