/** Colour. */
import { stopsToFactor } from './arithmetic.js';
import { operator, type OperatorRecord } from './record.js';

export const COLOUR: readonly OperatorRecord[] = [
  operator({
    id: 'intensity',
    label: 'intensity',
    family: 'Colour',
    summary: 'Multiplies a colour, far above 1 if you like; in factors or in stops.',
    keywords: ['brightness', 'glow', 'stops', 'exposure', 'emission'],
    inputs: {
      in: { kind: 'any', default: 1, soft: [0, 1], note: 'the colour' },
      amount: { kind: '1', default: 1, soft: [0, 30], unit: 'x', note: 'how many times, or how many stops' },
    },
    options: { unit: { values: ['factor', 'stops'], default: 'factor', note: 'how the amount is read' } },
    lower: ({ b, options }, x) => ({
      value: b.mul(x.in!, options.unit === 'stops' ? stopsToFactor(b, x.amount!) : x.amount!),
    }),
  }),
];
