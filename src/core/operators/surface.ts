/** Surface: normals, refraction, water, and the movement of vertices. */
import { slopeAlong } from '../ir/derivative.js';
import { exp2 } from '../ir/kernels/transcendental.js';
import { noiseAt } from '../ir/kernels/noise.js';
import type { Builder, Value } from '../ir/builder.js';
import type { Node } from '../ir/types.js';
import { lapped } from './closing.js';
import { clock, four, number, three } from './inputs.js';
import { operator, type OperatorRecord } from './record.js';
import { cosine, cross, headingOf, sine, tangentFrame, turnAbout } from './space.js';

const unitNormal = [{ id: 'value', kind: '3', note: 'a unit vector' }] as const;
const metres = [{ id: 'value', kind: '3', note: 'metres to move by' }] as const;

/** Standard gravity, m/s2 (ISO 80000-3). */
const GRAVITY = 9.80665;

const decay = (b: Builder, x: Value) => b.call(exp2, b.mul(x, -Math.LOG2E));

/** Noise over the stage, of two sizes of patches: 1/6 m and half that. */
function ownTearing(b: Builder): Node {
  const at = b.mul(b.leaf('worldPosition'), 6);
  const seed = b.constant(0);
  return b.add(noiseAt(b, at, seed), b.mul(noiseAt(b, b.mul(at, 2.03), seed, 1), 0.6));
}

/** sin of each of four numbers of turns. */
export const SURFACE: readonly OperatorRecord[] = [
  operator({
    id: 'normalFromHeight',
    means: 'normal',
    label: 'normal from height',
    family: 'Surface',
    wild: true,
    picture: { height: '@hills', strength: 0.3 },
    summary: 'Tilts the surface as if a height stood out of it: light falls on the bumps of any number strand.',
    keywords: ['bump', 'emboss', 'relief', 'detail'],
    inputs: {
      height: { ...number(0, 'how far out it stands', [0, 0.1], 'm'), wants: 'mask' },
      strength: number(1, '1 as it is, 0 flat, below 0 pressed in', [0, 4], 'x'),
      normal: three({ leaf: 'normal' }, 'the normal to tilt'),
    },
    outputs: unitNormal,
    source:
      'the height’s exact slope along the surface; the surface gradient of Mikkelsen, "Bump Mapping Unparametrized Surfaces on the GPU", 2010',
    lower: ({ b }, x) => {
      const along = (axis: 'x' | 'y') => slopeAlong(b, b.mul(x.height!, x.strength!), axis);
      const [px, py] = [b.leaf('worldPositionDx'), b.leaf('worldPositionDy')];
      const first = cross(b, py, x.normal!);
      const second = cross(b, x.normal!, px);
      const area = b.composite('dot', px, first);
      const gradient = b.div(b.add(b.mul(first, along('x')), b.mul(second, along('y'))), area);
      return { value: b.composite('normalize', b.sub(x.normal!, gradient)) };
    },
  }),
  operator({
    id: 'normalMap',
    means: 'normal',
    label: 'normal map',
    family: 'Surface',
    wild: true,
    picture: { in: '@rainbow' },
    summary: 'Turns the colours of a normal map, or a vector, into a direction on the stage.',
    keywords: ['bump', 'tangent', 'texture'],
    inputs: {
      in: { ...three([0.5, 0.5, 1], 'what the map says; flat when nothing is given'), kind: ['3', 'rgb'], wants: 'colour' },
      strength: number(1, '1 as it is, 0 flat', [0, 4], 'x'),
      normal: three({ leaf: 'normal' }, 'the normal to tilt'),
    },
    options: {
      coded: {
        values: ['image', 'vector'],
        default: 'image',
        note: '0..1 with the middle at .5 (+y upwards), or -1..1 as it is',
      },
    },
    outputs: unitNormal,
    source: 'glTF 2.0, normalTexture: +y along growing v',
    lower: ({ b, options }, x) => {
      const told = options.coded === 'image' ? b.sub(b.mul(x.in!, 2), 1) : x.in!;
      const [right, up] = tangentFrame(b);
      const tilt = b.mul(told, b.join(x.strength!, x.strength!, b.constant(1)));
      const [u, v, n] = b.split(tilt) as [Node, Node, Node];
      const sum = b.add(
        b.add(b.mul(b.composite('normalize', right), u), b.mul(b.composite('normalize', up), v)),
        b.mul(x.normal!, n),
      );
      return { value: b.composite('normalize', sum) };
    },
  }),
  operator({
    id: 'blendNormals',
    means: 'normal',
    label: 'blend normals',
    family: 'Surface',
    wild: true,
    picture: { a: '@dome', b: '@tilt' },
    summary: 'Lays the detail of one normal over another, neither flattened.',
    keywords: ['detail', 'combine', 'reoriented'],
    inputs: {
      a: { ...three([0, 0, 1], 'the base, around the z axis'), wants: 'normal' },
      b: { ...three([0, 0, 1], 'the detail, around the z axis'), wants: 'normal' },
    },
    options: {
      how: {
        values: ['reoriented', 'whiteout'],
        default: 'reoriented',
        note: 'the detail turned with the base, or their slopes added',
      },
    },
    outputs: unitNormal,
    source: 'Barre-Brisebois and Hill, "Blending in Detail", 2012',
    lower: ({ b, options }, x) => {
      const [ax, ay, az] = b.split(x.a!) as [Node, Node, Node];
      const [bx, by, bz] = b.split(x.b!) as [Node, Node, Node];
      if (options.how === 'whiteout')
        return { value: b.composite('normalize', b.join(b.add(ax, bx), b.add(ay, by), b.mul(az, bz))) };
      const t = b.join(ax, ay, b.add(az, 1));
      const u = b.join(b.op('neg', bx), b.op('neg', by), bz);
      const turned = b.sub(b.mul(t, b.div(b.composite('dot', t, u), b.add(az, 1))), u);
      return { value: b.composite('normalize', turned) };
    },
  }),
  operator({
    id: 'refractOffset',
    means: 'shift',
    label: 'refract offset',
    family: 'Surface',
    wild: true,
    picture: { strength: 6 },
    summary: 'How far aside the picture behind is seen through a surface: more the deeper it lies.',
    keywords: ['refraction', 'distort', 'glass', 'water', 'lens'],
    inputs: {
      normal: three({ leaf: 'normal' }, 'which way the surface faces, on the stage'),
      depth: number({ leaf: 'depthGap' }, 'how far behind the picture lies', [0, 5], 'm'),
      strength: number(0.1, 'metres aside for each metre of depth, where the surface faces sideways', [0, 1]),
      index: number(1.333, 'index of refraction: water 1.333, glass 1.5', [1, 2.5]),
    },
    options: {
      by: { values: ['strength', 'index'], default: 'strength', note: 'a strength of your own, or the law of refraction' },
    },
    outputs: [{ id: 'value', kind: '2', note: 'screen units, for behind and for the output refraction' }],
    source: 'Snell’s law in vector form: GLSL ES 3.00, refract',
    lower: ({ b, options }, x) => {
      const toEye = [b.leaf('eyeRight'), b.leaf('eyeUp')] as const;
      const depth = b.op('max', x.depth!, 0);
      const far = b.add(b.leaf('eyeDepth'), depth);
      const onScreen = (aside: Node) =>
        b.mul(b.div(b.join(...toEye.map((axis) => b.composite('dot', axis, aside))), far), b.leaf('lens'));
      if (options.by === 'strength') return { value: onScreen(b.mul(x.normal!, b.op('neg', b.mul(x.strength!, depth)))) };
      const going = b.op('neg', b.leaf('view'));
      const eta = b.div(1, x.index!);
      const facing = b.composite('dot', x.normal!, going);
      const k = b.sub(1, b.mul(b.mul(eta, eta), b.sub(1, b.mul(facing, facing))));
      const bent = b.sub(b.mul(going, eta), b.mul(x.normal!, b.add(b.mul(eta, facing), b.op('sqrt', k))));
      // Both rays are followed to the same depth along the view axis; one that leaves the picture is held at its side.
      const axis = b.op('neg', b.leaf('eyeBack'));
      const reach = (ray: Node) => b.mul(ray, b.div(depth, b.op('max', b.composite('dot', ray, axis), 0.1)));
      return { value: onScreen(b.sub(reach(bent), reach(going))) };
    },
  }),
  operator({
    id: 'absorb',
    label: 'absorb',
    family: 'Surface',
    wild: true,
    picture: { in: { rgb: [0.8, 0.95, 1], intensity: 1, unit: 'factor' }, thickness: '@steep' },
    summary: 'Takes colour away from light that travels through something: deeper is darker, and of another hue.',
    keywords: ['depth', 'tint', 'water', 'beer', 'lambert', 'fog', 'extinction'],
    inputs: {
      in: { wants: 'colour', kind: 'rgb', default: [1, 1, 1], soft: [0, 1], literal: 'colour', note: 'the light that enters' },
      thickness: { ...number(0, 'how far it travels', [0, 10], 'm'), wants: 'distance' },
      absorption: {
        kind: ['3', 'rgb'],
        default: [0.4, 0.08, 0.03],
        soft: [0, 2],
        literal: 'vector',
        note: 'how much of red, green and blue is lost, per metre',
      },
    },
    outputs: [{ id: 'value', kind: 'rgb', note: 'the light that is left' }],
    source: 'Beer-Lambert: in exp(-absorption x thickness)',
    lower: ({ b }, x) => {
      const lost = b.mul(x.absorption!, b.op('max', x.thickness!, 0));
      return { value: b.mul(x.in!, b.join(...b.split(lost).map((l) => decay(b, l)))) };
    },
  }),
  operator({
    id: 'gerstner',
    means: 'shift',
    label: 'Gerstner waves',
    family: 'Surface',
    wild: true,
    picture: { position: '@here', wavelengths: [1.6, 1.1, 0.8, 0.6], steepness: [0.8, 0.4, 0.3, 0.2] },
    motion: { kind: 'wanders', by: 'time' },
    summary: 'Four sea waves with sharp crests, each as fast as deep water lets a wave of its length be.',
    keywords: ['ocean', 'sea', 'swell', 'water', 'trochoid'],
    inputs: {
      position: three({ leaf: 'position' }, 'where on the surface; x and z count'),
      time: clock,
      wavelengths: four([6, 3.4, 1.9, 1.1], 'crest to crest', [0.1, 20], 'm'),
      steepness: four([0.18, 0.14, 0.1, 0.08], 'together below 1, or crests turn over', [0, 0.5]),
      headings: four([0, 38, -25, 70], 'where each goes: 0 along x, 90 against z', [-180, 180], 'deg'),
    },
    options: {
      over: {
        values: ['free', 'loop'],
        default: 'free',
        note: 'at the speed of water, or at the nearest that closes over the loop',
      },
    },
    outputs: [
      { id: 'offset', kind: '3', note: 'metres to move by' },
      { id: 'normal', kind: '3', means: 'normal', note: 'a unit vector, up where the sea is flat' },
    ],
    source: 'trochoidal waves (Gerstner 1802), deep water: w^2 = g k, g = 9.80665 m/s2',
    lower: ({ b, options }, x) => {
      const k = b.div(2 * Math.PI, x.wavelengths!);
      const rate = b.mul(b.op('sqrt', b.mul(k, GRAVITY)), 1 / (2 * Math.PI));
      const turns = b.split(rate).map((r) => lapped(b, x.time!, r, options.over === 'loop'));
      const heading = b.mul(x.headings!, 1 / (2 * Math.PI));
      const east = cosine(b, heading);
      const south = b.op('neg', sine(b, heading));
      const along = b.add(b.mul(east, b.pick(x.position!, 0)), b.mul(south, b.pick(x.position!, 2)));
      const phase = b.sub(b.div(along, x.wavelengths!), b.join(...turns));
      const [high, fore] = [sine(b, phase), cosine(b, phase)];
      const amplitude = b.div(x.steepness!, k);
      const total = (p: Node, q: Node) => b.composite('dot', p, q);
      const aside = b.mul(fore, amplitude);
      const offset = b.join(total(aside, east), total(high, amplitude), total(aside, south));
      // The moved surface's own two directions, and what stands square to both.
      const [rise, draw] = [b.mul(fore, x.steepness!), b.mul(high, x.steepness!)];
      const both = b.op('neg', total(draw, b.mul(east, south)));
      const alongX = b.join(b.sub(1, total(draw, b.mul(east, east))), total(rise, east), both);
      const alongZ = b.join(both, total(rise, south), b.sub(1, total(draw, b.mul(south, south))));
      const normal = cross(b, alongZ, alongX);
      return { offset, normal: b.composite('normalize', normal) };
    },
  }),
  operator({
    id: 'foam',
    means: 'mask',
    label: 'foam',
    family: 'Surface',
    wild: true,
    picture: { noise: '@rough', width: 0.9 },
    summary: 'Foam where water touches what stands in it, torn up by a noise.',
    keywords: ['shore', 'shallow', 'surf', 'water', 'contact'],
    inputs: {
      gap: number({ leaf: 'depthGap' }, 'how deep the water is', [0, 2], 'm'),
      width: number(0.4, 'how deep foam reaches', [0, 2], 'm'),
      noise: {
        ...number(0, 'what tears it, -1 to 1; where nothing does, patches about a hand wide', [-1, 1]),
        optional: true,
        wants: 'mask',
      },
      softness: number(0.1, 'how soft its rims are', [0, 0.5]),
    },
    outputs: [{ id: 'value', kind: '1', note: '0 to 1' }],
    source: 'covers where the noise is above the share of the width that is already deep; common practice, no source',
    lower: ({ b }, x) => {
      const deep = b.composite('clamp', b.div(x.gap!, x.width!), 0, 1);
      // Foam is never a slab: where nothing tears it, a noise of its own does, finer on coarser.
      const tearing = x.noise ?? ownTearing(b);
      const torn = b.add(b.mul(tearing, 0.5), 0.5);
      // From all of it at touching to none at the width, whatever the noise.
      const edge = b.composite('mix', b.op('neg', x.softness!), 1, deep);
      const shown = b.composite('smoothstep', edge, b.add(edge, x.softness!), torn);
      return { value: b.op('select', b.op('lt', x.width!, b.op('max', x.gap!, 1e-6)), 0, shown) };
    },
  }),
  operator({
    id: 'sway',
    means: 'shift',
    label: 'sway',
    family: 'Surface',
    wild: true,
    picture: { mask: '@ramp', amount: 1, rate: 2 },
    summary: 'Leans growth with a current: slow waves from the root to the tip, and a flutter where they are strong.',
    keywords: ['wind', 'grass', 'kelp', 'vegetation', 'current', 'foliage'],
    inputs: {
      position: three({ leaf: 'position' }, 'where on the plant'),
      time: clock,
      mask: { ...number(1, '0 at the root, 1 at the tip', [0, 1]), wants: 'mask' },
      amount: number(0.2, 'how far the tip goes', [0, 1], 'm'),
      heading: number(0, 'where the current goes: 0 along x, 90 against z', [-180, 180], 'deg'),
      rate: number(0.25, 'how often it swings', [0, 2], 'Hz'),
      lean: number(0.3, 'how far it hangs downstream', [-1, 1]),
      flutter: number(0.2, 'small quick trembling, to the rest', [0, 1]),
      seed: number(0, 'another whole number, another plant', [0, 100]),
    },
    outputs: metres,
    source: 'two waves and a noise; common practice, no source',
    lower: ({ b }, x) => {
      const heading = headingOf(b, x.heading!);
      const lag = b.add(b.composite('dot', x.position!, heading), b.mul(x.mask!, 0.35));
      const base = b.sub(b.mul(x.time!, x.rate!), b.add(lag, b.mul(x.seed!, 0.618)));
      const swing = b.add(b.mul(sine(b, base), 0.65), b.mul(sine(b, b.mul(base, 1.7)), 0.35));
      const strong = b.add(swing, x.lean!);
      const trembling = noiseAt(b, b.join(b.mul(base, 6), b.mul(lag, 4)), x.seed!);
      const along = b.mul(b.mul(b.add(strong, b.mul(b.mul(trembling, x.flutter!), b.op('abs', strong))), x.amount!), x.mask!);
      return { value: b.mul(heading, along) };
    },
  }),
  operator({
    id: 'bend',
    means: 'shift',
    label: 'bend',
    family: 'Surface',
    wild: true,
    picture: { angle: 60 },
    summary: 'Turns a point about a root, so that lengths are kept where a plain offset would stretch them.',
    keywords: ['rotate', 'hinge', 'lean', 'fin', 'wing'],
    inputs: {
      position: three({ leaf: 'position' }, 'the point'),
      root: three([0, 0, 0], 'what it turns about'),
      axis: three([0, 0, 1], 'the axis of the turn'),
      angle: number(0, 'how far, right-handed', [-90, 90], 'deg'),
    },
    outputs: metres,
    source: 'Rodrigues’ rotation, less where the point was',
    lower: ({ b }, x) => {
      const from = b.sub(x.position!, x.root!);
      return { value: b.sub(turnAbout(b, from, b.composite('normalize', x.axis!), x.angle!), from) };
    },
  }),
];
