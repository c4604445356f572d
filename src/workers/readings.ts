/** Messages of the readings worker: pictures, curves, levels, ranges, advice and cost, computed away from the page. */
import type { Picture } from '../core/base/picture.js';
import type { Advice } from '../core/analysis/advice.js';
import type { RestPoints, Stand } from '../core/places/surface.js';
import type { Brightest } from '../core/analysis/glow.js';
import type { CostReading } from '../core/analysis/cost.js';
import type { Levels } from '../core/analysis/levels.js';
import type { Effect } from '../core/effect/schema.js';
import type { Leaf } from '../core/ir/leaves.js';
import type { Interval } from '../core/ir/types.js';
import type { PlaceBounds } from '../core/passes/ranges.js';

export const SWATCH_WIDTH = 64;
export const SWATCH_HEIGHT = 48;
export const CURVE_POINTS = 96;
/** Moments of a Pulse over the loop. */
export const PULSE_POINTS = 256;

/** Planes of SWATCH_WIDTH x SWATCH_HEIGHT numbers, row 0 on top. */
export interface Places {
  readonly mask: Float32Array;
  readonly planes: Partial<Record<Leaf, Float32Array[]>>;
}

/** A pin: the point of the mesh at rest, where the prop stands, and the numbers of what it wears. */
export interface Probe {
  readonly id: string;
  readonly points: RestPoints;
  readonly stand: Stand;
  /** What lies behind it, and what is one value for its prop. */
  readonly steady: Partial<Record<Leaf, number[]>>;
  readonly params: Float32Array;
}

/** What is asked about a whole sheet: the newest of each kind counts. */
export const QUESTIONS = ['ranges', 'advise', 'cost'] as const;
export type Question = (typeof QUESTIONS)[number];

export type ReadingsRequest =
  /** @param number names the program: what is drawn says which it means */
  | { readonly kind: 'program'; readonly number: number; readonly effect: Effect }
  | { readonly kind: 'places'; readonly places: Places }
  /** Where the props are that wear the effect: ranges are asked for anew after it. */
  | { readonly kind: 'bounds'; readonly bounds: PlaceBounds }
  | { readonly kind: 'picture'; readonly key: string; readonly picture: Picture }
  | { readonly kind: 'probes'; readonly probes: readonly Probe[] }
  | {
      readonly kind: 'draw';
      readonly number: number;
      readonly params: Float32Array;
      readonly time: number;
      readonly loop: number | null;
      /** One value for the prop, over surface and time. */
      readonly steady: Partial<Record<Leaf, number[]>>;
      /** Asks for the pulse and the brightest place too: when numbers, places or choices changed, not when only time did. */
      readonly whole: { readonly strands: readonly string[] } | null;
    }
  | {
      readonly kind: 'levels';
      readonly luminance: Float32Array;
      readonly display: Uint8Array;
      readonly threshold: number;
      /** Names the frame that was measured. */
      readonly frame: number;
    }
  | { readonly kind: Question; readonly turn: number; readonly effect: Effect };

export interface Readings {
  readonly kind: 'readings';
  /** Of the program that was drawn. */
  readonly number: number;
  readonly time: number;
  readonly ids: readonly string[];
  /** One picture of SWATCH_WIDTH x SWATCH_HEIGHT RGBA a strand, one after another, in the order of `ids`. */
  readonly atlas: Uint8ClampedArray<ArrayBuffer>;
  /** What each strand's picture is brightened by; 1 where it is shown as it is. */
  readonly gains: Float32Array;
  /** Each strand's first component over the loop at the middle of the prop, CURVE_POINTS numbers each. */
  readonly curves: Float32Array;
  /** Numbers at the middle of the prop now: up to four a strand. */
  readonly now: Float32Array;
  /** The probes, and each strand's first component there now: a row of `ids` a probe. */
  readonly probes: readonly string[];
  readonly probed: Float32Array;
  readonly whole: Whole | null;
}

/** What does not depend on the moment. */
export interface Whole {
  readonly pulse: Pulse;
  readonly brightest: Brightest | null;
}

export interface Pulse {
  readonly strands: readonly string[];
  /** Pins; where there is none, the middle of the chosen prop, named ''. */
  readonly probes: readonly string[];
  /** Seconds from the first moment to the end of the last. */
  readonly span: number;
  /** PULSE_POINTS numbers for each probe and strand: probes outside, strands inside. */
  readonly values: Float32Array;
}

export type ReadingsAnswer =
  | Readings
  /** A request to draw that could not be followed yet: there is no such program, or there are no places. */
  | { readonly kind: 'idle'; readonly number: number }
  | { readonly kind: 'levels'; readonly levels: Levels; readonly frame: number }
  | {
      readonly kind: 'ranges';
      readonly turn: number;
      readonly ranges: ReadonlyMap<string, readonly Interval[]>;
      /** Of those that nothing bounds, what they were found to be. */
      readonly measured: ReadonlyMap<string, Interval>;
    }
  | { readonly kind: 'advise'; readonly turn: number; readonly advice: readonly Advice[] }
  | { readonly kind: 'cost'; readonly turn: number; readonly cost: CostReading; readonly savings: ReadonlyMap<string, number> }
  /** A request that failed; the worker goes on. */
  | { readonly kind: 'trouble'; readonly about: ReadingsRequest['kind']; readonly turn: number | null; readonly message: string };
