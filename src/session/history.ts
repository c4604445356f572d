/** Undo and redo over the documents of a bench: an entry is the patches of one gesture. */
import { applyPatches, enablePatches, produceWithPatches, type Draft, type Objectish, type Patch } from 'immer';

enablePatches();

export interface Entry<D extends string> {
  readonly label: string;
  readonly document: D;
  readonly patches: readonly Patch[];
  readonly inverse: readonly Patch[];
  /** Edits in a row with the same key are one entry, until the gesture ends. */
  readonly mergeKey: string | null;
}

export interface History<D extends string> {
  readonly past: readonly Entry<D>[];
  readonly future: readonly Entry<D>[];
}

export const EMPTY_HISTORY = { past: [], future: [] } as const;

/** Entries kept; older ones are forgotten. */
const DEPTH = 500;

/** @returns the document after the edit and the history with it, or null when the edit changed nothing */
export function record<D extends string, T extends Objectish>(
  history: History<D>,
  document: D,
  value: T,
  label: string,
  mergeKey: string | null,
  recipe: (draft: Draft<T>) => void,
): { value: T; history: History<D> } | null {
  const [next, patches, inverse] = produceWithPatches(value, (draft: Draft<T>) => void recipe(draft));
  if (patches.length === 0) return null;
  const last = history.past[history.past.length - 1];
  if (last && mergeKey !== null && last.mergeKey === mergeKey && last.document === document) {
    const merged = { ...last, patches: [...last.patches, ...patches], inverse: [...inverse, ...last.inverse] };
    return { value: next as T, history: { past: [...history.past.slice(0, -1), merged], future: [] } };
  }
  const entry: Entry<D> = { label, document, patches, inverse, mergeKey };
  return { value: next as T, history: { past: [...history.past.slice(-DEPTH + 1), entry], future: [] } };
}

/** Ends a gesture: the next edit starts an entry of its own. */
export function seal<D extends string>(history: History<D>): History<D> {
  const last = history.past[history.past.length - 1];
  if (!last || last.mergeKey === null) return history;
  return { ...history, past: [...history.past.slice(0, -1), { ...last, mergeKey: null }] };
}

export const undoEntry = <T extends Objectish>(value: T, entry: Entry<string>): T => applyPatches(value, [...entry.inverse]);
export const redoEntry = <T extends Objectish>(value: T, entry: Entry<string>): T => applyPatches(value, [...entry.patches]);
