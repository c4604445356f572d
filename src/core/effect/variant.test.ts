import { effectOf } from '../../../tests/fixtures/sheets.js';
import { readEffect } from './read.js';
import { skeletonOf } from './skeleton.js';
import { literalIn, valuesOver, withVariant } from './variant.js';
import { writeEffect } from './write.js';

const effect = () =>
  effectOf(
    [
      { id: 't', name: 'Time', op: 'time' },
      { id: 'w', name: 'Wave', op: 'wave', inputs: { time: { from: 't' }, rate: { value: 1 } } },
      { id: 'hue', name: 'Hue', op: 'colour', inputs: { in: { value: { rgb: [1, 0, 0], intensity: 1, unit: 'factor' } } } },
    ],
    { emission: { from: 'hue' } },
    {
      dials: [
        { id: 'rate', strand: 'w', input: 'rate' },
        { id: 'shape', strand: 'w', input: 'shape' },
        { id: 'hue', strand: 'hue', input: 'in' },
        { id: 'low', strand: 'w', input: 'low' },
      ],
      variants: [{ id: 'fast', name: 'Fast', values: { rate: 9, shape: 'square' } }],
    },
  );
const wave = (e: ReturnType<typeof effect>) =>
  e.strands[1] as { inputs: Record<string, unknown>; options?: Record<string, string> };

test('base < variant < override', () => {
  expect(withVariant(effect(), null)).toEqual(effect());
  expect(wave(withVariant(effect(), 'fast')).inputs.rate).toEqual({ value: 9 });
  expect(wave(withVariant(effect(), 'fast', { rate: 4 })).inputs.rate).toEqual({ value: 4 });
  expect(wave(withVariant(effect(), null, { rate: 4 })).inputs.rate).toEqual({ value: 4 });
});

test('an override of a dial that is gone, or of another kind, is passed over: the stage may be older than the effect', () => {
  for (const overrides of [
    { gone: 3 },
    { rate: [1, 2] },
    { rate: 'fast' },
    { rate: null },
    { hue: 3 },
    { rate: NaN },
    { shape: 'no such shape' },
    { shape: 3 },
  ])
    expect([overrides, withVariant(effect(), null, overrides)]).toEqual([overrides, effect()]);
  // It falls back to the variant's, not to the base's.
  expect(wave(withVariant(effect(), 'fast', { rate: 'x' })).inputs.rate).toEqual({ value: 9 });
});

test('only options make a program of its own', () => {
  const skeleton = (variant: string | null, overrides: Record<string, unknown> = {}) =>
    skeletonOf(withVariant(effect(), variant, overrides));
  expect(skeleton(null, { rate: 4, hue: { rgb: [0, 1, 0], intensity: 2, unit: 'factor' } })).toBe(skeleton(null, { rate: 5 }));
  expect(skeleton('fast')).not.toBe(skeleton(null));
  expect(wave(withVariant(effect(), 'fast')).options).toMatchObject({ shape: 'square' });
});

test('what an input rests on when the document gives nothing', () => {
  expect(literalIn(effect(), 'w', 'low')).toBe(-1);
  expect(literalIn(effect(), 'w', 'time')).toBeUndefined();
  expect([...valuesOver(effect(), 'fast', { low: 0 })].map(([d, v]) => [d.id, v])).toEqual([
    ['rate', 9],
    ['shape', 'square'],
    ['low', 0],
  ]);
});

test('a variant may be drawn in another way: what it says nothing of is the effect’s own', () => {
  const base = effect();
  const adds = { ...base, variants: [{ ...base.variants[0]!, finish: { alphaMode: 'add' as const, writesDepth: false } }] };
  expect(withVariant(adds, 'fast').finish).toEqual({ ...base.finish, alphaMode: 'add', writesDepth: false });
  expect(withVariant(adds, null)).toBe(adds);
  const read = readEffect(JSON.parse(writeEffect(adds)));
  expect(read.ok && read.effect).toEqual(adds);
  expect(readEffect({ ...adds, variants: [{ ...adds.variants[0], finish: { alphaMode: 'glass' } }] }).ok).toBe(false);
});
