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

test('a long drag is one small entry, and undoes to where it began', () => {
  type Deep = { strands: { inputs?: Record<string, { value: number }> }[] };
  const first: Deep = { strands: [{}, {}] };
  let history: History<'effect'> = EMPTY_HISTORY;
  let value = first;
  for (let k = 1; k <= 500; k++) {
    const result = record(
      history,
      'effect',
      value,
      'Drag',
      'drag',
      (d) => void ((d.strands[1]!.inputs ??= {}).amount = { value: k }),
    )!;
    ({ history, value } = result);
  }
  expect(history.past).toHaveLength(1);
  const [entry] = history.past;
  // The first step made what the later ones set again: its own patch, and one for those.
  expect(entry!.patches.length + entry!.inverse.length).toBeLessThan(6);
  expect(undoEntry(value, entry!)).toEqual(first);
  expect(redoEntry(first, entry!)).toEqual(value);
});

test('steps of a gesture that add and remove are kept one by one', () => {
  let history: History<'effect'> = EMPTY_HISTORY;
  let value: Doc = { n: 0, list: [1, 2, 3] };
  const edit = (recipe: (d: Doc) => void) => ({ history, value } = record(history, 'effect', value, 'Change', 'g', recipe)!);
  edit((d) => void d.list.splice(1, 1));
  edit((d) => void d.list.splice(0, 0, 9));
  edit((d) => void (d.list[0] = 8));
  edit((d) => void d.list.pop());
  expect(value.list).toEqual([8, 1]);
  expect(undoEntry(value, history.past[0]!)).toEqual({ n: 0, list: [1, 2, 3] });
  expect(redoEntry({ n: 0, list: [1, 2, 3] }, history.past[0]!)).toEqual(value);
});
