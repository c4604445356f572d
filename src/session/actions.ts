/** What the keys, menus and controls of the bench do, as edits of the open documents. */
import { applyMend } from '../core/effect/mends.js';
import { dismiss, recallDismissed, type Finding } from '../core/analysis/findings.js';
import {
  addDial,
  addStrand,
  addVariant,
  dialLabel,
  deleteStrand,
  firstInputFor,
  freshId,
  freshName,
  moveStrand,
  removeDial,
  setInput,
  strandOf,
  swapInputs,
  toggleBypass,
  wrapStrand,
} from '../core/effect/edits.js';
import { literalIn, valuesOver } from '../core/effect/variant.js';
import { isColour, strandsOf, type Dial, type Effect, type Input, type Value } from '../core/effect/schema.js';
import { keepStandIn, wear } from '../core/scene/wearing.js';
import { partOf, propOf, setOverride } from '../core/scene/edits.js';
import { operatorOf } from '../core/operators/catalogue.js';
import { WRAP_RECORDS, type Wrap } from '../core/operators/wraps.js';
import { inputRecord } from '../core/operators/record.js';
import type { BenchSession } from './bench.js';

const stateOf = (session: BenchSession) => session.store.getState();
export const choose = (session: BenchSession, chosen: string | null): void => session.choose(chosen);

/** Adds a strand under the chosen one, which becomes its first input. @returns its id */
export function addUnderChosen(session: BenchSession, op: string, splice: boolean): string {
  // What the strand above it has become counts, not what it was a frame ago.
  session.flush();
  const { effect, chosen, readings } = stateOf(session);
  const strands = strandsOf(effect);
  const after = chosen ?? strands[strands.length - 1]?.id ?? null;
  const id = freshId(effect, op);
  const { label } = operatorOf(op);
  const input = after === null ? null : firstInputFor(op, readings.get(after)?.kind ?? '1');
  const reads = after !== null && input !== null ? { strand: after, input } : undefined;
  session.edit(`Add ${label}`, (draft) =>
    addStrand(draft, { id, op, name: freshName(draft, label), after, ...(reads ? { reads } : {}), splice }),
  );
  choose(session, id);
  return id;
}

/** Deletes a strand and chooses its neighbour. */
export function remove(session: BenchSession, id: string): void {
  const strands = strandsOf(stateOf(session).effect);
  const place = strands.findIndex((s) => s.id === id);
  const neighbour = strands[place + 1] ?? strands[place - 1] ?? null;
  session.edit(`Delete ${strands[place]!.name}`, (draft) => deleteStrand(draft, { id }));
  choose(session, neighbour?.id ?? null);
}

export function moveBy(session: BenchSession, id: string, rows: number): void {
  const { effect } = stateOf(session);
  const place = strandsOf(effect).findIndex((s) => s.id === id);
  session.edit(`Move ${strandOf(effect, id).name}`, (draft) => moveStrand(draft, { id, to: place + rows }));
}

export const bypass = (session: BenchSession, id: string): void =>
  session.edit(`Bypass ${strandOf(stateOf(session).effect, id).name}`, (draft) => toggleBypass(draft, { id }));

export const swap = (session: BenchSession, id: string): void =>
  session.edit(`Swap the inputs of ${strandOf(stateOf(session).effect, id).name}`, (draft) => swapInputs(draft, { id }));

export function wrap(session: BenchSession, id: string, how: Wrap): void {
  const { effect } = stateOf(session);
  const newId = freshId(effect, WRAP_RECORDS[how].op);
  session.edit(`Wrap ${strandOf(effect, id).name}`, (draft) =>
    wrapStrand(draft, { id, how, newId, dialId: freshDialId(effect) }),
  );
  choose(session, newId);
}

export function freshDialId(effect: Effect): string {
  const taken = new Set(effect.dials.map((d) => d.id));
  for (let k = 1; ; k++) if (!taken.has(`d${k}`)) return `d${k}`;
}

export const dialAt = (effect: Effect, strand: string, input: string): Dial | undefined =>
  effect.dials.find((d) => d.strand === strand && d.input === input);

/** Exposes an input as a dial, or takes its dial away. */
export function toggleDial(session: BenchSession, strand: string, input: string): void {
  const { effect } = stateOf(session);
  const there = dialAt(effect, strand, input);
  if (there) {
    session.edit(`Remove the dial ${dialLabel(effect, there)}`, (draft) => removeDial(draft, { id: there.id }));
    return;
  }
  const record = inputRecord(operatorOf(strandOf(effect, strand).op), input)!;
  const dial: Dial = { id: freshDialId(effect), strand, input, unit: record.unit ?? '', soft: [...record.soft], scale: 'linear' };
  session.edit(`Make a dial of ${dialLabel(effect, dial)}`, (draft) => {
    const target = strandOf(draft, strand);
    // A dial turns a literal: an input that rested on its default gets that default as its own.
    const rests = target.inputs?.[input] ? undefined : literalIn(draft, strand, input);
    if (rests !== undefined) setInput(draft, { id: strand, name: input, input: { value: rests } });
    addDial(draft, { dial });
  });
}

/**
 * Sets an input's literal. Where it is a dial, the variant that the chosen prop wears gets the value, or in the scope of
 * the prop that prop alone. Calls of one gesture become one step of the history.
 */
export function setLiteral(session: BenchSession, strand: string, input: string, value: Value): void {
  const { effect, variant, scope, prop } = stateOf(session);
  const dial = dialAt(effect, strand, input);
  const label = dial ? dialLabel(effect, dial) : `${strandOf(effect, strand).name}, ${input}`;
  const mergeKey = `literal ${strand} ${input}`;
  if (dial && scope === 'prop') {
    session.askFirst([prop], () =>
      session.editStage(
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
  session.edit(
    `Change ${label}`,
    (draft) => {
      const shown = dial && variant !== null ? draft.variants.find((v) => v.id === variant) : undefined;
      if (shown) shown.values[dial!.id] = value;
      else setInput(draft, { id: strand, name: input, input: { value } });
      const turned = draft.dials.find((d) => d.id === dial?.id);
      // The soft range widens when a value beyond it is typed.
      if (turned?.soft && typeof value === 'number')
        turned.soft = [Math.min(turned.soft[0], value), Math.max(turned.soft[1], value)];
    },
    mergeKey,
  );
}

/** Takes one prop's own value of a dial away: it follows its variant again. */
export function followVariant(session: BenchSession, dial: Dial): void {
  const { effect, prop } = stateOf(session);
  session.editStage(`${dialLabel(effect, dial)} as in the variant`, (draft) =>
    setOverride(draft, { id: prop, effect: effect.id, dial: dial.id, value: undefined }),
  );
}

export function link(session: BenchSession, strand: string, name: string, input: Input | undefined): void {
  const { effect } = stateOf(session);
  session.edit(`Link ${strandOf(effect, strand).name}, ${name}`, (draft) => setInput(draft, { id: strand, name, input }));
}

/** The values that an input may show beyond its own literal: a prop's, and its variant's. */
export interface Showing {
  readonly variant: string | null;
  readonly overrides: Readonly<Record<string, unknown>>;
}

export const BASE: Showing = { variant: null, overrides: {} };

/** The value an input shows: the prop's, the variant's, the literal's, or the default; undefined when it is linked to a place. */
export function literalOf(effect: Effect, { variant, overrides }: Showing, strand: string, input: string): Value | undefined {
  const dial = dialAt(effect, strand, input);
  const own = dial && valuesOver(effect, variant, overrides).get(dial);
  if (own !== undefined && typeof own !== 'string') return own;
  return literalIn(effect, strand, input);
}

/** Does what a finding proposes, in the scope that dials are turned in. */
export function mend(session: BenchSession, finding: Finding): void {
  const { mend: how } = finding;
  if (how?.kind === 'bloom-on') {
    session.editStage('Turn bloom on', (draft) => {
      draft.optics.bloom.on = true;
      if (draft.optics.bloom.intensity <= 0) draft.optics.bloom.intensity = 1;
    });
  } else if (how?.kind === 'edit') session.edit(how.label, (draft) => applyMend(draft, how));
  else if (how) {
    const { effect, variant, overrides } = stateOf(session);
    const { strand, input } = how.knob;
    const value = literalOf(effect, { variant, overrides }, strand, input);
    if (isColour(value)) {
      const intensity = value.unit === 'stops' ? Math.log2(how.factor) : how.factor;
      setLiteral(session, strand, input, { ...value, intensity });
    } else setLiteral(session, strand, input, how.factor);
    session.endGesture();
  }
}

/** Findings that have been waved aside stay so, until they are all recalled. */
export const waveAside = (session: BenchSession, { key }: Finding): void =>
  session.edit('Dismiss advice', (draft) => dismiss(draft, { key }));

export const recallAdvice = (session: BenchSession): void =>
  session.edit('Show dismissed advice', (draft) => recallDismissed(draft));

/** Keeps the chosen prop's values under a name, as a variant that it then wears. */
export function saveAsVariant(session: BenchSession, name: string): void {
  const { effect, variant, overrides, prop } = stateOf(session);
  const taken = new Set(effect.variants.map((v) => v.id));
  let id = '';
  for (let k = 1; id === '' || taken.has(id); k++) id = `v${k}`;
  const values = Object.fromEntries([...valuesOver(effect, variant, overrides)].map(([dial, value]) => [dial.id, value]));
  session.askFirst([prop], () => {
    session.edit(`Save the variant ${name}`, (draft) => addVariant(draft, { id, name, values }));
    session.editStage(`Wear ${name}`, (draft) => {
      wear(draft, effect, { id: prop, variant: id });
      partOf(propOf(draft, prop))!.overrides = {};
    });
  });
}
