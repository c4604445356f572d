/** Noise: irregular, repeatable, seeded by whole numbers. */
import type { Builder } from '../ir/builder.js';
import { METRICS, cellsOf, type Metric } from '../ir/kernels/cells.js';
import { curlOf } from '../ir/kernels/curl.js';
import { materialxCell, materialxCells, materialxNoise } from '../ir/kernels/materialx.js';
import { randomAt, seedBits } from '../ir/kernels/hash.js';
import { loopedNoiseAt, noiseAt } from '../ir/kernels/noise.js';
import { FRACTALS, MAX_OCTAVES, fractalOf, type Fractal } from '../ir/kernels/fractal.js';
import { widthOf, type Node } from '../ir/types.js';
import { closedGrowth, closing } from './closing.js';
import { operator, type InputRecord, type OperatorRecord } from './record.js';

const position: InputRecord = {
  kind: ['1', '2', '3', 'rgb'],
  default: { leaf: 'position' },
  soft: [-2, 2],
  note: 'where to look it up: a number, two or three',
};
const scale: InputRecord = { kind: '1', default: 1, soft: [0, 20], unit: 'x', note: 'larger is finer' };
const churn: InputRecord = {
  wants: 'time',
  kind: '1',
  default: 0,
  soft: [0, 4],
  optional: true,
  note: 'a further axis along which it boils',
};
const seed: InputRecord = { kind: '1', default: 0, soft: [0, 100], note: 'another whole number, another noise' };

const over = { ...closing, note: 'churns at its own rate, or at the nearest that closes over the loop' };
const basis = {
  values: ['wispen', 'materialx'],
  default: 'wispen',
  note: 'by Wispen’s own hashes, or as MaterialX defines it (without churn and seed)',
} as const;

/** The place with its churn as a further axis, and after how many cells of that axis it must repeat. */
function churned(b: Builder, place: Node, churn: Node | undefined, closes: boolean): { at: Node; period: Node | null } {
  if (!churn) return { at: place, period: null };
  if (!closes) return { at: b.join(...b.split(place), churn), period: null };
  const { at, period } = closedGrowth(b, churn);
  return { at: b.join(...b.split(place), at), period };
}
const noiseOf = (b: Builder, { at, period }: { at: Node; period: Node | null }, seed: Node, part = 0) =>
  period ? loopedNoiseAt(b, at, seed, period, part) : noiseAt(b, at, seed, part);

export const NOISE: readonly OperatorRecord[] = [
  operator({
    id: 'noise',
    zeroAtCells: true,
    label: 'noise',
    family: 'Noise',
    picture: { scale: 2.2 },
    motion: { kind: 'wanders', by: 'churn' },
    summary: 'Smooth irregular hills and hollows from -1 to 1; give it a time for an organic flicker.',
    keywords: ['gradient', 'perlin', 'random', 'organic', 'flicker'],
    inputs: {
      position,
      scale,
      churn,
      seed,
    },
    outputs: [{ id: 'value', kind: '1', note: '-1 to 1' }],
    source: 'Perlin, "Improving Noise", 2002 (quintic fade); gradients from pcg hashes, Jarzynski and Olano 2020',
    options: { over, basis },
    lower: ({ b, options }, x) => {
      const place = b.mul(x.position!, x.scale!);
      if (options.basis === 'materialx') return { value: materialxNoise(b, place) };
      return { value: noiseOf(b, churned(b, place, x.churn, options.over === 'loop'), x.seed!) };
    },
  }),
  operator({
    id: 'fractal',
    zeroAtCells: true,
    label: 'fractal',
    family: 'Noise',
    wild: true,
    picture: { scale: 1.6 },
    motion: { kind: 'wanders', by: 'churn' },
    summary: 'Noise with finer noise on it, and finer still: clouds, smoke, stone.',
    keywords: ['fbm', 'turbulence', 'ridged', 'octaves', 'clouds', 'detail'],
    inputs: {
      position,
      scale,
      churn,
      seed,
      octaves: {
        kind: '1',
        default: 4,
        soft: [1, MAX_OCTAVES],
        note: 'how many sizes, 1 to 8; a fraction lets the last come in softly',
      },
      lacunarity: { kind: '1', default: 2, soft: [1, 4], note: 'how much finer each is than the one before' },
      gain: { kind: '1', default: 0.5, soft: [0, 1], note: 'how strong each is to the one before' },
    },
    options: {
      kind: { values: Object.keys(FRACTALS), default: 'fbm', note: 'rolling, folded into creases, or into ridges' },
      over,
    },
    outputs: [{ id: 'value', kind: '1', note: '-1 to 1, or 0 to 1 when folded' }],
    source: 'sum of octaves over the sum of their strengths; Musgrave in Ebert et al., Texturing and Modeling, 2003',
    lower: ({ b, options }, x) => {
      const place = b.mul(x.position!, x.scale!);
      const { at, period } = churned(b, place, x.churn, options.over === 'loop');
      const octaves = b.composite('clamp', x.octaves!, 1, MAX_OCTAVES);
      const count = octaves.op === 'const' ? Math.ceil(octaves.values![0]!) : MAX_OCTAVES;
      const kernel = fractalOf(widthOf(at.type), options.kind as Fractal, count, period !== null);
      const rest = [b.op('floor', x.seed!), octaves, x.lacunarity!, x.gain!, ...(period ? [period] : [])];
      return { value: b.call(kernel, at, ...rest) };
    },
  }),
  operator({
    id: 'random',
    label: 'random',
    family: 'Noise',
    wild: true,
    picture: { position: '@square', size: 0.12 },
    summary: 'One number from 0 to 1 for each cell, or each index, without any likeness between neighbours.',
    keywords: ['hash', 'white noise', 'cell', 'id', 'dice'],
    inputs: {
      position: { ...position, wants: ['place', 'number', 'random'], note: 'a place, or an index' },
      size: { kind: '1', default: 1, soft: [0.01, 2], note: 'how large a cell is' },
      seed,
    },
    outputs: [
      { id: 'value', kind: '1', note: '0 to 1' },
      { id: 'three', kind: '3', note: 'three such numbers' },
    ],
    options: { basis },
    source: 'pcg3d, Jarzynski and Olano 2020',
    lower: ({ b, options }, x) => {
      const cell = b.op('floor', b.div(x.position!, x.size!));
      if (options.basis === 'materialx') {
        const value = materialxCell(b, cell);
        return { value, three: b.join(value, materialxCell(b, b.add(cell, 1)), materialxCell(b, b.add(cell, 2))) };
      }
      const three = randomAt(b, cell, x.seed!);
      return { value: b.pick(three, 0), three };
    },
  }),
  operator({
    id: 'warp',
    means: 'place',
    hands: 'position',
    label: 'warp',
    family: 'Noise',
    wild: true,
    motion: { kind: 'wanders', by: 'churn' },
    summary: 'A position pushed about by noise, so that what is looked up there becomes crooked.',
    keywords: ['distort', 'domain', 'wobble', 'displace'],
    inputs: {
      position: { ...position, note: 'the position to push' },
      amount: { wants: 'mask', kind: '1', default: 0.2, soft: [0, 1], note: 'how far it is pushed' },
      scale,
      churn,
      seed,
    },
    outputs: [{ id: 'value', kind: (given) => given.position ?? '3', note: 'the position' }],
    source: 'a noise a component, each another part of the seed',
    options: { over },
    lower: ({ b, options }, x) => {
      const at = churned(b, b.mul(x.position!, x.scale!), x.churn, options.over === 'loop');
      const first = b.op('floor', x.seed!);
      const push = Array.from({ length: widthOf(x.position!.type) }, (_, k): Node => noiseOf(b, at, first, k));
      return { value: b.add(x.position!, b.mul(b.join(...push), x.amount!)) };
    },
  }),
  operator({
    id: 'cells',
    label: 'cells',
    family: 'Noise',
    wild: true,
    picture: { scale: 3 },
    motion: { kind: 'wanders', by: 'churn', turns: true },
    summary: 'Cells around scattered points: how far the nearest is, and the next; their borders; one number a cell.',
    keywords: ['worley', 'voronoi', 'cellular', 'caustics', 'scales', 'foam', 'cracks'],
    inputs: {
      position: { ...position, kind: ['2', '3', 'rgb'] },
      scale,
      jitter: { kind: '1', default: 1, soft: [0, 1], note: '0 a lattice, 1 scattered' },
      churn: { ...churn, note: 'turns that the points have made: they circle as it grows' },
      seed,
    },
    options: {
      metric: { values: Object.keys(METRICS), default: 'straight', note: 'straight, along both axes, or the longer of them' },
      over,
      basis,
    },
    outputs: [
      { id: 'f1', kind: '1', note: 'distance to the nearest point, in cells' },
      { id: 'f2', kind: '1', note: 'to the second nearest' },
      { id: 'border', kind: '1', note: 'f2 - f1: 0 on the borders' },
      { id: 'random', kind: '1', note: 'one number a cell, 0..1' },
    ],
    source: 'Worley 1996',
    lower: ({ b, options }, x) => {
      const place = b.mul(x.position!, x.scale!);
      const width = widthOf(place.type) as 2 | 3;
      const found = (() => {
        if (options.basis === 'materialx') return b.call(materialxCells[width], place, x.jitter!);
        const kernel = cellsOf(width, options.metric as Metric, x.churn !== undefined);
        if (!x.churn) return b.call(kernel, place, seedBits(b, x.seed!), x.jitter!);
        const turns = options.over === 'loop' ? closedGrowth(b, x.churn).at : x.churn;
        return b.call(kernel, place, seedBits(b, x.seed!), x.jitter!, turns);
      })();
      const [f1, f2, random] = b.split(found) as [Node, Node, Node];
      return { f1, f2, border: b.op('max', b.sub(f2, f1), 0), random };
    },
  }),
  operator({
    id: 'curl',
    means: 'shift',
    label: 'curl',
    family: 'Noise',
    wild: true,
    picture: { scale: 1.5 },
    motion: { kind: 'wanders', by: 'churn' },
    summary: 'Directions that swirl and never pile up: smoke, motes, currents.',
    keywords: ['swirl', 'turbulence', 'vector field', 'flow', 'divergence free'],
    inputs: { position: { ...position, kind: ['2', '3', 'rgb'] }, scale, churn, seed },
    options: { over },
    outputs: [{ id: 'value', kind: (given) => (given.position === '2' ? '2' : '3'), note: 'a direction; about 1 long' }],
    source: 'Bridson, Hourihan and Nordenstam, "Curl-Noise for Procedural Fluid Flow", 2007; exact derivatives',
    lower: ({ b, options }, x) => {
      const place = b.mul(x.position!, x.scale!);
      const width = widthOf(place.type) as 2 | 3;
      const first = b.op('floor', x.seed!);
      if (!x.churn) return { value: b.call(curlOf(width, 'still'), place, first) };
      if (options.over !== 'loop') return { value: b.call(curlOf(width, 'free'), place, first, x.churn) };
      const { at, period } = closedGrowth(b, x.churn);
      return { value: b.call(curlOf(width, 'loop'), place, first, at, period) };
    },
  }),
];
