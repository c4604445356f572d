import fc from 'fast-check';
import { produce } from 'immer';
import { constructSheet, effectOf } from '../../../tests/fixtures/sheets.js';
import { lower } from '../lower/lower.js';
import { readEffect } from './read.js';
import {
  bypassRun,
  copyRun,
  deleteRun,
  hindrance,
  inOrder,
  moveRun,
  pasteRun,
  readRun,
  sectionRun,
  writeRun,
  type Run,
} from './runs.js';
import { strandsOf, type Effect } from './schema.js';

const RUNS = process.env.WISPEN_DEEP === undefined ? 60 : 2000;
const sheets = [3, 17, 40, 71, 102].map((seed) => constructSheet(seed, { strands: 14 }));
/** A sheet, some of its strands, and a place under one of them. */
const someOf = fc.constantFrom(...sheets).chain((sheet) =>
  fc.record({
    sheet: fc.constant(sheet),
    picks: fc.subarray(
      strandsOf(sheet).map((s) => s.id),
      { minLength: 1 },
    ),
    under: fc.nat(),
  }),
);
const valid = (effect: Effect) => {
  const read = readEffect(JSON.parse(JSON.stringify(effect)));
  expect(read.ok ? [] : read.problems).toEqual([]);
};
const throughText = (run: Run): Run => {
  const read = readRun(writeRun(run));
  if (!read.ok) throw new Error(read.why);
  return read.run;
};

describe('copying and pasting', () => {
  test('under themselves: the same values of the same things, with ids and names of their own', () => {
    fc.assert(
      fc.property(someOf, ({ sheet, picks }) => {
        const ids = inOrder(sheet, picks);
        let fresh: string[] = [];
        const after = produce(sheet, (d) => {
          fresh = pasteRun(d as Effect, { run: throughText(copyRun(sheet, picks)), after: ids[ids.length - 1]! }).ids;
        });
        valid(after);
        const names = strandsOf(after).map((s) => s.name);
        expect(new Set(names).size).toBe(names.length);
        // Frozen, equal values are one node.
        const { strands } = lower(after, { build: 'frozen' });
        ids.forEach((id, k) => expect([id, strands.get(fresh[k]!)!.value.node]).toEqual([id, strands.get(id)!.value.node]));
      }),
      { seed: 20261128, numRuns: RUNS },
    );
  });
  test('anywhere, and in other sheets: the sheet stays one that can be read; what found nothing to read is counted', () => {
    fc.assert(
      fc.property(someOf, someOf, (from, into) => {
        const run = throughText(copyRun(from.sheet, from.picks));
        const strands = strandsOf(into.sheet);
        const after = strands[into.under % strands.length]!.id;
        let lost = 0;
        let added: readonly string[] = [];
        const done = produce(into.sheet, (d) => void ({ lost, ids: added } = pasteRun(d as Effect, { run, after })));
        valid(done);
        expect(strandsOf(done).length).toBe(strands.length + from.picks.length);
        const links = strandsOf(done)
          .filter((s) => added.includes(s.id))
          .flatMap((s) => Object.values(s.inputs ?? {}).filter((i) => i && 'from' in i));
        const before =
          run.outer.length + run.strands.flatMap((s) => Object.values(s.inputs ?? {}).filter((i) => i && 'from' in i)).length;
        expect(links.length + lost).toBe(before);
      }),
      { seed: 20261128, numRuns: RUNS },
    );
  });
  const lamp = effectOf(
    [
      { id: 't', name: 'Time', op: 'time' },
      { id: 'hum', name: 'Hum', op: 'wave', inputs: { time: { from: 't' }, rate: { value: 2 } } },
      { id: 'lit', name: 'Lit', op: 'clamp', inputs: { in: { from: 'hum' }, low: { value: 0.2 } } },
    ],
    { emission: { from: 'lit' } },
    { dials: [{ id: 'd1', strand: 'hum', input: 'rate', label: 'Hum rate', unit: 'Hz', soft: [0, 10] }] },
  );
  test('dials come along under ids of their own; a link to the outside finds the strand of its name in another sheet', () => {
    const other = effectOf([
      { id: 'clock', name: 'Time', op: 'time' },
      { id: 't', name: 'Somewhere', op: 'uv' },
    ]);
    let pasted: { ids: string[]; lost: number } = { ids: [], lost: 0 };
    const done = produce(other, (d) => void (pasted = pasteRun(d as Effect, { run: copyRun(lamp, ['lit', 'hum']), after: 't' })));
    expect(pasted).toEqual({ ids: ['wave', 'clamp'], lost: 0 });
    // A strand of the same id is another thing here.
    expect(strandsOf(done)[2]!.inputs).toEqual({ time: { from: 'clock' }, rate: { value: 2 } });
    expect(done.dials).toEqual([{ ...lamp.dials[0]!, strand: 'wave' }]);
    const twice = produce(lamp, (d) => void pasteRun(d as Effect, { run: copyRun(lamp, ['hum']), after: 'lit' }));
    expect(twice.dials.map((d) => d.label)).toEqual(['Hum rate', 'Hum rate 2']);
    expect(twice.dials.map((d) => [d.id, d.strand])).toEqual([
      ['d1', 'hum'],
      ['d2', 'wave'],
    ]);
    expect(strandsOf(twice).map((s) => s.name)).toEqual(['Time', 'Hum', 'Lit', 'Hum 2']);
  });
  test('texts that are no strands are refused with a sentence', () => {
    const why = (text: string) => {
      const read = readRun(text);
      return read.ok ? null : read.why;
    };
    const run = copyRun(lamp, ['hum']);
    expect(why('hello')).toBe('What is on the clipboard is not strands.');
    expect(why('null')).toBe('What is on the clipboard is not strands.');
    expect(why('{"format":"wispen-effect"}')).toBe('What is on the clipboard is not strands.');
    expect(why(JSON.stringify({ ...run, version: 9 }))).toBe('These strands are of a newer version of Wispen.');
    expect(why(JSON.stringify({ ...run, strands: [{ ...run.strands[0], op: 'nonesuch' }] }))).toMatch(
      /^The strands cannot be pasted\. .*nonesuch/,
    );
    expect(why(JSON.stringify({ ...run, outer: [{ ...run.outer[0], input: 'constructor' }] }))).toMatch(/written wrongly/);
    expect(why(JSON.stringify({ ...run, outer: [{ strand: 'hum' }] }))).toMatch(/written wrongly/);
  });
});

test('deleting, bypassing and moving runs leave a sheet that can be read, the run in its order', () => {
  fc.assert(
    fc.property(someOf, fc.constantFrom(-1 as const, 1 as const), ({ sheet, picks }, rows) => {
      const ids = inOrder(sheet, picks);
      valid(produce(sheet, (d) => deleteRun(d as Effect, { ids: picks })));
      const off = produce(sheet, (d) => bypassRun(d as Effect, { ids: picks }));
      expect(
        strandsOf(off)
          .filter((s) => s.bypassed)
          .map((s) => s.id),
      ).toEqual(ids);
      expect(produce(off, (d) => bypassRun(d as Effect, { ids: picks }))).toEqual(sheet);
      const moved = produce(sheet, (d) => moveRun(d as Effect, { ids: picks, rows }));
      valid(moved);
      expect(inOrder(moved, picks)).toEqual(ids);
      const why = hindrance(sheet, picks, rows);
      const order = strandsOf(sheet).map((s) => s.id);
      const end = order.indexOf(rows < 0 ? ids[0]! : ids[ids.length - 1]!) + rows;
      // It moves where nothing hinders it, and by one row.
      if (why || end < 0 || end >= order.length) expect(moved).toBe(sheet);
      else for (const id of ids) expect(strandsOf(moved).findIndex((s) => s.id === id)).toBe(order.indexOf(id) + rows);
      if (why) {
        // What is named does read it, or is read by it.
        const reads = (a: string, b: string) =>
          Object.values(strandsOf(sheet).find((s) => s.id === a)!.inputs ?? {}).some((i) => i && 'from' in i && i.from === b);
        expect(rows < 0 ? reads(why.strand, why.other) : reads(why.other, why.strand)).toBe(true);
      }
    }),
    { seed: 20261128, numRuns: RUNS },
  );
});

test('a section of some strands: what comes after them stays where it was', () => {
  const sheet = { ...sheets[0]!, sections: [{ title: 'All', first: strandsOf(sheets[0]!)[0]!.id }] } as Effect;
  const order = strandsOf(sheet).map((s) => s.id);
  const done = produce(sheet, (d) => sectionRun(d as Effect, { ids: order.slice(2, 4), title: 'Rim' }));
  valid(done);
  const heads = new Map(done.sections.map((s) => [s.first, s.title]));
  const sectionOf = (id: string) => heads.get(order.slice(0, order.indexOf(id) + 1).findLast((o) => heads.has(o))!);
  expect(order.slice(0, 6).map(sectionOf)).toEqual(['All', 'All', 'Rim', 'Rim', 'All', 'All']);
});
