/** `wispen check`: validate, advise, ranges, loop. */
import { advise, type Advice } from '../core/analysis/advice.js';
import { readCost, type StrandCost } from '../core/analysis/cost.js';
import { readLoop, type LoopReading } from '../core/analysis/loop.js';
import { measureStrands, type Measured } from '../core/analysis/measure.js';
import { readStrands } from '../core/analysis/reading.js';
import type { Problem } from '../core/effect/read.js';
import { lower } from '../core/lower/lower.js';
import { budgetProblems } from '../core/targets/budgets.js';
import { emitGlsl } from '../core/targets/glsl.js';
import { BadInput, readFile } from './input.js';

interface Report {
  readonly ok: boolean;
  readonly errors: readonly Problem[];
  readonly advice: readonly Advice[];
  /** Infinite ends are null, for JSON has no infinity. */
  readonly ranges: Readonly<Record<string, readonly (readonly [number | null, number | null])[]>>;
  /** What each strand's value is over a small prop and the loop; null where it is never finite. */
  readonly measured: Readonly<Record<string, readonly (readonly [number, number] | null)[]>>;
  /** What each strand adds for a pixel, and its share of the whole, 0..1. */
  readonly cost: Readonly<Record<string, StrandCost>>;
  readonly loop: LoopReading | null;
}

const end = (x: number) => (Number.isFinite(x) ? x : null);

function report(file: string): Report {
  const failed = (errors: readonly Problem[]): Report => ({
    ok: false,
    errors,
    advice: [],
    ranges: {},
    measured: {},
    cost: {},
    loop: null,
  });
  let result;
  try {
    result = readFile(file);
  } catch (error) {
    if (error instanceof BadInput) return failed([{ strand: null, code: 'unreadable', message: error.message }]);
    throw error;
  }
  if (!result.ok) return failed(result.problems);
  const program = lower(result.effect, { build: 'live' });
  const readings = readStrands(program, result.effect.loop);
  const problems =
    program.problems.length > 0
      ? program.problems
      : budgetProblems(emitGlsl(program, { hoist: true, lit: result.effect.finish.lighting === 'lit' }));
  const sound = problems.length === 0;
  const measured = sound ? measureStrands(program, result.effect) : new Map<string, Measured>();
  return {
    ok: sound,
    errors: problems,
    advice: sound ? advise(result.effect, program, readings, measured) : [],
    ranges: Object.fromEntries([...readings].map(([id, r]) => [id, r.range!.map((i) => [end(i.low), end(i.high)] as const)])),
    measured: Object.fromEntries([...measured].map(([id, m]) => [id, m.range.map((r) => r && ([r.low, r.high] as const))])),
    cost: sound ? Object.fromEntries(readCost(program).strands) : {},
    loop: sound ? readLoop(program, result.effect) : null,
  };
}

/** @returns 0 when every file is sound; advice alone is not a fault */
export function check(files: readonly string[], json: boolean): number {
  const reports = files.map((file) => [file, report(file)] as const);
  if (json) {
    const objects = reports.map(([file, r]) => (files.length === 1 ? r : { file, ...r }));
    console.log(JSON.stringify(files.length === 1 ? objects[0] : objects, null, 2));
  }
  for (const [file, r] of reports) {
    const [first] = r.errors;
    if (first) {
      const more = r.errors.length > 1 ? ` (and ${r.errors.length - 1} more)` : '';
      console.error(`wispen: ${file}: ${first.message}${more}`);
    }
    if (json) continue;
    for (const e of r.errors) console.log(`${file}: error: ${e.strand ?? 'file'}: ${e.message}`);
    for (const a of r.advice) console.log(`${file}: advice: ${a.strand ?? 'effect'}: ${a.message}${a.mend ? ` ${a.mend}` : ''}`);
    for (const [id, range] of Object.entries(r.ranges)) {
      const words = range.map(([low, high]) => `${low ?? '-inf'} .. ${high ?? 'inf'}`);
      console.log(`${file}: range: ${id}: ${words.join(', ')}`);
    }
    for (const [id, { arithmetic, transcendental, reads, share }] of Object.entries(r.cost))
      if (share > 0)
        console.log(
          `${file}: cost: ${id}: ${(share * 100).toFixed(1)} %, ${arithmetic} operations, ${transcendental} transcendental, ${reads} texture reads`,
        );
    for (const { strand, period, nearest } of r.loop?.strands ?? [])
      console.log(
        `${file}: period: ${strand}: ${period === null ? 'never repeats' : `${Number(period.toPrecision(8))} s`}${nearest ? `. ${nearest.label} to close it` : ''}`,
      );
    if (r.loop)
      console.log(
        `${file}: loop: ${r.loop.closes ? 'closes' : 'does not close'}${r.loop.period === null ? '' : `, repeats every ${r.loop.period} s`}`,
      );
  }
  return reports.every(([, r]) => r.ok) ? 0 : 1;
}
