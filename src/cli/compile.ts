/** `wispen compile`: shader text or a module, and what each uniform stands for. */
import { LEAVES } from '../core/ir/leaves.js';
import type { ImageSlot } from '../core/ir/types.js';
import { flat } from '../core/effect/motifs.js';
import type { Effect } from '../core/effect/schema.js';
import { withVariant } from '../core/effect/variant.js';
import { lower, type Program } from '../core/lower/lower.js';
import { paramValues } from '../core/lower/params.js';
import { scalarise } from '../core/passes/scalarise.js';
import { fillBlock, type BlockPlan } from '../core/targets/block.js';
import { emitGlsl } from '../core/targets/glsl.js';
import { endingOf } from '../core/targets/ending.js';
import { shaderPair, shaderParts } from '../core/targets/glslPair.js';
import { listing } from '../core/targets/listing.js';
import { attributesOfMesh, drawingOf, imageFiles, type ImageFile } from '../core/export/drawing.js';
import { describeSlot, spillNote } from '../core/export/shareText.js';
import { BLOCK, emitWasm } from '../core/targets/wasm/module.js';
import { emitWgsl } from '../core/targets/wgsl.js';
import { folderFor, give } from './files.js';
import { BadInput, WrongUsage, effectAndFiles, variantNamed } from './input.js';

interface Order {
  /** In its variant, with its motifs, and without them. */
  readonly whole: Effect;
  readonly effect: Effect;
  readonly program: Program;
  readonly params: Float32Array;
  /** Images' files that came with the effect, by SHA-256. */
  readonly files: ReadonlyMap<string, Uint8Array>;
  readonly out: string;
}
const NOTE = (effect: Effect) =>
  [`${effect.name}. Written by Wispen; uniforms.json says what the block holds.`, ...spillNote(effect)].join(' ');
const writeJson = (out: string, value: object) => give(out, 'uniforms.json', `${JSON.stringify(value, null, 2)}\n`);

/** What the block holds, for whoever fills it. */
function blockOf({ effect, program, params }: Order, text: BlockPlan) {
  const values = fillBlock(text, params, 0, effect.loop);
  return {
    ...{ block: 'Effect', layout: 'std140', member: 'k', vec4s: text.vec4s, outputs: [...program.outputs.keys()] },
    slots: text.slots.map((s) => describeSlot(s, program, values)),
  };
}

/** Writes the images that a shader looks up beside it. @returns what is said of them */
function giveImages({ effect, files, out }: Order, images: ReadonlyMap<string, ImageSlot>): ImageFile[] {
  const given = new Set<string>();
  return imageFiles(effect, images, (sha) => files.has(sha)).map(({ sha256, ...about }) => {
    if (about.file !== null && !given.has(about.file)) give(out, about.file, files.get(sha256!)!);
    if (about.file !== null) given.add(about.file);
    return about;
  });
}
const outputRoots = ({ program }: Order) => scalarise([...program.outputs.values()].map((port) => port.node));

/** What the pair asks of whoever draws it, beside the block and the images. */
const MATRICES = {
  modelMatrix: "from the mesh's own space to the stage's",
  viewMatrix: "from the stage's space to the eye's, which looks along -z",
  projectionMatrix: 'depth -1 to 1',
  cameraPosition: "in the stage's space, metres",
};
const SCENE = {
  opaqueColour: 'what is opaque, drawn before: scene-linear, with all its smaller levels, first row at the bottom',
  opaqueDepth: 'its depth along the view axis, metres, nearest texel; what is farther than all counts as far',
  pictureSize: 'pixels',
};

/** Exported programs stand alone: their block holds time and plain numbers, nothing computed elsewhere. */
const TARGETS: Readonly<Record<string, (order: Order) => void>> = {
  glsl: (order) => {
    const { effect, program, out } = order;
    const text = emitGlsl(program, { hoist: false, lit: effect.finish.lighting === 'lit' });
    const pair = shaderPair(text, effect.finish, NOTE(effect));
    give(out, 'effect.vert', pair.vertex);
    give(out, 'effect.frag', pair.fragment);
    const ending = endingOf(text.fragment.outputs, effect.finish);
    const { attributes, sceneText } = shaderParts(text, { varyings: ending.varyings, behind: ending.refracts });
    const images = new Map([...text.fragment.images, ...(text.vertex?.images ?? [])]);
    writeJson(out, {
      ...blockOf(order, text),
      ...drawingOf(order.whole, effect, program, text.fragment.outputs, text.slots),
      attributes: attributesOfMesh(attributes.map((a) => a.slice(a.lastIndexOf(' ') + 1))),
      images: giveImages(order, images),
      uniforms: { ...MATRICES, ...(sceneText.includes('opaqueColour') ? SCENE : {}) },
    });
  },
  wgsl: (order) => {
    const { effect, program, out } = order;
    const text = emitWgsl(program, effect.finish, NOTE(effect));
    give(out, 'effect.wgsl', text.module);
    writeJson(out, {
      ...blockOf(order, text),
      entries: { vertex: 'vertexMain', fragment: 'fragmentMain' },
      ...drawingOf(order.whole, effect, program, text.outputs, text.slots),
      attributes: attributesOfMesh(text.attributes.slice(2).map(({ name }) => name)).map((about, location) => ({
        ...{ ...about, location, format: `float32x${about.components}` },
      })),
      colours: text.targets,
      images: giveImages(order, text.images).map((image, k) => ({
        ...{ ...image, group: 2, texture: 2 * k, sampler: 2 * k + 1 },
      })),
    });
  },
  listing: (order) => give(order.out, 'effect.txt', listing(outputRoots(order), [...order.program.outputs.keys()])),
  wasm: (order) => {
    const { program, params, out } = order;
    const outputs = [...program.outputs];
    const varying = new Set(Object.keys(LEAVES).filter((l) => l !== 'loop') as (keyof typeof LEAVES)[]);
    const module = emitWasm(outputRoots(order), varying, program.paramBounds.length);
    give(out, 'effect.wasm', module.bytes);
    writeJson(out, {
      run: 'run(bytes, 0): bytes = samples * 4, a multiple of 16, at most 4096',
      block: BLOCK,
      paramsAt: module.paramsAt,
      params: program.params.map((p, k) => ({ ...p, value: [...params.subarray(p.at, p.at + p.width)], index: k })),
      uniforms: module.uniforms,
      planes: module.planes,
      outputs: module.outputs.map((o, k) => ({ name: outputs[k]![0], ...o })),
    });
  },
};

export interface CompileOptions {
  readonly target: string;
  readonly out: string;
  readonly freeze: boolean;
  /** Its id or its name; null for the effect as it is. */
  readonly variant: string | null;
}

export async function compile(file: string, { target, out, freeze, variant }: CompileOptions): Promise<number> {
  if (!Object.hasOwn(TARGETS, target))
    throw new WrongUsage(`there is no target ${target}; there are ${Object.keys(TARGETS).join(', ')}`);
  const { effect: base, files } = await effectAndFiles(file);
  const whole = withVariant(base, variant === null ? null : variantNamed(file, base, variant));
  const effect = flat(whole);
  const program = lower(effect, { build: freeze ? 'frozen' : 'live', writeCues: true });
  const [problem] = program.problems;
  if (problem) throw new BadInput(`${file}: ${problem.message}`);
  folderFor(out);
  TARGETS[target]!({ whole, effect, program, params: paramValues(program.params, effect), files, out });
  return 0;
}
