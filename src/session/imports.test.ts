import { standing } from './imports.js';

test('a mesh stands on the ground in the middle; one of a strange size is brought to a comfortable one', () => {
  expect(standing({ low: [-1, -0.5, -1], high: [1, 0.5, 1] })).toEqual({ scale: 1, place: [0, 0.5, 0.6] });
  // 140 m, as in a file whose unit was the centimetre.
  const large = standing({ low: [0, 0, 0], high: [140, 70, 14] });
  expect(large.scale).toBeCloseTo(0.01, 6);
  expect(large.place[0]).toBeCloseTo(-0.7, 6);
  const small = standing({ low: [-0.001, -0.001, -0.001], high: [0.001, 0.001, 0.001] });
  expect(0.002 * small.scale).toBeCloseTo(1.4, 6);
  expect(small.place[1]).toBeCloseTo(0.7, 6);
  expect(standing({ low: [2, 2, 2], high: [2, 2, 2] }).scale).toBe(1);
});
