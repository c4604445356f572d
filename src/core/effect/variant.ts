/** A document with the values of a variant, and of a prop's overrides, written into it: base < variant < override. */
import { produce } from 'immer';
import { findOperator } from '../operators/catalogue.js';
import { strandsOf, type Effect, type Value } from './schema.js';

export function withVariant(
  effect: Effect,
  variantId: string | null,
  overrides: Readonly<Record<string, Value | string>> = {},
): Effect {
  const variant = effect.variants.find((v) => v.id === variantId);
  const values = { ...variant?.values, ...overrides };
  if (Object.keys(values).length === 0) return effect;
  return produce(effect, (draft) => {
    for (const dial of draft.dials) {
      const value = values[dial.id];
      const strand = strandsOf(draft).find((s) => s.id === dial.strand);
      if (value === undefined || !strand) continue;
      if (findOperator(strand.op)?.options[dial.input]) (strand.options ??= {})[dial.input] = String(value);
      else (strand.inputs ??= {})[dial.input] = { value: value as Value };
    }
  });
}
