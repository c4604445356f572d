/** How much a shader does: the instructions of its SPIR-V, optimised. */
import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** Arithmetic, comparison, conversion, selection, images and extended instructions; not loads, types or names. */
const COUNTED =
  /= Op(F|I|S|U|Bit|Shift|Not|Logical|Select|Dot|VectorTimes|Matrix|Ext|Convert|Image|Composite|VectorShuffle|Any|All|Phi)/;

/** @param out folder in which the steps are kept @param source of GLSL ES 3.00 */
export function instructions(out: string, name: string, source: string, stage: 'frag' | 'vert' = 'frag'): number {
  const path = (ext: string) => join(out, `${name}.${stage}.${ext}`);
  // SPIR-V wants the desktop-embedded profile, which has the same words.
  writeFileSync(path('glsl'), source.replace('#version 300 es', '#version 310 es'));
  execFileSync('glslangValidator', ['-G', '--aml', '--amb', '-g0', '-S', stage, path('glsl'), '-o', path('spv')], {
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  execFileSync('spirv-opt', [
    ...['--target-env=opengl4.5', '--inline-entry-points-exhaustive', '-O', '--strip-debug'],
    ...[path('spv'), '-o', path('opt.spv')],
  ]);
  const text = execFileSync('spirv-dis', [path('opt.spv')], { encoding: 'utf8' });
  return text.split('\n').filter((l) => COUNTED.test(l) && !/OpExtInstImport|OpImageType|OpSampledImage /.test(l)).length;
}
