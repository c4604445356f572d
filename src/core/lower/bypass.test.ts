/** A bypassed strand keeps its kind, and nothing that reads it breaks: with and without can always be compared. */
import fc from 'fast-check';
import { ASSETS, constructSheet, effectOf } from '../../../tests/fixtures/sheets.js';
import { LEAVES, LEAF_NAMES } from '../ir/leaves.js';
import { OPERATORS } from '../operators/catalogue.js';
import { handedOn } from '../operators/record.js';
import { scalarise } from '../passes/scalarise.js';
import { evaluate } from '../targets/reference.js';
import { strandsOf, type Effect, type Input, type Strand } from '../effect/schema.js';
import { lower } from './lower.js';
import { paramValues } from './params.js';

const RUNS = process.env.WISPEN_DEEP === undefined ? 80 : 3000;

test('any strands bypassed, in any sheet: no problem comes of it, and every kind is what it was', () => {
  const sheets = [1, 9, 23, 44, 61, 88, 117].map(
    (seed) => ({ ...constructSheet(seed, { strands: 14 }), ...ASSETS }) as unknown as Effect,
  );
  fc.assert(
    fc.property(
      fc.constantFrom(...sheets).chain((sheet) =>
        fc.tuple(
          fc.constant(sheet),
          fc.subarray(
            strandsOf(sheet).map((s) => s.id),
            { minLength: 1 },
          ),
        ),
      ),
      ([sheet, ids]) => {
        const off = {
          ...sheet,
          strands: strandsOf(sheet).map((s) => (ids.includes(s.id) ? { ...s, bypassed: true } : s)),
        } as Effect;
        const [before, after] = [lower(sheet, { build: 'live' }), lower(off, { build: 'live' })];
        expect(after.problems).toEqual([]);
        const kinds = (p: typeof before) =>
          [...p.strands].map(([id, s]) => [id, Object.values(s.ports).map((port) => port.kind)]);
        expect(kinds(after)).toEqual(kinds(before));
      },
    ),
    { seed: 20261128, numRuns: RUNS },
  );
});

const leaves = Object.fromEntries(
  LEAF_NAMES.map((l) => [l, l === 'timeRest' ? undefined : l === 'position' ? [0.3, -0.2, 0.7] : LEAVES[l].fallback]),
) as never;
function values(strands: Strand[], of: string, outputs: Record<string, Input> = {}): number[] {
  const effect = effectOf(strands, outputs);
  const program = lower(effect, { build: 'live' });
  expect(program.problems).toEqual([]);
  return evaluate(scalarise([program.strands.get(of)!.value.node]), { params: paramValues(program.params, effect), leaves })[0]!;
}
const noise: Strand = { id: 'n', name: 'N', op: 'noise', inputs: { scale: { value: 3 } } };
const off = (strand: Strand): Strand => ({ ...strand, bypassed: true });

test('what makes something of its own leaves its readers to rest: a factor of 1, a summand of 0', () => {
  const hue: Strand = {
    id: 'h',
    name: 'H',
    op: 'colour',
    inputs: { in: { value: { rgb: [0.5, 0.25, 1], intensity: 2, unit: 'factor' } } },
  };
  const by = (op: string, b: Strand) =>
    values([hue, b, { id: 'r', name: 'R', op, inputs: { a: { from: 'h' }, b: { from: 'n' } } }], 'r');
  expect(by('multiply', off(noise))).toEqual([1, 0.5, 2]);
  expect(by('add', off(noise))).toEqual([1, 0.5, 2]);
  expect(by('multiply', noise)).not.toEqual([1, 0.5, 2]);
  // A place that is not disturbed any more is the place; a mask on an output, whatever the output rests on.
  const warp: Strand = { id: 'w', name: 'W', op: 'warp', inputs: { amount: { value: 0.4 } } };
  const at = (strand: Strand) => values([strand, { ...noise, inputs: { position: { from: 'w' }, scale: { value: 3 } } }], 'n');
  expect(at(off(warp))).toEqual(values([noise], 'n'));
  expect(at(warp)).not.toEqual(values([noise], 'n'));
  const program = lower(effectOf([off(noise)], { opacity: { from: 'n' } }), { build: 'live' });
  expect([program.problems, program.outputs.has('opacity')]).toEqual([[], false]);
});

test('an operation hands on what it works on, of its own kind', () => {
  const lit: Strand = { id: 'l', name: 'L', op: 'clamp', inputs: { in: { from: 'n' }, low: { value: 0.9 } } };
  expect(values([noise, off(lit)], 'l')).toEqual(values([noise], 'n'));
  // A mix of a number with a colour is a colour: the colour is handed on.
  const hue: Strand = {
    id: 'h',
    name: 'H',
    op: 'colour',
    inputs: { in: { value: { rgb: [0.5, 0.25, 1], intensity: 1, unit: 'factor' } } },
  };
  const mix: Strand = { id: 'm', name: 'M', op: 'mix', inputs: { a: { value: 0.5 }, b: { from: 'h' } } };
  expect(values([hue, off(mix)], 'm')).toEqual([0.5, 0.25, 1]);
});

test('every operator says by its record what it hands on', () => {
  for (const o of OPERATORS) {
    const name = handedOn(o);
    expect([o.id, name === undefined || Object.hasOwn(o.inputs, name)]).toEqual([o.id, true]);
  }
  const makers = [
    'noise',
    'wave',
    'flicker',
    'cells',
    'fresnel',
    'stripe',
    'checker',
    'image',
    'position',
    'time',
    'colour',
    'number',
  ];
  expect(makers.filter((id) => handedOn(OPERATORS.find((o) => o.id === id)!) !== undefined)).toEqual([]);
});
