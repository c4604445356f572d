/** `npm run bench`: ratios measured in one run, as a table and as JSON in bench/out/. Exit 1 when a stated bound is missed. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Effect } from '../src/core/effect/schema.js';
import { gradientNoise, lowbias32 } from '../src/core/ir/kernels/noise.js';
import { power, sineTurns } from '../src/core/ir/kernels/transcendental.js';
import type { Leaf } from '../src/core/ir/leaves.js';
import { lower } from '../src/core/lower/lower.js';
import { paramValues } from '../src/core/lower/params.js';
import { evaluatorOf } from '../src/core/targets/evaluate.js';
import { emitGlsl } from '../src/core/targets/glsl.js';
import { shaderPair } from '../src/core/targets/glslPair.js';
import { Library } from '../src/core/targets/glslText.js';
import { fiveNoisesLoop, organicLoop } from './hand/loops.js';
import { FIVE_NOISES, HAND, ORGANIC, ofSize } from './sheets.js';

const here = dirname(fileURLToPath(import.meta.url));
const out = join(here, 'out');
mkdirSync(out, { recursive: true });

interface Row {
  readonly what: string;
  readonly figure: string;
  readonly bound: string;
  readonly holds: boolean;
}
const rows: Row[] = [];

/** The shortest of several interleaved runs of each: what the machine can do when it is left alone. */
function race(runs: number, ...tasks: (() => void)[]): number[] {
  const best = tasks.map(() => Infinity);
  for (const t of tasks) t();
  for (let k = 0; k < runs; k++)
    tasks.forEach((task, j) => {
      const began = performance.now();
      task();
      best[j] = Math.min(best[j]!, performance.now() - began);
    });
  return best;
}

/** How many times as long the first takes: the middle of the ratios of paired runs, each pair back to back. */
function ratio(pairs: number, slow: () => void, fast: () => void): number {
  for (let k = 0; k < 8; k++) (slow(), fast());
  const ratios = Array.from({ length: pairs }, () => {
    const began = performance.now();
    slow();
    const between = performance.now();
    fast();
    return (between - began) / (performance.now() - between);
  });
  return ratios.sort((a, b) => a - b)[pairs >> 1]!;
}

// --- WebAssembly against hand-written JavaScript
const N = 512 * 512;
const field = (f: (x: number, y: number) => number) =>
  Float32Array.from({ length: N }, (_, k) => f((k % 512) / 512, Math.floor(k / 512) / 512));

// The loops have their numbers written in: so has the program they are measured against.
function evaluator(effect: Effect, varying: Leaf[]) {
  const program = lower(effect, { build: 'frozen' });
  const node = program.outputs.get('emission')!.node;
  // A number feeds all three channels of an emission: one is computed, as in the loop.
  const root = effect === FIVE_NOISES ? program.strands.get('d')!.value.node : node;
  return { run: evaluatorOf(program, [root], new Set(varying), N), params: paramValues(program.params, effect) };
}
// A field of lamps, each at a moment of its own, is what the bound is for. Where neighbours blink together, the processor
// guesses the loop's branches, and the loop gains more than WebAssembly, which has none: told beside it, without a bound.
for (const [how, time, least] of [
  ['each at its own moment', field((x, y) => (Math.abs(Math.sin(x * 12.9898 + y * 78.233) * 43758.5453) % 1) * 4), 5],
  ['neighbours together', field((x, y) => x * 4 + y), null],
] as const) {
  const planes = [0, 1, 2].map(() => new Float32Array(N));
  const { run, params } = evaluator(ORGANIC, ['time']);
  // Both read numbers that are there already.
  const there = run.inputPlane('time', 0);
  there.set(time);
  let wasm: Float32Array[] = [];
  const times = ratio(
    61,
    () => organicLoop(time, planes),
    () => (wasm = run.view(params, { time: [there] }, N)[0]!),
  );
  const worst = wasm[1]!.reduce((m, v, k) => Math.max(m, Math.abs(v - planes[1]![k]!)), 0);
  rows.push({
    what: `organic flicker, 512x512, ${how}: WebAssembly against a loop`,
    figure: `${times.toFixed(2)}x (differ by ${worst.toExponential(1)})`,
    bound: least === null ? '' : `at least ${least}x`,
    holds: times >= (least ?? 0) && worst < 1e-3,
  });
}
{
  const position = [field((x) => x * 4 - 2), field((_, y) => y * 4 - 2), field((x, y) => x * y)];
  const result = new Float32Array(N);
  const { run, params } = evaluator(FIVE_NOISES, ['position']);
  const there = position.map((values, lane) => {
    const plane = run.inputPlane('position', lane);
    plane.set(values);
    return plane;
  });
  let wasm: Float32Array[] = [];
  const times = ratio(
    21,
    () => fiveNoisesLoop(position[0]!, position[1]!, position[2]!, result),
    () => (wasm = run.view(params, { position: there }, N)[0]!),
  );
  const worst = wasm[0]!.reduce((m, v, k) => Math.max(m, Math.abs(v - result[k]!)), 0);
  rows.push({
    what: 'five noises of position, 512x512: WebAssembly against a loop',
    figure: `${times.toFixed(2)}x (differ by ${worst.toExponential(1)})`,
    bound: 'at least 5x',
    holds: times >= 5 && worst < 1e-3,
  });
}

// --- frozen GLSL against shaders written by hand: optimised SPIR-V instructions
const kernels = (() => {
  const library = new Library();
  for (const k of [lowbias32, gradientNoise[1], gradientNoise[3], gradientNoise[4], sineTurns, power]) library.kernel(k);
  return library.toString();
})();

function instructions(name: string, source: string): number {
  const path = (ext: string) => join(out, `${name}.${ext}`);
  // SPIR-V wants the desktop-embedded profile, which has the same words.
  writeFileSync(path('frag'), source.replace('#version 300 es', '#version 310 es'));
  execFileSync('glslangValidator', ['-G', '--aml', '--amb', '-g0', path('frag'), '-o', path('spv')], {
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  execFileSync('spirv-opt', [
    '--target-env=opengl4.5',
    '--inline-entry-points-exhaustive',
    '-O',
    '--strip-debug',
    path('spv'),
    '-o',
    path('opt.spv'),
  ]);
  const text = execFileSync('spirv-dis', [path('opt.spv')], { encoding: 'utf8' });
  // Arithmetic, comparison, conversion, selection, images and extended instructions; not loads, types or names.
  const counted =
    /= Op(F|I|S|U|Bit|Shift|Not|Logical|Select|Dot|VectorTimes|Matrix|Ext|Convert|Image|Composite|VectorShuffle|Any|All|Phi)/;
  return text.split('\n').filter((l) => counted.test(l) && !/OpExtInstImport|OpImageType|OpSampledImage /.test(l)).length;
}
{
  let ours = 0;
  let hand = 0;
  for (const [name, effect] of Object.entries(HAND)) {
    const text = emitGlsl(lower(effect, { build: 'frozen' }), { hoist: false });
    const generated = instructions(`${name}-generated`, shaderPair(text, effect.finish, name).fragment);
    const written = instructions(
      `${name}-hand`,
      readFileSync(join(here, 'hand', `${name}.frag`), 'utf8').replace('#include "kernels"', kernels),
    );
    ours += generated;
    hand += written;
    rows.push({
      what: `${name}: frozen GLSL against the hand-written shader, SPIR-V instructions`,
      figure: `${generated} / ${written} = ${(generated / written).toFixed(3)}x`,
      bound: '',
      holds: true,
    });
  }
  rows.push({
    what: 'all three together',
    figure: `${ours} / ${hand} = ${(ours / hand).toFixed(3)}x`,
    bound: 'at most 1.02x',
    holds: ours / hand <= 1.02,
  });
}

// --- sheet to GLSL
for (const [size, bound] of [
  [60, 5],
  [1000, 60],
] as const) {
  const effect = ofSize(size);
  // As often as an artist edits in a minute: what counts is a page that has been at work for a while.
  const [ms] = race(31, () => void emitGlsl(lower(effect, { build: 'live' }), { hoist: true, naming: 'ids' }));
  rows.push({
    what: `sheet to GLSL, ${size} strands`,
    figure: `${ms!.toFixed(1)} ms`,
    bound: `under ${bound} ms`,
    holds: ms! < bound,
  });
}

for (const { what, figure, bound, holds } of rows)
  console.log(`${holds ? ' ' : '!'} ${what.padEnd(76)} ${figure.padEnd(30)} ${bound}`);
writeFileSync(join(out, 'bench.json'), `${JSON.stringify({ node: process.version, rows }, null, 2)}\n`);
if (rows.some((r) => !r.holds)) process.exitCode = 1;
