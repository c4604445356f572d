/** Coordinates: where a pattern is looked up. */
import { arctangent, power } from '../ir/kernels/transcendental.js';
import type { Node } from '../ir/types.js';
import { closing, lapped } from './closing.js';
import { clock, number, pair, uv } from './inputs.js';
import { operator, type OperatorRecord } from './record.js';
import { tangentFrame, turned, turnsOf } from './space.js';

const two = [{ id: 'value', kind: '2', note: 'the coordinates' }] as const;

export const COORDINATES: readonly OperatorRecord[] = [
  operator({
    id: 'place',
    label: 'place',
    family: 'Coordinates',
    wild: true,
    summary: 'Scales, turns and moves a pattern about a pivot.',
    keywords: ['transform', 'tiling', 'offset', 'rotate', 'scale', '2d'],
    inputs: {
      uv,
      pivot: pair([0, 0], 'the point that stays', [0, 1]),
      scale: pair([1, 1], 'how large the pattern is', [0, 4]),
      rotate: number(0, 'how far the pattern is turned, counter-clockwise', [-180, 180], 'deg'),
      offset: pair([0, 0], 'how far the pattern is moved'),
    },
    outputs: two,
    source: 'MaterialX, place2d, in the order scale, rotate, translate',
    lower: ({ b }, x) => {
      const centred = b.sub(x.uv!, x.pivot!);
      const scaled = b.div(centred, x.scale!);
      const moved = b.sub(turned(b, scaled, b.op('neg', turnsOf(b, x.rotate!))), x.offset!);
      return { value: b.add(moved, x.pivot!) };
    },
  }),
  operator({
    id: 'scroll',
    label: 'scroll',
    family: 'Coordinates',
    wild: true,
    motion: { kind: 'wanders', by: 'time' },
    pace: 'speed',
    summary: 'Moves a pattern along, so much a second.',
    keywords: ['pan', 'move', 'flow', 'speed', 'conveyor', 'moving', 'slide', 'texture'],
    inputs: { uv, speed: pair([0.1, 0], 'how far it moves in a second'), time: clock },
    options: { over: closing },
    outputs: two,
    lower: ({ b, options }, x) => {
      const speeds = b.split(x.speed!);
      return { value: b.sub(x.uv!, b.join(...speeds.map((s) => lapped(b, x.time!, s, options.over === 'loop')))) };
    },
  }),
  operator({
    id: 'spin',
    label: 'rotate over time',
    family: 'Coordinates',
    wild: true,
    motion: { kind: 'rated', rate: 'rate' },
    pace: 'rate',
    summary: 'Turns a pattern about a pivot, so many turns a second.',
    keywords: ['rotate', 'turn', 'whirl', 'speed'],
    inputs: {
      uv,
      pivot: pair([0.5, 0.5], 'the point that stays', [0, 1]),
      rate: number(0.25, 'turns a second, counter-clockwise', [-2, 2], 'Hz'),
      time: clock,
    },
    options: { over: closing },
    outputs: two,
    lower: ({ b, options }, x) => {
      const turns = lapped(b, x.time!, x.rate!, options.over === 'loop');
      return { value: b.add(turned(b, b.sub(x.uv!, x.pivot!), b.op('neg', turns)), x.pivot!) };
    },
  }),
  operator({
    id: 'polar',
    label: 'polar',
    family: 'Coordinates',
    wild: true,
    summary: 'Coordinates round a pivot: the angle in turns and the distance.',
    keywords: ['radial', 'angle', 'circle', 'round'],
    inputs: { uv, pivot: pair([0.5, 0.5], 'the middle', [0, 1]) },
    outputs: [
      { id: 'value', kind: '2', note: 'angle 0..1, then distance' },
      { id: 'angle', kind: '1', note: '0..1, counter-clockwise from the right' },
      { id: 'distance', kind: '1', note: 'from the middle' },
    ],
    lower: ({ b }, x) => {
      const from = b.sub(x.uv!, x.pivot!);
      const angle = b.composite('fract', turnsOf(b, b.call(arctangent, b.pick(from, 1), b.pick(from, 0))));
      const distance = b.composite('length', from);
      return { value: b.join(angle, distance), angle, distance };
    },
  }),
  operator({
    id: 'twirl',
    label: 'twirl',
    family: 'Coordinates',
    wild: true,
    summary: 'Turns a pattern about a pivot, most in the middle and not at all from a radius on.',
    keywords: ['swirl', 'vortex', 'spiral', 'whirl'],
    inputs: {
      uv,
      pivot: pair([0.5, 0.5], 'the middle', [0, 1]),
      turns: number(0.5, 'how far the middle is turned', [-2, 2], 'turns'),
      radius: number(0.5, 'where it has died away', [0, 1]),
    },
    outputs: two,
    lower: ({ b }, x) => {
      const from = b.sub(x.uv!, x.pivot!);
      const share = b.composite('clamp', b.sub(1, b.div(b.composite('length', from), x.radius!)), 0, 1);
      const turns = b.mul(x.turns!, b.mul(share, share));
      return { value: b.add(turned(b, from, b.op('neg', turns)), x.pivot!) };
    },
  }),
  operator({
    id: 'tile',
    label: 'tile',
    family: 'Coordinates',
    wild: true,
    summary: 'Repeats a pattern, so many times each way; mirrored, neighbours meet without a seam.',
    keywords: ['repeat', 'mirror', 'wrap', 'copies'],
    inputs: { uv, count: pair([2, 2], 'how many each way', [1, 16]) },
    options: { each: { values: ['repeat', 'mirror'], default: 'repeat', note: 'every second one turned over, or all alike' } },
    outputs: [
      { id: 'value', kind: '2', note: 'coordinates within a tile, 0..1' },
      { id: 'tile', kind: '2', note: 'which tile: whole numbers' },
    ],
    lower: ({ b, options }, x) => {
      const scaled = b.mul(x.uv!, x.count!);
      const inside = b.composite('fract', scaled);
      // Up and down again over two: 1 - |2 fract(x / 2) - 1|.
      const mirrored = b.sub(1, b.op('abs', b.sub(b.mul(b.composite('fract', b.mul(scaled, 0.5)), 2), 1)));
      return { value: options.each === 'mirror' ? mirrored : inside, tile: b.op('floor', scaled) };
    },
  }),
  operator({
    id: 'pixelate',
    label: 'pixelate',
    family: 'Coordinates',
    wild: true,
    summary: 'Holds coordinates at the middles of cells: a pattern in blocks.',
    keywords: ['blocks', 'mosaic', 'low resolution', 'cells'],
    inputs: { uv, count: pair([32, 32], 'how many cells each way', [1, 256]) },
    outputs: two,
    lower: ({ b }, x) => ({ value: b.div(b.add(b.op('floor', b.mul(x.uv!, x.count!)), 0.5), x.count!) }),
  }),
  operator({
    id: 'flow',
    label: 'flow',
    family: 'Coordinates',
    wild: true,
    picture: { field: '@here.xy' },
    motion: { kind: 'rated', rate: 'rate' },
    pace: 'rate',
    summary: 'Carries a pattern along a field of directions for ever: two lots of coordinates, and how to mix what they show.',
    keywords: ['current', 'river', 'stream', 'flow map', 'advect'],
    inputs: {
      uv,
      field: { ...pair([0.1, 0], 'where and how fast it flows, a second'), wants: 'shift' },
      time: clock,
      rate: number(0.5, 'how often the pattern starts afresh', [0.1, 2], 'Hz'),
    },
    options: { over: closing },
    outputs: [
      { id: 'first', kind: '2', note: 'coordinates of the first look' },
      { id: 'second', kind: '2', note: 'of the second, half a turn behind' },
      { id: 'mix', kind: '1', note: 'how much of the second to mix in' },
    ],
    source: 'two phases half a turn apart, each at nothing when it starts afresh; common practice, no source',
    lower: ({ b, options }, x) => {
      const turns = lapped(b, x.time!, x.rate!, options.over === 'loop');
      const [first, second] = [b.composite('fract', turns), b.composite('fract', b.add(turns, 0.5))];
      const seconds = b.div(1, x.rate!);
      const look = (phase: Node) => b.sub(x.uv!, b.mul(x.field!, b.mul(b.sub(phase, 0.5), seconds)));
      return { first: look(first), second: look(second), mix: b.op('abs', b.sub(b.mul(first, 2), 1)) };
    },
  }),
  operator({
    id: 'triplanar',
    label: 'triplanar',
    family: 'Coordinates',
    wild: true,
    summary: 'Three flat coordinates, one along each axis, and how much each counts here: a pattern without seams on any shape.',
    keywords: ['box mapping', 'projection', 'seamless', 'cube'],
    inputs: {
      position: { kind: '3', default: { leaf: 'position' }, soft: [-2, 2], note: 'where' },
      normal: { kind: '3', default: { leaf: 'objectNormal' }, soft: [-1, 1], note: 'which way the surface faces' },
      sharpness: number(4, 'how soon one takes over from the next', [1, 16]),
    },
    outputs: [
      { id: 'x', kind: '2', note: 'coordinates seen along x' },
      { id: 'y', kind: '2', note: 'seen along y' },
      { id: 'z', kind: '2', note: 'seen along z' },
      { id: 'weights', kind: '3', note: 'how much each counts; together 1' },
    ],
    source: 'weights |n|^sharpness over their sum; common practice, no source',
    lower: ({ b }, x) => {
      const [px, py, pz] = b.split(x.position!) as [Node, Node, Node];
      const raised = b.join(...b.split(b.op('abs', x.normal!)).map((n) => b.call(power, n, x.sharpness!)));
      const sum = b.composite('dot', raised, b.constant(1, 1, 1));
      return { x: b.join(pz, py), y: b.join(px, pz), z: b.join(px, py), weights: b.div(raised, sum) };
    },
  }),
  operator({
    id: 'parallax',
    label: 'parallax',
    family: 'Coordinates',
    wild: true,
    summary: 'Shifts coordinates by a depth and the way they are looked at, so that a pattern lies below the surface.',
    keywords: ['depth', 'inside', 'interior', 'offset', 'ice'],
    inputs: { uv, depth: number(0.05, 'how far below the surface', [0, 0.5], 'm') },
    outputs: two,
    source: 'the ray of sight followed below the surface, in the frame of the coordinates',
    lower: ({ b }, x) => {
      const [right, up] = tangentFrame(b);
      const view = b.leaf('view');
      const facing = b.op('max', b.composite('dot', view, b.leaf('normal')), 0.05);
      const along = (axis: Node) => b.div(b.composite('dot', view, axis), b.composite('dot', axis, axis));
      return { value: b.sub(x.uv!, b.mul(b.join(along(right), along(up)), b.div(x.depth!, facing))) };
    },
  }),
];
