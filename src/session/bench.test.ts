/** The open bench: documents, history, saving, compiling and readings, on a server, a worker and a renderer of the tests' own. */
import { addUnderChosen } from './chain.js';
import {
  FALLBACK,
  FakeServer,
  fakeRenderer,
  lay,
  layStage,
  openEffect,
  openOn,
  settled,
  type Opened,
} from '../../tests/fixtures/bench.js';
import { effectOf } from '../../tests/fixtures/sheets.js';
import { stageOf } from '../../tests/fixtures/stages.js';
import { setInput, setOption } from '../core/effect/edits.js';
import type { Effect } from '../core/effect/schema.js';
import { addAsset, addProp, dressProp, placeProp } from '../core/scene/edits.js';
import { whoWears } from '../core/scene/wearing.js';
import type { Readings } from '../workers/readings.js';
import * as actions from './actions.js';
import { OpenFailure } from './failure.js';
import { pendingStore } from './drafts.js';

const open: Opened[] = [];
const kept = async (opening: Promise<Opened>): Promise<Opened> => {
  const opened = await opening;
  open.push(opened);
  return opened;
};
afterEach(async () => {
  for (const { session } of open.splice(0)) await session.close();
});

const tube = (more: object = {}) =>
  effectOf(
    [
      { id: 't', name: 'Time', op: 'time' },
      { id: 'hum', name: 'Hum', op: 'wave', inputs: { time: { from: 't' }, rate: { value: 2 } } },
      { id: 'lit', name: 'Lit', op: 'clamp', inputs: { in: { from: 'hum' }, low: { value: 0.2 } } },
    ],
    { emission: { from: 'lit' } },
    more,
  );
const turn = (b: Opened, value: number) =>
  b.session.documents.edit('Turn', (d) => setInput(d, { id: 'lit', name: 'low', input: { value } }), 'turn');

describe('what an edit costs', () => {
  test('numbers change no program: the worker is told numbers, and ranges are asked for away from the page', async () => {
    const b = await kept(openEffect(tube()));
    b.session.frames.attach(fakeRenderer().renderer);
    await settled(150);
    // The worker has no places yet: it waits for them.
    b.readings.say({ kind: 'idle', number: 1 });
    const { program, problems, readings } = b.state();
    expect([b.readings.count('program'), b.readings.count('ranges')]).toEqual([1, 1]);
    for (let k = 0; k < 50; k++) turn(b, k / 50);
    b.session.compiling.flush();
    expect(b.readings.count('program')).toBe(1);
    // One question is under way; the others wait, and only the newest of them counts.
    expect(b.readings.count('ranges')).toBe(1);
    expect([b.state().program === program, b.state().problems === problems, b.state().readings === readings]).toEqual([
      true,
      true,
      true,
    ]);
    await settled(150);
    const draws = b.readings.posted.flatMap((r) => (r.kind === 'draw' ? [r] : []));
    expect(draws.at(-1)!.params).toContain(Math.fround(0.98));
  });
  test('however many edits of the sheet come in a frame, it is compiled once, under a number of its own', async () => {
    const b = await kept(openEffect(tube()));
    for (const shape of ['square', 'saw', 'triangle'])
      b.session.documents.edit('Shape', (d) => setOption(d, { id: 'hum', name: 'shape', value: shape }));
    await settled();
    const programs = b.readings.posted.flatMap((r) => (r.kind === 'program' ? [r.number] : []));
    expect(programs).toEqual([1, 2]);
  });
  test('an edit sets the store once, and once more at most when it is compiled', async () => {
    const b = await kept(openEffect(tube()));
    await b.session.saving.now();
    turn(b, 0.3);
    await settled();
    let sets = 0;
    const stop = b.session.store.subscribe(() => sets++);
    turn(b, 0.4);
    expect(sets).toBe(1);
    await settled();
    expect(sets).toBe(1);
    b.session.documents.edit('Shape', (d) => setOption(d, { id: 'hum', name: 'shape', value: 'saw' }));
    await settled();
    expect(sets).toBe(3);
    stop();
  });
  test('rows that an edit leaves alone keep their readings as they were', async () => {
    const b = await kept(openEffect(tube()));
    b.readings.say({ kind: 'ranges', turn: 1, ranges: new Map([['hum', [{ low: -1, high: 1 }]]]), measured: new Map() });
    const before = b.state().readings;
    expect(before.get('hum')!.range).toEqual([{ low: -1, high: 1 }]);
    addUnderChosen(b.session, 'noise', false);
    b.session.compiling.flush();
    const after = b.state().readings;
    for (const id of ['t', 'hum', 'lit']) expect(after.get(id)).toBe(before.get(id));
    expect(after.get('noise')).toMatchObject({ kind: '1', range: null });
  });
  test('a mesh is handed to the renderer once, however long a prop is dragged', async () => {
    const b = await kept(openEffect(tube()));
    const { renderer, count } = fakeRenderer();
    b.session.frames.attach(renderer);
    b.session.documents.editStage('Add', (d) => {
      addAsset(d, { key: 'k', asset: { sha256: 'a'.repeat(64), name: 'x.glb', type: 'model/gltf-binary', size: 1 } });
      addProp(d, { id: 'rock-1', name: 'Rock', source: { asset: 'k' }, place: [0, 0, 0], effect: null });
    });
    const [before, dressed] = [count('setStage'), count('dress')];
    for (let k = 0; k < 20; k++)
      b.session.documents.editStage('Drag', (d) => placeProp(d, { id: 'rock-1', place: [k, 0, 0] }), 'drag');
    await settled(20);
    expect(count('setStage')).toBe(before + 20);
    // The same programs on the same meshes: nothing is to be dressed.
    expect(count('dress')).toBeLessThanOrEqual(dressed + 1);
  });
  test('a sheet that cannot be worked out is said, and the bench goes on', async () => {
    const b = await kept(openEffect(tube()));
    const { worn } = b.session.compiling;
    const { update } = worn;
    worn.update = () => {
      throw new Error('too deep');
    };
    turn(b, 0.5);
    b.session.compiling.flush();
    expect(b.state().notice).toContain('too deep');
    worn.update = update;
    turn(b, 0.6);
    expect(() => b.session.compiling.flush()).not.toThrow();
    expect(b.strand('lit').inputs!.low).toEqual({ value: 0.6 });
  });
});

describe('the readings worker', () => {
  const drawn = (number: number): Readings =>
    ({
      ...{ kind: 'readings', number, time: 0, ids: ['t'], probes: [], whole: null },
      ...{
        atlas: new Uint8ClampedArray(),
        gains: new Float32Array(),
        curves: new Float32Array(),
        now: new Float32Array(),
        probed: new Float32Array(),
      },
    }) as const;
  test('pictures of a sheet that is no longer are not shown', async () => {
    const b = await kept(openEffect(tube()));
    const shown: number[] = [];
    b.session.readings.onReadings((r) => shown.push(r.number));
    b.session.documents.edit('Shape', (d) => setOption(d, { id: 'hum', name: 'shape', value: 'saw' }));
    b.session.compiling.flush();
    b.readings.say(drawn(1));
    b.readings.say(drawn(2));
    expect(shown).toEqual([2]);
  });
  test('what is asked for while it cannot draw yet is asked again as soon as it answers', async () => {
    const b = await kept(openEffect(tube()));
    await settled(150);
    expect(b.readings.count('draw')).toBe(1);
    // Meanwhile the prop's places have come, say.
    b.session.choosing.strand('hum');
    b.readings.say({ kind: 'idle', number: 1 });
    await settled(150);
    expect(b.readings.count('draw')).toBe(2);
    // And not again and again.
    b.readings.say({ kind: 'idle', number: 1 });
    await settled(150);
    expect(b.readings.count('draw')).toBe(2);
  });
  test('one that dies is said, and told everything again', async () => {
    const b = await kept(openEffect(tube()));
    b.session.frames.attach(fakeRenderer().renderer);
    const before = b.readings.posted.length;
    b.readings.die();
    expect(b.state().notice).toContain('out of memory');
    expect(b.readings.posted.slice(before).map((r) => r.kind)).toEqual(expect.arrayContaining(['program', 'probes', 'ranges']));
    await settled(150);
    expect(b.readings.posted.at(-1)!.kind).toBe('draw');
  });
  test('advice about strands that are gone is passed over', async () => {
    const b = await kept(openEffect(tube()));
    const advice = (strand: string) => ({ strand, code: 'unread', message: 'm', mend: null, level: 'note', edit: null }) as const;
    b.readings.say({ kind: 'advise', turn: 1, advice: [advice('lit'), advice('gone')] });
    expect(b.state().findings.flatMap((f) => f.strand ?? [])).toEqual(['lit']);
  });
});

describe('undo', () => {
  test('outlives a reload, whatever was done: a bypass taken back, inputs set in another order', async () => {
    let b = await kept(openEffect(tube()));
    actions.bypass(b.session, ['hum']);
    actions.bypass(b.session, ['hum']);
    b.session.documents.edit('Two', (d) => {
      setInput(d, { id: 'hum', name: 'phase', input: { value: 0.25 } });
      setInput(d, { id: 'hum', name: 'rate', input: undefined });
      setInput(d, { id: 'hum', name: 'rate', input: { value: 5 } });
    });
    await b.session.saving.now();
    b = await kept(b.reload());
    expect([b.state().notice, b.state().history.past.map((e) => e.label)]).toEqual([null, ['Bypass Hum', 'Bypass Hum', 'Two']]);
    for (let k = 0; k < 3; k++) b.session.documents.undo();
    expect(b.state().effect).toEqual({ ...tube(), id: b.state().effect.id });
  });
  test('begins anew for a document that was changed elsewhere, and says so', async () => {
    let b = await kept(openEffect(tube()));
    turn(b, 0.4);
    await b.session.saving.now();
    const path = `/api/effects/${b.state().effect.id}`;
    const theirs = JSON.parse(b.server.documents.get(path)!.text) as Effect;
    await b.session.close();
    b.server.put(path, JSON.stringify({ ...theirs, name: 'Theirs' }));
    b = await kept(openOn(b.server, b.state().effect.id));
    expect([b.state().history.past, b.state().notice]).toEqual([[], expect.stringContaining('changed elsewhere')]);
  });
  test('of a shared dial is told to the library, so that the next opening does not put the value back', async () => {
    const shared = { shared: [{ id: 'tide', name: 'Tide', value: 0.4 }] };
    const server = new FakeServer();
    layStage(server, stageOf());
    server.shared.set('tide', shared.shared[0]);
    let b = await kept(openOn(server, lay(server, tube(shared))));
    b.session.frames.attach(fakeRenderer().renderer);
    await settled();
    b.session.shared.turn('tide', 0.9);
    await settled(250);
    expect(server.shared.get('tide')).toMatchObject({ value: 0.9 });
    b.session.documents.undo();
    await settled(250);
    expect(server.shared.get('tide')).toMatchObject({ value: 0.4 });
    b = await kept(b.reload());
    b.session.frames.attach(fakeRenderer().renderer);
    await settled(20);
    expect(b.state().effect.shared[0]!.value).toBe(0.4);
    // What somebody else turned is followed, and is no step of one's own.
    server.shared.set('tide', { ...shared.shared[0], value: 0.7 });
    const steps = b.state().history.past.length;
    b = await kept(b.reload());
    b.session.frames.attach(fakeRenderer().renderer);
    await settled(20);
    expect([b.state().effect.shared[0]!.value, b.state().history.past.length]).toEqual([0.7, steps]);
  });
});

describe('opening', () => {
  test('a kept draft that cannot be read any more is kept, told and offered; the server’s is opened', async () => {
    const server = new FakeServer();
    layStage(server, stageOf());
    const id = lay(server, tube());
    const store = await pendingStore();
    const draft = { ...tube(), id, strands: [{ id: 'x', name: 'X', op: 'no such operator' }] };
    await store.set(`effect:${id}`, { base: 1, document: draft, sent: null });
    let b = await kept(openOn(server, id));
    expect(b.state().effect.name).toBe('Constructed');
    expect(b.state().asides).toEqual([
      { key: expect.any(String), why: expect.stringContaining('no such operator'), document: draft },
    ]);
    // It stays, whatever is done meanwhile, until it is let go.
    turn(b, 0.9);
    await b.session.saving.now();
    b = await kept(b.reload());
    expect(b.state().asides).toHaveLength(1);
    await b.session.saving.letGo(b.state().asides[0]!);
    b = await kept(b.reload());
    expect(b.state().asides).toEqual([]);
  });
  test.each([
    ['gone', { status: 404, text: '{}' }],
    ['refused', { status: 403, text: '{"error":"An access key is needed."}' }],
    ['broken', { status: 200, text: '{"format":"wispen-effect","version":1}' }],
    ['broken', { status: 200, text: '<html>' }],
    ['silent', null],
  ] as const)('one that fails says why: %s', async (reason, answer) => {
    const server = new FakeServer();
    layStage(server, stageOf());
    const id = lay(server, tube());
    server.broken.set(`GET /api/effects/${id}`, answer);
    const failure = await openOn(server, id).catch((error: unknown) => error);
    expect(failure).toBeInstanceOf(OpenFailure);
    expect(failure).toMatchObject({ reason, format: 'effect' });
  });
  test('a failure hands out the draft that cannot be read either', async () => {
    const server = new FakeServer();
    const store = await pendingStore();
    await store.set('effect:lost', { base: 2, document: { nothing: true }, sent: null });
    const failure = (await openOn(server, 'lost').catch((error: unknown) => error)) as OpenFailure;
    expect([failure.reason, failure.asides.map((a) => a.document)]).toEqual(['gone', [{ nothing: true }]]);
  });
  test('what is neither confirmed nor kept is at risk, nothing else', async () => {
    const b = await kept(openEffect(tube()));
    expect(b.session.saving.atRisk).toBe(false);
    turn(b, 0.5);
    expect(b.session.saving.atRisk).toBe(true);
    await b.session.saving.hold();
    expect(b.session.saving.atRisk).toBe(false);
  });
  test('a conflict whose other side cannot be taken leaves everything as it is, with a sentence', async () => {
    const b = await kept(openEffect(tube()));
    const path = `/api/effects/${b.state().effect.id}`;
    b.server.put(path, JSON.stringify({ ...tube(), id: b.state().effect.id, name: 'Theirs' }));
    turn(b, 0.5);
    await b.session.saving.now();
    expect(b.state().saved.state).toBe('conflict');
    const { fetch } = b.server;
    globalThis.fetch = (input, init) => (init?.method === 'PUT' ? Promise.reject(new Error('down')) : fetch(input, init));
    await expect(b.session.saving.takeTheirs()).resolves.toBeUndefined();
    expect([b.state().saved.state, b.state().notice]).toEqual(['conflict', expect.stringContaining('still here')]);
    globalThis.fetch = fetch;
    await b.session.saving.takeTheirs();
    expect(b.state().effect.name).toBe('Theirs');
  });
});

describe('whose props they are', () => {
  const garden = () => {
    const stage = stageOf({ id: 'garden', name: 'Garden' });
    dressProp(stage, { id: 'tube-1', effect: 'kelp' });
    addProp(stage, { id: 'tube-2', name: 'Tube', source: stage.props[0]!.source, place: [2, 0, 0], effect: 'kelp' });
    return stage;
  };
  const setUp = async () => {
    const server = new FakeServer();
    for (const stage of [stageOf(), garden()]) layStage(server, stage);
    lay(server, { ...tube(), name: 'Kelp', home: { stage: 'garden', prop: 'tube-1', viewpoint: 'front' } }, 'kelp');
    const id = lay(server, { ...tube(), name: 'Guest', home: { stage: 'garden', prop: '', viewpoint: '' } });
    const b = await kept(openOn(server, id));
    b.session.frames.attach(fakeRenderer().renderer);
    await settled();
    return b;
  };
  const worn = (b: Opened) => b.state().stage.props.map((p) => p.parts[0]?.effect);

  test('a prop of another effect is taken only when it is said', async () => {
    const b = await setUp();
    const { effect } = b.state();
    // It stands in there, and nothing is written.
    expect(whoWears(b.state().stage, effect)[0]).toMatchObject({ prop: 'tube-1', effect: effect.id });
    b.session.choosing.variant(null);
    expect([worn(b), b.state().question!.text]).toEqual([['kelp', 'kelp'], expect.stringContaining('Kelp')]);
    b.session.choosing.answer(false);
    expect([worn(b), b.state().question]).toEqual([['kelp', 'kelp'], null]);
    b.session.choosing.variant(null);
    b.session.choosing.answer(true);
    expect(worn(b)).toEqual([effect.id, 'kelp']);
  });
  test('on a copy of a stage its props are one’s own to take', async () => {
    let b = await setUp();
    await b.session.documents.standOn('garden', true);
    await b.session.saving.now();
    expect(b.rehomed()).toBe(1);
    b = await kept(b.reload());
    b.session.frames.attach(fakeRenderer().renderer);
    await settled();
    expect(b.state().stage.id).not.toBe('garden');
    b.session.choosing.variant(null);
    expect(b.state().question).toBeNull();
    expect(worn(b)).toEqual([b.state().effect.id, 'kelp']);
    expect(JSON.parse(b.server.documents.get('/api/stages/garden')!.text)).toEqual(JSON.parse(JSON.stringify(garden())));
  });
  test('another stage leaves the effect its undo, the switch among it', async () => {
    let b = await setUp();
    turn(b, 0.6);
    await b.session.documents.standOn(FALLBACK, false);
    await b.session.saving.now();
    b = await kept(b.reload());
    expect([b.state().notice, b.state().stage.id]).toEqual([null, FALLBACK]);
    expect(b.state().history.past.map((e) => e.label)).toEqual(['Turn', 'Stand on another stage']);
    b.session.documents.undo();
    expect(b.rehomed()).toBe(1);
    expect(b.state().effect.home!.stage).toBe('garden');
  });
  test('a prop that does not wear the effect is never the chosen one', async () => {
    const b = await kept(openEffect(tube()));
    b.session.documents.editStage('Add', (d) =>
      addProp(d, { id: 'bare-1', name: 'Bare', source: d.props[0]!.source, place: [3, 0, 0], effect: null }),
    );
    b.session.choosing.prop('bare-1');
    expect(b.state().prop).toBe('tube-1');
    b.session.documents.editStage('Dress', (d) => dressProp(d, { id: 'bare-1', effect: b.state().effect.id }));
    b.session.choosing.prop('bare-1');
    expect(b.state().prop).toBe('bare-1');
    b.session.documents.editStage('Bare', (d) => dressProp(d, { id: 'bare-1', effect: null }));
    expect(b.state().prop).toBe('tube-1');
  });
});

test('a peek follows its strand: it is held, locked, and ends with what it peeks at', async () => {
  const b = await kept(openEffect(tube()));
  const { renderer, count } = fakeRenderer();
  b.session.frames.attach(renderer);
  b.session.frames.peekAt('hum', false);
  expect(b.state().peek).toMatchObject({ of: 'hum', locked: false, kind: '1', lanes: 1 });
  b.session.frames.peekAt('hum', true);
  expect(b.state().peek!.locked).toBe(true);
  expect(count('wearPeek')).toBe(1);
  b.session.frames.peekAt('nobody', false);
  expect(b.state().peek!.of).toBe('hum');
  actions.remove(b.session, ['hum']);
  await settled();
  expect(b.state().peek).toBeNull();
});
