/** What a program may use at most: the minimum that WebGL2 guarantees, not what this machine happens to have. */
import type { Problem } from '../effect/read.js';
import type { GlslText } from './glsl.js';
import { varyingsFor } from './places.js';

/** MAX_UNIFORM_BLOCK_SIZE is at least 16384 bytes (OpenGL ES 3.0, table 6.31). */
export const BLOCK_VEC4S = 1024;
/** Of at least 15 varying vectors, these are left to an effect; the rest are the renderer's. */
export const VARYINGS = 8;

/** Of at least 16 samplers, these are left to an effect's images. */
export const IMAGES = 8;

export function budgetProblems(text: GlslText): Problem[] {
  const problems: Problem[] = [];
  const say = (message: string) => problems.push({ strand: null, code: 'budget', message });
  if (text.vec4s > BLOCK_VEC4S)
    say(
      `The sheet needs ${text.vec4s * 4} numbers a frame; every graphics card takes ${BLOCK_VEC4S * 4}. Fewer literals, or fewer strands, are needed.`,
    );
  const varyings = varyingsFor(text.fragment.leaves).length;
  if (varyings > VARYINGS)
    say(`The sheet reads ${varyings} places of the surface; every graphics card takes ${VARYINGS}. Read fewer of them.`);
  if (text.fragment.images.size > IMAGES)
    say(`The sheet looks up ${text.fragment.images.size} images; an effect may have ${IMAGES}. Read fewer of them.`);
  return problems;
}
