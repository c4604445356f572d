/**
 * The noises of MaterialX 1.39, so that an effect looks the same where another program draws its MaterialX file:
 * gradient noise, cell noise and Worley noise over hashes of whole numbers. Source: the MaterialX specification's
 * standard nodes noise2d, noise3d, cellnoise and worleynoise; the hash is Jenkins, "lookup3", 2006. From memory,
 * confirmed by published values (materialx.test.ts).
 */
import { Builder } from '../builder.js';
import { defineKernel } from '../kernel.js';
import { typeOf, widthOf, type Kernel, type Node } from '../types.js';
import { byLanes, countedIn, farName, farParam } from './lattice.js';
import { fade } from './noise.js';

const turnLeft = (b: Builder, x: Node, places: number) =>
  b.op('ior', b.op('ishl', x, b.integer(places)), b.op('ushr', x, b.integer(32 - places)));

/** lookup3's last mixing: of each step, who is changed, by whom, and how far that one is turned. */
const FINAL = [
  ['c', 'b', 14],
  ['a', 'c', 11],
  ['b', 'a', 25],
  ['c', 'b', 16],
  ['a', 'c', 4],
  ['b', 'a', 14],
  ['c', 'b', 24],
] as const;

/** One well mixed integer of 1 to 3 whole numbers, or of those and a fourth. */
function hashOf(count: 1 | 2 | 3 | 4): Kernel {
  return defineKernel({
    name: `wholeHash${count}`,
    note: `One integer of ${count}, by lookup3.`,
    params: [{ name: 'v', type: typeOf('i', count) }],
    result: 'i1',
    continuous: false,
    range: () => ({ low: -(2 ** 31), high: 2 ** 31 - 1 }),
    build: (b, v) => {
      const start = b.integer((0xdeadbeef + (count << 2) + 13) | 0);
      const [x, y, z, w] = b.split(v!);
      const s: Record<'a' | 'b' | 'c', Node> = {
        a: b.op('iadd', start, x!),
        b: y ? b.op('iadd', start, y) : start,
        c: z ? b.op('iadd', start, z) : start,
      };
      if (w) {
        for (const [p, q, r, places] of [
          ['a', 'c', 'b', 4],
          ['b', 'a', 'c', 6],
          ['c', 'b', 'a', 8],
          ['a', 'c', 'b', 16],
          ['b', 'a', 'c', 19],
          ['c', 'b', 'a', 4],
        ] as const) {
          s[p] = b.op('ixor', b.op('isub', s[p], s[q]), turnLeft(b, s[q], places));
          s[q] = b.op('iadd', s[q], s[r]);
        }
        s.a = b.op('iadd', s.a, w);
      }
      for (const [p, q, places] of FINAL) s[p] = b.op('isub', b.op('ixor', s[p], s[q]), turnLeft(b, s[q], places));
      return s.c;
    },
  });
}
const hashes = { 1: hashOf(1), 2: hashOf(2), 3: hashOf(3), 4: hashOf(4) } as const;

const wholes = (b: Builder, floor: Node) => b.op('ftoi', b.op('min', b.op('max', floor, -(2 ** 30)), 2 ** 30));
const bit = (b: Builder, h: Node, mask: number) => b.op('not', b.op('eq', b.op('itof', b.op('iand', h, b.integer(mask))), 0));
const signed = (b: Builder, h: Node, mask: number, x: Node) => b.op('select', bit(b, h, mask), b.op('neg', x), x);
const below = (b: Builder, h: Node, n: number) => b.op('lt', b.op('itof', h), n);

function makeNoise(width: 2 | 3): Kernel {
  const slope = defineKernel({
    name: `wholeSlope${width}`,
    note: 'What one corner contributes: one of a few directions, by the bits of its hash, along the way from it.',
    params: [
      { name: 'cell', type: typeOf('i', width) },
      { name: 'away', type: typeOf('f', width) },
    ],
    result: 'f1',
    continuous: false,
    range: () => ({ low: -Infinity, high: Infinity }),
    build: (b, cell, away) => {
      const h = b.op('iand', b.call(hashes[width], cell!), b.integer(width === 2 ? 7 : 15));
      const [x, y, z] = b.split(away!) as [Node, Node, Node];
      if (width === 2) {
        const u = b.op('select', below(b, h, 4), x, y);
        const v = b.mul(b.op('select', below(b, h, 4), y, x), 2);
        return b.add(signed(b, h, 1, u), signed(b, h, 2, v));
      }
      const u = b.op('select', below(b, h, 8), x, y);
      const twelve = b.op('or', b.op('eq', b.op('itof', h), 12), b.op('eq', b.op('itof', h), 14));
      const v = b.op('select', below(b, h, 4), y, b.op('select', twelve, x, z));
      return b.add(signed(b, h, 1, u), signed(b, h, 2, v));
    },
  });
  const noise: (lanes: readonly number[]) => Kernel = byLanes((lanes) =>
    defineKernel({
      name: `materialxNoise${width}${farName(lanes)}`,
      note: `Gradient noise of MaterialX in ${width} dimensions, about -1 to 1.`,
      params: [{ name: 'p', type: typeOf('f', width) }, ...farParam(lanes)],
      result: 'f1',
      continuous: true,
      range: () => ({ low: -1.1, high: 1.1 }),
      far: (b: Builder, [p], grownOf) => {
        const grown = grownOf(p!);
        return grown && b.call(noise(grown.lanes), grown.near, grown.counts());
      },
      build: (b, p, far) => {
        const floor = b.op('floor', p!);
        const at = b.sub(p!, floor);
        const cell = countedIn(b, wholes(b, floor), lanes, far);
        const blend = b.split(fade(b, at));
        const over = (axis: number, offset: number[]): Node => {
          if (axis < 0) return b.call(slope, b.op('iadd', cell, b.integer(...offset)), b.sub(at, b.constant(...offset)));
          const next = (end: number) =>
            over(
              axis - 1,
              offset.map((o, k) => (k === axis ? end : o)),
            );
          return b.composite('mix', next(0), next(1), blend[axis]!);
        };
        return b.mul(over(width - 1, Array<number>(width).fill(0)), width === 2 ? 0.6616 : 0.982);
      },
    }),
  );
  return noise([]);
}

const noises = { 2: makeNoise(2), 3: makeNoise(3) } as const;

/** Gradient noise at two or three numbers; one number is the first of two. */
export function materialxNoise(b: Builder, p: Node): Node {
  return widthOf(p.type) === 3 ? b.call(noises[3], p) : b.call(noises[2], widthOf(p.type) === 1 ? b.join(p, b.constant(0)) : p);
}

/** 0..1 of a hash. */
const unit = (b: Builder, h: Node) => {
  // An unsigned integer as a float: its high bit counts up, not down.
  const half = b.mul(b.op('itof', b.op('ushr', h, b.integer(1))), 2);
  const low = b.op('itof', b.op('iand', h, b.integer(1)));
  return b.mul(b.add(half, low), 1 / 0xffffffff);
};

/** One number a cell, 0..1. @param p in the cell; what grows with time is given as its whole number, as a cell's other numbers are */
export function materialxCell(b: Builder, p: Node): Node {
  const grown = b.grown(p);
  const cell = grown
    ? countedIn(b, wholes(b, b.op('round', grown.near)), grown.lanes, grown.counts())
    : wholes(b, b.op('floor', p));
  return unit(b, b.call(hashes[widthOf(p.type) as 1 | 2 | 3], cell));
}

function makeWorley(width: 2 | 3): Kernel {
  const worley: (lanes: readonly number[]) => Kernel = byLanes((lanes) =>
    defineKernel({
      name: `materialxCells${width}${farName(lanes)}`,
      note: 'Distances to the nearest and the second nearest point, by the cells of MaterialX; one number of the place’s own cell.',
      params: [{ name: 'p', type: typeOf('f', width) }, { name: 'jitter', type: 'f1' }, ...farParam(lanes)],
      result: 'f3',
      continuous: false,
      range: () => ({ low: 0, high: 100 }),
      far: (b: Builder, [p, jitter], grownOf) => {
        const grown = grownOf(p!);
        return grown && b.call(worley(grown.lanes), grown.near, jitter!, grown.counts());
      },
      build: (b, p, jitter, far) => {
        const floor = b.op('floor', p!);
        const at = b.sub(p!, floor);
        const start = [b.constant(100), b.constant(100), b.constant(0)];
        const results = b.repeat(
          3 ** width,
          start,
          [at, floor, jitter!, ...(far ? [far] : [])],
          (q, state, i, [place, home, spread, counts]) => {
            const [nearest, second, own] = state as [Node, Node, Node];
            const digits: Node[] = [];
            for (let k = 0, left = i; k < width; k++) {
              const higher = q.op('floor', q.mul(q.add(left, 0.5), 1 / 3));
              digits.push(q.sub(q.sub(left, q.mul(higher, 3)), 1));
              left = higher;
            }
            const step = q.join(...digits);
            const there = q.split(countedIn(q, wholes(q, q.add(home!, step)), lanes, counts));
            const random = Array.from({ length: width }, (_, k) =>
              unit(q, q.call(hashes[(width + 1) as 3 | 4], q.join(...there, q.integer(k)))),
            );
            const point = q.add(q.add(q.mul(q.sub(q.join(...random), 0.5), spread!), 0.5), step);
            const d = q.sub(point, place!);
            const far = q.composite('dot', d, d);
            const wins = q.op('lt', far, nearest);
            return [
              q.op('min', far, nearest),
              q.op('select', wins, nearest, q.op('min', far, second)),
              q.op('select', wins, unit(q, q.call(hashes[width], q.join(...there))), own),
            ];
          },
        );
        return b.join(b.op('sqrt', results[0]!), b.op('sqrt', results[1]!), results[2]!);
      },
    }),
  );
  return worley([]);
}
export const materialxCells = { 2: makeWorley(2), 3: makeWorley(3) } as const;
