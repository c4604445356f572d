import { momentsOf, reachOf } from '../../../tests/fixtures/halo.js';
import { LEVEL_LINES, bloomLevels, bloomShare, haloOf } from './bloom.js';
import { ShaderChunk } from 'three';
import { srgbDecode, srgbEncode } from '../base/srgb.js';
import { converter } from 'culori';
import { NO_GRADE, graded, type Grade } from './grade.js';
import { TONE, acesFit, hueKept, khronosNeutral, luminance, type Rgb } from './tone.js';

test('the sRGB transfer (IEC 61966-2-1)', () => {
  expect(srgbDecode(0.04045)).toBeCloseTo(0.00313080495, 10);
  expect(srgbDecode(0.5)).toBeCloseTo(0.21404114048, 10);
  for (const x of [0, 0.002, 0.1, 0.7, 1]) expect(srgbDecode(srgbEncode(x))).toBeCloseTo(x, 12);
});

test('luminance (ITU-R BT.709)', () => {
  expect(luminance([1, 0, 0])).toBe(0.2126);
  expect(luminance([1, 1, 1])).toBeCloseTo(1, 12);
});

// Khronos PBR Neutral tone mapper specification, 2024.
test.each([
  [
    [0.18, 0.18, 0.18],
    [0.14, 0.14, 0.14],
  ],
  [
    [0.02, 0.02, 0.02],
    [0.0025, 0.0025, 0.0025],
  ],
  [
    [1, 1, 1],
    [0.869091, 0.869091, 0.869091],
  ],
  [
    [10, 2, 0.5],
    [0.993898, 0.653454, 0.589621],
  ],
  [
    [0.5, 0.25, 0.1],
    [0.46, 0.21, 0.06],
  ],
] as [Rgb, Rgb][])('Khronos neutral of %j', (rgb, expected) => {
  khronosNeutral(rgb).forEach((c, k) => expect(c).toBeCloseTo(expected[k]!, 5));
});

// three's own shader text holds the same fit, with an exposure of its own in front: its numbers are read out of it.
test('the ACES fit is the one that three ships', () => {
  const text = ShaderChunk.tonemapping_pars_fragment;
  const after = (name: string) => text.slice(text.indexOf(name));
  const numbers = (from: string, count: number) =>
    [...from.slice(from.indexOf('(')).matchAll(/-?\s*\d+\.\d+/g)].slice(0, count).map((m) => Number(m[0].replace(/\s/g, '')));
  const [into, out] = [numbers(after('ACESInputMat'), 9), numbers(after('ACESOutputMat'), 9)];
  const [a, b, c, d, e] = numbers(after('RRTAndODTFit').slice(after('RRTAndODTFit').indexOf('{')), 5) as [
    number,
    number,
    number,
    number,
    number,
  ];
  // Columns, as GLSL has them.
  const times = (m: number[], v: readonly number[]) =>
    [0, 1, 2].map((r) => m[r]! * v[0]! + m[3 + r]! * v[1]! + m[6 + r]! * v[2]!);
  for (const rgb of [
    [0.18, 0.18, 0.18],
    [1, 0.2, 0.05],
    [12, 3, 7],
    [0, 0, 0],
  ] as Rgb[]) {
    const fitted = times(into, rgb).map((v) => (v * (v + a) + b) / (v * (c * v + d) + e));
    times(out, fitted).forEach((want, k) => expect(acesFit(rgb)[k]).toBeCloseTo(want, 9));
  }
});

/** Six hues of light, as they are at 1 times white. */
const HUES = {
  fire: [1, 0.25, 0.03],
  red: [1, 0.02, 0.02],
  blue: [0.02, 0.06, 1],
  green: [0.05, 1, 0.15],
  cyan: [0.05, 0.7, 1],
  violet: [0.5, 0.05, 1],
} as const satisfies Record<string, Rgb>;

// OKLCH by culori, an independent library (Ottosson 2020).
describe('hue kept', () => {
  const oklch = converter('oklch');
  const seen = (rgb: Rgb) => {
    const [r, g, b] = TONE['hue-kept'](rgb);
    const { l, c, h = 0 } = oklch({ mode: 'lrgb', r, g, b });
    return { l, c, h };
  };
  const times = (rgb: Rgb, x: number) => rgb.map((v) => v * x) as unknown as Rgb;
  const turn = (a: number, b: number) => ((b - a + 540) % 360) - 180;

  test('what is not brighter than 0.76 is shown as it is', () => {
    for (const rgb of [
      [0.76, 0.2, 0],
      [0, 0, 0],
      [0.18, 0.18, 0.18],
    ] as Rgb[])
      expect(hueKept(rgb)).toEqual(rgb);
  });

  test.each(Object.entries(HUES))('%s: ever lighter, and never flat, from 1 to 1000 times white', (_, rgb) => {
    const lights = [0.5, 0.75, 1, 1.5, 2, 3, 5, 8, 12, 20, 30, 50, 80, 100, 300, 1000].map((x) => seen(times(rgb, x)).l);
    lights.slice(1).forEach((l, k) => expect(l).toBeGreaterThan(lights[k]! + 0.002));
  });

  test.each(Object.entries(HUES))('%s is itself at 5 to 20 times white, and white in the end', (name, rgb) => {
    const at = seen(times(rgb, 1));
    for (const x of [5, 10, 20]) {
      const { c, h } = seen(times(rgb, x));
      expect(c).toBeGreaterThan(0.6 * at.c);
      // Fire goes towards yellow, as what glows hotter does (the Planckian locus); towards pink it never goes.
      const turned = turn(at.h, h);
      expect(Math.abs(turned)).toBeLessThan(15);
      if (name === 'fire') expect(turned).toBeGreaterThan(0);
    }
    expect(seen(times(rgb, 1e6)).c).toBeLessThan(0.02);
  });
});

test('the linear curve clips', () => expect(TONE.linear([2, 0.5, -1])).toEqual([1, 0.5, 0]));

describe('bloom', () => {
  test('the weights sum to 1 at any size, so that light is spread and not made', () => {
    for (const spread of [0.01, 0.1, 0.4, 1])
      for (const height of [100, 205, 492, 1600]) {
        const levels = bloomLevels(spread, height);
        expect(levels.reduce((s, l) => s + l.weight, 0)).toBeCloseTo(1, 12);
        expect(levels.every((l) => l.lines <= Math.max(height, LEVEL_LINES[LEVEL_LINES.length - 1]!))).toBe(true);
      }
  });
  test.each([
    [71, 52, 0.08],
    [80, 47, 0.2],
  ])(
    'the light of a single pixel at %i, %i is kept, and reaches as far as its variances add up to, in a round',
    (x, y, spread) => {
      const [width, height, value] = [150, 100, 900];
      const rgb = new Float32Array(width * height * 3);
      rgb.fill(value, (y * width + x) * 3, (y * width + x) * 3 + 3);
      const halo = haloOf({ width, height, rgb }, 1, { threshold: 0, knee: 0, spread });
      const { energy, xx, yy } = momentsOf(halo, (x + 0.5) / width, (y + 0.5) / height);
      expect(Math.abs(energy / ((2 * value) / height ** 2) - 1)).toBeLessThan(0.02);
      expect(Math.abs(xx / yy - 1)).toBeLessThan(0.06);
      expect(Math.abs((xx + yy) / 2 / reachOf(spread, height) - 1)).toBeLessThan(0.12);
    },
  );
  test('a wider spread moves the weight to coarser levels', () => {
    const coarse = (spread: number) =>
      bloomLevels(spread, 1024)
        .filter((l) => l.lines <= 32)
        .reduce((s, l) => s + l.weight, 0);
    expect(coarse(0.05)).toBeLessThan(coarse(0.3));
    expect(coarse(0.3)).toBeLessThan(coarse(1));
  });
  test('nothing under the soft threshold, all but the threshold far above, without a jump', () => {
    const share = (y: number) => bloomShare([y, y, y], 1, 0.5);
    expect(share(0.49)).toBe(0);
    expect(share(100)).toBeCloseTo(0.99, 6);
    for (let y = 0.4; y < 3; y += 0.01) expect(Math.abs(share(y + 0.01) - share(y))).toBeLessThan(0.02);
    expect(bloomShare([0.9, 0.9, 0.9], 1, 0)).toBe(0);
  });
});

describe('the grade', () => {
  const grade = (to: Partial<Grade>) => ({ ...NO_GRADE, ...to });
  test('slope, offset and power go one after the other, clipped between (ASC Color Decision List 1.2, from memory)', () => {
    graded(NO_GRADE, [0.1, 0.5, 0.9]).forEach((v, k) => expect(v).toBeCloseTo([0.1, 0.5, 0.9][k]!, 12));
    const got = graded(grade({ slope: [2, 1, 4], offset: [0.1, -0.5, 0], power: [2, 1, 0.5] }), [0.25, 0.3, 0.5]);
    // (0.25 x 2 + 0.1)^2; below 0 and above 1 it stays at 0 and 1.
    expect(got.map((v) => Number(v.toFixed(9)))).toEqual([0.36, 0, 1]);
  });
  test('saturation is that of W3C Filter Effects, whose luma has three digits', () => {
    const colour: Rgb = [0.8, 0.35, 0.1];
    for (const s of [0, 0.4, 1, 1.2]) {
      const rows = [
        [0.213 + 0.787 * s, 0.715 - 0.715 * s, 0.072 - 0.072 * s],
        [0.213 - 0.213 * s, 0.715 + 0.285 * s, 0.072 - 0.072 * s],
        [0.213 - 0.213 * s, 0.715 - 0.715 * s, 0.072 + 0.928 * s],
      ];
      const wanted = rows.map((row) =>
        Math.max(
          0,
          Math.min(
            1,
            row.reduce((sum, m, k) => sum + m * colour[k]!, 0),
          ),
        ),
      );
      graded(grade({ saturation: s }), colour).forEach((v, k) => expect(Math.abs(v - wanted[k]!)).toBeLessThan(1e-3));
    }
  });
});
