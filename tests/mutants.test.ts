/**
 * Whatever is accepted compiles, or is refused with a sentence: sound effects are changed at random places, and every
 * mutant that the reader takes is carried through lowering, all targets and all readings. Nothing may throw.
 */
import { readFileSync, readdirSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { advise } from '../src/core/analysis/advice.js';
import { readCost } from '../src/core/analysis/cost.js';
import { readLoop } from '../src/core/analysis/loop.js';
import { measureStrands } from '../src/core/analysis/measure.js';
import { readStrands } from '../src/core/analysis/reading.js';
import { readEffect } from '../src/core/effect/read.js';
import type { Effect } from '../src/core/effect/schema.js';
import { withVariant } from '../src/core/effect/variant.js';
import { writeEffect, writeRead } from '../src/core/effect/write.js';
import { readStage, writeStage } from '../src/core/scene/stage.js';
import { LEAF_NAMES, LEAVES } from '../src/core/ir/leaves.js';
import { lower } from '../src/core/lower/lower.js';
import { paramValues } from '../src/core/lower/params.js';
import { scalarise } from '../src/core/passes/scalarise.js';
import { fillBlock } from '../src/core/targets/block.js';
import { evaluatorOf, strandRoots } from '../src/core/targets/evaluate.js';
import { emitGlsl } from '../src/core/targets/glsl.js';
import { shaderPair } from '../src/core/targets/glslPair.js';
import { listing } from '../src/core/targets/listing.js';
import { evaluate } from '../src/core/targets/reference.js';
import { ASSETS, PICTURES, SHARED, effectOf, randomFrom } from './fixtures/sheets.js';

const DEEP = process.env.WISPEN_DEEP !== undefined;
const COUNT = DEEP ? 10_000 : 360;
const demo = join(dirname(fileURLToPath(import.meta.url)), '../demo');
const filesIn = (folder: string) =>
  readdirSync(join(demo, folder))
    .filter((f) => f.endsWith('.json'))
    .map((f) => JSON.parse(readFileSync(join(demo, folder, f), 'utf8')) as object);

/** Everything that a file can hold, in one: literals of all forms, dials, variants, cues, triggers, assets, a home. */
const whole = (): object =>
  JSON.parse(
    writeEffect({
      ...effectOf(
        [
          { id: 't', name: 'Time', op: 'time' },
          { id: 'uv', name: 'Place', op: 'uv' },
          { id: 'n', name: 'Grain', op: 'noise', inputs: { position: { from: 'uv' }, scale: { value: 3 } } },
          { id: 'r', name: 'Paint', op: 'ramp', inputs: { in: { from: 'n' }, 'stops.1.place': { value: 0.7 } } },
          { id: 'i', name: 'Stain', op: 'image', inputs: { image: { value: { asset: 'rock' } }, uv: { from: 'uv' } } },
          { id: 's', name: 'Tide', op: 'shared', inputs: { shared: { value: { text: 'tide' } } } },
          { id: 'f', name: 'Law', op: 'formula', inputs: { a: { from: 'n' }, formula: { value: { text: 'sin(a) * 2.0' } } } },
          { id: 'w', name: 'Hum', op: 'wave', inputs: { time: { from: 't' }, rate: { value: 2 } }, options: { shape: 'sine' } },
          { id: 'm', name: 'Glow', op: 'multiply', inputs: { a: { from: 'r' }, b: { from: 'w' } } },
        ],
        { emission: { from: 'm' }, opacity: { from: 'n' } },
        ASSETS,
      ),
      dials: [
        { id: 'd1', strand: 'n', input: 'scale', soft: [0, 9] },
        { id: 'd2', strand: 'w', input: 'rate' },
        { id: 'd3', strand: 'r', input: 'stops.1.place' },
        { id: 'd4', strand: 'w', input: 'shape' },
      ],
      variants: [{ id: 'v1', name: 'Calm', values: { d1: 1, d2: 0.5, d4: 'saw' } }],
      cues: [
        {
          dial: 'd1',
          keys: [
            { time: 0, value: 1, ease: 'linear' },
            { time: 2, value: 4, ease: [0.2, 0, 0.4, 1] },
          ],
        },
      ],
      triggers: [{ id: 'hit', name: 'Hit', at: [1, 2], duration: 0.5 }],
      shared: SHARED as never,
      home: { stage: 'hall', prop: 'tube-1', viewpoint: 'front' },
      loop: 4,
    } as Effect),
  ) as object;

const EFFECTS = [whole(), whole(), ...filesIn('starters')];
const STAGES = filesIn('stages');

/** What is put in another's place: of every kind, of every size, and what every object answers to. */
const POOL: readonly unknown[] = [
  ...[null, true, false, 0, -1, 1, 0.5, 1e9, -1e9, 1e-30, 1e30, 3.7],
  ...[
    '',
    'x',
    'constructor',
    '__proto__',
    'toString',
    'valueOf',
    'hasOwnProperty',
    'tide',
    'rock',
    'scale',
    'd1',
    'n',
    'm',
    'sine',
  ],
  ...[[], {}, [0, 1], [1, 2, 3], [0, 0, 0, 0], [[[]]], ['a']],
  ...[
    { value: 1 },
    { value: [1, 2] },
    { value: true },
    { value: [1, 2, 3, 4] },
    { value: { asset: 'rock' } },
    { value: { asset: 'gone' } },
  ],
  ...[{ value: { text: 'a + b' } }, { value: { text: '((((' } }, { value: { rgb: [1, 0, 0], intensity: 2, unit: 'stops' } }],
  ...[
    { value: { keys: [{ at: 0, value: 1, ease: 'step' }] } },
    { from: 'n' },
    { from: 't', port: 'value' },
    { from: 'uv', part: 'xyxy' },
    { from: 'r', part: 'rgb' },
    { from: 'i', port: 'a' },
  ],
  ...[
    { value: { stops: [{ at: 0, rgb: [0, 0, 0] }], space: 'oklab', interpolation: 'step' } },
    { asset: 'constructor' },
    { text: 'valueOf' },
  ],
];

/** Every place at its rest. */
const RESTING = Object.fromEntries(LEAF_NAMES.map((name) => [name, LEAVES[name].fallback]));

type Holder = Record<string | number, unknown>;
function placesIn(value: unknown): [Holder, string | number][] {
  const found: [Holder, string | number][] = [];
  const walk = (v: unknown): void => {
    if (typeof v !== 'object' || v === null) return;
    for (const key of Object.keys(v)) {
      found.push([v as Holder, key]);
      walk((v as Holder)[key]);
    }
  };
  walk(value);
  return found;
}

function mutant(original: object, random: () => number): object {
  const copy = structuredClone(original) as Holder;
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
  for (let changes = 1 + Math.floor(random() * 2); changes > 0; changes--) {
    const places = placesIn(copy);
    const [holder, key] = pick(places);
    const roll = random();
    if (roll < 0.55) holder[key] = structuredClone(pick(POOL));
    else if (roll < 0.7) {
      // Something else of its own.
      const [from, at] = pick(places);
      holder[key] = structuredClone(from[at]);
    } else if (roll < 0.8) {
      if (Array.isArray(holder)) holder.splice(Number(key), 1);
      else delete holder[key];
    } else if (roll < 0.9) {
      if (Array.isArray(holder)) holder.push(structuredClone(holder[key as never]));
      else
        Object.defineProperty(holder, pick(['constructor', '__proto__', 'd1', 'scale', 'in', 'value']), {
          value: holder[key],
          enumerable: true,
          configurable: true,
          writable: true,
        });
    } else if (Array.isArray(holder)) holder.reverse();
    else if (typeof holder[key] === 'number') holder[key] = holder[key] * pick([-1, 0, 1e6, 1e-6]);
  }
  return copy;
}

/** It may begin with a strand's name, whatever that is. */
const isSentence = (text: string) => /^\S+ .*[.?!…”"]$/su.test(text);

/** @returns how far it came */
function carry(file: object): 'refused' | 'told' | 'compiled' {
  // As a file comes: what JSON cannot hold is not there.
  const read = readEffect(JSON.parse(JSON.stringify(file)));
  if (!read.ok) {
    for (const p of read.problems) if (!isSentence(p.message)) throw new Error(`no sentence: ${p.message}`);
    return 'refused';
  }
  const { effect } = read;
  const text = writeEffect(effect);
  if (writeRead(effect) !== text) throw new Error('what was read is not in its order');
  const again = readEffect(JSON.parse(text));
  if (!again.ok || writeEffect(again.effect) !== text) throw new Error('what was written is not read back');
  for (const variant of [null, ...effect.variants.map((v) => v.id)]) {
    const shown = withVariant(effect, variant);
    for (const build of ['live', 'frozen'] as const) {
      const program = lower(shown, { build });
      if (program.problems.length > 0) {
        for (const p of program.problems) if (!isSentence(p.message)) throw new Error(`no sentence: ${p.message}`);
        return 'told';
      }
      const params = paramValues(program.params, shown);
      const exported = emitGlsl(lower(shown, { build, writeCues: true }), { hoist: false, lit: shown.finish.lighting === 'lit' });
      shaderPair(exported, shown.finish, shown.name);
      const roots = strandRoots(program);
      listing(scalarise(roots), [...program.strands.keys()]);
      const leaves = { uv: [Float32Array.from([0, 0.3, 1]), Float32Array.from([1, 0.6, 0])], time: [0.4] };
      const values = evaluatorOf(program, roots, new Set(['uv']), 3, PICTURES).evaluate(params, leaves, 3);
      const [[first]] = [values];
      if (first && first[0]!.length < 3) throw new Error('a value is lacking');
      if (build === 'frozen') continue;
      evaluate(scalarise(roots), { params, leaves: RESTING, pictures: PICTURES });
      fillBlock(emitGlsl(program, { hoist: true, naming: 'ids' }), params, 1, shown.loop, {}, PICTURES);
      const readings = readStrands(program, shown.loop);
      const measured = measureStrands(program, shown);
      advise(shown, program, readings, measured);
      readCost(program);
      readLoop(program, shown);
    }
  }
  return 'compiled';
}

test(
  `${COUNT} mutants of effects: each compiles to everything, or is refused with a sentence`,
  () => {
    const random = randomFrom(20261128);
    const count = { refused: 0, told: 0, compiled: 0 };
    const failures: string[] = [];
    for (let k = 0; k < COUNT; k++) {
      const file = mutant(EFFECTS[k % EFFECTS.length]!, random);
      try {
        count[carry(file)]++;
      } catch (error) {
        failures.push(`mutant ${k}: ${(error as Error).stack?.split('\n').slice(0, 4).join(' | ')}`);
      }
    }
    expect(failures).toEqual([]);
    // Neither is every mutant sound, nor none.
    for (const n of Object.values(count)) expect(n).toBeGreaterThan(2);
  },
  DEEP ? 3_600_000 : 120_000,
);

/** One of each kind that a value may be. */
const KINDS: readonly unknown[] = [
  3,
  true,
  'sine',
  [1, 2],
  [1, 2, 3],
  [1, 2, 3, 4],
  { rgb: [1, 0, 0], intensity: 2, unit: 'stops' },
  { stops: [{ at: 0, rgb: [0, 0, 0] }], space: 'oklab', interpolation: 'step' },
  { keys: [{ at: 0, value: 1, ease: 'step' }] },
  { asset: 'rock' },
  { text: 'sine' },
];

test('each value of a document may be of each other kind: it compiles, or is refused', () => {
  const failures: string[] = [];
  let tried = 0;
  const original = whole() as Effect & Holder;
  const motif = {
    id: 'mo',
    revision: 1,
    name: 'M',
    inputs: [{ id: 'in1', name: 'In', kind: '1', default: 1 }],
    outputs: [],
    strands: [],
  };
  Object.assign(original, { motifs: [motif] });
  (original.cues as object[]).push(
    { dial: 'd4', keys: [{ time: 0, value: { text: 'saw' }, ease: 'step' }] },
    { dial: 'd3', keys: [{ time: 0, value: 0.5, ease: 'linear' }] },
  );
  const values = new Set<unknown>([...original.variants.map((v) => v.values)]);
  placesIn(original).forEach(([holder, key], k) => {
    if (key !== 'value' && key !== 'default' && !values.has(holder)) return;
    for (const kind of KINDS) {
      const copy = structuredClone(original);
      const [there, at] = placesIn(copy)[k]!;
      there[at] = structuredClone(kind);
      tried++;
      try {
        carry(copy);
      } catch (error) {
        failures.push(`${String(key)} ${JSON.stringify(kind)}: ${(error as Error).stack?.split('\n').slice(0, 4).join(' | ')}`);
      }
    }
  });
  expect(failures).toEqual([]);
  expect(tried).toBeGreaterThan(150);
  // What a prop sets of its own comes from another document, and is left out where it is of another kind.
  const read = readEffect(JSON.parse(JSON.stringify(original)));
  if (!read.ok) throw new Error(read.problems[0]!.message);
  for (const { id } of read.effect.dials)
    for (const kind of KINDS) {
      const worn = withVariant(read.effect, null, { [id]: kind });
      const program = lower(worn, { build: 'live' });
      expect(program.problems).toEqual([]);
      paramValues(program.params, worn);
    }
});

test.each(['constructor', '__proto__'])('each text of a document may be %s: it compiles, or is refused', (name) => {
  const failures: string[] = [];
  let tried = 0;
  const original = whole();
  placesIn(original).forEach(([holder, key], k) => {
    if (typeof holder[key] !== 'string') return;
    const copy = structuredClone(original);
    const [there, at] = placesIn(copy)[k]!;
    there[at] = name;
    tried++;
    try {
      // Names and notes may be anything: those that are taken are carried through once.
      if (name === 'constructor') carry(copy);
      else readEffect(JSON.parse(JSON.stringify(copy)));
    } catch (error) {
      failures.push(`${String(key)}: ${(error as Error).stack?.split('\n').slice(0, 4).join(' | ')}`);
    }
  });
  expect(failures).toEqual([]);
  expect(tried).toBeGreaterThan(50);
});

test(`${COUNT} mutants of stages: each is written and read back, or is refused with a sentence`, () => {
  const random = randomFrom(7);
  let read = 0;
  for (let k = 0; k < COUNT; k++) {
    const result = readStage(JSON.parse(JSON.stringify(mutant(STAGES[k % STAGES.length]!, random))));
    if (!result.ok) {
      for (const p of result.problems) expect(p.message).toMatch(/\.$/);
      continue;
    }
    read++;
    const text = writeStage(result.stage);
    const again = readStage(JSON.parse(text));
    expect(again.ok && writeStage(again.stage)).toBe(text);
  }
  expect(read).toBeGreaterThan(COUNT / 20);
});

test.each(['constructor', '__proto__', 'toString', 'valueOf', 'hasOwnProperty'])(
  'no id and no field of a document is called %s',
  (name) => {
    const [base] = EFFECTS as Record<string, unknown>[];
    const refused = (more: object) => readEffect(JSON.parse(JSON.stringify({ ...base, ...more }).replaceAll('NAME', name))).ok;
    expect(refused({ id: 'NAME' })).toBe(false);
    expect(refused({ home: { stage: 'NAME', prop: 'p', viewpoint: 'v' } })).toBe(false);
    expect(refused({ extra: { NAME: 1 } })).toBe(false);
    expect(refused({ assets: { NAME: ASSETS.assets.rock } })).toBe(false);
    expect(refused({ dials: [{ id: 'd', strand: 'n', input: 'NAME' }], cues: [], variants: [] })).toBe(false);
    expect(refused({ note: 'A note may speak of the NAME.' })).toBe(true);
  },
);

test('what is nested too deep, and text that is none, are refused before anything walks them', () => {
  const [base] = EFFECTS as Record<string, unknown>[];
  let nested: unknown = 1;
  for (let k = 0; k < 100_000; k++) nested = [nested];
  const problem = (more: object) => {
    const read = readEffect({ ...base, ...more });
    return read.ok ? null : read.problems[0]!.message;
  };
  expect(problem({ extra: { nested } })).toMatch(/deeper than 32 levels\.$/);
  expect(problem({ name: 'Lamp\0' })).toMatch(/holds a character that is none\.$/);
  expect(problem({ note: '\ud800' })).toMatch(/holds a character that is none\.$/);
  expect(problem({ note: '🜁 and é' })).toBeNull();
});
