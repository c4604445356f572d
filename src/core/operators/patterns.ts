/**
 * Patterns: cells, lines and shapes over coordinates. Every edge is as soft as the pixel is wide, by the pattern's own
 * footprint; where a whole cell is smaller than a pixel, its mean is shown.
 */
import type { Builder, Value } from '../ir/builder.js';
import { footprint } from '../ir/derivative.js';
import { randomAt } from '../ir/kernels/hash.js';
import { arctangent } from '../ir/kernels/transcendental.js';
import type { Node } from '../ir/types.js';
import { NEVER, mask, number, pair, trigger, uv } from './inputs.js';
import { closing } from './closing.js';
import { operator, type OperatorRecord } from './record.js';
import { cosine, sine, turned, turnsOf } from './space.js';

/** Narrower than this, an edge is hard: so small that nothing but rounding lies within it. */
const HARD = 1e-6;
const soft = (b: Builder, x: Node) => b.op('max', footprint(b, x), HARD);
const held = (b: Builder, x: Value) => b.composite('clamp', x, 0, 1);

/** How much of a pixel of this width lies where `inside` is above 0. */
const above = (b: Builder, inside: Node, pixel: Node) => held(b, b.add(b.div(inside, pixel), 0.5));

/** How much of a pixel lies in a band about 0: exact for a pixel that is a box. @param half of the band's width */
function band(b: Builder, from: Node, half: Node, pixel: Node): Node {
  const away = b.op('abs', from);
  const upTo = (edge: Node) => held(b, b.add(b.div(b.sub(edge, away), pixel), 0.5));
  return b.sub(upTo(half), upTo(b.op('neg', half)));
}

/** Goes over to the mean as a cell of size 1 comes down to the size of a pixel. */
const faded = (b: Builder, value: Node, mean: Value, pixel: Node) =>
  b.composite('mix', value, mean, held(b, b.sub(b.mul(pixel, 2), 1)));

/** Bands of a width around the middles between whole numbers; `x` counts cells. */
function bands(b: Builder, x: Node, width: Node): Node {
  const pixel = soft(b, x);
  return faded(b, band(b, b.sub(b.composite('fract', x), 0.5), b.mul(width, 0.5), pixel), held(b, width), pixel);
}

/** Lines of a width along whole numbers. */
const lines = (b: Builder, x: Node, width: Node) => bands(b, b.add(x, 0.5), width);

/** A random number a cell. */
const idOf = (b: Builder, cell: Node) => b.pick(randomAt(b, cell, b.constant(0)), 0);
const either = (b: Builder, p: Node, q: Node) => b.sub(b.add(p, q), b.mul(p, q));

const SHAPES: Readonly<Record<string, (b: Builder, p: Node, size: Node, sides: Node, inner: Node) => Node>> = {
  disc: (b, p, size) => b.sub(b.composite('length', p), size),
  ring: (b, p, size, _, inner) => b.sub(b.op('abs', b.sub(b.composite('length', p), size)), b.mul(inner, b.mul(size, 0.5))),
  box: (b, p, size) => {
    const d = b.sub(b.op('abs', p), size);
    const outside = b.composite('length', b.op('max', d, 0));
    return b.add(outside, b.op('min', b.op('max', b.pick(d, 0), b.pick(d, 1)), 0));
  },
  polygon: (b, p, size, sides) => {
    const [x, y] = wedge(b, p, sides);
    const apothem = b.mul(size, cosine(b, b.div(0.5, sides)));
    // The side itself is nearest beside its middle, a corner beyond its ends.
    const beyond = b.op('max', b.sub(b.op('abs', y), b.mul(size, sine(b, b.div(0.5, sides)))), 0);
    const across = b.sub(x, apothem);
    const far = b.composite('length', b.join(across, beyond));
    return b.op('select', b.op('lt', across, 0), across, far);
  },
  star: (b, p, size, sides, inner) => {
    // Folded onto half a point: from a tip on the x axis up to the next notch.
    const [x, y] = wedge(b, p, sides);
    const tip = b.join(size, b.constant(0));
    const turn = b.div(0.5, sides);
    const notch = b.mul(b.join(cosine(b, turn), sine(b, turn)), b.mul(size, inner));
    const edge = b.sub(notch, tip);
    const from = b.sub(b.join(x, b.op('abs', y)), tip);
    const t = held(b, b.div(b.composite('dot', from, edge), b.composite('dot', edge, edge)));
    const side = b.sub(b.mul(b.pick(edge, 0), b.pick(from, 1)), b.mul(b.pick(edge, 1), b.pick(from, 0)));
    const far = b.composite('length', b.sub(from, b.mul(edge, t)));
    return b.op('select', b.op('lt', 0, side), b.op('neg', far), far);
  },
};

/** The point turned into the sector, of as many as there are sides, about the x axis. */
function wedge(b: Builder, p: Node, sides: Node): [Node, Node] {
  const angle = b.mul(turnsOf(b, b.call(arctangent, b.pick(p, 1), b.pick(p, 0))), sides);
  // A side faces up, or a tip points up.
  const upright = b.sub(angle, b.mul(sides, 0.25));
  const sector = b.op('floor', b.add(upright, 0.5));
  const within = b.div(b.sub(upright, sector), sides);
  const far = b.composite('length', p);
  return [b.mul(far, cosine(b, within)), b.mul(far, sine(b, within))];
}

export const PATTERNS: readonly OperatorRecord[] = [
  operator({
    id: 'hexTiles',
    label: 'hex tiles',
    family: 'Patterns',
    wild: true,
    picture: { count: 5 },
    summary: 'Six-sided tiles: the lines between them, one number a tile, and how far from its middle.',
    keywords: ['hexagon', 'honeycomb', 'force field', 'shield'],
    inputs: { uv, count: number(8, 'tiles across', [1, 40]), width: number(0.08, 'how wide the lines are, to a tile', [0, 0.5]) },
    outputs: [
      { id: 'line', kind: '1', note: '1 on the lines' },
      { id: 'cell', kind: '1', note: 'one number a tile, 0..1' },
      { id: 'centre', kind: '1', note: '0 in a tile’s middle, 1 at its sides' },
    ],
    source: 'the nearer of two rectangular lattices of middles',
    lower: ({ b }, x) => {
      const p = b.mul(x.uv!, x.count!);
      const lattice = b.constant(1, Math.sqrt(3));
      const first = b.op('floor', b.add(b.div(p, lattice), 0.5));
      const second = b.add(b.op('floor', b.div(p, lattice)), 0.5);
      const [one, two] = [b.sub(p, b.mul(first, lattice)), b.sub(p, b.mul(second, lattice))];
      const nearer = b.op('lt', b.composite('dot', one, one), b.composite('dot', two, two));
      const from = b.op('abs', b.op('select', nearer, one, two));
      const cell = b.op('select', nearer, first, second);
      // The sides face along x and along 60 degrees to it; half a tile's width away.
      const slant = b.add(b.mul(b.pick(from, 0), 0.5), b.mul(b.pick(from, 1), Math.sqrt(3) / 2));
      const centre = b.mul(b.op('max', b.pick(from, 0), slant), 2);
      const pixel = b.op('max', b.mul(footprint(b, b.op('max', b.pick(from, 0), slant)), 2), HARD);
      const line = above(b, b.sub(x.width!, b.sub(1, centre)), pixel);
      const covered = b.sub(1, b.mul(b.sub(1, held(b, x.width!)), b.sub(1, held(b, x.width!))));
      return { line: faded(b, line, covered, pixel), cell: idOf(b, b.mul(cell, 2)), centre };
    },
  }),
  operator({
    id: 'grid',
    label: 'grid',
    family: 'Patterns',
    wild: true,
    picture: { count: [6, 4], width: 0.12 },
    summary: 'Lines both ways, along whole cells.',
    keywords: ['lines', 'mesh', 'lattice', 'hologram'],
    inputs: {
      uv,
      count: pair([8, 8], 'cells each way', [1, 40]),
      width: number(0.06, 'how wide the lines are, to a cell', [0, 1]),
    },
    outputs: [
      { id: 'line', kind: '1', note: '1 on the lines' },
      { id: 'cell', kind: '1', note: 'one number a cell, 0..1' },
    ],
    lower: ({ b }, x) => {
      const p = b.mul(x.uv!, x.count!);
      const [across, up] = [b.pick(p, 0), b.pick(p, 1)];
      return { line: either(b, lines(b, across, x.width!), lines(b, up, x.width!)), cell: idOf(b, b.op('floor', p)) };
    },
  }),
  operator({
    id: 'brick',
    label: 'brick',
    family: 'Patterns',
    wild: true,
    picture: { count: [3, 5] },
    summary: 'Rows of bricks, each row shifted to the one below.',
    keywords: ['wall', 'tiles', 'masonry', 'panels'],
    inputs: {
      uv,
      count: pair([4, 8], 'bricks along and rows', [1, 40]),
      shift: number(0.5, 'how far a row is shifted, in bricks', [0, 1]),
      width: number(0.08, 'how wide the joints are, to a row’s height', [0, 0.5]),
    },
    outputs: [
      { id: 'line', kind: '1', note: '1 on the joints' },
      { id: 'cell', kind: '1', note: 'one number a brick, 0..1' },
    ],
    lower: ({ b }, x) => {
      const p = b.mul(x.uv!, x.count!);
      const row = b.op('floor', b.pick(p, 1));
      const across = b.add(b.pick(p, 0), b.mul(x.shift!, row));
      const narrow = b.mul(x.width!, b.div(b.pick(x.count!, 0), b.pick(x.count!, 1)));
      return {
        line: either(b, lines(b, across, narrow), lines(b, b.pick(p, 1), x.width!)),
        cell: idOf(b, b.join(b.op('floor', across), row)),
      };
    },
  }),
  operator({
    id: 'checker',
    label: 'checker',
    family: 'Patterns',
    wild: true,
    picture: { count: [7, 5] },
    summary: 'Squares by turns 0 and 1.',
    keywords: ['chess', 'board', 'squares'],
    inputs: { uv, count: pair([8, 8], 'squares each way', [1, 40]) },
    outputs: mask,
    source: 'two square waves multiplied, each filtered by the width of the pixel',
    lower: ({ b }, x) => {
      const p = b.mul(x.uv!, x.count!);
      // +1 and -1 by turns each way; their product is the board.
      const turn = (along: Node) => b.sub(b.mul(bands(b, b.add(b.mul(along, 0.5), 0.25), b.constant(0.5)), 2), 1);
      return { value: b.sub(0.5, b.mul(b.mul(turn(b.pick(p, 0)), turn(b.pick(p, 1))), 0.5)) };
    },
  }),
  operator({
    id: 'dots',
    label: 'dots',
    family: 'Patterns',
    wild: true,
    picture: { count: [6, 4] },
    summary: 'A round dot in the middle of every cell.',
    keywords: ['polka', 'spots', 'halftone', 'lamps'],
    inputs: { uv, count: pair([8, 8], 'dots each way', [1, 40]), radius: number(0.3, 'to a cell', [0, 0.5]) },
    outputs: [
      { id: 'value', kind: '1', note: '1 on the dots' },
      { id: 'cell', kind: '1', note: 'one number a dot, 0..1' },
      { id: 'distance', kind: '1', note: 'from the dot’s middle, in cells' },
    ],
    lower: ({ b }, x) => {
      const p = b.mul(x.uv!, x.count!);
      const from = b.sub(b.composite('fract', p), 0.5);
      const distance = b.composite('length', from);
      const wide = footprint(b, p);
      const pixel = b.op('max', b.op('max', b.pick(wide, 0), b.pick(wide, 1)), HARD);
      const mean = held(b, b.mul(b.mul(x.radius!, x.radius!), Math.PI));
      return {
        value: faded(b, above(b, b.sub(x.radius!, distance), pixel), mean, pixel),
        cell: idOf(b, b.op('floor', p)),
        distance,
      };
    },
  }),
  operator({
    id: 'stripes',
    label: 'stripes',
    family: 'Patterns',
    wild: true,
    picture: { count: 7, rotate: 25 },
    summary: 'Parallel stripes at any angle.',
    keywords: ['lines', 'scan lines', 'bars', 'hatch'],
    inputs: {
      uv,
      count: number(12, 'how many', [1, 100]),
      width: number(0.5, 'how much of the pitch a stripe fills', [0, 1]),
      rotate: number(0, 'which way they run: 0 one above the other, counter-clockwise', [-90, 90], 'deg'),
      offset: { ...number(0, 'moved along by as many stripes', [0, 1]), wants: 'time' },
    },
    outputs: mask,
    lower: ({ b }, x) => {
      const across = b.pick(turned(b, x.uv!, b.op('neg', turnsOf(b, x.rotate!))), 1);
      return { value: bands(b, b.sub(b.mul(across, x.count!), x.offset!), x.width!) };
    },
  }),
  operator({
    id: 'rings',
    label: 'rings',
    family: 'Patterns',
    wild: true,
    summary: 'Rings one inside the other, about a middle.',
    keywords: ['circles', 'ripples', 'target', 'radar', 'sonar'],
    inputs: {
      uv,
      pivot: pair([0.5, 0.5], 'the middle', [0, 1]),
      count: number(8, 'how many for one unit', [1, 60]),
      width: number(0.3, 'how much of the pitch a ring fills', [0, 1]),
      offset: { ...number(0, 'moved outwards by as many rings', [0, 1]), wants: 'time' },
    },
    outputs: mask,
    lower: ({ b }, x) => ({
      value: bands(b, b.sub(b.mul(b.composite('length', b.sub(x.uv!, x.pivot!)), x.count!), x.offset!), x.width!),
    }),
  }),
  operator({
    id: 'spokes',
    label: 'spokes',
    family: 'Patterns',
    wild: true,
    summary: 'Rays from a middle, each a share of the circle.',
    keywords: ['rays', 'sunburst', 'fan', 'radial', 'wheel'],
    inputs: {
      uv,
      pivot: pair([0.5, 0.5], 'the middle', [0, 1]),
      count: number(12, 'how many; whole numbers meet without a seam', [1, 60]),
      width: number(0.5, 'how much of the pitch a ray fills', [0, 1]),
      offset: { ...number(0, 'turned by as many rays', [0, 1]), wants: 'time' },
    },
    outputs: mask,
    lower: ({ b }, x) => {
      const from = b.sub(x.uv!, x.pivot!);
      const turns = turnsOf(b, b.call(arctangent, b.pick(from, 1), b.pick(from, 0)));
      return { value: bands(b, b.sub(b.mul(turns, x.count!), x.offset!), x.width!) };
    },
  }),
  operator({
    id: 'stripe',
    label: 'stripe',
    family: 'Patterns',
    wild: true,
    picture: { in: '@ramp', softness: 0.2 },
    motion: { kind: 'laps', input: 'place', lap: 1 },
    summary: 'One band at a place; it sweeps when its place moves, and comes in again at the other end.',
    keywords: ['band', 'scan', 'sweep', 'shine', 'glint'],
    inputs: {
      in: { kind: '1', default: 0, soft: [0, 1], note: 'where along the sweep this point is: 0 to 1' },
      place: { ...number(0.5, 'the middle of the band; whole laps are taken off'), wants: 'time' },
      width: number(0.1, 'how wide it is'),
      softness: number(0.05, 'how far it takes to die away', [0, 0.5]),
    },
    outputs: mask,
    lower: ({ b }, x) => {
      // The nearest of the band and its copies a lap away.
      const away = b.op('abs', b.sub(b.composite('fract', b.add(b.sub(x.in!, x.place!), 0.5)), 0.5));
      const pixel = b.op('max', soft(b, x.in!), x.softness!);
      return { value: held(b, b.add(b.div(b.sub(b.mul(x.width!, 0.5), away), pixel), 0.5)) };
    },
  }),
  operator({
    id: 'shapes',
    label: 'shape',
    family: 'Patterns',
    wild: true,
    picture: { softness: 0.08 },
    summary: 'One shape, and how far from its outline every point is.',
    keywords: ['disc', 'circle', 'box', 'square', 'ring', 'polygon', 'star', 'signed distance'],
    inputs: {
      uv,
      pivot: pair([0.5, 0.5], 'its middle', [0, 1]),
      size: number(0.3, 'from its middle to its outline, or to a corner', [0, 0.5]),
      sides: number(6, 'corners of a polygon, points of a star', [3, 12]),
      inner: number(0.5, 'a star’s notches, or a ring’s thickness, to its size', [0, 1]),
      rotate: number(0, 'counter-clockwise', [-180, 180], 'deg'),
      softness: number(0, 'how far it takes to die away', [0, 0.5]),
    },
    options: { shape: { values: Object.keys(SHAPES), default: 'disc', note: 'which shape' } },
    outputs: [
      { id: 'value', kind: '1', note: '1 inside' },
      { id: 'distance', kind: '1', note: 'to the outline: below 0 inside' },
    ],
    source: 'Euclidean distances to discs, boxes, segments',
    lower: ({ b, options }, x) => {
      const from = turned(b, b.sub(x.uv!, x.pivot!), b.op('neg', turnsOf(b, x.rotate!)));
      const distance = SHAPES[options.shape!]!(b, from, x.size!, b.op('max', b.op('round', x.sides!), 3), x.inner!);
      const pixel = b.op('max', b.op('max', footprint(b, distance), x.softness!), HARD);
      return { value: above(b, b.op('neg', distance), pixel), distance };
    },
  }),
  operator({
    id: 'ripple',
    label: 'ripple',
    family: 'Patterns',
    motion: { kind: 'fired' },
    wild: true,
    picture: { trigger: { text: 'Hit' }, width: 0.3 },
    summary: 'Rings that spread over the surface from where a trigger was fired, the last four of them at once.',
    keywords: ['ring', 'shock', 'wave', 'hit', 'impact', 'shield', 'spread', 'trigger', 'touch'],
    inputs: {
      position: {
        wants: 'place',
        kind: '3',
        default: { leaf: 'position' },
        soft: [-1, 1],
        unit: 'm',
        note: 'where it is looked at, in the prop’s own space',
      },
      speed: number(1, 'how fast a ring grows', [0, 4], 'm/s'),
      width: number(0.12, 'how wide a ring is', [0.01, 1], 'm'),
    },
    literals: { trigger },
    options: { over: { ...closing, note: 'a loop begins with none, or still hears the lap before' } },
    outputs: [
      {
        id: 'value',
        kind: '1',
        means: 'mask',
        note: '0 to 1: the strongest of the rings; each fades over the trigger’s duration',
      },
      { id: 'inside', kind: '1', means: 'mask', note: '0 to 1: what the rings have passed, fading alike' },
    ],
    source: 'a ring about |p - place| = speed x age, (1 - (distance / half its width)²)² within it; common practice, no source',
    lower: ({ b, options, texts, triggers, fail }, x) => {
      const heard = triggers.trigger?.(options.over === 'loop');
      if (!heard && texts.trigger) return fail('trigger', `There is no trigger ${JSON.stringify(texts.trigger)}.`);
      let [value, inside]: Node[] = [b.constant(0), b.constant(0)];
      heard?.ages.forEach((age, k) => {
        const front = b.sub(
          b.composite('length', b.sub(x.position!, heard.places[k]!)),
          b.mul(x.speed!, b.op('min', age, NEVER)),
        );
        const far = b.div(front, b.op('max', b.mul(x.width!, 0.5), HARD));
        const within = b.op('max', b.sub(1, b.mul(far, far)), 0);
        const left = held(b, b.sub(1, b.div(age, b.op('max', heard.duration, HARD))));
        value = b.op('max', value!, b.mul(b.mul(within, within), left));
        inside = b.op('max', inside!, b.mul(held(b, b.op('neg', far)), left));
      });
      return { value: value!, inside: inside! };
    },
  }),
];
