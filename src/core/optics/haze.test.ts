/** Haze against the sum of its density along the way: the law of Lambert and Beer as it is defined. */
import fc from 'fast-check';
import { inHaze, throughHaze, type Haze } from './haze.js';

type Place = readonly [number, number, number];
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true });
const place = fc.tuple(number(-40, 40), number(-6, 20), number(-40, 40));

/** The power of e by many short steps. */
function summed({ density, falls, from }: Haze, eye: Place, point: Place): number {
  const steps = 20_000;
  const way = Math.hypot(...point.map((v, k) => v - eye[k]!));
  let sum = 0;
  for (let k = 0; k < steps; k++) {
    const y = eye[1] + ((point[1] - eye[1]) * (k + 0.5)) / steps;
    sum += (density * (falls === null ? 1 : Math.exp((from - y) / falls)) * way) / steps;
  }
  return Math.exp(-sum);
}

test('what is left of a light is what its way leaves, level, rising and falling', () => {
  fc.assert(
    fc.property(
      place,
      place,
      number(0, 0.2),
      fc.option(number(0.8, 30), { nil: null }),
      number(-2, 2),
      (eye, point, density, falls, from) => {
        const haze: Haze = { rgb: [0.1, 0.2, 0.3], density, falls, from };
        expect(throughHaze(haze, eye, point)).toBeCloseTo(summed(haze, eye, point), 4);
      },
    ),
    { seed: 20261129, numRuns: 60, endOnFailure: true },
  );
});

test('a way is as long there as back; none takes nothing; far away only the haze is left', () => {
  const haze: Haze = { rgb: [0.1, 0.2, 0.3], density: 0.05, falls: 4, from: 1 };
  const [a, b]: [Place, Place] = [
    [1, 3, -2],
    [9, 0.5, 4],
  ];
  expect(throughHaze(haze, a, b)).toBeCloseTo(throughHaze(haze, b, a), 12);
  expect(throughHaze(haze, a, a)).toBe(1);
  expect(inHaze(haze, [5, 5, 5], a, [1, 3, -1e5]).map((v) => Number(v.toFixed(6)))).toEqual([0.1, 0.2, 0.3]);
  expect(inHaze({ ...haze, density: 0 }, [5, 4, 3], a, b)).toEqual([5, 4, 3]);
});
