/** Shapes of time. */
import { sineTurns } from '../ir/kernels/transcendental.js';
import type { Builder } from '../ir/builder.js';
import type { Node } from '../ir/types.js';
import { operator, type OperatorRecord } from './record.js';

/** A wave of one turn, from -1 to 1; each begins at 0 and rises, as a sine does, but for the square and the saw. */
const SHAPES: Record<string, (b: Builder, turns: Node) => Node> = {
  sine: (b, turns) => b.call(sineTurns, turns),
  triangle: (b, turns) => {
    const f = b.composite('fract', b.add(turns, 0.75));
    return b.sub(b.mul(b.op('abs', b.sub(f, 0.5)), 4), 1);
  },
  square: (b, turns) => b.op('select', b.op('lt', b.composite('fract', turns), 0.5), 1, -1),
  saw: (b, turns) => b.sub(b.mul(b.composite('fract', turns), 2), 1),
};

export const TIME: readonly OperatorRecord[] = [
  operator({
    id: 'wave',
    label: 'wave',
    family: 'Shapes of time',
    summary: 'A regular swing between two values, so many times a second.',
    keywords: ['sine', 'triangle', 'square', 'saw', 'oscillate', 'pulse'],
    inputs: {
      time: { kind: '1', default: { leaf: 'time' }, soft: [0, 10], unit: 's', note: 'the time it follows' },
      rate: { kind: '1', default: 1, soft: [0, 10], unit: 'Hz', note: 'how often it swings' },
      phase: { kind: '1', default: 0, soft: [0, 1], unit: 'turns', note: 'where in its swing it begins' },
      delay: { kind: '1', default: 0, soft: [0, 2], unit: 's', note: 'how much later it happens' },
      low: { kind: '1', default: -1, soft: [-1, 1], note: 'the lower end' },
      high: { kind: '1', default: 1, soft: [-1, 1], note: 'the upper end' },
    },
    options: { shape: { values: Object.keys(SHAPES), default: 'sine', note: 'the form of the swing' } },
    outputs: [{ id: 'value', kind: '1', note: 'between low and high' }],
    lower: ({ b, options }, x) => {
      const turns = b.add(b.mul(x.rate!, b.sub(x.time!, x.delay!)), x.phase!);
      const swing = SHAPES[options.shape!]!(b, turns);
      return { value: b.composite('mix', x.low!, x.high!, b.add(b.mul(swing, 0.5), 0.5)) };
    },
  }),
];
