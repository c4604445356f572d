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

/**
 * @param components one plane a component
 * @param mask 0 where there is no surface
 * @param out width x height RGBA, filled
 */
export function paintSwatch(
  kind: Kind,
  components: readonly Float32Array[],
  mask: Float32Array,
  width: number,
  out: Uint8ClampedArray,
): void {
  const signed = kind === '1' && components[0]!.some((v, k) => mask[k]! > 0 && v < 0);
  const centred =
    (kind === '2' || kind === '3' || kind === '4') && components.some((plane) => plane.some((v, k) => mask[k]! > 0 && v < 0));
  for (let k = 0; k < mask.length; k++) {
    let pixel: readonly number[] = GROUND;
    if (mask[k]! > 0) {
      const values = components.map((plane) => plane[k]!);
      if (values.some((v) => !Number.isFinite(v))) {
        const stripe = ((k % width) + Math.floor(k / width)) % 8 < 4;
        pixel = stripe ? NOT_FINITE : [13, 0, 5];
      } else if (kind === '1') {
        const v = values[0]!;
        const size = Math.min(1, Math.abs(v));
        pixel = !signed ? [byte(v), byte(v), byte(v)] : (v < 0 ? BELOW : ABOVE).map((c) => Math.round(c * size));
      } else if (kind === 'rgb') {
        pixel = hueKept([Math.max(0, values[0]!), Math.max(0, values[1]!), Math.max(0, values[2]!)]).map((c) =>
          byte(srgbEncode(Math.max(0, c))),
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
