/** WGSL is accepted, as modules and as pipelines, by an implementation of WebGPU that is not ours (fixtures/wgslJudge). */
import { spawnSync } from 'node:child_process';
import { readFileSync, readdirSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { readEffect } from '../src/core/effect/read.js';
import type { Effect } from '../src/core/effect/schema.js';
import { lower } from '../src/core/lower/lower.js';
import { OPERATORS } from '../src/core/operators/catalogue.js';
import { emitWgsl, type WgslText } from '../src/core/targets/wgsl.js';
import { sheetsOf } from './fixtures/fills.js';
import { CLOCKS, runningOf } from './fixtures/running.js';
import { ASSETS, constructSheet, effectOf } from './fixtures/sheets.js';

const here = dirname(fileURLToPath(import.meta.url));

interface Case {
  readonly name: string;
  readonly module: string;
  readonly attributes?: WgslText['attributes'];
  readonly targets: number;
}
/** @returns what is wrong, by the name of the case */
function judged(cases: readonly Case[]): string[] {
  const { stdout, stderr, status } = spawnSync(process.execPath, [join(here, 'fixtures/wgslJudge.mjs')], {
    input: JSON.stringify(cases),
    encoding: 'utf8',
    maxBuffer: 2 ** 28,
    env: { ...process.env, NODE_OPTIONS: '' },
  });
  if (status !== 0) throw new Error(`${status} ${stderr}`);
  const answers = JSON.parse(stdout) as string[][];
  expect(answers).toHaveLength(cases.length);
  return answers.flatMap((faults, k) => faults.map((fault) => `${cases[k]!.name}: ${fault}`));
}

type Build = 'live' | 'frozen';
function caseOf(name: string, effect: Effect, build: Build, lighting: 'lit' | 'unlit' = effect.finish.lighting): Case {
  const program = lower(effect, { build, writeCues: true });
  const { module, attributes, targets } = emitWgsl(program, { ...effect.finish, lighting }, effect.name);
  return { name, module, attributes, targets };
}

/** Whatever a strand gives, some output takes it. */
function shown(effect: Effect): Effect {
  for (const [name, part] of [['emission'], ['opacity', 'x'], ['emission', 'xxx']] as const) {
    const outputs = { [name]: { from: 'tested', ...(part ? { part } : {}) } };
    if (lower({ ...effect, outputs }, { build: 'live' }).problems.length === 0) return { ...effect, outputs };
  }
  throw new Error('no output takes it');
}

const demo = join(here, '../demo/starters');
const starters = readdirSync(demo).map((file): Effect => {
  const read = readEffect(JSON.parse(readFileSync(join(demo, file), 'utf8')));
  if (!read.ok) throw new Error(file);
  return read.effect;
});

test('the judge judges: a broken module, and a pipeline that does not fit, are refused', () => {
  const sound = caseOf('sound', starters[0]!, 'live');
  const broken = { ...sound, name: 'broken', module: sound.module.replace('fn surface(', 'fn surface((') };
  const poor = { ...sound, name: 'poor', attributes: sound.attributes!.slice(1) };
  const faults = judged([sound, broken, poor]);
  expect(faults).toHaveLength(2);
  expect(faults[0]).toMatch(/^broken: error in line \d+/);
  expect(faults[1]).toMatch(/^poor: the pipeline: /);
});

test('every starter is a module and a pipeline, live and frozen, lit and not', () => {
  const cases = starters.flatMap((effect) =>
    (['live', 'frozen'] as const).flatMap((build) =>
      (['lit', 'unlit'] as const).map((lighting) => caseOf(`${effect.name}, ${build}, ${lighting}`, effect, build, lighting)),
    ),
  );
  expect(judged(cases)).toEqual([]);
});

test('every operator with every option is, what runs on too, and so is every sheet of them', () => {
  const operators = OPERATORS.flatMap((op) => [
    ...sheetsOf(op).map(({ name, effect }) => caseOf(name, shown(effect), 'live')),
    ...runningOf(op).map(({ what, strand }) =>
      caseOf(what, shown(effectOf([...CLOCKS, strand], {}, { ...ASSETS, loop: null })), 'frozen'),
    ),
  ]);
  expect(operators.length).toBeGreaterThan(500);
  const sheets = Array.from({ length: 60 }, (_, k) =>
    caseOf(`sheet ${k}`, constructSheet(k, { strands: 4 + (k % 37) }), k % 2 ? 'live' : 'frozen', k % 3 ? 'lit' : 'unlit'),
  );
  expect(judged([...operators, ...sheets]).slice(0, 10)).toEqual([]);
}, 300_000);
