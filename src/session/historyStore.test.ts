/** Undo across a reload: whatever was done to the documents, what is read back is theirs, and its steps fit it. */
import fc from 'fast-check';
import { EFFECT, STAGE, steps, type Edit } from '../../tests/fixtures/edits.js';
import { constructSheet } from '../../tests/fixtures/sheets.js';
import { stageOf } from '../../tests/fixtures/stages.js';
import * as edits from '../core/effect/edits.js';
import { readEffect } from '../core/effect/read.js';
import { strandsOf, type Effect } from '../core/effect/schema.js';
import { writeEffect } from '../core/effect/write.js';
import { readStage, writeStage, type Stage } from '../core/formats/stage.js';
import * as stageEdits from '../core/formats/stageEdits.js';
import { OPERATORS } from '../core/operators/catalogue.js';
import { EMPTY_HISTORY, record, redoEntry, undoEntry, type History } from './history.js';
import { markOf } from './historyStore.js';

test('every edit there is takes part', () => {
  const helpers = ['strandOf', 'freshId', 'freshName', 'firstInputFor', 'moveLimits', 'dialLabel', 'dropInput'];
  const known = Object.keys(EFFECT).map((name) => name.split(' ')[0]);
  for (const [name, what] of Object.entries(edits))
    if (typeof what === 'function' && !helpers.includes(name)) expect(known).toContain(name);
  const others = ['propOf', 'partOf', 'freshPropName', 'freshPropId', 'copyStage'];
  for (const [name, what] of Object.entries(stageEdits))
    if (typeof what === 'function' && !others.includes(name)) expect(Object.keys(STAGE)).toContain(name);
});

/** Does them one after another. @returns the last document, its history, and the mark after each step */
function run<T extends Effect | Stage>(
  first: T,
  kinds: Record<string, Edit<T>>,
  list: readonly [string, number, number][],
  mark: (value: T) => string,
) {
  let value = first;
  let history: History<'effect' | 'stage'> = EMPTY_HISTORY;
  const marks = [mark(value)];
  for (const [name, a, b] of list) {
    const result = record(history, 'effect', value, name, null, (d) => kinds[name]!(d as T, a, b));
    if (!result) continue;
    ({ value, history } = result);
    marks.push(mark(value));
  }
  return { value, history, marks };
}

/** Undoes all steps on a document that was read back, then does them again. */
function travel<T extends Effect | Stage>(
  read: T,
  { history, marks }: { history: History<string>; marks: string[] },
  mark: (value: T) => string,
) {
  let value = read;
  const seen = [mark(value)];
  for (const entry of [...history.past].reverse()) seen.unshift(mark((value = undoEntry(value, entry))));
  expect(seen).toEqual(marks);
  for (const entry of history.past) value = redoEntry(value, entry);
  expect(mark(value)).toBe(marks[marks.length - 1]);
}

const stage = stageOf();
const RUNS = process.env.WISPEN_DEEP === undefined ? 60 : 3000;

test('after any edits of an effect, what is written and read back has the same mark, and its steps undo on it', () => {
  const readBack = (effect: Effect): Effect => {
    const result = readEffect(JSON.parse(writeEffect(effect)));
    if (!result.ok) throw new Error(result.problems[0]!.message);
    return result.effect;
  };
  const mark = (effect: Effect) => markOf(effect, stage);
  // The twelve hold a ramp and a formula between them.
  const sheets = [7, 21, 58, 63, 99, 111].map((seed) => constructSheet(seed, { strands: 12 }));
  const ramp = constructSheet(
    OPERATORS.findIndex((o) => o.id === 'ramp'),
    { strands: 6 },
  );
  const formula = constructSheet(
    OPERATORS.findIndex((o) => o.id === 'formula'),
    { strands: 6 },
  );
  fc.assert(
    fc.property(fc.constantFrom(...sheets, ramp, formula), steps(Object.keys(EFFECT)), (sheet, list) => {
      const done = run(readBack(sheet), EFFECT, list, mark);
      travel(readBack(done.value), done, mark);
    }),
    { seed: 20261128, numRuns: RUNS },
  );
});

test('the same of a stage', () => {
  const effect = constructSheet(3, { strands: 4 });
  const mark = (s: Stage) => markOf(effect, s);
  fc.assert(
    fc.property(steps(Object.keys(STAGE)), (list) => {
      const done = run(stage, STAGE, list, mark);
      const read = readStage(JSON.parse(writeStage(done.value)));
      if (!read.ok) throw new Error(read.problems[0]!.message);
      travel(read.stage, done, mark);
    }),
    { seed: 20261128, numRuns: RUNS },
  );
});

test('the order in which things were set, and a bypass that was taken back, are not part of the mark', () => {
  const sheet = constructSheet(7, { strands: 12 });
  const other = structuredClone(sheet);
  for (const s of strandsOf(other)) {
    if (s.inputs) s.inputs = Object.fromEntries(Object.entries(s.inputs).reverse());
    s.bypassed = false;
  }
  expect(JSON.stringify(other)).not.toBe(JSON.stringify(sheet));
  expect(markOf(other, stage)).toBe(markOf(sheet, stage));
  strandsOf(other)[0]!.bypassed = true;
  expect(markOf(other, stage)).not.toBe(markOf(sheet, stage));
});
