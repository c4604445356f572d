/** Documents as this browser last saw them on the server, so that they open while it is stopped. */
import { createStore, get, set } from 'idb-keyval';

export interface Remembered {
  readonly document: unknown;
  readonly version: number;
  readonly savedAt: Date;
}

const open = () => createStore('wispen-seen', 'documents');

/** @param path the document's address on the server. A browser that keeps nothing remembers nothing */
export async function remember(path: string, seen: Remembered): Promise<void> {
  try {
    await set(path, seen, open());
  } catch {
    // Only a stopped server would have needed it.
  }
}

export async function recall(path: string): Promise<Remembered | null> {
  try {
    return (await get<Remembered>(path, open())) ?? null;
  } catch {
    return null;
  }
}
