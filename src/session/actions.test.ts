import { createStore } from 'zustand/vanilla';
import { effectOf } from '../../tests/fixtures/sheets.js';
import { stageOf } from '../../tests/fixtures/stages.js';
import { readStrands } from '../core/analysis/reading.js';
import { strandsOf, type Effect } from '../core/effect/schema.js';
import type { Stage } from '../core/formats/stage.js';
import { lower } from '../core/lower/lower.js';
import type { Finding } from '../core/analysis/findings.js';
import * as actions from './actions.js';
import type { BenchSession, BenchState } from './bench.js';
import { EMPTY_HISTORY, record, seal, undoEntry } from './history.js';

/** A bench without a page: the documents and their history, which is all that the actions touch. */
function bench(effect: Effect, more: Partial<BenchState> = {}) {
  const store = createStore<BenchState>(
    () =>
      ({
        effect,
        variant: null,
        chosen: null,
        overrides: {},
        scope: 'variant',
        prop: 'tube-1',
        stage: stageOf(),
        history: EMPTY_HISTORY,
        readings: readStrands(lower(effect, { build: 'live' }), effect.loop),
        ...more,
      }) as BenchState,
  );
  const session = {
    store,
    edit(label: string, recipe: (draft: Effect) => void, mergeKey: string | null = null) {
      const state = store.getState();
      const result = record(state.history, 'effect', state.effect, label, mergeKey, recipe as (d: unknown) => void);
      if (!result) return;
      const readings = readStrands(lower(result.value, { build: 'live' }), result.value.loop);
      store.setState({ effect: result.value, history: result.history as BenchState['history'], readings });
    },
    choose: (chosen: string | null) => store.setState({ chosen }),
    editStage(_: string, recipe: (draft: Stage) => void) {
      const stage = structuredClone(store.getState().stage);
      recipe(stage);
      const part = stage.props.find((p) => p.id === store.getState().prop)?.parts[0];
      store.setState({ stage, variant: part?.variant ?? null, overrides: part?.overrides ?? {} });
    },
    endGesture: () => store.setState((s) => ({ history: seal(s.history) })),
  } as unknown as BenchSession;
  return {
    session,
    effect: () => store.getState().effect,
    state: () => store.getState(),
    strand: (id: string) => strandsOf(store.getState().effect).find((s) => s.id === id)!,
  };
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

test('a new strand goes under the chosen one and reads it by the first input that takes it', () => {
  const b = bench(tube());
  actions.choose(b.session, 'lit');
  expect(actions.addUnderChosen(b.session, 'noise', false)).toBe('noise');
  expect(b.strand('noise')).toMatchObject({ name: 'Noise', inputs: { position: { from: 'lit' } } });
  expect(b.state().chosen).toBe('noise');
  actions.choose(b.session, 'u');
  actions.addUnderChosen(b.session, 'multiply', false);
  expect(b.strand('multiply').inputs).toEqual({ a: { from: 'u' } });
  // Two numbers go into no input of a wave: it is added unlinked.
  actions.choose(b.session, 'u');
  actions.addUnderChosen(b.session, 'wave', false);
  expect(b.strand('wave').inputs).toBeUndefined();
});

test('a window reads the chosen strand as its value, not as an edge; a direction is not made of a number', () => {
  const b = bench(tube(), { chosen: 'lit' });
  actions.addUnderChosen(b.session, 'smoothstep', true);
  expect(b.strand('smoothstep').inputs).toEqual({ in: { from: 'lit' } });
  actions.remove(b.session, 'smoothstep');
  expect(b.effect().outputs.emission).toEqual({ from: 'lit' });
  actions.choose(b.session, 'lit');
  actions.addUnderChosen(b.session, 'fresnel', false);
  expect(b.strand('fresnel').inputs).toBeUndefined();
});

test('spliced, it hands its result to everyone who read the chosen one', () => {
  const b = bench(tube(), { chosen: 'lit' });
  actions.addUnderChosen(b.session, 'power', true);
  expect(b.effect().outputs.emission).toEqual({ from: 'power' });
});

test('on an empty sheet the first strand stands alone; names are told apart', () => {
  const b = bench(effectOf([]));
  actions.addUnderChosen(b.session, 'time', false);
  actions.addUnderChosen(b.session, 'time', false);
  expect(strandsOf(b.effect()).map((s) => [s.id, s.name])).toEqual([
    ['time', 'Time'],
    ['time2', 'Time 2'],
  ]);
});

test('a drag is one step of the history; the soft range widens for what is typed', () => {
  const b = bench(tube());
  for (const v of [0.3, 0.4, 5]) actions.setLiteral(b.session, 'lit', 'low', v);
  b.session.endGesture();
  expect(b.state().history.past).toHaveLength(1);
  expect(b.strand('lit').inputs!.low).toEqual({ value: 5 });
  expect(b.effect().dials[0]!.soft).toEqual([0, 5]);
  expect(undoEntry(b.effect(), b.state().history.past[0]!)).toEqual(tube());
});

test('with a variant shown, a dial changes the variant and nothing else', () => {
  const b = bench(tube(), { variant: 'v' });
  actions.setLiteral(b.session, 'lit', 'low', 0.7);
  expect(b.effect().variants[0]!.values).toEqual({ d1: 0.7 });
  expect(b.strand('lit').inputs!.low).toEqual({ value: 0.2 });
  expect(actions.literalOf(b.effect(), { variant: 'v', overrides: {} }, 'lit', 'low')).toBe(0.7);
  expect(actions.literalOf(b.effect(), actions.BASE, 'lit', 'low')).toBe(0.2);
  // What is no dial is the sheet's own.
  actions.setLiteral(b.session, 'lit', 'high', 0.9);
  expect(b.strand('lit').inputs!.high).toEqual({ value: 0.9 });
});

test('making a dial gives the input its default as a literal; taking it away leaves the number', () => {
  const b = bench(tube());
  actions.toggleDial(b.session, 'lit', 'high');
  expect(b.effect().dials[1]).toMatchObject({ strand: 'lit', input: 'high' });
  expect(b.strand('lit').inputs!.high).toEqual({ value: 1 });
  actions.toggleDial(b.session, 'lit', 'high');
  expect(b.effect().dials).toHaveLength(1);
  expect(b.strand('lit').inputs!.high).toEqual({ value: 1 });
});

test('linking an input takes its dial away; unlinking returns it to its default', () => {
  const b = bench(tube());
  actions.link(b.session, 'lit', 'low', { from: 't' });
  expect(b.effect().dials).toHaveLength(0);
  actions.link(b.session, 'lit', 'low', undefined);
  expect(actions.literalOf(b.effect(), actions.BASE, 'lit', 'low')).toBe(0);
});

test('wrapping with a dial makes strand and dial in one step', () => {
  const b = bench(tube());
  actions.wrap(b.session, 'lit', 'dial');
  expect(b.effect().outputs.emission).toEqual({ from: 'multiply' });
  expect(b.effect().dials[1]).toMatchObject({ strand: 'multiply', input: 'b' });
  expect(b.state().history.past).toHaveLength(1);
});

test('removing chooses the neighbour', () => {
  const b = bench(tube(), { chosen: 'lit' });
  actions.remove(b.session, 'lit');
  expect(b.state().chosen).toBe('u');
  actions.moveBy(b.session, 'u', -1);
  expect(strandsOf(b.effect()).map((s) => s.id)).toEqual(['u', 't']);
});

test('in the scope of one prop a dial turns that prop alone; it follows its variant again, or is kept as a variant', () => {
  const b = bench(tube(), { scope: 'prop' });
  actions.setLiteral(b.session, 'lit', 'low', 0.6);
  expect(b.strand('lit').inputs!.low).toEqual({ value: 0.2 });
  expect(b.state().overrides).toEqual({ d1: 0.6 });
  expect(actions.literalOf(b.effect(), b.state(), 'lit', 'low')).toBe(0.6);
  actions.followVariant(b.session, b.effect().dials[0]!);
  expect(b.state().overrides).toEqual({});
  actions.setLiteral(b.session, 'lit', 'low', 0.4);
  actions.saveAsVariant(b.session, 'Faint');
  expect(b.effect().variants[1]).toEqual({ id: 'v1', name: 'Faint', values: { d1: 0.4 } });
  expect([b.state().variant, b.state().overrides]).toEqual(['v1', {}]);
  expect(actions.literalOf(b.effect(), b.state(), 'lit', 'low')).toBe(0.4);
  // What is no dial is the sheet's own, whatever the scope.
  actions.setLiteral(b.session, 'lit', 'high', 0.9);
  expect(b.strand('lit').inputs!.high).toEqual({ value: 0.9 });
});

test('a finding is mended where its number is set: a factor, a colour’s intensity in its own unit, the stage’s bloom', () => {
  const neon = effectOf(
    [
      { id: 'hue', name: 'Hue', op: 'colour', inputs: { in: { value: { rgb: [1, 0, 0], intensity: 1, unit: 'stops' } } } },
      { id: 'glow', name: 'Glow', op: 'intensity', inputs: { in: { from: 'hue' }, amount: { value: 2 } } },
    ],
    { emission: { from: 'glow' } },
  );
  const b = bench(neon, { stage: stageOf() });
  const finding = (mend: Finding['mend']): Finding => ({ key: 'k', strand: null, what: '', why: '', level: 'caution', mend });
  const knob = { strand: 'glow', name: 'Glow', input: 'amount', kind: 'factor', factor: 2 } as const;
  actions.mend(b.session, finding({ kind: 'brightness', knob, factor: 8, label: '' }));
  expect(b.strand('glow').inputs!.amount).toEqual({ value: 8 });
  const colour = { strand: 'hue', name: 'Hue', input: 'in', kind: 'colour', factor: 2 } as const;
  actions.mend(b.session, finding({ kind: 'brightness', knob: colour, factor: 8, label: '' }));
  expect(b.strand('hue').inputs!.in).toEqual({ value: { rgb: [1, 0, 0], intensity: 3, unit: 'stops' } });
  b.session.editStage('', (draft) => void Object.assign(draft.optics.bloom, { on: false, intensity: 0 }));
  actions.mend(b.session, finding({ kind: 'bloom-on', label: '' }));
  expect(b.state().stage.optics.bloom).toMatchObject({ on: true, intensity: 1 });
  actions.waveAside(b.session, finding(null));
  expect(b.effect().extra).toEqual({ dismissed: ['k'] });
  actions.recallAdvice(b.session);
  expect(b.effect().extra).toEqual({});
});
