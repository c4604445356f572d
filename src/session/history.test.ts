import { EMPTY_HISTORY, record, redoEntry, seal, undoEntry, type History } from './history.js';

type Doc = { n: number; list: number[] };

test('a gesture is one entry; undo and redo go there and back', () => {
  let history: History<'effect'> = EMPTY_HISTORY;
  let value: Doc = { n: 0, list: [1] };
  const edit = (recipe: (d: Doc) => void, key: string | null) => {
    const result = record(history, 'effect', value, 'Change', key, recipe)!;
    history = result.history;
    value = result.value;
  };
  for (let k = 1; k <= 5; k++) edit((d) => void (d.n = k), 'drag n');
  history = seal(history);
  edit((d) => void (d.n = 9), 'drag n');
  edit((d) => void d.list.push(2), null);
  expect(history.past).toHaveLength(3);
  const seen: Doc[] = [];
  for (const entry of [...history.past].reverse()) seen.push((value = undoEntry(value, entry)));
  expect(seen).toEqual([
    { n: 9, list: [1] },
    { n: 5, list: [1] },
    { n: 0, list: [1] },
  ]);
  for (const entry of history.past) value = redoEntry(value, entry);
  expect(value).toEqual({ n: 9, list: [1, 2] });
});

test('an edit that changes nothing leaves no entry', () => {
  expect(record(EMPTY_HISTORY, 'effect', { n: 1 }, 'Nothing', null, (d) => void (d.n = 1))).toBeNull();
});
