/** Small live pictures of operators for the picker: each applied to noise and a ramp over the unit square. */
import { readEffect } from '../../../core/effect/read.js';
import type { Leaf } from '../../../core/ir/leaves.js';
import { evaluatorOf } from '../../../core/targets/evaluate.js';
import { lower } from '../../../core/lower/lower.js';
import { paramValues } from '../../../core/lower/params.js';
import { operatorOf } from '../../../core/operators/catalogue.js';
import { paintSwatch } from '../../../workers/swatch.js';

export const PREVIEW_WIDTH = 80;
export const PREVIEW_HEIGHT = 56;
const COUNT = PREVIEW_WIDTH * PREVIEW_HEIGHT;
const made = new Map<string, ImageData>();

/** A dome seen from the front, so that normals and views have something to show. */
function places(): Partial<Record<Leaf, Float32Array[]>> {
  const plane = (f: (u: number, v: number) => number) =>
    Float32Array.from({ length: COUNT }, (_, k) =>
      f(((k % PREVIEW_WIDTH) + 0.5) / PREVIEW_WIDTH, 1 - (Math.floor(k / PREVIEW_WIDTH) + 0.5) / PREVIEW_HEIGHT),
    );
  const x = (u: number) => (u - 0.5) * 2 * (PREVIEW_WIDTH / PREVIEW_HEIGHT);
  const y = (v: number) => (v - 0.5) * 2;
  const position = [plane((u) => x(u)), plane((_, v) => y(v)), plane(() => 0)];
  const z = (u: number, v: number) => Math.sqrt(Math.max(0, 1 - Math.min(1, x(u) ** 2 + y(v) ** 2)));
  const normal = [plane((u) => x(u)), plane((_, v) => y(v)), plane(z)];
  const view = [plane(() => 0), plane(() => 0), plane(() => 1)];
  const uv = [plane((u) => u), plane((_, v) => v)];
  return { position, worldPosition: position, normal, objectNormal: normal, viewNormal: normal, view, uv, uv1: uv };
}

export function previewOf(op: string): ImageData {
  const found = made.get(op);
  if (found) return found;
  const operator = operatorOf(op);
  const free = Object.entries(operator.inputs).filter(
    ([, r]) => r.kind === 'any' || (r.kind === '1' && !r.optional && r.unit === undefined),
  );
  const feeds = ['hills', 'ramp'];
  const inputs: Record<string, unknown> = {};
  if (operator.family === 'Arithmetic' || operator.family === 'Colour')
    free
      .slice(0, operator.sign || op === 'mix' || op === 'power' ? 2 : 1)
      .forEach(([name], k) => (inputs[name] = { from: feeds[k] }));
  if (op === 'join') Object.assign(inputs, { x: { from: 'ramp' }, y: { from: 'hills' } });
  if (op === 'smoothstep') Object.assign(inputs, { in: { from: 'hills' }, low: { value: 0.4 }, high: { value: 0.6 } });
  if (op === 'noise') inputs.scale = { value: 2.2 };
  if (op === 'wave') Object.assign(inputs, { time: { from: 'ramp' }, rate: { value: 3 }, low: { value: 0 } });
  if (op === 'fract') inputs.in = { from: 'steep' };
  if (op === 'sin') inputs.in = { from: 'steep' };
  if (op === 'number') inputs.in = { value: 0.5 };
  if (op === 'vector') inputs.in = { value: [0.6, 0.4, 0.8] };
  if (op === 'colour') inputs.in = { value: { rgb: [0.95, 0.45, 0.2], intensity: 1, unit: 'factor' } };
  if (op === 'intensity') inputs.amount = { value: 2 };
  if (op === 'pick') inputs.in = { from: 'square' };
  const strands = [
    { id: 'square', name: 'Square', op: 'uv' },
    { id: 'ramp', name: 'Ramp', op: 'pick', inputs: { in: { from: 'square' } } },
    { id: 'rough', name: 'Rough', op: 'noise', inputs: { scale: { value: 3 } } },
    {
      id: 'hills',
      name: 'Hills',
      op: 'remap',
      inputs: { in: { from: 'rough' }, fromLow: { value: -0.6 }, fromHigh: { value: 0.6 } },
    },
    { id: 'steep', name: 'Steep', op: 'multiply', inputs: { a: { from: 'ramp' }, b: { value: op === 'sin' ? 12.6 : 4 } } },
    { id: 'shown', name: 'Shown', op, inputs },
  ];
  const out = new ImageData(PREVIEW_WIDTH, PREVIEW_HEIGHT);
  const read = readEffect({ format: 'wispen-effect', version: 1, id: 'preview', name: 'preview', strands });
  if (read.ok) {
    const program = lower(read.effect, { build: 'live' });
    const { node, kind } = program.strands.get('shown')!.value;
    const leaves = places();
    const evaluator = evaluatorOf(program, [node], new Set(Object.keys(leaves) as Leaf[]));
    const [planes] = evaluator.evaluate(paramValues(program.params, read.effect), { ...leaves, time: [0.3], loop: [4] }, COUNT);
    paintSwatch(kind, planes!, new Float32Array(COUNT).fill(1), PREVIEW_WIDTH, out.data);
  }
  made.set(op, out);
  return out;
}
