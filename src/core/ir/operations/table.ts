/**
 * The one table of operations: for each, what it is made of and means, how it changes, what it can be, what it costs. A
 * pass that asks finds every one of them, and one that is lacking does not compile. How a language writes them is the
 * language's (targets/dialects, targets/wasm/functions): there every one has its entry too.
 */
import { SCALAR, type ScalarOp, type ScalarRule } from '../../base/scalar.js';
import type { CompositeOp } from '../types.js';
import { RANGES, type RangeRule } from './ranges.js';
import { SLOPES, type SlopeRule } from './slopes.js';

export interface OperationRecord extends ScalarRule {
  /** Null where it is flat wherever it has a slope at all. */
  readonly slope: SlopeRule | null;
  readonly range: RangeRule;
  /** Operations of arithmetic a component: moving bits about costs nothing. */
  readonly cost: 0 | 1;
}

const FREE: ReadonlySet<ScalarOp> = new Set(['fbits', 'ibits']);

/** Of single components. */
export const OPERATIONS = Object.fromEntries(
  (Object.keys(SCALAR) as ScalarOp[]).map((op): [ScalarOp, OperationRecord] => [
    op,
    { ...SCALAR[op], slope: SLOPES[op], range: RANGES[op], cost: FREE.has(op) ? 0 : 1 },
  ]),
) as Readonly<Record<ScalarOp, OperationRecord>>;

/**
 * Of whole vectors: they are made of the others (ir/composite.ts), which tells their ranges and their costs; their slopes
 * are their own, as those of the parts would be long.
 */
export const COMPOSITES: Readonly<Record<CompositeOp, { readonly arity: number; readonly slope: SlopeRule | null }>> = {
  mix: { arity: 3, slope: SLOPES.mix },
  clamp: { arity: 3, slope: SLOPES.clamp },
  fract: { arity: 1, slope: SLOPES.fract },
  smoothstep: { arity: 3, slope: SLOPES.smoothstep },
  dot: { arity: 2, slope: SLOPES.dot },
  cross: { arity: 2, slope: SLOPES.cross },
  length: { arity: 1, slope: SLOPES.length },
  normalize: { arity: 1, slope: SLOPES.normalize },
};
