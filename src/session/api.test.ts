import { emptyEffect, type Effect } from '../core/effect/schema.js';
import { createDocument, documentPath, loadEffect, sender } from './api.js';
import { OpenFailure } from './failure.js';

interface Call {
  readonly path: string;
  readonly init: RequestInit | undefined;
}
const calls: Call[] = [];
let answer: () => Response;
beforeEach(() => {
  calls.length = 0;
  globalThis.fetch = (async (path: string, init?: RequestInit) => {
    calls.push({ path, init });
    return answer();
  }) as typeof fetch;
});

const effect: Effect = emptyEffect('0190f000-0000-7000-8000-000000000001', 'Sounding lamp');
const reply =
  (status: number, body: unknown, headers: Record<string, string> = {}) =>
  () =>
    new Response(JSON.stringify(body), { status, headers });
const header = (name: string) => new Headers(calls[0]!.init!.headers).get(name);

test('a save says which version it began from, and whose sitting it is', async () => {
  answer = reply(200, { version: 8, savedAt: 'now' });
  const send = sender('effect', effect.id);
  expect(await send({ saveId: 's1', base: 7, document: effect })).toEqual({ status: 200, body: { version: 8, savedAt: 'now' } });
  expect(calls[0]!.path).toBe(`/api/effects/${effect.id}`);
  expect(header('If-Match')).toBe('"v7"');
  expect(header('If-None-Match')).toBeNull();
  expect(header('X-Wispen-Client')).toMatch(/^[0-9a-f-]{36}$/);
  expect(JSON.parse(String(calls[0]!.init!.body))).toEqual({ saveId: 's1', document: effect });
});

test('a new document must not be there yet', async () => {
  answer = reply(201, { version: 1 });
  await createDocument('effect', effect);
  expect(header('If-None-Match')).toBe('*');
  answer = reply(400, { error: 'The field "version" is 7.' });
  await expect(createDocument('effect', effect)).rejects.toThrow('The field "version" is 7.');
});

test('loading tells the version and the time of the last save', async () => {
  answer = reply(200, effect, { ETag: '"v12"', 'Last-Modified': 'Wed, 25 Nov 2026 02:00:00 GMT' });
  const loaded = await loadEffect(effect.id);
  expect(loaded.version).toBe(12);
  expect(loaded.savedAt.toISOString()).toBe('2026-11-25T02:00:00.000Z');
  expect(loaded.document).toEqual(effect);
});

test('what is not there, what the server cannot give, and what is no effect', async () => {
  answer = reply(404, {});
  await expect(loadEffect('none')).rejects.toMatchObject({ reason: 'gone' } satisfies Partial<OpenFailure>);
  answer = reply(500, {});
  await expect(loadEffect('none')).rejects.toThrow('500');
  answer = reply(200, { ...effect, version: 3 }, { ETag: '"v1"' });
  await expect(loadEffect('none')).rejects.toThrow(/version 3/);
});

test('addresses hold no surprises', () => expect(documentPath('stage', 'a/b?c')).toBe('/api/stages/a%2Fb%3Fc'));
