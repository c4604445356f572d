/** Octaves of gradient noise. Source: Musgrave in Ebert et al., "Texturing and Modeling", 2003. */
import { type Builder } from '../builder.js';
import { defineKernel } from '../kernel.js';
import { typeOf, type Kernel, type Node } from '../types.js';
import { countBits, lapCount, lapFraction } from './laps.js';
import { farName } from './lattice.js';
import { loopedNoiseAt, noiseAt, type Width } from './noise.js';

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
          far: (b: Builder, [p, ...others], grownOf) => {
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
