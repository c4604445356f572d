/**
 * Curl noise: a field of directions without sources or sinks. Source: Bridson, Hourihan and Nordenstam, "Curl-Noise for
 * Procedural Fluid Flow", 2007; with the noise's exact slopes rather than differences.
 */
import type { Builder } from '../builder.js';
import { defineKernel } from '../kernel.js';
import { slopeBy } from '../derivative.js';
import { typeOf, type Kernel, type Node } from '../types.js';
import { farName, farParam } from './lattice.js';
import { loopedNoiseAt, noiseAt } from './noise.js';

/** A further axis: none, one along which the field churns, or one along which it repeats. */
export type Churning = 'still' | 'free' | 'loop';

function makeCurl(width: 2 | 3, churning: Churning, lanes: readonly number[]): Kernel {
  const extra = { still: [], free: ['churn'], loop: ['churn', 'period'] }[churning];
  return defineKernel({
    name: `curl${width}${churning}${farName(lanes)}`,
    note: 'The curl of gradient noise: directions that swirl and never pile up.',
    params: [
      { name: 'p', type: typeOf('f', width) },
      { name: 'seed', type: 'f1' },
      ...extra.map((name) => ({ name, type: 'f1' as const })),
      ...farParam(lanes),
    ],
    result: typeOf('f', width),
    continuous: true,
    // Slopes of noise in -1..1 over half a cell and more.
    range: () => ({ low: -16, high: 16 }),
    ...(churning === 'loop'
      ? {}
      : {
          far: (b: Builder, [p, seed, churn], grownOf) => {
            const at = [p!, ...(churn ? [churn] : [])].map((node) => ({ node, grown: grownOf(node) }));
            if (!at.some(({ grown }) => grown)) return null;
            const [place, ...boil] = at.map(({ node, grown }) => grown?.near ?? node);
            const axes = at.flatMap(({ grown }, k) => (grown?.lanes ?? []).map((lane) => (k === 0 ? lane : width)));
            const counts = b.join(...at.flatMap(({ grown }) => (grown ? [grown.counts()] : [])));
            return b.call(curlOf(width, churning, axes), place!, seed!, ...boil, counts);
          },
        }),
    build: (b, p, seed, ...more) => {
      const [churn, period] = churning === 'still' ? [] : churning === 'free' ? [more[0]] : more;
      const at = churn ? b.join(...b.split(p!), churn) : p!;
      const far = lanes.length > 0 ? { lanes, counts: more.at(-1)! } : undefined;
      const potential = (k: number): Node => (period ? loopedNoiseAt(b, at, seed!, period, k) : noiseAt(b, at, seed!, k, far));
      const slope = (of: Node, axis: number) =>
        slopeBy(b, of, p!, b.constant(...Array.from({ length: width }, (_, j) => (j === axis ? 1 : 0))));
      const first = potential(0);
      if (width === 2) return b.join(slope(first, 1), b.op('neg', slope(first, 0)));
      const [second, third] = [potential(1), potential(2)];
      return b.join(
        b.sub(slope(third, 1), slope(second, 2)),
        b.sub(slope(first, 2), slope(third, 0)),
        b.sub(slope(second, 0), slope(first, 1)),
      );
    },
  });
}

const made = new Map<string, Kernel>();

export function curlOf(width: 2 | 3, churning: Churning, lanes: readonly number[] = []): Kernel {
  const key = `${width}${churning}${lanes.join('')}`;
  let kernel = made.get(key);
  if (!kernel) made.set(key, (kernel = makeCurl(width, churning, lanes)));
  return kernel;
}
