import fc from 'fast-check';
import { produce } from 'immer';
import { EFFECT, steps } from '../../../tests/fixtures/edits.js';
import { constructSheet } from '../../../tests/fixtures/sheets.js';
import { lower } from '../lower/lower.js';
import { paramValues } from '../lower/params.js';
import { OPERATORS } from '../operators/catalogue.js';
import { strandsOf, type Effect } from './schema.js';
import { skeletonOf } from './skeleton.js';

const RUNS = process.env.WISPEN_DEEP === undefined ? 60 : 3000;

test('documents of one skeleton have one program, whose numbers either of them fills', () => {
  const sheets = [7, 21, 58, 63, OPERATORS.findIndex((o) => o.id === 'ramp'), OPERATORS.findIndex((o) => o.id === 'formula')].map(
    (seed) => constructSheet(seed, { strands: 10 }),
  );
  let alike = 0;
  fc.assert(
    fc.property(fc.constantFrom(...sheets), steps(Object.keys(EFFECT)), (sheet, list) => {
      let before = sheet;
      for (const [name, a, b] of list) {
        const after = produce(before, (d) => EFFECT[name]!(d as Effect, a, b));
        const [p, q] = [lower(before, { build: 'live' }), lower(after, { build: 'live' })];
        if (skeletonOf(before) === skeletonOf(after)) {
          alike++;
          expect([name, q.signature, q.params, q.problems]).toEqual([name, p.signature, p.params, p.problems]);
          expect(paramValues(p.params, after)).toEqual(paramValues(q.params, after));
        }
        before = after;
      }
    }),
    { seed: 20261128, numRuns: RUNS },
  );
  expect(alike).toBeGreaterThan(RUNS);
});

test('a number is no part of it, whatever kind of number', () => {
  const sheet = constructSheet(
    OPERATORS.findIndex((o) => o.id === 'ramp'),
    { strands: 60 },
  );
  const other = structuredClone(sheet);
  let turned = 0;
  for (const s of strandsOf(other))
    for (const input of Object.values(s.inputs ?? {})) {
      if (!input || !('value' in input)) continue;
      turned++;
      const { value } = input;
      if (typeof value === 'number') input.value = value + 1;
      else if (Array.isArray(value)) input.value = value.map((v) => v - 1);
      else if (typeof value === 'object' && 'rgb' in value) input.value = { rgb: [1, 0, 0], intensity: 7, unit: 'stops' };
      else turned--;
    }
  expect(turned).toBeGreaterThan(10);
  expect(skeletonOf(other)).toBe(skeletonOf(sheet));
});
