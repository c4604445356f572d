/** Undo across a reload: whatever was done to the documents, what is read back is theirs, and its steps fit it. */
import fc from 'fast-check';
import { constructSheet } from '../../tests/fixtures/sheets.js';
import { stageOf } from '../../tests/fixtures/stages.js';
import { dismiss, recallDismissed } from '../core/analysis/findings.js';
import * as edits from '../core/effect/edits.js';
import { readFormula, writeFormula } from '../core/effect/formulaText.js';
import { applyMend } from '../core/effect/mends.js';
import { addStop, changeRamp, dropStop } from '../core/effect/ramps.js';
import { readEffect } from '../core/effect/read.js';
import { OUTPUTS, isLink, strandsOf, type Effect } from '../core/effect/schema.js';
import { writeEffect } from '../core/effect/write.js';
import { deletePin, setPin } from '../core/formats/pins.js';
import { readStage, writeStage, type Stage } from '../core/formats/stage.js';
import * as stageEdits from '../core/formats/stageEdits.js';
import { OPERATORS, operatorOf } from '../core/operators/catalogue.js';
import { EMPTY_HISTORY, record, redoEntry, undoEntry, type History } from './history.js';
import { markOf } from './historyStore.js';

/** Two numbers that choose what an edit is about. */
type Edit<D> = (draft: D, a: number, b: number) => void;

const some = <T>(list: readonly T[], n: number): T => list[n % list.length]!;
const strandAt = (d: Effect, n: number) => some(strandsOf(d), n);
const rampOf = (d: Effect) => strandsOf(d).find((s) => s.op === 'ramp')?.id ?? null;
const dialAt = (d: Effect, n: number) => (d.dials.length > 0 ? some(d.dials, n).id : 'none');
const variantAt = (d: Effect, n: number) => (d.variants.length > 0 ? some(d.variants, n).id : 'none');
const nameAt = (d: Effect, a: number, b: number) => {
  const s = strandAt(d, a);
  const names = Object.keys(operatorOf(s.op).inputs);
  return names.length > 0 ? { id: s.id, name: some(names, b) } : null;
};
const wrap =
  (how: edits.Wrap): Edit<Effect> =>
  (d, a) =>
    edits.wrapStrand(d, { id: strandAt(d, a).id, how, newId: edits.freshId(d, 'wrap'), dialId: `w${d.dials.length}x${a}` });

const EFFECT: Record<string, Edit<Effect>> = {
  addStrand: (d, a, b) => {
    const { op, label } = { op: some(OPERATORS, a).id, label: some(OPERATORS, a).label };
    const after = strandAt(d, b).id;
    const input = edits.firstInputFor(op, '1');
    const reads = input === null ? {} : { reads: { strand: after, input }, splice: b % 2 === 0 };
    edits.addStrand(d, { id: edits.freshId(d, op), op, name: edits.freshName(d, label), after, ...reads });
  },
  deleteStrand: (d, a) => void (d.strands.length > 3 && edits.deleteStrand(d, { id: strandAt(d, a).id })),
  moveStrand: (d, a, b) => edits.moveStrand(d, { id: strandAt(d, a).id, to: b % d.strands.length }),
  renameStrand: (d, a, b) => edits.renameStrand(d, { id: strandAt(d, a).id, name: `Name ${b}` }),
  setInput: (d, a, b) => {
    const at = nameAt(d, a, b);
    if (!at) return;
    const above = strandsOf(d).findIndex((s) => s.id === at.id);
    const choices = [
      undefined,
      { value: b / 7 },
      { value: a / 3 },
      above > 0 ? { part: 'x', from: strandAt(d, b % above).id } : undefined,
    ];
    edits.setInput(d, { ...at, input: some(choices, a + b) });
  },
  setOption: (d, a, b) => {
    const s = strandAt(d, a);
    const [option] = Object.entries(operatorOf(s.op).options);
    if (option) edits.setOption(d, { id: s.id, name: option[0], value: some(option[1].values, b) });
  },
  toggleBypass: (d, a) => edits.toggleBypass(d, { id: strandAt(d, a).id }),
  swapInputs: (d, a) => edits.swapInputs(d, { id: strandAt(d, a).id }),
  'wrapStrand invert': wrap('invert'),
  'wrapStrand clamp': wrap('clamp'),
  'wrapStrand dial': wrap('dial'),
  setOutput: (d, a, b) =>
    edits.setOutput(d, {
      name: some(OUTPUTS.surface, a),
      input: some([undefined, { from: strandAt(d, b).id }, { value: 0.3 }], b),
    }),
  setFinish: (d, a) => edits.setFinish(d, some([{ alphaMode: 'blend' as const }, { order: a }, { castsShadow: a % 2 === 0 }], a)),
  setLoop: (d, a) => edits.setLoop(d, { loop: some([null, 2, 4.5], a) }),
  renameEffect: (d, a) => edits.renameEffect(d, { name: `Effect ${a}` }),
  addDial: (d, a, b) => {
    const at = nameAt(d, a, b);
    // Fields in another order than the schema's.
    if (at)
      edits.addDial(d, { dial: { scale: 'linear', soft: [0, b], input: at.name, strand: at.id, id: `d${d.dials.length}x${a}` } });
  },
  removeDial: (d, a) => edits.removeDial(d, { id: dialAt(d, a) }),
  changeDial: (d, a, b) =>
    edits.changeDial(d, {
      id: dialAt(d, a),
      ...some([{ label: 'Glow' }, { unit: 'm' }, { soft: [0, 9] as [number, number] }], b),
    }),
  addSection: (d, a) => edits.addSection(d, { first: strandAt(d, a).id, title: `Part ${a}` }),
  addVariant: (d, a, b) =>
    edits.addVariant(d, {
      id: `v${d.variants.length}x${a}`,
      name: 'V',
      values: Object.fromEntries([...d.dials].reverse().map((dial) => [dial.id, b])),
    }),
  renameVariant: (d, a) => edits.renameVariant(d, { id: variantAt(d, a), name: 'Other' }),
  deleteVariant: (d, a) => edits.deleteVariant(d, { id: variantAt(d, a) }),
  changeRamp: (d, a) => {
    const id = rampOf(d);
    if (id)
      changeRamp(d, { id, literal: 'stops', change: some([{ space: 'oklab' as const }, { interpolation: 'step' as const }], a) });
  },
  addStop: (d) => {
    const id = rampOf(d);
    if (id) addStop(d, { id, literal: 'stops', after: 0 });
  },
  dropStop: (d) => {
    const id = rampOf(d);
    if (id) dropStop(d, { id, literal: 'stops', stop: 0 });
  },
  writeFormula: (d, a) => {
    const s = strandsOf(d).find((t) => t.op === 'formula');
    const read = s && readFormula(d, s, some(['1.0 - 0.5', 'sin(a) * 2.0', '0.25'], a));
    if (read?.ok) writeFormula(d, { id: s!.id, inputs: read.inputs });
  },
  dismiss: (d, a) => dismiss(d, { key: `unread s${a}` }),
  recallDismissed: (d) => recallDismissed(d),
  applyMend: (d, a) => {
    const reader = strandsOf(d).find((s) => Object.values(s.inputs ?? {}).some(isLink));
    const [input, link] = Object.entries(reader?.inputs ?? {}).find(([, i]) => isLink(i)) ?? [];
    if (reader && input !== undefined && isLink(link) && link.port === undefined)
      applyMend(d, {
        edits: [{ kind: 'clamp', strand: link.from, reader: { strand: reader.id, input }, low: 0, high: a % 2 ? null : 1 }],
      });
  },
};

const propAt = (d: Stage, n: number) => some(d.props, n).id;
const STAGE: Record<string, Edit<Stage>> = {
  addProp: (d, a) =>
    stageEdits.addProp(d, {
      ...{ id: stageEdits.freshPropId(d, 'Ball'), name: 'Ball', place: [a, 0, 0], effect: a % 2 ? 'e' : null },
      source: { radius: 1, primitive: 'sphere' },
    }),
  addAsset: (d, a) =>
    stageEdits.addAsset(d, {
      key: `k${a % 3}`,
      asset: { size: 4, type: 'model/gltf-binary', name: 'x.glb', sha256: 'a'.repeat(64) } as never,
    }),
  duplicateProp: (d, a) => stageEdits.duplicateProp(d, { id: propAt(d, a), newId: stageEdits.freshPropId(d, 'Copy') }),
  deleteProp: (d, a) => void (d.props.length > 1 && stageEdits.deleteProp(d, { id: propAt(d, a) })),
  dressProp: (d, a, b) =>
    stageEdits.dressProp(d, { id: propAt(d, a), effect: some(['e', 'f', null], b), variant: some([null, 'v1'], b) }),
  setOverride: (d, a, b) =>
    stageEdits.setOverride(d, {
      id: propAt(d, a),
      effect: 'e',
      dial: some(['d2', 'd1'], b),
      value: some([1, undefined, 2], a + b),
    }),
  placeProp: (d, a, b) => stageEdits.placeProp(d, { id: propAt(d, a), place: [a, b, 0] }),
  placeLight: (d, a) => stageEdits.placeLight(d, { id: 'key', place: [a, 1, 1] }),
  setViewpoint: (d, a) =>
    stageEdits.setViewpoint(d, {
      viewpoint: { fov: 40, id: `p${a % 2}`, name: 'P', target: [0, 0, 0], eye: [a, 1, 2], lensBend: 0 },
    }),
  setPin: (d, a) =>
    setPin(d, { pin: { uv: [0, 0], id: some(['B', 'A'], a), prop: propAt(d, a), position: [a, 0, 0], normal: [0, 0, 1] } }),
  deletePin: (d, a) => deletePin(d, { id: some(['B', 'A'], a) }),
};

test('every edit there is takes part', () => {
  const helpers = ['strandOf', 'freshId', 'freshName', 'firstInputFor', 'moveLimits', 'dialLabel', 'dropInput'];
  const known = Object.keys(EFFECT).map((name) => name.split(' ')[0]);
  for (const [name, what] of Object.entries(edits))
    if (typeof what === 'function' && !helpers.includes(name)) expect(known).toContain(name);
  const others = ['propOf', 'partOf', 'freshPropName', 'freshPropId', 'copyStage'];
  for (const [name, what] of Object.entries(stageEdits))
    if (typeof what === 'function' && !others.includes(name)) expect(Object.keys(STAGE)).toContain(name);
});

const steps = (names: readonly string[]) =>
  fc.array(fc.tuple(fc.constantFrom(...names), fc.nat(60), fc.nat(60)), { minLength: 1, maxLength: 14 });

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
