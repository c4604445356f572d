import { calculate } from '../../core/base/arithmetic.js';
import { showNumber, showReading } from './numbers.js';
import { converter, inGamut } from 'culori';
import { fromHsv, toHsv } from './colour.js';
import { broughtIn, fromBytes, fromLch, hexOf, inSrgb, toLch } from './oklch.js';
import { along } from './track.js';

describe('arithmetic in number fields', () => {
  test.each([
    ['2*pi', 2 * Math.PI],
    ['1 - 2 - 3', -4],
    ['2 + 3 * 4 ^ 2', 50],
    ['-(1+2)/4', -0.75],
    ['2^-1', 0.5],
    ['sqrt(16) × 2', 8],
    ['−3.5', -3.5],
    ['1e3', 1000],
    ['0,5', 0.5],
  ])('%s', (text, value) => expect(calculate(text)).toBeCloseTo(value, 12));
  test.each(['', '2 +', '(1', '1/0', 'alert(1)', '2 2', '1e12', 'constructor', '__proto__'])('refuses %p', (text) =>
    expect(calculate(text)).toBeNull(),
  );
  test('shows no more digits than matter', () => {
    expect([0.1 + 0.2, 1234.5678, -0.5, 1e-7, Infinity].map(showNumber)).toEqual(['0.3', '1234.57', '−0.5', '1.00e−7', '∞']);
    expect([4.26e-14, -4.26e-14, 0.12345, NaN].map(showReading)).toEqual(['0', '0', '0.123', 'NaN']);
  });
});

test('hue, saturation and value go to linear light and back', () => {
  for (const hue of [0, 45, 158, 239, 300])
    for (const [saturation, value] of [
      [1, 1],
      [0.4, 0.7],
    ] as const) {
      const back = toHsv(fromHsv({ hue, saturation, value }));
      expect(back.hue).toBeCloseTo(hue, 2);
      expect(back.saturation).toBeCloseTo(saturation, 3);
      expect(back.value).toBeCloseTo(value, 3);
    }
  // sRGB red and mid grey in linear light (IEC 61966-2-1).
  expect(fromHsv({ hue: 0, saturation: 1, value: 1 })).toEqual([1, 0, 0]);
  expect(fromHsv({ hue: 0, saturation: 0, value: 0.5 })[0]).toBeCloseTo(0.214041, 5);
});

test('lightness, chroma and hue are those of culori’s OKLCH; what sRGB has not is brought in at its lightness and hue', () => {
  const [oklch, linear, shown] = [converter('oklch'), converter('lrgb'), inGamut('rgb')];
  for (const rgb of [
    [0.2, 0.5, 0.9],
    [0.9, 0.05, 0.01],
    [0.3, 0.3, 0.31],
    [0, 1, 0],
  ] as const) {
    const { l, c, h } = toLch(rgb);
    const other = oklch({ mode: 'lrgb', r: rgb[0], g: rgb[1], b: rgb[2] });
    expect([l, c, h / 360].map((v) => v.toFixed(3))).toEqual([other.l, other.c, other.h! / 360].map((v) => v.toFixed(3)));
    fromLch({ l, c, h }).forEach((v, k) => expect(v).toBeCloseTo(rgb[k]!, 4));
  }
  for (const lch of [
    { l: 0.6, c: 0.33, h: 22 },
    { l: 0.9, c: 0.3, h: 260 },
    { l: 0.5, c: 0.05, h: 140 },
  ]) {
    const is = shown({ mode: 'oklch', ...lch });
    expect(inSrgb(fromLch(lch))).toBe(is);
    const within = broughtIn(lch);
    expect(inSrgb(fromLch(within))).toBe(true);
    expect([within.l, within.h]).toEqual([expect.closeTo(lch.l, 3), lch.h]);
    if (is) expect(within).toEqual(lch);
    const { r, g, b } = linear({ mode: 'oklch', ...within });
    fromLch(within).forEach((v, k) => expect(v).toBeCloseTo([r, g, b][k]!, 3));
  }
  // A grey keeps the hue that was chosen; another colour is what it is.
  expect(toLch(fromLch({ l: 0.5, c: 0, h: 200 }), { l: 0.5, c: 0, h: 200 }).h).toBe(200);
  expect(toLch([1, 0, 0], { l: 0.5, c: 0, h: 200 }).h).toBeCloseTo(29.2, 0);
  // CSS: rebeccapurple is #663399.
  expect(hexOf(fromBytes([0x66, 0x33, 0x99]))).toBe('#663399');
});

test('along a logarithmic track equal ways are equal factors; where it cannot be, it is even', () => {
  const log = along(0.01, 100, true);
  expect(log.value(0.5)).toBeCloseTo(1, 9);
  expect([log.at(0.01), log.at(10), log.at(100)].map((v) => Number(v.toFixed(6)))).toEqual([0, 0.75, 1]);
  const even = along(0, 4, true);
  expect([even.at(1), even.value(0.5)]).toEqual([0.25, 2]);
});
