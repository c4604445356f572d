/**
 * WebAssembly SIMD: four samples at a time, in blocks. Inputs and outputs are planes of one memory, one
 * plane a component, so every address is a constant plus the block's running offset.
 */
import { lookAtKeys, lookOf, type KeyTable } from '../base/keys.js';
import { GREY, lookUp, type Picture } from '../base/picture.js';
import type { Base, ScalarOp } from '../base/scalar.js';
import { LEAVES, restOf, type Leaf } from '../ir/leaves.js';
import { widthOf, type ImageSlot } from '../ir/types.js';
import type { ScalarKernel, ScalarNode, ScalarProgram } from '../passes/scalarise.js';

/** Samples that a module works on at a time unless it is made for more. */
export const BLOCK = 1024;

export interface WasmModule {
  /** Samples a block, a multiple of 4. */
  readonly capacity: number;
  readonly bytes: Uint8Array<ArrayBuffer>;
  /** Byte offset of the live numbers, and which of them are read there; tables of keys are looked at where they are. */
  readonly paramsAt: number;
  readonly params: readonly number[];
  /** Byte offset of each leaf that does not vary, its components in a row. */
  readonly uniforms: readonly { readonly leaf: Leaf; readonly at: number }[];
  /** Byte offset of the planes of each leaf that varies from sample to sample. */
  readonly planes: readonly { readonly leaf: Leaf; readonly at: number }[];
  /** Byte offset of each root's planes. */
  readonly outputs: readonly { readonly width: number; readonly at: number }[];
  /** Images that it looks up, by the number it calls `host.look` with. */
  readonly images: readonly ImageSlot[];
  /** Tables of keys that it looks at, numbered on from the images. */
  readonly tables: readonly KeyTable[];
  /** Byte offset of what is asked, up to 3 numbers of four samples each, and after them of the answer. */
  readonly scratchAt: number;
}

/** SIMD opcodes, after the prefix 0xfd (WebAssembly core specification 2.0, vector instructions). */
const SIMD = {
  load: 0x00,
  loadSplat32: 0x09,
  store: 0x0b,
  const: 0x0c,
  f32splat: 0x13,
  i32add: 0xae,
  i32sub: 0xb1,
  i32mul: 0xb5,
  xor: 0x51,
  and: 0x4e,
  or: 0x50,
  not: 0x4d,
  andnot: 0x4f,
  bitselect: 0x52,
  i32shl: 0xab,
  i32shrS: 0xac,
  i32shrU: 0xad,
  f32ceil: 0x67,
  f32floor: 0x68,
  f32nearest: 0x6a,
  f32abs: 0xe0,
  f32neg: 0xe1,
  f32sqrt: 0xe3,
  f32add: 0xe4,
  f32sub: 0xe5,
  f32mul: 0xe6,
  f32div: 0xe7,
  f32pmin: 0xea,
  f32pmax: 0xeb,
  f32eq: 0x41,
  f32lt: 0x43,
  f32gt: 0x44,
  f32le: 0x45,
  truncSat: 0xf8,
  convert: 0xfa,
} as const;

/** Operations that are one instruction; the rest are spelt out in `operation`. */
const DIRECT: Partial<Record<ScalarOp, number>> = {
  add: SIMD.f32add,
  sub: SIMD.f32sub,
  mul: SIMD.f32mul,
  neg: SIMD.f32neg,
  abs: SIMD.f32abs,
  floor: SIMD.f32floor,
  ceil: SIMD.f32ceil,
  round: SIMD.f32nearest,
  min: SIMD.f32pmin,
  max: SIMD.f32pmax,
  lt: SIMD.f32lt,
  le: SIMD.f32le,
  eq: SIMD.f32eq,
  and: SIMD.and,
  or: SIMD.or,
  not: SIMD.not,
  iadd: SIMD.i32add,
  isub: SIMD.i32sub,
  imul: SIMD.i32mul,
  ixor: SIMD.xor,
  iand: SIMD.and,
  ior: SIMD.or,
  ftoi: SIMD.truncSat,
  itof: SIMD.convert,
};

/** Numbers that a look at an image or at keys asks with, at most. */
const ASKED = 3;

/** How deeply an expression may nest before a part of it is kept. */
const DEEPEST = 64;

const I32 = 0x7f;
const V128 = 0x7b;
const LOCAL_GET = 0x20;
const LOCAL_SET = 0x21;
const LOCAL_TEE = 0x22;

class Bytes {
  readonly list: number[] = [];
  u32(value: number): this {
    let rest = value >>> 0;
    do {
      const low = rest & 0x7f;
      rest >>>= 7;
      this.list.push(rest ? low | 0x80 : low);
    } while (rest);
    return this;
  }
  s32(value: number): this {
    let rest = value | 0;
    for (;;) {
      const low = rest & 0x7f;
      rest >>= 7;
      const last = (rest === 0 && !(low & 0x40)) || (rest === -1 && (low & 0x40) !== 0);
      this.list.push(last ? low : low | 0x80);
      if (last) return this;
    }
  }
  add(...bytes: number[]): this {
    for (const b of bytes) this.list.push(b);
    return this;
  }
  append(other: Bytes): this {
    for (const b of other.list) this.list.push(b);
    return this;
  }
  /** A section or body: its length, then itself. */
  sized(other: Bytes): this {
    return this.u32(other.list.length).append(other);
  }
  name(text: string): this {
    const encoded = new TextEncoder().encode(text);
    return this.u32(encoded.length).add(...encoded);
  }
  simd(code: number): this {
    return this.add(0xfd).u32(code);
  }
}

const scratch = new DataView(new ArrayBuffer(4));
function lanes(base: Base, value: number): number[] {
  if (base === 'f') scratch.setFloat32(0, value, true);
  else scratch.setInt32(0, base === 'b' ? (value ? -1 : 0) : value, true);
  const four = [0, 1, 2, 3].map((k) => scratch.getUint8(k));
  return [...four, ...four, ...four, ...four];
}

/** A loop or a call of several results is never a value itself; its `result` nodes are. */
const isSeveral = (node: ScalarNode) =>
  node.op === 'repeat' || node.op === 'sample' || node.op === 'keys' || (node.op === 'call' && node.kernel!.results.length > 1);

/**
 * Constants stand in memory: one load each. Written as instructions, engines build them from two halves every time
 * they are met, which doubles the cost of a hash.
 */
class ConstantPool {
  private readonly places = new Map<string, number>();
  readonly bytes: number[] = [];

  constructor(readonly at: number) {}

  push(code: Bytes, base: Base, value: number): void {
    const four = lanes(base, value);
    // All zeros and all ones need no memory.
    if (four.every((b) => b === 0) || four.every((b) => b === 255)) {
      code.simd(SIMD.const).add(...four);
      return;
    }
    const key = four.slice(0, 4).join();
    let place = this.places.get(key);
    if (place === undefined) {
      place = this.at + this.bytes.length;
      this.places.set(key, place);
      this.bytes.push(...four);
    }
    code.add(0x41, 0x00).simd(SIMD.load).u32(4).u32(place);
  }
}

/** The import that looks images up, and tables of keys. */
interface HostCalls {
  /** Byte offset of `ASKED` vectors that go out; after them stand those that come back. */
  readonly at: number;
  readonly numberOf: (node: ScalarNode) => number;
}

/**
 * Emits one function's worth of nodes. Values read more than once live in locals; the rest stay on the stack. A local is
 * free for another value once the last reader has had it: engines take 50,000 of them, and large sheets have more values.
 */
class FunctionEmitter {
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
    const { code } = this;
    const [a, b, c] = args as [ScalarNode, ScalarNode, ScalarNode];
    const direct = DIRECT[op];
    if (direct !== undefined) {
      for (const arg of args) this.push(arg);
      code.simd(direct);
      return;
    }
    const zero = () => code.simd(SIMD.const).add(...lanes('f', 0));
    switch (op) {
      case 'div': {
        this.push(a);
        const again = this.pushToRepeat(b);
        code.simd(SIMD.f32div);
        if (b.op === 'const' && b.value !== 0) return;
        again();
        zero();
        code.simd(SIMD.f32eq).simd(SIMD.andnot);
        return;
      }
      case 'sqrt':
        this.push(a);
        zero();
        code.simd(SIMD.f32pmax).simd(SIMD.f32sqrt);
        return;
      case 'sign': {
        // (a > 0 ? 1 : 0) - (a < 0 ? 1 : 0), by masking the constant 1.
        const side = (compare: number) => {
          zero();
          code.simd(compare);
          this.constants.push(code, 'f', 1);
          code.simd(SIMD.and);
        };
        const again = this.pushToRepeat(a);
        side(SIMD.f32gt);
        again();
        side(SIMD.f32lt);
        code.simd(SIMD.f32sub);
        return;
      }
      case 'select':
        this.push(b);
        this.push(c);
        this.push(a);
        code.simd(SIMD.bitselect);
        return;
      case 'ishl':
      case 'ishr':
      case 'ushr':
        if (b.op !== 'const') throw new Error('shifts are by a constant');
        this.push(a);
        code.add(0x41).s32(b.value!);
        code.simd(op === 'ishl' ? SIMD.i32shl : op === 'ishr' ? SIMD.i32shrS : SIMD.i32shrU);
        return;
      case 'fbits':
      case 'ibits':
        this.push(a);
        return;
      default:
        throw new Error(`no WebAssembly for ${op}`);
    }
  }

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

/**
 * @param varying leaves that differ from sample to sample; every other leaf is one value for the whole run
 * @param paramCount how many live numbers there are
 * @param samples how many samples one run is to take; more are taken in several
 */
export function emitWasm(
  program: ScalarProgram,
  varying: ReadonlySet<Leaf>,
  paramCount: number,
  samples: number = BLOCK,
): WasmModule {
  const capacity = Math.ceil(samples / 4) * 4;
  const PLANE = capacity * 4;
  // --- memory
  const leaves = new Map<Leaf, true>();
  for (const node of program.nodes) if (node.op === 'leaf') leaves.set(node.leaf!, true);
  let at = 0;
  const paramsAt = at;
  at += paramCount * 4;
  const uniforms: { leaf: Leaf; at: number }[] = [];
  const planes: { leaf: Leaf; at: number }[] = [];
  for (const leaf of leaves.keys())
    if (!varying.has(leaf)) {
      uniforms.push({ leaf, at });
      at += widthOf(LEAVES[leaf].type) * 4;
    }
  at = Math.ceil(at / 16) * 16;
  for (const leaf of leaves.keys())
    if (varying.has(leaf)) {
      planes.push({ leaf, at });
      at += widthOf(LEAVES[leaf].type) * PLANE;
    }
  const outputs = program.roots.map((root) => {
    const place = { width: root.length, at };
    at += root.length * PLANE;
    return place;
  });

  const params = [...new Set(program.nodes.flatMap((n) => (n.op === 'param' ? [n.index!] : [])))];
  const images: ImageSlot[] = [];
  const tables: KeyTable[] = [];
  const hostNumbers = new Map<ScalarNode, number>();
  for (const node of program.nodes)
    if (node.op === 'sample') {
      let number = images.findIndex(
        (i) => i.asset === node.image!.asset && i.wrap === node.image!.wrap && i.filter === node.image!.filter,
      );
      if (number < 0) number = images.push(node.image!) - 1;
      hostNumbers.set(node, number);
    }
  for (const node of program.nodes) if (node.op === 'keys') hostNumbers.set(node, images.length + tables.push(node.table!) - 1);
  at = Math.ceil(at / 16) * 16;
  const scratchAt = at;
  const imports = hostNumbers.size > 0 ? 1 : 0;
  if (imports > 0) at += (ASKED + Math.max(4, ...tables.map(lookOf))) * 16;

  // The constants come last: they are found while the code is written.
  const constants = new ConstantPool(Math.ceil(at / 16) * 16);

  // --- kernels, each after those it calls
  const kernelList: ScalarKernel[] = [];
  const kernelNumber = new Map<ScalarKernel, number>();
  const visit = (nodes: readonly ScalarNode[]) => {
    for (const node of nodes) {
      if (node.loop) visit(node.loop.nodes);
      if (!node.kernel || kernelNumber.has(node.kernel)) continue;
      visit(node.kernel.nodes);
      kernelNumber.set(node.kernel, kernelList.length);
      kernelList.push(node.kernel);
    }
  };
  visit(program.nodes);
  const kernelIndex = (kernel: ScalarKernel) => imports + kernelNumber.get(kernel)!;
  const kernelBodies = kernelList.map((kernel) => {
    const emitter = new FunctionEmitter(
      kernel.params.length,
      kernelIndex,
      () => {
        throw new Error('kernels read only their arguments');
      },
      constants,
    );
    for (const node of kernel.nodes) if (node.op === 'arg') emitter.bind(node, node.index!);
    emitter.count(kernel.nodes, kernel.results);
    emitter.settle(kernel.nodes);
    for (const result of kernel.results) emitter.push(result);
    return emitter.finish();
  });

  // --- the main function: run(bytes), bytes = samples * 4, a multiple of 16
  const changes = new Set<ScalarNode>();
  for (const node of program.nodes)
    if ((node.op === 'leaf' && varying.has(node.leaf!)) || node.args.some((a) => changes.has(a))) changes.add(node);
  const main = new FunctionEmitter(
    2,
    kernelIndex,
    (node, code) => {
      if (node.op === 'param') {
        code
          .add(0x41, 0x00)
          .simd(SIMD.loadSplat32)
          .u32(2)
          .u32(paramsAt + node.index! * 4);
        return;
      }
      const plane = planes.find((p) => p.leaf === node.leaf);
      if (plane)
        code
          .add(LOCAL_GET, 1)
          .simd(SIMD.load)
          .u32(4)
          .u32(plane.at + node.lane! * PLANE);
      else {
        const place = uniforms.find((u) => u.leaf === node.leaf)!.at + node.lane! * 4;
        code.add(0x41, 0x00).simd(SIMD.loadSplat32).u32(2).u32(place);
      }
    },
    constants,
    { at: scratchAt, numberOf: (node) => hostNumbers.get(node)! },
  );
  const roots = program.roots.flat();
  main.count(program.nodes, roots);
  // Before the loop: whatever does not vary and is read by something that does, or is itself a result.
  const steady = new Set<ScalarNode>();
  for (const node of program.nodes) if (changes.has(node)) for (const arg of node.args) if (!changes.has(arg)) steady.add(arg);
  for (const root of roots) if (!changes.has(root)) steady.add(root);
  main.settle(
    program.nodes.filter((n) => !changes.has(n)),
    steady,
  );
  const { code } = main;
  code.add(0x41, 0x00, LOCAL_SET, 1);
  code.add(0x03, 0x40);
  main.settle(program.nodes.filter((n) => changes.has(n)));
  program.roots.forEach((root, k) =>
    root.forEach((node, lane) => {
      code.add(LOCAL_GET, 1);
      main.push(node);
      code
        .simd(SIMD.store)
        .u32(4)
        .u32(outputs[k]!.at + lane * PLANE);
    }),
  );
  code.add(LOCAL_GET, 1, 0x41).s32(16).add(0x6a, LOCAL_TEE, 1);
  code.add(LOCAL_GET, 0, 0x49, 0x0d, 0x00, 0x0b); // i32.lt_u, br_if 0, end
  const mainBody = main.finish();

  // --- the module
  const types = new Bytes();
  types.u32(kernelList.length + 1 + imports);
  for (const kernel of kernelList) {
    types
      .add(0x60)
      .u32(kernel.params.length)
      .add(...kernel.params.map(() => V128));
    types.u32(kernel.results.length).add(...kernel.results.map(() => V128));
  }
  types.add(0x60).u32(2).add(I32, I32).u32(0);
  if (imports > 0) types.add(0x60).u32(1).add(I32).u32(0);
  const functions = new Bytes();
  functions.u32(kernelList.length + 1);
  for (let k = 0; k <= kernelList.length; k++) functions.u32(k);
  const memory = new Bytes()
    .u32(1)
    .add(0x00)
    .u32(Math.max(1, Math.ceil((constants.at + constants.bytes.length) / 65536)));
  const exported = new Bytes()
    .u32(2)
    .name('memory')
    .add(0x02)
    .u32(0)
    .name('run')
    .add(0x00)
    .u32(imports + kernelList.length);
  const bodies = new Bytes().u32(kernelList.length + 1);
  for (const body of [...kernelBodies, mainBody]) bodies.sized(body);
  const file = new Bytes().add(0x00, 0x61, 0x73, 0x6d, 0x01, 0x00, 0x00, 0x00);
  file.add(1).sized(types);
  if (imports > 0)
    file.add(2).sized(
      new Bytes()
        .u32(1)
        .name('host')
        .name('look')
        .add(0x00)
        .u32(kernelList.length + 1),
    );
  file.add(3).sized(functions).add(5).sized(memory).add(7).sized(exported).add(10).sized(bodies);
  if (constants.bytes.length > 0) {
    const data = new Bytes()
      .u32(1)
      .add(0x00, 0x41)
      .s32(constants.at)
      .add(0x0b)
      .u32(constants.bytes.length)
      .add(...constants.bytes);
    file.add(11).sized(data);
  }
  return { capacity, bytes: Uint8Array.from(file.list), paramsAt, params, uniforms, planes, outputs, images, tables, scratchAt };
}

/** Values for each leaf: one number a component, or one array a component for a leaf that varies. */
export type LeafValues = Partial<Record<Leaf, readonly (number | Float32Array)[]>>;

const valuesOf = (leaves: LeafValues, leaf: Leaf) =>
  leaves[leaf] ?? (leaf === 'timeRest' ? restOf(leaves.time) : LEAVES[leaf].fallback);

/** A running module. Not shared between callers: it has one memory. */
export class WasmRunner {
  private readonly floats: Float32Array;
  /** The live numbers of the present run. */
  private numbers: ArrayLike<number> = [];
  private readonly run: (bytes: number, unused: number) => void;

  private constructor(
    readonly module: WasmModule,
    instance: WebAssembly.Instance,
  ) {
    const { memory, run } = instance.exports as { memory: WebAssembly.Memory; run: (n: number, unused: number) => void };
    this.floats = new Float32Array(memory.buffer);
    this.run = run;
  }

  /**
   * Synchronous compilation: for workers, Node and modules of a few kilobytes.
   * @param pictures images by their `pictureKey`; looked at on every run, so that late ones count
   */
  static make(module: WasmModule, pictures: ReadonlyMap<string, Picture> = new Map()): WasmRunner {
    let memory: Float32Array | null = null;
    const place = module.scratchAt / 4;
    const look = (number: number) => {
      const image = module.images[number];
      const answer = 4 * ASKED;
      if (image) {
        const picture = pictures.get(image.asset) ?? GREY;
        for (let k = place; k < place + 4; k++)
          lookUp(picture, memory![k]!, memory![k + 4]!, memory![k + 8]!, image.wrap, image.filter, memory!, k + answer, 4);
        return;
      }
      const table = module.tables[number - module.images.length]!;
      for (let k = place; k < place + 4; k++) lookAtKeys(runner.numbers, table, memory![k]!, memory!, k + answer, 4);
    };
    const compiled = new WebAssembly.Module(module.bytes);
    const instance = new WebAssembly.Instance(
      compiled,
      module.images.length + module.tables.length > 0 ? { host: { look } } : {},
    );
    const runner = new WasmRunner(module, instance);
    memory = runner.floats;
    return runner;
  }

  private fill(params: ArrayLike<number>, leaves: LeafValues, start: number, size: number): void {
    const { floats, module } = this;
    if (start === 0) {
      this.numbers = params;
      const at = module.paramsAt / 4;
      for (const k of module.params) floats[at + k] = params[k]!;
      for (const { leaf, at } of module.uniforms) {
        const values = valuesOf(leaves, leaf);
        values.forEach((v, k) => (floats[at / 4 + k] = typeof v === 'number' ? v : v[0]!));
      }
    }
    for (const { leaf, at } of module.planes) {
      const values = valuesOf(leaves, leaf);
      values.forEach((v, k) => {
        const place = at / 4 + k * module.capacity;
        // An array got from `inputPlane` is there already.
        if (typeof v !== 'number' && v.buffer === floats.buffer) return;
        if (typeof v === 'number') floats.fill(v, place, place + size);
        else floats.set(v.length === size ? v : v.subarray(start, start + size), place);
      });
    }
    this.run(Math.ceil(size / 4) * 16, 0);
  }

  /** Where a varying leaf's component is read from: numbers written here need no copy. At most `capacity` of them. */
  inputPlane(leaf: Leaf, lane: number): Float32Array {
    const plane = this.module.planes.find((p) => p.leaf === leaf);
    if (!plane) throw new Error(`${leaf} does not vary in this module`);
    const place = plane.at / 4 + lane * this.module.capacity;
    return this.floats.subarray(place, place + this.module.capacity);
  }

  private plane(root: number, lane: number, size: number): Float32Array {
    const place = this.module.outputs[root]!.at / 4 + lane * this.module.capacity;
    return this.floats.subarray(place, place + size);
  }

  /**
   * The results where they were computed: valid until the next call.
   * @param count samples, at most the module's capacity
   * @returns for each root, one array a component
   */
  view(params: ArrayLike<number>, leaves: LeafValues, count: number): Float32Array[][] {
    if (count > this.module.capacity) throw new Error(`${count} samples in a module for ${this.module.capacity}`);
    this.fill(params, leaves, 0, count);
    return this.module.outputs.map(({ width }, r) => Array.from({ length: width }, (_, lane) => this.plane(r, lane, count)));
  }

  /**
   * @param count samples
   * @returns for each root, one array a component, each of `count` numbers, to keep
   */
  evaluate(params: ArrayLike<number>, leaves: LeafValues, count: number): Float32Array[][] {
    const { capacity } = this.module;
    const outputs = this.module.outputs.map(({ width }) => Array.from({ length: width }, () => new Float32Array(count)));
    for (let start = 0; start < count; start += capacity) {
      const size = Math.min(capacity, count - start);
      this.fill(params, leaves, start, size);
      outputs.forEach((root, r) => root.forEach((array, lane) => array.set(this.plane(r, lane, size), start)));
    }
    return outputs;
  }
}
