/**
 * Paint of props: files under their sum, as meshes are. What is painted is kept in this browser until the server has it,
 * so that a stroke is safe as soon as it is made, and the stage may refer to it at once.
 */
import { createStore, del, get, keys, set, type UseStore } from 'idb-keyval';
import { PAINT_TYPE } from '../core/formats/paintFile.js';
import type { Paint } from '../core/paint/paint.js';
import type { StageAsset } from '../core/scene/stage.js';
import type { PaintFile, Painter } from '../workers/paint.worker.js';
import { LastingWorker } from './fileWorker.js';

/** How much paint is held decoded, in bytes: undo goes back to what was there without reading it again. */
const HELD_BYTES = 96 * 1024 * 1024;

export const painter = new LastingWorker<Painter>(
  () => new Worker(new URL('../workers/paint.worker.ts', import.meta.url), { type: 'module' }),
);

const held = new Map<string, Paint>();
let heldBytes = 0;
/** Files that the server does not have yet. */
const waiting = new Map<string, Uint8Array<ArrayBuffer>>();
/** Why the server took none of some of them. */
const refused = new Map<string, string>();
let sending: Promise<boolean> | null = null;

let opened: UseStore | null = null;
const store = (): UseStore => (opened ??= createStore('wispen-paint', 'files'));

/** Where a browser keeps nothing, what is painted is safe once the server has it. */
const safely = <T>(work: () => Promise<T>): Promise<T | undefined> =>
  Promise.resolve()
    .then(work)
    .catch(() => undefined);

function hold(sum: string, paint: Paint): void {
  const old = held.get(sum);
  held.delete(sum);
  held.set(sum, paint);
  heldBytes += paint.byteLength - (old?.byteLength ?? 0);
  for (const [first, { byteLength }] of held) {
    if (heldBytes <= HELD_BYTES || first === sum) break;
    held.delete(first);
    heldBytes -= byteLength;
  }
}

/** Keeps what has been painted. @returns what the stage says of it */
export async function keepPaint(paint: Paint, name: string): Promise<StageAsset> {
  const { sha256, bytes } = await painter.ask((p) => p.write(paint) as Promise<PaintFile>);
  hold(sha256, paint);
  waiting.set(sha256, bytes);
  await safely(() => set(sha256, bytes, store()));
  void sendWaiting();
  return { sha256, name: `${name.slice(0, 190)} paint`, type: PAINT_TYPE, size: bytes.byteLength };
}

/**
 * Sends what the server does not have, each by itself: one that is refused stays here with its reason, and holds up no
 * other. @returns whether the server answered; what it did not hear of is sent the next time
 */
export function sendWaiting(): Promise<boolean> {
  return (sending ??= sendAll().finally(() => (sending = null)));
}

async function sendAll(): Promise<boolean> {
  for (const key of (await safely(() => keys<string>(store()))) ?? []) {
    const bytes = waiting.has(key) ? null : await safely(() => get<Uint8Array<ArrayBuffer>>(key, store()));
    if (bytes) waiting.set(key, bytes);
  }
  for (const [sum, bytes] of waiting) {
    const reply = await fetch(`/api/assets/${sum}`, { method: 'PUT', body: new Blob([bytes]) }).catch(() => null);
    if (!reply || reply.status >= 500) return false;
    if (!reply.ok) {
      const { error } = (await reply.json().catch(() => ({}))) as { error?: string };
      refused.set(sum, error ?? `The server answered with ${reply.status}.`);
      continue;
    }
    refused.delete(sum);
    waiting.delete(sum);
    await safely(() => del(sum, store()));
  }
  return true;
}

/**
 * Sees that the server has every file of this browser's that a document names, before the document is sent.
 * @returns why one was refused, as a sentence; null where all are there @throws when the server does not answer
 */
export async function deliver(document: unknown): Promise<string | null> {
  if (waiting.size === 0 && ((await safely(() => keys<string>(store()))) ?? []).length === 0) return null;
  const text = JSON.stringify(document);
  if (!(await sendWaiting()) && [...waiting.keys()].some((sum) => text.includes(sum)))
    throw new Error('The server does not answer.');
  for (const [sum, why] of refused)
    if (text.includes(sum)) return `The server refused a prop's paint, which is kept in this browser. ${why}`;
  return null;
}

async function bytesOf(sum: string): Promise<Uint8Array> {
  const mine = waiting.get(sum) ?? (await safely(() => get<Uint8Array>(sum, store())));
  if (mine) return mine;
  const reply = await fetch(`/api/assets/${sum}`).catch(() => null);
  if (!reply?.ok) throw new Error('The paint of a prop is not on the server, so the prop is shown without it.');
  return new Uint8Array(await reply.arrayBuffer());
}

/** @returns four numbers a pixel of its file @throws with a sentence */
export async function paintOf(sum: string): Promise<Paint> {
  const known = held.get(sum);
  if (known) return known;
  const paint = await bytesOf(sum).then((bytes) => painter.ask((p) => p.read(bytes) as Promise<Paint>));
  hold(sum, paint);
  return paint;
}

/** What is at hand without waiting. */
export const heldPaint = (sum: string): Paint | null => held.get(sum) ?? null;
