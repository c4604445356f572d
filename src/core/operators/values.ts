/** Values the artist types: numbers, vectors, colours. */
import { operator, type OperatorRecord } from './record.js';

export const VALUES: readonly OperatorRecord[] = [
  operator({
    id: 'number',
    label: 'number',
    family: 'Values',
    summary: 'One number of your own.',
    keywords: ['value', 'constant', 'float'],
    inputs: { in: { kind: '1', default: 0, soft: [0, 1], note: 'the number' } },
    outputs: [{ id: 'value', kind: '1', note: 'the number' }],
    lower: (_, { in: x }) => ({ value: x! }),
  }),
  operator({
    id: 'vector',
    label: 'vector',
    family: 'Values',
    summary: 'Two, three or four numbers of your own.',
    keywords: ['value', 'direction', 'constant'],
    inputs: { in: { kind: ['2', '3', '4'], default: [0, 0, 0], soft: [-1, 1], literal: 'vector', note: 'the numbers' } },
    outputs: [{ id: 'value', kind: (given) => given.in ?? '3', note: 'the numbers' }],
    lower: (_, { in: x }) => ({ value: x! }),
  }),
  operator({
    id: 'colour',
    label: 'colour',
    family: 'Values',
    summary: 'A hue and, apart from it, an intensity; they are multiplied.',
    keywords: ['color', 'hue', 'rgb', 'intensity'],
    inputs: { in: { kind: 'rgb', default: [1, 1, 1], soft: [0, 1], literal: 'colour', note: 'hue and intensity' } },
    outputs: [{ id: 'value', kind: 'rgb', note: 'linear Rec.709, not bounded above' }],
    lower: (_, { in: x }) => ({ value: x! }),
  }),
];
