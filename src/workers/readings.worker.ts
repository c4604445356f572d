/** The readings worker: compiles a sheet's strands twice, once over the surface and once over time. */
import type { Kind } from '../core/base/kinds.js';
import { LEAF_NAMES, type Leaf } from '../core/ir/leaves.js';
import { evaluatorOf, strandRoots, type Evaluator } from '../core/targets/evaluate.js';
import { lower } from '../core/lower/lower.js';
import { CURVE_POINTS, SWATCH_HEIGHT, SWATCH_WIDTH, type Places, type Readings, type ReadingsRequest } from './readings.js';
import { paintSwatch } from './swatch.js';

const PIXELS = SWATCH_WIDTH * SWATCH_HEIGHT;
const OVER_SURFACE = new Set(LEAF_NAMES.filter((l): l is Leaf => l !== 'time' && l !== 'loop'));
const OVER_TIME = new Set<Leaf>(['time']);

let program: { ids: string[]; kinds: Kind[]; surface: Evaluator; time: Evaluator } | null = null;
let places: Places | null = null;

function compile(request: Extract<ReadingsRequest, { kind: 'program' }>): void {
  const lowered = lower(request.effect, { build: 'live' });
  const roots = strandRoots(lowered);
  const strands = [...lowered.strands.values()];
  program = {
    ids: strands.map((s) => s.id),
    kinds: strands.map((s) => s.value.kind),
    surface: evaluatorOf(lowered, roots, OVER_SURFACE, PIXELS),
    time: evaluatorOf(lowered, roots, OVER_TIME, CURVE_POINTS),
  };
}

/** The covered pixel nearest to the middle. */
function middleOf(mask: Float32Array): number {
  let best = 0;
  let nearest = Infinity;
  for (let k = 0; k < mask.length; k++) {
    if (mask[k]! <= 0) continue;
    const d = Math.hypot((k % SWATCH_WIDTH) - SWATCH_WIDTH / 2, Math.floor(k / SWATCH_WIDTH) - SWATCH_HEIGHT / 2);
    if (d < nearest) [best, nearest] = [k, d];
  }
  return best;
}

function draw({ params, time, loop }: Extract<ReadingsRequest, { kind: 'draw' }>): void {
  if (!program || !places) return;
  const { ids, kinds, surface, time: overTime } = program;
  const { mask, planes } = places;
  const values = surface.view(params, { ...planes, time: [time], loop: [loop ?? 0] }, PIXELS);
  const atlas = new Uint8ClampedArray(ids.length * PIXELS * 4);
  ids.forEach((_, k) =>
    paintSwatch(kinds[k]!, values[k]!, mask, SWATCH_WIDTH, atlas.subarray(k * PIXELS * 4, (k + 1) * PIXELS * 4)),
  );
  const middle = middleOf(mask);
  const still = Object.fromEntries(Object.entries(planes).map(([leaf, lanes]) => [leaf, lanes.map((l) => l[middle]!)]));
  const span = loop ?? 4;
  const moments = Float32Array.from({ length: CURVE_POINTS }, (_, k) => (k / CURVE_POINTS) * span);
  const series = overTime.view(params, { ...still, time: [moments], loop: [loop ?? 0] }, CURVE_POINTS);
  const curves = new Float32Array(ids.length * CURVE_POINTS);
  const now = new Float32Array(ids.length * 4);
  ids.forEach((_, k) => {
    curves.set(series[k]![0]!, k * CURVE_POINTS);
    values[k]!.forEach((plane, lane) => (now[k * 4 + lane] = plane[middle]!));
  });
  const answer: Readings = { kind: 'readings', time, ids, atlas, curves, now };
  postMessage(answer, { transfer: [atlas.buffer, curves.buffer, now.buffer] });
}

addEventListener('message', ({ data }: MessageEvent<ReadingsRequest>) => {
  if (data.kind === 'program') compile(data);
  else if (data.kind === 'places') places = data.places;
  else draw(data);
});
