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
