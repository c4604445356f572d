/**
 * Cellular noise: the distances to the nearest and the second nearest of points scattered one a cell.
 * Source: Worley, "A Cellular Texture Basis Function", 1996. The cell of the place and all that touch it are searched.
 */
import { defineKernel } from '../kernel.js';
import type { Builder } from '../builder.js';
import { typeOf, type Interval, type Kernel, type Node } from '../types.js';
import { cellBits, pcg3d } from './hash.js';
import { countedIn, farName, farParam } from './lattice.js';
import { sineTurns } from './transcendental.js';

export const METRICS = {
  /** The square of it: the root is taken once, at the end. */
  straight: (b: Builder, d: Node) => b.composite('dot', d, d),
  city: (b: Builder, d: Node) => b.split(b.op('abs', d)).reduce((p, q) => b.add(p, q)),
  chess: (b: Builder, d: Node) => b.split(b.op('abs', d)).reduce((p, q) => b.op('max', p, q)),
} as const;
export type Metric = keyof typeof METRICS;

/** Farther than any point of the cells that are searched. */
const FAR = 100;

/**
 * How far a place of a cell is at most from the point in it, and from the nearer of two points beside it, along each axis:
 * a point strays from its cell's middle by half the jitter. Floats may add their roundings.
 */
function cellRanges(width: 2 | 3, metric: Metric, args: readonly Interval[]): readonly Interval[] {
  const number = { low: 0, high: 1 };
  // Of no finite place nothing is the nearest.
  if (args.some((a) => !Number.isFinite(a.low) || !Number.isFinite(a.high))) {
    const any = { low: 0, high: FAR };
    return [any, any, number];
  }
  const { low, high } = args[width + 1]!;
  const stray = Math.max(Math.abs(low), Math.abs(high)) / 2;
  const lengths = {
    straight: (d: readonly number[]) => Math.hypot(...d),
    city: (d: readonly number[]) => d.reduce((a, b) => a + b),
    chess: (d: readonly number[]) => Math.max(...d),
  };
  const within = Array.from({ length: width }, () => 0.5 + stray);
  const beside = [1 + stray, ...within.slice(1)];
  const upTo = (d: readonly number[]) => ({ low: 0, high: Math.min(FAR, lengths[metric](d) * (1 + 2 ** -20)) });
  return [upTo(within), upTo(beside), number];
}

function makeCells(width: 2 | 3, metric: Metric, circling: boolean, lanes: readonly number[]): Kernel {
  const count = 3 ** width;
  return defineKernel({
    name: `cells${width}${metric}${circling ? 'Circling' : ''}${farName(lanes)}`,
    note: 'Distance to the nearest point, to the second nearest, and one number of the nearest one’s cell.',
    params: [
      { name: 'p', type: typeOf('f', width) },
      { name: 'seed', type: 'i1' },
      { name: 'jitter', type: 'f1' },
      ...(circling ? [{ name: 'turns', type: 'f1' as const }] : []),
      ...farParam(lanes),
    ],
    result: 'f3',
    continuous: false,
    range: (args) => cellRanges(width, metric, args),
    far: (b: Builder, [p, seed, jitter, turns], grownOf) => {
      const grown = grownOf(p!);
      const circles = turns && grownOf(turns);
      if (!grown && !circles) return null;
      const rest = [seed!, jitter!, ...(turns ? [circles?.near ?? turns] : [])];
      if (!grown) return b.call(cellsOf(width, metric, circling), p!, ...rest);
      return b.call(cellsOf(width, metric, circling, grown.lanes), grown.near, ...rest, grown.counts());
    },
    build: (b, p, seed, jitter, ...more) => {
      const turns = circling ? more[0] : undefined;
      const far = lanes.length > 0 ? more.at(-1) : undefined;
      const floor = b.op('floor', p!);
      const at = b.sub(p!, floor);
      const [first, ...rest] = b.split(countedIn(b, cellBits(b, floor), lanes, far));
      const cell = b.join(b.op('iadd', first!, seed!), ...rest);
      const outer = [at, cell, jitter!, ...(turns ? [turns] : [])];
      const start = [b.constant(FAR), b.constant(FAR), b.constant(0)];
      const results = b.repeat(count, start, outer, (q, state, i, [place, home, spread, circle]) => {
        const [nearest, second, number] = state as [Node, Node, Node];
        // The counter's digits to the base of 3, from -1 to 1, are the neighbour.
        const digits: Node[] = [];
        for (let k = 0, left = i; k < width; k++) {
          const higher = q.op('floor', q.mul(q.add(left, 0.5), 1 / 3));
          digits.push(q.sub(q.sub(left, q.mul(higher, 3)), 1));
          left = higher;
        }
        const step = q.join(...digits);
        const there = q.op('iadd', home!, q.op('ftoi', step));
        const parts = q.split(there);
        const hashed = q.call(pcg3d, q.join(...parts, ...(width === 2 ? [q.integer(0)] : [])));
        const random = q.mul(q.op('itof', q.op('ushr', hashed, q.integer(8))), 2 ** -24);
        const lanes = Array.from({ length: width }, (_, k) => k);
        const off = circle
          ? q.mul(q.join(...lanes.map((k) => q.call(sineTurns, q.add(q.pick(random, k), circle)))), 0.5)
          : q.sub(q.pick(random, ...lanes), 0.5);
        const point = q.add(q.add(q.mul(off, spread!), 0.5), step);
        const far = METRICS[metric](q, q.sub(point, place!));
        const wins = q.op('lt', far, nearest);
        // Another random number than those that placed the point.
        const own = q.mul(
          q.op('itof', q.op('ushr', q.op('imul', q.pick(hashed, 2), q.integer(0x2c1b3c6d)), q.integer(8))),
          2 ** -24,
        );
        return [
          q.op('min', far, nearest),
          q.op('select', wins, nearest, q.op('min', far, second)),
          q.op('select', wins, own, number),
        ];
      });
      const rooted = metric === 'straight' ? results.slice(0, 2).map((d) => b.op('sqrt', d)) : results.slice(0, 2);
      return b.join(...rooted, results[2]!);
    },
  });
}

const made = new Map<string, Kernel>();

/** @param circling whether points circle, by a further argument: turns */
export function cellsOf(width: 2 | 3, metric: Metric, circling: boolean, lanes: readonly number[] = []): Kernel {
  const key = `${width}${metric}${circling}${lanes.join('')}`;
  let kernel = made.get(key);
  if (!kernel) made.set(key, (kernel = makeCells(width, metric, circling, lanes)));
  return kernel;
}
