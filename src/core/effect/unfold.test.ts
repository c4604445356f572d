/** A formula and its strands are one computation: the graph's own sharing says so, since equal nodes are one node. */
import { produce } from 'immer';
import { effectOf } from '../../../tests/fixtures/sheets.js';
import { evaluatorOf } from '../targets/evaluate.js';
import { lower } from '../lower/lower.js';
import { paramValues } from '../lower/params.js';
import { readEffect } from './read.js';
import { strandsOf, type Effect, type Strand } from './schema.js';
import { foldStrands, unfoldFormula } from './unfold.js';

const with_ = (text: string, more: Partial<Effect> = {}): Effect =>
  effectOf(
    [
      { id: 'n', name: 'Net', op: 'noise' },
      { id: 'p', name: 'Place', op: 'position' },
      {
        id: 'f',
        name: 'Sum',
        op: 'formula',
        inputs: { a: { from: 'n' }, b: { from: 'p' }, c: { value: 0.7 }, formula: { value: { text } } },
      },
      { id: 'r', name: 'Reader', op: 'multiply', inputs: { a: { from: 'f' } } },
    ],
    { emission: { from: 'r' } },
    more,
  );

/** The values of a strand over a few places and a moment. */
function values(effect: Effect, id: string): number[] {
  const program = lower(effect, { build: 'live' });
  const { node } = program.strands.get(id)!.value;
  const position = [0, 1, 2].map((axis) => Float32Array.from({ length: 9 }, (_, k) => Math.sin(k * 1.7 + axis)));
  const evaluator = evaluatorOf(program, [node], new Set(['position', 'worldPosition'] as const));
  const leaves = { position, worldPosition: position, time: [0.37], loop: [4] };
  return evaluator.evaluate(paramValues(program.params, effect), leaves, 9)[0]!.flatMap((lane) => [...lane]);
}
const alike = (a: Effect, b: Effect) => {
  const [x, y] = [values(a, 'f'), values(b, 'f')];
  expect(y).toHaveLength(x.length);
  x.forEach((v, k) => expect(y[k]).toBeCloseTo(v, 6));
};
const ops = (effect: Effect) => strandsOf(effect).map((s) => s.op);

test.each([
  ['1 - smoothstep(0, c, a)', ['noise', 'position', 'smoothstep', 'subtract', 'multiply']],
  ['sin(time * 2 * pi) * a', ['noise', 'position', 'time', 'multiply', 'multiply', 'sin', 'multiply', 'multiply']],
  ['length(b.xz) + -a', ['noise', 'position', 'length', 'negate', 'add', 'multiply']],
  ['mod(pow(abs(a), 2), c)', ['noise', 'position', 'abs', 'power', 'modulo', 'multiply']],
  ['vec3(a, c, b.y) * 2', ['noise', 'position', 'join', 'multiply', 'multiply']],
  ['clamp(mix(a, c, .25), 0, 1) / max(a, c)', ['noise', 'position', 'mix', 'clamp', 'max', 'divide', 'multiply']],
] as const)('%s is unfolded, says the same, and folds to a formula that says the same', (text, expected) => {
  const before = with_(text);
  const open = produce(before, (d: Effect) => unfoldFormula(d, { id: 'f' }));
  expect(ops(open)).toEqual(expected);
  expect(readEffect(JSON.parse(JSON.stringify(open))).ok).toBe(true);
  alike(before, open);
  const made = strandsOf(open).filter((s) => !['n', 'p', 'r'].includes(s.id));
  expect(made.at(-1)).toMatchObject({ id: 'f', name: 'Sum' });
  if (made.some((s) => s.op === 'join')) return;
  const shut = produce(open, (d: Effect) => foldStrands(d, { ids: made.map((s) => s.id) }));
  expect(ops(shut)).toEqual(['noise', 'position', 'formula', 'multiply']);
  expect(readEffect(JSON.parse(JSON.stringify(shut))).ok).toBe(true);
  alike(before, shut);
});

test('a dial goes where its number goes, there and back; one that would be in two places keeps the formula whole', () => {
  const dials = [{ id: 'd', strand: 'f', input: 'c', soft: [0, 1] as [number, number] }];
  const before = with_('a * c + 1', { dials } as Partial<Effect>);
  const open = produce(before, (d: Effect) => unfoldFormula(d, { id: 'f' }));
  const holder = strandsOf(open).find((s) => s.id === open.dials[0]!.strand)!;
  expect([holder.op, open.dials[0]!.input]).toEqual(['multiply', 'b']);
  const made = strandsOf(open).filter((s) => !['n', 'p', 'r'].includes(s.id));
  const shut = produce(open, (d: Effect) => foldStrands(d, { ids: made.map((s) => s.id) }));
  expect(shut.dials[0]).toMatchObject({ id: 'd', strand: 'f' });
  alike(before, shut);
  expect(() => produce(with_('a * c + c', { dials } as Partial<Effect>), (d: Effect) => unfoldFormula(d, { id: 'f' }))).toThrow(
    /dial on c would have to be in several strands/,
  );
});

test.each([
  ['a', /single value already/],
  ['a < c ? a : c', /comparison/],
  ['asin(a)', /asin has no operation/],
] as const)('%s stays a formula, and why is said', (text, why) => {
  expect(() => produce(with_(text), (d: Effect) => unfoldFormula(d, { id: 'f' }))).toThrow(why);
});

test('strands that are read elsewhere, or are no arithmetic, stay strands, and why is said', () => {
  const strands: Strand[] = [
    { id: 'n', name: 'Net', op: 'noise' },
    { id: 'm', name: 'Half', op: 'multiply', inputs: { a: { from: 'n' }, b: { value: 0.5 } } },
    { id: 'q', name: 'Sum', op: 'add', inputs: { a: { from: 'm' }, b: { value: 1 } } },
    { id: 'r', name: 'Other', op: 'abs', inputs: { in: { from: 'm' } } },
  ];
  const effect = effectOf(strands);
  expect(() => produce(effect, (d: Effect) => foldStrands(d, { ids: ['m', 'q'] }))).toThrow(/Half is read elsewhere too/);
  expect(() => produce(effect, (d: Effect) => foldStrands(d, { ids: ['n', 'r'] }))).toThrow(/Net is read elsewhere too/);
  const alone = effectOf(strands.slice(0, 3));
  expect(() => produce(alone, (d: Effect) => foldStrands(d, { ids: ['n', 'm'] }))).toThrow(
    /Half is read elsewhere|no arithmetic/,
  );
  expect(() => produce(alone, (d: Effect) => foldStrands(d, { ids: ['n', 'm', 'q'] }))).toThrow(/Net is no arithmetic/);
});
