import { constructSheet, effectOf } from '../../../../tests/fixtures/sheets.js';
import { family, threadsOf } from '../../../core/effect/threads.js';
import { ROW, layOut, shortNumber } from './layout.js';

const NONE = new Set<string>();

test('rows stand one under another, sections fold their strands to their head', () => {
  const effect = { ...constructSheet(3, { strands: 10 }), sections: [{ title: 'Rim', first: 's4' }] };
  const open = layOut(effect, NONE, NONE, new Map());
  const rows = open.items.filter((i) => i.type === 'strand');
  expect(rows).toHaveLength(10);
  for (let k = 1; k < rows.length; k++) expect(rows[k]!.y).toBeGreaterThanOrEqual(rows[k - 1]!.y + ROW);
  const folded = layOut(effect, NONE, new Set(['s4']), new Map());
  expect(folded.items.filter((i) => i.type === 'strand')).toHaveLength(4);
  expect(new Set(['s4', 's7', 's9'].map((id) => folded.anchor.get(id))).size).toBe(1);
});

test('the family of a strand is everything that feeds it and everything it feeds', () => {
  const effect = effectOf([
    { id: 'a', name: 'A', op: 'time' },
    { id: 'b', name: 'B', op: 'fract', inputs: { in: { from: 'a' } } },
    { id: 'c', name: 'C', op: 'sin', inputs: { in: { from: 'a' } } },
    { id: 'd', name: 'D', op: 'add', inputs: { a: { from: 'b' } } },
  ]);
  expect([...family(threadsOf(effect), 'b')].sort()).toEqual(['a', 'd']);
});

test('the ends of ranges in few letters', () => {
  expect([0, 1, -1, 0.55, -0.0825, 61, 122, 12400, 3e7, Infinity, -Infinity, 4.26e-14, -4.26e-14].map(shortNumber)).toEqual([
    '0',
    '1',
    '−1',
    '.55',
    '−.083',
    '61',
    '122',
    '12k',
    '30M',
    '∞',
    '−∞',
    '0',
    '0',
  ]);
});
