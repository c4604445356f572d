/** Every mend that advice offers, of constructed sheets with motifs and of starters, is applied: something changes, and the finding goes. */
import { produce } from 'immer';
import { constructSheet, effectOf } from '../../../tests/fixtures/sheets.js';
import { STARTERS, starter } from '../../../tests/fixtures/starters.js';
import { applyMend } from '../effect/mends.js';
import { NoMotif, makeMotif } from '../effect/motifMaking.js';
import { readEffect } from '../effect/read.js';
import { strandsOf, type Effect, type Motif, type Strand } from '../effect/schema.js';
import { lower } from '../lower/lower.js';
import { kindOfLink } from '../lower/program.js';
import { advise, type Advice } from './advice.js';
import { measuredWhereOpen } from './measure.js';
import { readRanges, readStrands } from './reading.js';

const DEEP = process.env.WISPEN_DEEP !== undefined;
const adviceOn = (effect: Effect): Advice[] => advise(effect, lower(effect, { build: 'live' }));

/** What is wrong after each mend that was right before it. */
function checked(effect: Effect): number {
  const found = adviceOn(effect).filter((a) => a.edit);
  for (const { code, strand, message, edit } of found) {
    const mended = produce(effect, (draft) => applyMend(draft, edit!));
    expect([message, mended === effect]).toEqual([message, false]);
    const read = readEffect(JSON.parse(JSON.stringify(mended)));
    expect([message, read.ok ? [] : read.problems.map((p) => p.message)]).toEqual([message, []]);
    const left = adviceOn(mended).filter((a) => a.code === code && a.strand === strand && a.message === message);
    expect([message, edit!.label, left]).toEqual([message, edit!.label, []]);
  }
  return found.length;
}

/** The same sheet with some of its strands in a motif, and that in another. */
function wrapped(sheet: Effect, seed: number): Effect {
  const within = (effect: Effect, ids: readonly string[], id: string): Effect => {
    const program = lower(effect, { build: 'live' });
    try {
      return produce(effect, (d) => void makeMotif(d, { ids, id, name: id, kindOf: (link) => kindOfLink(program, link) }));
    } catch (error) {
      if (!(error instanceof NoMotif)) throw error;
      return effect;
    }
  };
  const ids = strandsOf(sheet).map((s) => s.id);
  const once = within(sheet, ids.slice(seed % 3, (seed % 3) + 5), 'inner');
  return within(
    once,
    strandsOf(once)
      .map((s) => s.id)
      .slice(0, 4),
    'outer',
  );
}

test(`constructed sheets, as they are and in motifs`, () => {
  let mends = 0;
  for (let seed = 1; seed <= (DEEP ? 400 : 8); seed++) {
    const sheet = constructSheet(seed, { strands: 14, tame: true });
    mends += checked(sheet) + checked(wrapped(sheet, seed));
  }
  expect(mends).toBeGreaterThan(3);
});

test.each(STARTERS)('%s', (name) => void checked(starter(name)));

test('no finding and no range prints a number that nobody could mean', () => {
  for (const name of STARTERS) {
    const effect = starter(name);
    const program = lower(effect, { build: 'live' });
    for (const { message } of adviceOn(effect)) expect(message).not.toMatch(/e\+?\d\d|Infinity|NaN/);
    const ranges = readStrands(program, effect.loop);
    for (const [id, { range }] of ranges)
      for (const { low, high } of range!)
        for (const x of [low, high]) expect([id, x, Number.isFinite(x) && Math.abs(x) > 1e9]).toEqual([id, x, false]);
  }
  // An exponential of a gap that goes far behind: what is proved of it says nothing, so what was measured is told.
  const tank = starter('tank-water');
  const program = lower(tank, { build: 'live' });
  const measured = measuredWhereOpen(program, tank, readRanges(program, program.paramBounds, tank.loop));
  expect(measured.get('deepness')!.low).toBeGreaterThan(-1e3);
});

test('what moves within a motif, and what it is given, is closed there', () => {
  const motif = (id: string, strands: Strand[], from: string): Motif => ({
    ...{ id, revision: 1, name: id, inputs: [{ id: 'speed', name: 'Speed', kind: '1' }] },
    outputs: [{ id: 'out1', name: 'Out', kind: '1', from: { from } }],
    strands: strands as Motif['strands'],
  });
  const use = (of: string, id: string, more: object): Strand => ({
    ...{ id, name: id, op: 'motif' },
    inputs: { motif: { value: { text: of } }, ...more },
  });
  const effect = effectOf(
    [
      use('outer', 'one', { in1: { value: 0.3 } }),
      { id: 'own', name: 'Own', op: 'wave', inputs: { rate: { value: 0.7 } } },
      { id: 'both', name: 'Both', op: 'add', inputs: { a: { from: 'one' }, b: { from: 'own' } } },
    ],
    { emission: { from: 'both' } },
    {
      motifs: [
        motif('outer', [use('inner', 'in', { in1: { from: 'speed' } })], 'in'),
        motif(
          'inner',
          [
            { id: 'hum', name: 'Hum', op: 'wave', inputs: { rate: { value: 0.45 } } },
            { id: 'given', name: 'Given', op: 'wave', inputs: { rate: { from: 'speed' } } },
            { id: 'sum', name: 'Sum', op: 'add', inputs: { a: { from: 'hum' }, b: { from: 'given' } } },
          ],
          'sum',
        ),
      ],
    },
  );
  const jump = adviceOn(effect).find((a) => a.code === 'loop-jumps')!;
  if (jump.edit) {
    expect(jump.edit.label).toMatch(/^Close .* over the loop$/);
    const mended = produce(effect, (draft) => applyMend(draft, jump.edit!));
    expect(adviceOn(mended).find((a) => a.code === 'loop-jumps')).toBeUndefined();
  }
  // With a rate that is known, there is one; and all that use the motif follow.
  const known = structuredClone(effect);
  (known.strands as Strand[])[0]!.inputs!.in1 = { value: 0.25 };
  const found = adviceOn(known).find((a) => a.code === 'loop-jumps')!;
  expect(found.edit?.label).toBe('Close one, in, Hum and Own over the loop');
  const mended = produce(known, (draft) => applyMend(draft, found.edit!));
  expect(adviceOn(mended).find((a) => a.code === 'loop-jumps')).toBeUndefined();
  expect(mended.motifs.find((m) => m.id === 'inner')!.revision).toBe(2);
});
