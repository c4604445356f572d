/**
 * From vectors to single numbers: the form that the WebAssembly target, the reference evaluator, the ranges and the
 * costs read. Composite operations are expanded, small kernels pasted in, everything folded and shared again.
 */
import type { KeyTable } from '../base/keys.js';
import { reach } from '../base/reach.js';
import { SCALAR, type Base, type ScalarOp } from '../base/scalar.js';
import { expandComposite, type Algebra } from '../ir/composite.js';
import { isScalarOp } from '../ir/builder.js';
import type { Leaf } from '../ir/leaves.js';
import { baseOf, resultTypes, widthOf, type ImageSlot, type Kernel, type Node } from '../ir/types.js';

export interface ScalarNode {
  readonly id: number;
  readonly op: ScalarOp | 'const' | 'param' | 'leaf' | 'arg' | 'call' | 'repeat' | 'sample' | 'keys' | 'result';
  readonly base: Base;
  readonly args: readonly ScalarNode[];
  /** const */
  readonly value?: number;
  /** param: its place among the live numbers; arg and result: which one. */
  readonly index?: number;
  /** leaf: name and component */
  readonly leaf?: Leaf;
  readonly lane?: number;
  readonly kernel?: ScalarKernel;
  readonly loop?: ScalarLoop;
  /** sample: four results of u, v and level */
  readonly image?: ImageSlot;
  /** keys: `lookOf(table)` results of a time */
  readonly table?: KeyTable;
}

export interface ScalarKernel {
  readonly name: string;
  readonly source: Kernel;
  readonly params: readonly Base[];
  /** In order of evaluation; every argument of a node stands before it. */
  readonly nodes: readonly ScalarNode[];
  readonly results: readonly ScalarNode[];
}

export interface ScalarLoop {
  readonly count: number;
  readonly state: readonly Base[];
  readonly nodes: readonly ScalarNode[];
  readonly next: readonly ScalarNode[];
}

export interface ScalarProgram {
  readonly nodes: readonly ScalarNode[];
  /** For each root that was asked for, its components. */
  readonly roots: readonly (readonly ScalarNode[])[];
}

/** Kernels of at most this many operations, without calls or loops, are pasted into their callers. */
const PASTE_LIMIT = 64;

const kernels = new WeakMap<Kernel, ScalarKernel>();

class Scalariser implements Algebra<ScalarNode> {
  private readonly shared = new Map<string, ScalarNode>();
  private readonly done = new Map<Node, readonly ScalarNode[]>();
  private readonly kernelNumbers = new Map<ScalarKernel, number>();
  private count = 0;

  /** @param paste whether small kernels are pasted; the ranges want them whole, for each has a proved range */
  constructor(private readonly paste: boolean) {}

  private make(fields: Omit<ScalarNode, 'id'>, key: string): ScalarNode {
    let name = `${fields.op}${fields.base}|${key}`;
    for (const arg of fields.args) name += `,${arg.id}`;
    const found = this.shared.get(name);
    if (found) return found;
    const node: ScalarNode = { id: this.count++, ...fields };
    this.shared.set(name, node);
    return node;
  }

  constant(base: Base, value: number): ScalarNode {
    return this.make({ op: 'const', base, args: [], value }, Object.is(value, -0) ? '-0' : String(value));
  }

  number(value: number): ScalarNode {
    return this.constant('f', Math.fround(value));
  }

  op(name: ScalarOp, ...args: ScalarNode[]): ScalarNode {
    const result = name === 'select' ? args[1]!.base : SCALAR[name].result;
    if (args.every((a) => a.op === 'const'))
      return this.constant(result, SCALAR[name].apply(args[0]!.value!, args[1]?.value ?? 0, args[2]?.value ?? 0));
    const is = (node: ScalarNode | undefined, value: number) => node?.op === 'const' && node.value === value;
    const [a, b] = args;
    if (name === 'add' && is(b, 0)) return a!;
    if (name === 'add' && is(a, 0)) return b!;
    if (name === 'sub' && is(b, 0)) return a!;
    if ((name === 'mul' || name === 'div') && is(b, 1)) return a!;
    if (name === 'mul' && is(a, 1)) return b!;
    if ((name === 'iadd' || name === 'ixor') && is(b, 0)) return a!;
    if (name === 'select' && a!.op === 'const') return a!.value ? b! : args[2]!;
    // Whole numbers wrap around, so sums gather and products spread without loss: neighbouring cells share their product.
    if (a!.op === 'iadd' && a!.args[1]!.op === 'const' && b?.op === 'const') {
      const [inner, shift] = a!.args as [ScalarNode, ScalarNode];
      if (name === 'iadd') return this.op('iadd', inner, this.constant('i', (shift.value! + b.value!) | 0));
      if (name === 'imul')
        return this.op('iadd', this.op('imul', inner, b), this.constant('i', Math.imul(shift.value!, b.value!)));
    }
    return this.make({ op: name, base: result, args }, '');
  }

  arg(index: number, base: Base): ScalarNode {
    return this.make({ op: 'arg', base, args: [], index }, String(index));
  }

  /** The components of one vector node. Sources are walked iteratively, so that long sheets cannot exhaust the stack. */
  components(root: Node, args?: readonly (readonly ScalarNode[])[]): readonly ScalarNode[] {
    const pending: Node[] = [root];
    while (pending.length > 0) {
      const node = pending[pending.length - 1]!;
      if (this.done.has(node)) {
        pending.pop();
        continue;
      }
      const missing = node.args.filter((a) => !this.done.has(a));
      if (missing.length > 0) pending.push(...missing);
      else {
        pending.pop();
        this.done.set(node, this.expand(node, args));
      }
    }
    return this.done.get(root)!;
  }

  private expand(node: Node, args?: readonly (readonly ScalarNode[])[]): readonly ScalarNode[] {
    const width = widthOf(node.type);
    const base = baseOf(node.type);
    const sources = node.args.map((a) => this.done.get(a)!);
    const lanes = Array.from({ length: width }, (_, k) => k);
    if (isScalarOp(node.op)) {
      const name = node.op;
      return lanes.map((k) => this.op(name, ...sources.map((s) => s[s.length === 1 ? 0 : k]!)));
    }
    switch (node.op) {
      case 'const':
        return node.values!.map((v) => this.constant(base, v));
      case 'param':
        return lanes.map((k) => this.make({ op: 'param', base, args: [], index: node.index! + k }, String(node.index! + k)));
      case 'leaf':
        return lanes.map((lane) => this.make({ op: 'leaf', base, args: [], leaf: node.leaf!, lane }, `${node.leaf!}.${lane}`));
      case 'arg':
        if (!args) throw new Error('an argument outside a kernel');
        return args[node.index!]!;
      case 'join':
        return sources.flat();
      case 'pick':
        return node.lanes!.map((l) => sources[0]![l]!);
      case 'call':
        return this.call(node.kernel!, sources);
      case 'behind':
        return sources[2]!;
      case 'sample': {
        const { asset, wrap, filter } = node.image!;
        const fields = { op: 'sample', base: 'f', args: sources.flat(), image: node.image! } as const;
        const whole = this.make(fields, `${asset} ${wrap} ${filter}`);
        return lanes.map((index) => this.make({ op: 'result', base: 'f', args: [whole], index }, String(index)));
      }
      case 'keys': {
        const { at, count, width: numbers } = node.table!;
        const fields = { op: 'keys', base: 'f', args: sources.flat(), table: node.table! } as const;
        return [this.make(fields, `${at} ${count} ${numbers}`)];
      }
      case 'repeat':
        return this.repeat(node, sources);
      case 'result': {
        const start = resultTypes(node.args[0]!)
          .slice(0, node.index)
          .reduce((sum, t) => sum + widthOf(t), 0);
        const [whole] = this.done.get(node.args[0]!)!;
        return lanes.map((k) => this.make({ op: 'result', base, args: [whole!], index: start + k }, String(start + k)));
      }
      default: {
        const wide = Math.max(...sources.map((s) => s.length));
        return expandComposite(
          this,
          node.op,
          sources.map((s) => (s.length === wide ? s : Array<ScalarNode>(wide).fill(s[0]!))),
        );
      }
    }
  }

  private call(kernel: Kernel, sources: readonly (readonly ScalarNode[])[]): readonly ScalarNode[] {
    const scalar = scalariseKernel(kernel);
    const args = sources.flat();
    if (this.paste && isSmall(scalar)) return this.pasteKernel(scalar, args);
    let number = this.kernelNumbers.get(scalar);
    if (number === undefined) this.kernelNumbers.set(scalar, (number = this.kernelNumbers.size));
    const base = scalar.results[0]!.base;
    const whole = this.make({ op: 'call', base, args, kernel: scalar }, String(number));
    if (scalar.results.length === 1) return [whole];
    return scalar.results.map((r, index) => this.make({ op: 'result', base: r.base, args: [whole], index }, String(index)));
  }

  private pasteKernel(kernel: ScalarKernel, args: readonly ScalarNode[]): readonly ScalarNode[] {
    const copies = new Map<ScalarNode, ScalarNode>();
    for (const node of kernel.nodes) {
      if (node.op === 'arg') copies.set(node, args[node.index!]!);
      else if (node.op === 'const') copies.set(node, this.constant(node.base, node.value!));
      else copies.set(node, this.op(node.op as ScalarOp, ...node.args.map((a) => copies.get(a)!)));
    }
    return kernel.results.map((r) => copies.get(r)!);
  }

  private repeat(node: Node, sources: readonly (readonly ScalarNode[])[]): readonly ScalarNode[] {
    const { count, state, next, outer } = node.loop!;
    const inner = new Scalariser(this.paste);
    let index = 0;
    const argsOf = (types: readonly (typeof state)[number][]) =>
      types.map((t) => Array.from({ length: widthOf(t) }, () => inner.arg(index++, baseOf(t))));
    const args = [...argsOf(state), ...argsOf(['f1']), ...argsOf(outer)];
    const results = next.flatMap((n) => inner.components(n, args));
    const loop: ScalarLoop = {
      count,
      state: state.flatMap((t) => Array<Base>(widthOf(t)).fill(baseOf(t))),
      next: results,
      nodes: ordered(results),
    };
    return [this.make({ op: 'repeat', base: loop.state[0]!, args: sources.flat(), loop }, `#${node.id}`)];
  }
}

const isSmall = (kernel: ScalarKernel) =>
  kernel.nodes.length <= PASTE_LIMIT && kernel.nodes.every((n) => n.op !== 'call' && n.op !== 'repeat');

/** Everything the roots need, each node after its arguments. */
export function ordered(roots: Iterable<ScalarNode>): ScalarNode[] {
  // Arguments are always made before their readers.
  return reach(roots, (node) => node.args).sort((a, b) => a.id - b.id);
}

export function scalariseKernel(kernel: Kernel): ScalarKernel {
  const found = kernels.get(kernel);
  if (found) return found;
  const scalariser = new Scalariser(true);
  let index = 0;
  const args = kernel.params.map((p) => Array.from({ length: widthOf(p.type) }, () => scalariser.arg(index++, baseOf(p.type))));
  const results = scalariser.components(kernel.body(), args);
  const made: ScalarKernel = {
    name: kernel.name,
    source: kernel,
    params: args.flat().map((a) => a.base),
    results,
    nodes: ordered(results),
  };
  kernels.set(kernel, made);
  return made;
}

export function scalarise(roots: readonly Node[], { paste = true }: { paste?: boolean } = {}): ScalarProgram {
  const scalariser = new Scalariser(paste);
  const components = roots.map((root) => scalariser.components(root));
  return { roots: components, nodes: ordered(components.flat()) };
}
