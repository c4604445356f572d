/** Motion that meets its beginning again when the loop is over. */
import type { Builder } from '../ir/builder.js';
import { derivative } from '../ir/derivative.js';
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

/** Laps made since time 0: time x rate, or, when that is asked and there is a loop, at the nearest rate that closes. */
export function lapped(b: Builder, time: Node, rate: Node, closes: boolean): Node {
  if (!closes) return b.mul(time, rate);
  const loop = b.leaf('loop');
  return b.op('select', b.op('lt', 0, loop), b.mul(b.div(time, loop), wholeLaps(b, rate)), b.mul(time, rate));
}

export interface Lane {
  readonly at: Node;
  /** Whole numbers after which the value must be the same again; 0 for never. */
  readonly period: Node;
}

/** The same for an axis of noise: the lattice repeats after as many cells as the loop holds. */
export function lappedCells(b: Builder, time: Node, rate: Node): Lane {
  const period = b.op('select', b.op('lt', 0, b.leaf('loop')), b.op('abs', wholeLaps(b, rate)), 0);
  return { at: lapped(b, time, rate, true), period };
}

/** A value that grows with time, such as a churn, made to close: how fast it grows is read off itself. */
export function closedGrowth(b: Builder, value: Node): Lane {
  const rate = derivative(b, value, (leaf) => (leaf === 'time' ? b.constant(1) : null));
  const laps = wholeLaps(b, rate);
  const loop = b.leaf('loop');
  // The value's own place is kept; what is between its rate and a whole one is taken away evenly over the loop.
  const drift = b.mul(b.sub(b.div(laps, loop), rate), b.leaf('time'));
  const whole = b.op('lt', 0, loop);
  return {
    at: b.op('select', whole, b.add(value, drift), value),
    period: b.op('select', whole, b.op('abs', laps), 0),
  };
}
