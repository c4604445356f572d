import { sortedDeep } from './sorted.js';

test('keys stand in order at every depth; lists keep theirs, and nothing else changes', () => {
  const given = { b: [{ d: 1, c: null }, 'b', 'a'], a: { z: -0, y: { x: false, w: [] } } };
  expect(JSON.stringify(sortedDeep(given))).toBe('{"a":{"y":{"w":[],"x":false},"z":0},"b":[{"c":null,"d":1},"b","a"]}');
  expect(sortedDeep(given)).toEqual(given);
  expect([null, 3, 'x', undefined].map(sortedDeep)).toEqual([null, 3, 'x', undefined]);
});
