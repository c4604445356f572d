import { converter, interpolate } from 'culori';
import { rampOfColours } from './pictureRamp.js';

type Rgb = [number, number, number];
const linear = (c: { r: number; g: number; b: number }): Rgb => [c.r, c.g, c.b];
/** What culori mixes between colours in OKLab, in linear light. */
const mixed = (colours: string[], count = 64): Rgb[] => {
  const at = interpolate(colours, 'oklab');
  return Array.from({ length: count }, (_, k) => linear(toLinear(at(k / (count - 1)))));
};
const toLinear = converter('lrgb');

test('an even run of two colours is two stops, of three three, where they bend', () => {
  const two = rampOfColours(mixed(['#102040', '#f0c080']));
  expect(two.map((s) => s.at)).toEqual([0, 1]);
  const [r, g, b] = linear(toLinear('#f0c080')!);
  two[1]!.rgb.forEach((v, k) => expect(v).toBeCloseTo([r, g, b][k]!, 4));
  const three = rampOfColours(mixed(['#000000', '#ff2000', '#ffffff'], 65));
  expect(three.map((s) => s.at)).toEqual([0, 0.5, 1]);
});

test('never more stops than are asked for; one colour is that at both ends', () => {
  const noise = Array.from({ length: 64 }, (_, k): Rgb => [(k * 0.37) % 1, (k * 0.71) % 1, (k * 0.13) % 1]);
  expect(rampOfColours(noise)).toHaveLength(8);
  expect(rampOfColours(noise, 5)).toHaveLength(5);
  const same = rampOfColours(Array.from({ length: 8 }, (): Rgb => [0.2, 0.4, 0.1]));
  expect(same.map((s) => s.rgb.map((v) => v.toFixed(3)))).toEqual([
    ['0.200', '0.400', '0.100'],
    ['0.200', '0.400', '0.100'],
  ]);
});
