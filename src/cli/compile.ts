/** `wispen compile`: shader text or a module, and what each uniform stands for. */
import { LEAVES } from '../core/ir/leaves.js';
import type { Effect } from '../core/effect/schema.js';
import { lower, type Program } from '../core/lower/lower.js';
import { paramValues } from '../core/lower/params.js';
import { scalarise } from '../core/passes/scalarise.js';
import { fillBlock, type BlockPlan } from '../core/targets/block.js';
import { emitGlsl } from '../core/targets/glsl.js';
import { shaderPair } from '../core/targets/glslPair.js';
import { listing } from '../core/targets/listing.js';
import { describeSlot, spillNote } from '../core/export/shareText.js';
import { BLOCK, emitWasm } from '../core/targets/wasm/module.js';
import { emitWgsl } from '../core/targets/wgsl.js';
import { folderFor, give } from './files.js';
import { BadInput, WrongUsage, effectFrom } from './input.js';

interface Order {
  readonly effect: Effect;
  readonly program: Program;
  readonly params: Float32Array;
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
const outputRoots = ({ program }: Order) => scalarise([...program.outputs.values()].map((port) => port.node));

/** Exported programs stand alone: their block holds time and plain numbers, nothing computed elsewhere. */
const TARGETS: Readonly<Record<string, (order: Order) => void>> = {
  glsl: (order) => {
    const { effect, program, out } = order;
    const text = emitGlsl(program, { hoist: false, lit: effect.finish.lighting === 'lit' });
    const pair = shaderPair(text, effect.finish, NOTE(effect));
    give(out, 'effect.vert', pair.vertex);
    give(out, 'effect.frag', pair.fragment);
    writeJson(out, blockOf(order, text));
  },
  wgsl: (order) => {
    const { effect, program, out } = order;
    const text = emitWgsl(program, effect.finish, NOTE(effect));
    give(out, 'effect.wgsl', text.module);
    writeJson(out, {
      ...blockOf(order, text),
      entries: { vertex: 'vertexMain', fragment: 'fragmentMain' },
      attributes: text.attributes.map(({ name, width }, location) => ({ name, location, format: `float32x${width}` })),
      colours: text.targets,
      images: [...text.images].map(([name, { asset, wrap, filter }], k) => ({
        ...{ name, asset, wrap, filter, group: 2, texture: 2 * k, sampler: 2 * k + 1 },
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

export function compile(file: string, target: string, out: string, freeze: boolean): number {
  if (!Object.hasOwn(TARGETS, target))
    throw new WrongUsage(`there is no target ${target}; there are ${Object.keys(TARGETS).join(', ')}`);
  const effect = effectFrom(file);
  const program = lower(effect, { build: freeze ? 'frozen' : 'live', writeCues: true });
  const [problem] = program.problems;
  if (problem) throw new BadInput(`${file}: ${problem.message}`);
  folderFor(out);
  TARGETS[target]!({ effect, program, params: paramValues(program.params, effect), out });
  return 0;
}
