/** The readings worker: compiles a sheet's strands twice, once over the surface and once over time. */
import type { Picture } from '../core/base/picture.js';
import type { Kind } from '../core/base/kinds.js';
import { luminance } from '../core/optics/tone.js';
import { movementOf, repeated, restLeaves, surfaceLeaves, type Movement } from '../core/places/surface.js';
import { advise } from '../core/analysis/advice.js';
import type { Brightest } from '../core/analysis/glow.js';
import { measureLevels } from '../core/analysis/levels.js';
import { SURFACE_LEAVES, type Leaf } from '../core/ir/leaves.js';
import { evaluatorOf, strandRoots, type Evaluator } from '../core/targets/evaluate.js';
import type { LeafValues } from '../core/targets/wasm/runner.js';
import type { Effect } from '../core/effect/schema.js';
import { skeletonOf } from '../core/effect/skeleton.js';
import type { Interval } from '../core/ir/types.js';
import { boundsOf } from '../core/lower/bounds.js';
import { lower, type Program } from '../core/lower/lower.js';
import type { PlaceBounds } from '../core/passes/ranges.js';
import type { ScalarProgram } from '../core/passes/scalarise.js';
import { readCost, savings } from '../core/analysis/cost.js';
import { measuredWhereOpen } from '../core/analysis/measure.js';
import { readKinds, readRanges, wholeOf, withRanges } from '../core/analysis/reading.js';
import {
  CURVE_POINTS,
  PULSE_POINTS,
  SWATCH_HEIGHT,
  SWATCH_WIDTH,
  type Places,
  type Probe,
  type Pulse,
  type Question,
  type Readings,
  type ReadingsAnswer,
  type ReadingsRequest,
} from './readings.js';
import { gainFor, paintSwatch, peakOf } from './swatch.js';

const PIXELS = SWATCH_WIDTH * SWATCH_HEIGHT;
const OVER_SURFACE = new Set(SURFACE_LEAVES);
const OVER_TIME = new Set<Leaf>(['time']);
/** What changes over time where a surface is moved. */
const MOVED_OVER_TIME = new Set<Leaf>(['time', 'normal', 'objectNormal', 'viewNormal', 'view', 'eyeDepth', 'screen', 'facing']);
/** Moments at which the brightest place is looked for, and every how many pixels. */
const LOOKS = 48;
const LOOK_STEP = 7;

interface Compiled {
  readonly number: number;
  readonly ids: string[];
  readonly kinds: Kind[];
  readonly surface: Evaluator;
  readonly time: Evaluator;
  /** What moves the surface, over time. */
  readonly movement: Movement | null;
  /** Over surface and time both, a few places at a time. */
  readonly emission: Evaluator | null;
}

let program: Compiled | null = null;
let places: Places | null = null;
/** The largest magnitude of each strand since numbers, places or the sheet changed. */
let peaks = new Float32Array(0);
let probes: readonly Probe[] = [];
const pictures = new Map<string, Picture>();

/** A sheet as it was last lowered: numbers that change leave it as it is. */
interface Sheet {
  readonly skeleton: string;
  readonly program: Program;
  readonly whole: ScalarProgram;
}
let sheet: Sheet | null = null;
let placeBounds: PlaceBounds = {};

function sheetOf(effect: Effect): Sheet {
  const skeleton = skeletonOf(effect);
  if (sheet?.skeleton !== skeleton) {
    const lowered = lower(effect, { build: 'live' });
    sheet = { skeleton, program: lowered, whole: wholeOf(lowered) };
  }
  return sheet;
}

/** What each strand can be, with the numbers as they are now. */
function rangesOf(effect: Effect): Map<string, readonly Interval[]> {
  const { program: lowered, whole } = sheetOf(effect);
  return readRanges(lowered, boundsOf(lowered.params, effect), effect.loop, whole, placeBounds);
}

function answerTo(question: Question, turn: number, effect: Effect): ReadingsAnswer {
  const { program: lowered } = sheetOf(effect);
  switch (question) {
    case 'ranges': {
      const ranges = rangesOf(effect);
      return { kind: 'ranges', turn, ranges, measured: measuredWhereOpen(lowered, effect, ranges) };
    }
    case 'advise':
      return { kind: 'advise', turn, advice: advise(effect, lowered, withRanges(readKinds(lowered), rangesOf(effect))) };
    case 'cost':
      return { kind: 'cost', turn, cost: readCost(lowered), savings: savings(effect, lowered) };
  }
}

const LOOK_PLACES = Math.ceil(PIXELS / LOOK_STEP);

function compile(request: Extract<ReadingsRequest, { kind: 'program' }>): void {
  const { program: lowered } = sheetOf(request.effect);
  const roots = strandRoots(lowered);
  const strands = [...lowered.strands.values()];
  const emission = lowered.outputs.get('emission');
  const movement = movementOf(lowered, PULSE_POINTS, pictures, true);
  program = {
    number: request.number,
    ids: strands.map((s) => s.id),
    kinds: strands.map((s) => s.value.kind),
    surface: evaluatorOf(lowered, roots, OVER_SURFACE, PIXELS, pictures),
    time: evaluatorOf(lowered, roots, movement ? MOVED_OVER_TIME : OVER_TIME, PULSE_POINTS, pictures),
    movement,
    emission: emission ? evaluatorOf(lowered, [emission.node], OVER_SURFACE, LOOK_PLACES, pictures) : null,
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

const momentsOf = (span: number, count: number) => Float32Array.from({ length: count }, (_, k) => (k / count) * span);

/** The brightest of the emission over the prop's places and the loop. */
function findBrightest(
  { emission }: Compiled,
  { mask, planes }: Places,
  params: Float32Array,
  loop: number | null,
  steady: Probe['steady'],
): Brightest | null {
  if (!emission) return null;
  const seen: number[] = [];
  for (let k = 0; k < PIXELS; k += LOOK_STEP) if (mask[k]! > 0) seen.push(k);
  if (seen.length === 0) return null;
  const few = Object.fromEntries(
    Object.entries(planes).map(([leaf, lanes]) => [leaf, lanes.map((lane) => Float32Array.from(seen, (k) => lane[k]!))]),
  );
  let best: Brightest | null = null;
  let peak = 0;
  for (const time of momentsOf(loop ?? 8, LOOKS)) {
    const [r, g, b] = emission.view(params, { ...few, ...steady, time: [time], loop: [loop ?? 0] }, seen.length)[0]!;
    for (let k = 0; k < seen.length; k++) {
      const value = luminance([r![k]!, g![k]!, b![k]!]);
      if (!(value > peak) || !Number.isFinite(value)) continue;
      peak = value;
      best = { rgb: [r![k]!, g![k]!, b![k]!], time };
    }
  }
  return best;
}

/** What a program reads at a point that is looked at over time. */
interface Watched {
  readonly id: string;
  readonly params: Float32Array;
  readonly leavesAt: (moments: Float32Array, loop: number | null) => LeafValues;
}

/** A pin stays where it is on the mesh, and goes with the surface when that is moved. */
function watched({ movement }: Compiled, { id, points, stand, steady, params }: Probe): Watched {
  const one = surfaceLeaves(points, stand, null).leaves;
  const rest = restLeaves(points, stand);
  const leavesAt = (moments: Float32Array, loop: number | null): LeafValues => {
    const clock = { time: [moments], loop: [loop ?? 0] };
    if (!movement) return { ...one, ...steady, ...clock };
    const moved = movement.at(params, { ...rest, ...steady, ...clock }, moments.length);
    return { ...surfaceLeaves(repeated(points, 0, moments.length), stand, moved).leaves, ...steady, ...clock };
  };
  return { id, params, leavesAt };
}

/** @param middle stands in where nothing is pinned */
function pulseOf(compiled: Compiled, middle: Watched, strands: readonly string[], loop: number | null): Pulse {
  const { ids, time } = compiled;
  const span = loop ?? 8;
  const there = strands.filter((id) => ids.includes(id));
  const asked = probes.length > 0 ? probes.map((p) => watched(compiled, p)) : [middle];
  const values = new Float32Array(asked.length * there.length * PULSE_POINTS);
  const moments = momentsOf(span, PULSE_POINTS);
  asked.forEach(({ leavesAt, params }, p) => {
    const series = time.view(params, leavesAt(moments, loop), PULSE_POINTS);
    there.forEach((id, s) => values.set(series[ids.indexOf(id)]![0]!, (p * there.length + s) * PULSE_POINTS));
  });
  return { strands: there, probes: asked.map((p) => p.id), span, values };
}

function draw({ number, params, time, loop, steady, whole }: Extract<ReadingsRequest, { kind: 'draw' }>): void {
  if (program?.number !== number || !places) return answer({ kind: 'idle', number });
  const compiled = program;
  const { ids, kinds, surface, time: overTime } = compiled;
  const { mask, planes } = places;
  const values = surface.view(params, { ...planes, ...steady, time: [time], loop: [loop ?? 0] }, PIXELS);
  const atlas = new Uint8ClampedArray(ids.length * PIXELS * 4);
  // Something else is drawn from here on: what was seen before says nothing of it.
  if (whole || peaks.length !== ids.length) peaks = new Float32Array(ids.length);
  const gains = new Float32Array(ids.length);
  ids.forEach((_, k) => {
    peaks[k] = Math.max(peaks[k]!, peakOf(values[k]!, mask));
    gains[k] = gainFor(kinds[k]!, peaks[k]!);
    const out = atlas.subarray(k * PIXELS * 4, (k + 1) * PIXELS * 4);
    paintSwatch(kinds[k]!, values[k]!, mask, SWATCH_WIDTH, out, gains[k]);
  });
  const middle = middleOf(mask);
  const there = Object.entries(planes).map(([leaf, lanes]) => [leaf, lanes.map((l) => l[middle]!)]);
  const still = { ...(Object.fromEntries(there) as Probe['steady']), ...steady };
  const series = overTime.view(params, { ...still, time: [momentsOf(loop ?? 4, CURVE_POINTS)], loop: [loop ?? 0] }, CURVE_POINTS);
  const curves = new Float32Array(ids.length * CURVE_POINTS);
  const now = new Float32Array(ids.length * 4);
  ids.forEach((_, k) => {
    curves.set(series[k]![0]!, k * CURVE_POINTS);
    values[k]!.forEach((plane, lane) => (now[k * 4 + lane] = plane[middle]!));
  });
  const probed = new Float32Array(probes.length * ids.length);
  probes.forEach((probe, p) => {
    const there = overTime.view(probe.params, watched(compiled, probe).leavesAt(Float32Array.of(time), loop), 1);
    there.forEach((lanes, k) => (probed[p * ids.length + k] = lanes[0]![0]!));
  });
  const drawn: Readings = {
    kind: 'readings',
    number,
    time,
    ids,
    atlas,
    gains,
    curves,
    now,
    probes: probes.map((p) => p.id),
    probed,
    whole: whole && {
      pulse: pulseOf(
        compiled,
        { id: '', params, leavesAt: (moments) => ({ ...still, time: [moments], loop: [loop ?? 0] }) },
        whole.strands,
        loop,
      ),
      brightest: findBrightest(program, places, params, loop, steady),
    },
  };
  answer(drawn, [atlas.buffer, curves.buffer, now.buffer]);
}

const answer = (message: ReadingsAnswer, transfer: Transferable[] = []): void => postMessage(message, { transfer });

function follow(data: ReadingsRequest): void {
  switch (data.kind) {
    case 'program':
      return compile(data);
    case 'places':
      places = data.places;
      return;
    case 'picture':
      pictures.set(data.key, data.picture);
      return;
    case 'bounds':
      placeBounds = data.bounds;
      return;
    case 'probes':
      probes = data.probes;
      return;
    case 'draw':
      return draw(data);
    case 'levels':
      return answer({
        kind: 'levels',
        levels: measureLevels(data.luminance, data.display, data.threshold),
        frame: data.frame,
      });
    case 'ranges':
    case 'advise':
    case 'cost':
      return answer(answerTo(data.kind, data.turn, data.effect));
  }
}

addEventListener('message', ({ data }: MessageEvent<ReadingsRequest>) => {
  try {
    follow(data);
  } catch (error) {
    const turn = 'turn' in data ? data.turn : 'number' in data ? data.number : null;
    answer({ kind: 'trouble', about: data.kind, turn, message: (error as Error).message });
  }
});
