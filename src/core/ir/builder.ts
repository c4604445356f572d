/** Builds IR. Equal nodes are shared and constants folded as they are made, so no later pass has to rebuild. */
import type { KeyTable } from '../base/keys.js';
import { SCALAR, isScalarOp, type ScalarOp } from '../base/scalar.js';
import { Digest } from '../base/digest.js';
import { evaluateComposite } from './composite.js';
import { LEAVES, type Leaf } from './leaves.js';
import { Made, allKnown, extraHash, isAll, laneOf, same, sameExtra, type Extra } from './made.js';
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
const NO_ARGS: readonly Node[] = [];
/** What operations on values that grow with time become (ir/growth.ts); null for what they are anyway. */
export interface Growing {
  op(name: ScalarOp, args: readonly Node[]): Node | null;
  fract(value: Node): Node | null;
  call(kernel: Kernel, args: readonly Node[]): Node | null;
  sample(image: ImageSlot, uv: Node, level: Node): Node | null;
  grown(node: Node): Grown | null;
}

export class Builder {
  /** Ids of nodes and 1, by their hash: what is not 0 is taken. Half of it at most is. */
  private table = new Int32Array(64);
  private readonly hashes: number[] = [];
  /** What the nodes that come first are told by, as far as it has been worked out. */
  private digest = new Digest();
  private digested = 0;
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

  private make(op: Op, type: Type, args: readonly Node[], extra: Extra | null = null): Node {
    let hash = op.length * 131 + op.charCodeAt(0) * 7 + op.charCodeAt(op.length - 1) + type.charCodeAt(1);
    for (let k = 0; k < args.length; k++) hash = (Math.imul(hash, 31) + args[k]!.id) | 0;
    if (extra) hash = Math.imul(hash ^ extraHash(extra), 0x9e3779b1);
    hash ^= hash >>> 15;
    const mask = this.table.length - 1;
    let at = hash & mask;
    for (; this.table[at] !== 0; at = (at + 1) & mask) {
      const id = this.table[at]! - 1;
      if (this.hashes[id] !== hash) continue;
      const node = this.nodes[id]!;
      if (node.op === op && node.type === type && same(node.args, args) && (!extra || sameExtra(node, extra))) return node;
    }
    const node = new Made(this.nodes.length, op, type, args, extra);
    this.nodes.push(node);
    this.hashes.push(hash);
    this.table[at] = node.id + 1;
    if (this.nodes.length * 2 > this.table.length) this.grow();
    return node;
  }

  private grow(): void {
    this.table = new Int32Array(this.table.length * 4);
    const mask = this.table.length - 1;
    for (let id = 0; id < this.hashes.length; id++) {
      let at = this.hashes[id]! & mask;
      while (this.table[at] !== 0) at = (at + 1) & mask;
      this.table[at] = id + 1;
    }
  }

  /**
   * Equal for two programs that differ in nothing but their live numbers.
   * @param count of the nodes, those that were made first
   */
  signature(count = this.nodes.length): string {
    if (count < this.digested) [this.digest, this.digested] = [new Digest(), 0];
    const { digest } = this;
    for (; this.digested < count; this.digested++) {
      const id = this.digested;
      const { op, type, args, values, index, leaf, lanes, kernel, loop, image, table } = this.nodes[id]!;
      digest.text(op);
      digest.text(type);
      digest.number(args.length);
      for (let k = 0; k < args.length; k++) digest.number(args[k]!.id);
      if (values) digest.numbers(values);
      else if (index !== undefined) digest.number(index);
      else if (lanes) digest.numbers(lanes);
      else if (table) digest.numbers([table.at, table.count, table.width]);
      else if (image) digest.text(`${image.asset} ${image.wrap} ${image.filter}`);
      else if (leaf ?? kernel ?? loop) digest.text(leaf ?? kernel?.name ?? loop!.content);
    }
    return `${count}-${digest.hex()}`;
  }

  constant(...values: number[]): Node {
    for (let k = 0; k < values.length; k++) values[k] = Math.fround(values[k]!);
    return this.make('const', typeOf('f', values.length), NO_ARGS, { values });
  }

  integer(...values: number[]): Node {
    for (let k = 0; k < values.length; k++) values[k]! |= 0;
    return this.make('const', typeOf('i', values.length), NO_ARGS, { values });
  }

  truth(value: boolean): Node {
    return this.make('const', 'b1', NO_ARGS, { values: [value ? 1 : 0] });
  }

  param(index: number, width: number): Node {
    return this.make('param', typeOf('f', width), NO_ARGS, { index });
  }

  leaf(name: Leaf): Node {
    return this.make('leaf', LEAVES[name].type, NO_ARGS, { leaf: name });
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
    return this.make('sample', 'f4', [uv, at], { image });
  }

  arg(index: number, type: Type): Node {
    return this.make('arg', type, NO_ARGS, { index });
  }

  /** Numbers stand for float constants, in the list itself: it is whoever called's no more. */
  private lift(values: Value[]): Node[] {
    const nodes = values as Node[];
    for (let k = 0; k < values.length; k++) {
      const value = values[k]!;
      if (typeof value === 'number') nodes[k] = this.constant(value);
    }
    return nodes;
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
    return this.make('const', typeOf('b', values.length), NO_ARGS, { values });
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
    const a = args[0]!;
    const b = args[1]!;
    const c = args[2]!;
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
    let widest = 1;
    for (let k = 0; k < args.length; k++) widest = Math.max(widest, widthOf(args[k]!.type));
    const type: Type = name === 'dot' || name === 'length' ? 'f1' : typeOf('f', widest);
    if (allKnown(args)) {
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
    if (allKnown(parts))
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
    let width = 0;
    for (let k = 0; k < parts.length; k++) width += widthOf(parts[k]!.type);
    return this.make('join', typeOf(base, width), parts);
  }

  pick(value: Node, ...lanes: number[]): Node {
    const width = widthOf(value.type);
    let all = lanes.length === width;
    for (let k = 0; k < lanes.length; k++) {
      if (lanes[k]! >= width) throw new Error(`component ${lanes.join()} of ${value.type}`);
      all &&= lanes[k] === k;
    }
    if (all) return value;
    // One number several times, `.xxx`, is a number widened: shader languages have no parts of one.
    if (width === 1) return this.widen(value, lanes.length);
    if (value.op === 'const')
      return this.fromComponents(
        baseOf(value.type),
        lanes.map((l) => value.values![l]!),
      );
    if (value.op === 'pick') return this.pick(value.args[0]!, ...lanes.map((l) => value.lanes![l]!));
    if (value.op === 'join' && value.args.length === width) return this.join(...lanes.map((l) => value.args[l]!));
    return this.make('pick', typeOf(baseOf(value.type), lanes.length), [value], { lanes });
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
    return this.make('call', kernel.result, args, { kernel });
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
    const node = this.make('repeat', initial[0]!.type, [...initial, ...outer], { loop });
    return this.results(node);
  }

  private results(node: Node): Node[] {
    return resultTypes(node).map((type, index) => this.make('result', type, [node], { index }));
  }

  /** @returns around a time: when the segment begins and ends, its kind of easing, its handles, and its two values */
  keysAround(time: Node, table: KeyTable): Node[] {
    return this.results(this.lookAtKeys(time, table));
  }

  private lookAtKeys(time: Node, table: KeyTable): Node {
    return this.make('keys', 'f1', [time], { table });
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
        return this.make('repeat', args[0]!.type, args, { loop: node.loop! });
      case 'keys':
        return this.lookAtKeys(args[0]!, node.table!);
      case 'result':
        return this.make('result', node.type, args, { index: node.index! });
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
