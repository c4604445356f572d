/** Arithmetic: functions of one value, comparisons, and contrast, component by component. */
import type { ScalarOp } from '../base/scalar.js';
import type { Builder } from '../ir/builder.js';
import { arctangent, exp2, log2 } from '../ir/kernels/transcendental.js';
import type { Node } from '../ir/types.js';
import { eachComponent } from './components.js';
import { cosine, sine, turnsOf } from './space.js';
import { operator, type InputRecord, type OperatorRecord } from './record.js';

const input = (fallback: number, note: string, soft: readonly [number, number] = [0, 1]): InputRecord => ({
  kind: 'any',
  default: fallback,
  soft,
  note,
});

interface OneInput extends Pick<OperatorRecord, 'means' | 'motion' | 'domain' | 'picture' | 'wild' | 'materialx'> {
  readonly id: string;
  readonly summary: string;
  readonly keywords: readonly string[];
  readonly soft?: readonly [number, number];
  readonly fallback?: number;
  readonly angle?: boolean;
  readonly lower: (b: Builder, x: Node) => Node;
}

const scalar = (op: ScalarOp) => (b: Builder, x: Node) => b.op(op, x);

const ONE: readonly OneInput[] = [
  {
    id: 'abs',
    materialx: { node: 'absval', inputs: { in: 'in' } },
    summary: 'The distance from 0: what is below 0 is folded up.',
    keywords: ['absolute', 'fold'],
    soft: [-1, 1],
    lower: scalar('abs'),
  },
  {
    id: 'sign',
    means: 'mask',
    materialx: { node: 'sign', inputs: { in: 'in' } },
    wild: true,
    picture: { in: '@rough' },
    summary: 'Which side of 0 a value is on: -1 below, 1 above, 0 at it.',
    keywords: ['positive', 'negative'],
    soft: [-1, 1],
    lower: scalar('sign'),
  },
  {
    id: 'floor',
    materialx: { node: 'floor', inputs: { in: 'in' } },
    wild: true,
    picture: { in: '@steep' },
    summary: 'The whole number at or below a value.',
    keywords: ['round down', 'steps'],
    soft: [0, 10],
    lower: scalar('floor'),
  },
  {
    id: 'ceil',
    materialx: { node: 'ceil', inputs: { in: 'in' } },
    wild: true,
    picture: { in: '@hills' },
    summary: 'The whole number at or above a value.',
    keywords: ['round up', 'ceiling'],
    soft: [0, 10],
    lower: scalar('ceil'),
  },
  {
    id: 'round',
    materialx: { node: 'round', inputs: { in: 'in' } },
    wild: true,
    picture: { in: '@hills' },
    summary: 'The nearest whole number; a half goes to the even one.',
    keywords: ['nearest', 'integer'],
    soft: [0, 10],
    lower: scalar('round'),
  },
  {
    id: 'sqrt',
    materialx: { node: 'sqrt', inputs: { in: 'in' } },
    domain: {
      input: 'in',
      code: 'root-below-zero',
      least: 0,
      says: (name, low) => `${name} can fall to ${low} and a square root needs 0 or more; below 0 it gives 0.`,
    },
    summary: 'The square root; 0 where the value is below 0.',
    keywords: ['root'],
    fallback: 1,
    soft: [0, 4],
    lower: scalar('sqrt'),
  },
  {
    id: 'exp',
    materialx: { node: 'exp', inputs: { in: 'in' } },
    wild: true,
    picture: { in: '@fall' },
    summary: 'The number e raised to a value: growth, and with a falling value a fading away.',
    keywords: ['exponential', 'decay'],
    soft: [-5, 5],
    lower: (b, x) => eachComponent(b, exp2, b.mul(x, Math.LOG2E)),
  },
  {
    id: 'log',
    materialx: { node: 'ln', inputs: { in: 'in' } },
    wild: true,
    domain: {
      input: 'in',
      code: 'log-below-zero',
      least: 0,
      says: (name, low) => `${name} can fall to ${low} and a logarithm needs more than 0; from there down it gives 0.`,
    },
    summary: 'The natural logarithm; 0 where the value is not above 0.',
    keywords: ['logarithm', 'ln'],
    fallback: 1,
    soft: [0, 10],
    lower: (b, x) => b.op('select', b.op('lt', 0, x), b.mul(eachComponent(b, log2, x), Math.LN2), b.mul(x, 0)),
  },
  {
    id: 'cos',
    means: 'mask',
    materialx: { node: 'cos', inputs: { in: 'in' } },
    motion: { kind: 'laps', input: 'in', lap: 2 * Math.PI },
    picture: { in: '@turn' },
    summary: 'The cosine of an angle, from -1 to 1.',
    keywords: ['cosine', 'wave', 'trigonometry'],
    angle: true,
    lower: (b, x) => cosine(b, turnsOf(b, x)),
  },
  {
    id: 'tan',
    means: 'mask',
    materialx: { node: 'tan', inputs: { in: 'in' } },
    wild: true,
    motion: { kind: 'laps', input: 'in', lap: Math.PI },
    picture: { in: '@turn' },
    summary: 'The tangent of an angle: the slope of a direction; 0 where it is upright.',
    keywords: ['tangent', 'slope', 'trigonometry'],
    angle: true,
    lower: (b, x) => b.div(sine(b, turnsOf(b, x)), cosine(b, turnsOf(b, x))),
  },
  {
    id: 'invert',
    means: 'mask',
    materialx: { node: 'invert', inputs: { in: 'in' } },
    summary: 'One less a value: a mask turned inside out.',
    keywords: ['one minus', 'complement', 'flip'],
    lower: (b, x) => b.sub(1, x),
  },
  {
    id: 'negate',
    summary: 'A value with its sign changed.',
    keywords: ['minus', 'opposite'],
    soft: [-1, 1],
    lower: scalar('neg'),
  },
];

/** (1 / a - 2) of Schlick's curves, with the amount kept away from the ends, where they are undefined. */
const bend = (b: Builder, amount: Node) => b.sub(b.div(1, b.composite('clamp', amount, 1e-3, 1 - 1e-3)), 2);

/** 1 where true, 0 elsewhere, as wide as the comparison. */
const truth = (b: Builder, condition: Node) => b.op('select', condition, 1, 0);

export const FUNCTIONS: readonly OperatorRecord[] = [
  ...ONE.map(({ id, summary, keywords, soft = [0, 1], fallback = 0, angle = false, lower, ...more }) =>
    operator({
      ...more,
      id,
      label: id,
      family: 'Arithmetic',
      summary,
      keywords,
      inputs: {
        in: angle ? { ...input(fallback, 'the angle', [-6.2832, 6.2832]), unit: 'rad' } : input(fallback, 'the value', soft),
      },
      lower: ({ b }, x) => ({ value: lower(b, x.in!) }),
    }),
  ),
  operator({
    id: 'min',
    materialx: { node: 'min', inputs: { a: 'in1', b: 'in2' } },
    label: 'min',
    family: 'Arithmetic',
    summary: 'The smaller of two values; of two masks, where both are.',
    keywords: ['minimum', 'smaller', 'intersect', 'and'],
    inputs: { a: input(1, 'the first value'), b: input(1, 'the second value') },
    lower: ({ b }, x) => ({ value: b.op('min', x.a!, x.b!) }),
  }),
  operator({
    id: 'max',
    materialx: { node: 'max', inputs: { a: 'in1', b: 'in2' } },
    label: 'max',
    family: 'Arithmetic',
    summary: 'The larger of two values; of two masks, where either is.',
    keywords: ['maximum', 'larger', 'union', 'or', 'join'],
    inputs: { a: input(0, 'the first value'), b: input(0, 'the second value') },
    lower: ({ b }, x) => ({ value: b.op('max', x.a!, x.b!) }),
  }),
  operator({
    id: 'modulo',
    materialx: { node: 'modulo', inputs: { a: 'in1', b: 'in2' } },
    label: 'modulo',
    family: 'Arithmetic',
    wild: true,
    picture: { a: '@steep', b: 1 },
    motion: { kind: 'laps', input: 'a', lap: { input: 'b' } },
    summary: 'What is left of a value after whole multiples of another, never below 0 for one above 0; 0 where that is 0.',
    keywords: ['remainder', 'wrap', 'mod', 'repeat'],
    inputs: { a: input(0, 'the value', [0, 10]), b: input(1, 'what it is measured by', [0, 10]) },
    source: 'GLSL ES 3.00, 8.3: x - y floor(x / y)',
    lower: ({ b }, x) => {
      const left = b.sub(x.a!, b.mul(x.b!, b.op('floor', b.div(x.a!, x.b!))));
      return { value: b.op('select', b.op('eq', x.b!, 0), b.mul(left, 0), left) };
    },
  }),
  operator({
    id: 'atan2',
    materialx: { node: 'atan2', inputs: { a: 'iny', b: 'inx' } },
    label: 'atan2',
    family: 'Arithmetic',
    wild: true,
    summary: 'The angle of a direction given by its two sides, from -pi to pi.',
    keywords: ['arctangent', 'angle', 'polar', 'heading'],
    inputs: { a: input(0, 'upwards', [-1, 1]), b: input(1, 'to the right', [-1, 1]) },
    source: 'GLSL ES 3.00, 8.1: atan(y, x); 0 for the zero vector is defined here',
    lower: ({ b }, x) => ({ value: eachComponent(b, arctangent, x.a!, x.b!) }),
  }),
  operator({
    id: 'step',
    means: 'mask',
    label: 'step',
    family: 'Arithmetic',
    wild: true,
    picture: { in: '@hills' },
    summary: 'A hard edge: 0 below it, 1 from it on.',
    keywords: ['threshold', 'edge', 'cut'],
    inputs: { edge: input(0.5, 'where it steps up'), in: input(0, 'the value') },
    source: 'GLSL ES 3.00, 8.3',
    lower: ({ b }, x) => ({ value: b.op('select', b.op('lt', x.in!, x.edge!), 0, 1) }),
  }),
  operator({
    id: 'smootherstep',
    means: 'mask',
    label: 'smootherstep',
    family: 'Arithmetic',
    picture: { in: '@hills', low: 0.4, high: 0.6 },
    summary: 'Rises from 0 to 1 between two edges, starting and ending without a jolt.',
    keywords: ['edge', 'soft', 'quintic', 'ease'],
    inputs: { low: input(0, '0 up to here'), high: input(1, '1 from here on'), in: input(0, 'the value') },
    source: 'Perlin 2002: 6t^5 - 15t^4 + 10t^3; edges of equal value make a step',
    lower: ({ b }, x) => {
      const t = b.composite('clamp', b.div(b.sub(x.in!, x.low!), b.sub(x.high!, x.low!)), 0, 1);
      const cube = b.mul(b.mul(t, t), t);
      const rise = b.mul(cube, b.add(b.mul(t, b.sub(b.mul(t, 6), 15)), 10));
      const step = b.op('select', b.op('lt', x.in!, x.low!), 0, 1);
      return { value: b.op('select', b.op('eq', x.low!, x.high!), step, rise) };
    },
  }),
  operator({
    id: 'bias',
    means: 'mask',
    label: 'bias',
    family: 'Arithmetic',
    wild: true,
    summary: 'Pulls the middle of 0..1 up or down and leaves the ends.',
    keywords: ['curve', 'gamma', 'midtone'],
    inputs: { in: input(0, 'the value, held to 0..1'), amount: input(0.5, '0.5 changes nothing; more lifts, less lowers') },
    source: 'Schlick 1994, Fast alternatives to Perlin’s bias and gain: t / ((1/a - 2)(1 - t) + 1)',
    lower: ({ b }, x) => {
      // Beyond 0..1 it has a pole.
      const t = b.composite('clamp', x.in!, 0, 1);
      return { value: b.div(t, b.add(b.mul(bend(b, x.amount!), b.sub(1, t)), 1)) };
    },
  }),
  operator({
    id: 'gain',
    means: 'mask',
    label: 'gain',
    family: 'Arithmetic',
    wild: true,
    summary: 'Steepens or flattens the middle of 0..1 and leaves ends and middle.',
    keywords: ['contrast', 'curve', 's-curve'],
    inputs: {
      in: input(0, 'the value, held to 0..1'),
      amount: input(0.5, '0.5 changes nothing; less flattens the middle, more steepens it'),
    },
    source: 'Schlick 1994, Fast alternatives to Perlin’s bias and gain, with its amount turned round so that more is steeper',
    lower: ({ b }, x) => {
      const t = b.composite('clamp', x.in!, 0, 1);
      const k = b.mul(bend(b, b.sub(1, x.amount!)), b.sub(1, b.mul(t, 2)));
      const low = b.div(t, b.add(k, 1));
      const high = b.div(b.sub(k, t), b.sub(k, 1));
      return { value: b.op('select', b.op('lt', t, 0.5), low, high) };
    },
  }),
  operator({
    id: 'compare',
    means: 'mask',
    label: 'compare',
    family: 'Arithmetic',
    wild: true,
    picture: { a: '@hills', b: 0.5 },
    summary: 'Gives 1 where the first value is to the second as asked, 0 elsewhere.',
    keywords: ['greater', 'less', 'equal', 'if', 'test'],
    inputs: { a: input(0, 'the first value'), b: input(0, 'the second value') },
    options: {
      test: { values: ['greater', 'greaterOrEqual', 'equal'], default: 'greater', note: 'what the first must be to the second' },
    },
    lower: ({ b, options }, x) => {
      const condition =
        options.test === 'greater'
          ? b.op('lt', x.b!, x.a!)
          : options.test === 'equal'
            ? b.op('eq', x.a!, x.b!)
            : b.op('le', x.b!, x.a!);
      return { value: truth(b, condition) };
    },
  }),
  operator({
    id: 'choose',
    label: 'choose',
    family: 'Arithmetic',
    wild: true,
    picture: { condition: '@hills', a: '@ramp', b: 0 },
    summary: 'One of two values, by a condition: the first where it is 0.5 or more.',
    keywords: ['if', 'switch', 'select', 'condition'],
    inputs: {
      condition: { kind: '1', default: 1, soft: [0, 1], note: 'the first value is taken from 0.5 on' },
      a: input(1, 'where the condition holds'),
      b: input(0, 'where it does not'),
    },
    lower: ({ b }, x) => ({ value: b.op('select', b.op('le', 0.5, x.condition!), x.a!, x.b!) }),
  }),
  operator({
    id: 'quantise',
    label: 'quantise',
    family: 'Arithmetic',
    wild: true,
    picture: { in: '@ramp', steps: 5 },
    summary: 'Holds a value on even steps: so many to each 1.',
    keywords: ['posterise', 'steps', 'levels', 'band'],
    inputs: { in: input(0, 'the value'), steps: { kind: '1', default: 8, soft: [1, 32], note: 'how many to each 1' } },
    lower: ({ b }, x) => ({ value: b.div(b.op('floor', b.mul(x.in!, x.steps!)), x.steps!) }),
  }),
];
