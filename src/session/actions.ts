/** What the keys, menus and controls of the bench do, as edits of the open documents. */
import { applyMend } from '../core/effect/mends.js';
import { dismiss, recallDismissed, type Finding, type HeightPaint } from '../core/analysis/findings.js';
import {
  addVariant,
  dialLabel,
  freshDialId,
  freshId,
  removeDial,
  setInput,
  setOption,
  setOutput,
  strandOf,
  swapInputs,
  wrapStrand,
} from '../core/effect/edits.js';
import {
  bypassRun,
  copyRun,
  deleteRun,
  hindrance,
  inOrder,
  moveRun,
  pasteRun,
  readRun,
  sectionRun,
  writeRun,
  type Run,
} from '../core/effect/runs.js';
import { valuesOver } from '../core/effect/variant.js';
import { isColour, isLink, strandsOf, type Dial, type Effect, type Input, type Value } from '../core/effect/schema.js';
import { Unfoldable, foldStrands, unfoldFormula } from '../core/effect/unfold.js';
import { giveOutput, readBy, type Reader, type Way } from '../core/effect/feeding.js';
import { outputRecord, type OutputName } from '../core/effect/outputs.js';
import { partIn, partOf, propIn } from '../core/scene/pieces.js';
import { keepStandIn, wear } from '../core/scene/wearing.js';
import { propOf, setOverride } from '../core/scene/edits.js';
import { WRAP_RECORDS, type Wrap } from '../core/operators/wraps.js';
import { labelOfInput } from '../core/effect/recordOf.js';
import type { Choosing } from './choosing.js';
import type { Compiling } from './compiling.js';
import { keyOrSay, type CueHands } from './cueing.js';
import { dialAt, exposeInput, freshDial, literalOf } from './showing.js';
import { toldOf } from '../core/analysis/reading.js';
import { chosenRun, type BenchState } from './state.js';

/** What whoever edits needs of a bench. */
export interface Hands extends CueHands {
  readonly choosing: Choosing;
  readonly compiling: Pick<Compiling, 'flush'>;
}

const stateOf = (hands: Hands) => hands.store.getState();
export const choose = (hands: Hands, chosen: string | null): void => hands.choosing.strand(chosen);

/** What a step of the history calls some strands: by name where it is one. */
const called = (effect: Effect, ids: readonly string[]): string =>
  ids.length === 1 ? strandOf(effect, ids[0]!).name : `${ids.length} strands`;

/** The strands that something is to be done to: all that are chosen where this one is among them. */
export function runWith(hands: Hands, id: string): readonly string[] {
  const run = chosenRun(stateOf(hands));
  return run.includes(id) ? run : [id];
}

/** Deletes strands, and chooses the neighbour that is left. */
export function remove(hands: Hands, ids: readonly string[]): void {
  const { effect } = stateOf(hands);
  const order = strandsOf(effect).map((s) => s.id);
  const last = Math.max(...ids.map((id) => order.indexOf(id)));
  const left = (id: string | undefined) => id !== undefined && !ids.includes(id);
  const neighbour = order.slice(last + 1).find(left) ?? order.slice(0, last).findLast(left) ?? null;
  hands.documents.edit(`Delete ${called(effect, ids)}`, (draft) => deleteRun(draft, { ids }));
  choose(hands, neighbour);
}

/** Moves strands by a row; where something hinders them, says what, and offers to move it too. */
export function moveBy(hands: Hands, ids: readonly string[], rows: -1 | 1): void {
  const { effect } = stateOf(hands);
  const hinders = hindrance(effect, ids, rows);
  if (!hinders) {
    hands.documents.edit(`Move ${called(effect, ids)}`, (draft) => moveRun(draft, { ids, rows }));
    return;
  }
  const [strand, other] = [strandOf(effect, hinders.strand).name, strandOf(effect, hinders.other).name];
  const all = [...ids, hinders.other];
  hands.store.setState({
    question: {
      text:
        rows < 0 ? `${strand} reads ${other}, so it stays below it.` : `${other} reads ${strand}, so ${strand} stays above it.`,
      yes: `Move ${other} too`,
      act: () => {
        hands.choosing.run(all, hinders.strand);
        moveBy(hands, all, rows);
      },
    },
  });
}

export function bypass(hands: Hands, ids: readonly string[]): void {
  const { effect } = stateOf(hands);
  hands.documents.edit(`Bypass ${called(effect, ids)}`, (draft) => bypassRun(draft, { ids }));
}

/** Makes a section of strands, named after the first. */
export function section(hands: Hands, ids: readonly string[]): void {
  const { effect } = stateOf(hands);
  const title = strandOf(effect, inOrder(effect, ids)[0]!).name;
  hands.documents.edit(`A section at ${title}`, (draft) => sectionRun(draft, { ids, title }));
}

/** An edit that may not be possible: why not is said, and nothing has changed then. */
function attempt(hands: Hands, label: string, recipe: (draft: Effect) => void): void {
  try {
    hands.documents.edit(label, recipe);
  } catch (error) {
    if (!(error instanceof Unfoldable)) throw error;
    hands.store.setState({ notice: error.message });
  }
}

/** A formula as the strands that it stands for. */
export const unfold = (hands: Hands, id: string): void =>
  attempt(hands, `Unfold ${called(stateOf(hands).effect, [id])}`, (draft) => unfoldFormula(draft, { id }));

/** Strands as one formula, in the place and under the name of the last. */
export const fold = (hands: Hands, ids: readonly string[]): void =>
  attempt(hands, `Fold ${called(stateOf(hands).effect, ids)} into a formula`, (draft) => foldStrands(draft, { ids }));

/** Strands as a text for the clipboard. */
export const copied = (hands: Hands, ids: readonly string[]): string => writeRun(copyRun(stateOf(hands).effect, ids));

/** Puts strands under the chosen ones, and chooses them. @returns the one that is lit then */
function put(hands: Hands, run: Run, label: string): string | null {
  const state = stateOf(hands);
  const strands = strandsOf(state.effect);
  const after = chosenRun(state).at(-1) ?? strands[strands.length - 1]?.id ?? null;
  let pasted: ReturnType<typeof pasteRun> = { ids: [], lost: 0 };
  hands.documents.edit(label, (draft) => void (pasted = pasteRun(draft, { run, after })));
  if (pasted.ids.length === 0) return null;
  hands.choosing.run(pasted.ids, pasted.ids[0]!);
  if (pasted.ids.length === 1) choose(hands, pasted.ids[0]!);
  if (pasted.lost > 0)
    hands.store.setState({
      notice: `${pasted.lost === 1 ? 'One link' : `${pasted.lost} links`} of what was pasted found nothing to read here.`,
    });
  return pasted.ids[0]!;
}

/** A second copy under the strands themselves. */
export function duplicate(hands: Hands, ids: readonly string[]): string | null {
  const { effect } = stateOf(hands);
  hands.choosing.run(ids);
  return put(hands, copyRun(effect, ids), `Duplicate ${called(effect, ids)}`);
}

/** @returns the strand that is lit then; null where the text is no strands, which is said */
export function paste(hands: Hands, text: string): string | null {
  const read = readRun(text);
  if (!read.ok) {
    hands.store.setState({ notice: read.why });
    return null;
  }
  const { strands } = read.run;
  return put(hands, read.run, `Paste ${strands.length === 1 ? strands[0]!.name : `${strands.length} strands`}`);
}

export const swap = (hands: Hands, id: string): void =>
  hands.documents.edit(`Swap the inputs of ${strandOf(stateOf(hands).effect, id).name}`, (draft) => swapInputs(draft, { id }));

/** What a strand can be, or is where nothing useful is proved; null where neither end is known. */
export function knownRange({ readings }: Pick<BenchState, 'readings'>, id: string): readonly [number, number] | null {
  const reading = readings.get(id);
  const known = reading && toldOf(reading);
  if (!known || !Number.isFinite(known.low) || !Number.isFinite(known.high) || known.low === known.high) return null;
  return [Number(known.low.toPrecision(3)), Number(known.high.toPrecision(3))];
}

export function wrap(hands: Hands, id: string, how: Wrap): void {
  const { effect } = stateOf(hands);
  const newId = freshId(effect, WRAP_RECORDS[how].op);
  const range = knownRange(stateOf(hands), id);
  hands.documents.edit(`Wrap ${strandOf(effect, id).name}`, (draft) =>
    wrapStrand(draft, { id, how, newId, dialId: freshDialId(effect), ...(range ? { range } : {}) }),
  );
  choose(hands, newId);
}

/** Exposes an input as a dial, or takes its dial away. */
export function toggleDial(hands: Hands, strand: string, input: string): void {
  const { effect } = stateOf(hands);
  const there = dialAt(effect, strand, input);
  if (there) {
    hands.documents.edit(`Remove the dial ${dialLabel(effect, there)}`, (draft) => removeDial(draft, { id: there.id }));
    return;
  }
  const dial = freshDial(effect, strand, input);
  hands.documents.edit(`Make a dial of ${dialLabel(effect, dial)}`, (draft) => exposeInput(draft, dial));
}

/** Chooses one of an operator's options. */
export function setOptionTo(hands: Hands, strand: string, name: string, value: string): void {
  const { effect } = stateOf(hands);
  const dial = dialAt(effect, strand, name);
  const set = (draft: Effect) => setOption(draft, { id: strand, name, value });
  if (dial && keyOrSay(hands, dial, { text: value })) return;
  if (dial) return turn(hands, dial, value, set);
  hands.documents.edit(`Change ${strandOf(effect, strand).name}, ${name}`, set);
}

/**
 * Sets an input's literal. Where it is a dial, the variant that the chosen prop wears gets the value, or in the scope of
 * the prop that prop alone. Calls of one gesture become one step of the history.
 */
export function setLiteral(hands: Hands, strand: string, input: string, value: Value): void {
  const { effect } = stateOf(hands);
  const dial = dialAt(effect, strand, input);
  const set = (draft: Effect) => setInput(draft, { id: strand, name: input, input: { value } });
  if (dial && keyOrSay(hands, dial, value)) return;
  if (dial) return turn(hands, dial, value, set);
  const { name } = strandOf(effect, strand);
  hands.documents.edit(`Change ${name}, ${inputNamed(effect, strand, input)}`, set, `literal ${strand} ${input}`);
}

const inputNamed = (effect: Effect, strand: string, input: string): string =>
  labelOfInput(effect, strandOf(effect, strand), input);

/** Turns a dial: of the chosen prop alone in its scope, of the variant that is shown, else of the effect itself. @param set the last */
function turn(hands: Hands, dial: Dial, value: Value | string, set: (draft: Effect) => void): void {
  const { effect, variant, scope, prop } = stateOf(hands);
  const label = dialLabel(effect, dial);
  const mergeKey = `literal ${dial.strand} ${dial.input}`;
  if (scope === 'prop') {
    hands.choosing.askFirst([prop], () =>
      hands.documents.editStage(
        `Change ${label} on one prop`,
        (draft) => {
          keepStandIn(draft, effect);
          setOverride(draft, { id: prop, effect: effect.id, dial: dial.id, value });
        },
        mergeKey,
      ),
    );
    return;
  }
  hands.documents.edit(
    `Change ${label}`,
    (draft) => {
      const shown = variant !== null ? draft.variants.find((v) => v.id === variant) : undefined;
      if (shown) shown.values[dial.id] = value;
      else set(draft);
      const turned = draft.dials.find((d) => d.id === dial.id);
      // The soft range widens when a value beyond it is typed.
      if (turned?.soft && typeof value === 'number')
        turned.soft = [Math.min(turned.soft[0], value), Math.max(turned.soft[1], value)];
    },
    mergeKey,
  );
}

/** Takes one prop's own value of a dial away: it follows its variant again. */
export function followVariant(hands: Hands, dial: Dial): void {
  const { effect, prop } = stateOf(hands);
  hands.documents.editStage(`${dialLabel(effect, dial)} as in the variant`, (draft) =>
    setOverride(draft, { id: prop, effect: effect.id, dial: dial.id, value: undefined }),
  );
}

export function link(hands: Hands, strand: string, name: string, input: Input | undefined): void {
  const { effect } = stateOf(hands);
  const label = strandOf(effect, strand).name;
  const says = isLink(input) ? dialLost(effect, strand, name, input.from) : null;
  hands.documents.edit(`Link ${label}, ${inputNamed(effect, strand, name)}`, (draft) =>
    setInput(draft, { id: strand, name, input }),
  );
  if (says) hands.store.setState({ notice: says });
}

/** Has something read a strand, by what brings it there where the kinds differ. */
export function read(hands: Hands, reader: Reader, way: Way): void {
  const { effect } = stateOf(hands);
  const label = `Read ${strandOf(effect, way.link.from).name} ${way.text}`.trim();
  if ('output' in reader) {
    give(hands, reader.output, label, (draft) => readBy(draft, { reader, way }));
    return;
  }
  const says = dialLost(effect, reader.strand, reader.input, way.link.from);
  hands.documents.edit(label, (draft) => readBy(draft, { reader, way }));
  if (says) hands.store.setState({ notice: says });
}

/** Gives an output a value of its own, or nothing. */
export const setOutputTo = (hands: Hands, output: OutputName, input: Input | undefined): void =>
  give(hands, output, `Set ${outputRecord(output).label}`, (draft) => setOutput(draft, { name: output, input }));

/** What is said where an opacity has made a surface see-through. */
export const BLENDS_NOW = 'An opaque surface shows nothing of an opacity: its finish is blend now.';

function give(hands: Hands, output: OutputName, label: string, recipe: (draft: Effect) => void): void {
  let through = false;
  hands.documents.edit(label, (draft) => {
    through = giveOutput(draft, output, recipe);
  });
  if (through) hands.store.setState({ notice: BLENDS_NOW });
}

/** What is to be said of a dial that a link takes; null where there is none. */
function dialLost(effect: Effect, strand: string, input: string, from: string): string | null {
  const dial = dialAt(effect, strand, input);
  if (!dial) return null;
  const [reader, source] = [strandOf(effect, strand).name, strandOf(effect, from).name];
  return `${reader} reads ${source} there, so the dial ${dialLabel(effect, dial)} is gone. Undo brings it back.`;
}

/** Does what a finding proposes, in the scope that dials are turned in. */
export function mend(hands: Hands, how: Exclude<Finding['mend'], null | HeightPaint>): void {
  if (how.kind === 'bloom-on') {
    hands.documents.editStage('Turn bloom on', (draft) => {
      draft.optics.bloom.on = true;
      if (draft.optics.bloom.intensity <= 0) draft.optics.bloom.intensity = 1;
    });
  } else if (how.kind === 'edit') hands.documents.edit(how.label, (draft) => applyMend(draft, how));
  else {
    const { effect, variant, overrides } = stateOf(hands);
    const { strand, input } = how.knob;
    const value = literalOf(effect, { variant, overrides }, strand, input);
    if (isColour(value)) {
      const intensity = value.unit === 'stops' ? Math.log2(how.factor) : how.factor;
      setLiteral(hands, strand, input, { ...value, intensity });
    } else setLiteral(hands, strand, input, how.factor);
    hands.documents.endGesture();
  }
}

/** Findings that have been waved aside stay so, until they are all recalled. */
export const waveAside = (hands: Hands, { key }: Finding): void =>
  hands.documents.edit('Dismiss advice', (draft) => dismiss(draft, { key }));

export const recallAdvice = (hands: Hands): void =>
  hands.documents.edit('Show dismissed advice', (draft) => recallDismissed(draft));

/** Keeps the chosen prop's values under a name, as a variant that it then wears. */
export function saveAsVariant(hands: Hands, name: string): void {
  const { effect, variant, overrides, prop } = stateOf(hands);
  const taken = new Set(effect.variants.map((v) => v.id));
  let id = '';
  for (let k = 1; id === '' || taken.has(id); k++) id = `v${k}`;
  const values = Object.fromEntries([...valuesOver(effect, variant, overrides)].map(([dial, value]) => [dial.id, value]));
  // It looks as the one that it was made from, the finish too.
  const finish = effect.variants.find((v) => v.id === variant)?.finish;
  hands.choosing.askFirst([prop], () => {
    hands.documents.edit(`Save the variant ${name}`, (draft) => addVariant(draft, { id, name, values, finish }));
    hands.documents.editStage(`Wear ${name}`, (draft) => {
      wear(draft, effect, { id: prop, variant: id });
      partOf(propOf(draft, propIn(prop)), partIn(prop))!.overrides = {};
    });
  });
}
