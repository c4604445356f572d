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
  const still = (value: number) => plane(() => value);
  const zero = still(0);
  // A sill lies behind the dome: near at its foot, far at its top.
  const gap = plane((_, v) => 0.05 + v * 0.9);
  const behind = [plane((u, v) => (Math.floor(u * 10) + Math.floor(v * 7)) % 2), plane((u) => u), plane((_, v) => v)];
  const edge = plane((u, v) => 2 * Math.min(Math.abs(((u * 5) % 1) - 0.5), Math.abs(((v * 4) % 1) - 0.5)));
  const [du, dv] = [1 / PREVIEW_WIDTH, 1 / PREVIEW_HEIGHT];
  return {
    ...{ position, worldPosition: position, normal, objectNormal: normal, viewNormal: normal, view, uv, uv1: uv },
    ...{ uvDx: [still(du), zero], uvDy: [zero, still(dv)], screen: uv, behind, edgePixels: [edge], edgePixelsQuad: [edge] },
    ...{ worldPositionDx: [still(2 * du), zero, zero], worldPositionDy: [zero, still(2 * dv), zero] },
    ...{ positionDx: [still(2 * du), zero, zero], positionDy: [zero, still(2 * dv), zero] },
    ...{ depthGap: [gap], depthGapRay: [gap], depthGapDown: [gap], eyeDepth: [plane((_, v) => 0.2 + 0.7 * v)] },
    ...{ behindPosition: [plane((u) => u), plane((_, v) => v), still(0.3)], vertexColour: [...behind, still(1)] },
    ...{ facing: [plane((u) => (u > 0.5 ? 1 : 0))], moteAge: [plane((u) => u)], lens: [still(1), still(1)] },
  };
}

/** What the pictures are made of, each a strand: coordinates, ramps, hills of noise, a rainbow. */
const FEEDS = [
  { id: 'square', name: 'Square', op: 'uv' },
  { id: 'here', name: 'Here', op: 'position' },
  { id: 'dome', name: 'Dome', op: 'normal' },
  { id: 'ramp', name: 'Ramp', op: 'pick', inputs: { in: { from: 'square' } } },
  { id: 'rough', name: 'Rough', op: 'noise', inputs: { scale: { value: 3 } } },
  {
    id: 'hills',
    name: 'Hills',
    op: 'remap',
    inputs: { in: { from: 'rough' }, fromLow: { value: -0.6 }, fromHigh: { value: 0.6 } },
    options: { outside: 'clamp' },
  },
  { id: 'steep', name: 'Steep', op: 'multiply', inputs: { a: { from: 'ramp' }, b: { value: 4 } } },
  { id: 'turn', name: 'Turn', op: 'multiply', inputs: { a: { from: 'ramp' }, b: { value: 12.6 } } },
  { id: 'fall', name: 'Fall', op: 'multiply', inputs: { a: { from: 'ramp' }, b: { value: -4 } } },
  {
    id: 'kelvin',
    name: 'Kelvin',
    op: 'remap',
    inputs: { in: { from: 'ramp' }, toLow: { value: 1700 }, toHigh: { value: 12000 } },
  },
  { id: 'tilt', name: 'Tilt', op: 'curl', inputs: { scale: { value: 1.5 } } },
  { id: 'rainbow', name: 'Rainbow', op: 'palette', inputs: { in: { from: 'ramp' } } },
];

const FIRE = {
  stops: [
    { at: 0.1, rgb: [0.03, 0.01, 0.05] },
    { at: 0.45, rgb: [0.7, 0.08, 0.02] },
    { at: 0.7, rgb: [1, 0.5, 0.05] },
    { at: 0.95, rgb: [1, 0.95, 0.7] },
  ],
  space: 'oklab',
  interpolation: 'linear',
};

const from = (id: string) => ({ from: id });
const value = (v: unknown) => ({ value: v });
const edges = { in: from('hills'), low: value(0.4), high: value(0.6) };

/** What shows an operator best, where the general rule does not. */
const SCENES: Readonly<Record<string, Readonly<Record<string, unknown>>>> = {
  join: { x: from('ramp'), y: from('hills') },
  smoothstep: edges,
  smootherstep: edges,
  harden: edges,
  noise: { scale: value(2.2) },
  fractal: { scale: value(1.6) },
  random: { position: from('square'), size: value(0.12) },
  wave: { time: from('ramp'), rate: value(3), low: value(0) },
  pulse: { time: from('ramp'), rate: value(3) },
  delay: { time: from('ramp'), seconds: value(0.2) },
  fract: { in: from('steep') },
  modulo: { a: from('steep'), b: value(1) },
  sin: { in: from('turn') },
  cos: { in: from('turn') },
  tan: { in: from('turn') },
  exp: { in: from('fall') },
  sign: { in: from('rough') },
  floor: { in: from('steep') },
  ceil: { in: from('hills') },
  round: { in: from('hills') },
  quantise: { in: from('ramp'), steps: value(5) },
  step: { in: from('hills') },
  compare: { a: from('hills'), b: value(0.5) },
  choose: { condition: from('hills'), a: from('ramp'), b: value(0) },
  dot: { a: from('here'), b: from('here') },
  cross: { a: from('dome') },
  normalize: { in: from('here') },
  dissolve: { mask: from('hills'), amount: value(0.5), softness: value(0.1) },
  joinMasks: { a: from('hills'), b: from('ramp') },
  luminance: { in: from('rainbow') },
  saturation: { in: from('rainbow'), amount: value(0.4) },
  hueShift: { in: from('rainbow'), angle: value(90) },
  blend: { a: from('rainbow'), b: from('hills') },
  blackbody: { in: from('kelvin') },
  palette: { in: from('ramp') },
  number: { in: value(0.5) },
  vector: { in: value([0.6, 0.4, 0.8]) },
  colour: { in: value({ rgb: [0.95, 0.45, 0.2], intensity: 1, unit: 'factor' }) },
  intensity: { in: from('hills'), amount: value(2) },
  pick: { in: from('square') },
  formula: { a: from('hills'), b: from('ramp'), formula: value({ text: 'smoothstep(0.2, 0.8, a) * b' }) },
  ramp: { in: from('hills'), stops: value(FIRE) },
  splitComplement: { in: from('rainbow') },
  flicker: { time: from('ramp'), rate: value(9), low: value(-0.1), octaves: value(3) },
  beat: { time: from('ramp'), pattern: value({ text: '1011000101' }), rate: value(10) },
  waves: {
    position: from('here'),
    heading: value(30),
    wavelengths: value([0.9, 0.6, 0.4, 0.3]),
    biases: value([0.4, 0.4, 0.4, 0.4]),
  },
  cells: { scale: value(3) },
  curl: { scale: value(1.5) },
  hexTiles: { count: value(5) },
  grid: { count: value([6, 4]), width: value(0.12) },
  brick: { count: value([3, 5]) },
  checker: { count: value([7, 5]) },
  dots: { count: value([6, 4]) },
  stripes: { count: value(7), rotate: value(25) },
  stripe: { in: from('ramp'), softness: value(0.2) },
  shapes: { softness: value(0.08) },
  contact: { width: value(0.8) },
  foam: { noise: from('rough'), width: value(0.9) },
  absorb: { in: value({ rgb: [0.8, 0.95, 1], intensity: 1, unit: 'factor' }), thickness: from('steep') },
  normalFromHeight: { height: from('hills'), strength: value(0.3) },
  normalMap: { in: from('rainbow') },
  blendNormals: { a: from('dome'), b: from('tilt') },
  refractOffset: { strength: value(6) },
  gerstner: { position: from('here'), wavelengths: value([1.6, 1.1, 0.8, 0.6]), steepness: value([0.8, 0.4, 0.3, 0.2]) },
  sway: { mask: from('ramp'), amount: value(1), rate: value(2) },
  bend: { angle: value(60) },
  transform: { in: from('dome') },
  flow: { field: { from: 'here', part: 'xy' } },
};

/** Arithmetic and colour act on hills, and where there is a second input on a ramp; the rest rest on places. */
function fed(op: string): Readonly<Record<string, unknown>> {
  const scene = SCENES[op];
  if (scene) return scene;
  const operator = operatorOf(op);
  if (operator.family !== 'Arithmetic' && operator.family !== 'Colour') return {};
  const free = Object.entries(operator.inputs).filter(
    ([, r]) => r.kind === 'any' || (r.kind === '1' && !r.optional && r.unit === undefined),
  );
  return Object.fromEntries(
    free
      .slice(0, operator.sign || op === 'mix' || op === 'power' ? 2 : 1)
      .map(([name], k) => [name, from(k === 0 ? 'hills' : 'ramp')]),
  );
}

export function previewOf(op: string): ImageData {
  const found = made.get(op);
  if (found) return found;
  const strands = [...FEEDS, { id: 'shown', name: 'Shown', op, inputs: fed(op) }];
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
