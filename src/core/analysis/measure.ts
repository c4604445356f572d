/** What every strand's value *is*: measured over places of a small prop and over the loop, never wider than it occurs. */
import { FRAME_LEAVES, SURFACE_LEAVES, LEAVES, type Leaf } from '../ir/leaves.js';
import type { Interval } from '../ir/types.js';
import type { Effect } from '../effect/schema.js';
import { paramValues } from '../lower/params.js';
import type { Program } from '../lower/lower.js';
import { rates } from '../passes/rates.js';
import { evaluatorOf, strandRoots, type Evaluator } from '../targets/evaluate.js';
import { samplePlaces } from '../places/spread.js';
import { hullOf, isBounded } from './reading.js';

export interface Measured {
  /** Largest and smallest finite value, a component each; null where there was none. */
  readonly range: readonly (Interval | null)[];
  /** Whether any value was not finite. */
  readonly broken: boolean;
}

const PLACES = 128;
const MOMENTS = 24;
/** Seconds that are looked at of an effect that runs on. */
const SPAN = 8;

/** A program is measured again with other numbers. */
const evaluators = new WeakMap<Program, Evaluator>();

/** @param effect with the variant's values written in; the program is its live build */
export function measureStrands(program: Program, effect: Effect): Map<string, Measured> {
  const strands = [...program.strands.values()];
  let evaluator = evaluators.get(program);
  if (!evaluator)
    evaluators.set(program, (evaluator = evaluatorOf(program, strandRoots(program), new Set(SURFACE_LEAVES), PLACES)));
  const places = samplePlaces(PLACES);
  const still = Object.fromEntries(FRAME_LEAVES.map((l): [Leaf, readonly number[]] => [l, LEAVES[l].fallback]));
  const params = paramValues(program.params, effect);
  const loop = effect.loop ?? 0;
  const found = strands.map((s) => ({
    range: Array.from({ length: Number(s.value.node.type[1]) }, (): { low: number; high: number } | null => null),
    broken: false,
  }));
  for (let m = 0; m < MOMENTS; m++) {
    const time = ((m + 0.5) / MOMENTS) * (effect.loop ?? SPAN);
    const values = evaluator.view(params, { ...still, ...places, propRandom: [m / MOMENTS], time: [time], loop: [loop] }, PLACES);
    values.forEach((root, k) => {
      const own = found[k]!;
      root.forEach((lane, l) => {
        let [low, high] = [Infinity, -Infinity];
        for (let p = 0; p < PLACES; p++) {
          const v = lane[p]!;
          if (!Number.isFinite(v)) own.broken = true;
          else {
            if (v < low) low = v;
            if (v > high) high = v;
          }
        }
        if (low > high) return;
        const before = own.range[l];
        own.range[l] = before ? { low: Math.min(before.low, low), high: Math.max(before.high, high) } : { low, high };
      });
    });
  }
  return new Map(strands.map((s, k) => [s.id, found[k]!]));
}

/** From so wide on it is asked whether what is proved says anything; and so many times as wide as what occurs, it does not. */
const WIDE = 4;
const LOOSE = 6;
const width = ({ low, high }: Interval): number => high - low;
/** Whether what is proved is too far from what was measured to say anything. */
export const isLoose = (proved: Interval, measured: Interval): boolean => width(proved) >= LOOSE * width(measured);

/**
 * What was measured of the strands of which nothing useful is proved: nothing bounds them, or intervals have grown far
 * wider than what occurs, as they do through turns of colours and directions. @param ranges what each can be
 */
export function measuredWhereOpen(
  program: Program,
  effect: Effect,
  ranges: ReadonlyMap<string, readonly Interval[]>,
): Map<string, Interval> {
  // What goes on for ever without a place, as a clock does, has no end that could be measured.
  const rate = rates([...program.strands.values()].map((s) => s.value.node));
  const clocks = (id: string) => rate.get(program.strands.get(id)!.value.node) === 'frame';
  const open = [...ranges].filter(([, range]) => !isBounded(range) || width(hullOf(range)) > WIDE);
  if (open.length === 0) return new Map();
  const measured = measureStrands(program, effect);
  return new Map(
    open.flatMap(([id, range]) => {
      const hull = measuredHull(measured.get(id)!);
      const tells =
        isBounded(range) && hull !== null && (isFinite(width(hullOf(range))) ? !isLoose(hullOf(range), hull) : clocks(id));
      return hull && !tells ? [[id, hull] as const] : [];
    }),
  );
}

/** The hull of what was measured; null where nothing finite was. */
export function measuredHull({ range }: Measured): Interval | null {
  const known = range.filter((r): r is Interval => r !== null);
  if (known.length === 0) return null;
  return { low: Math.min(...known.map((r) => r.low)), high: Math.max(...known.map((r) => r.high)) };
}
