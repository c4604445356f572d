/** The revisions that the server keeps of an effect: what it was at the end of each sitting, and what has been named. */
import { z } from 'zod';
import { readEffect } from '../core/effect/read.js';
import type { Effect } from '../core/effect/schema.js';
import { documentPath } from './api.js';

const listed = z.object({ id: z.number(), name: z.string().nullable(), savedAt: z.coerce.date(), open: z.boolean() });
export type Revision = z.infer<typeof listed>;

/** What a request answers. @throws with the server's sentence, or with one that says that there is no answer */
async function asked(path: string, request?: RequestInit): Promise<unknown> {
  const response = await fetch(path, request).catch(() => null);
  if (response === null) throw new Error('The server does not answer.');
  const body = (await response.json().catch(() => ({}))) as { error?: string };
  if (!response.ok) throw new Error(body.error ?? `The server answered with ${response.status}.`);
  return body;
}

export const revisionsPath = (effect: string): string => `${documentPath('effect', effect)}/revisions`;

/** The latest first. @throws with a sentence */
export const listRevisions = async (effect: string): Promise<Revision[]> =>
  z.array(listed).parse(await asked(revisionsPath(effect)));

/** @throws with a sentence where it is not there, or cannot be read any more */
export async function loadRevision(effect: string, id: number): Promise<Effect> {
  const result = readEffect(await asked(`${revisionsPath(effect)}/${id}`));
  if (!result.ok) throw new Error(`That revision cannot be read: ${result.problems[0]!.message}`);
  return result.effect;
}

/** @param name null takes it away; @throws with a sentence */
export const nameRevision = async (effect: string, id: number, name: string | null): Promise<void> =>
  void (await asked(`${revisionsPath(effect)}/${id}`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ name }),
  }));
