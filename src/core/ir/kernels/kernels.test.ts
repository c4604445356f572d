import { ImprovedNoise } from 'three/examples/jsm/math/ImprovedNoise.js';
import { scalarise } from '../../passes/scalarise.js';
import { evaluate } from '../../targets/reference.js';
import { Builder } from '../builder.js';
import type { Kernel } from '../types.js';
import { cubicBezier } from './easing.js';
import { randomOf } from '../../base/random.js';
import { lowbias32, pcg2d, pcg3d, pcg4d } from './hash.js';
import { fade, gradientNoise } from './noise.js';
import { exp2, log2, power, sineTurns } from './transcendental.js';

const b = new Builder();
function call(kernel: Kernel, ...args: number[][]): number[] {
  const nodes = args.map((a, k) => (kernel.params[k]!.type[0] === 'i' ? b.integer(...a) : b.constant(...a)));
  return evaluate(scalarise([b.call(kernel, ...nodes)]), { params: [], leaves: {} })[0]!;
}
const hex = (values: number[]) => values.map((v) => (v >>> 0).toString(16).padStart(8, '0')).join(' ');

describe('integer hashes', () => {
  // Jarzynski and Olano, "Hash Functions for GPU Rendering", JCGT 9(3), 2020; values made by three independent programs.
  test.each([
    [[0, 0, 0], '9bafd7c6 a8e88a6b 3f15482c'],
    [[1, 0, 0], 'a1fec616 54e4e5e7 7b1dd140'],
    [[1, 2, 3], 'fa9f79a6 48f2f44c 596f5ab1'],
    [[-1, -1, -1], 'a5f48f40 a4533e83 515b8a62'],
  ])('pcg3d %j', (input, expected) => expect(hex(call(pcg3d, input))).toBe(expected));

  /** The published text of the functions, in big integers: nothing of ours is used. */
  const M = 0xffffffffn;
  const lcg = (x: number) => (BigInt(x >>> 0) * 1664525n + 1013904223n) & M;
  test('pcg2d and pcg4d against their published text in big integers', () => {
    for (let k = 0; k < 200; k++) {
      const v = [k * 7919, -k * 104729, k ^ 0x5bd1, k * k].map((n) => n | 0);
      let [x, y] = [lcg(v[0]!), lcg(v[1]!)];
      const round2 = () => {
        x = (x + y * 1664525n) & M;
        y = (y + x * 1664525n) & M;
        x ^= x >> 16n;
        y ^= y >> 16n;
      };
      round2();
      round2();
      expect(hex(call(pcg2d, v.slice(0, 2)))).toBe(hex([Number(x), Number(y)]));
      let [p, q, r, s] = v.map(lcg) as [bigint, bigint, bigint, bigint];
      const round4 = () => {
        p = (p + q * s) & M;
        q = (q + r * p) & M;
        r = (r + p * q) & M;
        s = (s + q * r) & M;
      };
      round4();
      [p, q, r, s] = [p, q, r, s].map((n) => n ^ (n >> 16n)) as [bigint, bigint, bigint, bigint];
      round4();
      expect(hex(call(pcg4d, v))).toBe(hex([p, q, r, s].map(Number)));
    }
  });

  test('a prop’s random number is the kernel’s, of its seed', () => {
    for (const seed of [0, 1, 2, 77, 4000000000, -5]) {
      const x = call(lowbias32, [seed | 0])[0]! >>> 0;
      expect(randomOf(seed)).toBe((x >>> 8) * 2 ** -24);
    }
  });
  test('lowbias32 changes half of its bits when one input bit changes', () => {
    let flips = 0;
    const rounds = 400;
    for (let k = 0; k < rounds; k++) {
      const x = Math.imul(k, 2654435761) | 0;
      const bit = 1 << (k % 32);
      let d = (call(lowbias32, [x])[0]! ^ call(lowbias32, [x ^ bit])[0]!) >>> 0;
      for (; d; d &= d - 1) flips++;
    }
    expect(flips / rounds).toBeGreaterThan(15);
    expect(flips / rounds).toBeLessThan(17);
  });
});

describe('transcendental functions against the host’s', () => {
  test('sine of turns', () => {
    for (let x = -40; x < 40; x += 0.0137)
      expect(Math.abs(call(sineTurns, [x])[0]! - Math.sin(2 * Math.PI * Math.fround(x)))).toBeLessThan(3e-7);
    expect([0, 0.25, 0.5, 0.75, 1].map((x) => call(sineTurns, [x])[0]! + 0)).toEqual([0, 1, 0, -1, 0]);
  });
  test('powers of two and logarithms', () => {
    for (let x = -20; x < 20; x += 0.0731) {
      const y = Math.fround(x);
      expect(Math.abs(call(exp2, [x])[0]! / 2 ** y - 1)).toBeLessThan(3e-7);
      expect(Math.abs(call(log2, [2 ** y])[0]! - Math.log2(Math.fround(2 ** y)))).toBeLessThan(2e-6);
    }
    expect(call(exp2, [10])[0]).toBe(1024);
    expect(call(exp2, [-200])[0]).toBe(0);
    expect(Number.isFinite(call(exp2, [500])[0]!)).toBe(true);
  });
  test('power, and 0 where the base is not above 0', () => {
    for (const x of [0.01, 0.2, 0.5, 1, 3, 40])
      for (const y of [-2, 0, 0.5, 1, 2.2, 5]) expect(call(power, [x], [y])[0]! / x ** y).toBeCloseTo(1, 5);
    expect(call(power, [0], [2])[0]).toBe(0);
    expect(call(power, [-2], [2])[0]).toBe(0);
  });
});

describe('gradient noise', () => {
  test('the fade is Perlin’s quintic (2002): ends at 0 and 1, flat there, and symmetric', () => {
    const f = (t: number) => evaluate(scalarise([fade(b, b.constant(t))]), { params: [], leaves: {} })[0]![0]!;
    expect([f(0), f(0.5), f(1)]).toEqual([0, 0.5, 1]);
    // From his paper's definition: 6 t^5 - 15 t^4 + 10 t^3.
    for (const t of [0.1, 0.3, 0.7]) expect(f(t)).toBeCloseTo(6 * t ** 5 - 15 * t ** 4 + 10 * t ** 3, 6);
  });

  test('zero on the lattice, as Improved Noise is (three.js, independent)', () => {
    const theirs = new ImprovedNoise();
    for (const p of [
      [3, 7, 11],
      [-4, 0, 9],
    ] as [number, number, number][]) {
      expect(theirs.noise(...p) + 0).toBeCloseTo(0);
      expect(call(gradientNoise[3], [...p], [77])[0]! + 0).toBe(0);
    }
  });

  /** The bits of 1.5 x 2^23, to which cells are added. */
  const OFFSET = 0x4b400000;
  /** The definition written again in double precision, with the hash as a plain function. */
  function byDefinition(p: number[], seed: number): number {
    const cell = p.map(Math.floor);
    const f = p.map((x, k) => x - cell[k]!);
    const u = f.map((t) => t * t * t * (t * (t * 6 - 15) + 10));
    let sum = 0;
    for (let corner = 0; corner < 8; corner++) {
      const o = [corner & 1, (corner >> 1) & 1, (corner >> 2) & 1];
      const h = call(pcg3d, [(cell[0]! + o[0]! + OFFSET + seed) | 0, cell[1]! + o[1]! + OFFSET, cell[2]! + o[2]! + OFFSET]);
      const slope = h.reduce((s, n, k) => s + (n / 2 ** 31) * (f[k]! - o[k]!), 0);
      sum += slope * o.reduce((w, bit, k) => w * (bit ? u[k]! : 1 - u[k]!), 1);
    }
    return sum * 1.35;
  }
  test('equals its definition at 300 points', () => {
    for (let k = 0; k < 300; k++) {
      const p = [Math.sin(k) * 9, Math.cos(k * 1.7) * 9, k / 31].map(Math.fround);
      expect(call(gradientNoise[3], p, [k])[0]).toBeCloseTo(byDefinition(p, k), 5);
    }
  });

  test.each([1, 2, 3, 4] as const)('in %i dimensions: within -1 and 1, both signs, continuous, seeds differ', (width) => {
    const at = (k: number, step: number, seed: number) =>
      call(
        gradientNoise[width],
        Array.from({ length: width }, (_, d) => k * (0.371 + 0.113 * d) + step),
        [seed],
      )[0]!;
    const values = Array.from({ length: 400 }, (_, k) => at(k, 0, 5));
    expect(Math.max(...values)).toBeLessThanOrEqual(1);
    expect(Math.min(...values)).toBeGreaterThanOrEqual(-1);
    expect(Math.max(...values)).toBeGreaterThan(0.3);
    expect(Math.min(...values)).toBeLessThan(-0.3);
    for (let k = 0; k < 100; k++) expect(Math.abs(at(k, 1e-3, 5) - values[k]!)).toBeLessThan(0.02);
    expect(values.filter((v, k) => v === at(k, 0, 6)).length).toBeLessThan(20);
  });

  test('far from the origin, at infinity and at NaN it stays a number in range or says NaN', () => {
    for (const x of [1e7, -3e9, 3e38]) expect(Math.abs(call(gradientNoise[3], [x, x, x], [1])[0]!)).toBeLessThanOrEqual(1);
  });
});

describe('cubic-bezier easing', () => {
  // CSS Easing Functions Level 1, `ease`; values from the package bezier-easing.
  test.each([
    [0.25, 0.4085106],
    [0.5, 0.8024034],
    [0.75, 0.960459],
  ])('ease(%f)', (x, expected) => expect(call(cubicBezier, [x], [0.25, 0.1, 0.25, 1])[0]).toBeCloseTo(expected, 5));
  test('ends exactly', () =>
    expect([0, 1].map((x) => call(cubicBezier, [x], [0.42, 0, 0.58, 1])[0]!.toFixed(6))).toEqual(['0.000000', '1.000000']));
});
