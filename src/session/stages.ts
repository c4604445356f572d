/** The stages of the library, beside the one that is open: renamed, copied, deleted. */
import { v7 as uuid } from 'uuid';
import { copyStage } from '../core/scene/edits.js';
import { FIRST_STAGE } from './exports.js';
import { createDocument, documentPath, loadStage, sender } from './api.js';

/** @throws with a sentence; then it is called what it was */
export async function renameStage(id: string, name: string): Promise<void> {
  const { document, version } = await loadStage(id);
  const reply = await sender('stage', id)({ saveId: crypto.randomUUID(), base: version, document: { ...document, name } });
  if (reply.status === 412) throw new Error('It was changed elsewhere just now; it is called what it was.');
  if (reply.status !== 200) throw new Error(reply.body.error ?? 'The stage could not be renamed.');
}

/** A copy, in the same dress. @throws with a sentence */
export async function duplicateStage(id: string): Promise<void> {
  const { document } = await loadStage(id);
  const name = `${document.name.slice(0, 110)}, copy`;
  await createDocument('stage', copyStage(document, { id: uuid(), name, worn: {} }));
}

/** A stage with light, a floor and nothing on it. @returns its id @throws with a sentence */
export async function newStage(): Promise<string> {
  const { document } = await loadStage(FIRST_STAGE);
  const id = uuid();
  const { lights, ground, surroundings, viewpoints, optics, spill } = document;
  await createDocument('stage', {
    ...{ format: document.format, version: document.version, id, name: 'New stage', note: '', props: [], motes: [] },
    ...{ lights, ground, surroundings, viewpoints, optics, spill, zones: [], assets: {}, extra: {} },
  });
  return id;
}

/** @throws with a sentence where somebody stands there, or the server does not answer */
export async function deleteStage(id: string): Promise<void> {
  const response = await fetch(documentPath('stage', id), { method: 'DELETE' }).catch(() => null);
  if (response === null) throw new Error('The stage was not deleted: the server does not answer.');
  if (!response.ok)
    throw new Error(
      `The stage was not deleted. ${((await response.json().catch(() => ({}))) as { error?: string }).error ?? ''}`,
    );
}
