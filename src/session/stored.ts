/** Changes of effects that are not open: made on the server's copy. */
import { createDraft, finishDraft, type Draft } from 'immer';
import type { Effect } from '../core/effect/schema.js';
import { loadEffect, sender } from './api.js';

/** @throws with a sentence; then nothing has changed */
export async function editStored(id: string, recipe: (draft: Draft<Effect>) => void): Promise<void> {
  const { document, version } = await loadEffect(id);
  const draft = createDraft(document);
  recipe(draft);
  const changed = finishDraft(draft);
  if (changed === document) return;
  const reply = await sender('effect', id)({ saveId: crypto.randomUUID(), base: version, document: changed });
  if (reply.status === 412) throw new Error(`${document.name} was being changed elsewhere; nothing was changed here. Try again.`);
  if (reply.status !== 200) throw new Error(reply.body.error ?? `${document.name} could not be changed.`);
}
