/** Coordinates: where a pattern is looked up. */
import type { Builder, Value } from '../ir/builder.js';
import { arctangent, sineTurns } from '../ir/kernels/transcendental.js';
import type { Node } from '../ir/types.js';
import { operator, type InputRecord, type OperatorRecord } from './record.js';

const uv: InputRecord = { kind: '2', default: { leaf: 'uv' }, soft: [0, 1], note: 'the coordinates' };
const pair = (x: number, y: number, note: string, soft: readonly [number, number] = [-1, 1]): InputRecord => ({
  kind: '2',
  default: [x, y],
  soft,
  literal: 'vector',
  note,
});
const number = (fallback: number, note: string, soft: readonly [number, number], unit?: InputRecord['unit']): InputRecord => ({
  kind: '1',
  default: fallback,
  soft,
  note,
  ...(unit ? { unit } : {}),
});
const clock: InputRecord = { kind: '1', default: { leaf: 'time' }, soft: [0, 10], unit: 's', note: 'the time it follows' };
const two = [{ id: 'value', kind: '2', note: 'the coordinates' }] as const;

/** A point of the plane turned about the origin, counter-clockwise. @param turns whole turns */
function turned(b: Builder, point: Node, turns: Value): Node {
  const [sine, cosine] = [b.call(sineTurns, turns), b.call(sineTurns, b.add(turns, 0.25))];
  const [x, y] = [b.pick(point, 0), b.pick(point, 1)];
  return b.join(b.sub(b.mul(x, cosine), b.mul(y, sine)), b.add(b.mul(x, sine), b.mul(y, cosine)));
}

/** Radians, as angles are in the core, to turns. */
const turnsOf = (b: Builder, radians: Node) => b.mul(radians, 1 / (2 * Math.PI));

/** Time, held to whole laps of the loop when that is asked: as many as come nearest to the rate. */
function lapped(b: Builder, time: Node, rate: Node, closes: boolean): Node {
  if (!closes) return b.mul(time, rate);
  const loop = b.leaf('loop');
  const laps = b.op('round', b.mul(rate, loop));
  // An effect without a loop runs on at its own rate.
  return b.op('select', b.op('lt', 0, loop), b.mul(b.div(time, loop), laps), b.mul(time, rate));
}
const closing = {
  values: ['free', 'loop'],
  default: 'free',
  note: 'at its own rate, or at the nearest that closes over the loop',
} as const;

export const COORDINATES: readonly OperatorRecord[] = [
  operator({
    id: 'place',
    label: 'place',
    family: 'Coordinates',
    summary: 'Scales, turns and moves a pattern about a pivot.',
    keywords: ['transform', 'tiling', 'offset', 'rotate', 'scale', '2d'],
    inputs: {
      uv,
      pivot: pair(0, 0, 'the point that stays', [0, 1]),
      scale: pair(1, 1, 'how large the pattern is', [0, 4]),
      rotate: number(0, 'how far the pattern is turned, counter-clockwise', [-180, 180], 'deg'),
      offset: pair(0, 0, 'how far the pattern is moved'),
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
    summary: 'Moves a pattern along, so much a second.',
    keywords: ['pan', 'move', 'flow', 'speed', 'conveyor'],
    inputs: { uv, speed: pair(0.1, 0, 'how far it moves in a second'), time: clock },
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
    summary: 'Turns a pattern about a pivot, so many turns a second.',
    keywords: ['rotate', 'turn', 'whirl', 'speed'],
    inputs: {
      uv,
      pivot: pair(0.5, 0.5, 'the point that stays', [0, 1]),
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
    summary: 'Coordinates round a pivot: the angle in turns and the distance.',
    keywords: ['radial', 'angle', 'circle', 'round'],
    inputs: { uv, pivot: pair(0.5, 0.5, 'the middle', [0, 1]) },
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
    summary: 'Turns a pattern about a pivot, most in the middle and not at all from a radius on.',
    keywords: ['swirl', 'vortex', 'spiral', 'whirl'],
    inputs: {
      uv,
      pivot: pair(0.5, 0.5, 'the middle', [0, 1]),
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
    summary: 'Repeats a pattern, so many times each way; mirrored, neighbours meet without a seam.',
    keywords: ['repeat', 'mirror', 'wrap', 'copies'],
    inputs: { uv, count: pair(2, 2, 'how many each way', [1, 16]) },
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
    summary: 'Holds coordinates at the middles of cells: a pattern in blocks.',
    keywords: ['blocks', 'mosaic', 'low resolution', 'cells'],
    inputs: { uv, count: pair(32, 32, 'how many cells each way', [1, 256]) },
    outputs: two,
    lower: ({ b }, x) => ({ value: b.div(b.add(b.op('floor', b.mul(x.uv!, x.count!)), 0.5), x.count!) }),
  }),
];
