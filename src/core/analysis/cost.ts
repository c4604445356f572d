/** What a sheet costs a pixel, strand by strand, and what holding a dial at its value would save. */
import { reach } from '../base/reach.js';
import type { Node } from '../ir/types.js';
import { rowOf } from '../effect/motifs.js';
import type { Effect } from '../effect/schema.js';
import { lower, type Program } from '../lower/lower.js';
import { NOTHING, costOfNode, plus, readsOf, scalarRates, weight, type Cost } from '../passes/cost.js';
import { atMostFrame } from '../passes/rates.js';
import { ordered, scalarise, type ScalarNode } from '../passes/scalarise.js';

export interface StrandCost extends Cost {
  /** Of the whole, 0..1. */
  readonly share: number;
}

export interface CostReading {
  readonly total: Cost;
  /** What each strand adds to those above it; strands that no output needs cost nothing. */
  readonly strands: ReadonlyMap<string, StrandCost>;
}

/** Everything the outputs need that differs over the surface: what is the same all over is computed once a frame. */
export function readCost(program: Program): CostReading {
  const strands = [...program.strands.values()];
  const outputs = [...program.outputs.values()].map((o) => o.node);
  const ports = strands.map((s) => Object.values(s.ports).map((p) => p.node));
  const flat = ports.flat();
  const scalar = scalarise([...outputs, ...flat], { paste: false });
  const rates = scalarRates(scalar);
  const needed = new Set(ordered(scalar.roots.slice(0, outputs.length).flat()));
  const seen = new Set<ScalarNode>();
  const parts = new Map<string, Cost>();
  let total = NOTHING;
  const take = (roots: readonly ScalarNode[]): Cost => {
    const sum = reach(roots, (node) => (needed.has(node) ? node.args : []), seen)
      .filter((node) => needed.has(node) && !atMostFrame(rates.get(node)!))
      .reduce((all, node) => plus(all, costOfNode(node)), NOTHING);
    total = plus(total, sum);
    return sum;
  };
  const walked = new Set<Node>();
  const looked = new Set(readsOf(outputs));
  const looksIn = (roots: readonly Node[]): Cost => {
    const fresh = readsOf(roots, walked).filter((n) => looked.has(n));
    const sum = { ...NOTHING, reads: fresh.length };
    total = plus(total, sum);
    return sum;
  };
  let at = outputs.length;
  strands.forEach((strand, k) => {
    const own = ports[k]!;
    // What is within a use counts to it.
    const row = rowOf(strand.id);
    parts.set(row, plus(parts.get(row) ?? NOTHING, plus(take(scalar.roots.slice(at, at + own.length).flat()), looksIn(own))));
    at += own.length;
  });
  take(scalar.roots.slice(0, outputs.length).flat());
  const whole = weight(total);
  return {
    total,
    strands: new Map([...parts].map(([id, c]) => [id, { ...c, share: whole > 0 ? weight(c) / whole : 0 }])),
  };
}

/**
 * What each dial's value, held for good, would take off the whole: by dial, 0..1. Strands above may vanish with it, a
 * factor of 1 or a mask of 0 among them.
 */
export function savings(effect: Effect, program: Program = lower(effect, { build: 'live' })): Map<string, number> {
  const whole = weight(readCost(program).total);
  return new Map(
    effect.dials.map((dial) => {
      const held = weight(readCost(lower(effect, { build: 'live', hold: new Set([dial.id]) })).total);
      return [dial.id, whole > 0 ? Math.max(0, 1 - held / whole) : 0];
    }),
  );
}
