/** `wispen check`: validate, advise, ranges, loop. */
import { advise, type Advice } from '../core/analysis/advice.js';
import { readLoop, type LoopReading } from '../core/analysis/loop.js';
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
  readonly loop: LoopReading | null;
}

const end = (x: number) => (Number.isFinite(x) ? x : null);

function report(file: string): Report {
  const failed = (errors: readonly Problem[]): Report => ({ ok: false, errors, advice: [], ranges: {}, loop: null });
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
  const problems = program.problems.length > 0 ? program.problems : budgetProblems(emitGlsl(program, { hoist: true }));
  const sound = problems.length === 0;
  return {
    ok: sound,
    errors: problems,
    advice: sound ? advise(result.effect, program, readings) : [],
    ranges: Object.fromEntries([...readings].map(([id, r]) => [id, r.range.map((i) => [end(i.low), end(i.high)] as const)])),
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
    if (r.loop)
      console.log(
        `${file}: loop: ${r.loop.closes ? 'closes' : 'does not close'}${r.loop.period === null ? '' : `, repeats every ${r.loop.period} s`}`,
      );
  }
  return reports.every(([, r]) => r.ok) ? 0 : 1;
}
