/** The places an effect may read, with the rate at which each changes. */
import type { Type } from './types.js';

/** How often a value must be computed anew; later is costlier. */
export const RATES = ['once', 'frame', 'vertex', 'pixel'] as const;
export type Rate = (typeof RATES)[number];

export const costlier = (a: Rate, b: Rate): Rate => (RATES.indexOf(a) >= RATES.indexOf(b) ? a : b);

interface LeafRecord {
  readonly type: Type;
  readonly rate: Rate;
  /** The value of a point that does not say (`wispen eval`). */
  readonly fallback: readonly number[];
  readonly low: number;
  readonly high: number;
}

/** Bounds are over a stage of ordinary size; they feed the `can be` ranges. */
export const LEAVES = {
  /** Seconds since the loop began, already taken modulo the loop. */
  time: { type: 'f1', rate: 'frame', fallback: [0], low: 0, high: 60 },
  /** The loop's length in seconds; 0 for an effect that runs on. */
  loop: { type: 'f1', rate: 'once', fallback: [0], low: 0, high: 3600 },
  /** Metres, in the prop's own space, before displacement. */
  position: { type: 'f3', rate: 'vertex', fallback: [0, 0, 0], low: -2, high: 2 },
  /** Metres, on the stage, before displacement. */
  worldPosition: { type: 'f3', rate: 'vertex', fallback: [0, 0, 0], low: -10, high: 10 },
  /** Unit, on the stage, turned towards the eye on back faces. */
  normal: { type: 'f3', rate: 'vertex', fallback: [0, 0, 1], low: -1, high: 1 },
  /** Unit, in the prop's own space. */
  objectNormal: { type: 'f3', rate: 'vertex', fallback: [0, 0, 1], low: -1, high: 1 },
  /** Unit, in the eye's space. */
  viewNormal: { type: 'f3', rate: 'vertex', fallback: [0, 0, 1], low: -1, high: 1 },
  /** Unit, from the surface to the eye, on the stage. */
  view: { type: 'f3', rate: 'vertex', fallback: [0, 0, 1], low: -1, high: 1 },
  /** glTF TEXCOORD_0 with v up. */
  uv: { type: 'f2', rate: 'vertex', fallback: [0, 0], low: 0, high: 1 },
  /** glTF TEXCOORD_1 with v up. */
  uv1: { type: 'f2', rate: 'vertex', fallback: [0, 0], low: 0, high: 1 },
} as const satisfies Record<string, LeafRecord>;

export type Leaf = keyof typeof LEAVES;
export const LEAF_NAMES = Object.keys(LEAVES) as Leaf[];
