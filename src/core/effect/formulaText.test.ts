import { effectOf } from '../../../tests/fixtures/sheets.js';
import { lower } from '../lower/lower.js';
import { readFormula, shownFormula, writeFormula } from './formulaText.js';
import { strandsOf, type Strand } from './schema.js';

const effect = effectOf([
  { id: 'w', name: 'Rim width', op: 'number' },
  { id: 'g', name: 'Gap', op: 'depthGap' },
  { id: 'g2', name: 'Gap', op: 'depthGap' },
  { id: 'm', name: 'Mix', op: 'number' },
  {
    id: 'f',
    name: 'Line',
    op: 'formula',
    inputs: { a: { from: 'g' }, b: { value: 0.3 }, formula: { value: { text: 'smoothstep(0, b, a)' } } },
  },
  { id: 'below', name: 'Below', op: 'number' },
]);
const line = strandsOf(effect).find((s) => s.id === 'f')!;
const write = (typed: string): Strand | string => {
  const read = readFormula(effect, line, typed);
  if (!read.ok) return `${read.message} @${read.at}`;
  const draft = structuredClone(effect);
  writeFormula(draft, { id: 'f', inputs: read.inputs });
  return strandsOf(draft).find((s) => s.id === 'f')!;
};

test('a formula is shown with the names of its strands, and its own numbers by their letters', () => {
  expect(shownFormula(effect, line)).toBe('smoothstep(0, b, gap)');
});

test('what is typed with names is kept with letters: links stay on their letters, numbers stay', () => {
  expect(write('1 - smoothstep(0, rimWidth + b, gap)')).toMatchObject({
    inputs: {
      a: { from: 'g' },
      b: { value: 0.3 },
      c: { from: 'w' },
      formula: { value: { text: '1 - smoothstep(0, c + b, a)' } },
    },
  });
  // Two of one name are told apart, and a name that is a function's word gets a mark.
  expect(write('gap2 * mix_')).toMatchObject({ inputs: { formula: { value: { text: 'a * b' } } } });
});

test('what is typed comes back as it was, and a renamed strand shows its new name', () => {
  const made = write('rimWidth.x * gap + pi') as Strand;
  const draft = {
    ...structuredClone(effect),
    strands: effect.strands.map((s) => ((s as Strand).id === 'f' ? made : s)),
  } as typeof effect;
  expect(shownFormula(draft, made)).toBe('rimWidth.x * gap + pi');
  strandsOf(draft)[0]!.name = 'Halo';
  expect(shownFormula(draft, made)).toBe('halo.x * gap + pi');
});

test('a strand that is not above, and what cannot be read, are told with their place', () => {
  expect(write('gap + below')).toBe('there is no strand called below above this one @6');
  expect(write('gap +')).toMatch(/the formula ends where a value is needed @5/);
});

test('a new letter begins as a number of its own', () => {
  expect(write('gap * d')).toMatchObject({ inputs: { a: { from: 'g' }, d: { value: 0 } } });
});

test('names go by any case, and a strand’s further values by its name and theirs', () => {
  const strands = [{ id: 'n', name: 'Net', op: 'cells' }, ...strandsOf(effect)];
  const more = { ...effect, strands } as typeof effect;
  const read = readFormula(more, line, 'NET.border * net + Gap2');
  if (!read.ok) throw new Error(read.message);
  expect(read.inputs).toEqual({
    a: { from: 'n', port: 'border' },
    b: { from: 'n' },
    c: { from: 'g2' },
    formula: { value: { text: 'a * b + c' } },
  });
  const draft = structuredClone(more);
  writeFormula(draft, { id: 'f', inputs: read.inputs });
  const made = strandsOf(draft).find((s) => s.id === 'f')!;
  expect(shownFormula(draft, made)).toBe('net.border * net + gap2');
  // A part of a value is no further value of it.
  expect(readFormula(more, line, 'gap.x')).toMatchObject({ ok: true, inputs: { formula: { value: { text: 'a.x' } } } });
});

test('a letter that took a part of a strand stays that strand’s', () => {
  const inputs = { a: { from: 'g', part: 'x' }, formula: { value: { text: 'a' } } };
  const read = readFormula(effect, { ...line, inputs }, 'gap2 + gap.x');
  expect(read).toMatchObject({
    ok: true,
    inputs: { a: { from: 'g' }, b: { from: 'g2' }, formula: { value: { text: 'b + a.x' } } },
  });
});

test('places go by their names, whatever the case; a strand that is called so goes first, and the two are told apart', () => {
  expect(write('sin(TIME * 2) * Position.y + uv.x')).toMatchObject({
    inputs: { formula: { value: { text: 'sin(time * 2) * position.y + uv.x' } } },
  });
  const named = effectOf([
    { id: 't', name: 'Time', op: 'number' },
    { id: 'f', name: 'Sum', op: 'formula', inputs: { a: { from: 't' }, formula: { value: { text: 'a + time' } } } },
  ]);
  const sum = strandsOf(named)[1]!;
  expect(shownFormula(named, sum)).toBe('time + plain_time');
  const read = readFormula(named, sum, 'time + plain_time');
  expect(read).toEqual({ ok: true, inputs: { a: { from: 't' }, formula: { value: { text: 'a + time' } } } });
});

test('a formula that calls a place says what strands of it would', () => {
  const both = effectOf([
    { id: 'p', name: 'Place', op: 'position' },
    { id: 't', name: 'Clock', op: 'time' },
    {
      id: 'x',
      name: 'Read',
      op: 'formula',
      inputs: { a: { from: 'p' }, b: { from: 't' }, formula: { value: { text: 'a.x * b' } } },
    },
    { id: 'y', name: 'Called', op: 'formula', inputs: { formula: { value: { text: 'position.x * time' } } } },
  ]);
  const { strands } = lower(both, { build: 'live' });
  // The same node of the graph: the two are one computation.
  expect(strands.get('y')!.value.node).toBe(strands.get('x')!.value.node);
});
