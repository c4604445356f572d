/**
 * Integer hashes and gradient noise. Cells are hashed with integers only, so that every back end agrees; the
 * gradient is the hash itself, read as numbers from -1 to 1.
 *
 * Sources: gradient noise with the quintic fade, Perlin, "Improving Noise", 2002; pcg2d, pcg3d and pcg4d, Jarzynski
 * and Olano, "Hash Functions for GPU Rendering", JCGT 9(3), 2020; lowbias32, Wellons, "Prospecting for Hash
 * Functions", 2018 (constants from memory, confirmed by the avalanche test beside this file).
 */
import { Builder, defineKernel, type Value } from '../builder.js';
import { countBits, lapCount, lapFraction } from './laps.js';
import { typeOf, widthOf, type Kernel, type Node } from '../types.js';

/** Seeds are told apart up to this size. */
const FARTHEST_SEED = 2 ** 22;
const MULTIPLIER = 1664525;
const INCREMENT = 1013904223;

const anyInteger = () => ({ low: -(2 ** 31), high: 2 ** 31 - 1 });

export const lowbias32: Kernel = defineKernel({
  name: 'lowbias32',
  note: 'One integer, well mixed.',
  params: [{ name: 'x', type: 'i1' }],
  result: 'i1',
  continuous: false,
  range: anyInteger,
  build: (b, x) => {
    const fold = (v: Node, places: number) => b.op('ixor', v, b.op('ushr', v, b.integer(places)));
    const first = b.op('imul', fold(x!, 16), b.integer(0x7feb352d));
    const second = b.op('imul', fold(first, 15), b.integer(0x846ca68b));
    return fold(second, 16);
  },
});

/** The pcg family: a linear step, two rounds of crosswise products, and a fold of the high bits between them. */
function pcg(width: 2 | 3 | 4): Kernel {
  return defineKernel({
    name: `pcg${width}d`,
    note: `${width} integers, well mixed together.`,
    params: [{ name: 'v', type: typeOf('i', width) }],
    result: typeOf('i', width),
    continuous: false,
    range: anyInteger,
    build: (b, v) => {
      const start = b.op('iadd', b.op('imul', v!, b.integer(MULTIPLIER)), b.integer(INCREMENT));
      const round = (state: Node[]) => {
        const next = [...state];
        for (const [target, left, right] of CROSSES[width])
          next[target] = b.op(
            'iadd',
            next[target]!,
            right === null ? b.op('imul', next[left]!, b.integer(MULTIPLIER)) : b.op('imul', next[left]!, next[right]!),
          );
        return next;
      };
      const mixed = b.join(...round(b.split(start)));
      const folded = b.op('ixor', mixed, b.op('ushr', mixed, b.integer(16)));
      const last = b.join(...round(b.split(folded)));
      return width === 2 ? b.op('ixor', last, b.op('ushr', last, b.integer(16))) : last;
    },
  });
}

/** Which component gets which product added, in order; `null` stands for the multiplier. */
const CROSSES: Record<2 | 3 | 4, readonly (readonly [number, number, number | null])[]> = {
  2: [
    [0, 1, null],
    [1, 0, null],
  ],
  3: [
    [0, 1, 2],
    [1, 2, 0],
    [2, 0, 1],
  ],
  4: [
    [0, 1, 3],
    [1, 2, 0],
    [2, 0, 1],
    [3, 1, 2],
  ],
};

export const pcg2d = pcg(2);
export const pcg3d = pcg(3);
export const pcg4d = pcg(4);

/**
 * A whole number within +-2^22 as an integer, offset by a constant that a hash does not mind: added to 1.5 x 2^23 its
 * units are the last bits of the float. One addition, where a conversion that guards against overflow takes seven;
 * and nothing is undefined beyond that range: cells merge there, as floats have no fractions left to tell them apart.
 */
export const cellBits = (b: Builder, whole: Node): Node => b.op('fbits', b.add(whole, 1.5 * 2 ** 23));

/** Perlin's quintic: 6 t^5 - 15 t^4 + 10 t^3. */
export function fade(b: Builder, t: Node): Node {
  return b.mul(b.mul(b.mul(t, t), t), b.add(b.mul(t, b.sub(b.mul(t, 6), 15)), 10));
}

/** 2^32 over the golden ratio: its multiples lie as far from one another as they can, farther than seeds go. */
const GOLDEN = 0x9e3779b9 | 0;

/**
 * Turns what the artist calls a seed (any number; its whole part counts) into 32 well mixed bits.
 * @param part which of the noises that one seed gives: each is another than that of any other seed
 */
export function seedBits(b: Builder, seed: Node, part: number | Node = 0): Node {
  const whole = b.op('ftoi', b.op('min', b.op('max', b.op('floor', seed), -FARTHEST_SEED), FARTHEST_SEED));
  if (part === 0) return b.call(lowbias32, whole);
  const apart =
    typeof part === 'number' ? b.integer(Math.imul(part, GOLDEN)) : b.op('imul', b.op('ftoi', part), b.integer(GOLDEN));
  return b.call(lowbias32, b.op('iadd', whole, apart));
}

/**
 * Brings the sum of a lattice's contributions to about a quarter of standard deviation. In one dimension the bound
 * of 1 is exact (half a gradient from either side); in more the sum is held to -1..1, which touches fewer than one point in ten thousand.
 */
const SCALE = { 1: 2, 2: 1.25, 3: 1.35, 4: 1.5 } as const;

type Width = 1 | 2 | 3 | 4;

/** Cells with the laps of some of their axes counted in. @param far as many integers as there are such axes */
export function countedIn(b: Builder, cell: Node, lanes: readonly number[], far: Node | undefined): Node {
  if (!far) return cell;
  return b.join(...b.split(cell).map((c, k) => (lanes.includes(k) ? b.op('iadd', c, b.pick(far, lanes.indexOf(k))) : c)));
}

/** A kernel by the axes along which it may have come far, made when it is asked for. */
export function byLanes<K extends Kernel>(make: (lanes: readonly number[]) => K): (lanes: readonly number[]) => K {
  const made = new Map<string, K>();
  return (lanes) => {
    const key = lanes.join('');
    let kernel = made.get(key);
    if (!kernel) made.set(key, (kernel = make(lanes)));
    return kernel;
  };
}
/** What tells such a kernel from its like, and the argument that it has besides. */
export const farName = (lanes: readonly number[]) => (lanes.length > 0 ? `Far${lanes.map((k) => 'XYZW'[k]).join('')}` : '');
export const farParam = (lanes: readonly number[]) =>
  lanes.length > 0 ? [{ name: 'far', type: typeOf('i', lanes.length) }] : [];

function gradientNoiseOf(width: Width): (lanes: readonly number[]) => Kernel {
  const hash = { 1: lowbias32, 2: pcg2d, 3: pcg3d, 4: pcg4d }[width];
  const slopeAt = defineKernel({
    name: `slope${width}`,
    note: 'What one corner of the lattice contributes, times 2^31: its random gradient along the way from it.',
    params: [
      { name: 'cell', type: typeOf('i', width) },
      { name: 'away', type: typeOf('f', width) },
    ],
    result: 'f1',
    continuous: false,
    range: () => ({ low: -Infinity, high: Infinity }),
    build: (b, cell, away) => {
      const hashed = b.call(hash, cell!);
      const gradient = b.op('itof', hashed);
      return width === 1 ? b.mul(gradient, away!) : b.composite('dot', gradient, away!);
    },
  });
  const noise: (lanes: readonly number[]) => Kernel = byLanes((lanes) =>
    defineKernel({
      name: `gradientNoise${width}${farName(lanes)}`,
      note: `Gradient noise in ${width} ${width === 1 ? 'dimension' : 'dimensions'}, -1 to 1, 0 at whole numbers.`,
      params: [{ name: 'p', type: typeOf('f', width) }, { name: 'seed', type: 'i1' }, ...farParam(lanes)],
      result: 'f1',
      continuous: true,
      range: () => ({ low: -1, high: 1 }),
      far: (b, [p, seed], grownOf) => {
        const grown = grownOf(p!);
        return grown && b.call(noise(grown.lanes), grown.near, seed!, grown.counts());
      },
      build: (b, p, seed, far) => {
        const floor = b.op('floor', p!);
        const at = b.sub(p!, floor);
        // The seed is 32 mixed bits: it moves the lattice along x to a part of its own.
        const [first, ...rest] = b.split(countedIn(b, cellBits(b, floor), lanes, far));
        const cell = b.join(b.op('iadd', first!, seed!), ...rest);
        const blend = b.split(fade(b, at));
        const corner = (offset: number[]): Node => {
          return b.call(slopeAt, b.op('iadd', cell, b.integer(...offset)), b.sub(at, b.constant(...offset)));
        };
        const over = (axis: number, offset: number[]): Node => {
          if (axis === width) return corner(offset);
          const low = over(axis + 1, [...offset, 0]);
          const high = over(axis + 1, [...offset, 1]);
          // One operation fewer than `mix`, which must also be exact at its end.
          return b.add(low, b.mul(b.sub(high, low), blend[axis]!));
        };
        // The gradients' factor of 2^-31 waits until here: it is a power of two, so nothing is lost.
        const sum = b.mul(over(0, []), SCALE[width] * 2 ** -31);
        return width === 1 ? sum : b.op('min', b.op('max', sum, -1), 1);
      },
    }),
  );
  return noise;
}

const gradientNoises = { 1: gradientNoiseOf(1), 2: gradientNoiseOf(2), 3: gradientNoiseOf(3), 4: gradientNoiseOf(4) } as const;
export const gradientNoise = {
  1: gradientNoises[1]([]),
  2: gradientNoises[2]([]),
  3: gradientNoises[3]([]),
  4: gradientNoises[4]([]),
} as const;

/** Axes along which a place has come far, and by how many cells: as many integers as there are such axes. */
export interface Far {
  readonly lanes: readonly number[];
  readonly counts: Node;
}

/** Gradient noise at a position of one to four numbers. @param part see `seedBits` */
export function noiseAt(b: Builder, position: Node, seed: Node, part: number | Node = 0, far?: Far): Node {
  const kernel = gradientNoises[widthOf(position.type)](far?.lanes ?? []);
  return b.call(kernel, position, seedBits(b, seed, part), ...(far ? [far.counts] : []));
}

/** Noise whose lattice along its last axis repeats after a whole number of cells; 0 for never. */
function makeLoopedNoise(width: Width): Kernel {
  return defineKernel({
    name: `loopedNoise${width}`,
    note: `Gradient noise in ${width} ${width === 1 ? 'dimension' : 'dimensions'} that repeats along the last.`,
    params: [
      { name: 'p', type: typeOf('f', width) },
      { name: 'seed', type: 'i1' },
      { name: 'period', type: 'f1' },
    ],
    result: 'f1',
    continuous: true,
    range: () => ({ low: -1, high: 1 }),
    build: (b, p, seed, period) => {
      const parts = b.split(p!);
      const last = parts.pop()!;
      // Two noises of the same seed, a period apart, would not meet: instead the cell of the last axis is counted round.
      const floor = b.op('floor', last);
      const wrap = (cell: Node) =>
        b.op('select', b.op('lt', 0, period!), b.sub(cell, b.mul(period!, b.op('floor', b.div(cell, period!)))), cell);
      const at = b.sub(last, floor);
      const slice = (cell: Node, away: Value) =>
        b.call(looseSlice(width), b.join(...parts, b.add(b.constant(0), away)), seed!, wrap(cell));
      const low = slice(floor, at);
      const high = slice(b.add(floor, 1), b.sub(at, 1));
      const sum = b.add(low, b.mul(b.sub(high, low), fade(b, at)));
      return b.op('min', b.op('max', b.mul(sum, SCALE[width] * 2 ** -31), -1), 1);
    },
  });
}

const slices = new Map<number, Kernel>();

/** One side of the last axis: the corners whose cell along it is given, `p` holding the way from it. */
function looseSlice(width: Width): Kernel {
  let kernel = slices.get(width);
  if (kernel) return kernel;
  const hash = { 1: lowbias32, 2: pcg2d, 3: pcg3d, 4: pcg4d }[width];
  kernel = defineKernel({
    name: `noiseSlice${width}`,
    note: 'Gradient noise between the corners on one side of its last axis, times 2^31.',
    params: [
      { name: 'p', type: typeOf('f', width) },
      { name: 'seed', type: 'i1' },
      { name: 'last', type: 'f1' },
    ],
    result: 'f1',
    continuous: false,
    range: () => ({ low: -Infinity, high: Infinity }),
    build: (b, p, seed, last) => {
      const parts = b.split(p!);
      const away = parts.pop()!;
      const floors = parts.map((x) => b.op('floor', x));
      const at = parts.map((x, k) => b.sub(x, floors[k]!));
      const cells = [...floors, last!].map((f) => cellBits(b, f));
      cells[0] = b.op('iadd', cells[0]!, seed!);
      const over = (axis: number, offset: number[]): Node => {
        if (axis === parts.length) {
          const cell = cells.map((c, k) => b.op('iadd', c, b.integer(offset[k] ?? 0)));
          const way = [...at.map((x, k) => b.sub(x, offset[k]!)), away];
          const gradient = b.op('itof', b.call(hash, b.join(...cell)));
          return width === 1 ? b.mul(gradient, way[0]!) : b.composite('dot', gradient, b.join(...way));
        }
        const low = over(axis + 1, [...offset, 0]);
        const high = over(axis + 1, [...offset, 1]);
        return b.add(low, b.mul(b.sub(high, low), fade(b, at[axis]!)));
      };
      return over(0, []);
    },
  });
  slices.set(width, kernel);
  return kernel;
}

const loopedNoise = { 1: makeLoopedNoise(1), 2: makeLoopedNoise(2), 3: makeLoopedNoise(3), 4: makeLoopedNoise(4) } as const;

/** Gradient noise that is the same again after `period` whole numbers of its last component; 0 for never. */
export function loopedNoiseAt(b: Builder, position: Node, seed: Node, period: Node, part: number | Node = 0): Node {
  return b.call(loopedNoise[widthOf(position.type)], position, seedBits(b, seed, part), period);
}

/** What an octave gives: as it is, folded at 0, or folded and turned over. */
export const FRACTALS = {
  fbm: (_: Builder, n: Node) => n,
  turbulence: (b: Builder, n: Node) => b.op('abs', n),
  ridged: (b: Builder, n: Node) => b.sub(1, b.op('abs', n)),
} as const;
export type Fractal = keyof typeof FRACTALS;

export const MAX_OCTAVES = 8;

/**
 * Octaves of gradient noise, each finer by the lacunarity and weaker by the gain, over the sum of their strengths; the
 * last one comes in by the fraction of the octaves. Octave i is part i of the seed.
 */
function makeFractal(width: Width, kind: Fractal, count: number, looped: boolean, lanes: readonly number[]): Kernel {
  return defineKernel({
    name: `${kind}${width}x${count}${looped ? 'Looped' : ''}${farName(lanes)}`,
    note: `Up to ${count} octaves of gradient noise, ${kind}.`,
    params: [
      { name: 'p', type: typeOf('f', width) },
      { name: 'seed', type: 'f1' },
      { name: 'octaves', type: 'f1' },
      { name: 'lacunarity', type: 'f1' },
      { name: 'gain', type: 'f1' },
      ...(looped ? [{ name: 'period', type: 'f1' as const }] : []),
      ...(lanes.length > 0 ? farthest(lanes) : []),
    ],
    result: 'f1',
    continuous: true,
    range: () => (kind === 'fbm' ? { low: -1, high: 1 } : { low: 0, high: 1 }),
    ...(looped || lanes.length > 0
      ? {}
      : {
          far: (b, [p, ...others], grownOf) => {
            const grown = grownOf(p!);
            if (!grown) return null;
            const { rest, rates, time, timeRest } = grown;
            return b.call(fractalOf(width, kind, count, false, grown.lanes), rest, ...others, b.join(...rates), time, timeRest);
          },
        }),
    build: (b, p, seed, octaves, lacunarity, gain, ...more) => {
      const period = looped ? more[0] : undefined;
      const [pace, ...clock] = lanes.length > 0 ? more : [];
      const last = period ?? pace;
      const start = [b.constant(0), b.constant(0), b.constant(1), p!, ...(last ? [last] : [])];
      const [sum, strength] = b.repeat(
        count,
        start,
        [seed!, octaves!, lacunarity!, gain!, ...clock],
        (inner, state, i, outer) => {
          const [total, strengths, amplitude, place] = state as [Node, Node, Node, Node];
          const lap = period && state[4];
          const rates = pace && state[4];
          const [first, wanted, finer, weaker, ...now] = outer as [Node, Node, Node, Node, ...Node[]];
          const share = inner.op('min', inner.op('max', inner.sub(wanted, i), 0), 1);
          const weight = inner.mul(amplitude, share);
          const octave = lap
            ? loopedNoiseAt(inner, place, first, lap, i)
            : rates
              ? farNoiseAt(inner, place, first, i, lanes, rates, now)
              : noiseAt(inner, place, first, i);
          const n = FRACTALS[kind](inner, octave);
          return [
            inner.add(total, inner.mul(n, weight)),
            inner.add(strengths, weight),
            inner.mul(amplitude, weaker),
            lap ? lastFiner(inner, place, finer) : inner.mul(place, finer),
            ...(lap ? [inner.mul(lap, 2)] : []),
            ...(rates ? [inner.mul(rates, finer)] : []),
          ];
        },
      );
      const mean = b.div(sum!, strength!);
      // Strengths below 0 would let a mean leave its range.
      return b.op('min', b.op('max', mean, kind === 'fbm' ? -1 : 0), 1);
    },
  });
}

/** What tells how far a fractal has come: how fast it does along these axes, and for how long. */
const farthest = (lanes: readonly number[]) => [
  { name: 'pace', type: typeOf('f', lanes.length) },
  { name: 'time', type: 'f1' as const },
  { name: 'timeRest', type: 'f1' as const },
];

/** Noise at a place that has moved on along some axes at a pace since time 0. */
function farNoiseAt(
  b: Builder,
  start: Node,
  seed: Node,
  part: Node,
  lanes: readonly number[],
  pace: Node,
  clock: readonly Node[],
): Node {
  const rates = b.split(pace);
  const moved = b.split(start).map((x, k) => {
    const rate = rates[lanes.indexOf(k)];
    return rate ? b.add(x, b.call(lapFraction, rate, ...clock)) : x;
  });
  const counts = b.join(...rates.map((rate) => countBits(b, b.call(lapCount, rate, ...clock))));
  return noiseAt(b, b.join(...moved), seed, part, { lanes, counts });
}

/** The axis that repeats is twice as fine in each octave, whatever the others are: only whole factors close. */
function lastFiner(b: Builder, place: Node, finer: Node): Node {
  const parts = b.split(place);
  const last = parts.pop()!;
  return b.join(...parts.map((x) => b.mul(x, finer)), b.mul(last, 2));
}

const fractals = new Map<string, Kernel>();

/** @param octaves how many are computed at most, 1 to 8: all of them while the number may still change
 * @param looped a further argument is how many cells of the last axis make its period */
export function fractalOf(width: Width, kind: Fractal, octaves: number, looped = false, lanes: readonly number[] = []): Kernel {
  const key = `${kind}${width}x${octaves}${looped}${lanes.join('')}`;
  let kernel = fractals.get(key);
  if (!kernel) fractals.set(key, (kernel = makeFractal(width, kind, octaves, looped, lanes)));
  return kernel;
}

/** Three numbers from 0 to 1, 1 left out, for a cell of whole numbers; another seed, other numbers. */
export function randomAt(b: Builder, cell: Node, seed: Node): Node {
  // What is no number has many bit patterns, another on every machine: it counts as the farthest cell, which is one.
  // `max` gives its first argument where the second is no number.
  const near = (x: Node) => cellBits(b, b.op('max', -(2 ** 30), x));
  const bitsOf = (x: Node | undefined) => {
    const grown = x && b.grown(x);
    return grown ? b.op('iadd', near(grown.near), grown.counts()) : x ? near(x) : b.integer(0);
  };
  const [x, y, z] = b.split(cell);
  const mixed = seedBits(b, seed);
  const bits = b.join(b.op('iadd', bitsOf(x), mixed), bitsOf(y), bitsOf(z));
  // 24 bits, as many as a float holds.
  return b.mul(b.op('itof', b.op('ushr', b.call(pcg3d, bits), b.integer(8))), 2 ** -24);
}
