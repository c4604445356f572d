/** What is read off a whole sheet without a picture: each strand's kind, range and rate. */
import type { Kind } from '../base/kinds.js';
import type { Rate } from '../ir/leaves.js';
import type { Interval } from '../ir/types.js';
import type { Program } from '../lower/lower.js';
import { rates } from '../passes/rates.js';
import { ranges } from '../passes/ranges.js';
import { scalarise } from '../passes/scalarise.js';

export interface StrandReading {
  readonly kind: Kind;
  /** What the value *can be*, a component each. */
  readonly range: readonly Interval[];
  readonly rate: Rate;
}

export function readStrands(program: Program, loop: number | null): Map<string, StrandReading> {
  const strands = [...program.strands.values()];
  const roots = strands.map((s) => s.value.node);
  const intervals = ranges(scalarise(roots, { paste: false }), program.paramBounds, loop);
  const rate = rates(roots);
  return new Map(strands.map((s, k) => [s.id, { kind: s.value.kind, range: intervals[k]!, rate: rate.get(s.value.node)! }]));
}

/** The hull of a reading's components: what a row prints as `0 .. 1`. */
export const hullOf = (range: readonly Interval[]): Interval => ({
  low: Math.min(...range.map((r) => r.low)),
  high: Math.max(...range.map((r) => r.high)),
});
