/** How far a dial can turn: the hull of its soft range and of every value the document gives it. */
import type { Interval } from '../ir/types.js';
import type { Unit } from '../operators/record.js';
import { type Dial, type Effect, type Value } from '../effect/schema.js';
import { componentsOf, inCoreUnits } from './params.js';

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
  const values: Value[] = effect.variants.flatMap((v) => (dial.id in v.values ? [v.values[dial.id] as Value] : []));
  for (const v of values) if (typeof v !== 'string') take(componentsOf(v, part, unit));
  return low.map((l, k) => ({ low: l, high: high[k]! }));
}
