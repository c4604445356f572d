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

const namesOf = (patches: readonly Patch[]) => patches.map((p) => JSON.stringify(p.path)).join();
/** They only set what is there, each another thing: nothing is lost when others that set the same come after them. */
const onlySet = (patches: readonly Patch[]) =>
  patches.every((p) => p.op === 'replace') && new Set(patches.map((p) => namesOf([p]))).size === patches.length;

/** The patches of a gesture and of one more step. A step that sets again what the last one set takes its place: a long drag stays small. */
function followed(earlier: readonly Patch[], later: readonly Patch[]): readonly Patch[] {
  const tail = earlier.slice(-later.length);
  if (!onlySet(later) || tail.some((p) => p.op === 'remove') || namesOf(tail) !== namesOf(later)) return [...earlier, ...later];
  return [...earlier.slice(0, -later.length), ...tail.map((p, k) => ({ ...p, value: later[k]!.value as unknown }))];
}

/** The same backwards: what is set first need not be set when the next to be undone sets it again. */
function preceded(inverse: readonly Patch[], rest: readonly Patch[]): readonly Patch[] {
  const alike = onlySet(inverse) && namesOf(rest.slice(0, inverse.length)) === namesOf(inverse);
  return alike ? rest : [...inverse, ...rest];
}

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
    const merged = { ...last, patches: followed(last.patches, patches), inverse: preceded(inverse, last.inverse) };
    return { value: next as T, history: { past: [...history.past.slice(0, -1), merged], future: [] } };
  }
  const entry: Entry<D> = { label, document, patches, inverse, mergeKey };
  return { value: next as T, history: { past: [...history.past.slice(-DEPTH + 1), entry], future: [] } };
}

/** The files that steps name, by their SHA-256: each step is looked through once. */
const named = new WeakMap<Entry<string>, readonly string[]>();
const filesIn = (entry: Entry<string>): readonly string[] => {
  let files = named.get(entry);
  if (!files) {
    const text = JSON.stringify([entry.patches, entry.inverse]);
    named.set(entry, (files = [...new Set([...text.matchAll(/"([0-9a-f]{64})"/g)].map(([, sha]) => sha!))]));
  }
  return files;
};

/** So many files are told of, those of the latest steps first. */
const MOST_FILES = 4000;

/** All files that undo and redo may bring back, by their SHA-256. */
export const filesOf = ({ past, future }: History<string>): string[] =>
  [...new Set([...past, ...future].reverse().flatMap(filesIn))].slice(0, MOST_FILES);

/** Ends a gesture: the next edit starts an entry of its own. */
export function seal<D extends string>(history: History<D>): History<D> {
  const last = history.past[history.past.length - 1];
  if (!last || last.mergeKey === null) return history;
  return { ...history, past: [...history.past.slice(0, -1), { ...last, mergeKey: null }] };
}

export const undoEntry = <T extends Objectish>(value: T, entry: Entry<string>): T => applyPatches(value, [...entry.inverse]);
export const redoEntry = <T extends Objectish>(value: T, entry: Entry<string>): T => applyPatches(value, [...entry.patches]);
