/** Arithmetic, component by component. */
import type { ScalarOp } from '../base/scalar.js';
import { exp2, power } from '../ir/kernels/transcendental.js';
import type { Builder } from '../ir/builder.js';
import { widthOf, type Node } from '../ir/types.js';
import { eachComponent } from './components.js';
import { operator, type InputRecord, type OperatorRecord } from './record.js';
import { sine, turnsOf } from './space.js';

const input = (fallback: number, note: string, soft: readonly [number, number] = [0, 1]): InputRecord => ({
  kind: 'any',
  default: fallback,
  soft,
  note,
});

interface TwoInputs extends Pick<OperatorRecord, 'brightness' | 'domain' | 'wild' | 'materialx'> {
  readonly id: string;
  readonly op: ScalarOp;
  readonly sign: string;
  readonly summary: string;
  readonly a: InputRecord;
  readonly b: InputRecord;
  readonly keywords: readonly string[];
}

const TWO: readonly TwoInputs[] = [
  {
    id: 'add',
    materialx: { node: 'add', inputs: { a: 'in1', b: 'in2' } },
    op: 'add',
    sign: '+',
    summary: 'The sum of two values.',
    a: input(0, 'the first value'),
    b: input(0, 'what is added'),
    keywords: ['plus', 'sum'],
  },
  {
    id: 'subtract',
    materialx: { node: 'subtract', inputs: { a: 'in1', b: 'in2' } },
    op: 'sub',
    sign: '−',
    summary: 'The first value less the second.',
    a: input(0, 'what is taken from'),
    b: input(0, 'what is taken away'),
    keywords: ['minus', 'difference', 'less'],
  },
  {
    id: 'multiply',
    materialx: { node: 'multiply', inputs: { a: 'in1', b: 'in2' } },
    op: 'mul',
    sign: '×',
    summary: 'The product of two values; a mask times a colour.',
    a: input(1, 'the first value'),
    b: input(1, 'the factor', [0, 4]),
    keywords: ['times', 'product', 'scale'],
    brightness: { factors: ['a', 'b'], through: ['a', 'b'] },
  },
  {
    id: 'divide',
    materialx: { node: 'divide', inputs: { a: 'in1', b: 'in2' } },
    op: 'div',
    sign: '÷',
    summary: 'The first value over the second; 0 where the second is 0.',
    a: input(1, 'what is divided'),
    b: input(1, 'what it is divided by', [0, 4]),
    keywords: ['over', 'quotient'],
    domain: { input: 'b', code: 'divide-by-zero', never: 0 },
    wild: true,
  },
];

export const ARITHMETIC: readonly OperatorRecord[] = [
  ...TWO.map(({ id, op, sign, summary, a, b, keywords, ...more }) =>
    operator({
      ...more,
      id,
      label: id,
      family: 'Arithmetic',
      summary,
      sign,
      keywords,
      inputs: { a, b },
      lower: ({ b: builder }, x) => ({ value: builder.op(op, x.a!, x.b!) }),
    }),
  ),
  operator({
    id: 'power',
    materialx: { node: 'power', inputs: { in: 'in1', exponent: 'in2' } },
    label: 'power',
    family: 'Arithmetic',
    picture: { in: '@hills', exponent: '@ramp' },
    wild: true,
    domain: {
      input: 'in',
      code: 'power-below-zero',
      least: 0,
      says: (name, low) => `${name} can fall to ${low} and a power needs 0 or more; below 0 it gives 0.`,
    },
    summary: 'Raises a value to an exponent, to sharpen or soften a falloff; 0 where the value is not above 0.',
    keywords: ['exponent', 'pow', 'gamma'],
    inputs: { in: input(1, 'the value, 0 or more'), exponent: input(1, 'above 1 sharpens, below 1 softens', [0, 10]) },
    lower: ({ b }, x) => ({ value: eachComponent(b, power, x.in!, x.exponent!) }),
  }),
  operator({
    id: 'mix',
    materialx: { node: 'mix', inputs: { a: 'bg', b: 'fg', amount: 'mix' } },
    label: 'mix',
    family: 'Arithmetic',
    picture: { a: '@hills', b: '@ramp' },
    summary: 'From one value to another by an amount.',
    keywords: ['blend', 'lerp', 'interpolate', 'between', 'colours'],
    inputs: {
      a: input(0, 'at amount 0'),
      b: input(1, 'at amount 1'),
      amount: { wants: 'mask', kind: '1', default: 0.5, soft: [0, 1], note: '0 gives the first, 1 the second' },
    },
    lower: ({ b }, x) => ({ value: b.composite('mix', x.a!, x.b!, x.amount!) }),
  }),
  operator({
    id: 'clamp',
    materialx: { node: 'clamp', inputs: { in: 'in', low: 'low', high: 'high' } },
    label: 'clamp',
    family: 'Arithmetic',
    summary: 'Holds a value between a floor and a ceiling.',
    keywords: ['limit', 'floor', 'ceiling', 'saturate', 'cut off', 'above', 'below'],
    inputs: { in: input(0, 'the value'), low: input(0, 'the floor'), high: input(1, 'the ceiling') },
    lower: ({ b }, x) => ({ value: b.composite('clamp', x.in!, x.low!, x.high!) }),
  }),
  operator({
    id: 'remap',
    materialx: { node: 'remap', inputs: { in: 'in', fromLow: 'inlow', fromHigh: 'inhigh', toLow: 'outlow', toHigh: 'outhigh' } },
    label: 'remap',
    family: 'Arithmetic',
    wild: true,
    summary: 'Moves a value from one range to another; either may run backwards.',
    keywords: ['range', 'map', 'fit'],
    inputs: {
      in: input(0, 'the value'),
      fromLow: input(0, 'where the old range begins'),
      fromHigh: input(1, 'where the old range ends'),
      toLow: input(0, 'where the new range begins'),
      toHigh: input(1, 'where the new range ends'),
    },
    options: { outside: { values: ['keep', 'clamp'], default: 'keep', note: 'what happens past the ends' } },
    lower: ({ b, options }, x) => {
      const raw = b.div(b.sub(x.in!, x.fromLow!), b.sub(x.fromHigh!, x.fromLow!));
      const amount = options.outside === 'clamp' ? b.composite('clamp', raw, 0, 1) : raw;
      return { value: b.composite('mix', x.toLow!, x.toHigh!, amount) };
    },
  }),
  operator({
    id: 'fract',
    means: 'mask',
    materialx: { node: 'fract', inputs: { in: 'in' } },
    label: 'fract',
    family: 'Arithmetic',
    picture: { in: '@steep' },
    motion: { kind: 'laps', input: 'in', lap: 1 },
    summary: 'What is left of a value after its whole part: a rising ramp that starts over.',
    keywords: ['fraction', 'frac', 'repeat', 'saw'],
    inputs: { in: input(0, 'the value', [0, 10]) },
    lower: ({ b }, x) => ({ value: b.composite('fract', x.in!) }),
  }),
  operator({
    id: 'sin',
    means: 'mask',
    materialx: { node: 'sin', inputs: { in: 'in' } },
    label: 'sin',
    family: 'Arithmetic',
    picture: { in: '@turn' },
    motion: { kind: 'laps', input: 'in', lap: 2 * Math.PI },
    summary: 'The sine of an angle, from -1 to 1.',
    keywords: ['sine', 'wave', 'trigonometry'],
    inputs: { in: { ...input(0, 'the angle', [-6.2832, 6.2832]), unit: 'rad' } },
    lower: ({ b }, x) => ({ value: sine(b, turnsOf(b, x.in!)) }),
  }),
  operator({
    id: 'smoothstep',
    means: 'mask',
    materialx: { node: 'smoothstep', inputs: { in: 'in', low: 'low', high: 'high' } },
    label: 'smoothstep',
    family: 'Arithmetic',
    picture: { in: '@hills', low: 0.4, high: 0.6 },
    summary: 'Rises smoothly from 0 to 1 between two edges; falls if the edges are given the other way round.',
    keywords: ['edge', 'threshold', 'soft', 'window'],
    inputs: { low: input(0, '0 up to here'), high: input(1, '1 from here on'), in: input(0, 'the value') },
    source: 'GLSL ES 3.00, 8.3; edges of equal value make a step, edges in reverse are defined here',
    lower: ({ b }, x) => ({ value: b.composite('smoothstep', x.low!, x.high!, x.in!) }),
  }),
  operator({
    id: 'pick',
    label: 'pick',
    family: 'Arithmetic',
    picture: { in: '@square' },
    summary: 'One component of a vector or a colour.',
    keywords: ['component', 'channel', 'split', 'swizzle'],
    inputs: { in: { kind: ['1', '2', '3', '4', 'rgb'], default: 0, soft: [0, 1], note: 'the vector' } },
    options: { component: { values: ['x', 'y', 'z', 'w'], default: 'x', note: 'which one; the last where there are fewer' } },
    outputs: [{ id: 'value', kind: '1', note: 'the component' }],
    lower: ({ b, options }, x) => {
      const lane = Math.min('xyzw'.indexOf(options.component!), widthOf(x.in!.type) - 1);
      return { value: b.pick(x.in!, lane) };
    },
  }),
  operator({
    id: 'join',
    label: 'join',
    family: 'Arithmetic',
    picture: { x: '@ramp', y: '@hills' },
    summary: 'Two to four numbers made into one vector.',
    keywords: ['combine', 'vector', 'append'],
    inputs: {
      x: { kind: '1', default: 0, soft: [0, 1], note: 'first' },
      y: { kind: '1', default: 0, soft: [0, 1], note: 'second' },
      z: { kind: '1', default: 0, soft: [0, 1], optional: true, note: 'third' },
      w: { kind: '1', default: 0, soft: [0, 1], optional: true, note: 'fourth' },
    },
    outputs: [{ id: 'value', kind: (given) => (given.w ? '4' : given.z ? '3' : '2'), note: 'the vector' }],
    lower: ({ b }, x) => {
      const zero = b.constant(0);
      if (x.w) return { value: b.join(x.x!, x.y!, x.z ?? zero, x.w) };
      return { value: x.z ? b.join(x.x!, x.y!, x.z) : b.join(x.x!, x.y!) };
    },
  }),
];

/** Factor for an amount in stops: each stop doubles. */
export const stopsToFactor = (b: Builder, stops: Node): Node => b.call(exp2, stops);
