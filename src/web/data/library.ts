/** What the Library shows, through SWR. */
import useSWR from 'swr';
import type { SharedDial } from '../../session/state.js';

export interface EffectCard {
  readonly id: string;
  readonly name: string;
  readonly tags: readonly string[];
  readonly loop: number | null;
  readonly kind: string;
  /** Their names, to be searched. */
  readonly strands: readonly string[];
  readonly archived: boolean;
  readonly version: number;
  readonly createdAt: string;
  readonly updatedAt: string;
  /** Names what its pictures show; they are drawn anew when it changes. */
  readonly stripKey: string;
  /** Whether the server has the pictures of that name. */
  readonly drawn: boolean;
}

export interface StarterCard {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly tags: readonly string[];
}

async function fetchJson<T>(path: string): Promise<T> {
  const response = await fetch(path);
  if (!response.ok) throw new Error(`The server answered with ${response.status}.`);
  return (await response.json()) as T;
}

/** A list that comes in pages, whole: each says where the next is (RFC 8288). */
async function fetchPages<T>(path: string): Promise<readonly T[]> {
  const list: T[] = [];
  for (let at: string | undefined = path; at;) {
    const response: Response = await fetch(at);
    if (!response.ok) throw new Error(`The server answered with ${response.status}.`);
    list.push(...((await response.json()) as T[]));
    at = /<([^>]+)>;\s*rel="next"/.exec(response.headers.get('Link') ?? '')?.[1];
  }
  return list;
}

export const useEffects = () => useSWR<readonly EffectCard[], Error>('/api/effects', fetchPages);
export interface StageCard {
  readonly id: string;
  readonly name: string;
  /** Names of the effects whose home it is, or whom its props wear. */
  readonly usedBy: readonly string[];
  /** The first, by name, of the effects that stand there. */
  readonly home: string | null;
  readonly updatedAt: string;
  /** The effect whose own it is: archived with it. */
  readonly own: string | null;
  /** Nobody stands there. */
  readonly deletable: boolean;
}
export const useStages = () => useSWR<readonly StageCard[], Error>('/api/stages', fetchJson);
export const useStarters = () => useSWR<readonly StarterCard[], Error>('/api/starters', fetchJson);

/** Puts an effect away, or takes it back. @throws with a sentence */
export async function setArchived(id: string, archived: boolean): Promise<void> {
  const response = await fetch(`/api/effects/${encodeURIComponent(id)}/archived`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ archived }),
  }).catch(() => null);
  if (!response?.ok) throw new Error('Nothing was changed: the server does not answer.');
}

/** Effects that read each of the shared dials, by the dial's id. */
export type Readers = Readonly<Record<string, readonly { readonly id: string; readonly name: string }[]>>;
/** A shared dial as it is listed, by the tag of what it is. */
export type ListedDial = SharedDial & { readonly tag?: string };
export const useShared = () => useSWR<readonly ListedDial[], Error>('/api/shared', fetchJson);
export const useSharedReaders = () => useSWR<Readers, Error>('/api/shared/readers', fetchJson);
