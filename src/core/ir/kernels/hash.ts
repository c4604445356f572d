/**
 * Integer hashes: cells and seeds become bits. With integers only, so that every back end agrees.
 *
 * Sources: pcg2d, pcg3d and pcg4d, Jarzynski and Olano, "Hash Functions for GPU Rendering", JCGT 9(3), 2020; lowbias32,
 * Wellons, "Prospecting for Hash Functions", 2018 (constants from memory, confirmed by the avalanche test beside this file).
 */
import { type Builder } from '../builder.js';
import { defineKernel } from '../kernel.js';
import { typeOf, type Kernel, type Node } from '../types.js';

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
