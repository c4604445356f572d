/** The reference evaluator: one sample at a time, straight from the table of scalar semantics. Slow, and the judge. */
import { lookAtKeys } from '../base/keys.js';
import { GREY, lookUp, type Picture } from '../base/picture.js';
import { SCALAR, type ScalarOp } from '../base/scalar.js';
import { restOf, type Leaf } from '../ir/leaves.js';
import type { ScalarKernel, ScalarLoop, ScalarNode, ScalarProgram } from '../passes/scalarise.js';

export interface Sample {
  /** The live numbers, in the order of the program's parameters. */
  readonly params: ArrayLike<number>;
  /** Components of each leaf that the program reads. */
  readonly leaves: Partial<Record<Leaf, readonly number[]>>;
  /** Images by their `pictureKey`; grey stands for those that are missing. */
  readonly pictures?: ReadonlyMap<string, Picture>;
}

type Results = Map<ScalarNode, readonly number[]>;

function run(nodes: readonly ScalarNode[], args: readonly number[], sample: Sample | undefined): Results {
  const results: Results = new Map();
  const value = (node: ScalarNode) => results.get(node)![0]!;
  for (const node of nodes) {
    switch (node.op) {
      case 'const':
        results.set(node, [node.value!]);
        break;
      case 'param':
        results.set(node, [Math.fround(sample!.params[node.index!]!)]);
        break;
      case 'leaf': {
        const components = sample!.leaves[node.leaf!] ?? (node.leaf === 'timeRest' ? restOf(sample!.leaves.time) : undefined);
        if (!components) throw new Error(`the sample has no ${node.leaf!}`);
        results.set(node, [Math.fround(components[node.lane!]!)]);
        break;
      }
      case 'arg':
        results.set(node, [args[node.index!]!]);
        break;
      case 'call':
        results.set(node, callKernel(node.kernel!, node.args.map(value)));
        break;
      case 'sample': {
        const { asset, wrap, filter } = node.image!;
        const out = [0, 0, 0, 0];
        const [u, v, level] = node.args.map(value) as [number, number, number];
        lookUp(sample?.pictures?.get(asset) ?? GREY, u, v, level, wrap, filter, out);
        results.set(node, out);
        break;
      }
      case 'keys': {
        const out: number[] = [];
        lookAtKeys(Float32Array.from(sample!.params), node.table!, value(node.args[0]!), out);
        results.set(node, out);
        break;
      }
      case 'repeat':
        results.set(node, repeat(node.loop!, node.args.map(value)));
        break;
      case 'result':
        results.set(node, [results.get(node.args[0]!)![node.index!]!]);
        break;
      default: {
        const [a, b, c] = node.args;
        const apply = SCALAR[node.op satisfies ScalarOp].apply;
        results.set(node, [apply(value(a!), b ? value(b) : 0, c ? value(c) : 0)]);
      }
    }
  }
  return results;
}

function callKernel(kernel: ScalarKernel, args: readonly number[]): number[] {
  const results = run(kernel.nodes, args, undefined);
  return kernel.results.map((r) => results.get(r)![0]!);
}

function repeat(loop: ScalarLoop, args: readonly number[]): number[] {
  const width = loop.state.length;
  let state = args.slice(0, width);
  const outer = args.slice(width);
  for (let i = 0; i < loop.count; i++) {
    const results = run(loop.nodes, [...state, i, ...outer], undefined);
    state = loop.next.map((n) => results.get(n)![0]!);
  }
  return state;
}

/** The components of each root, for one sample. */
export function evaluate(program: ScalarProgram, sample: Sample): number[][] {
  const results = run(program.nodes, [], sample);
  return program.roots.map((root) => root.map((node) => results.get(node)![0]!));
}
