/**
 * GLSL ES 3.00 for an effect. What changes at most once a frame is computed on the CPU and packed into one uniform
 * block; the shader holds only what differs from vertex to vertex or from pixel to pixel.
 */
import { reach } from '../base/reach.js';
import { slopeAlong } from '../ir/derivative.js';
import { LEAVES, changeIn, type Leaf } from '../ir/leaves.js';
import { baseOf, widthOf, type ImageSlot, type Node } from '../ir/types.js';
import type { OutputName } from '../effect/schema.js';
import type { LoweredStrand, Program } from '../lower/lower.js';
import { atMostFrame, rates } from '../passes/rates.js';
import { scalarise, type ScalarProgram } from '../passes/scalarise.js';
import { Library, Printer, glslType, indent, kernelNames } from './glslText.js';
import { Names } from './names.js';

/** One value in the uniform block. */
export interface Slot {
  readonly name: string;
  readonly node: Node;
  /** Place in the block, counted in floats. */
  readonly at: number;
  readonly width: number;
}

/** One stage's function: `Surface surface(...)` or `vec3 displacement(...)`. */
export interface StageText {
  /** Kernels and helpers that it calls. */
  readonly library: string;
  /** The struct, if any, and the function. */
  readonly code: string;
  /** The leaves its arguments are, in order. */
  readonly leaves: readonly Leaf[];
  readonly outputs: readonly OutputName[];
  /** Images it looks up, by sampler. */
  readonly images: ReadonlyMap<string, ImageSlot>;
  /** Of a displacement: it tells how it changes along the surface too, so that the normal can follow. */
  readonly bends: boolean;
}

export interface GlslText {
  readonly block: string;
  readonly slots: readonly Slot[];
  /** Length of the block, in vec4. */
  readonly vec4s: number;
  readonly fragment: StageText;
  /** Null when nothing moves the vertices. */
  readonly vertex: StageText | null;
  /** Computes the slots, in order. */
  readonly frame: ScalarProgram;
}

export interface GlslOptions {
  /** True: everything of frame rate is hoisted. False: the block holds time and the live numbers as they are. */
  readonly hoist: boolean;
  /** Variables carry the strands' names, or their permanent ids: a renamed strand must not mean a new program. */
  readonly naming?: 'names' | 'ids';
  /** `screen`: changes across a pixel are the shader's own; `given`: each is an argument, and so is what lies behind. */
  readonly changes?: 'screen' | 'given';
  /** The outputs to compute, for programs that need only some. */
  readonly only?: readonly OutputName[];
  /** The surface is lit, so that its normal counts although no strand may read it. */
  readonly lit?: boolean;
}

const VERTEX_OUTPUTS: readonly OutputName[] = ['displacement'];

function pack(widths: readonly number[]): { places: number[]; vec4s: number } {
  const fill: number[] = [];
  const places = Array<number>(widths.length).fill(0);
  const byWidth = widths.map((w, k) => ({ w, k })).sort((a, b) => b.w - a.w || a.k - b.k);
  for (const { w, k } of byWidth) {
    let row = fill.findIndex((used) => used + w <= 4);
    if (row < 0) row = fill.push(0) - 1;
    places[k] = row * 4 + fill[row]!;
    fill[row] = fill[row]! + w;
  }
  return { places, vec4s: Math.max(1, fill.length) };
}

const LETTERS = 'xyzw';
export const slotText = (at: number, width: number): string =>
  `k[${at >> 2}]${width === 4 ? '' : `.${LETTERS.slice(at & 3, (at & 3) + width)}`}`;

const NORMALS: readonly Leaf[] = ['normal', 'objectNormal', 'viewNormal'];

/** Whether any of these comes of a leaf like that. */
const reads = (roots: readonly Node[], like: (leaf: Leaf) => boolean): boolean =>
  [...rates(roots).keys()].some((n) => n.op === 'leaf' && like(n.leaf!));

/** How what moves the vertices changes along the surface; none where it is the same all over. */
function bendOf(program: Program, displacement: Node): readonly Node[] {
  const along = (['t', 'b'] as const).map((axis) => slopeAlong(program.builder, displacement, axis));
  const still = (node: Node) => node.op === 'const' && node.values!.every((v) => v === 0);
  return along.every(still) ? [] : along;
}

export function emitGlsl(
  program: Program,
  { hoist, only, naming = 'names', changes = 'screen', lit = false }: GlslOptions,
): GlslText {
  const chosen = [...program.outputs].filter(([name]) => !only || only.includes(name));
  const vertexRoots = chosen.filter(([name]) => VERTEX_OUTPUTS.includes(name));
  const pixelRoots = chosen.filter(([name]) => !VERTEX_OUTPUTS.includes(name));
  const normalCounts =
    lit ||
    reads(
      pixelRoots.map(([, port]) => port.node),
      (leaf) => NORMALS.includes(changeIn(leaf)?.of ?? leaf),
    );
  const bend = vertexRoots.length > 0 && normalCounts ? bendOf(program, vertexRoots[0]![1].node) : [];
  const roots = [...chosen.map(([, port]) => port.node), ...bend];
  const rate = rates(roots);

  // --- the block: what the stages read of frame rate
  const owners = new Map<Node, LoweredStrand>();
  for (const strand of program.strands.values())
    for (const port of Object.values(strand.ports)) if (!owners.has(port.node)) owners.set(port.node, strand);
  const isSlot = (node: Node): boolean => {
    // Integers and truth values stay in the shader: a block of floats would not carry every bit pattern unharmed.
    if (node.op === 'const' || baseOf(node.type) !== 'f' || !atMostFrame(rate.get(node)!)) return false;
    return hoist || node.op === 'param' || node.op === 'leaf';
  };
  const slotNodes = reach(roots, (node) => (isSlot(node) ? [] : node.args))
    .filter(isSlot)
    .sort((a, b) => a.id - b.id);
  const { places, vec4s } = pack(slotNodes.map((n) => widthOf(n.type)));
  const functions = kernelNames(rate.keys());
  const names = new Names([], functions);
  const called = (strand: LoweredStrand) => (naming === 'ids' ? strand.id : strand.name);
  const paramAt = new Map(program.params.map((p) => [p.at, p]));
  const slotName = (node: Node): string => {
    const owner = owners.get(node);
    if (owner) return called(owner);
    if (node.op === 'leaf') return node.leaf!;
    if (node.op !== 'param') return 'steady';
    const source = paramAt.get(node.index!)!.source;
    if (source.from === 'strand')
      return `${called(program.strands.get(source.strand)!)} ${source.input === 'in' ? source.part : source.input}`;
    if (source.from === 'output') return `${source.output} value`;
    if (source.from === 'keys') throw new Error('a table of keys is looked at on the CPU');
    if (source.from === 'cue') return `cue ${source.dial} ${source.part}`;
    return source.from === 'shared' ? `shared ${source.shared}` : 'loop';
  };
  const slots: Slot[] = slotNodes.map((node, k) => ({
    name: names.give(slotName(node), 'slot'),
    node,
    at: places[k]!,
    width: widthOf(node.type),
  }));
  const slotOf = new Map(slots.map((s) => [s.node, s]));

  const stage = (named: typeof chosen, what: 'surface' | 'displacement'): StageText => {
    const library = new Library();
    const own = new Names([...Object.keys(LEAVES), 'alongTangent', 'alongBitangent'], functions);
    const local = new Map<Slot, string>();
    const leaves = new Set<Leaf>();
    const printer = new Printer(
      library,
      own,
      (node) => {
        const slot = slotOf.get(node);
        if (!slot) {
          leaves.add(node.leaf!);
          return node.leaf!;
        }
        let name = local.get(slot);
        if (name === undefined) local.set(slot, (name = own.give(slot.name, 'slot')));
        return name;
      },
      (node) => slotOf.has(node) || node.op === 'leaf',
      (node) => (node.op === 'const' || !owners.has(node) ? undefined : called(owners.get(node)!)),
      changes === 'given',
    );
    const extra = what === 'displacement' ? bend : [];
    const { statements, results } = printer.print([...named.map(([, port]) => port.node), ...extra]);
    const head = [...local].map(([slot, name]) => `${glslType(slot.node.type)} ${name} = ${slotText(slot.at, slot.width)};`);
    const args = [...leaves].map((leaf) => `${glslType(LEAVES[leaf].type)} ${leaf}`);
    if (what === 'displacement') {
      const along = ['alongTangent', 'alongBitangent'].slice(0, extra.length);
      const taken = [...args, ...along.map((a) => `out vec3 ${a}`)].join(', ');
      const ends = [...along.map((a, k) => `${a} = ${results[k + 1]!};`), `return ${results[0]!};`];
      const code = `vec3 displacement(${taken}) {\n${indent([...head, ...statements, ...ends])}\n}`;
      const outputs = ['displacement'] as const;
      return { library: library.toString(), code, leaves: [...leaves], outputs, images: library.images, bends: along.length > 0 };
    }
    const fields = named.map(([name, port]) => `${glslType(port.node.type)} ${name};`);
    const struct = `struct Surface {\n${indent(fields.length > 0 ? fields : ['float nothing;'])}\n};`;
    const stores = named.map(([name], k) => `s.${name} = ${results[k]!};`);
    const code = `${struct}\n\nSurface surface(${args.join(', ')}) {\n${indent([...head, ...statements, 'Surface s;', ...stores, ...(fields.length > 0 ? [] : ['s.nothing = 0.0;']), 'return s;'])}\n}`;
    return {
      library: library.toString(),
      code,
      leaves: [...leaves],
      outputs: named.map(([name]) => name),
      images: library.images,
      bends: false,
    };
  };

  return {
    block: `layout(std140) uniform Effect {\n  vec4 k[${vec4s}];\n};`,
    slots,
    vec4s,
    fragment: stage(pixelRoots, 'surface'),
    vertex: vertexRoots.length > 0 ? stage(vertexRoots, 'displacement') : null,
    frame: scalarise(slotNodes),
  };
}
