/**
 * Undo that outlives the page: the steps, kept in this browser with a mark of the documents they belong to. Steps of
 * other documents, or of these as somebody else has changed them since, would do harm and are dropped.
 */
import { createStore, del, get, set } from 'idb-keyval';
import { textHash } from '../core/base/textHash.js';
import type { Effect } from '../core/effect/schema.js';
import { writeEffect } from '../core/effect/write.js';
import { writeStage, type Stage } from '../core/formats/stage.js';
import type { History } from './history.js';

interface Kept<D extends string> {
  readonly mark: string;
  readonly history: History<D>;
}

const open = () => createStore('wispen-history', 'steps');

/** Names the two documents of a bench by their content: by what is written of them, whatever the order it was set in. */
export const markOf = (effect: Effect, stage: Stage): string =>
  [writeEffect(effect), writeStage(stage)].map((text) => `${text.length}-${textHash(text)}`).join(' ');

export async function keepHistory<D extends string>(key: string, mark: string, history: History<D>): Promise<void> {
  if (history.past.length + history.future.length === 0) await del(key, open());
  else await set(key, { mark, history } satisfies Kept<D>, open());
}

export type Restored<D extends string> = { readonly history: History<D> } | 'none' | 'dropped';

/** @returns the steps, or that there are none, or that those there were belong to other content */
export async function restoreHistory<D extends string>(key: string, mark: string): Promise<Restored<D>> {
  const kept = await get<Kept<D>>(key, open());
  if (!kept) return 'none';
  if (kept.mark === mark) return { history: kept.history };
  await del(key, open());
  return 'dropped';
}
