/** Other states of the documents: along the steps, from a revision, and glimpsed at. */
import { openEffect, type Opened } from '../../tests/fixtures/bench.js';
import { effectOf } from '../../tests/fixtures/sheets.js';
import { setFinish } from '../core/effect/edits.js';
import { scaleProp } from '../core/scene/edits.js';
import * as actions from './actions.js';
import { statesOf } from './documents.js';

const benches: Opened[] = [];
afterEach(async () => {
  for (const b of benches.splice(0)) await b.session.close();
});
async function bench() {
  const effect = effectOf(
    [
      { id: 't', name: 'Time', op: 'time' },
      { id: 'lit', name: 'Lit', op: 'clamp', inputs: { in: { from: 't' }, low: { value: 0.2 } } },
    ],
    { emission: { from: 'lit' } },
  );
  const opened = await openEffect(effect);
  benches.push(opened);
  return { ...opened, both: () => opened.session.documents.both };
}

test('any step is gone to in one move, there and back, in both documents', async () => {
  const b = await bench();
  const { documents } = b.session;
  const seen = [b.both()];
  actions.bypass(b.session, ['lit']);
  seen.push(b.both());
  documents.editStage('Scale', (d) => scaleProp(d, { id: d.props[0]!.id, scale: [2, 2, 2] }));
  seen.push(b.both());
  documents.edit('Two sides', (d) => setFinish(d, { sides: 'both' }));
  seen.push(b.both());
  const states = statesOf(b.both(), b.state().history, 0);
  seen.forEach((both, done) => expect(states.get(done)).toEqual(both));
  for (const done of [1, 0, 3, 2, 2, 3]) {
    documents.goTo(done);
    expect(b.both()).toEqual(seen[done]);
    expect([b.state().history.past.length, b.state().history.future.length]).toEqual([done, 3 - done]);
  }
  // Nowhere is not gone to.
  documents.goTo(4);
  documents.goTo(-1);
  expect(b.both()).toEqual(seen[3]);
});

test('a revision that is restored is a step: the effect is what it was, under its own id, and undo takes it back', async () => {
  const b = await bench();
  const before = b.state().effect;
  actions.bypass(b.session, ['lit']);
  actions.remove(b.session, ['t']);
  const now = b.state().effect;
  b.session.documents.restore('Restore Evening', { ...before, id: 'another' });
  expect(b.state().effect).toEqual(before);
  expect(b.state().history.past.at(-1)!.label).toBe('Restore Evening');
  b.session.documents.undo();
  expect(b.state().effect).toEqual(now);
});

test('what is glimpsed at is on the stage and nowhere else, and an edit ends it', async () => {
  const b = await bench();
  const { compiling } = b.session;
  compiling.flush();
  const { effect, readings, program } = b.state();
  const other = { ...effect, strands: effect.strands.map((s) => ({ ...s, bypassed: true })) } as typeof effect;
  compiling.glimpse({ effect: other });
  compiling.flush();
  expect(compiling.worn.all[0]!.shown).toEqual(other);
  expect([b.state().effect, b.state().readings, b.state().program]).toEqual([effect, readings, program]);
  compiling.glimpse(null);
  compiling.flush();
  expect(compiling.worn.all[0]!.shown).toEqual(effect);
  compiling.glimpse({ effect: other });
  actions.bypass(b.session, ['lit']);
  expect(b.state().glimpse).toBeNull();
  compiling.flush();
  expect(compiling.worn.all[0]!.shown).toEqual(b.state().effect);
  expect(b.state().history.past).toHaveLength(1);
});
