import { calculate } from '../../core/base/arithmetic.js';
import { showNumber, showReading } from './numbers.js';
import { fromHsv, hsvOf, toHsv } from './colour.js';
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

test('a colour that is turned to grey, or to black, keeps the hue that was chosen', () => {
  const teal = { hue: 180, saturation: 0.8, value: 0.6 };
  const grey = { ...teal, saturation: 0 };
  expect(hsvOf(fromHsv(grey), grey)).toEqual(grey);
  const black = { ...teal, value: 0 };
  expect(hsvOf(fromHsv(black), black)).toEqual(black);
  // Another colour, from elsewhere, is what it is.
  expect(hsvOf([1, 0, 0], grey)).toMatchObject({ hue: 0, saturation: 1 });
});

test('along a logarithmic track equal ways are equal factors; where it cannot be, it is even', () => {
  const log = along(0.01, 100, true);
  expect(log.value(0.5)).toBeCloseTo(1, 9);
  expect([log.at(0.01), log.at(10), log.at(100)].map((v) => Number(v.toFixed(6)))).toEqual([0, 0.75, 1]);
  const even = along(0, 4, true);
  expect([even.at(1), even.value(0.5)]).toEqual([0.25, 2]);
});
