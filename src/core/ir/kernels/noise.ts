/**
 * Gradient noise: cells are hashed, and the gradient is the hash itself, read as numbers from -1 to 1.
 * Source: the quintic fade, Perlin, "Improving Noise", 2002.
 */
import { type Builder, type Value } from '../builder.js';
import { defineKernel } from '../kernel.js';
import { typeOf, widthOf, type Kernel, type Node } from '../types.js';
import { cellBits, lowbias32, pcg2d, pcg3d, pcg4d, seedBits } from './hash.js';
import { byLanes, countedIn, farName, farParam } from './lattice.js';

/** Perlin's quintic: 6 t^5 - 15 t^4 + 10 t^3. */
export function fade(b: Builder, t: Node): Node {
  return b.mul(b.mul(b.mul(t, t), t), b.add(b.mul(t, b.sub(b.mul(t, 6), 15)), 10));
}

/**
 * Brings the sum of a lattice's contributions to about a quarter of standard deviation. In one dimension the bound
 * of 1 is exact (half a gradient from either side); in more the sum is held to -1..1, which touches fewer than one point in ten thousand.
 */
const SCALE = { 1: 2, 2: 1.25, 3: 1.35, 4: 1.5 } as const;

export type Width = 1 | 2 | 3 | 4;

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
      far: (b: Builder, [p, seed], grownOf) => {
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
