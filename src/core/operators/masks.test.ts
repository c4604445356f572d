import fc from 'fast-check';
import { apply, readAt } from '../../../tests/fixtures/read.js';
import { effectOf } from '../../../tests/fixtures/sheets.js';
import type { Strand } from '../effect/schema.js';

describe('dissolve', () => {
  /** Both outputs for one value of the mask. */
  const dissolve = (mask: number, amount: number, width: number, softness: number) => {
    const inputs = { mask: { value: mask }, amount: { value: amount }, width: { value: width }, softness: { value: softness } };
    const strands: Strand[] = [
      { id: 'd', name: 'D', op: 'dissolve', inputs },
      { id: 'r', name: 'R', op: 'add', inputs: { a: { from: 'd', port: 'rim' } } },
    ];
    const effect = effectOf(strands);
    return { keep: readAt(effect, 'd')[0]!, rim: readAt(effect, 'r')[0]! };
  };
  const share = fc.float({ min: 0, max: 1, noNaN: true });
  const wide = fc.float({ min: 0, max: 0.5, noNaN: true });

  test('amount 0 is whole and 1 is gone, for any mask, at any width and softness; the rim is absent from both', () => {
    fc.assert(
      fc.property(share, wide, wide, (mask, width, softness) => {
        expect(dissolve(mask, 0, width, softness)).toEqual({ keep: 1, rim: 0 });
        expect(dissolve(mask, 1, width, softness)).toEqual({ keep: 0, rim: 0 });
      }),
      { seed: 3, numRuns: 60 },
    );
  });
  test('it never comes back as the amount grows, and the rim lies on what is still there', () => {
    for (const mask of [0, 0.2, 0.5, 0.8, 1]) {
      let last = 1;
      let rims = 0;
      for (let k = 0; k <= 100; k++) {
        const { keep, rim } = dissolve(mask, k / 100, 0.1, 0.02);
        expect(keep).toBeLessThanOrEqual(last);
        expect(rim).toBeLessThanOrEqual(keep + 1e-6);
        if (rim > 0.5) rims++;
        last = keep;
      }
      // Every place burns on its way out.
      expect(rims).toBeGreaterThan(2);
    }
  });
});

describe('joining masks', () => {
  const join = (inputs: Record<string, number>, how: string) => apply('joinMasks', inputs, { how })[0]!;
  test('the ways of joining, of three masks', () => {
    const three = { a: 0.2, b: 0.5, c: 0.4 };
    expect(join(three, 'max')).toBeCloseTo(0.5, 6);
    expect(join(three, 'min')).toBeCloseTo(0.2, 6);
    expect(join(three, 'multiply')).toBeCloseTo(0.04, 6);
    expect(join(three, 'screen')).toBeCloseTo(1 - 0.8 * 0.5 * 0.6, 6);
    expect(join(three, 'sum')).toBeCloseTo(1.1, 6);
  });
  test('a pattern is taken from each before they are joined, never below nothing', () => {
    expect(join({ a: 0.5, b: 0.3, subtract: 0.4 }, 'sum')).toBeCloseTo(0.1, 6);
    expect(join({ a: 0.5, b: 0.9, subtract: 0.4 }, 'max')).toBeCloseTo(0.5, 6);
  });
});

test('facing ratio is the cosine of the angle to the eye, and 0 behind it', () => {
  const at = (degrees: number) => {
    const a = (degrees * Math.PI) / 180;
    return apply('facingRatio', {}, {}, { normal: [0, 0, 1], view: [Math.sin(a), 0, Math.cos(a)] })[0]!;
  };
  expect(at(0)).toBe(1);
  expect(at(60)).toBeCloseTo(0.5, 6);
  expect(at(120)).toBe(0);
});

test('height and slope run along an axis, either way, held to 0..1', () => {
  const point = { position: [3, 0.25, 0], worldPosition: [0, 5, 0.5], normal: [0, 0.6, 0.8] };
  expect(apply('height', {}, {}, point)).toEqual([0.25]);
  expect(apply('height', { from: 1, to: 0 }, {}, point)).toEqual([0.75]);
  expect(apply('height', { from: 0, to: 2 }, { axis: 'z', space: 'world' }, point)).toEqual([0.25]);
  expect(apply('height', {}, { space: 'world' }, point)).toEqual([1]);
  expect(apply('slope', {}, {}, point)[0]).toBeCloseTo(0.6, 6);
  expect(apply('slope', { from: 1, to: -1 }, { axis: 'z' }, point)[0]).toBeCloseTo(0.1, 6);
});

test('near is 1 in its ball, half way through its falloff one half, and 0 past it; with no falloff a hard edge', () => {
  const at = (x: number, inputs = {}) => apply('near', { radius: 0.5, falloff: 0.2, ...inputs }, {}, { position: [x, 0, 0] })[0]!;
  expect([at(0.3), at(0.8)]).toEqual([1, 0]);
  expect(at(0.6)).toBeCloseTo(0.5, 5);
  expect([at(0.49, { falloff: 0 }), at(0.51, { falloff: 0 })]).toEqual([1, 0]);
});

test('harden moves the black and the white point; in reverse it inverts', () => {
  const harden = (x: number, low = 0.4, high = 0.6) => apply('harden', { in: x, low, high })[0]!;
  expect([harden(0.3), harden(0.5), harden(0.7)].map((v) => Number(v.toFixed(5)))).toEqual([0, 0.5, 1]);
  expect(harden(0.45, 0.6, 0.4)).toBeCloseTo(0.75, 5);
});

describe('falloff', () => {
  const at = (distance: number, reach: number, shape: string) => apply('falloff', { distance, reach }, { shape })[0]!;
  test('is 1 at the middle, 1 / e or a half at its reach, and a twentieth or a tenth at three of them', () => {
    expect([at(0, 0.5, 'exponential'), at(0, 0.5, 'square')]).toEqual([1, 1]);
    // Beer and Lambert: e^-1 and e^-3. The inverse square: 1 / (1 + 1) and 1 / (1 + 9).
    expect(at(0.5, 0.5, 'exponential')).toBeCloseTo(Math.exp(-1), 5);
    expect(at(-1.5, 0.5, 'exponential')).toBeCloseTo(Math.exp(-3), 5);
    expect(at(0.5, 0.5, 'square')).toBeCloseTo(0.5, 6);
    expect(at(1.5, 0.5, 'square')).toBeCloseTo(0.1, 6);
  });
  test('without a reach only the middle is lit', () => {
    for (const shape of ['exponential', 'square'])
      expect([at(0, 0, shape), at(0.1, 0, shape) < 1e-6, at(0.1, -1, shape) < 1e-6]).toEqual([1, true, true]);
  });
});
