/** Mends: what one press does about a finding, as plain data, so that a file and a screen can both say it. */
import { own } from '../base/wholesome.js';
import { addStrand, deleteStrand, freshId, freshName, setFinish, setInput, setOption, setOutput, strandOf } from './edits.js';
import { isLink, strandsOf, type Effect, type Finish, type Input, type Value } from './schema.js';
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
      readonly reader: { readonly strand: string; readonly input: string } | { readonly output: OutputName };
      readonly low: number;
      readonly high: number | null;
    }
  | { readonly kind: 'delete'; readonly strand: string };

export interface Mend {
  /** What the button says. */
  readonly label: string;
  readonly edits: readonly MendEdit[];
}

export function applyMend(draft: Effect, { edits }: Pick<Mend, 'edits'>): void {
  for (const edit of edits) {
    switch (edit.kind) {
      case 'input':
        setInput(draft, { id: edit.strand, name: edit.input, input: { value: edit.value } });
        break;
      case 'option':
        setOption(draft, { id: edit.strand, name: edit.option, value: edit.value });
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
    }
  }
}

function holdBetween(draft: Effect, { strand, reader, low, high }: Extract<MendEdit, { kind: 'clamp' }>): void {
  const id = freshId(draft, 'clamp');
  const given: Input | undefined =
    'output' in reader ? draft.outputs[reader.output] : own(strandOf(draft, reader.strand).inputs, reader.input);
  if (!isLink(given) || given.from !== strand) return;
  const name = freshName(draft, `${strandOf(draft, strand).name} held`);
  addStrand(draft, { id, op: high === null ? 'max' : 'clamp', name, after: strand });
  const made = strandOf(draft, id);
  made.inputs =
    high === null ? { a: { ...given }, b: { value: low } } : { in: { ...given }, low: { value: low }, high: { value: high } };
  if ('output' in reader) draft.outputs[reader.output] = { from: id };
  else strandOf(draft, reader.strand).inputs![reader.input] = { from: id };
  // A strand added below its source stands above every reader.
  if (!strandsOf(draft).some((s) => s.id === id)) throw new Error('the clamp was not added');
}
