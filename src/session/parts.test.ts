/** What is saved in parts, with one of its parts refused, late or cut; and what two have changed at once. */
import { createStore, set } from 'idb-keyval';
import { FALLBACK, FakeServer, lay, layStage, openOn, settled, type Opened } from '../../tests/fixtures/bench.js';
import { effectOf } from '../../tests/fixtures/sheets.js';
import { stageOf } from '../../tests/fixtures/stages.js';
import { addAsset } from '../core/scene/edits.js';
import type { Motif } from '../core/effect/schema.js';
import { usesOf } from '../core/effect/motifs.js';
import { filesOf } from './history.js';

const open: Opened[] = [];
const begun = async (server = new FakeServer(), effect = effectOf([])): Promise<Opened> => {
  layStage(server, stageOf({ id: FALLBACK }));
  const opened = await openOn(server, lay(server, effect));
  open.push(opened);
  return opened;
};
afterEach(async () => {
  for (const { session } of open.splice(0)) await session.close();
});

const [A, B] = ['a'.repeat(64), 'b'.repeat(64)];
const paintIn = (b: Opened, sha256: string) =>
  b.session.documents.editStage('Paint', (draft) =>
    addAsset(draft, { key: `p-${sha256[0]}`, asset: { sha256, name: 'Paint', type: 'image/png', size: 3 } }),
  );
const waits = (sum: string) => set(sum, new Uint8Array([1, 2, 3]), createStore('wispen-paint', 'files'));
const stageSaves = (server: FakeServer) => server.saves.filter((s) => s.path.startsWith('/api/stages/'));
const until = async (reached: () => boolean) => {
  for (let k = 0; k < 400 && !reached(); k++) await settled(10);
  expect(reached()).toBe(true);
};

describe('a stage that names paint', () => {
  test('is not saved while one file is refused, and says why; the other files go all the same', async () => {
    const b = await begun();
    const sent: string[] = [];
    const { fetch } = globalThis;
    globalThis.fetch = (input, init) => {
      const path = String(input);
      if (!path.startsWith('/api/assets/')) return fetch(input, init);
      sent.push(path.slice(-64));
      const ok = path.endsWith(B);
      return Promise.resolve(
        new Response(ok ? '{}' : '{"error":"The image cannot be read: it ends too early."}', { status: ok ? 201 : 400 }),
      );
    };
    await waits(A);
    await waits(B);
    paintIn(b, A);
    await until(() => b.state().saved.state === 'refused');
    expect(b.state().saved).toMatchObject({
      why: expect.stringMatching(/kept in this browser. The image cannot be read/) as string,
    });
    expect([new Set(sent), stageSaves(b.server)]).toEqual([new Set([A, B]), []]);
    // Undone, there is nothing that is not there.
    b.session.documents.undo();
    paintIn(b, B);
    await until(() => b.state().saved.state === 'saved' && stageSaves(b.server).length > 0);
    globalThis.fetch = fetch;
  });
  test('is not said to be saved while the server does not answer for the file', async () => {
    const b = await begun();
    b.server.broken.set(`PUT /api/assets/${A}`, null);
    await waits(A);
    paintIn(b, A);
    await until(() => b.state().saved.state === 'unreachable');
    expect(stageSaves(b.server)).toEqual([]);
    b.server.broken.set(`PUT /api/assets/${A}`, { status: 201, text: '{}' });
    await until(() => b.state().saved.state === 'saved');
    expect(stageSaves(b.server)).toHaveLength(1);
  });
});

test('each save names the files that undo and redo may bring back', async () => {
  const b = await begun();
  const bodies: { keeps?: string[] }[] = [];
  const { fetch } = globalThis;
  globalThis.fetch = (input, init) => {
    if (init?.method === 'PUT') bodies.push(JSON.parse(String(init.body)) as { keeps?: string[] });
    return fetch(input, init);
  };
  paintIn(b, B);
  b.session.documents.undo();
  expect(filesOf(b.state().history)).toEqual([B]);
  await b.session.saving.now();
  expect(bodies.at(-1)!.keeps).toEqual([B]);
  globalThis.fetch = fetch;
});

test('what is done while a bench closes is not taken: nobody would save it', async () => {
  const b = await begun(undefined, effectOf([{ id: 't', name: 'Time', op: 'time' }]));
  b.session.documents.edit('Before', (d) => void (d.name = 'Before'));
  const closing = b.session.close();
  await settled(0);
  await closing;
  b.session.documents.edit('After', (d) => void (d.name = 'After'));
  b.session.documents.undo();
  expect(b.state().effect.name).toBe('Before');
  const again = await openOn(b.server, b.state().effect.id);
  open.splice(0, open.length, again);
  expect(again.state().effect.name).toBe('Before');
});

describe('what two have changed at once', () => {
  const motif: Motif = {
    ...{ id: 'm1', revision: 2, name: 'Glow', inputs: [], strands: [{ id: 't', name: 'Time', op: 'time' }] as Motif['strands'] },
    outputs: [{ id: 'out1', name: 'Time', kind: '1', from: { from: 't' } }],
  };
  test('a motif: the library keeps theirs, mine goes on under a name of its own, and that is said', async () => {
    const effect = effectOf(
      [{ id: 'use', name: 'Use', op: 'motif', inputs: { motif: { value: { text: 'm1' } } } }],
      { emission: { from: 'use' } },
      { motifs: [motif] },
    );
    const b = await begun(undefined, effect);
    const kept = new Map<string, Motif>([['m1', { ...motif, revision: 3, name: 'Glow' }]]);
    const { fetch } = globalThis;
    globalThis.fetch = (input, init) => {
      const path = String(input);
      if (!path.startsWith('/api/motifs')) return fetch(input, init);
      const answer = (status: number, body: unknown) => Promise.resolve(new Response(JSON.stringify(body), { status }));
      if (init?.method !== 'PUT')
        return answer(
          200,
          [...kept.values()].map((m) => ({ motif: m, shipped: false, usedBy: [], tag: '"new"' })),
        );
      const sent = JSON.parse(String(init.body)) as Motif;
      const seen = new Headers(init.headers);
      if (kept.has(sent.id) && seen.get('If-Match') !== '"new"') return answer(412, { error: 'changed' });
      kept.set(sent.id, sent);
      return answer(200, { ok: true });
    };
    b.session.store.setState({ motifs: [{ motif, shipped: false, usedBy: [], tag: '"old"' }] });
    expect(await b.session.motifs.keep(b.state().effect.motifs[0]!)).toBe(true);
    expect([...kept.values()].map((m) => m.name)).toEqual(['Glow', 'Glow, mine']);
    const [own] = b.state().effect.motifs;
    expect([own!.name, usesOf(b.state().effect, own!.id).length, kept.has(own!.id)]).toEqual(['Glow, mine', 1, true]);
    expect(b.state().notice).toMatch(/Glow was changed elsewhere meanwhile, and that stays. Yours is Glow, mine now/);
    globalThis.fetch = fetch;
  });
  test('a shared dial: theirs stays until the artist says otherwise', async () => {
    const server = new FakeServer();
    const dial = { id: 'tide', name: 'Tide', value: 0.4 };
    server.shared.set('tide', dial);
    const b = await begun(server, effectOf([], {}, { shared: [dial] }));
    await settled();
    const { fetch } = globalThis;
    let theirs: object | null = { ...dial, value: 0.7, tag: '"2"' };
    globalThis.fetch = (input, init) =>
      theirs && String(input).startsWith('/api/shared/')
        ? Promise.resolve(new Response(JSON.stringify({ error: 'turned', dial: theirs }), { status: 412 }))
        : fetch(input, init);
    b.session.shared.turn('tide', 0.9);
    await until(() => b.state().question !== null);
    expect(b.state().question!.text).toBe('Tide was turned elsewhere meanwhile, to 0.7. Here it is 0.9.');
    expect([b.state().library, b.state().effect.shared[0]!.value]).toEqual([[{ ...dial, value: 0.7 }], 0.9]);
    theirs = null;
    b.state().question!.act();
    await until(() => (server.shared.get('tide') as { value: number }).value === 0.9);
    globalThis.fetch = fetch;
  });
});
