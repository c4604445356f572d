/** Mends: what one press does about a finding, as plain data, so that a file and a screen can both say it. */
import { own } from '../base/wholesome.js';
import { WRAP_RECORDS } from '../operators/wraps.js';
import type { Reader } from './feeding.js';
import {
  addStrand,
  deleteStrand,
  freshId,
  freshName,
  setFinish,
  setInput,
  setOption,
  setOutput,
  strandOf,
  type NewStrand,
} from './edits.js';
import { WITHIN, inputsOf, motifOf } from './motifs.js';
import { isLink, strandsOf, type Effect, type Finish, type Input, type Link, type Strand, type Value } from './schema.js';
import type { OutputName } from './outputs.js';

export type MendEdit =
  | { readonly kind: 'input'; readonly strand: string; readonly input: string; readonly value: Value }
  | { readonly kind: 'option'; readonly strand: string; readonly option: string; readonly value: string }
  | { readonly kind: 'finish'; readonly change: Partial<Finish> }
  | { readonly kind: 'output'; readonly output: OutputName; readonly from: string }
  /** Puts a clamp between a strand and one input that reads it; between it and an output. */
  | {
      readonly kind: 'clamp';
      readonly strand: string;
      readonly reader: Reader;
      readonly low: number;
      readonly high: number | null;
    }
  /** Puts a wrap that takes these ends between a strand and one input that reads it. */
  | {
      readonly kind: 'unit';
      readonly strand: string;
      readonly reader: { readonly strand: string; readonly input: string };
      readonly low: number;
      readonly high: number;
    }
  | { readonly kind: 'delete'; readonly strand: string };

export interface Mend {
  /** What the button says. */
  readonly label: string;
  readonly edits: readonly MendEdit[];
}

/**
 * Where a strand is that is named as a flat sheet has it, `use/rim`: in the sheet or in a motif, whose uses all follow. What
 * a motif is given, `use/in1`, is the use's own.
 */
function written(draft: Effect, id: string, input: string): { readonly strand: Strand; readonly input: string } {
  const [first, ...way] = id.split(WITHIN);
  let found = { strand: strandOf(draft, first!), input };
  for (const step of way) {
    const motif = motifOf(draft, found.strand)!;
    const place = [...inputsOf(motif)].find(([, i]) => i.id === step)?.[0];
    if (place !== undefined) return { strand: found.strand, input: place };
    found = { strand: (motif.strands as Strand[]).find((s) => s.id === step)!, input };
    motif.revision++;
  }
  return found;
}

export function applyMend(draft: Effect, { edits }: Pick<Mend, 'edits'>): void {
  for (const edit of edits) {
    switch (edit.kind) {
      case 'input':
        setWithin(draft, edit);
        break;
      case 'option':
        if (edit.strand.includes(WITHIN)) (written(draft, edit.strand, '').strand.options ??= {})[edit.option] = edit.value;
        else setOption(draft, { id: edit.strand, name: edit.option, value: edit.value });
        break;
      case 'finish':
        setFinish(draft, edit.change);
        break;
      case 'output':
        setOutput(draft, { name: edit.output, input: { from: edit.from } });
        break;
      case 'delete':
        deleteStrand(draft, { id: edit.strand });
        break;
      case 'clamp':
        holdBetween(draft, edit);
        break;
      case 'unit':
        bringToUnit(draft, edit);
    }
  }
}

function setWithin(draft: Effect, { strand: id, input: name, value }: Extract<MendEdit, { kind: 'input' }>): void {
  const { strand, input } = written(draft, id, name);
  if (strandsOf(draft).includes(strand)) setInput(draft, { id: strand.id, name: input, input: { value } });
  else (strand.inputs ??= {})[input] = { value };
}

/** The link of a reader, where that is to the strand. */
function linkOf(draft: Effect, strand: string, reader: Reader): Link | null {
  const given: Input | undefined =
    'output' in reader ? draft.outputs[reader.output] : own(strandOf(draft, reader.strand).inputs, reader.input);
  return isLink(given) && given.from === strand ? given : null;
}

/** Puts a new strand under another, and has one reader of that read it instead. A strand below its source stands above every reader. */
function putBetween(draft: Effect, reader: Reader, made: NewStrand): void {
  addStrand(draft, made);
  if ('output' in reader) draft.outputs[reader.output] = { from: made.id };
  else strandOf(draft, reader.strand).inputs![reader.input] = { from: made.id };
}

function holdBetween(draft: Effect, { strand, reader, low, high }: Extract<MendEdit, { kind: 'clamp' }>): void {
  const id = freshId(draft, 'clamp');
  const given = linkOf(draft, strand, reader);
  if (!given) return;
  const name = freshName(draft, `${strandOf(draft, strand).name} held`);
  const inputs: Record<string, Input> =
    high === null ? { a: { ...given }, b: { value: low } } : { in: { ...given }, low: { value: low }, high: { value: high } };
  putBetween(draft, reader, { id, op: high === null ? 'max' : 'clamp', name, after: strand, inputs });
}

function bringToUnit(draft: Effect, { strand, reader, low, high }: Extract<MendEdit, { kind: 'unit' }>): void {
  const { op, reads, name, ends, options } = WRAP_RECORDS.unit;
  const given = linkOf(draft, strand, reader);
  if (!given) return;
  const inputs = { [reads]: { ...given }, [ends![0]]: { value: low }, [ends![1]]: { value: high } };
  const called = freshName(draft, name(strandOf(draft, strand).name));
  putBetween(draft, reader, { id: freshId(draft, op), op, name: called, after: strand, inputs, ...(options ? { options } : {}) });
}
