/** `wispen compile`: shader text or a module, and what each uniform stands for. */
import { LEAVES } from '../core/ir/leaves.js';
import { lower } from '../core/lower/lower.js';
import { paramValues } from '../core/lower/params.js';
import { scalarise } from '../core/passes/scalarise.js';
import { fillBlock } from '../core/targets/block.js';
import { emitGlsl } from '../core/targets/glsl.js';
import { shaderPair } from '../core/targets/glslPair.js';
import { listing } from '../core/targets/listing.js';
import { describeSlot } from '../core/formats/shareText.js';
import { BLOCK, emitWasm } from '../core/targets/wasm.js';
import { folderFor, give } from './files.js';
import { BadInput, WrongUsage, effectFrom } from './input.js';

const TARGETS = ['glsl', 'wasm', 'listing'];

export function compile(file: string, target: string, out: string, freeze: boolean): number {
  if (!TARGETS.includes(target)) throw new WrongUsage(`there is no target ${target}; there are ${TARGETS.join(', ')}`);
  const effect = effectFrom(file);
  const program = lower(effect, { build: freeze ? 'frozen' : 'live', writeCues: true });
  const [problem] = program.problems;
  if (problem) throw new BadInput(`${file}: ${problem.message}`);
  folderFor(out);
  const params = paramValues(program.params, effect);
  // Exported programs stand alone: their block holds time and plain numbers, nothing computed elsewhere.
  const text = emitGlsl(program, { hoist: false, lit: effect.finish.lighting === 'lit' });
  if (target === 'glsl') {
    const note = `${effect.name}. Written by Wispen; uniforms.json says what the block holds.`;
    const pair = shaderPair(text, effect.finish, note);
    give(out, 'effect.vert', pair.vertex);
    give(out, 'effect.frag', pair.fragment);
    const values = fillBlock(text, params, 0, effect.loop);
    const slots = text.slots.map((s) => describeSlot(s, program, values));
    give(
      out,
      'uniforms.json',
      `${JSON.stringify({ block: 'Effect', layout: 'std140', member: 'k', vec4s: text.vec4s, outputs: [...program.outputs.keys()], slots }, null, 2)}\n`,
    );
    return 0;
  }
  const outputs = [...program.outputs];
  const scalar = scalarise(outputs.map(([, port]) => port.node));
  if (target === 'listing') {
    give(
      out,
      'effect.txt',
      listing(
        scalar,
        outputs.map(([name]) => name),
      ),
    );
    return 0;
  }
  const varying = new Set(Object.keys(LEAVES).filter((l) => l !== 'loop') as (keyof typeof LEAVES)[]);
  const module = emitWasm(scalar, varying, program.paramBounds.length);
  give(out, 'effect.wasm', module.bytes);
  const about = {
    run: 'run(bytes, 0): bytes = samples * 4, a multiple of 16, at most 4096',
    block: BLOCK,
    paramsAt: module.paramsAt,
    params: program.params.map((p, k) => ({ ...p, value: [...params.subarray(p.at, p.at + p.width)], index: k })),
    uniforms: module.uniforms,
    planes: module.planes,
    outputs: module.outputs.map((o, k) => ({ name: outputs[k]![0], ...o })),
  };
  give(out, 'uniforms.json', `${JSON.stringify(about, null, 2)}\n`);
  return 0;
}
