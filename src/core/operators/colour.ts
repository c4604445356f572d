/** Colour: linear Rec.709, unbounded; nothing here clamps unless it says so. */
import type { Builder } from '../ir/builder.js';
import type { Node } from '../ir/types.js';
import { stopsToFactor } from './arithmetic.js';
import { fromOklab, toOklab } from './oklab.js';
import { operator, type InputRecord, type OperatorRecord, type Ramp } from './record.js';
import { cosine, sine, turned, turnsOf } from './space.js';

const colour = (grey: number, note: string): InputRecord => ({
  kind: 'rgb',
  default: [grey, grey, grey],
  soft: [0, 1],
  literal: 'colour',
  note,
});
const rgb = [{ id: 'value', kind: 'rgb', note: 'the colour' }] as const;
const vector = (fallback: readonly [number, number, number], note: string): InputRecord => ({
  kind: '3',
  default: fallback,
  soft: [-1, 1],
  literal: 'vector',
  note,
});

const GREY_RAMP: Ramp = {
  stops: [
    { at: 0, rgb: [0, 0, 0] },
    { at: 1, rgb: [1, 1, 1] },
  ],
  space: 'linear',
  interpolation: 'linear',
};

/** ITU-R BT.709. */
const luminanceOf = (b: Builder, c: Node) => b.composite('dot', c, b.constant(0.2126, 0.7152, 0.0722));

/**
 * Chromaticity of a black body, 1667 to 25000 kelvin: the cubic splines of Kim et al. 2002 (US patent 7024034,
 * expired), then xyY at Y = 1 to linear Rec.709.
 */
function blackbody(b: Builder, kelvin: Node): Node {
  const t = b.div(1000, b.composite('clamp', kelvin, 1667, 25000));
  const cubic = (x: Node, [c0, c1, c2, c3]: readonly [number, number, number, number]) =>
    b.add(b.mul(b.add(b.mul(b.add(b.mul(x, c3), c2), x), c1), x), c0);
  const warm = b.op('le', 0.25, t);
  const x = b.op(
    'select',
    warm,
    cubic(t, [0.17991, 0.8776956, -0.2343589, -0.2661239]),
    cubic(t, [0.24039, 0.2226347, 2.1070379, -3.0258469]),
  );
  const y = b.op(
    'select',
    b.op('le', 1000 / 2222, t),
    cubic(x, [-0.20219683, 2.18555832, -1.3481102, -1.1063814]),
    b.op(
      'select',
      warm,
      cubic(x, [-0.16748867, 2.09137015, -1.37418593, -0.9549476]),
      cubic(x, [-0.37001483, 3.75112997, -5.8733867, 3.081758]),
    ),
  );
  const [X, Z] = [b.div(x, y), b.div(b.sub(b.sub(1, x), y), y)];
  const row = (p: number, q: number, r: number) => b.op('max', b.add(b.add(b.mul(X, p), q), b.mul(Z, r)), 0);
  // IEC 61966-2-1: XYZ to linear Rec.709.
  const [r, g, blue] = [
    row(3.2404542, -1.5371385, -0.4985314),
    row(-0.969266, 1.8760108, 0.041556),
    row(0.0556434, -0.2040259, 1.0572252),
  ];
  return b.div(b.join(r, g, blue), b.op('max', b.op('max', r, g), blue));
}

type Blend = (b: Builder, back: Node, source: Node) => Node;
const screen: Blend = (b, back, source) => b.sub(b.add(back, source), b.mul(back, source));
const hardLight: Blend = (b, back, source) =>
  b.op('select', b.op('le', source, 0.5), b.mul(back, b.mul(source, 2)), screen(b, back, b.sub(b.mul(source, 2), 1)));

/** W3C Compositing and Blending Level 1, 9.1: B(backdrop, source), a component at a time. */
const BLENDS: Readonly<Record<string, Blend>> = {
  normal: (_, __, source) => source,
  multiply: (b, back, source) => b.mul(back, source),
  screen,
  overlay: (b, back, source) => hardLight(b, source, back),
  darken: (b, back, source) => b.op('min', back, source),
  lighten: (b, back, source) => b.op('max', back, source),
  dodge: (b, back, source) => {
    const light = b.op('select', b.op('le', 1, source), 1, b.op('min', b.div(back, b.sub(1, source)), 1));
    return b.op('select', b.op('le', back, 0), 0, light);
  },
  burn: (b, back, source) => {
    const dark = b.op('select', b.op('le', source, 0), 0, b.sub(1, b.op('min', b.div(b.sub(1, back), source), 1)));
    return b.op('select', b.op('le', 1, back), 1, dark);
  },
  hardLight,
  softLight: (b, back, source) => {
    const low = b.sub(back, b.mul(b.mul(b.sub(1, b.mul(source, 2)), back), b.sub(1, back)));
    const curve = b.mul(b.add(b.mul(b.sub(b.mul(back, 16), 12), back), 4), back);
    const d = b.op('select', b.op('le', back, 0.25), curve, b.op('sqrt', back));
    const high = b.add(back, b.mul(b.sub(b.mul(source, 2), 1), b.sub(d, back)));
    return b.op('select', b.op('le', source, 0.5), low, high);
  },
  difference: (b, back, source) => b.op('abs', b.sub(back, source)),
  exclusion: (b, back, source) => b.sub(b.add(back, source), b.mul(b.mul(back, source), 2)),
};

/** From dark over red to white, for the picture of a ramp. */
const FIRE: Ramp = {
  stops: [
    { at: 0.1, rgb: [0.03, 0.01, 0.05] },
    { at: 0.45, rgb: [0.7, 0.08, 0.02] },
    { at: 0.7, rgb: [1, 0.5, 0.05] },
    { at: 0.95, rgb: [1, 0.95, 0.7] },
  ],
  space: 'oklab',
  interpolation: 'linear',
};

export const COLOUR: readonly OperatorRecord[] = [
  operator({
    id: 'intensity',
    label: 'intensity',
    family: 'Colour',
    picture: { in: '@hills', amount: 2 },
    brightness: { factors: ['amount'], through: ['in'] },
    summary: 'Multiplies a colour, far above 1 if you like; in factors or in stops.',
    keywords: ['brightness', 'glow', 'stops', 'exposure', 'emission', 'brighter', 'dim', 'strength'],
    inputs: {
      in: { kind: 'any', default: 1, soft: [0, 1], note: 'the colour' },
      amount: { kind: '1', default: 1, soft: [0, 30], unit: 'x', note: 'how many times, or how many stops' },
    },
    options: { unit: { values: ['factor', 'stops'], default: 'factor', note: 'how the amount is read' } },
    lower: ({ b, options }, x) => ({
      value: b.mul(x.in!, options.unit === 'stops' ? stopsToFactor(b, x.amount!) : x.amount!),
    }),
  }),
  operator({
    id: 'luminance',
    materialx: { node: 'luminance', inputs: { in: 'in' } },
    label: 'luminance',
    family: 'Colour',
    picture: { in: '@rainbow' },
    summary: 'How bright a colour is, as one number.',
    keywords: ['grey', 'gray', 'brightness', 'desaturate', 'lightness'],
    inputs: { in: { ...colour(1, 'the colour'), wants: 'colour' } },
    outputs: [{ id: 'value', kind: '1', note: 'its luminance' }],
    source: 'ITU-R BT.709: 0.2126 R + 0.7152 G + 0.0722 B',
    lower: ({ b }, x) => ({ value: luminanceOf(b, x.in!) }),
  }),
  operator({
    id: 'saturation',
    materialx: { node: 'saturate', inputs: { in: 'in', amount: 'amount' } },
    label: 'saturation',
    family: 'Colour',
    picture: { in: '@rainbow', amount: 0.4 },
    summary: 'Takes colour away or adds to it, and keeps the luminance.',
    keywords: ['desaturate', 'vivid', 'grey', 'chroma'],
    inputs: {
      in: { ...colour(1, 'the colour'), wants: 'colour' },
      amount: { wants: 'mask', kind: '1', default: 1, soft: [0, 2], note: '0 is grey, 1 changes nothing' },
    },
    outputs: rgb,
    lower: ({ b }, x) => ({ value: b.composite('mix', b.widen(luminanceOf(b, x.in!), 3), x.in!, x.amount!) }),
  }),
  operator({
    id: 'contrast',
    materialx: { node: 'contrast', inputs: { in: 'in', amount: 'amount', pivot: 'pivot' } },
    label: 'contrast',
    family: 'Colour',
    wild: true,
    summary: 'Spreads values from a pivot, or draws them to it.',
    keywords: ['levels', 'pivot', 'spread'],
    inputs: {
      in: { kind: 'any', default: 0, soft: [0, 1], note: 'the colour or value' },
      amount: { kind: '1', default: 1, soft: [0, 4], note: '1 changes nothing' },
      pivot: { kind: '1', default: 0.5, soft: [0, 1], note: 'the value that stays' },
    },
    source: 'MaterialX, contrast: (in - pivot) amount + pivot',
    lower: ({ b }, x) => ({ value: b.add(b.mul(b.sub(x.in!, x.pivot!), x.amount!), x.pivot!) }),
  }),
  operator({
    id: 'hueShift',
    label: 'hue shift',
    family: 'Colour',
    wild: true,
    picture: { in: '@rainbow', angle: 90 },
    summary: 'Turns the hue of a colour, and keeps how light and how strong it looks.',
    keywords: ['rotate', 'colour wheel', 'tint'],
    inputs: {
      in: { ...colour(1, 'the colour'), wants: 'colour' },
      angle: { kind: '1', default: 0, soft: [-180, 180], unit: 'deg', note: 'how far round the wheel' },
    },
    outputs: rgb,
    source: 'a turn of a and b in OKLab: Ottosson 2020',
    lower: ({ b }, x) => {
      const [light, p, q] = toOklab(b, x.in!);
      const turns = turnsOf(b, x.angle!);
      const [s, c] = [sine(b, turns), cosine(b, turns)];
      const turned = [b.sub(b.mul(p, c), b.mul(q, s)), b.add(b.mul(p, s), b.mul(q, c))] as const;
      return { value: fromOklab(b, [light, ...turned]) };
    },
  }),
  operator({
    id: 'blackbody',
    label: 'black body',
    family: 'Colour',
    wild: true,
    picture: { in: '@kelvin' },
    summary: 'The hue of something that glows with heat, its strongest channel at 1.',
    keywords: ['temperature', 'kelvin', 'heat', 'fire', 'planck', 'lamp', 'flame', 'hot', 'warm'],
    inputs: { in: { wants: 'number', kind: '1', default: 3000, soft: [1667, 12000], note: 'kelvin, 1667 to 25000' } },
    outputs: rgb,
    source: 'Planckian locus by Kim et al. 2002',
    lower: ({ b }, x) => ({ value: blackbody(b, x.in!) }),
  }),
  operator({
    id: 'blend',
    label: 'blend',
    family: 'Colour',
    wild: true,
    picture: { a: '@rainbow', b: '@hills' },
    summary: 'Lays one colour or mask over another, in one of the usual ways; never clamps what is above 1.',
    keywords: ['layer', 'screen', 'multiply', 'overlay', 'composite', 'mode'],
    inputs: {
      a: { kind: 'any', default: 0, soft: [0, 1], note: 'what lies under: a colour, or a number' },
      b: { kind: 'any', default: 1, soft: [0, 1], note: 'what is laid over it' },
      amount: { wants: 'mask', kind: '1', default: 1, soft: [0, 1], note: 'how much of it' },
    },
    options: { mode: { values: Object.keys(BLENDS), default: 'normal', note: 'how they are combined' } },
    source: 'W3C Compositing and Blending Level 1, 9.1',
    lower: ({ b, options }, x) => ({ value: b.composite('mix', x.a!, BLENDS[options.mode!]!(b, x.a!, x.b!), x.amount!) }),
  }),
  operator({
    id: 'palette',
    label: 'palette',
    family: 'Colour',
    wild: true,
    picture: { in: '@ramp' },
    motion: { kind: 'laps', input: 'in', lap: 1 },
    summary: 'A ramp of colours from one cosine a channel, without an end.',
    keywords: ['cosine', 'gradient', 'rainbow', 'ramp', 'hue'],
    inputs: {
      in: { kind: '1', default: 0, soft: [0, 1], note: 'the place on the ramp' },
      middle: vector([0.5, 0.5, 0.5], 'what each channel swings about'),
      swing: vector([0.5, 0.5, 0.5], 'how far each channel swings'),
      turns: vector([1, 1, 1], 'how often each channel swings from 0 to 1'),
      phase: vector([0, 0.33, 0.67], 'where each channel begins, in turns'),
    },
    outputs: rgb,
    source: 'middle + swing cos 2pi (turns x + phase); common practice, no source',
    lower: ({ b }, x) => {
      const at = b.add(b.mul(x.turns!, x.in!), x.phase!);
      return { value: b.add(x.middle!, b.mul(x.swing!, cosine(b, at))) };
    },
  }),
  operator({
    id: 'ramp',
    label: 'ramp',
    family: 'Colour',
    wild: true,
    picture: { in: '@hills', stops: FIRE },
    summary: 'Turns a number into a colour along a row of stops.',
    keywords: ['gradient', 'colour map', 'stops', 'lookup', 'fire'],
    inputs: { in: { kind: '1', default: 0, soft: [0, 1], note: 'where along the ramp' } },
    literals: { stops: { form: 'ramp', default: GREY_RAMP, note: 'colours and their places; each is an input of its own' } },
    outputs: [{ id: 'value', kind: 'rgb', note: 'the colour there' }],
    source: 'mixed in linear light or in OKLab (Ottosson 2020); smooth by 3 t^2 - 2 t^3',
    lower: ({ b, ramps }, x) => {
      const { stops, space, interpolation } = ramps.stops!;
      const inSpace = (c: Node) => (space === 'oklab' ? b.join(...toOklab(b, c)) : c);
      let colour = inSpace(stops[0]!.colour);
      for (let k = 1; k < stops.length; k++) {
        const [from, to] = [stops[k - 1]!.place, stops[k]!.place];
        const before = b.op('lt', x.in!, to);
        if (interpolation === 'step') {
          colour = b.op('select', before, colour, inSpace(stops[k]!.colour));
          continue;
        }
        const t = b.composite('clamp', b.div(b.sub(x.in!, from), b.sub(to, from)), 0, 1);
        const eased = interpolation === 'smooth' ? b.mul(b.mul(t, t), b.sub(3, b.mul(t, 2))) : t;
        // At its place a stop is itself, even where two stand at one place.
        colour = b.composite('mix', colour, inSpace(stops[k]!.colour), b.op('select', before, eased, 1));
      }
      return { value: space === 'oklab' ? fromOklab(b, b.split(colour) as [Node, Node, Node]) : colour };
    },
  }),
  operator({
    id: 'splitComplement',
    label: 'split complement',
    family: 'Colour',
    wild: true,
    picture: { in: '@rainbow' },
    summary: 'The two hues either side of a colour’s opposite, equally light.',
    keywords: ['harmony', 'scheme', 'opposite', 'accent'],
    inputs: {
      in: { ...colour(1, 'the colour'), wants: 'colour' },
      angle: { kind: '1', default: 30, soft: [0, 90], unit: 'deg', note: 'how far from the opposite' },
    },
    outputs: [
      { id: 'first', kind: 'rgb', note: 'on one side' },
      { id: 'second', kind: 'rgb', note: 'on the other' },
    ],
    source: 'hues turned in OKLab (Ottosson 2020)',
    lower: ({ b }, x) => {
      const [light, p, q] = toOklab(b, x.in!);
      const by = (turns: Node) => {
        const plane = turned(b, b.join(p, q), turns);
        return fromOklab(b, [light, b.pick(plane, 0), b.pick(plane, 1)]);
      };
      const aside = turnsOf(b, x.angle!);
      return { first: by(b.add(0.5, aside)), second: by(b.sub(0.5, aside)) };
    },
  }),
];
