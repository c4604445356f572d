import { comfortable } from './imports.js';

test('a mesh of a strange size is brought to a comfortable one, another stays as it is', () => {
  expect(comfortable({ low: [-1, -0.5, -1], high: [1, 0.5, 1] })).toBe(1);
  // 140 m, as in a file whose unit was the centimetre.
  expect(comfortable({ low: [0, 0, 0], high: [140, 70, 14] })).toBeCloseTo(0.01, 6);
  expect(0.002 * comfortable({ low: [-0.001, -0.001, -0.001], high: [0.001, 0.001, 0.001] })).toBeCloseTo(1.4, 6);
  expect(comfortable({ low: [2, 2, 2], high: [2, 2, 2] })).toBe(1);
});
