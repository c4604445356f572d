/** Arithmetic with directions and lengths. */
import { sineTurns } from '../ir/kernels/transcendental.js';
import type { Builder } from '../ir/builder.js';
import type { Node } from '../ir/types.js';
import { operator, type InputRecord, type OperatorRecord } from './record.js';

const any = (fallback: number, note: string): InputRecord => ({ kind: 'any', default: fallback, soft: [-1, 1], note });
const direction = (fallback: readonly [number, number, number], note: string): InputRecord => ({
  kind: '3',
  default: fallback,
  soft: [-1, 1],
  literal: 'vector',
  note,
});
const number = [{ id: 'value', kind: '1', note: 'one number' }] as const;

export function cross(b: Builder, a: Node, c: Node): Node {
  const [ax, ay, az] = b.split(a) as [Node, Node, Node];
  const [cx, cy, cz] = b.split(c) as [Node, Node, Node];
  const side = (p: Node, q: Node, r: Node, s: Node) => b.sub(b.mul(p, q), b.mul(r, s));
  return b.join(side(ay, cz, az, cy), side(az, cx, ax, cz), side(ax, cy, ay, cx));
}

export const VECTORS: readonly OperatorRecord[] = [
  operator({
    id: 'dot',
    label: 'dot',
    family: 'Arithmetic',
    summary: 'How far two directions agree: 1 the same way, 0 square to each other, -1 opposite.',
    keywords: ['product', 'angle', 'projection'],
    inputs: { a: any(0, 'the first vector'), b: any(0, 'the second vector') },
    outputs: number,
    lower: ({ b }, x) => ({ value: b.composite('dot', x.a!, x.b!) }),
  }),
  operator({
    id: 'cross',
    label: 'cross',
    family: 'Arithmetic',
    summary: 'The direction square to two others, by the right hand.',
    keywords: ['product', 'perpendicular', 'normal'],
    inputs: { a: direction([1, 0, 0], 'the first vector'), b: direction([0, 1, 0], 'the second vector') },
    outputs: [{ id: 'value', kind: '3', note: 'square to both' }],
    lower: ({ b }, x) => ({ value: cross(b, x.a!, x.b!) }),
  }),
  operator({
    id: 'length',
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
    label: 'normalise',
    family: 'Arithmetic',
    summary: 'A vector of length 1 in the same direction; the zero vector stays zero.',
    keywords: ['unit', 'direction', 'normalize'],
    inputs: { in: any(0, 'the vector') },
    lower: ({ b }, x) => ({ value: b.composite('normalize', x.in!) }),
  }),
  operator({
    id: 'reflect',
    label: 'reflect',
    family: 'Arithmetic',
    summary: 'A direction thrown back by a surface.',
    keywords: ['mirror', 'bounce'],
    inputs: {
      in: direction([0, 0, -1], 'the direction that arrives'),
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
    label: 'rotate',
    family: 'Arithmetic',
    summary: 'A vector turned about an axis, by the right hand.',
    keywords: ['turn', 'spin', 'axis', 'angle'],
    inputs: {
      in: { kind: '3', default: { leaf: 'position' }, soft: [-1, 1], note: 'the vector' },
      axis: direction([0, 1, 0], 'what it turns about; its length does not matter'),
      angle: { kind: '1', default: 0, soft: [-180, 180], unit: 'deg', note: 'how far' },
    },
    outputs: [{ id: 'value', kind: '3', note: 'the turned vector' }],
    source: 'Rodrigues 1840: v cos a + (k x v) sin a + k (k.v)(1 - cos a)',
    lower: ({ b }, x) => {
      const axis = b.composite('normalize', x.axis!);
      const turns = b.mul(x.angle!, 1 / (2 * Math.PI));
      const sine = b.call(sineTurns, turns);
      const cosine = b.call(sineTurns, b.add(turns, 0.25));
      const along = b.mul(axis, b.mul(b.composite('dot', axis, x.in!), b.sub(1, cosine)));
      return { value: b.add(b.add(b.mul(x.in!, cosine), b.mul(cross(b, axis, x.in!), sine)), along) };
    },
  }),
];
