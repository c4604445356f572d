import { STARTER_NAMES } from '../../tests/fixtures/starters.js';
import { createServer, type Server } from 'node:http';
import { createHash } from 'node:crypto';
import { cpSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { encode } from 'fast-png';
import request from 'supertest';
import { emptyEffect, type Effect } from '../core/effect/schema.js';
import { stageOf } from '../../tests/fixtures/stages.js';
import { writeBundle } from '../core/formats/bundle.js';
import type { Stage } from '../core/scene/stage.js';
import { createApp } from './app.js';
import { Decoder } from '../decoding/decoder.js';
import { openDatabase, type Database } from '../store/database.js';
import { IncomingFiles } from '../store/incoming.js';
import { DocumentRow, RevisionRow, SaveRow } from '../store/rows.js';
import { closeRaw, exec, openRaw } from '../store/sqlite.js';
import { assetsInUse, pruneSaves } from '../store/documents.js';
import { loadDemo, seed } from './demo.js';
import { accessKey, isLoopback, nameIn, servedNames } from './trust.js';

const demo = loadDemo(join(dirname(fileURLToPath(import.meta.url)), '../../demo'));
const work = mkdtempSync(join(tmpdir(), 'wispen-data-'));
const whole = join(work, 'whole');
// Hidden, as the usual data folder is.
const folder = join(work, '.wispen-data');
let db: Database;
let server: Server;

beforeAll(async () => {
  await (await openDatabase(whole, (fresh) => seed(fresh, demo))).close();
});
afterAll(() => rmSync(work, { recursive: true }));
beforeEach(async () => {
  cpSync(whole, folder, { recursive: true });
  db = await openDatabase(folder);
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

  test('revisions are listed and read; one that is named is closed, stays named and is kept', async () => {
    await put(effect('a'), 'save-0001', null);
    const at = `/api/effects/${effect().id}/revisions`;
    const [only] = (await request(server).get(at)).body as { id: number; name: string | null; open: boolean }[];
    expect([only!.name, only!.open]).toEqual([null, true]);
    const named = await request(server).put(`${at}/${only!.id}`).send({ name: ' Before the net ' });
    expect([named.status, named.body.name, named.body.open]).toEqual([200, 'Before the net', false]);
    // The same sitting goes on in another revision.
    await put(effect('b'), 'save-0002', 1);
    const list = (await request(server).get(at)).body as { id: number; name: string | null; open: boolean }[];
    expect(list.map((r) => [r.name, r.open])).toEqual([
      [null, true],
      ['Before the net', false],
    ]);
    expect((await request(server).get(`${at}/${only!.id}`)).body.name).toBe('a');
    expect((await request(server).put(`${at}/${only!.id}`).send({ name: '' })).status).toBe(400);
    expect((await request(server).get(`${at}/999999`)).status).toBe(404);
    // Another document's revision is not this one's.
    expect((await request(server).get(`/api/stages/${effect().id}/revisions/${only!.id}`)).status).toBe(404);
    await request(server).put(`${at}/${only!.id}`).send({ name: null });
    expect(((await request(server).get(at)).body as { name: string | null }[])[1]!.name).toBeNull();
  });

  test('a stage that one effect alone stands on goes away with it and comes back; one where somebody stands is not deleted', async () => {
    const own = { ...stageOf(), id: '0190b100-0000-7000-8000-000000000001', name: 'Cellar' };
    const putStage = () =>
      request(server).put(`/api/stages/${own.id}`).set('If-None-Match', '*').send({ saveId: 'save-stage', document: own });
    expect((await putStage()).status).toBe(201);
    const listed = async () =>
      (
        (await request(server).get('/api/stages')).body as {
          id: string;
          own: string | null;
          deletable: boolean;
          usedBy: string[];
        }[]
      ).find((s) => s.id === own.id);
    expect(await listed()).toMatchObject({ own: null, deletable: true, usedBy: [] });
    const guest = { ...effect('Lamp'), home: { stage: own.id, prop: '', viewpoint: '' } };
    await put(guest, 'save-0001', null);
    expect(await listed()).toMatchObject({ own: guest.id, deletable: false, usedBy: ['Lamp'] });
    const archive = (archived: boolean) => request(server).put(`/api/effects/${guest.id}/archived`).send({ archived });
    await archive(true);
    expect(await listed()).toBeUndefined();
    const refused = await request(server).delete(`/api/stages/${own.id}`);
    expect([refused.status, refused.body.error]).toEqual([409, 'It is the stage of Lamp, which is archived.']);
    await archive(false);
    expect(await listed()).toMatchObject({ own: guest.id });
    // A second one moves in: it is nobody's own any more, and stays when one of them goes.
    await put({ ...guest, id: '0190b000-0000-7000-8000-000000000002', name: 'Sign' }, 'save-0002', null);
    await archive(true);
    expect(await listed()).toMatchObject({ own: null, deletable: false, usedBy: ['Sign'] });
    // What came with the application is nobody's own, and stays.
    const [shipped] = demo.stages;
    expect((await request(server).delete(`/api/stages/${shipped!.id}`)).status).toBe(409);
    const empty = { ...own, id: '0190b100-0000-7000-8000-000000000003' };
    await request(server)
      .put(`/api/stages/${empty.id}`)
      .set('If-None-Match', '*')
      .send({ saveId: 'save-empty', document: empty });
    expect((await request(server).delete(`/api/stages/${empty.id}`)).status).toBe(204);
    expect((await request(server).get(`/api/stages/${empty.id}`)).status).toBe(404);
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

test('a list comes in pages that say where the next is (RFC 8288)', async () => {
  const seen: string[] = [];
  for (let path = '/api/effects?most=2'; path;) {
    const page = await request(server).get(path);
    seen.push(...(page.body as { name: string }[]).map((e) => e.name));
    path = /<([^>]+)>; rel="next"/.exec(page.headers.link ?? '')?.[1] ?? '';
  }
  expect(seen.sort()).toEqual(STARTER_NAMES);
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
  test('what is small as it is sent and large as it is kept: deep lists, names of every object, text that is none', async () => {
    let nested: unknown = [];
    for (let k = 0; k < 4000; k++) nested = [nested];
    const stage = stageOf({ id: 'deep' });
    // As text: the test's own client goes down objects step by step, and may run out of steps itself.
    const putText = (path: string, document: object) =>
      request(server)
        .put(path)
        .set('If-None-Match', '*')
        .set('Content-Type', 'application/json')
        .send(JSON.stringify({ saveId: 'save-deep', document }));
    for (const [send, words] of [
      [() => putText(`/api/effects/${effect().id}`, { ...effect(), extra: { nested } }), /deeper than 32 levels/],
      [() => putText('/api/stages/deep', { ...stage, extra: { nested } }), /deeper than 32 levels/],
      [() => put({ ...effect(), name: 'Lamp\0' }, 'save-0001', null), /holds a character that is none/],
      [() => put({ ...effect(), id: 'constructor' } as Effect, 'save-0001', null), /means something else to every object/],
      [
        () => put({ ...effect(), home: { stage: 'constructor', prop: 'p', viewpoint: 'v' } } as Effect, 'save-0001', null),
        /means something else/,
      ],
    ] as const) {
      const answer = await send();
      expect([answer.status, answer.body.error]).toEqual([400, expect.stringMatching(words)]);
    }
    expect(await DocumentRow.findByPk(effect().id)).toBeNull();
  });
  test('addresses that are none, and lists that begin nowhere', async () => {
    for (const path of [
      '/api/effects/..%2f..%2fetc',
      '/api/effects/%00',
      '/api/stages/a%2fb',
      '/api/effects/x/strip',
      '/api/assets/..%2fwispen.sqlite',
      '/%c0%ae',
    ])
      expect([path, (await request(server).get(path)).status]).toEqual([path, 404]);
    for (const path of [
      '/api/effects/%',
      '/api/effects/%ff',
      '/api/effects?after=yesterday',
      '/api/effects?most=-1',
      '/api/effects?after=a&after=b',
    ]) {
      const answer = await request(server).get(path);
      expect([path, answer.status, answer.body.error]).toEqual([path, 400, sentence]);
      expect(JSON.stringify(answer.body)).not.toMatch(/node_modules|at .*\.ts/);
    }
  });
  test('a saveId that belongs to another document', async () => {
    await put(effect(), 'save-0001', null);
    const other = await put(effect('Other', '0190b000-0000-7000-8000-000000000002'), 'save-0001', null);
    expect([other.status, other.body.error]).toEqual([409, sentence]);
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
  test.each([
    ['localhost', 200],
    ['localhost:4173', 200],
    ['127.0.0.1:80', 200],
    ['[::1]:4173', 200],
    ['LOCALHOST', 200],
    // Names that only begin like ours, or are none.
    ['127.evil.example', 403],
    ['127.0.0.1.evil.example', 403],
    ['localhost.evil.example', 403],
    ['127.0.0.2', 403],
    ['[::2]', 403],
    ['localhost:x', 403],
    ['evil@localhost', 403],
    ['', 403],
  ])('asked by the name %j it answers %d', async (name, status) => {
    expect((await request(server).get('/api/health').set('Host', name)).status).toBe(status);
  });
  test('a name of the setting is served, and only as it is written', () => {
    const names = servedNames('192.168.7.9', ['Bench.local']);
    expect(['192.168.7.9', 'bench.local', 'localhost'].map((n) => names.has(n))).toEqual([true, true, true]);
    expect(['bench.local.evil.example', '192.168.7.90'].some((n) => names.has(n))).toBe(false);
    expect(nameIn('BENCH.local:99')).toBe('bench.local');
    expect(isLoopback('127.evil.example')).toBe(false);
  });
  test('a key that is empty or damaged opens nothing', () => {
    const keyFile = join(folder, 'access-key');
    const key = accessKey(folder);
    expect(key).toMatch(/^[\w-]{32}$/);
    expect(accessKey(folder)).toBe(key);
    for (const text of ['', '\n', 'short', 'with spaces in it and long enough to be one']) {
      writeFileSync(keyFile, text);
      expect(() => accessKey(folder)).toThrow(/empty or damaged/);
      expect(() => createApp({ db, demo, host: '0.0.0.0', key: text.trim(), pages: null })).toThrow(/32 letters/);
    }
  });
  test('off loopback every request shows the key', async () => {
    const open = createServer(
      createApp({ db, demo, host: '0.0.0.0', key: 'open-sesame-open-sesame-open-sesame', pages: null }),
    ).listen(0);
    expect((await request(open).get('/api/effects')).status).toBe(401);
    const keyed = await request(open).get('/api/effects?key=open-sesame-open-sesame-open-sesame');
    expect(keyed.status).toBe(200);
    expect((await request(open).get('/api/effects').set('Cookie', keyed.headers['set-cookie']!)).status).toBe(200);
    open.close();
  });
});

test('the demo world: copies of the starters in the library, on its stages, the starters themselves unchanged', async () => {
  const list = (await request(server).get('/api/effects')).body as { id: string; name: string }[];
  expect(list.map((e) => e.name).sort()).toEqual(STARTER_NAMES);
  const starters = (await request(server).get('/api/starters')).body as { id: string }[];
  expect(starters.filter((s) => list.some((e) => e.id === s.id))).toEqual([]);
  // On the library's stages stand the library's copies.
  const stage = (await request(server).get(`/api/stages/${demo.stages.find((s) => s.name === 'Dock passage')!.id}`)).body as {
    props: { parts: { effect: string }[] }[];
  };
  const worn = stage.props.flatMap((p) => p.parts.map((part) => part.effect));
  expect(worn.length).toBeGreaterThan(0);
  for (const id of worn) expect(list.map((e) => e.id)).toContain(id);
});

/** A small valid .glb: one triangle. */
function triangle(): Buffer {
  const points = Buffer.from(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]).buffer);
  const text = JSON.stringify({
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0 }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    buffers: [{ byteLength: 36 }],
    bufferViews: [{ buffer: 0, byteLength: 36 }],
    accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] }],
  });
  const json = Buffer.from(text.padEnd(Math.ceil(text.length / 4) * 4));
  const head = Buffer.alloc(20);
  [0x46546c67, 2, 28 + json.length + 36, json.length, 0x4e4f534a].forEach((v, k) => head.writeUInt32LE(v, k * 4));
  const second = Buffer.alloc(8);
  [36, 0x004e4942].forEach((v, k) => second.writeUInt32LE(v, k * 4));
  return Buffer.concat([head, json, second, points]);
}
const shaOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');
const sendFile = (sha: string, bytes: Buffer) =>
  request(server).put(`/api/assets/${sha}`).set('Content-Type', 'application/octet-stream').send(bytes);
/** Besides what ships. */
const stored = () => readdirSync(join(folder, 'assets')).filter((name) => !demo.assets.has(name));

describe('imported files', () => {
  test('are kept under their SHA-256 and given back as they were', async () => {
    const mesh = triangle();
    expect((await sendFile(shaOf(mesh), mesh)).status).toBe(201);
    const got = await request(server)
      .get(`/api/assets/${shaOf(mesh)}`)
      .buffer(true)
      .parse((res, done) => {
        const parts: Buffer[] = [];
        res.on('data', (part: Buffer) => parts.push(part));
        res.on('end', () => done(null, Buffer.concat(parts)));
      });
    expect(Buffer.compare(got.body as Buffer, mesh)).toBe(0);
    expect(got.headers['content-disposition']).toContain('attachment');
  });
  test('are refused when they are not what they are said to be, and nothing is stored', async () => {
    const mesh = triangle();
    for (const [sha, bytes, words] of [
      ['0'.repeat(64), mesh, /SHA-256 differs/],
      [shaOf(Buffer.from('<html>')), Buffer.from('<html>'), /too short|first letters/],
      [shaOf(mesh.subarray(0, 90)), mesh.subarray(0, 90), /cut off/],
      ['..%2f..%2fwispen.sqlite', mesh, /64 hexadecimal digits/],
    ] as const) {
      const answer = await sendFile(sha, bytes);
      expect([answer.status, (answer.body as { error: string }).error]).toEqual([400, expect.stringMatching(words)]);
    }
    expect((await request(server).get('/api/assets/..%2fwispen.sqlite')).status).toBe(404);
    expect(stored()).toEqual([]);
  });
  test('are dropped only when no document and no revision refers to them, and not at once', async () => {
    const mesh = triangle();
    await sendFile(shaOf(mesh), mesh);
    const day = 24 * 60 * 60 * 1000;
    expect(db.assets.sweep(await assetsInUse())).toBe(0);
    const stage = stageOf({
      id: 'kept',
      assets: { m: { sha256: shaOf(mesh), name: 'm.glb', type: 'model/gltf-binary', size: mesh.length } },
    });
    const put = (document: object, base: number) =>
      request(server)
        .put('/api/stages/kept')
        .set(base === 0 ? 'If-None-Match' : 'If-Match', base === 0 ? '*' : `"v${base}"`)
        .set('X-Wispen-Client', `c${base}`)
        .send({ saveId: `stage-save-${base}`, document });
    expect((await put(stage, 0)).status).toBe(201);
    expect((await put({ ...stage, assets: {} }, 1)).status).toBe(200);
    // The revision before still needs it.
    db.assets.sweep(await assetsInUse(), Date.now() + 2 * day);
    expect(stored()).toEqual([shaOf(mesh)]);
    await RevisionRow.destroy({ where: { documentId: 'kept' } });
    db.assets.sweep(await assetsInUse(), Date.now() + 2 * day);
    expect(stored()).toEqual([]);
  });
});

describe('bundles', () => {
  const send = (bytes: Uint8Array) =>
    request(server).post('/api/bundles').set('Content-Type', 'application/zip').send(Buffer.from(bytes));
  const lamp = () => ({ ...effect('Lamp', 'lamp'), home: { stage: 'hall', prop: 'tube-1', viewpoint: 'front' } });
  const count = async () =>
    [(await request(server).get('/api/effects')).body.length, (await request(server).get('/api/stages')).body.length] as number[];
  test('are stored under ids of their own, twice too, and stages under names of their own', async () => {
    const mesh = triangle();
    const stage = stageOf({
      assets: { m: { sha256: shaOf(mesh), name: 'm.glb', type: 'model/gltf-binary', size: mesh.length } },
    });
    const bytes = writeBundle({ effects: [lamp()], stages: [stage], assets: new Map([[shaOf(mesh), mesh]]) });
    const first = await send(bytes);
    const second = await send(bytes);
    expect([first.status, second.status]).toEqual([201, 201]);
    expect(first.body.effect).not.toBe(second.body.effect);
    const back = (await request(server).get(`/api/effects/${first.body.effect as string}`)).body as Effect;
    expect([back.name, back.home!.prop]).toEqual(['Lamp', 'tube-1']);
    const names = ((await request(server).get('/api/stages')).body as { id: string; name: string }[]).filter((s) =>
      s.name.startsWith('Hall'),
    );
    expect(names.map((s) => s.name).sort()).toEqual(['Hall', 'Hall 2']);
    expect(names.find((s) => s.name === 'Hall')!.id).toBe(back.home!.stage);
    expect(stored()).toEqual([shaOf(mesh)]);
  });
  test('are refused whole: a broken mesh, a file that is lacking, an archive cut short', async () => {
    const before = await count();
    const broken = Buffer.from('not a mesh at all, though its name is right');
    const asset = (sha: string) => ({ m: { sha256: sha, name: 'm.glb', type: 'model/gltf-binary', size: 9 } });
    const good = writeBundle({ effects: [lamp()], stages: [stageOf()], assets: new Map() });
    for (const [bytes, words] of [
      [
        writeBundle({
          effects: [lamp()],
          stages: [stageOf({ assets: asset(shaOf(broken)) })],
          assets: new Map([[shaOf(broken), broken]]),
        }),
        /is refused\. It is not a \.glb/,
      ],
      [
        writeBundle({ effects: [lamp()], stages: [stageOf({ assets: asset('c'.repeat(64)) })], assets: new Map() }),
        /does not hold, cccc/,
      ],
      [good.subarray(0, good.length - 30), /damaged, or cut short/],
      [Buffer.from('hello'), /is not a bundle/],
    ] as const) {
      const answer = await send(bytes);
      expect([answer.status, (answer.body as { error: string }).error]).toEqual([400, expect.stringMatching(words)]);
    }
    expect(await count()).toEqual(before);
    expect(stored()).toEqual([]);
  });
});

describe('the Library', () => {
  type CardRow = { id: string; archived: boolean; updatedAt: string; stripKey: string; drawn: boolean; strands: string[] };
  const cards = async () => (await request(server).get('/api/effects')).body as CardRow[];
  const webp = Buffer.concat([Buffer.from('RIFF\u0000\u0000\u0000\u0000WEBP', 'latin1'), Buffer.alloc(40)]);
  const sendStrip = (id: string, key: string, bytes = webp) =>
    request(server).put(`/api/effects/${id}/strip?key=${key}`).set('Content-Type', 'image/webp').send(bytes);

  test('archiving is no change of the effect, and can be taken back', async () => {
    const [card] = await cards();
    const put = (archived: unknown) => request(server).put(`/api/effects/${card!.id}/archived`).send({ archived });
    expect((await put(true)).status).toBe(200);
    const away = (await cards()).find((c) => c.id === card!.id)!;
    expect([away.archived, away.updatedAt]).toEqual([true, card!.updatedAt]);
    expect((await put(false)).status).toBe(200);
    expect((await put('yes')).status).toBe(400);
    expect((await cards()).find((c) => c.id === card!.id)!.archived).toBe(false);
  });
  test('a strip is kept for the versions it shows, and is of no use once one of them has changed', async () => {
    const card = (await cards()).find((c) => c.strands.includes('Buzz'))!;
    // It ships, for the versions that ship.
    expect(card.drawn).toBe(demo.strips.has(card.id.slice(-12)));
    expect(card.drawn).toBe(true);
    expect((await sendStrip(card.id, card.stripKey)).status).toBe(201);
    expect((await cards()).find((c) => c.id === card.id)!.drawn).toBe(true);
    const got = await request(server).get(`/api/effects/${card.id}/strip?key=${card.stripKey}`);
    expect([got.status, got.headers['content-type']]).toEqual([200, 'image/webp']);
    // The stage it stands on changes, and its picture with it.
    const home = (await request(server).get(`/api/effects/${card.id}`)).body as Effect;
    const stage = (await request(server).get(`/api/stages/${home.home!.stage}`)).body as { name: string };
    await request(server)
      .put(`/api/stages/${home.home!.stage}`)
      .set('If-Match', '"v1"')
      .send({ saveId: 'save-stage', document: { ...stage, name: 'Dimmer' } });
    const now = (await cards()).find((c) => c.id === card.id)!;
    expect([now.drawn, now.stripKey === card.stripKey]).toEqual([false, false]);
    expect((await sendStrip(card.id, card.stripKey)).status).toBe(409);
  });
  test('a strip that is no WebP, or of no effect, is refused', async () => {
    const [card] = await cards();
    expect((await sendStrip(card!.id, card!.stripKey, Buffer.from('<svg onload=alert(1)>'))).status).toBe(400);
    expect((await sendStrip('nobody', 's1')).status).toBe(404);
    expect((await request(server).get(`/api/effects/${card!.id}/strip?key=s1`)).status).toBe(404);
  });
});

test('a shared dial is kept by the library, and what is none is refused', async () => {
  const dial = { id: 'tide', name: 'Tide', value: 0.4 };
  const shared = (body: unknown, id = 'tide') =>
    request(server)
      .put(`/api/shared/${id}`)
      .send(body as object);
  expect((await shared(dial)).status).toBe(200);
  expect((await shared({ ...dial, value: { rgb: [1, 0, 0], intensity: 3, unit: 'stops' } })).status).toBe(200);
  for (const [body, id] of [
    [{ ...dial, value: 'blue' }, 'tide'],
    [{ ...dial, more: 1 }, 'tide'],
    [dial, 'moon'],
  ] as const) {
    const { status, body: said } = await shared(body, id);
    expect([status, (said as { error: string }).error]).toEqual([400, expect.stringMatching(/^A shared dial is/)]);
  }
  expect((await request(server).get('/api/shared')).body).toEqual([
    { ...dial, value: { rgb: [1, 0, 0], intensity: 3, unit: 'stops' }, tag: expect.stringMatching(/^"[0-9a-f]{32}"$/) as string },
  ]);
});

test('an image is stored when it can be decoded; one cut short is not', async () => {
  const png = encode({ width: 2, height: 1, data: Uint8Array.from([255, 0, 0, 0, 255, 0]), channels: 3, depth: 8 });
  const store = (bytes: Uint8Array) => {
    const sha = createHash('sha256').update(bytes).digest('hex');
    return request(server).put(`/api/assets/${sha}`).set('Content-Type', 'application/octet-stream').send(Buffer.from(bytes));
  };
  expect((await store(png)).status).toBe(201);
  const broken = await store(png.slice(0, 40));
  expect([broken.status, (broken.body as { error: string }).error]).toEqual([
    400,
    expect.stringMatching(/^The image cannot be read: /),
  ]);
});

describe('the server goes on answering', () => {
  const large = () => {
    const side = 1800;
    const data = Uint8Array.from({ length: side * side * 3 }, (_, k) => (k * 2654435761) >>> 24);
    return encode({ width: side, height: side, data, channels: 3, depth: 8 });
  };
  const sha = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

  test('while a file is read: what is asked meanwhile is answered before it', async () => {
    const bytes = large();
    const order: string[] = [];
    const storing = request(server)
      .put(`/api/assets/${sha(bytes)}`)
      .set('Content-Type', 'application/octet-stream')
      .send(Buffer.from(bytes))
      .then(({ status }) => void order.push(`stored ${status}`));
    // Asked again and again until the file is in: each answer comes while it is read.
    while (!order.some((o) => o.startsWith('stored'))) order.push(`health ${(await request(server).get('/api/health')).status}`);
    await storing;
    expect(order.filter((o) => o === 'health 200').length).toBeGreaterThan(5);
    expect(order.at(-1)).not.toBe('health 500');
    expect(order).toContain('stored 201');
  }, 60_000);
  test('a file that takes too long is given up, and the next is read', async () => {
    const file = (bytes: Uint8Array) => {
      const path = join(folder, `${sha(bytes)}.bin`);
      writeFileSync(path, bytes);
      return path;
    };
    const hasty = new Decoder({ longestMs: 1 });
    expect(await hasty.check(file(large()))).toContain('takes longer');
    await hasty.close();
    const patient = new Decoder();
    const dot = encode({ width: 1, height: 1, data: Uint8Array.from([1, 2, 3]), channels: 3, depth: 8 });
    expect(await patient.check(file(dot))).toBeNull();
    expect(await patient.check(file(Uint8Array.from([1, 2, 3])))).toContain('too short');
    await patient.close();
  });
});

test('answers that nobody asks for any more are forgotten, the latest are not', async () => {
  await put(effect(), 'save-0000', null);
  for (let k = 1; k <= 105; k++) await put(effect(`Name ${k}`), `save-${String(k).padStart(4, '0')}`, k);
  expect(await SaveRow.count({ where: { documentId: effect().id } })).toBe(100);
  // The last is repeated, not taken for another's.
  expect((await put(effect('Name 105'), 'save-0105', 105)).body.version).toBe(106);
  const month = 31 * 24 * 60 * 60 * 1000;
  await pruneSaves(Date.now() + month);
  expect(await SaveRow.count()).toBe(0);
});

test('a strip’s request reads only what its pictures show', async () => {
  const cards = (await request(server).get('/api/effects')).body as { id: string; stripKey: string }[];
  const asked: string[] = [];
  const { options } = db.sequelize as unknown as { options: { logging: false | ((sql: string) => void) } };
  options.logging = (sql) => void asked.push(sql);
  const [card] = cards;
  const webp = Buffer.concat([Buffer.from('RIFF'), Buffer.alloc(4), Buffer.from('WEBP')]);
  const { status } = await request(server)
    .put(`/api/effects/${card!.id}/strip?key=${card!.stripKey}`)
    .set('Content-Type', 'image/webp')
    .send(webp);
  options.logging = false;
  expect(status).toBe(201);
  const reads = asked.filter((sql) => /SELECT .*`documents`/.test(sql));
  expect(reads.length).toBeGreaterThan(0);
  for (const sql of reads) expect(sql).toContain('WHERE');
  // Cards and versions count, no bodies.
  expect(reads.filter((sql) => /`document`[ ,]/.test(sql))).toEqual([]);
});

test('the access key leaves the address with the first page, and is not told to where a link leads', async () => {
  const pages = mkdtempSync(join(tmpdir(), 'wispen-pages-'));
  writeFileSync(join(pages, 'index.html'), '<!doctype html>');
  const guarded = createServer(createApp({ db, demo, host: '0.0.0.0', key: 'k'.repeat(32), pages })).listen(0);
  const page = (path: string) => request(guarded).get(path).set('Accept', 'text/html');
  const first = await page(`/effects/x?t=2&key=${'k'.repeat(32)}`);
  expect([first.status, first.headers.location]).toEqual([302, '/effects/x?t=2']);
  const cookie = String(first.headers['set-cookie']).split(';')[0]!;
  const second = await page('/effects/x?t=2').set('Cookie', cookie);
  expect([second.status, second.headers['referrer-policy']]).toEqual([200, 'no-referrer']);
  expect((await page('/effects/x?key=wrong')).status).toBe(401);
  // A program that shows the key has what it asked for.
  expect((await request(guarded).get(`/api/health?key=${'k'.repeat(32)}`)).status).toBe(200);
  guarded.close();
  rmSync(pages, { recursive: true });
});

test('who reads a shared dial is told, and what is read stays', async () => {
  const reads = { id: 's', name: 'S', op: 'shared', inputs: { shared: { value: { text: 'swell' } } } };
  await request(server).put('/api/shared/swell').send({ id: 'swell', name: 'Swell', value: 1 });
  const document = { ...effect('Swelling'), strands: [reads] as Effect['strands'] };
  expect((await put(document, 'reads-swell', null)).status).toBe(201);
  const { body } = await request(server).get('/api/shared/readers');
  expect((body as Record<string, unknown>).swell).toEqual([{ id: document.id, name: document.name }]);
  const kept = await request(server).delete('/api/shared/swell');
  expect([kept.status, (kept.body as { error: string }).error]).toEqual([
    409,
    `It is read by ${document.name}: what is read stays.`,
  ]);
  await request(server).put('/api/shared/alone').send({ id: 'alone', name: 'Alone', value: 1 });
  expect((await request(server).delete('/api/shared/alone')).status).toBe(200);
  expect((await request(server).delete('/api/shared/alone')).status).toBe(404);
});

test('motifs are kept, told with who uses them, and refused where they are wrong; shipped ones stay', async () => {
  const motif = {
    ...{ id: '0190a000-0000-7000-8000-0000000000f1', revision: 1, name: 'Double' },
    inputs: [{ id: 'in1', name: 'Level', kind: '1' }],
    outputs: [{ id: 'out1', name: 'Twice', kind: '1', from: { from: 'm' } }],
    strands: [{ id: 'm', name: 'M', op: 'multiply', inputs: { a: { from: 'in1' }, b: { value: 2 } } }],
  };
  const keep = (body: object, id = motif.id) => request(server).put(`/api/motifs/${id}`).send(body);
  expect((await keep(motif)).status).toBe(200);
  const wrong = await keep({ ...motif, outputs: [{ ...motif.outputs[0]!, from: { from: 'x' } }] });
  expect([wrong.status, (wrong.body as { error: string }).error]).toEqual([
    400,
    expect.stringMatching(/its output Twice gives x/),
  ]);
  expect((await keep(motif, 'another')).status).toBe(400);
  type Listed = { motif: { id: string; revision: number }; shipped: boolean; usedBy: unknown[] };
  const listed = async () => (await request(server).get('/api/motifs')).body as Listed[];
  expect((await listed()).filter((m) => m.shipped)).toHaveLength(demo.motifs.length);
  expect((await listed()).find((m) => m.motif.id === motif.id)).toMatchObject({ shipped: false, usedBy: [] });
  const shipped = demo.motifs[0]!;
  const refused = await keep({ ...shipped, name: 'Other' }, shipped.id);
  expect([refused.status, (refused.body as { error: string }).error]).toEqual([403, expect.stringMatching(/ships with Wispen/)]);
  expect((await request(server).delete(`/api/motifs/${shipped.id}`)).status).toBe(403);
  expect((await request(server).delete(`/api/motifs/${motif.id}`)).status).toBe(200);
  expect((await request(server).delete(`/api/motifs/${motif.id}`)).status).toBe(404);
});

describe('what two clients change at once', () => {
  const motif = (name: string, revision: number) => ({
    ...{
      id: '0190b000-0000-7000-8000-00000000dd01',
      revision,
      name,
      inputs: [],
      strands: [{ id: 't', name: 'Time', op: 'time' }],
    },
    outputs: [{ id: 'out1', name: 'Time', kind: '1', from: { from: 't' } }],
  });
  test('a motif: the later is told what there is, and neither is lost', async () => {
    const keep = (body: { id: string }) => request(server).put(`/api/motifs/${body.id}`);
    const first = await keep(motif('First', 1)).set('If-None-Match', '*').send(motif('First', 1));
    expect(first.status).toBe(200);
    const theirs = await keep(motif('Theirs', 2))
      .set('If-Match', first.body.tag as string)
      .send(motif('Theirs', 2));
    expect(theirs.status).toBe(200);
    for (const mine of [motif('Mine', 2), motif('Mine', 3)]) {
      const late = await keep(mine)
        .set('If-Match', first.body.tag as string)
        .send(mine);
      expect([late.status, late.body.motif.name, late.body.tag]).toEqual([412, 'Theirs', theirs.body.tag]);
    }
    // One that believes that there is none has not seen it; the same again, whose answer was lost, is no conflict.
    expect((await keep(motif('New', 9)).set('If-None-Match', '*').send(motif('New', 9))).status).toBe(412);
    expect(
      (
        await keep(motif('Theirs', 2))
          .set('If-Match', first.body.tag as string)
          .send(motif('Theirs', 2))
      ).status,
    ).toBe(200);
    const list = (await request(server).get('/api/motifs')).body as { motif: { name: string }; tag?: string; shipped: boolean }[];
    expect(list.filter((m) => !m.shipped).map((m) => [m.motif.name, m.tag])).toEqual([['Theirs', theirs.body.tag]]);
  });
  test('a shared dial likewise', async () => {
    const turn = (value: number, tag?: string) =>
      request(server)
        .put('/api/shared/swell')
        .set(tag === undefined ? 'If-None-Match' : 'If-Match', tag ?? '*')
        .send({ id: 'swell', name: 'Swell', value });
    const { tag } = (await turn(1)).body as { tag: string };
    expect((await turn(2, tag)).status).toBe(200);
    const late = await turn(3, tag);
    expect([late.status, late.body.dial.value, late.body.error]).toEqual([412, 2, 'Swell was turned elsewhere meanwhile.']);
    expect((await turn(3, late.body.dial.tag as string)).status).toBe(200);
  });
});

test('thousands of shared dials, and who reads them', async () => {
  const { SharedRow } = await import('../store/rows.js');
  await SharedRow.bulkCreate(Array.from({ length: 3000 }, (_, k) => ({ id: `dial-${k}`, name: `Dial ${k}`, value: '1' })));
  const reading = {
    ...effect('Reads one'),
    strands: [{ id: 's', name: 'S', op: 'shared', inputs: { shared: { value: { text: 'dial-2999' } } } }],
    shared: [{ id: 'dial-2999', name: 'Dial 2999', value: 1 }],
  };
  expect((await put(reading as unknown as Effect, 'save-0001', null)).status).toBe(201);
  const readers = await request(server).get('/api/shared/readers');
  expect([readers.status, readers.body['dial-2999'].map((r: Effect) => r.name), readers.body['dial-1']]).toEqual([
    200,
    ['Reads one'],
    [],
  ]);
  expect((await request(server).delete('/api/shared/dial-2999')).status).toBe(409);
});

test('what is no number of a revision is of none', async () => {
  await put(effect(), 'save-0001', null);
  for (const text of ['NaN', '1e3', '-1', '1.5', '9'.repeat(40), 'Infinity', '%00'])
    expect([text, (await request(server).get(`/api/effects/${effect().id}/revisions/${text}`)).status]).toEqual([text, 404]);
});

test('a database that another program holds is tried again, and said in a sentence where it stays held', async () => {
  const other = await openRaw(join(folder, 'wispen.sqlite'));
  await exec(other, 'BEGIN EXCLUSIVE');
  const waiting = put(effect(), 'save-0001', null);
  const said = await waiting;
  expect([said.status, said.body.error]).toEqual([
    503,
    'Another program holds the database; nothing was changed. It is tried again.',
  ]);
  const held = put(effect(), 'save-0002', null).then((r) => r);
  await exec(other, 'ROLLBACK');
  expect((await held).status).toBe(201);
  await closeRaw(other);
}, 60_000);

test('a full disk is said to every sender, in the middle of a large file too', async () => {
  let taken = 0;
  const full = new IncomingFiles(folder, () =>
    Promise.resolve({
      appendFile: (chunk: Uint8Array) =>
        (taken += chunk.length) > 3e5
          ? Promise.reject(Object.assign(new Error('no space left on device'), { code: 'ENOSPC' }))
          : Promise.resolve(),
      close: () => Promise.resolve(),
    }),
  );
  const small = createServer(
    createApp({ db: { ...db, incoming: full }, demo, host: '127.0.0.1', key: null, pages: null }),
  ).listen(0);
  const { port } = small.address() as { port: number };
  const body = Buffer.alloc(20e6, 7);
  const sent = await Promise.all(
    Array.from({ length: 11 }, () =>
      fetch(`http://127.0.0.1:${port}/api/assets/${'a'.repeat(64)}`, { method: 'PUT', body }).then(
        async (r) => [r.status, ((await r.json()) as { error: string }).error],
        (error: Error) => String(error.cause),
      ),
    ),
  );
  small.close();
  expect(new Set(sent.map(String))).toEqual(new Set(['507,The disk is full. Nothing was changed.']));
});

describe('files that documents name', () => {
  const name = 'c'.repeat(64);
  const withPaint = (sha256: string) => stageOf({ assets: { p: { sha256, name: 'Ray paint', type: 'image/png', size: 9 } } });
  const save = (document: Stage, base: number | null, more: object = {}) => {
    const call = request(server).put(`/api/stages/${document.id}`);
    return (base === null ? call.set('If-None-Match', '*') : call.set('If-Match', `"v${base}"`)).send({
      ...{ saveId: `save-${base}-${JSON.stringify(more).length}`, document },
      ...more,
    });
  };
  test('no stage is saved with one that the server does not have; what it has lacked all along hinders nothing', async () => {
    const refused = await save(withPaint(name), null);
    expect([refused.status, refused.body.lacking]).toEqual([422, [name]]);
    writeFileSync(join(folder, 'assets', name), 'paint');
    expect((await save(withPaint(name), null, { keeps: [] })).status).toBe(201);
    rmSync(join(folder, 'assets', name));
    expect((await save({ ...withPaint(name), name: 'Renamed' }, 1)).status).toBe(200);
  });
  test('what steps of undo may bring back outlives a restart days later, as long as they do', async () => {
    writeFileSync(join(folder, 'assets', name), 'paint');
    expect((await save(withPaint(name), null)).status).toBe(201);
    const plain = { ...withPaint(name), assets: {} };
    expect((await save(plain, 1, { keeps: [name] })).status).toBe(200);
    await RevisionRow.update({ assets: '' }, { where: {} });
    const later = Date.now() + 40 * 24 * 60 * 60 * 1000;
    db.assets.sweep(await assetsInUse(), later);
    expect(stored()).toContain(name);
    // A client that says nothing of steps leaves them as they are; one that has none more lets go.
    expect((await save({ ...plain, name: 'B' }, 2)).status).toBe(200);
    expect((await assetsInUse()).has(name)).toBe(true);
    expect((await save({ ...plain, name: 'C' }, 3, { keeps: [] })).status).toBe(200);
    await RevisionRow.update({ assets: '' }, { where: {} });
    db.assets.sweep(await assetsInUse(), later);
    expect(stored()).not.toContain(name);
  });
});
