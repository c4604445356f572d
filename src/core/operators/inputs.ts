/** Inputs that many operators have, said once. */
import type { InputRecord } from './record.js';

type Default = InputRecord['default'];
type Range = readonly [number, number];

export const number = (fallback: Default, note: string, soft: Range = [0, 1], unit?: InputRecord['unit']): InputRecord => ({
  kind: '1',
  default: fallback,
  soft,
  note,
  ...(unit ? { unit } : {}),
});

const vector =
  (kind: '2' | '3' | '4') =>
  (fallback: Default, note: string, soft: Range = [-1, 1], unit?: InputRecord['unit']): InputRecord => ({
    kind,
    default: fallback,
    soft,
    literal: 'vector',
    note,
    ...(unit ? { unit } : {}),
  });
export const pair = vector('2');
export const three = vector('3');
export const four = vector('4');

/** The texture coordinates, where nothing else is given. */
export const uv: InputRecord = { kind: '2', default: { leaf: 'uv' }, soft: [0, 1], note: 'the coordinates' };
/** The effect's own time, where nothing else is given. */
export const clock = number({ leaf: 'time' }, 'the time it follows', [0, 10], 's');

/** Seconds since what has never been. */
export const NEVER = 1e6;
/** Which trigger is heard. */
export const trigger = { form: 'trigger', default: null, note: 'which of the effect’s triggers' } as const;

/** One output: a mask. */
export const mask = [{ id: 'value', kind: '1', note: '0 to 1' }] as const;
