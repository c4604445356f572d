/** Opening documents: the server's, or what this browser still holds of them. */
import { createStore as createKeyStore, del, get, set } from 'idb-keyval';
import type { Loaded } from './api.js';
import { OpenFailure, type Aside } from './failure.js';
import type { Pending, PendingStore } from './autosave.js';

/** A store that forgets at the end, for browsers that refuse to keep anything. */
function memoryStore(): PendingStore {
  const kept = new Map<string, Pending>();
  return {
    lasting: false,
    get: (key) => Promise.resolve(kept.get(key)),
    set: (key, value) => Promise.resolve(void kept.set(key, value)),
    del: (key) => Promise.resolve(void kept.delete(key)),
  };
}

export async function pendingStore(): Promise<PendingStore> {
  try {
    const store = createKeyStore('wispen', 'pending');
    await set('probe', 1, store);
    await del('probe', store);
    return {
      lasting: true,
      get: (key) => get<Pending>(key, store),
      set: (key, value) => set(key, value, store),
      del: (key) => del(key, store),
    };
  } catch {
    return memoryStore();
  }
}

export interface Opening<T> {
  readonly document: T;
  readonly version: number;
  readonly savedAt: Date;
  readonly pending: Pending | null;
  readonly asides: readonly Aside[];
}

/** Reads a draft. @returns the document, or the sentence of what is wrong with it */
export type ReadDraft<T> = (
  kept: unknown,
) => { readonly ok: true; readonly document: T } | { readonly ok: false; readonly why: string };

/** Drafts that were put aside under a key before. */
async function asidesOf(store: PendingStore, key: string, read: ReadDraft<unknown>): Promise<Aside[]> {
  const found: Aside[] = [];
  for (let n = 1; ; n++) {
    const place = `${key} aside ${n}`;
    const kept = await store.get(place).catch(() => undefined);
    if (!kept) return found;
    // One that was let go leaves its place, so that those after it are found.
    if (kept.document === null) continue;
    const result = read(kept.document);
    found.push({ key: place, why: result.ok ? 'it can be read again' : result.why, document: kept.document });
  }
}

/** Puts a draft that cannot be read aside, where nothing writes over it. */
async function putAside(store: PendingStore, key: string, kept: Pending): Promise<void> {
  let n = 1;
  while (await store.get(`${key} aside ${n}`)) n++;
  await store.set(`${key} aside ${n}`, kept);
  await store.del(key);
}

/** Somebody has it as a file, or does not want it. */
export const letGo = (store: PendingStore, { key }: Aside): Promise<void> =>
  store.set(key, { base: 0, document: null, sent: null });

/**
 * The server's document, or what this browser still holds of it.
 * @throws the loader's failure, with the drafts that were put aside
 */
export async function openDocument<T>(
  store: PendingStore,
  key: string,
  load: () => Promise<Loaded<T>>,
  read: ReadDraft<T>,
): Promise<Opening<T>> {
  let kept = await store.get(key).catch(() => undefined);
  const draft = kept ? read(kept.document) : null;
  const mine = draft?.ok ? draft.document : null;
  if (kept && !mine) {
    // Nothing that was typed is thrown away because this version cannot read it.
    await putAside(store, key, kept);
    kept = undefined;
  }
  const asides = await asidesOf(store, key, read);
  let loaded: Loaded<T> | null = null;
  try {
    loaded = await load();
  } catch (error) {
    if (!mine || (error instanceof OpenFailure && error.reason === 'gone' && kept!.base > 0))
      throw error instanceof OpenFailure ? error.with(asides) : error;
  }
  if (kept && mine && !(loaded && JSON.stringify(loaded.document) === JSON.stringify(mine)))
    return { document: mine, version: kept.base, savedAt: loaded?.savedAt ?? new Date(0), pending: kept, asides };
  if (kept) await store.del(key);
  return { ...loaded!, pending: null, asides };
}
