/** Colours by lightness, chroma and hue (OKLCH, CSS Color 4), and what of them sRGB can show. */
import { clampChroma } from 'culori';
import { linearOf, oklabOf, type Row } from '../../core/base/oklab.js';
import { srgbDecode, srgbEncode } from '../../core/base/srgb.js';
import type { Rgb } from '../../core/optics/tone.js';

export interface Lch {
  /** 0 black, 1 white */
  readonly l: number;
  /** 0 grey; about 0.32 at the most that sRGB has */
  readonly c: number;
  /** degrees, 0 to 360 */
  readonly h: number;
}

/** Chroma below which there is no hue to speak of. */
const GREY = 1e-4;

/** @param turned what was chosen last: it stands for the hue of a grey */
export function toLch(rgb: Rgb, turned: Lch | null = null): Lch {
  const [l, a, b] = oklabOf(rgb as unknown as Row);
  const c = Math.hypot(a, b);
  if (c < GREY) return { l, c: 0, h: turned?.h ?? 0 };
  const h = (Math.atan2(b, a) * 180) / Math.PI;
  return { l, c, h: h < 0 ? h + 360 : h };
}

const turnOf = (h: number): number => (h * Math.PI) / 180;

export function fromLch({ l, c, h }: Lch): [number, number, number] {
  const rgb = linearOf([l, c * Math.cos(turnOf(h)), c * Math.sin(turnOf(h))]);
  return rgb.map((v) => Number(v.toFixed(6))) as [number, number, number];
}

/** What rounding of six digits leaves. */
const SLACK = 5e-5;
export const inSrgb = (rgb: Rgb): boolean => rgb.every((v) => v >= -SLACK && v <= 1 + SLACK);

/** The nearest that sRGB has at this lightness and hue: less chroma, as CSS Color 4 maps gamuts. */
export function broughtIn({ l, c, h }: Lch): Lch {
  if (inSrgb(fromLch({ l, c, h }))) return { l, c, h };
  const within = clampChroma({ mode: 'oklch', l: Math.max(0, Math.min(1, l)), c, h }, 'oklch', 'rgb');
  return { l: within.l, c: within.c, h };
}

/** As it is written; of what sRGB does not have, the nearest end of each channel. */
export const hexOf = (rgb: Rgb): string =>
  `#${rgb
    .map((v) =>
      Math.round(255 * srgbEncode(Math.max(0, Math.min(1, v))))
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;

export const fromBytes = (bytes: ArrayLike<number>): [number, number, number] =>
  [0, 1, 2].map((k) => Number(srgbDecode(bytes[k]! / 255).toFixed(6))) as [number, number, number];
