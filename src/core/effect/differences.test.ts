import { effectOf } from '../../../tests/fixtures/sheets.js';
import { stageOf } from '../../../tests/fixtures/stages.js';
import { effectDifferences, stageDifferences } from './differences.js';
import type { Strand } from './schema.js';

const strands = (): Strand[] => [
  { id: 't', name: 'Time', op: 'time' },
  { id: 'w', name: 'Hum', op: 'wave', inputs: { time: { from: 't' }, rate: { value: 2 } } },
  { id: 'g', name: 'Glow', op: 'multiply', inputs: { a: { from: 'w' }, b: { value: 3 } } },
];
const effect = (change: (s: Strand[]) => void = () => undefined, more: object = {}) => {
  const list = strands();
  change(list);
  return effectOf(list, { emission: { from: 'g' } }, more);
};

test('two that are alike have none', () => {
  expect(effectDifferences(effect(), effect())).toEqual([]);
  expect(stageDifferences(stageOf(), stageOf())).toEqual([]);
});

test('each is said once, in words, with both values', () => {
  const theirs = effect(
    (s) => {
      s[1]!.inputs!.rate = { value: 2.5 };
      s[1]!.name = 'Buzz';
      s[1]!.options = { shape: 'square' };
      s[2]!.inputs!.b = { from: 't' };
      s[2]!.bypassed = true;
      s.push({ id: 'x', name: 'Spare', op: 'number' });
    },
    { name: 'Other', loop: 6, tags: ['a'] },
  );
  expect(effectDifferences(effect(), theirs)).toEqual([
    'Name: Constructed here, Other there.',
    'Hum is called Buzz there.',
    'Hum, rate: 2 here, 2.5 there.',
    'Hum, shape: its default here, square there.',
    'Glow is bypassed there only.',
    'Glow, b: 3 here, Time there.',
    'Spare is only there.',
    'The loop differs.',
    'The tags differ.',
  ]);
});

test('another order is said as such, and so is what is only here', () => {
  expect(
    effectDifferences(
      effect((s) => s.unshift({ id: 'u', name: 'Along', op: 'uv' })),
      effect(),
    ),
  ).toEqual(['Along is only here.']);
  const turned = effectOf([
    { id: 'b', name: 'B', op: 'uv' },
    { id: 'a', name: 'A', op: 'uv' },
  ] as Strand[]);
  const straight = effectOf([
    { id: 'a', name: 'A', op: 'uv' },
    { id: 'b', name: 'B', op: 'uv' },
  ] as Strand[]);
  expect(effectDifferences(straight, turned)).toEqual(['The strands stand in another order.']);
});

test('a stage is told by its parts', () => {
  const theirs = stageOf();
  theirs.optics.exposure = 2;
  theirs.props = [];
  expect(stageDifferences(stageOf(), theirs)).toEqual(['The props differ.', 'The optics differ.']);
});
