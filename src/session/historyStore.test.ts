/** Undo across a reload: whatever was done to the documents, what is read back is theirs, and its steps fit it. */
import 'fake-indexeddb/auto';
import fc from 'fast-check';
import { EFFECT, STAGE, steps, type Edit } from '../../tests/fixtures/edits.js';
import { constructSheet } from '../../tests/fixtures/sheets.js';
import { stageOf } from '../../tests/fixtures/stages.js';
import * as edits from '../core/effect/edits.js';
import { readBy } from '../core/effect/feeding.js';
import { replaceStrand } from '../core/effect/replace.js';
import { bypassRun, deleteRun, moveRun, pasteRun, sectionRun } from '../core/effect/runs.js';
import { readEffect } from '../core/effect/read.js';
import { strandsOf, type Effect } from '../core/effect/schema.js';
import { writeEffect } from '../core/effect/write.js';
import { readStage, writeStage, type Stage } from '../core/scene/stage.js';
import * as stageEdits from '../core/scene/edits.js';
import { OPERATORS } from '../core/operators/catalogue.js';
import { EMPTY_HISTORY, record, redoEntry, undoEntry, type History } from './history.js';
import { HistoryStore, markOf } from './historyStore.js';

test('every edit there is takes part', () => {
  const helpers = [
    'strandOf',
    'freshId',
    'freshName',
    'moveLimits',
    'dialLabel',
    'dropInput',
    'dropDials',
    'insteadOf',
    'freshDialId',
  ];
  const known = Object.keys(EFFECT).map((name) => name.split(' ')[0]);
  for (const [name, what] of Object.entries({
    ...edits,
    readBy,
    replaceStrand,
    pasteRun,
    deleteRun,
    moveRun,
    bypassRun,
    sectionRun,
  }))
    if (typeof what === 'function' && !helpers.includes(name)) expect(known).toContain(name);
  const others = ['propOf', 'dropUnusedAssets', 'freshPropName', 'freshPropId', 'copyStage', 'freshViewpoint'];
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
  const mark = (effect: Effect) => markOf(effect, stage).effect.mark;
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
  const mark = (s: Stage) => markOf(effect, s).stage.mark;
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
  expect(markOf(other, stage)).toEqual(markOf(sheet, stage));
  strandsOf(other)[0]!.bypassed = true;
  expect(markOf(other, stage)).not.toEqual(markOf(sheet, stage));
});

describe('in the browser’s store', () => {
  type Docs = 'effect' | 'stage';
  const sheet = () => constructSheet(7, { strands: 6 });
  let bench = 0;
  const store = () => new HistoryStore<Docs>(`bench ${bench}`);
  const work = () => {
    let effect = sheet();
    let place = stage;
    let history: History<Docs> = EMPTY_HISTORY;
    const rename = (name: string) => {
      const done = record(history, 'effect', effect, 'Rename', null, (d) => void (d.name = name))!;
      ({ history, value: effect } = done);
    };
    const move = (x: number) => {
      const done = record(history, 'stage', place, 'Move', null, (d) => void (d.props[0]!.place = [x, 0, 0]))!;
      ({ history, value: place } = done);
    };
    const undo = () => {
      const entry = history.past[history.past.length - 1]!;
      if (entry.document === 'effect') effect = undoEntry(effect, entry);
      else place = undoEntry(place, entry);
      history = { past: history.past.slice(0, -1), future: [entry, ...history.future] };
    };
    return { rename, move, undo, now: () => ({ effect, place, history }) };
  };
  beforeEach(() => void bench++);

  test('steps are there again, done and undone ones, and go on from there', async () => {
    const { rename, move, undo, now } = work();
    const kept = store();
    for (let k = 0; k < 4; k++) rename(`Name ${k}`);
    move(3);
    await kept.keep(markOf(now().effect, now().place), now().history);
    undo();
    undo();
    await kept.keep(markOf(now().effect, now().place), now().history);
    const again = store();
    const found = await again.restore(markOf(now().effect, now().place));
    expect(found).toEqual({ history: now().history, dropped: [] });
    // A new step forgets what was undone, here and in the store.
    rename('Other');
    await again.keep(markOf(now().effect, now().place), now().history);
    expect((await store().restore(markOf(now().effect, now().place)))!.history.past.map((e) => e.label)).toHaveLength(4);
  });

  test('a document that was changed elsewhere loses its steps, the other one keeps them', async () => {
    const { rename, move, now } = work();
    rename('Mine');
    move(2);
    rename('Mine still');
    await store().keep(markOf(now().effect, now().place), now().history);
    const theirs = { ...now().place, name: 'Changed' };
    const found = (await store().restore(markOf(now().effect, theirs)))!;
    expect(found.dropped).toEqual(['stage']);
    expect(found.history.past.map((e) => e.document)).toEqual(['effect', 'effect']);
  });

  test('on another stage the effect’s steps go on, without a word', async () => {
    const { rename, move, now } = work();
    rename('Mine');
    move(2);
    await store().keep(markOf(now().effect, now().place), now().history);
    const elsewhere = { ...stage, id: 'quay' };
    const found = (await store().restore(markOf(now().effect, elsewhere)))!;
    expect([found.dropped, found.history.past.map((e) => e.label)]).toEqual([[], ['Rename']]);
  });

  test('a step is written once', async () => {
    const { rename, now } = work();
    const kept = store();
    const written: number[] = [];
    const put = IDBObjectStore.prototype.put;
    IDBObjectStore.prototype.put = function (this: IDBObjectStore, ...args: Parameters<typeof put>) {
      written.push(1);
      return put.apply(this, args);
    };
    try {
      for (let k = 0; k < 40; k++) {
        rename(`Name ${k}`);
        await kept.keep(markOf(now().effect, now().place), now().history);
      }
    } finally {
      IDBObjectStore.prototype.put = put;
    }
    // The step, and where they stand.
    expect(written).toHaveLength(80);
  });
});
