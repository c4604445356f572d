/** Builds IR. Equal nodes are shared and constants folded as they are made, so no later pass has to rebuild. */
import type { KeyTable } from '../base/keys.js';
import { SCALAR, isScalarOp, type ScalarOp } from '../base/scalar.js';
import { evaluateComposite } from './composite.js';
import { LEAVES, type Leaf } from './leaves.js';
import {
  baseOf,
  resultTypes,
  typeOf,
  widthOf,
  type CompositeOp,
  type Grown,
  type ImageSlot,
  type Kernel,
  type Loop,
  type Node,
  type Op,
  type Type,
} from './types.js';

export type Value = Node | number;
type Extra = Partial<Pick<Node, 'values' | 'index' | 'leaf' | 'lanes' | 'kernel' | 'loop' | 'image' | 'table'>>;

/** What operations on values that grow with time become (ir/growth.ts); null for what they are anyway. */
export interface Growing {
  op(name: ScalarOp, args: readonly Node[]): Node | null;
  fract(value: Node): Node | null;
  call(kernel: Kernel, args: readonly Node[]): Node | null;
  sample(image: ImageSlot, uv: Node, level: Node): Node | null;
  grown(node: Node): Grown | null;
}

function sameNodes(a: readonly Node[], b: readonly Node[]): boolean {
  if (a.length !== b.length) return false;
  for (let k = 0; k < a.length; k++) if (a[k] !== b[k]) return false;
  return true;
}

/** A component of a constant; 0 for an argument that an operation does not have. */
function laneOf(node: Node | undefined, lane: number): number {
  const values = node?.values;
  return values ? values[values.length === 1 ? 0 : lane]! : 0;
}

function isAll(node: Node | undefined, value: number): boolean {
  if (node?.op !== 'const') return false;
  for (const v of node.values!) if (v !== value) return false;
  return true;
}

export class Builder {
  /** Nodes by what they are made of: chains of those that share a number. */
  private readonly shared = new Map<number, Node[]>();
  /** What tells a node apart besides its operation and arguments, by its id. */
  private readonly keys: string[] = [];
  readonly nodes: Node[] = [];
  private readonly growing: Growing | null;

  /** @param growing for effects that run on: what keeps their growth exact */
  constructor(growing?: (b: Builder) => Growing) {
    this.growing = growing?.(this) ?? null;
  }

  /** How a value runs on with time; null for one that does not, or has no need to tell. */
  grown(node: Node): Grown | null {
    return this.growing?.grown(node) ?? null;
  }

  private make(op: Op, type: Type, args: readonly Node[], extra: Extra | null = null, key = ''): Node {
    let hash = op.length * 131 + op.charCodeAt(0) * 7 + op.charCodeAt(op.length - 1) + type.charCodeAt(1);
    for (let k = 0; k < args.length; k++) hash = (Math.imul(hash, 31) + args[k]!.id) | 0;
    for (let k = 0; k < key.length; k++) hash = (Math.imul(hash, 33) ^ key.charCodeAt(k)) | 0;
    const chain = this.shared.get(hash);
    if (chain)
      for (const node of chain)
        if (node.op === op && node.type === type && this.keys[node.id] === key && sameNodes(node.args, args)) return node;
    const id = this.nodes.length;
    const node: Node = extra ? { id, op, type, args, ...extra } : { id, op, type, args };
    this.nodes.push(node);
    this.keys.push(key);
    if (chain) chain.push(node);
    else this.shared.set(hash, [node]);
    return node;
  }

  /** Equal for two programs that differ in nothing but their live numbers. */
  signature(): string {
    return this.nodes.map((n) => `${n.op}|${n.type}|${this.keys[n.id]!}|${n.args.map((a) => a.id).join()}`).join(';');
  }

  constant(...values: number[]): Node {
    const rounded = values.map((v) => Math.fround(v));
    const key = rounded.map((v) => (Object.is(v, -0) ? '-0' : String(v))).join(' ');
    return this.make('const', typeOf('f', values.length), [], { values: rounded }, key);
  }

  integer(...values: number[]): Node {
    const whole = values.map((v) => v | 0);
    return this.make('const', typeOf('i', values.length), [], { values: whole }, whole.join(' '));
  }

  truth(value: boolean): Node {
    return this.make('const', 'b1', [], { values: [value ? 1 : 0] }, String(value));
  }

  param(index: number, width: number): Node {
    return this.make('param', typeOf('f', width), [], { index }, String(index));
  }

  leaf(name: Leaf): Node {
    return this.make('leaf', LEAVES[name].type, [], { leaf: name }, name);
  }

  /**
   * The scene-linear colour of the opaque scene behind this point, looked up beside it. Without a picture (on the CPU)
   * it is the colour right behind.
   * @param offset in screen units, 0..1 over the picture; @param blur 0 sharp, 1 very soft
   */
  behind(offset: Node, blur: Node): Node {
    return this.make('behind', 'f3', [offset, blur, this.leaf('behind')]);
  }

  /** @param level 0 the finest, 1 half of it @returns four numbers in linear light */
  sample(image: ImageSlot, uv: Node, level: Value): Node {
    const [at] = this.lift([level]) as [Node];
    const far = this.growing?.sample(image, uv, at);
    if (far) return far;
    return this.make('sample', 'f4', [uv, at], { image }, `${image.asset} ${image.wrap} ${image.filter}`);
  }

  arg(index: number, type: Type): Node {
    return this.make('arg', type, [], { index }, String(index));
  }

  /** Numbers stand for float constants; a one-component value widens to its partner's width. */
  private lift(values: readonly Value[]): Node[] {
    return values.map((v) => (typeof v === 'number' ? this.constant(v) : v));
  }

  /** Repeats a one-component value. */
  widen(value: Value, width: number): Node {
    const [node] = this.lift([value]) as [Node];
    if (widthOf(node.type) === width) return node;
    if (widthOf(node.type) !== 1) throw new Error(`cannot widen ${node.type} to ${width}`);
    if (node.op === 'const') return this.fromComponents(baseOf(node.type), Array<number>(width).fill(node.values![0]!));
    return this.make('join', typeOf(baseOf(node.type), width), Array<Node>(width).fill(node));
  }

  private fromComponents(base: string, values: number[]): Node {
    if (base === 'f') return this.constant(...values);
    if (base === 'i') return this.integer(...values);
    if (values.length === 1) return this.truth(values[0] === 1);
    return this.make('const', typeOf('b', values.length), [], { values }, values.join(' '));
  }

  /** One of the table's scalar operations, component by component. */
  op(name: ScalarOp, ...values: Value[]): Node {
    // Written plainly: this is called for every operation of every sheet, on every edit.
    const rule = SCALAR[name];
    const args = values as Node[];
    let width = 1;
    let known = true;
    for (let i = 0; i < args.length; i++) {
      const value: Value = values[i]!;
      const arg = typeof value === 'number' ? this.constant(value) : value;
      args[i] = arg;
      const w = widthOf(arg.type);
      if (w !== 1) {
        if (width !== 1 && w !== width) throw new Error(`${name}: widths ${w} and ${width} do not go together`);
        width = w;
      }
      if (name !== 'select' && baseOf(arg.type) !== rule.args[i]) throw new Error(`${name}: ${arg.type} is not ${rule.args[i]}`);
      if (arg.op !== 'const') known = false;
    }
    const result = name === 'select' ? baseOf(args[1]!.type) : rule.result;
    if (known) {
      const lanes: number[] = [];
      for (let k = 0; k < width; k++) lanes.push(rule.apply(laneOf(args[0], k), laneOf(args[1], k), laneOf(args[2], k)));
      return this.fromComponents(result, lanes);
    }
    return this.simplify(name, args, width) ?? this.growing?.op(name, args) ?? this.make(name, typeOf(result, width), args);
  }

  /** Identities that hold for every float, NaN and infinity included (the sign of a zero may change). */
  private simplify(name: ScalarOp, args: Node[], width: number): Node | undefined {
    const [a, b, c] = args as [Node, Node, Node];
    switch (name) {
      case 'add':
        if (isAll(b, 0)) return this.widen(a, width);
        if (isAll(a, 0)) return this.widen(b, width);
        break;
      case 'sub':
        if (isAll(b, 0)) return this.widen(a, width);
        break;
      case 'mul':
        if (isAll(b, 1)) return this.widen(a, width);
        if (isAll(a, 1)) return this.widen(b, width);
        break;
      case 'div':
        if (isAll(b, 1)) return this.widen(a, width);
        break;
      case 'iadd':
      case 'ixor':
        if (isAll(b, 0)) return this.widen(a, width);
        break;
      case 'select':
        if (a.op === 'const' && widthOf(a.type) === 1) return this.widen(a.values![0] ? b : c, width);
        if (b === c) return this.widen(b, width);
        break;
    }
    return undefined;
  }

  /** A composite operation; folds when everything is known. */
  composite(name: CompositeOp, ...values: Value[]): Node {
    const args = this.lift(values);
    const widest = Math.max(...args.map((a) => widthOf(a.type)));
    const type: Type = name === 'dot' || name === 'length' ? 'f1' : typeOf('f', widest);
    if (args.every((a) => a.op === 'const')) {
      const wide = args.map((a) => this.widen(a, widest).values!);
      return this.constant(...evaluateComposite(name, wide));
    }
    const far = name === 'fract' ? this.growing?.fract(args[0]!) : null;
    if (far) return far;
    return this.make(name, type, args);
  }

  join(...values: Value[]): Node {
    const parts = this.lift(values);
    if (parts.length === 1) return parts[0]!;
    const base = baseOf(parts[0]!.type);
    if (parts.every((p) => p.op === 'const'))
      return this.fromComponents(
        base,
        parts.flatMap((p) => [...p.values!]),
      );
    // All of one vector, in order, is that vector.
    const whole = parts[0]!.args[0];
    if (
      whole &&
      widthOf(whole.type) === parts.length &&
      parts.every((p, k) => p.op === 'pick' && p.args[0] === whole && p.lanes!.length === 1 && p.lanes![0] === k)
    )
      return whole;
    const width = parts.reduce((sum, p) => sum + widthOf(p.type), 0);
    return this.make('join', typeOf(base, width), parts);
  }

  pick(value: Node, ...lanes: number[]): Node {
    const width = widthOf(value.type);
    if (lanes.some((l) => l >= width)) throw new Error(`component ${lanes.join()} of ${value.type}`);
    if (lanes.length === width && lanes.every((l, k) => l === k)) return value;
    if (value.op === 'const')
      return this.fromComponents(
        baseOf(value.type),
        lanes.map((l) => value.values![l]!),
      );
    if (value.op === 'pick') return this.pick(value.args[0]!, ...lanes.map((l) => value.lanes![l]!));
    if (value.op === 'join' && value.args.length === width) return this.join(...lanes.map((l) => value.args[l]!));
    return this.make('pick', typeOf(baseOf(value.type), lanes.length), [value], { lanes }, lanes.join(''));
  }

  /** Components one by one. */
  split(value: Node): Node[] {
    return Array.from({ length: widthOf(value.type) }, (_, k) => this.pick(value, k));
  }

  call(kernel: Kernel, ...values: Value[]): Node {
    const args = this.lift(values);
    kernel.params.forEach((p, k) => {
      if (args[k]?.type !== p.type) throw new Error(`${kernel.name}: ${p.name} is ${args[k]?.type}, not ${p.type}`);
    });
    const far = this.growing?.call(kernel, args);
    if (far) return far;
    return this.make('call', kernel.result, args, { kernel }, kernel.name);
  }

  /**
   * A loop. `body` gets the state, the counter (a float) and the outer values, all as nodes of the body's own
   * builder, and returns the next state.
   */
  repeat(
    count: number,
    initial: readonly Node[],
    outer: readonly Node[],
    body: (b: Builder, state: Node[], counter: Node, outer: Node[]) => Node[],
  ): Node[] {
    if (count < 1 || count > 32) throw new Error('a loop runs 1 to 32 times');
    const inner = new Builder();
    const state = initial.map((n, k) => inner.arg(k, n.type));
    const counter = inner.arg(initial.length, 'f1');
    const seen = outer.map((n, k) => inner.arg(initial.length + 1 + k, n.type));
    const next = body(inner, state, counter, seen);
    const ends = next.map((n) => n.id).join();
    const content = `${count} ${initial.length} ${ends} ${inner.signature()}`;
    const loop: Loop = { count, state: initial.map((n) => n.type), next, outer: outer.map((n) => n.type), content };
    const node = this.make('repeat', initial[0]!.type, [...initial, ...outer], { loop }, content);
    return this.results(node);
  }

  private results(node: Node): Node[] {
    return resultTypes(node).map((type, index) => this.make('result', type, [node], { index }, String(index)));
  }

  /** @returns around a time: when the segment begins and ends, its kind of easing, its handles, and its two values */
  keysAround(time: Node, table: KeyTable): Node[] {
    return this.results(this.lookAtKeys(time, table));
  }

  private lookAtKeys(time: Node, table: KeyTable): Node {
    return this.make('keys', 'f1', [time], { table }, `${table.at} ${table.count} ${table.width}`);
  }

  /** The same operation over other arguments of the same types; nodes without arguments stay what they are. */
  again(node: Node, args: readonly Node[]): Node {
    if (isScalarOp(node.op)) return this.op(node.op, ...args);
    switch (node.op) {
      case 'const':
        return this.fromComponents(baseOf(node.type), [...node.values!]);
      case 'param':
        return this.param(node.index!, widthOf(node.type));
      case 'leaf':
        return this.leaf(node.leaf!);
      case 'join':
        return this.join(...args);
      case 'pick':
        return this.pick(args[0]!, ...node.lanes!);
      case 'call':
        return this.call(node.kernel!, ...args);
      case 'behind':
        return this.behind(args[0]!, args[1]!);
      case 'sample':
        return this.sample(node.image!, args[0]!, args[1]!);
      case 'repeat':
        return this.make('repeat', args[0]!.type, args, { loop: node.loop! }, node.loop!.content);
      case 'keys':
        return this.lookAtKeys(args[0]!, node.table!);
      case 'result':
        return this.make('result', node.type, args, { index: node.index! }, String(node.index));
      case 'arg':
        throw new Error('an argument has to be given');
      default:
        return this.composite(node.op, ...args);
    }
  }

  /** Scalar operations under their everyday names. */
  add = (a: Value, b: Value) => this.op('add', a, b);
  sub = (a: Value, b: Value) => this.op('sub', a, b);
  mul = (a: Value, b: Value) => this.op('mul', a, b);
  div = (a: Value, b: Value) => this.op('div', a, b);
}

export { isScalarOp };

/** A kernel's name is its identity: programs are told apart by it, so no two kernels may share one. */
const defined = new Set<string>();

/** Declares a kernel; its body is built once, on first use. @throws when its name is another's */
export function defineKernel(record: Omit<Kernel, 'body'> & { build: (b: Builder, ...args: Node[]) => Node }): Kernel {
  if (defined.has(record.name)) throw new Error(`two kernels are named ${record.name}`);
  defined.add(record.name);
  let built: Node | undefined;
  const { build, ...rest } = record;
  return {
    ...rest,
    body: () => {
      if (!built) {
        const b = new Builder();
        built = build(b, ...record.params.map((p, k) => b.arg(k, p.type)));
        if (built.type !== record.result) throw new Error(`${record.name} gives ${built.type}, not ${record.result}`);
      }
      return built;
    },
  };
}
