/** Shapes of time. */
import { exp2, sineTurns } from '../ir/kernels/transcendental.js';
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
  operator({
    id: 'pulse',
    label: 'pulse',
    family: 'Shapes of time',
    summary: 'A beat that rises and dies away, so many times a second.',
    keywords: ['envelope', 'beat', 'attack', 'decay', 'heartbeat', 'flash'],
    inputs: {
      time: { kind: '1', default: { leaf: 'time' }, soft: [0, 10], unit: 's', note: 'the time it follows' },
      rate: { kind: '1', default: 1, soft: [0, 10], unit: 'Hz', note: 'how often it beats' },
      attack: { kind: '1', default: 0.05, soft: [0, 1], unit: 's', note: 'how long it takes to rise' },
      decay: { kind: '1', default: 0.2, soft: [0.01, 2], unit: 's', note: 'in which it falls to 37 %' },
    },
    outputs: [{ id: 'value', kind: '1', note: '0 to 1' }],
    source: 'min(t / attack, 1) exp(-max(t - attack, 0) / decay), t since the beat; common practice, no source',
    lower: ({ b }, x) => {
      const since = b.div(b.composite('fract', b.mul(x.time!, x.rate!)), x.rate!);
      const rise = b.op('select', b.op('lt', since, x.attack!), b.div(since, x.attack!), 1);
      const fall = b.div(b.op('max', b.sub(since, x.attack!), 0), x.decay!);
      return { value: b.mul(rise, b.call(exp2, b.mul(fall, -Math.LOG2E))) };
    },
  }),
  operator({
    id: 'delay',
    label: 'delay',
    family: 'Shapes of time',
    summary: 'A time that lags: by a painted mask or a height, so that motion travels.',
    keywords: ['lag', 'offset', 'later', 'travel', 'ripple'],
    inputs: {
      time: { kind: '1', default: { leaf: 'time' }, soft: [0, 10], unit: 's', note: 'the time it follows' },
      seconds: { kind: '1', default: 0, soft: [0, 2], unit: 's', note: 'how much later' },
    },
    outputs: [{ id: 'value', kind: '1', note: 'seconds; may be below 0' }],
    lower: ({ b }, x) => ({ value: b.sub(x.time!, x.seconds!) }),
  }),
];
