/** Tone curves, luminance and the sRGB transfer, on the CPU; the stage's shaders hold the same. */
export const TONE_CURVES = ['khronos-neutral', 'linear'] as const;

export type Rgb = readonly [number, number, number];

/** ITU-R BT.709. */
export const luminance = ([r, g, b]: Rgb): number => 0.2126 * r + 0.7152 * g + 0.0722 * b;

/** IEC 61966-2-1, one component 0..1. */
export const srgbEncode = (x: number): number => (x <= 0.0031308 ? 12.92 * x : 1.055 * x ** (1 / 2.4) - 0.055);
export const srgbDecode = (x: number): number => (x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4);

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

const clip = (rgb: Rgb): Rgb => rgb.map((c) => Math.max(0, Math.min(1, c))) as unknown as Rgb;

/** Exposed scene-linear colour to display-linear colour. */
export const TONE: Record<(typeof TONE_CURVES)[number], (rgb: Rgb) => Rgb> = {
  'khronos-neutral': (rgb) => clip(khronosNeutral(rgb)),
  linear: clip,
};
