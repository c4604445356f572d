/** What the Library shows, through SWR. */
import useSWR from 'swr';
import { v7 as uuid } from 'uuid';
import { readEffect, readEffectText } from '../../core/effect/read.js';
import { DEFAULT_FINISH, MAX_FILE_BYTES, emptyEffect, type Effect } from '../../core/effect/schema.js';
import { createDocument } from '../../session/api.js';

export interface EffectCard {
  readonly id: string;
  readonly name: string;
  readonly tags: readonly string[];
  readonly loop: number | null;
  readonly kind: string;
  readonly updatedAt: string;
}

export interface StarterCard {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly tags: readonly string[];
}

/** The stage new effects are built on. */
export const FIRST_STAGE = '0190a100-0000-7000-8000-000000000001';

async function fetchJson<T>(path: string): Promise<T> {
  const response = await fetch(path);
  if (!response.ok) throw new Error(`The server answered with ${response.status}.`);
  return (await response.json()) as T;
}

export const useEffects = () => useSWR<readonly EffectCard[], Error>('/api/effects', fetchJson);
export const useStarters = () => useSWR<readonly StarterCard[], Error>('/api/starters', fetchJson);

/** @returns the new effect's id */
export async function newEmpty(): Promise<string> {
  const effect: Effect = {
    ...emptyEffect(uuid(), 'Untitled effect'),
    finish: { ...DEFAULT_FINISH },
    home: { stage: FIRST_STAGE, prop: 'tube-1', viewpoint: 'hatch' },
  };
  await createDocument('effect', effect);
  return effect.id;
}

export async function newFromStarter(id: string): Promise<string> {
  const result = readEffect(await fetchJson(`/api/starters/${id}`));
  if (!result.ok) throw new Error(result.problems[0]!.message);
  const copy = { ...result.effect, id: uuid() };
  await createDocument('effect', copy);
  return copy.id;
}

/** Stores an effect from a file under an id of its own. @throws with a sentence when the file is refused */
export async function importFile(file: File): Promise<string> {
  if (file.size > MAX_FILE_BYTES)
    throw new Error(`${file.name} is ${(file.size / 1048576).toFixed(1)} MB; an effect file may be at most 4 MB.`);
  const result = readEffectText(await file.text());
  if (!result.ok) throw new Error(`${file.name} was not opened. ${result.problems[0]!.message}`);
  const copy = { ...result.effect, id: uuid() };
  await createDocument('effect', copy);
  return copy.id;
}
