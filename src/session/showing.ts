/** What an input shows: its literal, or what a variant, a prop or a cue says instead. */
import { own as ownOf } from '../core/base/wholesome.js';
import { addDial, freshDialId, setInput, strandOf } from '../core/effect/edits.js';
import type { Dial, Effect, Value } from '../core/effect/schema.js';
import { literalIn, valuesOver } from '../core/effect/variant.js';
import { recordOf } from '../core/effect/recordOf.js';
import { inputRecord } from '../core/operators/record.js';

export const dialAt = (effect: Effect, strand: string, input: string): Dial | undefined =>
  effect.dials.find((d) => d.strand === strand && d.input === input);

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

/** The word that an option shows: the prop's, the variant's, the strand's, or what it rests on. */
export function optionShown(effect: Effect, { variant, overrides }: Showing, strand: string, name: string): string | undefined {
  const own = strandOf(effect, strand);
  const dial = dialAt(effect, strand, name);
  const said = dial && valuesOver(effect, variant, overrides).get(dial);
  return typeof said === 'string' ? said : (ownOf(own.options, name) ?? ownOf(recordOf(effect, own).options, name)?.default);
}

/** A dial for an input or an option, as one begins. */
export function freshDial(effect: Effect, strand: string, input: string): Dial {
  const record = inputRecord(recordOf(effect, strandOf(effect, strand)), input);
  // An option has words, no range.
  if (!record) return { id: freshDialId(effect), strand, input };
  return { id: freshDialId(effect), strand, input, unit: record.unit ?? '', soft: [...record.soft], scale: 'linear' };
}

/** Exposes an input. A dial turns a literal: an input that rested on its default gets that default as its own. */
export function exposeInput(draft: Effect, dial: Dial): void {
  const { strand: id, input: name } = dial;
  const rests = strandOf(draft, id).inputs?.[name] ? undefined : literalIn(draft, id, name);
  if (rests !== undefined) setInput(draft, { id, name, input: { value: rests } });
  addDial(draft, { dial });
}
