/** GLSL ES 3.00 for an effect: a plan's block and its functions as text. */
import { LEAVES, type Leaf } from '../ir/leaves.js';
import type { ImageSlot } from '../ir/types.js';
import type { OutputName } from '../effect/outputs.js';
import type { Program } from '../lower/lower.js';
import type { ScalarProgram } from '../passes/scalarise.js';
import { GLSL, glslType } from './dialects/glsl.js';
import { planOf, printFunction, type PlanOptions, type Slot, type ShaderFunction, type ShaderPlan } from './plan.js';
import { indent } from './printer.js';

/** One stage's function: `Surface surface(...)` or `vec3 displacement(...)`. */
export interface ShaderText {
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
  readonly fragment: ShaderText;
  /** Null when nothing moves the vertices. */
  readonly vertex: ShaderText | null;
  /** Computes the slots, in order. */
  readonly frame: ScalarProgram;
}

export type GlslOptions = PlanOptions;

const ALONG = ['alongTangent', 'alongBitangent'] as const;
/** Names that a function's arguments have. */
export const TAKEN: readonly string[] = [...Object.keys(LEAVES), ...ALONG];

function textOf(plan: ShaderPlan, stage: ShaderFunction, code: (print: Printed) => string): ShaderText {
  const { library, statements, results } = printFunction(plan, stage, GLSL, TAKEN);
  const args = stage.places.map((leaf) => `${glslType(LEAVES[leaf].type)} ${leaf}`);
  return {
    library: library.toString(),
    code: code({ statements, results, args }),
    leaves: stage.places,
    outputs: stage.outputs.map(({ name }) => name),
    images: library.images,
    bends: stage.bend.length > 0,
  };
}
interface Printed {
  readonly statements: readonly string[];
  readonly results: readonly string[];
  readonly args: readonly string[];
}

const displacementOf = (plan: ShaderPlan, stage: ShaderFunction): ShaderText =>
  textOf(plan, stage, ({ statements, results, args }) => {
    const along = ALONG.slice(0, stage.bend.length);
    const taken = [...args, ...along.map((a) => `out vec3 ${a}`)].join(', ');
    const ends = [...along.map((a, k) => `${a} = ${results[k + 1]!};`), `return ${results[0]!};`];
    return `vec3 displacement(${taken}) {\n${indent([...statements, ...ends])}\n}`;
  });

const surfaceOf = (plan: ShaderPlan, stage: ShaderFunction): ShaderText =>
  textOf(plan, stage, ({ statements, results, args }) => {
    const fields = stage.outputs.map(({ name, node }) => `${glslType(node.type)} ${name};`);
    const struct = `struct Surface {\n${indent(fields.length > 0 ? fields : ['float nothing;'])}\n};`;
    const stores = stage.outputs.map(({ name }, k) => `s.${name} = ${results[k]!};`);
    const body = [...statements, 'Surface s;', ...stores, ...(fields.length > 0 ? [] : ['s.nothing = 0.0;']), 'return s;'];
    return `${struct}\n\nSurface surface(${args.join(', ')}) {\n${indent(body)}\n}`;
  });

export function emitGlsl(program: Program, options: GlslOptions): GlslText {
  const plan = planOf(program, options);
  const { slots, vec4s, frame } = plan;
  return {
    block: `layout(std140) uniform Effect {\n  vec4 k[${vec4s}];\n};`,
    ...{ slots, vec4s, frame },
    fragment: surfaceOf(plan, plan.surface),
    vertex: plan.displacement && displacementOf(plan, plan.displacement),
  };
}
