/**
 * The shader plan: what of an effect is computed where, before any language: what changes at most once a frame goes into one block of
 * vec4, computed on the CPU; the rest differs from vertex to vertex or from pixel to pixel, and says which places it
 * reads. Printers take a plan and a dialect.
 */
import { widthOfKind } from '../base/kinds.js';
import { reach } from '../base/reach.js';
import { slopeAlong } from '../ir/derivative.js';
import { changeIn, type Leaf } from '../ir/leaves.js';
import { baseOf, typeOf, widthOf, type Node } from '../ir/types.js';
import { OUTPUTS, outputRecord, type OutputName } from '../effect/outputs.js';
import type { LoweredStrand, Program } from '../lower/lower.js';
import { atMostFrame, rates } from '../passes/rates.js';
import { scalarise, type ScalarProgram } from '../passes/scalarise.js';
import { Names } from './names.js';
import { Library, Printer, kernelNames, type Dialect } from './printer.js';

/** One value in the uniform block. */
export interface Slot {
  readonly name: string;
  readonly node: Node;
  /** Place in the block, counted in floats. */
  readonly at: number;
  readonly width: number;
}

/** What is computed at each pixel, or at each vertex. */
export interface ShaderFunction {
  readonly outputs: readonly { readonly name: OutputName; readonly node: Node }[];
  /** Of a displacement: how it changes along tangent and bitangent, where the normal is to follow; none otherwise. */
  readonly bend: readonly Node[];
  /** The places it reads, in the order in which they are met. */
  readonly places: readonly Leaf[];
}

export interface ShaderPlan {
  readonly slots: readonly Slot[];
  /** Length of the block, in vec4. */
  readonly vec4s: number;
  /** Computes the slots, in order. */
  readonly frame: ScalarProgram;
  /** At each pixel. */
  readonly surface: ShaderFunction;
  /** At each vertex; null when nothing moves them. */
  readonly displacement: ShaderFunction | null;
  readonly slotOf: ReadonlyMap<Node, Slot>;
  /** What a node is called, where it is a strand's. */
  readonly nameOf: (node: Node) => string | undefined;
  /** Names of the kernels that are called. */
  readonly functions: ReadonlySet<string>;
  /** What lies behind is given at each point, rather than looked up in a picture. */
  readonly behindGiven: boolean;
}

export interface PlanOptions {
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

/** What is computed for a mesh's vertices: motes have none. */
const MOVING = OUTPUTS.surface.filter((name) => outputRecord(name).rate === 'vertex');

const NORMALS: readonly Leaf[] = ['normal', 'objectNormal', 'viewNormal'];

/** Whether any of these comes of a leaf like that. */
const reads = (roots: readonly Node[], like: (leaf: Leaf) => boolean): boolean =>
  [...rates(roots).keys()].some((n) => n.op === 'leaf' && like(n.leaf!));

/** How what moves the vertices changes along the surface; none where it is the same all over. */
function bendOf(program: Program, displacement: Node): readonly Node[] {
  const along = program.plainer((['t', 'b'] as const).map((axis) => slopeAlong(program.builder, displacement, axis)));
  const still = (node: Node) => node.op === 'const' && node.values!.every((v) => v === 0);
  return along.every(still) ? [] : along;
}

/** How a slot is called that no strand's value is. */
function slotNames(program: Program, called: (strand: LoweredStrand) => string): (node: Node) => string {
  const paramAt = new Map(program.params.map((p) => [p.at, p]));
  return (node) => {
    if (node.op === 'leaf') return node.leaf!;
    if (node.op !== 'param') return 'steady';
    const source = paramAt.get(node.index!)!.source;
    switch (source.from) {
      case 'strand':
        return `${called(program.strands.get(source.strand)!)} ${source.input === 'in' ? source.part : source.input}`;
      case 'output':
        return `${source.output} value`;
      case 'keys':
      case 'firings':
        throw new Error('a table of keys is looked at on the CPU');
      case 'cue':
        return `cue ${source.dial} ${source.part}`;
      case 'shared':
        return `shared ${source.shared}`;
      case 'duration':
        return `duration ${source.trigger}`;
      case 'loop':
        return 'loop';
    }
  };
}

export function planOf(
  program: Program,
  { hoist, only, naming = 'names', changes = 'screen', lit = false }: PlanOptions,
): ShaderPlan {
  const chosen = [...program.outputs].filter(([name]) => !only || only.includes(name));
  const named = chosen.map(([name, port]) => ({ name, node: port.node }));
  const vertexOutputs = named.filter(({ name }) => MOVING.includes(name));
  const pixelOutputs = named.filter(({ name }) => !MOVING.includes(name));
  const pixelRoots = pixelOutputs.map(({ node }) => node);
  const normalCounts = lit || reads(pixelRoots, (leaf) => NORMALS.includes(changeIn(leaf)?.of ?? leaf));
  const bend = vertexOutputs.length > 0 && normalCounts ? bendOf(program, vertexOutputs[0]!.node) : [];
  const roots = [...named.map(({ node }) => node), ...bend];
  const rate = rates(roots);

  const owners = new Map<Node, LoweredStrand>();
  for (const strand of program.strands.values())
    for (const port of Object.values(strand.ports)) if (!owners.has(port.node)) owners.set(port.node, strand);
  const called = (strand: LoweredStrand) => (naming === 'ids' ? strand.id : strand.name);
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
  const otherwise = slotNames(program, called);
  const slots: Slot[] = slotNodes.map((node, k) => {
    const owner = owners.get(node);
    const name = names.give(owner ? called(owner) : otherwise(node), 'slot');
    return { name, node, at: places[k]!, width: widthOf(node.type) };
  });
  const slotOf = new Map(slots.map((s) => [s.node, s]));
  const behindGiven = changes === 'given';
  const functionOf = (outputs: ShaderFunction['outputs'], along: readonly Node[]): ShaderFunction => {
    const reached = reach([...outputs.map(({ node }) => node), ...along], (node) => {
      if (slotOf.has(node)) return [];
      if (node.op !== 'behind') return node.args;
      return behindGiven ? node.args.slice(2) : node.args.slice(0, 2);
    });
    const leaves = reached.filter((n) => n.op === 'leaf' && !slotOf.has(n)).sort((a, b) => a.id - b.id);
    return { outputs, bend: along, places: [...new Set(leaves.map((n) => n.leaf!))] };
  };
  return {
    ...{ slots, vec4s, slotOf, functions, behindGiven, frame: scalarise(slotNodes) },
    surface: functionOf(pixelOutputs, []),
    displacement: vertexOutputs.length > 0 ? functionOf(vertexOutputs, bend) : null,
    nameOf: (node) => (node.op === 'const' || !owners.has(node) ? undefined : called(owners.get(node)!)),
  };
}

/** What stands for an output that nothing is connected to. */
export function neutralText(dialect: Dialect, name: OutputName, lit: boolean): string {
  const { neutral, unlit, kind } = outputRecord(name);
  const values = (!lit && unlit) || neutral;
  return dialect.constant({ id: -1, op: 'const', type: typeOf('f', widthOfKind(kind)), args: [], values }).text;
}

const LETTERS = 'xyzw';
/** A slot's components in the block, which is an array of vec4 called `k`. */
export const slotText = (at: number, width: number): string =>
  `k[${at >> 2}]${width === 4 ? '' : `.${LETTERS.slice(at & 3, (at & 3) + width)}`}`;

/** A stage's function in a language: its statements, and the text of each output and of each change along the surface. */
export interface PrintedFunction {
  readonly library: Library;
  readonly statements: readonly string[];
  readonly results: readonly string[];
}

/**
 * @param taken names that the function has for itself
 * @param block where the block's array is found, written before `k[...]`
 */
export function printFunction(
  plan: ShaderPlan,
  { outputs, bend }: ShaderFunction,
  dialect: Dialect,
  taken: readonly string[],
  block = '',
): PrintedFunction {
  const library = new Library(dialect);
  const own = new Names(taken, plan.functions);
  const local = new Map<Slot, string>();
  const printer = new Printer(
    library,
    own,
    (node) => {
      const slot = plan.slotOf.get(node);
      if (!slot) return node.leaf!;
      let name = local.get(slot);
      if (name === undefined) local.set(slot, (name = own.give(slot.name, 'slot')));
      return name;
    },
    (node) => plan.slotOf.has(node) || node.op === 'leaf',
    plan.nameOf,
    plan.behindGiven,
  );
  const { statements, results } = printer.print([...outputs.map(({ node }) => node), ...bend]);
  const head = [...local].map(([slot, name]) => dialect.declare(slot.node.type, name, block + slotText(slot.at, slot.width)));
  return { library, statements: [...head, ...statements], results };
}
