/** What the keys, menus and controls of the bench do, as edits of the open documents. */
import {
  addDial,
  addStrand,
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
  type Wrap,
} from '../core/effect/edits.js';
import { strandsOf, type Colour, type Dial, type Effect, type Input, type Value } from '../core/effect/schema.js';
import { operatorOf } from '../core/operators/catalogue.js';
import type { BenchSession } from './bench.js';

const stateOf = (session: BenchSession) => session.store.getState();
export const choose = (session: BenchSession, chosen: string | null): void => session.store.setState({ chosen });

/** Adds a strand under the chosen one, which becomes its first input. @returns its id */
export function addUnderChosen(session: BenchSession, op: string, splice: boolean): string {
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
  const newId = freshId(effect, how === 'invert' ? 'subtract' : how === 'clamp' ? 'clamp' : 'multiply');
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
  const record = operatorOf(strandOf(effect, strand).op).inputs[input]!;
  const dial: Dial = { id: freshDialId(effect), strand, input, unit: record.unit ?? '', soft: [...record.soft], scale: 'linear' };
  session.edit(`Make a dial of ${dialLabel(effect, dial)}`, (draft) => {
    const target = strandOf(draft, strand);
    // A dial turns a literal: an input that rested on its default gets that default as its own.
    if (!target.inputs?.[input] && typeof record.default === 'number')
      setInput(draft, { id: strand, name: input, input: { value: record.default } });
    addDial(draft, { dial });
  });
}

/**
 * Sets an input's literal. Where it is a dial and a variant is shown, the variant's value is set.
 * Calls of one gesture become one step of the history.
 */
export function setLiteral(session: BenchSession, strand: string, input: string, value: Value): void {
  const { effect, variant } = stateOf(session);
  const dial = dialAt(effect, strand, input);
  const label = dial ? dialLabel(effect, dial) : `${strandOf(effect, strand).name}, ${input}`;
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
    `literal ${strand} ${input}`,
  );
}

export function link(session: BenchSession, strand: string, name: string, input: Input | undefined): void {
  const { effect } = stateOf(session);
  session.edit(`Link ${strandOf(effect, strand).name}, ${name}`, (draft) => setInput(draft, { id: strand, name, input }));
}

/** The value an input shows: the variant's, the literal's, or the default; undefined when it is linked to a place. */
export function literalOf(effect: Effect, variant: string | null, strand: string, input: string): Value | undefined {
  const target = strandOf(effect, strand);
  const dial = dialAt(effect, strand, input);
  const own = dial && effect.variants.find((v) => v.id === variant)?.values[dial.id];
  if (own !== undefined && typeof own !== 'string') return own;
  const given = target.inputs?.[input];
  if (given && 'value' in given) return given.value;
  const fallback = operatorOf(target.op).inputs[input]?.default;
  if (typeof fallback === 'number') return fallback;
  if (Array.isArray(fallback))
    return operatorOf(target.op).inputs[input]!.literal === 'colour'
      ? ({ rgb: [1, 1, 1], intensity: 1, unit: 'factor' } satisfies Colour)
      : [...(fallback as number[])];
  return undefined;
}
