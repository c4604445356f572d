import { converter, interpolate } from 'culori';
import { apply, applier } from '../../../tests/fixtures/read.js';
import { Builder } from '../ir/builder.js';
import { scalarise } from '../passes/scalarise.js';
import { evaluate } from '../targets/reference.js';
import { fromOklab, toOklab } from './oklab.js';

const hue = (r: number, g: number, b: number) => ({
  rgb: [r, g, b] as [number, number, number],
  intensity: 1,
  unit: 'factor' as const,
});
const near = (got: readonly number[], wanted: readonly number[], digits = 5) =>
  wanted.forEach((w, k) => expect(got[k]).toBeCloseTo(w, digits));

describe('OKLab', () => {
  const lab = (rgb: number[]) => {
    const b = new Builder();
    const colour = b.param(0, 3);
    const there = toOklab(b, colour);
    const program = scalarise([b.join(...there), fromOklab(b, there)]);
    return evaluate(program, { params: Float32Array.from(rgb), leaves: {} });
  };
  // Values on which culori and colorjs.io agree.
  test.each([
    [
      [1, 0, 0],
      [0.6279554, 0.2248631, 0.1258463],
    ],
    [
      [0, 1, 0],
      [0.8664396, -0.2338876, 0.1794984],
    ],
    [
      [0, 0, 1],
      [0.4520137, -0.032457, -0.3115282],
    ],
  ])('of %j', (rgb, wanted) => near(lab(rgb)[0]!, wanted, 5));
  test('there and back, far above 1 and below 0 too', () => {
    for (const rgb of [
      [0.2, 0.5, 0.9],
      [40, 2, 0.1],
      [-0.2, 0.4, 1],
    ]) {
      const back = lab(rgb)[1]!;
      rgb.forEach((c, k) => expect(Math.abs(back[k]! - c)).toBeLessThan(2e-5 * Math.max(1, ...rgb)));
    }
  });
});

describe('hue', () => {
  test('a turn of nothing, or all the way, changes nothing; half a turn changes a and b about', () => {
    near(apply('hueShift', { in: hue(0.2, 0.5, 0.9), angle: 0 }), [0.2, 0.5, 0.9]);
    near(apply('hueShift', { in: hue(0.2, 0.5, 0.9), angle: 360 }), [0.2, 0.5, 0.9], 4);
    near(apply('hueShift', { in: hue(0.4, 0.4, 0.4), angle: 77 }), [0.4, 0.4, 0.4], 4);
  });
  test('luminance and saturation: ITU-R BT.709', () => {
    expect(apply('luminance', { in: hue(1, 0, 0) })[0]).toBeCloseTo(0.2126, 6);
    expect(apply('luminance', { in: hue(0, 1, 0) })[0]).toBeCloseTo(0.7152, 6);
    expect(apply('luminance', { in: hue(0, 0, 1) })[0]).toBeCloseTo(0.0722, 6);
    near(apply('saturation', { in: hue(1, 0, 0), amount: 0 }), [0.2126, 0.2126, 0.2126]);
    near(apply('saturation', { in: hue(0.3, 0.5, 0.7), amount: 1 }), [0.3, 0.5, 0.7]);
    expect(apply('luminance', { in: hue(0.3, 0.5, 0.7) })[0]).toBeCloseTo(0.2126 * 0.3 + 0.7152 * 0.5 + 0.0722 * 0.7, 6);
  });
  test('contrast leaves its pivot (MaterialX)', () => {
    expect(apply('contrast', { in: 0.5, amount: 3 })).toEqual([0.5]);
    expect(apply('contrast', { in: 0.8, amount: 2, pivot: 0.2 })[0]).toBeCloseTo(1.4, 6);
  });
  test('the cosine palette, by its formula', () => {
    const at = (x: number) => [0, 0.33, 0.67].map((phase) => 0.5 + 0.5 * Math.cos(2 * Math.PI * (x + phase)));
    for (const x of [0, 0.2, 0.7, 3.1]) near(apply('palette', { in: x }), at(x), 4);
  });
});

describe('black body', () => {
  // CIE 1931 chromaticity on the Planckian locus, integrated from Planck's law with the standard observer.
  test.each([
    [2000, 0.5269, 0.4133],
    [3000, 0.4366, 0.4042],
    [5000, 0.345, 0.3516],
    [6504, 0.3134, 0.3236],
    [10000, 0.2807, 0.2883],
  ])('%i K lies at %f, %f', (kelvin, x, y) => {
    const [r, g, b] = apply('blackbody', { in: kelvin }) as [number, number, number];
    expect(Math.max(r, g, b)).toBeCloseTo(1, 6);
    // IEC 61966-2-1, linear Rec.709 to XYZ.
    const X = 0.4124564 * r + 0.3575761 * g + 0.1804375 * b;
    const Y = 0.2126729 * r + 0.7151522 * g + 0.072175 * b;
    const Z = 0.0193339 * r + 0.119192 * g + 0.9503041 * b;
    expect(Math.abs(X / (X + Y + Z) - x)).toBeLessThan(0.0015);
    expect(Math.abs(Y / (X + Y + Z) - y)).toBeLessThan(0.0015);
  });
  test('colder is redder, and beyond the ends it stays', () => {
    const blue = (k: number) => apply('blackbody', { in: k })[2]! / apply('blackbody', { in: k })[0]!;
    expect([2000, 3000, 5000, 8000].map(blue)).toEqual([...[2000, 3000, 5000, 8000].map(blue)].sort((a, b) => a - b));
    expect(apply('blackbody', { in: 100 })).toEqual(apply('blackbody', { in: 1667 }));
  });
});

describe('blend', () => {
  /** W3C Compositing and Blending Level 1, 9.1.1 to 9.1.12, as it is written there. */
  const W3C: Record<string, (cb: number, cs: number) => number> = {
    normal: (_, cs) => cs,
    multiply: (cb, cs) => cb * cs,
    screen: (cb, cs) => cb + cs - cb * cs,
    overlay: (cb, cs) => W3C.hardLight!(cs, cb),
    darken: Math.min,
    lighten: Math.max,
    dodge: (cb, cs) => (cb === 0 ? 0 : cs === 1 ? 1 : Math.min(1, cb / (1 - cs))),
    burn: (cb, cs) => (cb === 1 ? 1 : cs === 0 ? 0 : 1 - Math.min(1, (1 - cb) / cs)),
    hardLight: (cb, cs) => (cs <= 0.5 ? W3C.multiply!(cb, 2 * cs) : W3C.screen!(cb, 2 * cs - 1)),
    softLight: (cb, cs) => {
      const d = cb <= 0.25 ? ((16 * cb - 12) * cb + 4) * cb : Math.sqrt(cb);
      return cs <= 0.5 ? cb - (1 - 2 * cs) * cb * (1 - cb) : cb + (2 * cs - 1) * (d - cb);
    },
    difference: (cb, cs) => Math.abs(cb - cs),
    exclusion: (cb, cs) => cb + cs - 2 * cb * cs,
  };
  test.each(Object.keys(W3C))('%s', (mode) => {
    const steps = [0, 0.1, 0.25, 0.4, 0.5, 0.7, 0.9, 1];
    for (const cb of steps)
      for (const cs of steps) {
        const [got] = apply('blend', { a: hue(cb, cb, cb), b: hue(cs, cs, cs) }, { mode });
        expect(Math.abs(got! - W3C[mode]!(cb, cs))).toBeLessThan(1e-6);
      }
  });
  test('soft light at the values of the references: backdrop, source', () => {
    for (const [cb, cs, wanted] of [
      [0.5, 0.3, 0.4],
      [0.2, 0.7, 0.2992],
      [0.9, 0.6, 0.909737],
    ] as const)
      expect(apply('blend', { a: hue(cb, cb, cb), b: hue(cs, cs, cs) }, { mode: 'softLight' })[0]).toBeCloseTo(wanted, 5);
  });
  test('lays on as much as is asked, and does not clamp what is above 1', () => {
    near(apply('blend', { a: hue(10, 0, 0), b: hue(0, 20, 0), amount: 0.5 }), [5, 10, 0]);
    near(apply('blend', { a: hue(10, 2, 0), b: hue(3, 5, 0) }, { mode: 'multiply' }), [30, 10, 0]);
  });
});

describe('ramp', () => {
  const ramp = (space: 'linear' | 'oklab', interpolation: 'linear' | 'smooth' | 'step') => ({
    stops: {
      stops: [
        { at: 0.1, rgb: [0.9, 0.1, 0.05] as [number, number, number] },
        { at: 0.5, rgb: [0.1, 0.4, 0.8] as [number, number, number] },
        { at: 0.9, rgb: [1, 0.9, 0.2] as [number, number, number] },
      ],
      space,
      interpolation,
    },
  });
  const linear = { mode: 'lrgb', r: 0.9, g: 0.1, b: 0.05 } as const;
  const stops = [linear, { mode: 'lrgb', r: 0.1, g: 0.4, b: 0.8 }, { mode: 'lrgb', r: 1, g: 0.9, b: 0.2 }] as const;
  // culori, an independent colour library, mixes the same stops.
  test.each(['linear', 'oklab'] as const)('in %s light, against culori', (space) => {
    const mixed = interpolate([...stops], space === 'oklab' ? 'oklab' : 'lrgb');
    const toLinear = converter('lrgb');
    for (let k = 0; k <= 20; k++) {
      const t = k / 20;
      const { r, g, b } = toLinear(mixed(t));
      near(apply('ramp', { in: 0.1 + 0.8 * t, ...ramp(space, 'linear') }), [r, g, b], 4);
    }
  });
  test('holds its ends, is a stop at its place, and may step', () => {
    near(apply('ramp', { in: -3, ...ramp('oklab', 'linear') }), [0.9, 0.1, 0.05]);
    near(apply('ramp', { in: 3, ...ramp('linear', 'smooth') }), [1, 0.9, 0.2]);
    near(apply('ramp', { in: 0.5, ...ramp('linear', 'smooth') }), [0.1, 0.4, 0.8]);
    near(apply('ramp', { in: 0.49, ...ramp('linear', 'step') }), [0.9, 0.1, 0.05]);
    near(apply('ramp', { in: 0.5, ...ramp('linear', 'step') }), [0.1, 0.4, 0.8]);
    // smooth: 3 t^2 - 2 t^3 at a quarter.
    const t = 3 / 16 - 2 / 64;
    near(apply('ramp', { in: 0.2, ...ramp('linear', 'smooth') }), [0.9 - 0.8 * t, 0.1 + 0.3 * t, 0.05 + 0.75 * t]);
  });
  test('a stop’s place and colour are inputs of their own, and two stops at one place are an edge', () => {
    const moved = { in: 0.65, ...ramp('linear', 'linear'), 'stops.1.place': 0.6, 'stops.2.colour': [0, 1, 0] };
    near(apply('ramp', moved), [0.1 * (1 - 1 / 6), 0.4 + 0.6 / 6, 0.8 * (1 - 1 / 6)]);
    const edge = (x: number) => apply('ramp', { in: x, ...ramp('linear', 'linear'), 'stops.1.place': 0.1 });
    near(edge(0.0999), [0.9, 0.1, 0.05]);
    near(edge(0.1), [0.1, 0.4, 0.8]);
  });
});

test('split complement: hues 180 less and more the angle away, equally light, against culori', () => {
  const toLinear = converter('lrgb');
  const oklch = converter('oklch')({ mode: 'lrgb', r: 0.8, g: 0.2, b: 0.1 });
  for (const [port, by] of [
    ['first', 210],
    ['second', 150],
  ] as const) {
    const { r, g, b } = toLinear({ ...oklch, h: oklch.h! + by });
    near(applier('splitComplement', { in: hue(0.8, 0.2, 0.1), angle: 30 }, {}, { port })(), [r, g, b], 4);
  }
});

test('a shared dial is the library’s value, by its id; one that is not there is said', () => {
  near(apply('shared', { shared: { text: 'tide' } }), [0.4]);
  expect(() => apply('shared', { shared: { text: 'moon' } })).toThrow(/There is no shared dial "moon"/);
  near(apply('shared', {}), [0]);
});
