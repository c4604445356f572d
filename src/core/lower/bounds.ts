/** How far a dial can turn: the hull of its soft range and of every value the document gives it. */
import type { Interval } from '../ir/types.js';
import type { Unit } from '../operators/record.js';
import { flat } from '../effect/motifs.js';
import { type Dial, type Effect, type Value } from '../effect/schema.js';
import { componentsOf, inCoreUnits, paramValues, type Param } from './params.js';

export function dialInterval(
  effect: Effect,
  dial: Dial,
  part: 'value' | 'rgb' | 'intensity',
  base: readonly number[],
  unit: Unit,
): Interval[] {
  const low = [...base];
  const high = [...base];
  const take = (components: readonly number[]) =>
    base.forEach((_, k) => {
      const v = components[components.length === 1 ? 0 : k] ?? 0;
      low[k] = Math.min(low[k]!, v);
      high[k] = Math.max(high[k]!, v);
    });
  if (dial.soft && part !== 'rgb') for (const end of dial.soft) take([inCoreUnits(end, unit)]);
  const values: Value[] = effect.variants.flatMap((v) => (Object.hasOwn(v.values, dial.id) ? [v.values[dial.id] as Value] : []));
  for (const v of values) if (typeof v !== 'string') take(componentsOf(v, part, unit));
  return low.map((l, k) => ({ low: l, high: high[k]! }));
}

/** Bounds of each live number: a dial's hull where one turns it, else what it is. @param effect of the program's skeleton */
export function boundsOf(params: readonly Param[], whole: Effect): Interval[] {
  const effect = flat(whole);
  const dials = new Map(effect.dials.map((d) => [`${d.strand}.${d.input}`, d]));
  const values = paramValues(params, effect);
  const bounds = Array.from(values, (v): Interval => ({ low: v, high: v }));
  for (const { at, width, source, unit } of params) {
    const dial = source.from === 'strand' ? dials.get(`${source.strand}.${source.input}`) : undefined;
    if (!dial || source.from !== 'strand') continue;
    const now = [...values.subarray(at, at + width)];
    dialInterval(effect, dial, source.part, now, unit).forEach((interval, k) => (bounds[at + k] = interval));
  }
  return bounds;
}
