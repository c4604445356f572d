import { srgbEncode } from '../core/base/srgb.js';
import { gainFor, paintSwatch, peakOf } from './swatch.js';

const paint = (kind: Parameters<typeof paintSwatch>[0], values: number[][], mask = values.map(() => 1)): number[][] => {
  const planes = values[0]!.map((_, lane) => Float32Array.from(values, (v) => v[lane]!));
  const out = new Uint8ClampedArray(values.length * 4);
  paintSwatch(kind, planes, Float32Array.from(mask), values.length, out);
  return values.map((_, k) => [...out.subarray(k * 4, k * 4 + 3)]);
};

test('one number is grey, held to 0..1', () => {
  expect(paint('1', [[0], [0.5], [1], [7]])).toEqual([
    [0, 0, 0],
    [128, 128, 128],
    [255, 255, 255],
    [255, 255, 255],
  ]);
});
test('a signed number has two hues, black at 0', () => {
  const [below, zero, above] = paint('1', [[-1], [0], [1]]) as [number[], number[], number[]];
  expect(zero).toEqual([0, 0, 0]);
  expect(above[0]).toBeGreaterThan(above[1]!);
  expect(below[2]).toBeGreaterThan(below[0]!);
});
test('a colour is tone-mapped and encoded as the stage does it', () => {
  const [dark, bright] = paint('rgb', [
    [0.54, 0.54, 0.54],
    [40, 4, 0.2],
  ]) as [number[], number[]];
  expect(dark[0]).toBe(Math.round(255 * srgbEncode(0.54)));
  expect(bright[0]).toBeGreaterThan(bright[1]!);
});
test('a vector shows its components; centred when any is below 0', () => {
  expect(paint('2', [[0.25, 1]])).toEqual([[64, 255, 0]]);
  expect(paint('3', [[-1, 0, 1]])).toEqual([[0, 128, 255]]);
});
test('what is not finite is striped in a colour of its own; where there is no surface is the ground', () => {
  const [nan, infinite] = paint('1', [[NaN], [Infinity], [0]]) as [number[], number[]];
  expect(nan[0]).toBe(255);
  expect(nan[1]).toBe(0);
  expect(infinite[1]).toBe(0);
  expect(paint('1', [[1]], [0])).toEqual([[20, 18, 26]]);
});

test('a wire a pixel wide is drawn three wide; what fills more is drawn as it is', () => {
  const [width, height] = [32, 24];
  const wire = Float32Array.from({ length: width * height }, (_, k) => (k % width === 16 ? 1 : 0));
  const half = Float32Array.from({ length: width * height }, (_, k) => (k % width < 16 ? 1 : 0));
  const lit = (plane: Float32Array, mask = new Float32Array(width * height).fill(1)) => {
    const out = new Uint8ClampedArray(width * height * 4);
    paintSwatch('1', [plane], mask, width, out);
    return out.filter((v, k) => k % 4 === 0 && v > 128).length / height;
  };
  expect(lit(wire)).toBe(3);
  expect(lit(half)).toBe(16);
  // Not beyond the surface.
  expect(
    lit(
      wire,
      Float32Array.from(wire, (_, k) => (k % width === 17 ? 0 : 1)),
    ),
  ).toBe(2);
});
test('what is faint is brightened, and by how much is told; what can be seen, and directions, are not', () => {
  const mask = Float32Array.of(1, 1, 0);
  expect(peakOf([Float32Array.of(0.01, -0.05, 9)], mask)).toBeCloseTo(0.05, 6);
  expect(gainFor('1', 0.05)).toBe(16);
  expect(gainFor('rgb', 0.2)).toBeCloseTo(4, 6);
  expect([gainFor('1', 0.5), gainFor('1', 0), gainFor('3', 0.01)]).toEqual([1, 1, 1]);
  const out = new Uint8ClampedArray(12);
  paintSwatch('1', [Float32Array.of(0.1, 0.2, 0)], mask, 3, out, 4);
  expect([out[0], out[4]]).toEqual([102, 204]);
});
