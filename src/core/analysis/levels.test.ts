import { LEVELS_BINS, LEVELS_HIGH, LEVELS_LOW, measureLevels } from './levels.js';

const binOf = (stops: number) => (stops - LEVELS_LOW) * 4;
const measured = (light: number[], threshold: number, display = [0, 0, 0, 255]) =>
  measureLevels(Float32Array.from(light), Uint8Array.from(display), threshold);
const filled = (bins: Float32Array) => [...bins].flatMap((v, k) => (v > 0 ? [[k, v]] : []));

test('a stop is twice the light; each bin is a quarter of one, and holds what is at its lower end', () => {
  // Half, once and four times the threshold, just under the next quarter stop, and nothing at all.
  const { bins, peak, glows } = measured([0.75, 1.5, 6, 1.5 * 2 ** 0.249, 0], 1.5);
  expect(filled(bins).map(([k]) => k)).toEqual([binOf(-1), binOf(0), binOf(2)]);
  expect(bins[binOf(0)]).toBeCloseTo(2 / 5, 6);
  expect(peak).toBe(6);
  // Over it, not at it.
  expect(glows).toBeCloseTo(2 / 5, 6);
});

test('what is brighter than the last bin is in it; what is darker than the first, or no number, is in none', () => {
  const { bins, peak } = measured([2 ** (LEVELS_HIGH + 3), 2 ** (LEVELS_LOW - 1), NaN, -1], 1);
  expect(filled(bins)).toEqual([[LEVELS_BINS - 1, 0.25]]);
  expect(peak).toBe(2 ** (LEVELS_HIGH + 3));
});

test('without a threshold 0 stops is 1; clipped is what has a channel at the display’s end', () => {
  expect(filled(measured([1], 0).bins)).toEqual([[binOf(0), 1]]);
  const display = [255, 0, 0, 255, 0, 255, 0, 255, 0, 0, 255, 255, 254, 254, 254, 255];
  expect(measured([1], 1, display).clips).toBe(0.75);
});
