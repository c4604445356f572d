import fc from 'fast-check';
import { LEAST_BEND, MOST_BEND, bent, heldBend, lensScale, unbent } from './lens.js';

const lenses = fc.record({
  bend: fc.double({ min: LEAST_BEND, max: MOST_BEND, noNaN: true }),
  aspect: fc.double({ min: 0.5, max: 2.2, noNaN: true }),
});
const place = fc.double({ min: -1, max: 1, noNaN: true });

test('what is seen at a place, and where that is seen, are one another’s opposites', () => {
  fc.assert(
    fc.property(lenses, place, place, (lens, x, y) => {
      const [u, v] = unbent(lens, x, y);
      const [a, b] = bent(lens, u, v);
      expect(a).toBeCloseTo(x, 5);
      expect(b).toBeCloseTo(y, 5);
    }),
    { seed: 3, numRuns: 300 },
  );
});

test('no place of the picture shows what is outside it, and the farther out the farther: nothing is seen twice', () => {
  fc.assert(
    fc.property(lenses, place, place, (lens, x, y) => {
      const [u, v] = unbent(lens, x, y);
      expect(Math.max(Math.abs(u), Math.abs(v))).toBeLessThanOrEqual(1 + 1e-9);
      const [nearU, nearV] = unbent(lens, x * 0.99, y * 0.99);
      expect(Math.hypot(nearU, nearV)).toBeLessThanOrEqual(Math.hypot(u, v) + 1e-12);
    }),
    { seed: 4, numRuns: 300 },
  );
});

test('no picture folds over, however wide: along each way outward places go outward, to the corners', () => {
  for (const aspect of [0.3, 1, 16 / 9, 2.39, 4, 8])
    for (const bend of [-0.01, -0.05, LEAST_BEND, -9])
      for (const [x, y] of [
        [1, 1],
        [1, 0],
        [0, 1],
        [1, 0.3],
      ] as const) {
        let last = 0;
        for (let k = 1; k <= 400; k++) {
          const [u, v] = unbent({ bend, aspect }, (x * k) / 400, (y * k) / 400);
          const far = Math.hypot(u * aspect, v);
          expect(far).toBeGreaterThan(last);
          last = far;
        }
      }
});

test('without a bend all stays where it is; above 0 a straight line bows outward, below 0 inward', () => {
  expect(unbent({ bend: 0, aspect: 1.6 }, 0.7, -0.4)).toEqual([0.7, -0.4]);
  expect(bent({ bend: 0, aspect: 1.6 }, 0.7, -0.4)).toEqual([0.7, -0.4]);
  // A vertical line of the unbent picture, seen at its middle and near its end.
  for (const [bend, outward] of [
    [0.3, true],
    [-0.06, false],
  ] as const) {
    const lens = { bend, aspect: 1.6 };
    const [middle] = bent(lens, 0.6, 0);
    const [end] = bent(lens, 0.6, 0.8);
    // Barrel: its ends bend towards the middle of the picture, so that its belly is outward.
    expect(end < middle).toBe(outward);
  }
  expect(lensScale({ bend: 0, aspect: 2 })).toBe(1);
  expect([heldBend(9, 1), heldBend(-9, 1)]).toEqual([MOST_BEND, LEAST_BEND]);
});
