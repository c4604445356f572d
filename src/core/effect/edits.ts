/**
 * Edits of an effect: each `(draft, args) => void`, to be run under immer. They keep the document valid: ids stay
 * unique, and a strand reads only strands above it.
 */
import { current, isDraft } from 'immer';
import { own } from '../base/wholesome.js';
import { findOperator, operatorOf } from '../operators/catalogue.js';
import { inputLabel, mainInput, stopOf } from '../operators/record.js';
import { WRAP_RECORDS, type Wrap } from '../operators/wraps.js';
import { labelOfInput, recordOf } from './recordOf.js';
import { isLink, strandsOf, type Dial, type Effect, type Finish, type Input, type Strand, type Value } from './schema.js';
import { OUTPUTS, type OutputName } from './outputs.js';

const at = (effect: Effect, id: string): number => {
  const k = strandsOf(effect).findIndex((s) => s.id === id);
  if (k < 0) throw new Error(`no strand ${id}`);
  return k;
};
export const strandOf = (effect: Effect, id: string): Strand => strandsOf(effect)[at(effect, id)]!;

/** The input that is given in this one's place, so that this one counts for nothing; undefined where it counts. */
export function insteadOf({ op, inputs }: Strand, input: string): string | undefined {
  const unless = operatorOf(op).inputs[input]?.unless;
  return unless !== undefined && inputs?.[unless] !== undefined ? unless : undefined;
}

/** A free strand id that starts like the operator's. */
export function freshId(effect: Effect, op: string): string {
  const base =
    op
      .toLowerCase()
      .replace(/[^a-z0-9]/g, '')
      .slice(0, 16) || 's';
  const taken = new Set(strandsOf(effect).map((s) => s.id));
  for (let k = 1; ; k++) {
    const id = k === 1 ? base : `${base}${k}`;
    if (!taken.has(id)) return id;
  }
}

export function freshDialId(effect: Effect): string {
  const taken = new Set(effect.dials.map((d) => d.id));
  for (let k = 1; ; k++) if (!taken.has(`d${k}`)) return `d${k}`;
}

/** "Noise", "Noise 2", ... */
export function freshName(effect: Effect, wanted: string): string {
  const taken = new Set(strandsOf(effect).map((s) => s.name));
  const base = wanted[0]!.toUpperCase() + wanted.slice(1);
  for (let k = 1; ; k++) {
    const name = k === 1 ? base : `${base} ${k}`;
    if (!taken.has(name)) return name;
  }
}

export interface NewStrand {
  readonly id: string;
  readonly op: string;
  readonly name: string;
  /** The strand it goes under; null puts it first. */
  readonly after: string | null;
  /** The strand that becomes its input, and that input's name. */
  readonly reads?: { readonly strand: string; readonly input: string };
  /** Hands its result to everyone who read `reads.strand`. */
  readonly splice?: boolean;
  /** What it is given besides. */
  readonly inputs?: Readonly<Record<string, Input>>;
  readonly options?: Readonly<Record<string, string>>;
}

export function addStrand(draft: Effect, { id, op, name, after, reads, splice, inputs = {}, options = {} }: NewStrand): void {
  const strand: Strand = { id, name, op };
  const given: Record<string, Input> = {};
  if (reads) given[reads.input] = { from: reads.strand };
  for (const [input, value] of Object.entries(findOperator(op)?.initial ?? {}))
    given[input] = { value: structuredClone(value) as Value };
  Object.assign(given, structuredClone(inputs));
  if (Object.keys(given).length > 0) strand.inputs = given;
  if (Object.keys(options).length > 0) strand.options = { ...options };
  const place = after === null ? 0 : at(draft, after) + 1;
  if (splice && reads) handOver(draft, reads.strand, { from: id }, place);
  strandsOf(draft).splice(place, 0, strand);
}

/** Everyone at or below `from` who reads the strand, and every output, reads `instead`. Ports and parts are kept on links. */
function handOver(draft: Effect, strand: string, instead: Input, from = 0): void {
  const swap = (input: Input | undefined): Input | undefined => {
    if (!isLink(input) || input.from !== strand) return input;
    if (!isLink(instead)) return { ...instead };
    return { ...instead, ...(input.part !== undefined && instead.part === undefined ? { part: input.part } : {}) };
  };
  strandsOf(draft).forEach((s, k) => {
    if (k < from || !s.inputs) return;
    for (const name of Object.keys(s.inputs)) {
      const next = swap(s.inputs[name]);
      if (next !== s.inputs[name]) s.inputs[name] = next;
    }
  });
  for (const name of Object.keys(draft.outputs) as OutputName[]) {
    const next = swap(draft.outputs[name]);
    if (next !== draft.outputs[name]) draft.outputs[name] = next;
  }
}

/** Its readers get its first input in its place; where it had none, they are unset. */
export function deleteStrand(draft: Effect, { id }: { id: string }): void {
  const place = at(draft, id);
  const strand = strandsOf(draft)[place]!;
  const first = mainInput(operatorOf(strand.op));
  const through = first ? strand.inputs?.[first] : undefined;
  if (isLink(through)) handOver(draft, id, { ...through });
  else {
    for (const s of strandsOf(draft))
      for (const [name, input] of Object.entries(s.inputs ?? {})) if (isLink(input) && input.from === id) dropInput(s, name);
    for (const [name, input] of Object.entries(draft.outputs))
      if (isLink(input) && input.from === id) delete draft.outputs[name as OutputName];
  }
  const next = strandsOf(draft)[place + 1];
  draft.sections = draft.sections.flatMap((s) => {
    if (s.first !== id) return [s];
    // The section now begins at the next strand, unless that begins a section of its own.
    return next && !draft.sections.some((other) => other.first === next.id) ? [{ ...s, first: next.id }] : [];
  });
  const gone = new Set(draft.dials.filter((d) => d.strand === id).map((d) => d.id));
  dropDials(draft, gone);
  strandsOf(draft).splice(place, 1);
}

/** Takes dials away, with what is kept for them: cues, and what variants say. */
export function dropDials(draft: Effect, gone: ReadonlySet<string>): void {
  draft.dials = draft.dials.filter((d) => !gone.has(d.id));
  draft.cues = draft.cues.filter((c) => !gone.has(c.dial));
  for (const v of draft.variants) for (const key of Object.keys(v.values)) if (gone.has(key)) delete v.values[key];
}

/** Where a strand may stand: below everything it reads and above everything that reads it. */
export function moveLimits(effect: Effect, id: string): { lowest: number; highest: number } {
  const strands = strandsOf(effect);
  const place = at(effect, id);
  const sources = Object.values(strands[place]!.inputs ?? {}).flatMap((i) => (isLink(i) ? [at(effect, i.from)] : []));
  const readers = strands.flatMap((s, k) => (Object.values(s.inputs ?? {}).some((i) => isLink(i) && i.from === id) ? [k] : []));
  return { lowest: Math.max(-1, ...sources) + 1, highest: Math.min(strands.length, ...readers) - 1 };
}

/** Moves a strand to a place within its limits; outside them, to the nearest. */
export function moveStrand(draft: Effect, { id, to }: { id: string; to: number }): void {
  const { lowest, highest } = moveLimits(draft, id);
  const place = at(draft, id);
  const target = Math.max(lowest, Math.min(highest, to));
  if (target === place) return;
  const strands = strandsOf(draft);
  // A section keeps its strands: when its first leaves, the next one begins it.
  const heading = draft.sections.find((s) => s.first === id);
  const next = strands[place + 1];
  if (heading && next && !draft.sections.some((s) => s.first === next.id)) heading.first = next.id;
  const [strand] = strands.splice(place, 1);
  strands.splice(target, 0, strand!);
}

export function renameStrand(draft: Effect, { id, name }: { id: string; name: string }): void {
  const trimmed = name.trim().slice(0, 80);
  if (trimmed) strandOf(draft, id).name = trimmed;
}

/** What says nothing is not in the document, as it is not in the file: its history must fit what is read back. */
export function dropInput(strand: Strand, name: string): void {
  if (!strand.inputs) return;
  delete strand.inputs[name];
  if (Object.keys(strand.inputs).length === 0) delete strand.inputs;
}

/** @param input undefined returns the input to its neutral default */
export function setInput(draft: Effect, { id, name, input }: { id: string; name: string; input: Input | undefined }): void {
  const strand = strandOf(draft, id);
  if (isLink(input) && at(draft, input.from) >= at(draft, id)) throw new Error('a strand reads only strands above it');
  if (input === undefined) dropInput(strand, name);
  else (strand.inputs ??= {})[name] = input;
  if (isLink(input)) dropDials(draft, new Set(draft.dials.filter((d) => d.strand === id && d.input === name).map((d) => d.id)));
}

export function setOption(draft: Effect, { id, name, value }: { id: string; name: string; value: string }): void {
  const strand = strandOf(draft, id);
  (strand.options ??= {})[name] = value;
}

export function toggleBypass(draft: Effect, { id }: { id: string }): void {
  const strand = strandOf(draft, id);
  if (strand.bypassed) delete strand.bypassed;
  else strand.bypassed = true;
}

/** Exchanges the first two inputs: the mend for a subtraction wired the wrong way round. */
export function swapInputs(draft: Effect, { id }: { id: string }): void {
  const strand = strandOf(draft, id);
  const [first, second] = Object.keys(operatorOf(strand.op).inputs);
  if (first === undefined || second === undefined) return;
  const inputs = strand.inputs ?? {};
  const [a, b] = [inputs[first], inputs[second]];
  for (const [name, input] of [
    [first, b],
    [second, a],
  ] as const) {
    if (input === undefined) dropInput(strand, name);
    else (strand.inputs ??= {})[name] = input;
  }
  for (const d of draft.dials) if (d.strand === id) d.input = d.input === first ? second : d.input === second ? first : d.input;
}

/** Puts one more step between a strand and its readers. @param range what the strand can be, for a wrap that takes it from there */
export function wrapStrand(
  draft: Effect,
  { id, how, newId, dialId, range }: { id: string; how: Wrap; newId: string; dialId: string; range?: readonly [number, number] },
): void {
  const { op, reads, name, beside, ends, options = {}, dial } = WRAP_RECORDS[how];
  addStrand(draft, {
    ...{ id: newId, op, name: freshName(draft, name(strandOf(draft, id).name)), after: id },
    ...{ reads: { strand: id, input: reads }, splice: true, options },
  });
  for (const [input, value] of Object.entries(beside)) strandOf(draft, newId).inputs![input] = { value };
  if (ends && range) ends.forEach((end, k) => (strandOf(draft, newId).inputs![end] = { value: range[k]! }));
  if (dial) addDial(draft, { dial: { id: dialId, strand: newId, input: dial, soft: [0, 4], scale: 'linear' } });
}

export function setOutput(draft: Effect, { name, input }: { name: OutputName; input: Input | undefined }): void {
  if (input === undefined) delete draft.outputs[name];
  else draft.outputs[name] = input;
}

export const setFinish = (draft: Effect, change: Partial<Finish>): void => void Object.assign(draft.finish, change);

/**
 * What an effect is made for. Outputs that another kind does not have are let go of; motes are light that is added, and lit
 * where they have a colour to be lit in and were lit before.
 * @returns what was let go
 */
export function setKind(draft: Effect, kind: Effect['kind']): OutputName[] {
  const gone = (Object.keys(draft.outputs) as OutputName[]).filter((name) => !OUTPUTS[kind].includes(name));
  for (const name of gone) delete draft.outputs[name];
  draft.kind = kind;
  const lighting = draft.outputs.baseColour ? draft.finish.lighting : 'unlit';
  if (kind === 'mote') setFinish(draft, { alphaMode: 'add', lighting, castsShadow: false, writesDepth: false });
  return gone;
}

/** What of the finish a variant has for itself; null takes all of it back to the effect's own. */
export function setVariantFinish(draft: Effect, { id, change }: { id: string; change: Partial<Finish> | null }): void {
  const variant = draft.variants.find((v) => v.id === id);
  if (!variant) return;
  if (change) variant.finish = { ...variant.finish, ...change };
  else delete variant.finish;
}
export const setLoop = (draft: Effect, { loop }: { loop: number | null }): void => void (draft.loop = loop);
export const renameEffect = (draft: Effect, { name }: { name: string }): void => {
  const trimmed = name.trim().slice(0, 120);
  if (trimmed) draft.name = trimmed;
};

export function addDial(draft: Effect, { dial }: { dial: Dial }): void {
  if (draft.dials.some((d) => d.strand === dial.strand && d.input === dial.input)) return;
  draft.dials.push(dial);
}

export const removeDial = (draft: Effect, { id }: { id: string }): void => dropDials(draft, new Set([id]));

/** What a dial says of itself; what is undefined or empty is left out, so that it rests on its input's. */
export type DialChange = {
  readonly [K in 'label' | 'unit' | 'soft' | 'hard' | 'scale' | 'group' | 'about' | 'step']?: Dial[K] | undefined;
};

export function changeDial(draft: Effect, { id, ...change }: { id: string } & DialChange): void {
  const dial = draft.dials.find((d) => d.id === id);
  if (!dial) return;
  for (const [key, value] of Object.entries(change) as [keyof DialChange, never][])
    if (value === undefined || value === '') delete dial[key];
    else dial[key] = value;
}

/** Puts a dial elsewhere among the others. @param to its place, counted from 0, when it is there */
export function moveDial(draft: Effect, { id, to }: { id: string; to: number }): void {
  const from = draft.dials.findIndex((d) => d.id === id);
  if (from < 0) return;
  const [dial] = draft.dials.splice(from, 1);
  draft.dials.splice(Math.max(0, Math.min(draft.dials.length, to)), 0, dial!);
}

/** The name a dial goes by: its own, or its strand's. */
export function dialLabel(effect: Effect, dial: Dial): string {
  if (dial.label) return dial.label;
  const strand = strandsOf(effect).find((s) => s.id === dial.strand);
  if (!strand) return dial.strand;
  const { name } = strand;
  const inputs = Object.keys(recordOf(effect, strand).inputs);
  if (stopOf(dial.input)) return `${name} ${inputLabel(dial.input)}`;
  return inputs.length > 1 && dial.input !== 'amount' ? `${name} ${labelOfInput(effect, strand, dial.input)}` : name;
}

export function addSection(draft: Effect, { title, first }: { title: string; first: string }): void {
  const there = draft.sections.find((s) => s.first === first);
  if (there) there.title = title;
  else draft.sections.push({ title, first });
}

export function addVariant(draft: Effect, { id, name, values, finish }: Effect['variants'][number]): void {
  draft.variants.push({ id, name, values, ...(finish ? { finish } : {}) });
}

/**
 * Gives a variant the values of another; null stands for the base. The base keeps what the other says nothing of. Dials of
 * options are left as they are.
 */
export function takeValues(draft: Effect, { to, from }: { to: string | null; from: string | null }): void {
  const values = (id: string | null) => (id === null ? {} : (draft.variants.find((v) => v.id === id)?.values ?? {}));
  const taken = isDraft(values(from)) ? current(values(from)) : values(from);
  const variant = draft.variants.find((v) => v.id === to);
  if (variant) {
    variant.values = structuredClone(taken);
    return;
  }
  for (const dial of draft.dials) {
    const value = own(taken, dial.id);
    if (value !== undefined && typeof value !== 'string')
      setInput(draft, { id: dial.strand, name: dial.input, input: { value: structuredClone(value) } });
  }
}

export function renameVariant(draft: Effect, { id, name }: { id: string; name: string }): void {
  const variant = draft.variants.find((v) => v.id === id);
  if (variant && name.trim()) variant.name = name.trim().slice(0, 80);
}

/** Props that wear a variant that is gone show the base. */
export function deleteVariant(draft: Effect, { id }: { id: string }): void {
  draft.variants = draft.variants.filter((v) => v.id !== id);
}
