/** Between linear Rec.709 and the hue, saturation and value that people turn. */
import { srgbDecode, srgbEncode } from '../../core/base/srgb.js';
import type { Rgb } from '../../core/optics/tone.js';

export interface Hsv {
  /** degrees, 0 to 360 */
  readonly hue: number;
  readonly saturation: number;
  readonly value: number;
}

export function toHsv(linear: Rgb): Hsv {
  const [r, g, b] = linear.map((c) => srgbEncode(Math.max(0, Math.min(1, c)))) as [number, number, number];
  const value = Math.max(r, g, b);
  const span = value - Math.min(r, g, b);
  if (span === 0) return { hue: 0, saturation: 0, value };
  const sector = value === r ? ((g - b) / span + 6) % 6 : value === g ? (b - r) / span + 2 : (r - g) / span + 4;
  return { hue: sector * 60, saturation: span / value, value };
}

export function fromHsv({ hue, saturation, value }: Hsv): [number, number, number] {
  const channel = (n: number) => {
    const k = (n + hue / 60) % 6;
    return srgbDecode(value - value * saturation * Math.max(0, Math.min(k, 4 - k, 1)));
  };
  return [channel(5), channel(3), channel(1)].map((c) => Number(c.toFixed(6))) as [number, number, number];
}

/** For a swatch of the hue on screen; intensity is told in numbers beside it. */
export const cssColour = (linear: Rgb): string =>
  `rgb(${linear.map((c) => Math.round(255 * srgbEncode(Math.max(0, Math.min(1, c))))).join(' ')})`;
