/** Arithmetic with directions and lengths. */
import type { Node } from '../ir/types.js';
import { cross, turnAbout } from './space.js';
import { three } from './inputs.js';
import { operator, type InputRecord, type OperatorRecord } from './record.js';

const any = (fallback: number, note: string): InputRecord => ({ kind: 'any', default: fallback, soft: [-1, 1], note });
const number = [{ id: 'value', kind: '1', note: 'one number' }] as const;

export const VECTORS: readonly OperatorRecord[] = [
  operator({
    id: 'dot',
    materialx: { node: 'dotproduct', inputs: { a: 'in1', b: 'in2' } },
    label: 'dot',
    family: 'Arithmetic',
    picture: { a: '@here', b: '@here' },
    summary: 'How far two directions agree: 1 the same way, 0 square to each other, -1 opposite.',
    keywords: ['product', 'angle', 'projection'],
    inputs: { a: any(0, 'the first vector'), b: any(0, 'the second vector') },
    outputs: number,
    lower: ({ b }, x) => ({ value: b.composite('dot', x.a!, x.b!) }),
  }),
  operator({
    id: 'cross',
    means: 'direction',
    materialx: { node: 'crossproduct', inputs: { a: 'in1', b: 'in2' } },
    label: 'cross',
    family: 'Arithmetic',
    wild: true,
    picture: { a: '@dome' },
    summary: 'The direction square to two others, by the right hand.',
    keywords: ['product', 'perpendicular', 'normal'],
    inputs: { a: three([1, 0, 0], 'the first vector'), b: three([0, 1, 0], 'the second vector') },
    outputs: [{ id: 'value', kind: '3', note: 'square to both' }],
    lower: ({ b }, x) => ({ value: cross(b, x.a!, x.b!) }),
  }),
  operator({
    id: 'length',
    means: 'distance',
    materialx: { node: 'magnitude', inputs: { in: 'in' } },
    label: 'length',
    family: 'Arithmetic',
    summary: 'How long a vector is.',
    keywords: ['magnitude', 'size', 'norm'],
    inputs: { in: any(0, 'the vector') },
    outputs: number,
    lower: ({ b }, x) => ({ value: b.composite('length', x.in!) }),
  }),
  operator({
    id: 'distance',
    means: 'distance',
    materialx: { node: 'distance', inputs: { a: 'in1', b: 'in2' } },
    label: 'distance',
    family: 'Arithmetic',
    summary: 'How far two points are apart.',
    keywords: ['length', 'between', 'radius'],
    inputs: { a: any(0, 'the first point'), b: any(0, 'the second point') },
    outputs: number,
    lower: ({ b }, x) => ({ value: b.composite('length', b.sub(x.a!, x.b!)) }),
  }),
  operator({
    id: 'normalize',
    means: 'direction',
    materialx: { node: 'normalize', inputs: { in: 'in' } },
    label: 'normalise',
    family: 'Arithmetic',
    picture: { in: '@here' },
    summary: 'A vector of length 1 in the same direction; the zero vector stays zero.',
    keywords: ['unit', 'direction', 'normalize'],
    inputs: { in: any(0, 'the vector') },
    lower: ({ b }, x) => ({ value: b.composite('normalize', x.in!) }),
  }),
  operator({
    id: 'reflect',
    means: 'direction',
    materialx: { node: 'reflect', inputs: { in: 'in', normal: 'normal' } },
    label: 'reflect',
    family: 'Arithmetic',
    wild: true,
    summary: 'A direction thrown back by a surface.',
    keywords: ['mirror', 'bounce'],
    inputs: {
      in: { ...three([0, 0, -1], 'the direction that arrives'), wants: 'direction' },
      normal: { kind: '3', default: { leaf: 'normal' }, soft: [-1, 1], note: 'which way the surface faces, of length 1' },
    },
    outputs: [{ id: 'value', kind: '3', note: 'the direction that leaves' }],
    source: 'GLSL ES 3.00, 8.4: I - 2 dot(N, I) N',
    lower: ({ b }, x) => {
      const twice = b.mul(b.composite('dot', x.normal!, x.in!), 2);
      return { value: b.sub(x.in!, b.mul(x.normal!, twice)) };
    },
  }),
  operator({
    id: 'rotate',
    means: 'kept',
    label: 'rotate',
    family: 'Arithmetic',
    summary: 'A vector turned about an axis, by the right hand.',
    keywords: ['turn', 'spin', 'axis', 'angle'],
    inputs: {
      in: {
        wants: ['place', 'direction', 'normal', 'shift'],
        kind: '3',
        default: { leaf: 'position' },
        soft: [-1, 1],
        note: 'the vector',
      },
      axis: { ...three([0, 1, 0], 'what it turns about; its length does not matter'), wants: 'direction' },
      angle: { kind: '1', default: 0, soft: [-180, 180], unit: 'deg', note: 'how far' },
    },
    outputs: [{ id: 'value', kind: '3', note: 'the turned vector' }],
    source: 'Rodrigues 1840: v cos a + (k x v) sin a + k (k.v)(1 - cos a)',
    lower: ({ b }, x) => {
      return { value: turnAbout(b, x.in!, b.composite('normalize', x.axis!), x.angle!) };
    },
  }),
  operator({
    id: 'transform',
    means: 'kept',
    label: 'transform',
    family: 'Arithmetic',
    wild: true,
    picture: { in: '@dome' },
    summary: 'Takes a point or a direction from one space to another: the prop’s own, the stage, the eye’s.',
    keywords: ['space', 'object', 'world', 'view', 'convert', 'local'],
    inputs: {
      in: {
        wants: ['place', 'direction', 'normal', 'shift'],
        kind: '3',
        default: { leaf: 'position' },
        soft: [-2, 2],
        note: 'a point or a direction',
      },
    },
    options: {
      from: { values: ['object', 'world', 'view'], default: 'object', note: 'whose axes it is in' },
      to: { values: ['object', 'world', 'view'], default: 'world', note: 'whose axes it is wanted in' },
      what: { values: ['point', 'direction', 'normal'], default: 'point', note: 'a normal stays square to its surface' },
    },
    outputs: [{ id: 'value', kind: '3', note: 'the same, seen from the other space' }],
    source: 'affine transformation; normals by the inverse transpose',
    lower: ({ b, options }, { in: given }) => {
      const point = options.what === 'point';
      const axes = [b.leaf('modelX'), b.leaf('modelY'), b.leaf('modelZ')] as const;
      const eyes = [b.leaf('eyeRight'), b.leaf('eyeUp'), b.leaf('eyeBack')] as const;
      const sumOf = (columns: readonly Node[], v: Node) =>
        columns.map((c, k) => b.mul(c, b.pick(v, k))).reduce((p, q) => b.add(p, q));
      const against = (rows: readonly Node[], v: Node) => b.join(...rows.map((r) => b.composite('dot', r, v)));
      const [x, y, z] = axes;
      const volume = b.composite('dot', x, cross(b, y, z));
      const inverse = [cross(b, y, z), cross(b, z, x), cross(b, x, y)].map((r) => b.div(r, volume));
      const normal = options.what === 'normal';
      const unit = (v: Node) => (normal ? b.composite('normalize', v) : v);
      let v = given!;
      if (options.from === options.to) return { value: v };
      if (options.from === 'object') v = unit(sumOf(normal ? inverse : axes, v));
      if (options.from === 'view') v = sumOf(eyes, v);
      if (point && options.from === 'object') v = b.add(v, b.leaf('pivot'));
      if (point && options.from === 'view') v = b.add(v, b.leaf('eye'));
      if (options.to === 'view') v = against(eyes, point ? b.sub(v, b.leaf('eye')) : v);
      if (options.to === 'object') v = unit(against(normal ? axes : inverse, point ? b.sub(v, b.leaf('pivot')) : v));
      return { value: v };
    },
  }),
];
