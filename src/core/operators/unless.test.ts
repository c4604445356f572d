import { effectOf } from '../../../tests/fixtures/sheets.js';
import { insteadOf } from '../effect/edits.js';
import { strandsOf } from '../effect/schema.js';
import { lower } from '../lower/lower.js';
import { OPERATORS } from './catalogue.js';

/** Every input that another one takes the place of, as its record says. */
const OVERRIDDEN = OPERATORS.flatMap((o) =>
  Object.entries(o.inputs).flatMap(([name, r]) => (r.unless === undefined ? [] : [[o.id, name, r.unless] as const])),
);

test.each(OVERRIDDEN)('%s: %s counts for nothing where %s is given, and counts where it is not', (op, name, unless) => {
  const other = { [unless]: { value: 0.3 } };
  const withBoth = (id: string, value: number) => ({ id, name: id, op, inputs: { [name]: { value }, ...other } });
  const alone = (id: string, value: number) => ({ id, name: id, op, inputs: { [name]: { value } } });
  const effect = effectOf([withBoth('a', 2), withBoth('b', 7), alone('c', 2), alone('d', 7)]);
  // Frozen, equal values are one node.
  const { strands } = lower(effect, { build: 'frozen' });
  const [a, b, c, d] = ['a', 'b', 'c', 'd'].map((id) => strands.get(id)!.value.node);
  expect(a).toBe(b);
  expect(c).not.toBe(d);
  expect(strandsOf(effect).map((s) => insteadOf(s, name))).toEqual([unless, unless, undefined, undefined]);
});

test('the rim’s falloff is one of them', () => {
  expect(OVERRIDDEN.map((o) => o.slice(1))).toContainEqual(['falloff', 'width']);
});
