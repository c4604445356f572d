/** How a strand's raw value is drawn in a swatch. */
import type { Kind } from '../core/base/kinds.js';
import { srgbEncode } from '../core/base/srgb.js';
import { hueKept } from '../core/optics/tone.js';

const GROUND = [20, 18, 26] as const;
/** What is above and below zero in a signed value: DESIGN.md section 4. */
const ABOVE = [0xe8, 0x9e, 0xe0] as const;
const BELOW = [0x54, 0xc7, 0xd1] as const;
const NOT_FINITE = [255, 0, 107] as const;

const byte = (x: number) => Math.round(255 * Math.max(0, Math.min(1, x)));

/** Below this, what is largest in a swatch is hard to see on its dark ground. */
const FAINT = 0.3;
/** A swatch is brightened no more than this: what is fainter is as good as nothing. */
const MOST_GAIN = 16;
/** A value that fills less than this share of the surface is a line or a few specks: a swatch hardly has pixels for it. */
const THIN = 0.05;

/** The largest finite magnitude on the surface. */
export function peakOf(components: readonly Float32Array[], mask: Float32Array): number {
  let peak = 0;
  for (const plane of components)
    for (let k = 0; k < mask.length; k++) {
      const size = Math.abs(plane[k]!);
      if (mask[k]! > 0 && size > peak && size < Infinity) peak = size;
    }
  return peak;
}

/** What a swatch of numbers or colours is brightened by. @param peak the largest that it has been, so that flicker is seen as such */
export const gainFor = (kind: Kind, peak: number): number =>
  (kind === '1' || kind === 'rgb') && peak > 0 && peak < FAINT ? Math.min(MOST_GAIN, 0.8 / peak) : 1;

/**
 * Lines and specks a pixel wider on every side, where they are all that there is: each place has the value of its neighbour
 * that is farthest from 0. @returns the planes as they are where they fill more
 */
function thickened(components: readonly Float32Array[], mask: Float32Array, width: number): readonly Float32Array[] {
  const size = (k: number) => components.reduce((most, plane) => Math.max(most, Math.abs(plane[k]!)), 0);
  const peak = peakOf(components, mask);
  let [there, lit] = [0, 0];
  for (let k = 0; k < mask.length; k++)
    if (mask[k]! > 0) {
      there++;
      if (size(k) > peak / 4) lit++;
    }
  if (!(peak > 0) || lit === 0 || lit >= there * THIN) return components;
  const height = mask.length / width;
  const wide = components.map((plane) => plane.slice());
  for (let k = 0; k < mask.length; k++) {
    if (!(mask[k]! > 0)) continue;
    const [x, y] = [k % width, Math.floor(k / width)];
    let best = k;
    for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++)
      for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++) {
        const near = v * width + u;
        if (mask[near]! > 0 && size(near) > size(best)) best = near;
      }
    components.forEach((plane, c) => (wide[c]![k] = plane[best]!));
  }
  return wide;
}

/**
 * @param components one plane a component
 * @param mask 0 where there is no surface
 * @param out width x height RGBA, filled
 * @param gain numbers and colours are shown times this
 */
export function paintSwatch(
  kind: Kind,
  components: readonly Float32Array[],
  mask: Float32Array,
  width: number,
  out: Uint8ClampedArray,
  gain = 1,
): void {
  const planes = kind === '1' || kind === 'rgb' ? thickened(components, mask, width) : components;
  const signed = kind === '1' && planes[0]!.some((v, k) => mask[k]! > 0 && v < 0);
  const centred =
    (kind === '2' || kind === '3' || kind === '4') && components.some((plane) => plane.some((v, k) => mask[k]! > 0 && v < 0));
  for (let k = 0; k < mask.length; k++) {
    let pixel: readonly number[] = GROUND;
    if (mask[k]! > 0) {
      const values = planes.map((plane) => plane[k]!);
      if (values.some((v) => !Number.isFinite(v))) {
        const stripe = ((k % width) + Math.floor(k / width)) % 8 < 4;
        pixel = stripe ? NOT_FINITE : [13, 0, 5];
      } else if (kind === '1') {
        const v = values[0]! * gain;
        const size = Math.min(1, Math.abs(v));
        pixel = !signed ? [byte(v), byte(v), byte(v)] : (v < 0 ? BELOW : ABOVE).map((c) => Math.round(c * size));
      } else if (kind === 'rgb') {
        pixel = hueKept([Math.max(0, values[0]! * gain), Math.max(0, values[1]! * gain), Math.max(0, values[2]! * gain)]).map(
          (c) => byte(srgbEncode(Math.max(0, c))),
        );
      } else {
        const shown = centred ? values.map((v) => v * 0.5 + 0.5) : values;
        pixel = [byte(shown[0]!), byte(shown[1]!), byte(shown[2] ?? 0)];
      }
    }
    out[k * 4] = pixel[0]!;
    out[k * 4 + 1] = pixel[1]!;
    out[k * 4 + 2] = pixel[2]!;
    out[k * 4 + 3] = 255;
  }
}
