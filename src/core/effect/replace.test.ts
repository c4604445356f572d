import fc from 'fast-check';
import { produce } from 'immer';
import { constructSheet, effectOf } from '../../../tests/fixtures/sheets.js';
import { lower } from '../lower/lower.js';
import { kindOfLink } from '../lower/program.js';
import { OPERATORS } from '../operators/catalogue.js';
import { readEffect } from './read.js';
import type { KindOf } from './feeding.js';
import { replacement, replaceStrand, type Replacement } from './replace.js';
import { isLink, strandsOf, type Effect } from './schema.js';

const RUNS = process.env.WISPEN_DEEP === undefined ? 300 : 20000;

/** As lowering finds them. */
function kindsOf(effect: Effect): KindOf {
  const program = lower(effect, { build: 'frozen' });
  return (link) => kindOfLink(program, link);
}
const becomes = (effect: Effect, id: string, op: string): Replacement => replacement(effect, { id, op, kindOf: kindsOf(effect) });
const replaced = (effect: Effect, id: string, op: string): Effect => {
  const how = becomes(effect, id, op);
  return produce(effect, (d) => replaceStrand(d as Effect, { id, with: how }));
};

const sheets = [5, 23, 48, 77, 110].map((seed) => constructSheet(seed, { strands: 14 }));
const anyReplacing = fc
  .constantFrom(...sheets)
  .chain((sheet) =>
    fc.tuple(
      fc.constant(sheet),
      fc.constantFrom(...strandsOf(sheet).map((s) => s.id)),
      fc.constantFrom(...OPERATORS.map((o) => o.id)),
    ),
  );

describe('any operation in the place of any other', () => {
  test('the sheet reads as before, the strand itself has no problem, and each input is moved or told as lost', () => {
    fc.assert(
      fc.property(anyReplacing, ([sheet, id, op]) => {
        const old = strandsOf(sheet).find((s) => s.id === id)!;
        const { moved, lost, strand } = becomes(sheet, id, op);
        const after = replaced(sheet, id, op);
        const read = readEffect(JSON.parse(JSON.stringify(after)));
        expect(read.ok ? [] : read.problems).toEqual([]);
        // Where it may be read is a matter of what reads it; a formula of a strand that read nothing has nothing to read.
        const own = lower(after, { build: 'frozen' }).problems.filter((p) => p.strand === id);
        expect(own.filter((p) => p.code !== 'place' && p.code !== 'formula')).toEqual([]);
        const given = Object.keys(old.inputs ?? {});
        expect(new Set(moved.values()).size).toBe(moved.size);
        for (const [from, to] of moved) expect(strand.inputs![to]).toEqual(old.inputs![from]);
        expect(lost.length).toBeGreaterThanOrEqual(given.length - moved.size);
        // Everybody else stands and reads as before.
        expect(strandsOf(after).map((s) => s.id)).toEqual(strandsOf(sheet).map((s) => s.id));
        const others = (e: Effect) =>
          strandsOf(e).flatMap((s) =>
            s.id === id ? [] : Object.entries(s.inputs ?? {}).map(([n, i]) => [s.id, n, isLink(i) ? i.from : i]),
          );
        expect(others(after)).toEqual(others(sheet));
      }),
      { seed: 20261128, numRuns: RUNS },
    );
  });

  test('its own operation in its place changes nothing and loses nothing', () => {
    for (const sheet of sheets)
      for (const { id, op } of strandsOf(sheet)) {
        expect(becomes(sheet, id, op).lost).toEqual([]);
        expect(replaced(sheet, id, op)).toEqual(sheet);
      }
  });
});

describe('what is kept', () => {
  const effect: Effect = {
    ...effectOf([
      { id: 't', name: 'Time', op: 'time' },
      { id: 'n', name: 'Gusts', op: 'noise', inputs: { position: { from: 't' } } },
      { id: 'm', name: 'Multiply', op: 'multiply', inputs: { a: { from: 'n' }, b: { value: 3 } } },
      { id: 'l', name: 'Last', op: 'clamp', inputs: { in: { from: 'm' } } },
    ]),
    dials: [{ id: 'd1', strand: 'm', input: 'b', unit: '', soft: [0, 8], scale: 'linear' }],
    variants: [{ id: 'v', name: 'Calm', values: { d1: 1 } }],
  };

  test('a product becomes a sum: both inputs, the dial and its value in a variant; a name that only said what it was says it again', () => {
    expect(becomes(effect, 'm', 'add')).toMatchObject({
      lost: [],
      strand: { name: 'Add', inputs: { a: { from: 'n' }, b: { value: 3 } } },
    });
    const after = replaced(effect, 'm', 'add');
    expect(after.dials).toEqual(effect.dials);
    expect(after.variants).toEqual(effect.variants);
  });

  test('what it worked on is worked on; a dial that has no place is named before, and is gone with its value afterwards', () => {
    const { lost, strand } = becomes(effect, 'm', 'abs');
    expect(strand.inputs).toEqual({ in: { from: 'n' } });
    expect(lost).toEqual(['the dial Multiply b']);
    const after = replaced(effect, 'm', 'abs');
    expect([after.dials, after.variants[0]!.values]).toEqual([[], {}]);
  });

  test('a name that somebody gave stays; a constant reads nothing', () => {
    const { lost, strand } = becomes(effect, 'n', 'colour');
    expect([strand.name, Object.values(strand.inputs ?? {}).filter(isLink)]).toEqual(['Gusts', []]);
    expect(lost).toEqual(['its link to Time']);
  });

  test('a time goes to a time, never to a size; where it has no place the link is told as lost', () => {
    const waves = effectOf([
      { id: 't', name: 'Time', op: 'time' },
      { id: 'w', name: 'Beat', op: 'wave', inputs: { time: { from: 't' } } },
    ]);
    expect(becomes(waves, 'w', 'scroll').strand.inputs).toEqual({ time: { from: 't' } });
    const { lost, strand } = becomes(waves, 'w', 'cells');
    expect([lost, strand.inputs]).toEqual([['its link to Time'], undefined]);
  });
});
