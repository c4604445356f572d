import { openEffect, type Opened } from '../../tests/fixtures/bench.js';
import { effectOf } from '../../tests/fixtures/sheets.js';
import type { Effect } from '../core/effect/schema.js';
import { findOperators } from '../core/operators/find.js';
import * as actions from './actions.js';
import { Chain, addLine } from './chain.js';

const benches: Opened[] = [];
afterEach(async () => {
  for (const b of benches.splice(0)) await b.session.close();
});

async function bench(effect: Effect) {
  const opened = await openEffect(effect);
  benches.push(opened);
  const { session, state } = opened;
  /** As the picker does it: the best that is found for the last operation. */
  const add = (typed: string, splice = false) => {
    const here = Chain.under(session).here(typed);
    const op = here.feeds ? '' : (findOperators(here.line.words)[0]?.id ?? '');
    return addLine(session, here, { op, splice });
  };
  return { ...opened, add, effect: () => state().effect, here: (typed: string) => Chain.under(session).here(typed) };
}
const shape = ({ strands, outputs, finish }: Effect) => ({ strands, outputs, alphaMode: finish.alphaMode });

test('a line of several is what they are one after the other', async () => {
  const line = await bench(effectOf([]));
  line.add(
    'scroll .05 .02; noise scale 8; Skin = normal from height strength 2; normal; Rim = fresnel width .4; max .1; opacity',
  );
  const each = await bench(effectOf([]));
  each.add('scroll .05 .02');
  each.add('noise scale 8');
  each.add('Skin = normal from height strength 2');
  actions.read(each.session, { output: 'normal' }, { link: { from: each.state().chosen! }, text: '' });
  each.add('Rim = fresnel width .4');
  each.add('max .1');
  actions.read(each.session, { output: 'opacity' }, { link: { from: each.state().chosen! }, text: '' });
  expect(shape(line.effect())).toEqual(shape(each.effect()));
  expect(line.effect().finish.alphaMode).toBe('blend');
  expect(line.state().chosen).toBe(line.effect().strands.at(-1)!.id);
  expect(line.state().notice).toContain('its finish is blend now');
});

test('it is one step: one undo takes all of it away', async () => {
  const b = await bench(effectOf([{ id: 't', name: 'Time', op: 'time' }], { emission: { from: 't' } }));
  const before = shape(b.effect());
  b.add('wave rate 2; multiply #40c0ff x3; emission');
  expect(b.effect().outputs.emission).toEqual({ from: 'multiply' });
  b.session.documents.undo();
  expect(shape(b.effect())).toEqual(before);
});

test('spliced, all of it stands between the chosen strand and who read it', async () => {
  const b = await bench(effectOf([{ id: 't', name: 'Time', op: 'time' }], { emission: { from: 't' } }));
  actions.choose(b.session, 't');
  b.add('sin; abs', true);
  expect(b.strand('sin').inputs).toEqual({ in: { from: 't' } });
  expect(b.strand('abs').inputs).toEqual({ in: { from: 'sin' } });
  expect(b.effect().outputs.emission).toEqual({ from: 'abs' });
});

test('an output reads what was made as it can: a colour by its luminance', async () => {
  const b = await bench(effectOf([]));
  b.add('colour #ff8000; opacity');
  const { opacity } = b.effect().outputs;
  expect(b.effect().strands.find((s) => 'from' in opacity! && s.id === opacity.from)?.op).toBe('luminance');
  expect(b.here('vector 1 2 3; opacity').feeds).toMatchObject({ output: 'opacity', way: { text: 'from .x' } });
});

test('a part that cannot be read says why, and nothing is added', async () => {
  const b = await bench(effectOf([]));
  expect(b.here('time; qqqq; sin').why).toBe('Nothing is called “qqqq”.');
  expect(b.here('time; multiply Nobody; sin').why).toContain('Nobody');
  expect(b.add('time; qqqq; sin')).toBeNull();
  expect(b.add('time;; sin')).toBeNull();
  expect(b.effect().strands).toEqual([]);
});
