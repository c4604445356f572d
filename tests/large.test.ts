/** The largest sheets that are allowed, each strand reading the one above it: nothing overflows, nothing grows beyond its measure. */
import { readCost } from '../src/core/analysis/cost.js';
import { readLoop } from '../src/core/analysis/loop.js';
import { readStrands } from '../src/core/analysis/reading.js';
import { MAX_STRANDS, type Effect, type Strand } from '../src/core/effect/schema.js';
import { lower } from '../src/core/lower/lower.js';
import { paramValues } from '../src/core/lower/params.js';
import { scalarise } from '../src/core/passes/scalarise.js';
import { budgetProblems } from '../src/core/targets/budgets.js';
import { evaluatorOf, strandRoots } from '../src/core/targets/evaluate.js';
import { emitGlsl } from '../src/core/targets/glsl.js';
import { listing } from '../src/core/targets/listing.js';
import { evaluate } from '../src/core/targets/reference.js';
import { effectOf } from './fixtures/sheets.js';

const DEEP = process.env.WISPEN_DEEP !== undefined;

/** A chain of one operator from a place, or from time. */
function chain(op: string, input: string, from: 'uv' | 'time' | 'position', count: number, more: object = {}): Effect {
  const strands: Strand[] = [{ id: 's0', name: 'First', op: from }];
  for (let k = 1; k < count; k++)
    strands.push({ id: `s${k}`, name: `Step ${k}`, op, inputs: { [input]: { from: `s${k - 1}` }, ...more } } as Strand);
  return effectOf(strands, {}, { loop: 4 });
}

test.each([
  [MAX_STRANDS, 'sines of time, computed once a frame', (n: number) => chain('sin', 'in', 'time', n)],
  [MAX_STRANDS, 'sums', (n: number) => chain('add', 'a', 'uv', n, { b: { value: 0.1 } })],
  [DEEP ? MAX_STRANDS : 1500, 'sines of a place', (n: number) => chain('sin', 'in', 'uv', n)],
  [DEEP ? MAX_STRANDS : 1200, 'warps', (n: number) => chain('warp', 'position', 'position', n)],
])(
  '%d %s',
  (count, _, make) => {
    const effect = make(count);
    const program = lower(effect, { build: 'live' });
    expect(program.problems).toEqual([]);
    const params = paramValues(program.params, effect);
    const roots = strandRoots(program);
    const last = roots[roots.length - 1]!;
    const leaves = { time: [0.7], uv: [Float32Array.from([0.3]), Float32Array.from([0.6])] };
    // One number of the last, by both evaluators; and all of them at once.
    const [[got]] = evaluatorOf(program, [last], new Set(['uv']), 4).evaluate(params, leaves, 1) as [Float32Array[]];
    const [[wanted]] = evaluate(scalarise([last]), {
      params,
      leaves: { time: [0.7], uv: [0.3, 0.6], position: [0, 0, 0], loop: [4], propRandom: [0] },
    }) as [number[]];
    expect(Object.is(got![0]! + 0, wanted! + 0)).toBe(true);
    expect(evaluatorOf(program, roots, new Set(['uv']), 4).evaluate(params, leaves, 1)).toHaveLength(count);
    expect(listing(scalarise([last]), ['last'])).toContain('last');
    const lit = lower({ ...effect, outputs: { opacity: { from: `s${count - 1}`, part: 'x' } } } as Effect, {
      build: 'live',
    });
    for (const hoist of [true, false]) budgetProblems(emitGlsl(lit, { hoist }));
    expect(readStrands(program, effect.loop).size).toBe(count);
    expect(readCost(program).strands.size).toBe(count);
    readLoop(program, effect);
  },
  120_000,
);
