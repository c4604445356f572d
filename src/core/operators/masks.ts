/** Masks: numbers from 0 to 1 over the surface. */
import { exp2, power } from '../ir/kernels/transcendental.js';
import type { Builder, Value } from '../ir/builder.js';
import type { Node } from '../ir/types.js';
import { mask, number } from './inputs.js';
import { operator, type OperatorRecord } from './record.js';

const axes = { values: ['x', 'y', 'z'], default: 'y', note: 'along which axis' } as const;
const along = (b: Builder, v: Node, axis: string) => b.pick(v, 'xyz'.indexOf(axis));
/** Where a value lies between two others, held to 0..1; either may be the larger. */
const between = (b: Builder, x: Value, low: Value, high: Value) =>
  b.composite('clamp', b.div(b.sub(x, low), b.sub(high, low)), 0, 1);

/** How masks are put together, two at a time. */
const JOINS: Readonly<Record<string, (b: Builder, p: Node, q: Node) => Node>> = {
  max: (b, p, q) => b.op('max', p, q),
  min: (b, p, q) => b.op('min', p, q),
  multiply: (b, p, q) => b.mul(p, q),
  screen: (b, p, q) => b.sub(b.add(p, q), b.mul(p, q)),
  sum: (b, p, q) => b.add(p, q),
};
const LETTERS = ['a', 'b', 'c', 'd', 'e', 'f', 'g', 'h'] as const;

/** More than rounding can take away: at the ends nothing of edge or rim is left, whatever the widths. */
const MARGIN = 1e-5;

/** What is left at a distance, told in reaches. */
const FALLOFFS: Readonly<Record<string, (b: Builder, share: Node) => Node>> = {
  exponential: (b, share) => b.call(exp2, b.mul(share, -Math.LOG2E)),
  square: (b, share) => b.div(1, b.add(1, b.mul(share, share))),
};

export const MASKS: readonly OperatorRecord[] = [
  operator({
    id: 'fresnel',
    label: 'Fresnel',
    family: 'Masks',
    looks: 'angle',
    summary: 'Bright where the surface turns away from the eye: a rim.',
    keywords: ['rim', 'edge', 'facing', 'schlick'],
    inputs: {
      normal: { kind: '3', default: { leaf: 'normal' }, soft: [-1, 1], note: 'which way the surface faces' },
      f0: { kind: '1', default: 0, soft: [0, 1], note: 'what is left when seen straight on' },
      falloff: { kind: '1', default: 4, soft: [0.5, 10], unless: 'width', note: 'higher is a thinner rim' },
      width: { kind: '1', default: 0.6, soft: [0, 1], optional: true, note: 'instead of falloff: more is wider' },
    },
    outputs: [{ id: 'value', kind: '1', note: '0 to 1' }],
    source: 'Schlick 1994: f0 + (1 - f0)(1 - n.v)^falloff; width 0..1 is falloff 10..0.5',
    lower: ({ b }, x) => {
      const falloff = x.width ? b.composite('mix', 10, 0.5, x.width) : x.falloff!;
      const facing = b.composite('clamp', b.composite('dot', x.normal!, b.leaf('view')), 0, 1);
      // At a grazing view 1 - n.v is 1; straight on it is 0 and the power is 0.
      const rim = b.call(power, b.sub(1, facing), falloff);
      return { value: b.add(x.f0!, b.mul(b.sub(1, x.f0!), rim)) };
    },
  }),
  operator({
    id: 'contact',
    label: 'contact',
    family: 'Masks',
    wild: true,
    picture: { width: 0.8 },
    looks: 'behind',
    summary: 'Bright where the surface touches what is behind it: contact lines, shores.',
    keywords: ['intersection', 'touch', 'depth', 'shore', 'edge', 'fade'],
    inputs: {
      gap: number({ leaf: 'depthGap' }, 'how far behind the scene lies', [0, 2], 'm'),
      width: number(0.2, 'how far it reaches', [0, 2], 'm'),
      falloff: number(1, 'higher dies away sooner', [0.25, 8]),
      offset: number(0, 'how far from touching it begins', [-0.5, 0.5], 'm'),
    },
    outputs: mask,
    source: '(1 - clamp((gap - offset) / width))^falloff',
    lower: ({ b }, x) => {
      const gap = b.sub(x.gap!, x.offset!);
      const far = b.composite('clamp', b.div(gap, x.width!), 0, 1);
      // Without any width there is only touching itself.
      const left = b.op('select', b.op('lt', 0, x.width!), b.sub(1, far), b.op('select', b.op('lt', 0, gap), 0, 1));
      return { value: b.call(power, left, x.falloff!) };
    },
  }),
  operator({
    id: 'facingRatio',
    materialx: { node: 'facingratio', inputs: { normal: 'normal' } },
    label: 'facing ratio',
    family: 'Masks',
    looks: 'angle',
    summary: 'Bright where the surface faces the eye, dark where it turns away.',
    keywords: ['facing', 'incidence', 'view', 'core'],
    inputs: { normal: { kind: '3', default: { leaf: 'normal' }, soft: [-1, 1], note: 'which way the surface faces' } },
    outputs: mask,
    source: 'the cosine of the angle to the eye, n.v, held to 0..1',
    lower: ({ b }, x) => ({ value: b.composite('clamp', b.composite('dot', x.normal!, b.leaf('view')), 0, 1) }),
  }),
  operator({
    id: 'height',
    label: 'height',
    family: 'Masks',
    wild: true,
    summary: 'Rises from 0 to 1 along an axis: root to tip, floor to ceiling.',
    keywords: ['gradient', 'axis', 'position', 'vertical', 'ramp'],
    inputs: { from: { ...number(0, 'where it is 0', [-2, 2]), wants: [] }, to: number(1, 'where it is 1', [-2, 2]) },
    options: { axis: axes, space: { values: ['object', 'world'], default: 'object', note: 'whose axis' } },
    outputs: mask,
    lower: ({ b, options }, x) => {
      const place = b.leaf(options.space === 'world' ? 'worldPosition' : 'position');
      return { value: between(b, along(b, place, options.axis!), x.from!, x.to!) };
    },
  }),
  operator({
    id: 'near',
    label: 'near',
    family: 'Masks',
    wild: true,
    summary: 'A soft ball around a point: 1 inside its radius, 0 past its falloff.',
    keywords: ['distance', 'sphere', 'proximity', 'spot', 'radius'],
    inputs: {
      position: { kind: '3', default: { leaf: 'position' }, soft: [-1, 1], note: 'the place that is asked about' },
      point: { kind: '3', default: [0, 0, 0], soft: [-1, 1], literal: 'vector', note: 'the middle of the ball' },
      radius: { ...number(0.25, 'inside it is 1', [0, 2]), unit: 'm' },
      falloff: { ...number(0.25, 'how far it takes to fade', [0, 2]), unit: 'm' },
    },
    outputs: mask,
    lower: ({ b }, x) => {
      const far = b.composite('length', b.sub(x.position!, x.point!));
      return { value: b.sub(1, b.composite('smoothstep', x.radius!, b.add(x.radius!, x.falloff!), far)) };
    },
  }),
  operator({
    id: 'slope',
    label: 'slope',
    family: 'Masks',
    wild: true,
    summary: 'Bright where the surface faces along an axis: what lies on top, what hangs below.',
    keywords: ['top', 'facing', 'snow', 'moss', 'up', 'upward', 'side'],
    inputs: {
      normal: { kind: '3', default: { leaf: 'normal' }, soft: [-1, 1], note: 'which way the surface faces' },
      from: number(0, 'the cosine at which it is 0', [-1, 1]),
      to: number(1, 'the cosine at which it is 1', [-1, 1]),
    },
    options: { axis: axes },
    outputs: mask,
    lower: ({ b, options }, x) => ({ value: between(b, along(b, x.normal!, options.axis!), x.from!, x.to!) }),
  }),
  operator({
    id: 'harden',
    means: 'mask',
    label: 'harden',
    family: 'Masks',
    wild: true,
    picture: { in: '@hills', low: 0.4, high: 0.6 },
    summary: 'Tightens a mask: all below the black point becomes 0, all above the white point 1.',
    keywords: ['contrast', 'levels', 'threshold', 'black point', 'white point', 'window', 'sharpen', 'crisp'],
    inputs: {
      low: { kind: 'any', default: 0, soft: [0, 1], note: 'the black point' },
      high: { kind: 'any', default: 1, soft: [0, 1], note: 'the white point' },
      in: { kind: 'any', default: 0, soft: [0, 1], note: 'the mask' },
    },
    lower: ({ b }, x) => ({ value: between(b, x.in!, x.low!, x.high!) }),
  }),
  operator({
    id: 'dissolve',
    label: 'dissolve',
    family: 'Masks',
    wild: true,
    picture: { mask: '@hills', amount: 0.5, softness: 0.1 },
    summary: 'Eats a mask away from whole to gone, with a rim that travels with the edge.',
    keywords: ['burn', 'threshold', 'erode', 'disintegrate', 'rim', 'vanish'],
    inputs: {
      mask: { ...number(0.5, 'what goes first is dark, what goes last is bright'), wants: 'mask' },
      amount: number(0, '0 is whole, 1 is gone'),
      width: number(0.08, 'how wide the rim is, in the mask’s own values', [0, 0.5]),
      softness: number(0.02, 'how soft the edge is', [0, 0.5]),
    },
    outputs: [
      { id: 'keep', kind: '1', note: '1 where it is still there' },
      { id: 'rim', kind: '1', note: '1 along the edge, nothing when whole and nothing when gone' },
    ],
    // The threshold begins so far below the mask that neither edge nor rim has entered it, and ends just above it.
    lower: ({ b }, x) => {
      const before = b.sub(-MARGIN, b.add(x.softness!, x.width!));
      const threshold = b.composite('mix', before, 1 + MARGIN, x.amount!);
      const inner = b.add(threshold, x.softness!);
      const keep = b.composite('smoothstep', threshold, inner, x.mask!);
      const beyond = b.composite('smoothstep', inner, b.add(inner, x.width!), x.mask!);
      return { keep, rim: b.mul(keep, b.sub(1, beyond)) };
    },
  }),
  operator({
    id: 'falloff',
    label: 'falloff',
    family: 'Masks',
    picture: { distance: '@ramp', reach: 0.25 },
    summary: 'Light or weight that dies away with distance: 1 at the middle, and how fast is one number.',
    keywords: ['attenuation', 'decay', 'glow', 'halo', 'inverse square', 'exponential', 'fade', 'far'],
    inputs: {
      distance: { ...number(0, 'how far away; its sign does not count', [0, 2]), wants: 'distance' },
      reach: number(0.5, 'where 37 % are left, or a half', [0.01, 2]),
    },
    options: {
      shape: { values: Object.keys(FALLOFFS), default: 'exponential', note: 'as in mist, or as light spreads from a small lamp' },
    },
    outputs: mask,
    source: 'exp(-d / r), the law of Beer and Lambert; 1 / (1 + (d / r)^2), the inverse square softened at its middle',
    lower: ({ b, options }, x) => {
      const away = b.op('abs', x.distance!);
      // Nothing reaches anywhere where the reach is 0, but the middle itself.
      const share = b.op('select', b.op('lt', 0, x.reach!), b.div(away, x.reach!), b.op('select', b.op('eq', away, 0), 0, 1e6));
      return { value: FALLOFFS[options.shape!]!(b, share) };
    },
  }),
  operator({
    id: 'joinMasks',
    label: 'join masks',
    family: 'Masks',
    picture: { a: '@hills', b: '@ramp' },
    summary:
      'Puts up to eight masks together; a pattern is taken from each of them first, so that it never eats into where they overlap.',
    keywords: ['combine', 'union', 'max', 'screen', 'layer', 'subtract'],
    inputs: {
      ...Object.fromEntries(
        LETTERS.map((letter, k) => [
          letter,
          { ...number(0, `mask ${k + 1}`), wants: 'mask', ...(k > 1 ? { optional: true } : {}) },
        ]),
      ),
      subtract: { ...number(0, 'a pattern that is taken from each mask before they are joined'), optional: true },
    },
    options: { how: { values: Object.keys(JOINS), default: 'max', note: 'how two masks are put together' } },
    outputs: mask,
    lower: ({ b, options }, x) => {
      const less = (m: Node) => (x.subtract ? b.op('max', b.sub(m, x.subtract), 0) : m);
      const masks = LETTERS.flatMap((letter) => (x[letter] ? [less(x[letter])] : []));
      return { value: masks.reduce((p, q) => JOINS[options.how!]!(b, p, q)) };
    },
  }),
];
