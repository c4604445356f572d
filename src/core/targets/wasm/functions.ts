/** Scalar operations as the body of a WebAssembly function, four samples at a time. */
import { lookOf } from '../../base/keys.js';
import type { ScalarOp } from '../../base/scalar.js';
import type { ScalarKernel, ScalarNode } from '../../passes/scalarise.js';
import {
  Bytes,
  ConstantPool,
  DIRECT,
  isDirect,
  type Direct,
  I32,
  LOCAL_GET,
  LOCAL_SET,
  LOCAL_TEE,
  SIMD,
  V128,
  lanes,
} from './encoding.js';

/** Numbers that a look at an image or at keys asks with, at most. */
export const ASKED = 3;

/** How deeply an expression may nest before a part of it is kept. */
const DEEPEST = 64;
/** A loop or a call of several results is never a value itself; its `result` nodes are. */
const isSeveral = (node: ScalarNode) =>
  node.op === 'repeat' || node.op === 'sample' || node.op === 'keys' || (node.op === 'call' && node.kernel!.results.length > 1);

/** The import that looks images up, and tables of keys. */
export interface HostCalls {
  /** Byte offset of `ASKED` vectors that go out; after them stand those that come back. */
  readonly at: number;
  readonly numberOf: (node: ScalarNode) => number;
}

/**
 * Emits one function's worth of nodes. Values read more than once live in locals; the rest stay on the stack. A local is
 * free for another value once the last reader has had it: engines take 50,000 of them, and large sheets have more values.
 */
export class FunctionEmitter {
  readonly code = new Bytes();
  private readonly local = new Map<ScalarNode, number>();
  /** Locals whose values have been read for the last time. */
  private readonly free: number[] = [];
  /** Values that outlive their readers: what is computed before a loop is read in each of its rounds. */
  private readonly lasting = new Set<ScalarNode>();
  private readonly multi = new Map<ScalarNode, number[]>();
  private readonly uses = new Map<ScalarNode, number>();
  private vectors = 0;
  private counters = 0;

  constructor(
    /** Locals that the function's own parameters take. */
    private readonly parameters: number,
    private readonly kernelIndex: (kernel: ScalarKernel) => number,
    private readonly source: (node: ScalarNode, code: Bytes) => void,
    private readonly constants: ConstantPool,
    private readonly host: HostCalls | null = null,
  ) {}

  count(nodes: readonly ScalarNode[], roots: readonly ScalarNode[]): void {
    for (const node of nodes) for (const arg of node.args) this.uses.set(arg, (this.uses.get(arg) ?? 0) + 1);
    for (const root of roots) this.uses.set(root, (this.uses.get(root) ?? 0) + 1);
  }

  vector(): number {
    return this.free.pop() ?? this.parameters + this.vectors++;
  }

  /** Loop counters come after every vector; their final index is known only at the end. */
  private counterPlaces: { at: number; counter: number }[] = [];

  bind(node: ScalarNode, index: number): void {
    this.local.set(node, index);
  }

  /** Computes a node now and keeps it. @param lasting also after its last reader here */
  keep(node: ScalarNode, lasting = false): void {
    if (lasting) this.lasting.add(node);
    if (this.local.has(node) || isSeveral(node)) return;
    this.compute(node);
    const index = this.vector();
    this.local.set(node, index);
    this.code.add(LOCAL_SET).u32(index);
  }

  push(node: ScalarNode): void {
    const index = this.local.get(node);
    if (index !== undefined) {
      this.code.add(LOCAL_GET).u32(index);
      this.used(node);
      return;
    }
    this.compute(node);
    if ((this.uses.get(node) ?? 0) > 1 && node.op !== 'const') {
      const kept = this.vector();
      this.local.set(node, kept);
      this.code.add(LOCAL_TEE).u32(kept);
    }
    this.used(node);
  }

  /** One of a value's readers has had it. */
  private used(node: ScalarNode): void {
    const left = (this.uses.get(node) ?? 1) - 1;
    this.uses.set(node, left);
    const index = this.local.get(node);
    if (left > 0 || index === undefined || index < this.parameters || this.lasting.has(node)) return;
    this.local.delete(node);
    this.free.push(index);
  }

  /**
   * Values that must exist before their readers: what is read more than once, and every so often what is nested deeply.
   * @param lasting what is read in every round of a loop that follows
   */
  settle(nodes: readonly ScalarNode[], lasting: ReadonlySet<ScalarNode> = new Set()): void {
    const depths = new Map<ScalarNode, number>();
    for (const node of nodes) {
      let depth = 0;
      for (const arg of node.args) depth = Math.max(depth, (depths.get(arg) ?? 0) + 1);
      const deep = depth >= DEEPEST;
      if (lasting.has(node)) this.keep(node, true);
      else if (node.op !== 'const' && (deep || (this.uses.get(node) ?? 0) > 1)) this.keep(node);
      depths.set(node, this.local.has(node) || this.multi.has(node) ? 0 : depth);
    }
  }

  /** Leaves a value on the stack and keeps it, for operations that need it twice: it must not be computed again. */
  private pushToRepeat(node: ScalarNode): () => void {
    if (node.op === 'const') {
      this.compute(node);
      return () => this.compute(node);
    }
    // Read before it may be free, and again before anything else is kept.
    const index = this.local.get(node) ?? null;
    this.push(node);
    const kept = index ?? this.local.get(node) ?? this.vector();
    const own = index === null && !this.local.has(node);
    if (own) this.code.add(LOCAL_TEE).u32(kept);
    return () => {
      this.code.add(LOCAL_GET).u32(kept);
      if (own) this.free.push(kept);
    };
  }

  private compute(node: ScalarNode): void {
    switch (node.op) {
      case 'const':
        this.constants.push(this.code, node.base, node.value!);
        return;
      case 'param':
      case 'leaf':
      case 'arg':
        this.source(node, this.code);
        return;
      case 'call':
        for (const arg of node.args) this.push(arg);
        this.code.add(0x10).u32(this.kernelIndex(node.kernel!));
        return;
      case 'result': {
        const index = this.several(node.args[0]!)[node.index!]!;
        this.code.add(LOCAL_GET).u32(index);
        return;
      }
      case 'repeat':
      case 'sample':
      case 'keys':
        throw new Error('a loop is read through its results');
      default:
        this.operation(node.op, node.args);
    }
  }

  /** The locals that hold the several results of a call or a loop. */
  private several(node: ScalarNode): number[] {
    const found = this.multi.get(node);
    if (found) return found;
    const made =
      node.op === 'repeat'
        ? this.repeat(node)
        : node.op === 'sample'
          ? this.ask(node, 4)
          : node.op === 'keys'
            ? this.ask(node, lookOf(node.table!))
            : this.callSeveral(node);
    this.multi.set(node, made);
    return made;
  }

  /** What is asked goes out through memory, for four samples at a time, and so does the answer come back. */
  private ask(node: ScalarNode, answers: number): number[] {
    const { at, numberOf } = this.host!;
    node.args.forEach((arg, k) => {
      // The argument first: it may look up an image itself.
      this.keep(arg);
      this.code.add(0x41, 0x00);
      this.push(arg);
      this.code
        .simd(SIMD.store)
        .u32(4)
        .u32(at + k * 16);
    });
    this.code.add(0x41).s32(numberOf(node)).add(0x10).u32(0);
    return Array.from({ length: answers }, (_, k) => {
      const index = this.vector();
      this.code
        .add(0x41, 0x00)
        .simd(SIMD.load)
        .u32(4)
        .u32(at + (ASKED + k) * 16)
        .add(LOCAL_SET)
        .u32(index);
      return index;
    });
  }

  private callSeveral(node: ScalarNode): number[] {
    for (const arg of node.args) this.push(arg);
    this.code.add(0x10).u32(this.kernelIndex(node.kernel!));
    const indices = node.kernel!.results.map(() => this.vector());
    for (const index of [...indices].reverse()) this.code.add(LOCAL_SET).u32(index);
    return indices;
  }

  private repeat(node: ScalarNode): number[] {
    const { count, state, nodes, next } = node.loop!;
    const held = node.args.map(() => this.vector());
    node.args.forEach((arg, k) => {
      this.push(arg);
      this.code.add(LOCAL_SET).u32(held[k]!);
    });
    const floatCounter = this.vector();
    this.code
      .simd(SIMD.const)
      .add(...lanes('f', 0))
      .add(LOCAL_SET)
      .u32(floatCounter);
    const counter = this.counters++;
    const counterLocal = (op: number) => {
      this.code.add(op);
      // Five bytes are kept for the index, patched when the number of vectors is known.
      this.counterPlaces.push({ at: this.code.list.length, counter });
      this.code.add(0x80, 0x80, 0x80, 0x80, 0x00);
    };
    this.code.add(0x41).s32(count);
    counterLocal(LOCAL_SET);
    this.code.add(0x03, 0x40); // loop
    const width = state.length;
    for (const inner of nodes)
      if (inner.op === 'arg') {
        const k = inner.index!;
        this.local.set(inner, k < width ? held[k]! : k === width ? floatCounter : held[k - 1]!);
        this.lasting.add(inner);
      }
    this.count(nodes, next);
    this.settle(nodes);
    for (const value of next) this.push(value);
    for (let k = width - 1; k >= 0; k--) this.code.add(LOCAL_SET).u32(held[k]!);
    this.code.add(LOCAL_GET).u32(floatCounter);
    this.constants.push(this.code, 'f', 1);
    this.code.simd(SIMD.f32add).add(LOCAL_SET).u32(floatCounter);
    counterLocal(LOCAL_GET);
    this.code.add(0x41).s32(1).add(0x6b); // minus one
    counterLocal(LOCAL_TEE);
    this.code.add(0x0d, 0x00, 0x0b); // br_if 0, end
    return held.slice(0, width);
  }

  private operation(op: ScalarOp, args: readonly ScalarNode[]): void {
    if (!isDirect(op)) {
      this.written[op](args);
      return;
    }
    for (const arg of args) this.push(arg);
    this.code.simd(DIRECT[op]);
  }

  private zero(): void {
    this.code.simd(SIMD.const).add(...lanes('f', 0));
  }

  private shift(instruction: number, [value, by]: readonly ScalarNode[]): void {
    if (by!.op !== 'const') throw new Error('shifts are by a constant');
    this.push(value!);
    this.code.add(0x41).s32(by!.value!).simd(instruction);
  }

  /** 1 where a value on the stack compares so with 0, by masking the constant 1. */
  private sideOfZero(compare: number): void {
    this.zero();
    this.code.simd(compare);
    this.constants.push(this.code, 'f', 1);
    this.code.simd(SIMD.and);
  }

  /** The operations that are more than one instruction: with those that are, every one. */
  private readonly written: Readonly<Record<Exclude<ScalarOp, Direct>, (args: readonly ScalarNode[]) => void>> = {
    div: ([a, b]) => {
      this.push(a!);
      const again = this.pushToRepeat(b!);
      this.code.simd(SIMD.f32div);
      if (b!.op === 'const' && b!.value !== 0) return;
      again();
      this.zero();
      this.code.simd(SIMD.f32eq).simd(SIMD.andnot);
    },
    sqrt: ([a]) => {
      this.push(a!);
      this.zero();
      this.code.simd(SIMD.f32pmax).simd(SIMD.f32sqrt);
    },
    sign: ([a]) => {
      const again = this.pushToRepeat(a!);
      this.sideOfZero(SIMD.f32gt);
      again();
      this.sideOfZero(SIMD.f32lt);
      this.code.simd(SIMD.f32sub);
    },
    select: ([condition, yes, no]) => {
      this.push(yes!);
      this.push(no!);
      this.push(condition!);
      this.code.simd(SIMD.bitselect);
    },
    ishl: (args) => this.shift(SIMD.i32shl, args),
    ishr: (args) => this.shift(SIMD.i32shrS, args),
    ushr: (args) => this.shift(SIMD.i32shrU, args),
    fbits: ([a]) => this.push(a!),
    ibits: ([a]) => this.push(a!),
  };

  /** The finished body: local declarations, code, end. */
  finish(): Bytes {
    const firstCounter = this.parameters + this.vectors;
    for (const { at, counter } of this.counterPlaces) {
      let rest = firstCounter + counter;
      for (let k = 0; k < 5; k++) {
        this.code.list[at + k] = (rest & 0x7f) | (k < 4 ? 0x80 : 0);
        rest >>>= 7;
      }
    }
    const body = new Bytes();
    const groups: [number, number][] = [
      [this.vectors, V128],
      [this.counters, I32],
    ];
    const used = groups.filter(([n]) => n > 0);
    body.u32(used.length);
    for (const [n, type] of used) body.u32(n).add(type);
    return body.append(this.code).add(0x0b);
  }
}
