import { Autosave, type Pending, type PendingStore, type SaveReply, type SaveStatus, type Send } from './autosave.js';

/** A server that counts versions and repeats its answer to a save it knows, as ours does. */
function fakeServer() {
  const answers = new Map<string, SaveReply>();
  const state = { version: 1, document: 'v1' as unknown, saves: 0, loseReplies: 0, down: false };
  const send: Send = async ({ saveId, base, document }) => {
    if (state.down) throw new Error('refused');
    const known = answers.get(saveId);
    let reply: SaveReply;
    if (known) reply = known;
    else if (base !== state.version) reply = { status: 412, body: { version: state.version, document: state.document } };
    else {
      state.version++;
      state.saves++;
      state.document = document;
      reply = { status: 200, body: { version: state.version, savedAt: '2026-11-25T00:00:00Z' } };
      answers.set(saveId, reply);
    }
    if (state.loseReplies > 0) {
      state.loseReplies--;
      throw new Error('reset');
    }
    return reply;
  };
  return { state, send };
}

function memory() {
  const kept = new Map<string, Pending>();
  const store: PendingStore = {
    lasting: true,
    get: async (k) => kept.get(k),
    set: async (k, v) => void kept.set(k, structuredClone(v)),
    del: async (k) => void kept.delete(k),
  };
  return { kept, store };
}

function make(server = fakeServer(), { kept, store } = memory(), base = 1) {
  const statuses: SaveStatus['state'][] = [];
  const save = new Autosave({
    key: 'effect:x',
    base,
    store,
    send: server.send,
    onStatus: (s) => statuses.push(s.state),
    quietMs: 5,
    longestMs: 20,
    retryMs: 5,
    keepMs: 10,
  });
  const until = async (state: SaveStatus['state']) => {
    for (let k = 0; k < 400 && statuses[statuses.length - 1] !== state; k++) await new Promise((r) => setTimeout(r, 2));
    expect(statuses[statuses.length - 1]).toBe(state);
  };
  return { save, server, statuses, until, kept };
}

test('saves after it falls quiet; a run of changes is one save', async () => {
  const { save, server, until, kept } = make();
  for (let k = 0; k < 5; k++) save.change(`draft ${k}`);
  await until('saved');
  expect(server.state).toMatchObject({ document: 'draft 4', saves: 1 });
  expect(save.pending).toBe(false);
  await new Promise((r) => setTimeout(r, 5));
  expect(kept.size).toBe(0);
});

test('saves within the longest wait although changes never stop', async () => {
  const { save, server } = make();
  for (let k = 0; k < 30 && server.state.saves === 0; k++) {
    save.change(k);
    await new Promise((r) => setTimeout(r, 3));
  }
  expect(server.state.saves).toBeGreaterThan(0);
  save.stop();
});

test('a lost reply is asked for again and is no conflict, though more was typed meanwhile', async () => {
  const { save, server, statuses, until } = make();
  server.state.loseReplies = 1;
  save.change('first');
  await until('unreachable');
  save.change('second');
  await until('saved');
  expect(server.state).toMatchObject({ document: 'second', saves: 2, version: 3 });
  expect(statuses).not.toContain('conflict');
});

test('what was not confirmed is kept, and a later page takes it up', async () => {
  const server = fakeServer();
  const shelf = memory();
  const first = make(server, shelf);
  server.state.loseReplies = 1;
  first.save.change('typed before the crash');
  await first.until('unreachable');
  first.save.stop();
  const pending = shelf.kept.get('effect:x')!;
  expect(pending).toMatchObject({ base: 1, document: 'typed before the crash' });
  const second = make(server, shelf, 99);
  second.save.resume(pending);
  await second.until('saved');
  expect(server.state).toMatchObject({ document: 'typed before the crash', saves: 1, version: 2 });
});

test('waits for a server that is down, and says since when', async () => {
  const { save, server, statuses, until } = make();
  server.state.down = true;
  save.change('offline');
  await until('unreachable');
  server.state.down = false;
  await until('saved');
  expect(server.state.document).toBe('offline');
  expect(statuses.filter((s) => s === 'saved')).toHaveLength(1);
});

test('another client’s change is a conflict; either may be kept', async () => {
  const { save, server, until } = make();
  server.state.version = 7;
  server.state.document = 'theirs';
  save.change('mine');
  await until('conflict');
  expect(server.state.document).toBe('theirs');
  save.overwrite(7);
  await until('saved');
  expect(server.state.document).toBe('mine');
});

test('a run of changes is kept at its first and then now and then, never at each', async () => {
  const { kept, store } = memory();
  let writes = 0;
  const counting: PendingStore = { ...store, set: (k, v) => (writes++, store.set(k, v)) };
  const server = fakeServer();
  server.state.down = true;
  const { save } = make(server, { kept, store: counting });
  for (let k = 0; k < 200; k++) save.change(`step ${k}`);
  await save.hold();
  expect(kept.get('effect:x')!.document).toBe('step 199');
  expect(writes).toBeLessThan(6);
  save.stop();
});

test('what is neither confirmed nor kept is at risk, and only that', async () => {
  const { kept, store } = memory();
  let refuses = false;
  const fickle: PendingStore = { ...store, set: (k, v) => (refuses ? Promise.reject(new Error('full')) : store.set(k, v)) };
  const server = fakeServer();
  server.state.down = true;
  const { save, until } = make(server, { kept, store: fickle });
  expect(save.atRisk).toBe(false);
  save.change('one');
  expect(save.atRisk).toBe(true);
  await save.hold();
  expect(save.atRisk).toBe(false);
  refuses = true;
  save.change('two');
  await save.hold();
  await until('unreachable');
  expect(save.atRisk).toBe(true);
  server.state.down = false;
  await until('saved');
  expect(save.atRisk).toBe(false);
});

test('a browser that keeps nothing leaves everything at risk until it is confirmed', async () => {
  const { kept, store } = memory();
  const { save, until } = make(fakeServer(), { kept, store: { ...store, lasting: false } });
  save.change('one');
  await save.hold();
  expect(save.atRisk).toBe(true);
  await until('saved');
  expect(save.atRisk).toBe(false);
});
