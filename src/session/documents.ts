/** Opening documents: the server's, or what this browser still holds of them. */
import { createStore as createKeyStore, del, get, set } from 'idb-keyval';
import type { Loaded } from './api.js';
import { NotThere } from './api.js';
import type { Pending, PendingStore } from './autosave.js';

export interface Keeping extends PendingStore {
  /** False where the browser refuses to keep anything: then nothing outlives the page. */
  readonly lasting: boolean;
}

/** A store that forgets at the end, for browsers that refuse to keep anything. */
function memoryStore(): Keeping {
  const kept = new Map<string, Pending>();
  return {
    lasting: false,
    get: (key) => Promise.resolve(kept.get(key)),
    set: (key, value) => Promise.resolve(void kept.set(key, value)),
    del: (key) => Promise.resolve(void kept.delete(key)),
  };
}

export async function pendingStore(): Promise<Keeping> {
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
}

/** The server's document, or what this browser still holds of it. */
export async function openDocument<T>(
  store: PendingStore,
  key: string,
  load: () => Promise<Loaded<T>>,
  read: (kept: unknown) => T | null,
): Promise<Opening<T>> {
  const kept = await store.get(key).catch(() => undefined);
  const mine = kept ? read(kept.document) : null;
  let loaded: Loaded<T> | null = null;
  try {
    loaded = await load();
  } catch (error) {
    if (!mine || (error instanceof NotThere && kept!.base > 0)) throw error;
  }
  if (kept && mine && !(loaded && JSON.stringify(loaded.document) === JSON.stringify(mine)))
    return { document: mine, version: kept.base, savedAt: loaded?.savedAt ?? new Date(0), pending: kept };
  if (kept) await store.del(key);
  return { ...loaded!, pending: null };
}
