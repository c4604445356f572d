/** What leaves the application, and what comes in whole: bundles, single effects, new effects with a stage of their own. */
import { v7 as uuid } from 'uuid';
import { readEffect, readEffectText } from '../core/effect/read.js';
import { DEFAULT_FINISH, MAX_FILE_BYTES, emptyEffect, type Effect } from '../core/effect/schema.js';
import { MAX_BUNDLE_BYTES, assetsOf, writeBundle, type Bundle } from '../core/formats/bundle.js';
import { readStage, type Stage } from '../core/scene/stage.js';
import { effectsOn } from '../core/scene/wearing.js';
import type { Zipper } from '../workers/bundle.worker.js';
import { loadEffect, loadStage } from './api.js';
import { OpenFailure } from './failure.js';
import { inWorker } from './fileWorker.js';

/** The stage that new effects are given a copy of. */
export const FIRST_STAGE = '0190a100-0000-7000-8000-000000000007';

/** A name that any file system takes: "failing-tube". */
export const fileStem = (name: string): string =>
  name
    .normalize('NFKD')
    .replace(/[^\w]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .toLowerCase()
    .slice(0, 60) || 'effect';

async function fetchAsset(sha: string): Promise<Uint8Array> {
  const response = await fetch(`/api/assets/${sha}`).catch(() => null);
  if (!response?.ok)
    throw new Error('A mesh of the stage could not be fetched: the server does not have it, or does not answer.');
  return new Uint8Array(await response.arrayBuffer());
}

/** Everything that the picture of an effect on its stage needs. @throws with a sentence when something cannot be had */
export async function bundleOf(effect: Effect, stage: Stage | null, withAssets = true): Promise<Bundle> {
  const others = effectsOn(stage ?? { props: [], lights: [], motes: [] }).filter((id) => id !== effect.id);
  const worn = await Promise.all(
    others.map((id) =>
      loadEffect(id).then(
        ({ document }) => [document],
        (error: unknown) => {
          // Props that wear an effect that is gone are bare here too.
          if (error instanceof OpenFailure && error.reason === 'gone') return [];
          throw error;
        },
      ),
    ),
  );
  const documents = { effects: [effect, ...worn.flat()], stages: stage ? [stage] : [] };
  const shas = withAssets ? assetsOf(documents) : [];
  return { ...documents, assets: new Map(await Promise.all(shas.map(async (sha) => [sha, await fetchAsset(sha)] as const))) };
}

/** Has the server take a bundle in, whole. @returns the id of its first effect @throws with a sentence; then nothing is stored */
async function takeIn(bytes: Uint8Array<ArrayBuffer>, what: string): Promise<string> {
  const response = await fetch('/api/bundles', { method: 'POST', body: new Blob([bytes]) }).catch(() => null);
  if (!response) throw new Error(`${what} was not stored: the server does not answer.`);
  const answer = (await response.json()) as { effect: string } | { error: string };
  if ('error' in answer) throw new Error(`${what} was not opened. ${answer.error}`);
  return answer.effect;
}

async function fetchStage(id: string): Promise<Stage | null> {
  return loadStage(id).then(
    ({ document }) => document,
    (error: unknown) => {
      if (error instanceof OpenFailure && error.reason === 'gone') return null;
      throw error;
    },
  );
}

/** An empty effect on a stage of its own. @returns its id */
export async function newEmpty(): Promise<string> {
  const { document: first } = await loadStage(FIRST_STAGE);
  const [prop] = first.props;
  const effect: Effect = {
    ...emptyEffect(uuid(), 'Untitled effect'),
    finish: { ...DEFAULT_FINISH },
    home: { stage: first.id, prop: prop?.id ?? '', viewpoint: first.viewpoints[0]!.id },
  };
  return takeIn(writeBundle({ effects: [effect], stages: [first], assets: new Map() }), 'The new effect');
}

/** @param id of a starter @returns the id of the copy */
export async function newFromStarter(id: string): Promise<string> {
  const response = await fetch(`/api/starters/${encodeURIComponent(id)}`);
  if (!response.ok) throw new Error('The starter could not be read: the server does not answer.');
  const { effect, stage } = (await response.json()) as { effect: unknown; stage: unknown };
  const read = readEffect(effect);
  if (!read.ok) throw new Error(read.problems[0]!.message);
  const stood = stage === null ? null : readStage(stage);
  if (stood && !stood.ok) throw new Error(stood.problems[0]!.message);
  return takeIn(writeBundle({ effects: [read.effect], stages: stood ? [stood.stage] : [], assets: new Map() }), 'The starter');
}

/** A copy of an effect that is stored, on a copy of its stage. Other effects on that stage stay the same ones. @returns the copy's id */
export async function duplicateEffect(id: string): Promise<string> {
  const { document: effect } = await loadEffect(id);
  const stage = effect.home ? await fetchStage(effect.home.stage) : null;
  const copy = { ...effect, name: `${effect.name.slice(0, 112)} copy` };
  return takeIn(writeBundle({ effects: [copy], stages: stage ? [stage] : [], assets: new Map() }), 'The copy');
}

/** The file of a bundle, zipped away from the page. @throws with a sentence */
export function zipped(bundle: Bundle): Promise<Uint8Array<ArrayBuffer>> {
  const worker = new Worker(new URL('../workers/bundle.worker.ts', import.meta.url), { type: 'module' });
  return inWorker<Zipper, Uint8Array<ArrayBuffer>>(worker, (zipper) => zipper.zip(bundle)).catch((error: Error) => {
    throw new Error(`The bundle could not be made. ${error.message}`);
  });
}

/** The bundle file of an effect that is stored. */
export async function bundleFile(id: string): Promise<{ name: string; bytes: Uint8Array<ArrayBuffer> }> {
  const { document: effect } = await loadEffect(id);
  const stage = effect.home ? await fetchStage(effect.home.stage) : null;
  return { name: `${fileStem(effect.name)}.wispen`, bytes: await zipped(await bundleOf(effect, stage)) };
}

const size = (bytes: number) => `${(bytes / 1048576).toFixed(1)} MB`;

/** Stores a bundle or a single effect from a file. @returns its id @throws with a sentence when the file is refused */
export async function importFile(file: File): Promise<string> {
  if (/\.wispen$/i.test(file.name)) {
    if (file.size > MAX_BUNDLE_BYTES)
      throw new Error(`${file.name} is ${size(file.size)}; a bundle may be at most ${MAX_BUNDLE_BYTES / 1048576} MB.`);
    return takeIn(new Uint8Array(await file.arrayBuffer()), file.name);
  }
  if (file.size > MAX_FILE_BYTES) throw new Error(`${file.name} is ${size(file.size)}; an effect file may be at most 4 MB.`);
  const result = readEffectText(await file.text());
  if (!result.ok) throw new Error(`${file.name} was not opened. ${result.problems[0]!.message}`);
  return takeIn(writeBundle({ effects: [result.effect], stages: [], assets: new Map() }), file.name);
}

/** Brings several files in, one after another. @throws what was not opened, when all have been tried */
export async function importAll(files: readonly File[]): Promise<void> {
  const refused: string[] = [];
  for (const file of files) await importFile(file).catch((error: Error) => refused.push(error.message));
  if (refused.length === 0) return;
  const taken = files.length - refused.length;
  throw new Error(`${taken === 0 ? 'None was' : `${taken} of ${files.length} were`} brought in. ${refused.join(' ')}`);
}

/** Hands bytes to the browser as a download. */
export function download(name: string, content: Blob): void {
  const url = URL.createObjectURL(content);
  const anchor = document.createElement('a');
  anchor.href = url;
  anchor.download = name;
  anchor.click();
  // The download has its own hold on the content once it has begun.
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}
