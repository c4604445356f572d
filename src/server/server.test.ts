import { createServer, type Server } from 'node:http';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import request from 'supertest';
import { emptyEffect, type Effect } from '../core/effect/schema.js';
import { createApp } from './app.js';
import { RevisionRow, openDatabase, type Database } from './database.js';
import { loadDemo, seed } from './demo.js';

const demo = loadDemo(join(dirname(fileURLToPath(import.meta.url)), '../../demo'));
let folder: string;
let db: Database;
let server: Server;

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'wispen-data-'));
  db = await openDatabase(folder);
  await seed(db, demo);
  server = createServer(createApp({ db, demo, host: '127.0.0.1', key: null, pages: null })).listen(0);
});
afterEach(async () => {
  server.close();
  await db.close();
  rmSync(folder, { recursive: true });
});

const effect = (name = 'Bubble column', id = '0190b000-0000-7000-8000-000000000001'): Effect => emptyEffect(id, name);
const put = (document: Effect, saveId: string, base: number | null, client = 'one') => {
  const call = request(server).put(`/api/effects/${document.id}`).set('X-Wispen-Client', client);
  return (base === null ? call.set('If-None-Match', '*') : call.set('If-Match', `"v${base}"`)).send({ saveId, document });
};

describe('saving', () => {
  test('stores, and gives back what was stored', async () => {
    const made = await put(effect(), 'save-0001', null);
    expect([made.status, made.body.version]).toEqual([201, 1]);
    const got = await request(server).get(`/api/effects/${effect().id}`);
    expect(got.headers.etag).toBe('"v1"');
    expect(got.body).toEqual(effect());
  });

  test('repeats its first answer to a save it knows, and stores nothing again', async () => {
    await put(effect(), 'save-0001', null);
    const first = await put(effect('Second'), 'save-0002', 1);
    const again = await put(effect('Second'), 'save-0002', 1);
    expect(again.body).toEqual(first.body);
    expect((await request(server).get(`/api/effects/${effect().id}`)).headers.etag).toBe('"v2"');
  });

  test('refuses a save that began from another version, and shows what is there', async () => {
    await put(effect(), 'save-0001', null);
    await put(effect('Theirs'), 'save-0002', 1, 'two');
    const mine = await put(effect('Mine'), 'save-0003', 1);
    expect([mine.status, mine.body.version, mine.body.document.name]).toEqual([412, 2, 'Theirs']);
  });

  test('a sitting is one revision; another client closes it', async () => {
    await put(effect('a'), 'save-0001', null);
    await put(effect('b'), 'save-0002', 1);
    await put(effect('c'), 'save-0003', 2);
    const where = { documentId: effect().id };
    expect(await RevisionRow.count({ where })).toBe(1);
    await put(effect('d'), 'save-0004', 3, 'two');
    const rows = await RevisionRow.findAll({ where, order: ['id'] });
    expect(rows.map((r) => [(JSON.parse(r.document) as Effect).name, r.open])).toEqual([
      ['c', false],
      ['d', true],
    ]);
  });

  test('fifty saves at once are stored one after another: one wins, the rest are told', async () => {
    await put(effect(), 'save-0001', null);
    const answers = await Promise.all(Array.from({ length: 50 }, (_, k) => put(effect(`n${k}`), `save-many-${k}`, 1, `c${k}`)));
    expect(answers.filter((a) => a.status === 200)).toHaveLength(1);
    expect(answers.filter((a) => a.status === 412)).toHaveLength(49);
  });

  test('survives the end of the server', async () => {
    await put(effect('Kept'), 'save-0001', null);
    await db.close();
    db = await openDatabase(folder);
    server.close();
    server = createServer(createApp({ db, demo, host: '127.0.0.1', key: null, pages: null })).listen(0);
    expect((await request(server).get(`/api/effects/${effect().id}`)).body.name).toBe('Kept');
  });
});

describe('bad input is refused with a sentence, and nothing is stored', () => {
  const sentence = expect.stringMatching(/^[A-Z].*\.$/);
  const list = async () => (await request(server).get('/api/effects')).body as unknown[];
  test.each([
    ['a cycle', { strands: [{ id: 'a', name: 'A', op: 'fract', inputs: { in: { from: 'a' } } }] }],
    ['an unknown version', { version: 7 }],
    ['an unknown field', { sparkle: true }],
    ['an unknown operator', { strands: [{ id: 'a', name: 'A', op: 'sparkle' }] }],
  ])('%s', async (_, change) => {
    const before = (await list()).length;
    const answer = await put({ ...effect(), ...change } as Effect, 'save-0001', null);
    expect([answer.status, answer.body.error]).toEqual([400, sentence]);
    expect(await list()).toHaveLength(before);
  });
  test('more than 4 MB', async () => {
    const answer = await put({ ...effect(), note: 'x'.repeat(5_000_000) }, 'save-0001', null);
    expect([answer.status, answer.body.error]).toEqual([413, sentence]);
  });
  test('no JSON, no version, an address that is not the document’s', async () => {
    const path = `/api/effects/${effect().id}`;
    expect((await request(server).put(path).set('Content-Type', 'application/json').send('{"saveId"')).status).toBe(400);
    expect((await request(server).put(path).send({ saveId: 'save-0001', document: effect() })).status).toBe(428);
    expect(
      (
        await request(server)
          .put('/api/effects/other')
          .set('If-None-Match', '*')
          .send({ saveId: 'save-0001', document: effect() })
      ).status,
    ).toBe(400);
    expect((await request(server).get('/api/effects/none')).status).toBe(404);
  });
});

describe('trust', () => {
  test('a strict content security policy, without unsafe-inline', async () => {
    const policy = (await request(server).get('/api/health')).headers['content-security-policy'];
    expect(policy).toContain("script-src 'self' 'wasm-unsafe-eval'");
    expect(policy).not.toContain('unsafe-inline');
  });
  test('writing from another site, and foreign names for this address', async () => {
    const foreign = await put(effect(), 'save-0001', null).set('Origin', 'https://elsewhere.example');
    expect(foreign.status).toBe(403);
    expect((await request(server).get('/api/effects').set('Host', 'elsewhere.example')).status).toBe(403);
  });
  test('off loopback every request shows the key', async () => {
    const open = createServer(createApp({ db, demo, host: '0.0.0.0', key: 'open-sesame-long', pages: null })).listen(0);
    expect((await request(open).get('/api/effects')).status).toBe(401);
    const keyed = await request(open).get('/api/effects?key=open-sesame-long');
    expect(keyed.status).toBe(200);
    expect((await request(open).get('/api/effects').set('Cookie', keyed.headers['set-cookie']!)).status).toBe(200);
    open.close();
  });
});

test('the demo world: a copy of the starter in the library, its stage, the starter itself unchanged', async () => {
  const list = (await request(server).get('/api/effects')).body as { id: string; name: string }[];
  expect(list.map((e) => e.name)).toEqual(['Failing tube']);
  const starters = (await request(server).get('/api/starters')).body as { id: string }[];
  expect(starters[0]!.id).not.toBe(list[0]!.id);
  expect((await request(server).get(`/api/stages/${demo.stages[0]!.id}`)).body.name).toBe('Dock passage');
});
