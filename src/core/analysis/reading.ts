/** What is read off a whole sheet without a picture: each strand's kind, range and rate. */
import type { Kind } from '../base/kinds.js';
import type { Rate } from '../ir/leaves.js';
import type { Interval } from '../ir/types.js';
import { MAX_MAGNITUDE } from '../effect/schema.js';
import type { Program } from '../lower/lower.js';
import { rates } from '../passes/rates.js';
import { ranges, type PlaceBounds } from '../passes/ranges.js';
import { scalarise, type ScalarProgram } from '../passes/scalarise.js';

export interface StrandReading {
  readonly kind: Kind;
  /** What the value *can be*, a component each; null while it is not known yet. */
  readonly range: readonly Interval[] | null;
  readonly rate: Rate;
  /** What it was found to be, where nothing bounds it either way: the hull of its components. */
  readonly measured?: Interval;
}

/** What a sheet's operations alone tell: no number of it counts. */
export function readKinds(program: Program): Map<string, StrandReading> {
  const strands = [...program.strands.values()];
  const rate = rates(strands.map((s) => s.value.node));
  return new Map(strands.map((s) => [s.id, { kind: s.value.kind, range: null, rate: rate.get(s.value.node)! }]));
}

/** A sheet as the ranges read it: kernels are whole, each with its proved range. */
export const wholeOf = (program: Program): ScalarProgram =>
  scalarise(
    [...program.strands.values()].map((s) => s.value.node),
    { paste: false },
  );

/** What no document can hold, and no artist means: an end that is proved to lie there says nothing, as if none were proved. */
const BEYOND = MAX_MAGNITUDE;
const end = (x: number): number => (Math.abs(x) > BEYOND ? Math.sign(x) * Infinity : x);
const within = ({ low, high }: Interval): Interval => ({ low: end(low), high: end(high) });

/**
 * @param bounds of each live number; @param whole of the same program, where it is at hand
 * @param places of the props that wear it, where they are known
 */
export function readRanges(
  program: Program,
  bounds: readonly Interval[],
  loop: number | null,
  whole: ScalarProgram = wholeOf(program),
  places: PlaceBounds = {},
): Map<string, readonly Interval[]> {
  const intervals = ranges(whole, bounds, loop, places);
  return new Map([...program.strands.keys()].map((id, k) => [id, intervals[k]!.map(within)]));
}

/** Whether anything is proved of what a value can be: one end is enough, as a clock that runs on has no other. */
export const isBounded = (range: readonly Interval[]): boolean =>
  range.every(({ low, high }) => Number.isFinite(low) || Number.isFinite(high));

/** What is to be told of a strand's value: what was measured, where that says more than what is proved. Null while neither is known. */
export const toldOf = ({ measured, range }: Pick<StrandReading, 'measured' | 'range'>): Interval | null =>
  measured ?? (range && hullOf(range));

const alike = (a: readonly Interval[] | null, b: readonly Interval[]): boolean =>
  a?.length === b.length && a.every((i, k) => i.low === b[k]!.low && i.high === b[k]!.high);

/** Readings with ranges that have come to be known; one that stays what it was stays the same object. */
export function withRanges(
  readings: ReadonlyMap<string, StrandReading>,
  known: ReadonlyMap<string, readonly Interval[]>,
  measured: ReadonlyMap<string, Interval> = new Map(),
): Map<string, StrandReading> {
  return new Map(
    [...readings].map(([id, reading]) => {
      const range = known.get(id);
      if (!range) return [id, reading];
      const { measured: before, ...rest } = reading;
      const found = measured.get(id);
      const stays = before?.low === found?.low && before?.high === found?.high && alike(reading.range, range);
      return [id, stays ? reading : { ...rest, range, ...(found ? { measured: found } : {}) }];
    }),
  );
}

/** What is known of a sheet that has been changed: what did not change is the same object, ranges stay until others are known. */
export function carriedOver(
  before: ReadonlyMap<string, StrandReading>,
  now: ReadonlyMap<string, StrandReading>,
): Map<string, StrandReading> {
  return new Map(
    [...now].map(([id, reading]) => {
      const old = before.get(id);
      const same = old && old.kind === reading.kind && old.rate === reading.rate;
      return [id, same ? old : { ...reading, range: old?.kind === reading.kind ? old.range : null }];
    }),
  );
}

export const readStrands = (program: Program, loop: number | null): Map<string, StrandReading> =>
  withRanges(readKinds(program), readRanges(program, program.paramBounds, loop));

/** The hull of a reading's components: what a row prints as `0 .. 1`; of one that is not known, everything. */
export const hullOf = (range: readonly Interval[] | null): Interval =>
  range
    ? { low: Math.min(...range.map((r) => r.low)), high: Math.max(...range.map((r) => r.high)) }
    : { low: -Infinity, high: Infinity };
