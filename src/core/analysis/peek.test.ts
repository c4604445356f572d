import { peekStats, suitedMode } from './peek.js';

/** A place of a surface with these numbers, or one of none. */
const at = (x: number, y = 0, z = 0) => [x, y, z, 1];
const NOWHERE = [9, 9, 9, 0];
const BROKEN = [0, 0, 0, 2];
const stats = (lanes: number, ...places: number[][]) => peekStats(Float32Array.from(places.flat()), lanes);

test('shares are of the surface that is seen; what is not finite has no place in the range', () => {
  expect(stats(1, NOWHERE, at(-0.5), at(0.25), at(0.75), at(1.5), at(2), BROKEN, NOWHERE, at(0))).toEqual({
    low: -0.5,
    high: 2,
    below: 1 / 7,
    above: 2 / 7,
    notFinite: 1 / 7,
  });
});

test('of several components the lowest and the highest count, and those it does not have do not', () => {
  expect(stats(3, at(0.5, -1, 3), at(0.5, 0.5, 0.5))).toMatchObject({ low: -1, high: 3, below: 0.5, above: 0.5 });
  expect(stats(2, at(0.5, -1, 3), at(0.5, 0.5, 0.5))).toMatchObject({ low: -1, high: 0.5, below: 0.5, above: 0 });
  expect(stats(1, at(0.5, -1, 3))).toMatchObject({ low: 0.5, high: 0.5, below: 0, above: 0 });
});

test('where nothing is seen, or nothing of it is a number, all is 0', () => {
  const nothing = { low: 0, high: 0, below: 0, above: 0 };
  expect(stats(1, NOWHERE)).toEqual({ ...nothing, notFinite: 0 });
  expect(stats(1, BROKEN, BROKEN)).toEqual({ ...nothing, notFinite: 1 });
});

test('what has a sign is shown with it, distances by their range, and all else from 0 to 1', () => {
  expect(suitedMode(stats(1, at(-1), at(1)), false)).toBe('signed');
  expect(suitedMode(stats(1, at(3), at(7)), true)).toBe('range');
  expect(suitedMode(stats(1, at(3), at(3)), true)).toBe('unit');
  expect(suitedMode(stats(1, at(3), at(7)), false)).toBe('unit');
});
