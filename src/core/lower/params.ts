/**
 * The live numbers of a program: what each stands for in the document, and their values for the document as it is.
 * The order is fixed when the sheet is lowered; the numbers can then change without a new program.
 */
import type { OutputName } from '../effect/outputs.js';
import { own } from '../base/wholesome.js';
import { oklabOf, type Row } from '../base/oklab.js';
import { EASE_KINDS, ROW_HEAD, type KeyTable } from '../base/keys.js';
import { findOperator } from '../operators/catalogue.js';
import { stopOf, type Ramp, type Unit } from '../operators/record.js';
import { handlesOf, numbered } from '../effect/cues.js';
import {
  factorOf,
  isColour,
  isLink,
  isRamp,
  strandsOf,
  type Cue,
  type Effect,
  type Strand,
  type Trigger,
  type Value,
} from '../effect/schema.js';
import { flat } from '../effect/motifs.js';
import { NEVER, REMEMBERED, heardOf, roomFor } from '../effect/triggers.js';

export type ParamSource =
  | { readonly from: 'strand'; readonly strand: string; readonly input: string; readonly part: 'value' | 'rgb' | 'intensity' }
  | { readonly from: 'output'; readonly output: string; readonly part: 'value' | 'rgb' | 'intensity' }
  | { readonly from: 'cue'; readonly dial: string; readonly key: number; readonly part: 'time' | 'value' | 'handles' }
  /** All keys of a cue: a table, by rising time. */
  | { readonly from: 'keys'; readonly dial: string }
  | { readonly from: 'shared'; readonly shared: string; readonly part: 'value' | 'rgb' | 'intensity' }
  /** The firings of a trigger: a table, by rising time. */
  | { readonly from: 'firings'; readonly trigger: string; readonly closes: boolean }
  | { readonly from: 'duration'; readonly trigger: string }
  | { readonly from: 'loop' };

export interface Param {
  /** First place among the live numbers, and how many there are. */
  readonly at: number;
  readonly width: number;
  readonly source: ParamSource;
  readonly unit: Unit;
}

const RADIANS = Math.PI / 180;
export const inCoreUnits = (value: number, unit: Unit): number => (unit === 'deg' ? value * RADIANS : value);

/** The components of a literal in core units; a colour comes out multiplied unless a part is asked for. */
export function componentsOf(value: Value, part: 'value' | 'rgb' | 'intensity', unit: Unit = ''): number[] {
  if (typeof value === 'number') return [inCoreUnits(value, unit)];
  if (typeof value === 'boolean') return [value ? 1 : 0];
  if (Array.isArray(value)) return value.map((v) => inCoreUnits(v, unit));
  if (isColour(value)) {
    const factor = factorOf(value.intensity, value.unit);
    if (part === 'rgb') return [...value.rgb];
    if (part === 'intensity') return [factor];
    return value.rgb.map((c) => c * factor);
  }
  throw new Error('a value of this kind has no components');
}

/** A key's value as it is eased: numbers as they are, colours in OKLab. */
export function keyComponents(value: Value, unit: Unit): number[] {
  const components = componentsOf(value, 'value', unit);
  return isColour(value) ? [...oklabOf(components as unknown as Row)] : components;
}

/** The table of a cue's keys. @param at its first live number */
export function keyTable({ keys }: Cue, at: number, unit: Unit): KeyTable {
  return { at, count: keys.length, width: componentsOf(keys[0]!.value, 'value', unit).length };
}

/** The rows of a cue's table, by rising time. */
export function keyRows({ keys }: Cue, { width }: Pick<KeyTable, 'width'>, unit: Unit): number[] {
  const sorted = keys.map((key, k) => ({ key, k })).sort((p, q) => p.key.time - q.key.time || p.k - q.k);
  return sorted.flatMap(({ key }) => {
    const value = keyComponents(key.value, unit);
    const kind = key.ease === 'linear' ? EASE_KINDS.linear : key.ease === 'step' ? EASE_KINDS.step : EASE_KINDS.curve;
    const lanes = Array.from({ length: width }, (_, k) => value[value.length === 1 ? 0 : k] ?? 0);
    return [key.time, kind, ...handlesOf(key.ease), ...lanes];
  });
}

/** Before and after everything, in seconds: rows where there is no firing. */
export const LONG_AGO = -2 * NEVER;
const NOT_YET = 1e9;

/** A table of firings is one of keys whose values are places: a row before all, those that are heard, and none after. */
export function firingTable(trigger: Trigger, closes: boolean, at: number): KeyTable {
  return { at, count: roomFor(trigger) + (closes ? REMEMBERED : 0) + 2, width: 3 };
}

function firingRows(trigger: Trigger, loop: number | null, width: number): number[] {
  const row = (time: number, place: readonly number[]) => [time, EASE_KINDS.step, 0, 0, 0, 0, ...place];
  const nowhere = [0, 0, 0];
  const rows = heardOf(trigger, loop).map((f) => row(f.at, f.place ?? nowhere));
  const empty = width / (ROW_HEAD + 3) - rows.length - 1;
  return [row(LONG_AGO, nowhere), ...rows, ...Array.from({ length: empty }, () => row(NOT_YET, nowhere))].flat();
}

/** The ramp of a strand: the file's, or the one it rests on. */
export function rampOf(strand: Strand, literal: string): Ramp {
  const given = strand.inputs?.[literal];
  if (given && !isLink(given) && isRamp(given.value)) return given.value as Ramp;
  return findOperator(strand.op)!.literals[literal]!.default as Ramp;
}

function stopValue(strand: Strand, { literal, stop, part }: NonNullable<ReturnType<typeof stopOf>>): Value {
  const { at, rgb } = rampOf(strand, literal).stops[stop]!;
  return part === 'place' ? at : [...rgb];
}

function literalOf(effect: Effect, strands: ReadonlyMap<string, Strand>, source: ParamSource): Value {
  if (source.from === 'strand') {
    const input = own(strands.get(source.strand)?.inputs, source.input);
    if (input && !isLink(input)) return input.value;
    const stop = stopOf(source.input);
    if (stop) return stopValue(strands.get(source.strand)!, stop);
    const fallback = own(findOperator(strands.get(source.strand)?.op ?? '')?.inputs, source.input)?.default;
    if (typeof fallback === 'number') return fallback;
    if (Array.isArray(fallback)) return fallback as number[];
    throw new Error(`no literal at ${source.strand}.${source.input}`);
  }
  if (source.from === 'output') {
    const input = effect.outputs[source.output as OutputName];
    if (input && !isLink(input)) return input.value;
    throw new Error(`no literal at the output ${source.output}`);
  }
  if (source.from === 'shared') return effect.shared.find((v) => v.id === source.shared)!.value;
  if (source.from === 'loop') return effect.loop ?? 0;
  if (source.from === 'duration') return effect.triggers.find((t) => t.id === source.trigger)!.duration;
  if (source.from === 'keys' || source.from === 'firings') throw new Error('keys are rows of numbers');
  const key = numbered(effect.cues.find((c) => c.dial === source.dial)!).keys[source.key]!;
  if (source.part === 'time') return key.time;
  if (source.part === 'handles') return [...handlesOf(key.ease)];
  return key.value;
}

const ordered = new WeakMap<readonly Param[], readonly Param[]>();

/** The same live numbers one after another, as a program has them that was lowered by itself. */
export function inOrder(params: readonly Param[]): readonly Param[] {
  let found = ordered.get(params);
  if (!found) {
    let at = 0;
    found = params.map((p) => ({ ...p, at: (at += p.width) - p.width }));
    ordered.set(params, found);
  }
  return found;
}

/** The live numbers' values for a document, with its variant already applied. */
export function paramValues(params: readonly Param[], whole: Effect): Float32Array {
  const effect = flat(whole);
  const strands = new Map(strandsOf(effect).map((s) => [s.id, s]));
  let end = 0;
  for (const { at, width } of params) end = Math.max(end, at + width);
  const values = new Float32Array(end);
  for (const { at, width, source, unit } of params) {
    if (source.from === 'keys') {
      const cue = numbered(effect.cues.find((c) => c.dial === source.dial)!);
      values.set(keyRows(cue, { width: width / cue.keys.length - ROW_HEAD }, unit), at);
      continue;
    }
    if (source.from === 'firings') {
      values.set(
        firingRows(
          effect.triggers.find((t) => t.id === source.trigger)!,
          source.closes ? effect.loop : null,
          width,
        ),
        at,
      );
      continue;
    }
    const part = 'part' in source && source.from !== 'cue' ? source.part : 'value';
    const literal = literalOf(effect, strands, source);
    const components =
      source.from === 'cue' && part === 'value' ? keyComponents(literal, unit) : componentsOf(literal, part, unit);
    for (let k = 0; k < width; k++) values[at + k] = components[components.length === 1 ? 0 : k] ?? 0;
  }
  return values;
}
