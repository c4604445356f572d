/** Motion that meets its beginning again when the loop is over. */
import type { Builder } from '../ir/builder.js';
import { rebuilt } from '../ir/rebuilt.js';
import type { Node } from '../ir/types.js';

export const closing = {
  values: ['free', 'loop'],
  default: 'free',
  note: 'at its own rate, or at the nearest that closes over the loop',
} as const;

/** How many whole laps of the loop come nearest to a rate; at least one where it moves at all. */
function wholeLaps(b: Builder, rate: Node): Node {
  const laps = b.op('round', b.mul(rate, b.leaf('loop')));
  return b.op('select', b.op('eq', laps, 0), b.op('sign', rate), laps);
}

/** Strands that close look at the same values at the same moments: each is worked out once a builder. */
const moments = new WeakMap<Builder, Map<Node, Map<Node, Node>>>();

/** What a value is at another moment. */
function atTime(b: Builder, value: Node, moment: Node): Node {
  let all = moments.get(b);
  if (!all) moments.set(b, (all = new Map()));
  let known = all.get(moment);
  if (!known) all.set(moment, (known = new Map()));
  return rebuilt(b, value, (node) => (node.op === 'leaf' && node.leaf === 'time' ? moment : null), known);
}

const isTime = (node: Node): boolean => node.op === 'leaf' && node.leaf === 'time';

/** Laps made since time 0: time x rate, or, when that is asked and there is a loop, at the nearest rate that closes. */
export function lapped(b: Builder, time: Node, rate: Node, closes: boolean): Node {
  if (!closes) return b.mul(time, rate);
  const loop = b.leaf('loop');
  // Another clock than the loop's own closes by how far it comes, whatever its pace.
  if (!isTime(time)) return closedGrowth(b, b.mul(time, rate)).at;
  return b.op('select', b.op('lt', 0, loop), b.mul(b.div(time, loop), wholeLaps(b, rate)), b.mul(time, rate));
}

export interface Lane {
  readonly at: Node;
  /** Whole numbers after which the value must be the same again; 0 for never. */
  readonly period: Node;
}

/** The same for an axis of noise: the lattice repeats after as many cells as the loop holds. */
export function lappedCells(b: Builder, time: Node, rate: Node): Lane {
  if (!isTime(time)) return closedGrowth(b, b.mul(time, rate));
  const period = b.op('select', b.op('lt', 0, b.leaf('loop')), b.op('abs', wholeLaps(b, rate)), 0);
  return { at: lapped(b, time, rate, true), period };
}

/**
 * A value that grows with time, such as a churn, made to close: how far it comes in a whole lap is brought to a whole
 * number, and what that adds is spread evenly over the loop. At what pace it comes there does not matter.
 */
export function closedGrowth(b: Builder, value: Node): Lane {
  const loop = b.leaf('loop');
  const lap = b.sub(atTime(b, value, loop), atTime(b, value, b.constant(0)));
  const whole = b.op('round', lap);
  const laps = b.op('select', b.op('eq', whole, 0), b.op('sign', lap), whole);
  const drift = b.mul(b.div(b.sub(laps, lap), loop), b.leaf('time'));
  const loops = b.op('lt', 0, loop);
  return {
    at: b.op('select', loops, b.add(value, drift), value),
    period: b.op('select', loops, b.op('abs', laps), 0),
  };
}
