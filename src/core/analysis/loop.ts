/** Whether an effect closes at its loop, found by measuring every output on both sides of the join. */
import { produce } from 'immer';
import type { Leaf } from '../ir/leaves.js';
import { paramValues } from '../lower/params.js';
import { evaluatorOf } from '../targets/evaluate.js';
import { lower, type Program } from '../lower/lower.js';
import { strandsOf, type Effect } from '../effect/schema.js';
import { applyMend, type Mend } from '../effect/mends.js';
import { flat } from '../effect/motifs.js';
import { samplePlaces } from '../places/spread.js';
import { readMotions, seconds } from './periods.js';
import { rates } from '../passes/rates.js';

export interface LoopReading {
  /** True when the end of the loop joins its beginning, or when nothing moves. */
  readonly closes: boolean;
  /** Seconds after which the picture repeats: the loop where it closes, null where nothing moves or it does not. */
  readonly period: number | null;
  /** Each strand that moves: when it repeats in seconds, null for never, and what would close it. */
  readonly strands: readonly { readonly strand: string; readonly period: number | null; readonly nearest: Mend | null }[];
}

const POINTS = 64;

export function readLoop(program: Program, effect: Effect): LoopReading {
  const roots = [...program.outputs.values()].map((o) => o.node);
  const moving = [...rates(roots).keys()].some((n) => n.op === 'leaf' && n.leaf === 'time');
  const motions = [...readMotions(program, effect)].flatMap(([strand, { motion, nearest }]) =>
    motion.kind === 'still' ? [] : [{ strand, period: motion.kind === 'repeats' ? seconds(motion.period) : null, nearest }],
  );
  if (!moving) return { closes: true, period: null, strands: motions };
  if (effect.loop === null) return { closes: false, period: null, strands: motions };
  // Every prop closes, not one alone: each place is on another.
  const places = {
    ...samplePlaces(POINTS),
    propRandom: [Float32Array.from({ length: POINTS }, (_, k) => (k * 0.754877666) % 1)],
  };
  const evaluator = evaluatorOf(program, roots, new Set(Object.keys(places) as Leaf[]));
  const params = paramValues(program.params, effect);
  const at = (time: number) => evaluator.evaluate(params, { ...places, time: [time], loop: [effect.loop!] }, POINTS);
  // On both sides of the join the effect must be what it is a loop later. A step is a hundredth of a frame; the two
  // may differ by as much as the effect moves in half a step, which nobody sees, or by a thousandth of its size, which
  // rounding may make.
  const step = 0.01 / effect.fps;
  let closes = true;
  for (const side of [-step, step]) {
    const early = at(side);
    const further = at(2 * side);
    const late = at(effect.loop + side);
    early.forEach((root, r) =>
      root.forEach((lane, l) => {
        const size = lane.reduce((m, v) => Math.max(m, Math.abs(v)), 1e-3);
        for (let k = 0; k < POINTS; k++) {
          const motion = Math.abs(further[r]![l]![k]! - lane[k]!);
          const gap = Math.abs(late[r]![l]![k]! - lane[k]!);
          if (!(gap <= 0.5 * motion + 1e-3 * size)) closes = false;
        }
      }),
    );
  }
  return { closes, period: closes ? effect.loop : null, strands: motions };
}

/** What closes the loop, where something does: it has been tried. */
export function closing(effect: Effect, loop: LoopReading): Mend | null {
  const mends = loop.strands.flatMap((s) => (s.nearest ? [{ ...s.nearest, strand: s.strand }] : []));
  if (mends.length === 0) return null;
  const names = new Map(strandsOf(flat(effect)).map((s) => [s.id, s.name]));
  const called = mends.map((m) => names.get(m.strand) ?? m.strand);
  const [two, more] = [called.slice(0, 2), called.length - 2];
  const label =
    mends.length === 1
      ? mends[0]!.label
      : `Close ${more > 0 ? `${two.join(', ')} and ${more} more` : two.join(' and ')} over the loop`;
  const edits = mends.flatMap((m) => m.edits);
  const mended = produce(effect, (draft) => applyMend(draft, { edits }));
  const program = lower(mended, { build: 'live' });
  return program.problems.length === 0 && readLoop(program, mended).closes ? { label, edits } : null;
}
