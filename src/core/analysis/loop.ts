/** Whether an effect closes at its loop, found by measuring every output on both sides of the join. */
import { LEAVES, SURFACE_LEAVES, type Leaf } from '../ir/leaves.js';
import { widthOf } from '../ir/types.js';
import { paramValues } from '../lower/params.js';
import { evaluatorOf } from '../targets/evaluate.js';
import type { Program } from '../lower/lower.js';
import type { Effect } from '../effect/schema.js';
import type { Mend } from '../effect/mends.js';
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

/** Places on a small prop, spread evenly by the golden ratio so that no two share a coordinate. */
export function samplePlaces(count: number): Partial<Record<Leaf, Float32Array[]>> {
  const places: Partial<Record<Leaf, Float32Array[]>> = {};
  // Each leaf has lanes of its own, so that a normal and a view never point the same way throughout.
  const spread = (k: number, lane: number) =>
    ((k + 0.5) * 0.6180339887498949 + lane * 0.7548776662466927 + k * lane * 0.5698402909980532) % 1;
  let first = 0;
  for (const leaf of SURFACE_LEAVES) {
    const { type, low, high, unit } = LEAVES[leaf];
    const lanes = Array.from({ length: widthOf(type) }, (_, lane) =>
      Float32Array.from({ length: count }, (_, k) => low + (high - low) * spread(k, first + lane)),
    );
    first += lanes.length;
    if (unit)
      for (let k = 0; k < count; k++) {
        const size = Math.hypot(...lanes.map((l) => l[k]!)) || 1;
        for (const l of lanes) l[k] = l[k]! / size;
      }
    places[leaf] = lanes;
  }
  settle(places, count);
  return places;
}

/** What hangs together on a stage: neighbours lie along the surface, the eye looks towards it, axes stand apart. */
function settle(places: Partial<Record<Leaf, Float32Array[]>>, count: number): void {
  const at = (leaf: Leaf, k: number) => places[leaf]!.map((lane) => lane[k]!);
  const put = (leaf: Leaf, k: number, v: readonly number[]) => places[leaf]!.forEach((lane, j) => (lane[k] = v[j]!));
  const cross = (a: number[], b: number[]) =>
    [0, 1, 2].map((j) => a[(j + 1) % 3]! * b[(j + 2) % 3]! - a[(j + 2) % 3]! * b[(j + 1) % 3]!);
  const unit = (v: number[]) => v.map((c) => c / (Math.hypot(...v) || 1));
  for (let k = 0; k < count; k++) {
    const normal = at('normal', k);
    const right = unit(cross(normal, at('worldPositionDx', k)));
    const up = cross(normal, right);
    put(
      'worldPositionDx',
      k,
      right.map((c, j) => 0.02 * c + 0.004 * up[j]!),
    );
    put(
      'worldPositionDy',
      k,
      up.map((c, j) => 0.015 * c - 0.003 * right[j]!),
    );
    const around = at('eyeBack', k);
    put('eyeBack', k, unit(at('view', k).map((c, j) => c + 0.4 * around[j]!)));
    (['modelX', 'modelY', 'modelZ'] as const).forEach((axis, a) =>
      put(
        axis,
        k,
        at(axis, k).map((c, j) => 0.05 * c + (j === a ? 1.5 : 0)),
      ),
    );
  }
}

export function readLoop(program: Program, effect: Effect): LoopReading {
  const roots = [...program.outputs.values()].map((o) => o.node);
  const moving = [...rates(roots).keys()].some((n) => n.op === 'leaf' && n.leaf === 'time');
  const motions = [...readMotions(program, effect)].flatMap(([strand, { motion, nearest }]) =>
    motion.kind === 'still' ? [] : [{ strand, period: motion.kind === 'repeats' ? seconds(motion.period) : null, nearest }],
  );
  if (!moving) return { closes: true, period: null, strands: motions };
  if (effect.loop === null) return { closes: false, period: null, strands: motions };
  const places = samplePlaces(POINTS);
  const evaluator = evaluatorOf(program, roots, new Set(Object.keys(places) as Leaf[]));
  const params = paramValues(program.params, effect);
  const at = (time: number) => evaluator.evaluate(params, { ...places, time: [time], loop: [effect.loop!] }, POINTS);
  // On both sides of the join the effect must be what it is a loop later. A step is a hundredth of a frame; the two
  // may differ by as much as the effect moves in ten steps, or by a thousandth of its size.
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
          if (!(gap <= 10 * motion + 1e-3 * size)) closes = false;
        }
      }),
    );
  }
  return { closes, period: closes ? effect.loop : null, strands: motions };
}
