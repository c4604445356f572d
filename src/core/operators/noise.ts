/** Noise: irregular, repeatable, seeded by whole numbers. */
import { FRACTALS, MAX_OCTAVES, fractalOf, noiseAt, randomAt, type Fractal } from '../ir/kernels/noise.js';
import { widthOf, type Node } from '../ir/types.js';
import { operator, type InputRecord, type OperatorRecord } from './record.js';

const position: InputRecord = {
  kind: ['1', '2', '3', 'rgb'],
  default: { leaf: 'position' },
  soft: [-2, 2],
  note: 'where to look it up: a number, two or three',
};
const scale: InputRecord = { kind: '1', default: 1, soft: [0, 20], unit: 'x', note: 'larger is finer' };
const churn: InputRecord = { kind: '1', default: 0, soft: [0, 4], optional: true, note: 'a further axis along which it boils' };
const seed: InputRecord = { kind: '1', default: 0, soft: [0, 100], note: 'another whole number, another noise' };

export const NOISE: readonly OperatorRecord[] = [
  operator({
    id: 'noise',
    label: 'noise',
    family: 'Noise',
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
    lower: ({ b }, x) => {
      const place = b.mul(x.position!, x.scale!);
      return { value: noiseAt(b, x.churn ? b.join(...b.split(place), x.churn) : place, x.seed!) };
    },
  }),
  operator({
    id: 'fractal',
    label: 'fractal',
    family: 'Noise',
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
    options: { kind: { values: Object.keys(FRACTALS), default: 'fbm', note: 'rolling, folded into creases, or into ridges' } },
    outputs: [{ id: 'value', kind: '1', note: '-1 to 1, or 0 to 1 when folded' }],
    source: 'sum of octaves over the sum of their strengths; Musgrave in Ebert et al., Texturing and Modeling, 2003',
    lower: ({ b, options }, x) => {
      const place = b.mul(x.position!, x.scale!);
      const at = x.churn ? b.join(...b.split(place), x.churn) : place;
      const octaves = b.composite('clamp', x.octaves!, 1, MAX_OCTAVES);
      const count = octaves.op === 'const' ? Math.ceil(octaves.values![0]!) : MAX_OCTAVES;
      const kernel = fractalOf(widthOf(at.type), options.kind as Fractal, count);
      return { value: b.call(kernel, at, b.op('floor', x.seed!), octaves, x.lacunarity!, x.gain!) };
    },
  }),
  operator({
    id: 'random',
    label: 'random',
    family: 'Noise',
    summary: 'One number from 0 to 1 for each cell, or each index, without any likeness between neighbours.',
    keywords: ['hash', 'white noise', 'cell', 'id', 'dice'],
    inputs: {
      position: { ...position, note: 'a place, or an index' },
      size: { kind: '1', default: 1, soft: [0.01, 2], note: 'how large a cell is' },
      seed,
    },
    outputs: [
      { id: 'value', kind: '1', note: '0 to 1' },
      { id: 'three', kind: '3', note: 'three such numbers' },
    ],
    source: 'pcg3d, Jarzynski and Olano 2020',
    lower: ({ b }, x) => {
      const three = randomAt(b, b.op('floor', b.div(x.position!, x.size!)), x.seed!);
      return { value: b.pick(three, 0), three };
    },
  }),
  operator({
    id: 'warp',
    label: 'warp',
    family: 'Noise',
    summary: 'A position pushed about by noise, so that what is looked up there becomes crooked.',
    keywords: ['distort', 'domain', 'wobble', 'displace'],
    inputs: {
      position: { ...position, note: 'the position to push' },
      amount: { kind: '1', default: 0.2, soft: [0, 1], note: 'how far it is pushed' },
      scale,
      churn,
      seed,
    },
    outputs: [{ id: 'value', kind: (given) => given.position ?? '3', note: 'the position' }],
    source: 'a noise a component, of seeds that follow one another',
    lower: ({ b }, x) => {
      const place = b.mul(x.position!, x.scale!);
      const at = x.churn ? b.join(...b.split(place), x.churn) : place;
      const first = b.op('floor', x.seed!);
      const push = Array.from({ length: widthOf(x.position!.type) }, (_, k): Node => noiseAt(b, at, b.add(first, k)));
      return { value: b.add(x.position!, b.mul(b.join(...push), x.amount!)) };
    },
  }),
];
