/**
 * WebAssembly SIMD: four samples at a time, in blocks. Inputs and outputs are planes of one memory, one
 * plane a component, so every address is a constant plus the block's running offset.
 */
import { lookOf, type KeyTable } from '../../base/keys.js';
import { LEAVES, type Leaf } from '../../ir/leaves.js';
import { widthOf, type ImageSlot } from '../../ir/types.js';
import type { ScalarKernel, ScalarNode, ScalarProgram } from '../../passes/scalarise.js';
import { Bytes, ConstantPool, I32, LOCAL_GET, LOCAL_SET, LOCAL_TEE, SIMD, V128 } from './encoding.js';
import { ASKED, FunctionEmitter } from './functions.js';

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
/** Where everything lies in the module's memory, in bytes; constants come last, found while the code is written. */
interface Layout extends Omit<WasmModule, 'bytes'> {
  /** What the image or the table of a node is called by. */
  readonly hostNumbers: ReadonlyMap<ScalarNode, number>;
  readonly constants: ConstantPool;
}

/** Bytes of one component of all samples. */
const planeOf = (capacity: number) => capacity * 4;
const aligned = (at: number) => Math.ceil(at / 16) * 16;

function hosted(nodes: readonly ScalarNode[]): Pick<Layout, 'images' | 'tables' | 'hostNumbers'> {
  const images: ImageSlot[] = [];
  const tables: KeyTable[] = [];
  const hostNumbers = new Map<ScalarNode, number>();
  for (const node of nodes) {
    if (node.op !== 'sample') continue;
    const { asset, wrap, filter } = node.image!;
    const same = images.findIndex((i) => i.asset === asset && i.wrap === wrap && i.filter === filter);
    hostNumbers.set(node, same < 0 ? images.push(node.image!) - 1 : same);
  }
  for (const node of nodes) if (node.op === 'keys') hostNumbers.set(node, images.length + tables.push(node.table!) - 1);
  return { images, tables, hostNumbers };
}

function layOut({ nodes, roots }: ScalarProgram, varying: ReadonlySet<Leaf>, paramCount: number, samples: number): Layout {
  const capacity = Math.ceil(samples / 4) * 4;
  const leaves = [...new Set(nodes.flatMap((n) => (n.op === 'leaf' ? [n.leaf!] : [])))];
  let at = paramCount * 4;
  const place = (leaf: Leaf, bytes: number) => {
    const found = { leaf, at };
    at += widthOf(LEAVES[leaf].type) * bytes;
    return found;
  };
  const uniforms = leaves.filter((l) => !varying.has(l)).map((leaf) => place(leaf, 4));
  at = aligned(at);
  const planes = leaves.filter((l) => varying.has(l)).map((leaf) => place(leaf, planeOf(capacity)));
  const outputs = roots.map((root) => {
    const found = { width: root.length, at };
    at += root.length * planeOf(capacity);
    return found;
  });
  const params = [...new Set(nodes.flatMap((n) => (n.op === 'param' ? [n.index!] : [])))];
  const host = hosted(nodes);
  const scratchAt = aligned(at);
  at = scratchAt;
  if (host.hostNumbers.size > 0) at += (ASKED + Math.max(4, ...host.tables.map(lookOf))) * 16;
  return {
    ...{ capacity, paramsAt: 0, params, uniforms, planes, outputs, scratchAt },
    ...host,
    constants: new ConstantPool(aligned(at)),
  };
}

/** Kernels, each after those it calls. */
function kernelsOf(nodes: readonly ScalarNode[], found = new Set<ScalarKernel>()): Set<ScalarKernel> {
  for (const node of nodes) {
    if (node.loop) kernelsOf(node.loop.nodes, found);
    if (!node.kernel || found.has(node.kernel)) continue;
    kernelsOf(node.kernel.nodes, found);
    found.add(node.kernel);
  }
  return found;
}

function kernelBody(kernel: ScalarKernel, indexOf: (kernel: ScalarKernel) => number, { constants }: Layout): Bytes {
  const outside = () => {
    throw new Error('kernels read only their arguments');
  };
  const emitter = new FunctionEmitter(kernel.params.length, indexOf, outside, constants);
  for (const node of kernel.nodes) if (node.op === 'arg') emitter.bind(node, node.index!);
  emitter.count(kernel.nodes, kernel.results);
  emitter.settle(kernel.nodes);
  for (const result of kernel.results) emitter.push(result);
  return emitter.finish();
}

/** run(bytes), bytes = samples * 4, a multiple of 16 */
function mainBody(
  program: ScalarProgram,
  varying: ReadonlySet<Leaf>,
  indexOf: (kernel: ScalarKernel) => number,
  { paramsAt, planes, uniforms, outputs, capacity, constants, scratchAt, hostNumbers }: Layout,
): Bytes {
  const changes = new Set<ScalarNode>();
  for (const node of program.nodes)
    if ((node.op === 'leaf' && varying.has(node.leaf!)) || node.args.some((a) => changes.has(a))) changes.add(node);
  const steadyAt = (code: Bytes, at: number) => code.add(0x41, 0x00).simd(SIMD.loadSplat32).u32(2).u32(at);
  const main = new FunctionEmitter(
    2,
    indexOf,
    (node, code) => {
      if (node.op === 'param') return void steadyAt(code, paramsAt + node.index! * 4);
      const plane = planes.find((p) => p.leaf === node.leaf);
      if (!plane) return void steadyAt(code, uniforms.find((u) => u.leaf === node.leaf)!.at + node.lane! * 4);
      const at = plane.at + node.lane! * planeOf(capacity);
      code.add(LOCAL_GET, 1).simd(SIMD.load).u32(4).u32(at);
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
      const at = outputs[k]!.at + lane * planeOf(capacity);
      code.simd(SIMD.store).u32(4).u32(at);
    }),
  );
  code.add(LOCAL_GET, 1, 0x41).s32(16).add(0x6a, LOCAL_TEE, 1);
  code.add(LOCAL_GET, 0, 0x49, 0x0d, 0x00, 0x0b); // i32.lt_u, br_if 0, end
  return main.finish();
}

/** The sections of a module, in the order that WebAssembly wants. */
function moduleBytes(kernels: readonly ScalarKernel[], bodies: readonly Bytes[], { constants, hostNumbers }: Layout): Bytes {
  const imports = hostNumbers.size > 0 ? 1 : 0;
  const count = kernels.length;
  const types = new Bytes().u32(count + 1 + imports);
  for (const { params, results } of kernels) {
    types.add(0x60).u32(params.length);
    types.add(...params.map(() => V128));
    types.u32(results.length).add(...results.map(() => V128));
  }
  types.add(0x60).u32(2).add(I32, I32).u32(0);
  if (imports > 0) types.add(0x60).u32(1).add(I32).u32(0);
  const functions = new Bytes().u32(count + 1);
  for (let k = 0; k <= count; k++) functions.u32(k);
  const pages = Math.max(1, Math.ceil((constants.at + constants.bytes.length) / 65536));
  const memory = new Bytes().u32(1).add(0x00).u32(pages);
  const exported = new Bytes().u32(2).name('memory').add(0x02).u32(0).name('run').add(0x00);
  exported.u32(imports + count);
  const written = new Bytes().u32(count + 1);
  for (const body of bodies) written.sized(body);
  const file = new Bytes().add(0x00, 0x61, 0x73, 0x6d, 0x01, 0x00, 0x00, 0x00);
  file.add(1).sized(types);
  if (imports > 0) {
    const host = new Bytes().u32(1).name('host').name('look').add(0x00);
    file.add(2).sized(host.u32(count + 1));
  }
  file.add(3).sized(functions).add(5).sized(memory).add(7).sized(exported).add(10).sized(written);
  if (constants.bytes.length > 0) {
    const data = new Bytes().u32(1).add(0x00, 0x41).s32(constants.at).add(0x0b);
    data.u32(constants.bytes.length).add(...constants.bytes);
    file.add(11).sized(data);
  }
  return file;
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
  const layout = layOut(program, varying, paramCount, samples);
  const kernels = [...kernelsOf(program.nodes)];
  const number = new Map(kernels.map((kernel, k) => [kernel, k]));
  const imports = layout.hostNumbers.size > 0 ? 1 : 0;
  const indexOf = (kernel: ScalarKernel) => imports + number.get(kernel)!;
  const bodies = [...kernels.map((kernel) => kernelBody(kernel, indexOf, layout)), mainBody(program, varying, indexOf, layout)];
  const { capacity, paramsAt, params, uniforms, planes, outputs, images, tables, scratchAt } = layout;
  const bytes = Uint8Array.from(moduleBytes(kernels, bodies, layout).list);
  return { capacity, bytes, paramsAt, params, uniforms, planes, outputs, images, tables, scratchAt };
}
