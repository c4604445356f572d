/** What a scalar program costs a pixel: operations of arithmetic, calls of transcendental functions, looks at textures. */
import { reach } from '../base/reach.js';
import { LEAVES, costlier, type Rate } from '../ir/leaves.js';
import { arctangent, exp2, log2, power, sineTurns } from '../ir/kernels/transcendental.js';
import { OPERATIONS } from '../ir/operations/table.js';
import type { Kernel, Node } from '../ir/types.js';
import type { ScalarKernel, ScalarNode, ScalarProgram } from './scalarise.js';

export interface Cost {
  /** Scalar operations, those inside of functions too. */
  readonly arithmetic: number;
  /** Calls of sine, power, logarithm and their like. */
  readonly transcendental: number;
  /** Looks at the picture behind and at images. */
  readonly reads: number;
}

export const NOTHING: Cost = { arithmetic: 0, transcendental: 0, reads: 0 };
export const plus = (a: Cost, b: Cost): Cost => ({
  arithmetic: a.arithmetic + b.arithmetic,
  transcendental: a.transcendental + b.transcendental,
  reads: a.reads + b.reads,
});
const times = (c: Cost, n: number): Cost => ({
  arithmetic: c.arithmetic * n,
  transcendental: c.transcendental * n,
  reads: c.reads * n,
});

/** One number to compare by: a look at a texture counts for 30 operations. Common practice, no source. */
export const weight = (c: Cost): number => c.arithmetic + 30 * c.reads;

const TRANSCENDENTAL = new Set<Kernel>([sineTurns, exp2, log2, power, arctangent]);
const kernels = new WeakMap<ScalarKernel, Cost>();

function costOfKernel(kernel: ScalarKernel): Cost {
  const found = kernels.get(kernel);
  if (found) return found;
  const body = kernel.nodes.reduce((sum, n) => plus(sum, costOfNode(n)), NOTHING);
  const own: Cost = TRANSCENDENTAL.has(kernel.source) ? { ...body, transcendental: 1 } : body;
  kernels.set(kernel, own);
  return own;
}

/** A node's own cost, without its arguments'. */
export function costOfNode(node: ScalarNode): Cost {
  switch (node.op) {
    case 'const':
    case 'param':
    case 'leaf':
    case 'arg':
    case 'result':
      return NOTHING;
    case 'sample':
      return { ...NOTHING, reads: 1 };
    case 'keys':
      return { ...NOTHING, arithmetic: 1 };
    case 'call':
      return costOfKernel(node.kernel!);
    case 'repeat':
      return times(
        node.loop!.nodes.reduce((sum, n) => plus(sum, costOfNode(n)), NOTHING),
        node.loop!.count,
      );
    default:
      return { ...NOTHING, arithmetic: OPERATIONS[node.op].cost };
  }
}

/** How often each scalar node changes. */
export function scalarRates({ nodes }: ScalarProgram): Map<ScalarNode, Rate> {
  const rates = new Map<ScalarNode, Rate>();
  for (const node of nodes) {
    const own = node.op === 'leaf' ? LEAVES[node.leaf!].rate : 'once';
    rates.set(
      node,
      node.args.reduce<Rate>((rate, a) => costlier(rate, rates.get(a)!), own),
    );
  }
  return rates;
}

/**
 * Looks at the picture behind that a graph makes; numbers given at a point cost none, so they are counted there.
 * @param seen what has been walked before, and is passed by
 */
export function readsOf(roots: Iterable<Node>, seen = new Set<Node>()): Node[] {
  return reach(roots, (node) => node.args, seen).filter((node) => node.op === 'behind');
}
