/** What values are about, as far as records say it: so that a new strand reads what makes sense, and nothing else. */
import { widthOfKind, type Kind } from '../base/kinds.js';
import type { Leaf } from '../ir/leaves.js';
import {
  isConstant,
  mainInput,
  restsOn,
  takesAs,
  type InputRecord,
  type Meaning,
  type OperatorRecord,
  type OutputRecord,
} from './record.js';

/** What a place means, where an input rests on it. */
const OF_PLACES: Partial<Record<Leaf, Meaning>> = {
  time: 'time',
  position: 'place',
  worldPosition: 'place',
  uv: 'place',
  normal: 'normal',
  objectNormal: 'normal',
  depthGap: 'distance',
};

/** Families whose numbers are shares: masks in all but name. */
const OF_MASKS: ReadonlySet<string> = new Set(['Noise', 'Patterns', 'Masks', 'Shapes of time']);

/** What one of an operator's outputs means; undefined for a number or a vector that may be anything. */
export function outputMeaning(
  { means, family, outputs, distance }: OperatorRecord,
  output: OutputRecord,
): Meaning | 'kept' | undefined {
  const stated = output.means ?? (output === outputs[0] ? means : undefined);
  if (stated !== undefined) return stated;
  if (output.kind === 'rgb') return 'colour';
  if (distance) return 'distance';
  if (OF_MASKS.has(family)) return output.kind === '1' || output.kind === 'any' ? 'mask' : undefined;
  if (family === 'Coordinates') return output.kind === '2' ? 'place' : undefined;
  return output.kind === 'any' ? 'kept' : undefined;
}

/** What an input wants, as its record says or as what it rests on means. */
export function wantedBy(input: InputRecord): InputRecord['wants'] {
  const place = restsOn(input);
  return input.wants ?? (place && OF_PLACES[place]);
}

/** Of a strand's value: how wide it is, and what it means. */
export interface Given {
  readonly kind: Kind;
  readonly meaning: Meaning | undefined;
}

/** Whether a value makes sense at an input: `wanted` is just what it is for, `taken` does no harm. */
function fit(input: InputRecord, main: boolean, { kind, meaning }: Given): 'wanted' | 'taken' | 'no' {
  if (takesAs(input, kind) !== 'as it is') return 'no';
  const wants = wantedBy(input);
  const all: readonly (Meaning | 'number' | undefined)[] = Array.isArray(wants) ? wants : [wants];
  // A colour is what anything may be done to, but only a number is a share, a time or a distance.
  if (meaning !== undefined && all.includes(meaning)) return 'wanted';
  const free = wants === undefined;
  if (meaning === undefined && kind === '1' && Array.isArray(wants) && wants.includes('number')) return 'wanted';
  if (meaning === undefined && kind === '1')
    return (main && restsOn(input) === undefined && all.length > 0) || all.includes('mask') ? 'taken' : 'no';
  if (free && (main || input.kind === 'any')) return 'taken';
  // Three numbers that may be anything go where three numbers are all that is asked for.
  return meaning === undefined && main && restsOn(input) === undefined && widthOfKind(kind) > 1 ? 'taken' : 'no';
}

/**
 * The input that a new strand of an operator reads a value by: the first that wants just this; else what the strand works
 * on, and then the first that takes anything. Null where none makes sense.
 * @param taken inputs that are given already
 */
export function inputFor(operator: OperatorRecord, given: Given, taken: ReadonlySet<string> = new Set()): string | null {
  const main = mainInput(operator);
  const free = Object.entries(operator.inputs)
    .filter(([name, record]) => !taken.has(name) && !isConstant(record, operator))
    .sort(([a], [b]) => Number(b === main) - Number(a === main))
    .map(([name, record]) => ({ name, how: fit(record, name === main, given) }));
  return (free.find((f) => f.how === 'wanted') ?? free.find((f) => f.how === 'taken'))?.name ?? null;
}
