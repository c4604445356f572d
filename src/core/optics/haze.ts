/**
 * Haze: light is lost on its way, and the haze's own colour comes in its stead. Its density falls with height by a power
 * of e a scale height, so that what the way of a ray takes has a closed form.
 * Source: Lambert-Beer along a straight ray through an exponential atmosphere; the integral is elementary.
 */

/** As a stage has it. */
export interface Haze {
  /** Scene-linear radiance of the haze itself. */
  readonly rgb: Place;
  /** What a metre of it takes, where it is little; at the height `from`. */
  readonly density: number;
  /** Metres of height over which it falls to 1 / e; null where it is as dense everywhere. */
  readonly falls: number | null;
  /** Metres. */
  readonly from: number;
}
type Place = readonly [number, number, number];

/** The most that a way takes, in powers of e: beyond it nothing is left. */
const MOST = 60;
const held = (v: number): number => Math.max(-MOST, Math.min(MOST, v));

/** The share of a point's light that comes to the eye. @param eye, point metres */
export function throughHaze({ density, falls, from }: Haze, eye: Place, point: Place): number {
  const way = Math.hypot(...point.map((v, k) => v - eye[k]!));
  if (falls === null) return Math.exp(-Math.min(density * way, MOST));
  const rise = (point[1] - eye[1]) / falls;
  const there = Math.exp(held((from - eye[1]) / falls));
  const mean = Math.abs(rise) < 1e-3 ? 1 - rise / 2 : (1 - Math.exp(-held(rise))) / rise;
  return Math.exp(-Math.min(density * way * there * mean, MOST));
}

/** A point's radiance as the eye sees it. */
export function inHaze(haze: Haze, light: Place, eye: Place, point: Place): [number, number, number] {
  const left = throughHaze(haze, eye, point);
  return light.map((v, k) => haze.rgb[k]! + (v - haze.rgb[k]!) * left) as [number, number, number];
}
