/** Talking to the server about documents. */
import { readEffect } from '../core/effect/read.js';
import type { Effect } from '../core/effect/schema.js';
import { readStage, type Stage } from '../core/scene/stage.js';
import type { SaveReply, Send } from './autosave.js';
import { OpenFailure, type Format } from './failure.js';
import { deliver } from './paints.js';
import { recall, remember } from './remembered.js';

/** One a page: tells the server whose sitting a save belongs to. */
const client = crypto.randomUUID();

export const documentPath = (format: Format, id: string): string => `/api/${format}s/${encodeURIComponent(id)}`;

/** @param keeps names the files that steps of undo may bring back, which the server is to keep */
export function sender(format: Format, id: string, keeps?: () => readonly string[]): Send {
  return async ({ saveId, base, document }): Promise<SaveReply> => {
    // A document is saved once the server has all that it names.
    const why = await deliver(document);
    if (why !== null) return { status: 400, body: { error: why } };
    const response = await fetch(documentPath(format, id), {
      method: 'PUT',
      headers: {
        'Content-Type': 'application/json',
        'X-Wispen-Client': client,
        ...(base === 0 ? { 'If-None-Match': '*' } : { 'If-Match': `"v${base}"` }),
      },
      body: JSON.stringify({ saveId, document, ...(keeps ? { keeps: keeps() } : {}) }),
      signal: AbortSignal.timeout(10_000),
    });
    const body = (await response.json()) as SaveReply['body'];
    if (response.ok)
      void remember(documentPath(format, id), { document, version: body.version!, savedAt: new Date(body.savedAt!) });
    return { status: response.status, body };
  };
}

/** Effects that lack the Library's pictures, and what those are called by; none while the server does not answer. */
export async function lackingStrips(): Promise<readonly { readonly id: string; readonly key: string }[]> {
  const response = await fetch('/api/strips/lacking').catch(() => null);
  return response?.ok ? ((await response.json()) as { id: string; key: string }[]) : [];
}

export interface Loaded<T> {
  readonly document: T;
  readonly version: number;
  readonly savedAt: Date;
}

/** The server's document; while it does not answer, as it was last seen. */
async function load(format: Format, id: string): Promise<Loaded<unknown>> {
  const path = documentPath(format, id);
  const response = await fetch(path).catch(() => null);
  if (response === null) {
    const seen = await recall(path);
    if (!seen) throw new OpenFailure('silent', 'The server does not answer.', format);
    return seen;
  }
  if (response.status === 404) throw new OpenFailure('gone', `There is no ${format} at this address.`, format);
  if (!response.ok) {
    const { error } = (await response.json().catch(() => ({}))) as { error?: string };
    throw new OpenFailure('refused', error ?? `The server answered with ${response.status}.`, format);
  }
  const version = Number(/v(\d+)/.exec(response.headers.get('ETag') ?? '')?.[1] ?? 0);
  const broken = () => {
    throw new OpenFailure('broken', `What the server has of the ${format} is not JSON.`, format);
  };
  const loaded = {
    document: (await response.json().catch(broken)) as unknown,
    version,
    savedAt: new Date(response.headers.get('Last-Modified') ?? Date.now()),
  };
  void remember(path, loaded);
  return loaded;
}

export async function loadEffect(id: string): Promise<Loaded<Effect>> {
  const { document, ...loaded } = await load('effect', id);
  const result = readEffect(document);
  if (!result.ok) throw new OpenFailure('broken', result.problems[0]!.message, 'effect');
  return { ...loaded, document: result.effect };
}

export async function loadStage(id: string): Promise<Loaded<Stage>> {
  const { document, ...loaded } = await load('stage', id);
  const result = readStage(document);
  if (!result.ok) throw new OpenFailure('broken', result.problems[0]!.message, 'stage');
  return { ...loaded, document: result.stage };
}

/** Stores a new document. @throws with the server's sentence */
export async function createDocument(format: Format, document: Effect | Stage): Promise<void> {
  const reply = await sender(format, document.id)({ saveId: crypto.randomUUID(), base: 0, document });
  if (reply.status !== 201 && reply.status !== 200) throw new Error(reply.body.error ?? `The ${format} could not be stored.`);
}
