/** Messages of the readings worker: pictures and curves of strands, computed away from the page. */
import type { Effect } from '../core/effect/schema.js';
import type { Leaf } from '../core/ir/leaves.js';

export const SWATCH_WIDTH = 64;
export const SWATCH_HEIGHT = 48;
export const CURVE_POINTS = 96;

/** Planes of SWATCH_WIDTH x SWATCH_HEIGHT numbers, row 0 on top. */
export interface Places {
  readonly mask: Float32Array;
  readonly planes: Partial<Record<Leaf, Float32Array[]>>;
}

export type ReadingsRequest =
  | { readonly kind: 'program'; readonly effect: Effect }
  | { readonly kind: 'places'; readonly places: Places }
  | { readonly kind: 'draw'; readonly params: Float32Array; readonly time: number; readonly loop: number | null };

export interface Readings {
  readonly kind: 'readings';
  readonly time: number;
  readonly ids: readonly string[];
  /** One picture of SWATCH_WIDTH x SWATCH_HEIGHT RGBA a strand, one after another, in the order of `ids`. */
  readonly atlas: Uint8ClampedArray<ArrayBuffer>;
  /** Each strand's first component over the loop at the middle of the prop, CURVE_POINTS numbers each. */
  readonly curves: Float32Array;
  /** Numbers at the middle of the prop now: up to four a strand. */
  readonly now: Float32Array;
}
