import { addUnderChosen } from './chain.js';
import { openEffect, type Opened } from '../../tests/fixtures/bench.js';
import { effectOf } from '../../tests/fixtures/sheets.js';
import { strandsOf, type Effect } from '../core/effect/schema.js';
import * as actions from './actions.js';
import { BASE, literalOf } from './showing.js';
import type { BenchState } from './state.js';
import { undoEntry } from './history.js';

const benches: Opened[] = [];
afterEach(async () => {
  for (const b of benches.splice(0)) await b.session.close();
});

/** An effect on a bench of its own. */
async function bench(effect: Effect, more: Partial<BenchState> = {}) {
  const opened = await openEffect(effect);
  benches.push(opened);
  opened.session.store.setState(more);
  return { ...opened, effect: () => opened.state().effect };
}

const tube = () =>
  effectOf(
    [
      { id: 't', name: 'Time', op: 'time' },
      { id: 'lit', name: 'Lit', op: 'clamp', inputs: { in: { from: 't' }, low: { value: 0.2 } } },
      { id: 'u', name: 'Along', op: 'uv' },
    ],
    { emission: { from: 'lit' } },
    { dials: [{ id: 'd1', strand: 'lit', input: 'low', soft: [0, 1] }], variants: [{ id: 'v', name: 'Dim', values: {} }] },
  );

test('a new strand goes under the chosen one and reads it where that makes sense', async () => {
  const b = await bench(tube());
  actions.choose(b.session, 'lit');
  expect(addUnderChosen(b.session, 'noise', false)).toBe('noise');
  expect(b.strand('noise')).toMatchObject({ name: 'Noise', inputs: { churn: { from: 'lit' } } });
  expect(b.state().chosen).toBe('noise');
  actions.choose(b.session, 'u');
  addUnderChosen(b.session, 'multiply', false);
  expect(b.strand('multiply').inputs).toEqual({ a: { from: 'u' } });
  // Two numbers go into no input of a wave: it is added unlinked.
  actions.choose(b.session, 'u');
  addUnderChosen(b.session, 'wave', false);
  expect(b.strand('wave').inputs).toBeUndefined();
});

test('a window reads the chosen strand as its value, not as an edge; a direction is not made of a number', async () => {
  const b = await bench(tube(), { chosen: 'lit' });
  addUnderChosen(b.session, 'smoothstep', true);
  expect(b.strand('smoothstep').inputs).toEqual({ in: { from: 'lit' } });
  actions.remove(b.session, ['smoothstep']);
  expect(b.effect().outputs.emission).toEqual({ from: 'lit' });
  actions.choose(b.session, 'lit');
  addUnderChosen(b.session, 'fresnel', false);
  expect(b.strand('fresnel').inputs).toBeUndefined();
});

test('spliced, it hands its result to everyone who read the chosen one', async () => {
  const b = await bench(tube(), { chosen: 'lit' });
  addUnderChosen(b.session, 'power', true);
  expect(b.effect().outputs.emission).toEqual({ from: 'power' });
});

test('on an empty sheet the first strand stands alone; names are told apart', async () => {
  const b = await bench(effectOf([]));
  addUnderChosen(b.session, 'time', false);
  addUnderChosen(b.session, 'time', false);
  expect(strandsOf(b.effect()).map((s) => [s.id, s.name])).toEqual([
    ['time', 'Time'],
    ['time2', 'Time 2'],
  ]);
});

test('a drag is one step of the history; the soft range widens for what is typed', async () => {
  const b = await bench(tube());
  for (const v of [0.3, 0.4, 5]) actions.setLiteral(b.session, 'lit', 'low', v);
  b.session.documents.endGesture();
  expect(b.state().history.past).toHaveLength(1);
  expect(b.strand('lit').inputs!.low).toEqual({ value: 5 });
  expect(b.effect().dials[0]!.soft).toEqual([0, 5]);
  expect(undoEntry(b.effect(), b.state().history.past[0]!)).toEqual({ ...tube(), id: b.effect().id });
});

test('with a variant shown, a dial changes the variant and nothing else', async () => {
  const b = await bench(tube());
  b.session.choosing.variant('v');
  actions.setLiteral(b.session, 'lit', 'low', 0.7);
  expect(b.effect().variants[0]!.values).toEqual({ d1: 0.7 });
  expect(b.strand('lit').inputs!.low).toEqual({ value: 0.2 });
  expect(literalOf(b.effect(), { variant: 'v', overrides: {} }, 'lit', 'low')).toBe(0.7);
  expect(literalOf(b.effect(), BASE, 'lit', 'low')).toBe(0.2);
  // What is no dial is the sheet's own.
  actions.setLiteral(b.session, 'lit', 'high', 0.9);
  expect(b.strand('lit').inputs!.high).toEqual({ value: 0.9 });
});

test('making a dial gives the input its default as a literal; taking it away leaves the number', async () => {
  const b = await bench(tube());
  actions.toggleDial(b.session, 'lit', 'high');
  expect(b.effect().dials[1]).toMatchObject({ strand: 'lit', input: 'high' });
  expect(b.strand('lit').inputs!.high).toEqual({ value: 1 });
  actions.toggleDial(b.session, 'lit', 'high');
  expect(b.effect().dials).toHaveLength(1);
  expect(b.strand('lit').inputs!.high).toEqual({ value: 1 });
});

test('linking an input takes its dial away; unlinking returns it to its default', async () => {
  const b = await bench(tube());
  actions.link(b.session, 'lit', 'low', { from: 't' });
  expect(b.effect().dials).toHaveLength(0);
  actions.link(b.session, 'lit', 'low', undefined);
  expect(literalOf(b.effect(), BASE, 'lit', 'low')).toBe(0);
});

test('wrapping with a dial makes strand and dial in one step', async () => {
  const b = await bench(tube());
  actions.wrap(b.session, 'lit', 'dial');
  expect(b.effect().outputs.emission).toEqual({ from: 'multiply' });
  expect(b.effect().dials[1]).toMatchObject({ strand: 'multiply', input: 'b' });
  expect(b.state().history.past).toHaveLength(1);
});

test('removing chooses the neighbour', async () => {
  const b = await bench(tube(), { chosen: 'lit' });
  actions.remove(b.session, ['lit']);
  expect(b.state().chosen).toBe('u');
  actions.moveBy(b.session, ['u'], -1);
  expect(strandsOf(b.effect()).map((s) => s.id)).toEqual(['u', 't']);
});

test('in the scope of one prop a dial turns that prop alone; it follows its variant again, or is kept as a variant', async () => {
  const b = await bench(tube(), { scope: 'prop' });
  actions.setLiteral(b.session, 'lit', 'low', 0.6);
  expect(b.strand('lit').inputs!.low).toEqual({ value: 0.2 });
  expect(b.state().overrides).toEqual({ d1: 0.6 });
  expect(literalOf(b.effect(), b.state(), 'lit', 'low')).toBe(0.6);
  actions.followVariant(b.session, b.effect().dials[0]!);
  expect(b.state().overrides).toEqual({});
  actions.setLiteral(b.session, 'lit', 'low', 0.4);
  actions.saveAsVariant(b.session, 'Faint');
  expect(b.effect().variants[1]).toEqual({ id: 'v1', name: 'Faint', values: { d1: 0.4 } });
  expect([b.state().variant, b.state().overrides]).toEqual(['v1', {}]);
  expect(literalOf(b.effect(), b.state(), 'lit', 'low')).toBe(0.4);
  // What is no dial is the sheet's own, whatever the scope.
  actions.setLiteral(b.session, 'lit', 'high', 0.9);
  expect(b.strand('lit').inputs!.high).toEqual({ value: 0.9 });
});

test('a finding is mended where its number is set: a factor, a colour’s intensity in its own unit, the stage’s bloom', async () => {
  const neon = effectOf(
    [
      { id: 'hue', name: 'Hue', op: 'colour', inputs: { in: { value: { rgb: [1, 0, 0], intensity: 1, unit: 'stops' } } } },
      { id: 'glow', name: 'Glow', op: 'intensity', inputs: { in: { from: 'hue' }, amount: { value: 2 } } },
    ],
    { emission: { from: 'glow' } },
  );
  const b = await bench(neon);
  const knob = { strand: 'glow', name: 'Glow', input: 'amount', kind: 'factor', factor: 2 } as const;
  actions.mend(b.session, { kind: 'brightness', knob, factor: 8, label: '' });
  expect(b.strand('glow').inputs!.amount).toEqual({ value: 8 });
  const colour = { strand: 'hue', name: 'Hue', input: 'in', kind: 'colour', factor: 2 } as const;
  actions.mend(b.session, { kind: 'brightness', knob: colour, factor: 8, label: '' });
  expect(b.strand('hue').inputs!.in).toEqual({ value: { rgb: [1, 0, 0], intensity: 3, unit: 'stops' } });
  b.session.documents.editStage('', (draft) => void Object.assign(draft.optics.bloom, { on: false, intensity: 0 }));
  actions.mend(b.session, { kind: 'bloom-on', label: '' });
  expect(b.state().stage.optics.bloom).toMatchObject({ on: true, intensity: 1 });
  actions.waveAside(b.session, { key: 'k', strand: null, what: '', why: '', level: 'note', mend: null });
  expect(b.effect().extra).toEqual({ dismissed: ['k'] });
  actions.recallAdvice(b.session);
  expect(b.effect().extra).toEqual({});
});

test('a dial whose input is linked is gone, and that is said; undo brings it back', async () => {
  const b = await bench(tube());
  actions.link(b.session, 'lit', 'low', { from: 't' });
  expect(b.effect().dials).toEqual([]);
  expect(b.state().notice).toBe('Lit reads Time there, so the dial Lit low is gone. Undo brings it back.');
  b.session.documents.undo();
  expect(b.effect().dials).toHaveLength(1);
});

test('the last step is compared by turns: before it and after it, and a step that is undone by hand is not taken for one', async () => {
  const b = await bench(tube());
  const before = b.effect();
  actions.remove(b.session, ['u']);
  const after = b.effect();
  b.session.documents.compare();
  expect(b.effect()).toEqual(before);
  expect(b.state().notice).toMatch(/^As it was before “Delete Along”/);
  b.session.documents.compare();
  expect(b.effect()).toEqual(after);
  expect(b.state().notice).toBeNull();
  b.session.documents.undo();
  b.session.documents.compare();
  expect(b.effect()).toEqual(before);
  // What is done while it is compared ends that, and what was said of it.
  b.session.documents.redo();
  b.session.documents.compare();
  actions.bypass(b.session, ['lit']);
  expect(b.state().notice).toBeNull();
  b.session.documents.compare();
  expect(b.effect()).toEqual(before);
});
