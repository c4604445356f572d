/** What is defined by reference grows by levels: each kind is counted before it is opened, and refused with a sentence. */
import { effectOf } from '../../../tests/fixtures/sheets.js';
import { readBundle, writeBundle } from '../formats/bundle.js';
import { lower } from '../lower/lower.js';
import { readMotif } from './motifFile.js';
import { MOST_FLAT, flat, flatCount, overgrown, recursion } from './motifs.js';
import { readEffect } from './read.js';
import { strandsOf, type Effect, type Motif, type Strand } from './schema.js';
import { tooMuch } from './tooMuch.js';

const oneUse = (motif: string, id: string, more: object = {}): Strand => ({
  ...{ id, name: id, op: 'motif' },
  inputs: { motif: { value: { text: motif } }, ...more },
});

/** Motifs, each of which uses the next so many times. */
function levels(n: number, uses: number): Motif[] {
  return Array.from({ length: n }, (_, k) => ({
    ...{ id: `m${k}`, revision: 1, name: `Level ${k}`, inputs: [{ id: 'in1', name: 'In', kind: '1' as const }] },
    strands: (k === n - 1
      ? [{ id: 'last', name: 'Last', op: 'invert', inputs: { in: { from: 'in1' } } }]
      : Array.from({ length: uses }, (__, u) =>
          oneUse(`m${k + 1}`, `u${u}`, { in1: { from: u === 0 ? 'in1' : `u${u - 1}` } }),
        )) as Motif['strands'],
    outputs: [{ id: 'out1', name: 'Out', kind: '1' as const, from: { from: k === n - 1 ? 'last' : `u${uses - 1}` } }],
  }));
}
const grown = (n: number, uses: number): Effect => ({
  ...effectOf([{ id: 'x', name: 'X', op: 'time' }]),
  strands: [oneUse('m0', 'top')] as Effect['strands'],
  outputs: { emission: { from: 'top' } },
  motifs: levels(n, uses),
});
const soon = <T>(work: () => T): T => {
  const began = performance.now();
  const result = work();
  // Opened, the smallest of those that are refused takes minutes.
  expect(performance.now() - began).toBeLessThan(5000);
  return result;
};

describe.each([
  [24, 2],
  [16, 3],
  [99, 2],
  [6, 12],
])('motifs of %i levels, each using the next %i times', (n, uses) => {
  test('are refused by every reader, with a sentence, and soon', () => {
    const effect = grown(n, uses);
    const read = soon(() => readEffect(JSON.parse(JSON.stringify(effect))));
    expect(read.ok ? [] : read.problems.map((p) => p.message)).toEqual([
      expect.stringMatching(/^With its motifs opened the sheet has .* strands; at most 5,000 can be drawn\./),
    ]);
    // One that nobody uses yet would be opened where it is used.
    const alone = soon(() => readEffect(JSON.parse(JSON.stringify({ ...effect, strands: [], outputs: {} }))));
    expect(alone.ok ? [] : alone.problems.map((p) => p.message)).toEqual([
      expect.stringMatching(/^The motif Level \d+ has .* strands/),
    ]);
    const bundle = soon(() => readBundle(writeBundle({ effects: [effect], stages: [], assets: new Map() })));
    expect(bundle).toMatchObject({ ok: false, why: expect.stringMatching(/opened the sheet has/) as string });
  });
  test('cannot come about by an edit', () => {
    const plain = { ...grown(n, uses), strands: [], outputs: {} } as Effect;
    const before = { ...plain, motifs: [] };
    expect(soon(() => tooMuch(before, plain))).toMatch(/This was not done\.$/);
  });
});

test('counting agrees with opening, for all that may be opened', () => {
  for (const [n, uses] of [
    [1, 1],
    [3, 2],
    [5, 3],
    [10, 2],
    [60, 1],
  ] as const) {
    const effect = grown(n, uses);
    const count = flatCount(effect, strandsOf(effect));
    expect(count).toBe(flat(effect).strands.length);
    expect(overgrown(effect)).toBe(count > MOST_FLAT ? expect.any(String) : null);
    expect(lower(effect, { build: 'live' }).problems).toEqual([]);
  }
});

test('a hundred motifs that lead nowhere back are walked once each', () => {
  const motifs = levels(100, 12);
  expect(soon(() => motifs.map((m) => recursion(motifs, m)))).toEqual(motifs.map(() => null));
  strandsOf(motifs[99] as unknown as Effect).push(oneUse('m0', 'back'));
  expect(soon(() => recursion(motifs, motifs[50]!))?.length).toBe(101);
});

test('a motif by itself is counted too', () => {
  const read = readMotif(
    JSON.parse(JSON.stringify({ ...levels(2, 2)[0]!, strands: Array.from({ length: 12 }, (_, k) => oneUse('m0', `u${k}`)) })),
  );
  expect(read.ok ? [] : read.problems.map((p) => p.message)).toEqual([expect.stringMatching(/uses itself/)]);
});
