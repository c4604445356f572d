/**
 * A grade: the picture as a screen is to show it, coloured at the very end. By the transfer function of the American Society
 * of Cinematographers' Color Decision List 1.2 (from memory): slope, offset and power a channel, then saturation by the
 * luma of ITU-R BT.709, clipped to 0..1; on display-coded values, after the tone curve.
 */
import { luminance, type Rgb } from './tone.js';

export interface Grade {
  /** What each channel is multiplied by, 0 and up; 1 changes nothing. */
  readonly slope: Rgb;
  /** Added to each; 0 changes nothing. */
  readonly offset: Rgb;
  /** The power of each, above 0; 1 changes nothing. */
  readonly power: Rgb;
  /** 0 is grey, 1 changes nothing. */
  readonly saturation: number;
}

export const NO_GRADE: Grade = { slope: [1, 1, 1], offset: [0, 0, 0], power: [1, 1, 1], saturation: 1 };

const held = (v: number): number => Math.max(0, Math.min(1, v));

/** @param coded as a display has it, 0 to 1 @returns the same */
export function graded({ slope, offset, power, saturation }: Grade, coded: Rgb): Rgb {
  const turned = coded.map((v, k) => held(v * slope[k]! + offset[k]!) ** power[k]!) as unknown as Rgb;
  const luma = luminance(turned);
  return turned.map((v) => held(luma + saturation * (v - luma))) as unknown as Rgb;
}

/** One toward another. */
export function blendedGrade(from: Grade, to: Grade, share: number): Grade {
  const mix = (a: number, b: number) => a + (b - a) * share;
  const all = (key: 'slope' | 'offset' | 'power') => from[key].map((v, k) => mix(v, to[key][k]!)) as unknown as Rgb;
  return {
    slope: all('slope'),
    offset: all('offset'),
    power: all('power'),
    saturation: mix(from.saturation, to.saturation),
  };
}
