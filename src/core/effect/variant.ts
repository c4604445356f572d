/** A document with the values of a variant, its finish, and a prop's overrides, written into it: base < variant < override. */
import { own } from '../base/wholesome.js';
import { produce } from 'immer';
import { findOperator } from '../operators/catalogue.js';
import { stopOf } from '../operators/record.js';
import { formOf, isRamp, strandsOf, value as valueSchema, type Dial, type Effect, type Finish, type Value } from './schema.js';

/** The option a dial turns, if it turns one. */
const optionOf = (effect: Effect, dial: Dial) => {
  const strand = strandsOf(effect).find((s) => s.id === dial.strand);
  return strand ? own(findOperator(strand.op)?.options, dial.input) : undefined;
};

/** What an input holds in the document itself, or rests on; undefined when it is linked, or rests on a place. */
export function literalIn(effect: Effect, strandId: string, input: string): Value | undefined {
  const strand = strandsOf(effect).find((s) => s.id === strandId);
  const given = strand?.inputs?.[inputKey(input)];
  if (given) return 'value' in given ? given.value : undefined;
  const stop = stopOf(input);
  const ramp = stop && strand?.inputs?.[stop.literal];
  if (stop && strand) {
    const value = ramp && 'value' in ramp ? ramp.value : findOperator(strand.op)?.literals[stop.literal]?.default;
    const found = isRamp(value) ? value.stops[stop.stop] : undefined;
    return found && (stop.part === 'place' ? found.at : [...found.rgb]);
  }
  const record = strand && findOperator(strand.op)?.inputs[input];
  const fallback = record?.default;
  if (typeof fallback === 'number') return fallback;
  if (!Array.isArray(fallback)) return undefined;
  const components = [...(fallback as number[])];
  return record!.literal === 'colour'
    ? { rgb: components as [number, number, number], intensity: 1, unit: 'factor' }
    : components;
}

/**
 * The values a prop's dials have beyond the document's own. A stage may be older than the effect it shows: values for
 * dials that are gone, or of another kind than the dial's, are left out.
 */
export function valuesOver(
  effect: Effect,
  variantId: string | null,
  overrides: Readonly<Record<string, unknown>> = {},
): Map<Dial, Value | string> {
  const variant = effect.variants.find((v) => v.id === variantId);
  const values = new Map<Dial, Value | string>();
  for (const dial of effect.dials) {
    for (const given of [overrides[dial.id], variant?.values[dial.id]]) {
      if (given === undefined) continue;
      const option = optionOf(effect, dial);
      const fits = option
        ? typeof given === 'string' && option.values.includes(given)
        : valueSchema.safeParse(given).success && formOf(given) === formOf(literalIn(effect, dial.strand, dial.input));
      if (!fits) continue;
      values.set(dial, given as Value | string);
      break;
    }
  }
  return values;
}

/** How a surface is drawn in a variant: the effect's own finish where the variant says nothing. */
export function finishOf(effect: Effect, variantId: string | null): Finish {
  const over = effect.variants.find((v) => v.id === variantId)?.finish;
  return over && Object.keys(over).length > 0 ? { ...effect.finish, ...over } : effect.finish;
}

export function withVariant(effect: Effect, variantId: string | null, overrides: Readonly<Record<string, unknown>> = {}): Effect {
  const values = valuesOver(effect, variantId, overrides);
  const finish = finishOf(effect, variantId);
  if (values.size === 0 && finish === effect.finish) return effect;
  return produce(effect, (draft) => {
    draft.finish = finish;
    for (const [dial, value] of values) {
      const strand = strandsOf(draft).find((s) => s.id === dial.strand)!;
      if (typeof value === 'string') (strand.options ??= {})[dial.input] = value;
      else (strand.inputs ??= {})[inputKey(dial.input)] = { value };
    }
  });
}

/** The key under which a strand keeps what a dial turns: a stop's `at` is its place, its `rgb` its colour. */
function inputKey(input: string): string {
  const stop = stopOf(input);
  return stop ? `${stop.literal}.${stop.stop}.${stop.part}` : input;
}
