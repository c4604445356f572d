/** Noise: irregular, repeatable, seeded by whole numbers. */
import { noiseAt } from '../ir/kernels/noise.js';
import { operator, type OperatorRecord } from './record.js';

export const NOISE: readonly OperatorRecord[] = [
  operator({
    id: 'noise',
    label: 'noise',
    family: 'Noise',
    summary: 'Smooth irregular hills and hollows from -1 to 1; give it a time for an organic flicker.',
    keywords: ['gradient', 'perlin', 'random', 'organic', 'flicker'],
    inputs: {
      position: {
        kind: ['1', '2', '3', 'rgb'],
        default: { leaf: 'position' },
        soft: [-2, 2],
        note: 'where to look it up: a number, two or three',
      },
      scale: { kind: '1', default: 1, soft: [0, 20], unit: 'x', note: 'larger is finer' },
      churn: { kind: '1', default: 0, soft: [0, 4], optional: true, note: 'a further axis along which it boils' },
      seed: { kind: '1', default: 0, soft: [0, 100], note: 'another whole number, another noise' },
    },
    outputs: [{ id: 'value', kind: '1', note: '-1 to 1' }],
    source: 'Perlin, "Improving Noise", 2002 (quintic fade); gradients from pcg hashes, Jarzynski and Olano 2020',
    lower: ({ b }, x) => {
      const place = b.mul(x.position!, x.scale!);
      return { value: noiseAt(b, x.churn ? b.join(...b.split(place), x.churn) : place, x.seed!) };
    },
  }),
];
