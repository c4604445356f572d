import type { EffectCard } from '../data/library.js';
import { sift, tagsOf, type Wanted } from './sift.js';

const card = (name: string, more: Partial<EffectCard> = {}): EffectCard => ({
  id: name,
  name,
  tags: [],
  loop: 4,
  kind: 'surface',
  strands: [],
  archived: false,
  version: 1,
  createdAt: '2026-01-01',
  updatedAt: '2026-01-01',
  stripKey: 's1',
  drawn: false,
  ...more,
});
const CARDS = [
  card('Vent 10', { tags: ['sparks', 'glow'], updatedAt: '2026-03-01', loop: 2 }),
  card('Vent 9', { tags: ['glow'], updatedAt: '2026-02-01', createdAt: '2026-05-01', loop: null, strands: ['Ember mask'] }),
  card('Tide', { tags: ['water'], archived: true }),
];
const names = (wanted: Partial<Wanted>) =>
  sift(CARDS, { search: '', tag: null, sort: 'changed', archived: false, ...wanted }).map((c) => c.name);

test('what is put away is apart', () => {
  expect(names({})).toEqual(['Vent 10', 'Vent 9']);
  expect(names({ archived: true })).toEqual(['Tide']);
});
test('every word must be found, each in the name, a tag or a strand', () => {
  expect(names({ search: 'EMBER vent' })).toEqual(['Vent 9']);
  expect(names({ search: 'glow spar' })).toEqual(['Vent 10']);
  expect(names({ search: 'ember sparks' })).toEqual([]);
  expect(names({ search: '  ' })).toHaveLength(2);
  expect(names({ tag: 'sparks' })).toEqual(['Vent 10']);
});
test('sorted by change, name, age or loop; what runs on comes last', () => {
  expect(names({ sort: 'name' })).toEqual(['Vent 9', 'Vent 10']);
  expect(names({ sort: 'made' })).toEqual(['Vent 9', 'Vent 10']);
  expect(names({ sort: 'loop' })).toEqual(['Vent 10', 'Vent 9']);
});
test('tags are counted, the commonest first', () => {
  expect(tagsOf(CARDS)).toEqual([
    { tag: 'glow', count: 2 },
    { tag: 'sparks', count: 1 },
    { tag: 'water', count: 1 },
  ]);
});
