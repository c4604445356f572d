/** `npm run bench`: ratios measured in one run, as a table and as JSON in bench/out/. Exit 1 when a stated bound is missed. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { emptyEffect, type Effect } from '../src/core/effect/schema.js';
import { lowbias32 } from '../src/core/ir/kernels/hash.js';
import { gradientNoise } from '../src/core/ir/kernels/noise.js';
import { power, sineTurns } from '../src/core/ir/kernels/transcendental.js';
import type { Leaf } from '../src/core/ir/leaves.js';
import { Lineage, lower, type Program } from '../src/core/lower/lower.js';
import { paramValues } from '../src/core/lower/params.js';
import { readCost } from '../src/core/analysis/cost.js';
import { fillBlock } from '../src/core/targets/block.js';
import { evaluatorOf } from '../src/core/targets/evaluate.js';
import { emitGlsl } from '../src/core/targets/glsl.js';
import { shaderPair } from '../src/core/targets/glslPair.js';
import { GLSL } from '../src/core/targets/dialects/glsl.js';
import { Library } from '../src/core/targets/printer.js';
import { createNoise3D } from 'simplex-noise';
import { ImprovedNoise } from 'three/examples/jsm/math/ImprovedNoise.js';
import { writeEffect } from '../src/core/effect/write.js';
import { cardOf } from '../src/store/card.js';
import { listEffects } from '../src/store/cards.js';
import { openDatabase } from '../src/store/database.js';
import { DocumentRow } from '../src/store/rows.js';
import { dissolveLoop, fiveNoisesLoop, forceFieldLoop, organicLoop, waterLoop } from './hand/loops.js';
import { interfaceFrames } from './interface.js';
import { stageFrames } from './stageFrames.js';
import { instructions } from './spirv.js';
import { TWINS, twinOf } from './twins.js';
import { CUED, CUED_LITTLE, DISSOLVE, FIVE_NOISES, FORCE_FIELD, HAND, ONE_NOISE, ORGANIC, WATER, ofSize } from './sheets.js';

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

/** `--only WORD`: parts whose name, or whose rows, have the word in them are measured. */
const only = process.argv.includes('--only') ? (process.argv[process.argv.indexOf('--only') + 1] ?? '').toLowerCase() : null;
/** `npm run test:deep` asks whether each part works, not how quick it is on a machine that does other things. */
const working = process.argv.includes('--working');

/** A row is told as soon as it is measured: what comes after it cannot take it away. */
function row(told: Row): void {
  rows.push(told);
  const { what, figure, bound, holds } = told;
  console.log(`${holds ? ' ' : '!'} ${what.padEnd(76)} ${figure.padEnd(30)} ${bound}`);
}

/** A part of the table by itself: one that fails is a row that says so. */
async function part(name: string, measure: () => Promise<void> | void): Promise<void> {
  if (only !== null && !name.toLowerCase().includes(only)) return;
  try {
    await measure();
  } catch (error) {
    failed.push(name);
    row({ what: name, figure: 'failed', bound: String((error as Error).message).split('\n', 1)[0]!, holds: false });
  }
}
const failed: string[] = [];

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
await part('flicker', async () => {
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
    row({
      what: `organic flicker, 512x512, ${how}: WebAssembly against a loop`,
      figure: `${times.toFixed(2)}x (differ by ${worst.toExponential(1)})`,
      bound: least === null ? '' : `at least ${least}x`,
      holds: times >= (least ?? 0) && worst < 1e-3,
    });
  }
});
await part('noises', async () => {
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
  row({
    what: 'five noises of position, 512x512: WebAssembly against a loop',
    figure: `${times.toFixed(2)}x (differ by ${worst.toExponential(1)})`,
    bound: 'at least 5x',
    holds: times >= 5 && worst < 1e-3,
  });
});

/** Planes of its inputs, already where the module reads them. */
function placed(run: ReturnType<typeof evaluator>['run'], leaf: Leaf, planes: Float32Array[]): Float32Array[] {
  return planes.map((values, lane) => {
    const plane = run.inputPlane(leaf, lane);
    plane.set(values);
    return plane;
  });
}
const P = [field((x) => x * 4 - 2), field((_, y) => y * 4 - 2), field((x, y) => x * y * 2)];
const apart = (a: Float32Array, b: Float32Array) =>
  a.reduce((m, v, k) => Math.max(m, Math.abs(v - b[k]!) / Math.max(1, Math.abs(b[k]!))), 0);
function versus(what: string, times: number, worst: number, least = 5): void {
  row({
    what: `${what}, 512x512: WebAssembly against a loop`,
    figure: `${times.toFixed(2)}x (differ by ${worst.toExponential(1)})`,
    bound: `at least ${least}x`,
    holds: times >= least && worst < 2e-3,
  });
}
await part('dissolve', async () => {
  const out = [0, 1, 2, 3].map(() => new Float32Array(N));
  const program = lower(DISSOLVE, { build: 'frozen' });
  const keep = program.strands.get('d')!.ports.keep!.node;
  const run = evaluatorOf(program, [program.outputs.get('emission')!.node, keep], new Set<Leaf>(['position']), N);
  const position = placed(run, 'position', P);
  let wasm: Float32Array[][] = [];
  const times = ratio(
    15,
    () => dissolveLoop(P[0]!, P[1]!, P[2]!, out),
    () => (wasm = run.view([], { position }, N)),
  );
  versus('dissolve with a burning rim', times, Math.max(apart(wasm[0]![0]!, out[0]!), apart(wasm[1]![0]!, out[3]!)));
});
await part('force field', async () => {
  const out = [0, 1, 2].map(() => new Float32Array(N));
  const normal = [field((x) => Math.sin(x * 3)), field(() => 0), field((x) => Math.cos(x * 3))];
  const view = [field((_, y) => Math.sin(y - 0.5)), field(() => 0), field((_, y) => Math.cos(y - 0.5))];
  const gap = field((x, y) => x * y * 0.8);
  const { run } = evaluator(FORCE_FIELD, ['position', 'normal', 'view', 'depthGap']);
  const leaves = {
    position: placed(run, 'position', P),
    normal: placed(run, 'normal', normal),
    view: placed(run, 'view', view),
    depthGap: placed(run, 'depthGap', [gap]),
  };
  let wasm: Float32Array[] = [];
  const times = ratio(
    15,
    () => forceFieldLoop(normal, view, gap, P, out),
    () => (wasm = run.view([], leaves, N)[0]!),
  );
  versus('force field', times, Math.max(...wasm.map((w, c) => apart(w, out[c]!))));
});
await part('water', async () => {
  const out = [0, 1, 2].map(() => new Float32Array(N));
  const depth = field((x, y) => 2 * x + y);
  const { run } = evaluator(WATER, ['worldPosition', 'depthGap']);
  const leaves = { worldPosition: placed(run, 'worldPosition', P), depthGap: placed(run, 'depthGap', [depth]), time: [1.3] };
  let wasm: Float32Array[] = [];
  const times = ratio(
    15,
    () => waterLoop(P[0]!, P[2]!, depth, 1.3, out),
    () => (wasm = run.view([], leaves, N)[0]!),
  );
  versus('water', times, Math.max(...wasm.map((w, c) => apart(w, out[c]!))));
});
await part('noise a sample', async () => {
  // One sample of noise at a time is what these libraries offer: each is called for every place of the field.
  const result = new Float32Array(N);
  const { run } = evaluator(ONE_NOISE, ['position']);
  const leaves = { position: placed(run, 'position', P) };
  const simplex = createNoise3D(() => 0.5);
  const improved = new ImprovedNoise();
  for (const [name, noise, least] of [
    ['simplex-noise', simplex, 2],
    ['three’s ImprovedNoise', (x: number, y: number, z: number) => improved.noise(x, y, z), 4],
  ] as const) {
    const each = () => {
      for (let k = 0; k < N; k++) result[k] = noise(P[0]![k]!, P[1]![k]!, P[2]![k]!);
    };
    const times = ratio(15, each, () => void run.view([], leaves, N));
    row({
      what: `3-D noise a sample: against ${name}`,
      figure: `${times.toFixed(2)}x`,
      bound: `at least ${least}x`,
      holds: times >= least,
    });
  }
});

// --- two threads against one, a whole bake each
await part('two threads against one, a whole bake each', async () => {
  const file = join(out, 'threads.wispen.json');
  writeFileSync(file, writeEffect({ ...FIVE_NOISES, loop: 4, fps: 30 }));
  const bake = (threads: number) => {
    const began = performance.now();
    execFileSync(
      process.execPath,
      [
        '--import',
        'tsx',
        join(here, '../src/cli/main.ts'),
        'bake',
        file,
        '--size',
        '768',
        '--frames',
        '0-23',
        '--format',
        'exr',
        '--out',
        join(out, 'frames'),
        '--threads',
        String(threads),
      ],
      { stdio: 'ignore' },
    );
    return performance.now() - began;
  };
  // Both start a process and load it: what that takes is measured with a bake of next to nothing and taken off.
  const empty = (threads: number) => {
    const began = performance.now();
    execFileSync(
      process.execPath,
      [
        '--import',
        'tsx',
        join(here, '../src/cli/main.ts'),
        'bake',
        file,
        '--size',
        '8',
        '--frames',
        '0-1',
        '--out',
        join(out, 'frames'),
        '--threads',
        String(threads),
      ],
      { stdio: 'ignore' },
    );
    return performance.now() - began;
  };
  const best = (f: () => number) => Math.min(f(), f(), f());
  const [start1, start2] = [best(() => empty(1)), best(() => empty(2))];
  const times = (best(() => bake(1)) - start1) / (best(() => bake(2)) - start2);
  row({
    what: 'bake, 24 frames of 768x768: two threads against one',
    figure: `${times.toFixed(2)}x`,
    bound: 'at least 1.8x',
    holds: times >= 1.8,
  });
});

// --- frozen GLSL against shaders written by hand: optimised SPIR-V instructions
const kernels = (() => {
  const library = new Library(GLSL);
  for (const k of [lowbias32, gradientNoise[1], gradientNoise[3], gradientNoise[4], sineTurns, power]) library.kernel(k);
  return library.toString();
})();

await part('hand shaders', async () => {
  let ours = 0;
  let hand = 0;
  for (const [name, effect] of Object.entries(HAND)) {
    const text = emitGlsl(lower(effect, { build: 'frozen' }), { hoist: false });
    const generated = instructions(out, `${name}-generated`, shaderPair(text, effect.finish, name).fragment);
    const written = instructions(
      out,
      `${name}-hand`,
      readFileSync(join(here, 'hand', `${name}.frag`), 'utf8').replace('#include "kernels"', kernels),
    );
    ours += generated;
    hand += written;
    row({
      what: `${name}: frozen GLSL against the hand-written shader, SPIR-V instructions`,
      figure: `${generated} / ${written} = ${(generated / written).toFixed(3)}x`,
      bound: '',
      holds: true,
    });
  }
  row({
    what: 'all three together',
    figure: `${ours} / ${hand} = ${(ours / hand).toFixed(3)}x`,
    bound: 'at most 1.02x',
    holds: ours / hand <= 1.02,
  });
});

// --- starters that have a shader written by hand beside them
await part('twins', async () => {
  for (const name of TWINS) {
    const { effect, generated, written } = twinOf(name);
    const count = (how: string, fragment: string, vertex: string | null) =>
      instructions(out, `${name}-${how}`, fragment) + (vertex === null ? 0 : instructions(out, `${name}-${how}`, vertex, 'vert'));
    const ours = count('generated', generated.fragment, written.vertex && generated.vertex);
    const hand = count('hand', written.fragment, written.vertex);
    row({
      what: `${effect.name}: frozen GLSL against the hand-written shader, SPIR-V instructions`,
      figure: `${ours} / ${hand} = ${(ours / hand).toFixed(3)}x`,
      bound: 'at most 1.00x',
      holds: ours <= hand,
    });
  }
});

// --- sheet to GLSL: by itself, and as it is edited
const toGlsl = (program: Program) => void emitGlsl(program, { hoist: true, naming: 'ids' });
await part('sheet to GLSL', async () => {
  for (const [size, plain, bound] of [
    [60, true, 2],
    [1000, true, null],
    [1000, false, null],
  ] as const) {
    const effect = ofSize(size, plain);
    // As often as an artist edits in a minute: what counts is a page that has been at work for a while.
    const [ms] = race(size > 100 ? 31 : 300, () => toGlsl(lower(effect, { build: 'live' })));
    row({
      what: `sheet to GLSL, ${size} strands${plain ? '' : ', one in five a pattern or a bump'}`,
      figure: `${ms!.toFixed(1)} ms`,
      bound: bound === null ? '' : `at most ${bound} ms`,
      holds: ms! <= (bound ?? Infinity),
    });
  }
});
await part('sheet to GLSL as it is edited', async () => {
  for (const [plain, bound] of [
    [true, 16],
    [false, 30],
  ] as const) {
    const effect = ofSize(1000, plain);
    const lineage = new Lineage();
    lineage.lower(effect);
    // A strand is bypassed, all over the sheet; the median is that of an edit anywhere.
    const times = Array.from({ length: 61 }, (_, k) => {
      const at = (k * 167) % 1000;
      const edited = { ...effect, strands: effect.strands.map((s, j) => (j === at ? { ...s, bypassed: true } : s)) };
      const began = performance.now();
      toGlsl(lineage.lower(edited as typeof effect));
      const ms = performance.now() - began;
      lineage.lower(effect);
      return ms;
    }).sort((p, q) => p - q);
    const [median, ninth] = [times[30]!, times[54]!];
    row({
      what: `a strand of 1000${plain ? '' : ', one in five a pattern or a bump,'} is bypassed: sheet to GLSL, half of them and nine in ten`,
      figure: `${median.toFixed(1)} ms, ${ninth.toFixed(1)} ms`,
      bound: `half at most ${bound} ms`,
      holds: median <= bound,
    });
  }
});

// --- what moves by keys: 20 dials of 256 keys each, on 20 props, a frame
await part('what moves by keys', async () => {
  const text = emitGlsl(lower(CUED, { build: 'live' }), { hoist: true, naming: 'ids' });
  const params = paramValues(lower(CUED, { build: 'live' }).params, CUED);
  const few = emitGlsl(lower(CUED_LITTLE, { build: 'live' }), { hoist: true, naming: 'ids' });
  const fewParams = paramValues(lower(CUED_LITTLE, { build: 'live' }).params, CUED_LITTLE);
  let moment = 0;
  const frame = (of: typeof text, numbers: typeof params) => () => {
    // Another moment each time: keys are looked for anew.
    moment = (moment + 0.617) % 4;
    for (let prop = 0; prop < 20; prop++) fillBlock(of, numbers, moment, 4, { propRandom: [prop / 20] });
  };
  const [many, little] = race(61, frame(text, params), frame(few, fewParams));
  row({
    what: 'cues, 256 keys on 20 dials and 20 props: a frame',
    figure: `${many!.toFixed(2)} ms, ${(many! / little!).toFixed(1)}x that of 2 keys`,
    bound: 'under 1 ms',
    holds: many! < 1,
  });
});

// --- what a sheet costs: no dearer a strand in a long one
await part('cost', async () => {
  const readings = [250, 1000].map((size) => lower(ofSize(size, true), { build: 'live' }));
  const [small, large] = race(15, ...readings.map((program) => () => void readCost(program)));
  const times = large! / small!;
  row({
    what: 'cost of 1000 strands against that of 250',
    figure: `${large!.toFixed(0)} / ${small!.toFixed(0)} ms = ${times.toFixed(1)}x`,
    bound: 'at most 8x',
    holds: times <= 8,
  });
});

// --- a library of ten thousand
await part('library', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'wispen-bench-'));
  const db = await openDatabase(folder);
  const effect = emptyEffect('0190f000-0000-7000-8000-000000000000', 'Lamp');
  const card = cardOf('effect', writeEffect({ ...effect, tags: ['lamp', 'dock'] }));
  for (let first = 0; first < 10_000; first += 1000)
    await DocumentRow.bulkCreate(
      Array.from({ length: 1000 }, (_, k) => ({
        ...{ id: `0190f000-0000-7000-8000-${String(first + k).padStart(12, '0')}`, format: 'effect' as const, version: 1 },
        ...{ name: `Lamp ${first + k}`, document: '{}', card },
      })),
    );
  const best = { page: Infinity, all: Infinity };
  for (let run = 0; run < 7; run++) {
    const began = performance.now();
    let { next } = await listEffects();
    best.page = Math.min(best.page, performance.now() - began);
    while (next) ({ next } = await listEffects(next));
    best.all = Math.min(best.all, performance.now() - began);
  }
  await db.close();
  rmSync(folder, { recursive: true });
  row({
    what: 'a library of 10,000 effects: its first page of 500, and all of its 20',
    figure: `${best.page.toFixed(0)} ms, ${best.all.toFixed(0)} ms`,
    bound: 'a page under 200 ms',
    holds: best.page < 200,
  });
});

// --- a frame of the stage
await part('a frame of the stage', async () => {
  const { ours, plain } = await stageFrames();
  const ratio = ours / plain;
  row({
    what: 'a frame of the stage against a plain three.js scene of the same meshes and passes',
    figure: `${ours.toFixed(0)} / ${plain.toFixed(0)} ms = ${ratio.toFixed(2)}x`,
    bound: 'at most 1.25x',
    holds: ratio <= 1.25,
  });
});

// --- motes: twenty thousand, whose places are worked out at every frame
await part('motes', async () => {
  const [still, motes] = [await stageFrames(), await stageFrames(true)];
  const ratio = (motes.ours - still.ours) / (motes.plain - still.plain);
  row({
    what: 'twenty thousand motes in one call, against as many plain instances that move: what a frame takes more',
    figure: `${(motes.ours - still.ours).toFixed(0)} / ${(motes.plain - still.plain).toFixed(0)} ms = ${ratio.toFixed(2)}x`,
    bound: 'at most 1.25x',
    holds: ratio <= 1.25,
  });
});

// --- the bench under the hand
await part('the bench under the hand', async () => {
  const { small, large, typed, stepped } = await interfaceFrames();
  const keeps = (what: 'scroll' | 'typing' | 'edit', words: string, most: number) => {
    const ratio = large[what][0] / small[what][0];
    row({
      what: `${words}, ${large.strands} strands against ${small.strands}`,
      figure: `${large[what][0].toFixed(0)} / ${small[what][0].toFixed(0)} ms = ${ratio.toFixed(2)}x`,
      bound: `at most ${most}x`,
      holds: ratio <= most,
    });
  };
  keeps('scroll', 'a frame while the sheet scrolls', 1.5);
  keeps('typing', 'a letter in the picker to its frame', 2);
  keeps('edit', 'a bypass to its frame, the picture aside', 4);
  row({
    what: 'a typed number to its picture, 59 strands, against a step of time',
    figure: `${typed[0].toFixed(0)} / ${stepped[0].toFixed(0)} ms = ${(typed[0] / stepped[0]).toFixed(2)}x`,
    bound: 'at most 2x',
    holds: typed[0] / stepped[0] <= 2,
  });
});

if (only !== null && rows.length === 0) console.log(`No part has “${only}” in its name.`);
writeFileSync(join(out, 'bench.json'), `${JSON.stringify({ node: process.version, rows }, null, 2)}\n`);
if (working ? failed.length > 0 : rows.length === 0 || rows.some((r) => !r.holds)) process.exitCode = 1;
