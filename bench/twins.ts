/** Starters beside the shader of the same picture that was written by hand for each (`hand/README.md`). */
import { existsSync, readFileSync, readdirSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { reach } from '../src/core/base/reach.js';
import { readEffect } from '../src/core/effect/read.js';
import type { Effect } from '../src/core/effect/schema.js';
import { lowbias32 } from '../src/core/ir/kernels/hash.js';
import { power, sineTurns } from '../src/core/ir/kernels/transcendental.js';
import { lower } from '../src/core/lower/lower.js';
import { GLSL } from '../src/core/targets/dialects/glsl.js';
import { DITHER_GLSL } from '../src/core/targets/dialects/dither.js';
import { GLSL_ALONG } from '../src/core/targets/dialects/glslPlaces.js';
import { refracts } from '../src/core/targets/ending.js';
import { emitGlsl } from '../src/core/targets/glsl.js';
import { shaderPair, shaderParts, type ShaderPair } from '../src/core/targets/glslPair.js';
import type { Slot } from '../src/core/targets/plan.js';
import { Library } from '../src/core/targets/printer.js';

const here = dirname(fileURLToPath(import.meta.url));
const HAND = join(here, 'hand');

export interface Twin {
  readonly name: string;
  readonly effect: Effect;
  readonly generated: ShaderPair;
  /** The vertex shader is null where nothing moves the vertices. */
  readonly written: { readonly fragment: string; readonly vertex: string | null };
  readonly slots: readonly Slot[];
}

/** Starters that have a shader written by hand. */
export const TWINS: readonly string[] = readdirSync(HAND).flatMap((file) => /^(.*-.*)\.frag$/.exec(file)?.[1] ?? []);

/** @throws when a starter cannot be read */
export function twinOf(name: string): Twin {
  const read = readEffect(JSON.parse(readFileSync(join(here, `../demo/starters/${name}.wispen.json`), 'utf8')));
  if (!read.ok) throw new Error(read.problems[0]!.message);
  const { effect } = read;
  const program = lower(effect, { build: 'frozen' });
  const text = emitGlsl(program, { hoist: false, lit: effect.finish.lighting === 'lit' });
  const nodes = reach(
    [...program.outputs.values()].map((port) => port.node),
    (node) => node.args,
  );
  const images = new Set(nodes.flatMap((node) => (node.op === 'sample' ? [node.image!] : [])));
  const library = new Library(GLSL);
  const [picture] = [...images].map((slot) => library.image(slot));
  for (const kernel of [lowbias32, power, sineTurns, ...nodes.flatMap((node) => node.kernel ?? [])]) library.kernel(kernel);
  const { sceneText } = shaderParts(text, { behind: refracts(effect.finish, text.fragment.outputs) });
  const complete = (file: string) =>
    readFileSync(join(HAND, file), 'utf8')
      .replace('#include "kernels"', library.toString())
      .replace('#include "scene"', sceneText)
      .replace('#include "along"', GLSL_ALONG)
      .replace('#include "dither"', DITHER_GLSL)
      .replaceAll('PICTURE', picture ?? 'PICTURE');
  return {
    ...{ name, effect, slots: text.slots },
    generated: shaderPair(text, effect.finish, name),
    written: {
      fragment: complete(`${name}.frag`),
      vertex: existsSync(join(HAND, `${name}.vert`)) ? complete(`${name}.vert`) : null,
    },
  };
}
