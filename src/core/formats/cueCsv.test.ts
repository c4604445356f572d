import fc from 'fast-check';
import type { CueKey, Value } from '../effect/schema.js';
import { easeText, readCueCsv, readEase, writeCueCsv } from './cueCsv.js';

const unit = fc.integer({ min: 0, max: 1000 }).map((n) => n / 1000);
const number = fc.integer({ min: -90000, max: 90000 }).map((n) => n / 1000);
const ease = fc.oneof(
  fc.constantFrom<CueKey['ease']>('linear', 'smooth', 'step'),
  fc.tuple(unit, number, unit, number) as fc.Arbitrary<CueKey['ease']>,
);
const forms: Record<string, fc.Arbitrary<Value>> = {
  number,
  vector: fc.tuple(number, number, number).map((v) => [...v]),
  colour: fc.tuple(unit, unit, unit, unit).map(([r, g, b, i]) => ({ rgb: [r, g, b], intensity: i + 1, unit: 'factor' as const })),
};

test.each(Object.keys(forms))('keys of a %s come back as they went', (form) => {
  const keys = fc.uniqueArray(fc.record({ time: unit, value: forms[form]!, ease }), {
    minLength: 1,
    maxLength: 9,
    selector: (k) => k.time,
  });
  fc.assert(
    fc.property(keys, (list) => {
      const sorted = [...list].sort((a, b) => a.time - b.time);
      expect(readCueCsv(writeCueCsv({ keys: list }), list[0]!.value)).toEqual({ ok: true, keys: sorted });
    }),
    { seed: 20261129, numRuns: 60 },
  );
});

test('easings as CSS writes them (CSS Easing Functions Level 1, sections 2.2 and 2.3)', () => {
  expect(readEase('ease-in')).toEqual([0.42, 0, 1, 1]);
  expect(readEase(' cubic-bezier( .55, 0,.2 , 1)')).toEqual([0.55, 0, 0.2, 1]);
  expect(readEase('step-end')).toBe('step');
  expect(easeText([0.55, 0, 0.2, 1])).toBe('cubic-bezier(0.55, 0, 0.2, 1)');
  for (const wrong of ['cubic-bezier(2, 0, 0, 1)', 'cubic-bezier(0,0,1)', 'cubic-bezier(,,,)', 'bounce', '', 'constructor'])
    expect(readEase(wrong)).toBeNull();
});

test.each([
  ['time,value\n0,1\n1,x', 'Line 3: value is “x”'],
  ['time,value\n0,', 'Line 2: value is “”'],
  ['when,value\n0,1', 'time is missing'],
  ['time,value,ease\n0,1,bounce', '“bounce” is no easing'],
  ['time,value', 'no key'],
  ['time,value\n0,1e12', 'no number that a key can have'],
])('what is wrong is said: %j', (text, why) => {
  const read = readCueCsv(text, 1);
  expect(read.ok ? '' : read.why).toContain(why);
});
