/**
 * Sine, exponential, logarithm and power as polynomials, so that page, worker and GPU give one answer.
 * Coefficients are minimax fits (Lawson's iteration on Chebyshev nodes) made for this file; their largest error is
 * stated at each.
 */
import { Builder } from '../builder.js';
import { defineKernel } from '../kernel.js';
import type { Interval, Kernel, Node } from '../types.js';

/** c0 + c1 x + c2 x^2 ... by Horner's rule. */
function polynomial(b: Builder, x: Node, coefficients: readonly number[]): Node {
  const [highest, ...lower] = [...coefficients].reverse();
  return lower.reduce<Node>((sum, c) => b.add(b.mul(sum, x), c), b.constant(highest!));
}

/** sin(2 pi v) / v in powers of v^2, |v| <= 1/4; error 1.1e-10 before rounding. */
const SINE = [
  6.283185307072062, -41.34170211641736, 81.60522612141345, -76.70427722733224, 42.009727314239406, -14.393617326023055,
];
/** (2^x - 1) / x, 0 <= x <= 1; error 1.1e-8. */
const EXP2 = [
  0.6931471704373979, 0.2402272258875467, 0.05549584911430715, 0.009652684783272565, 0.0012686559417176733,
  0.00020840370260109982,
];
/** log2(1 + t) / t, sqrt(1/2) - 1 <= t <= sqrt(2) - 1; error 6e-9. */
const LOG2 = [
  1.4426950418512408, -0.7213473519800386, 0.4808979003238784, -0.36069642586775114, 0.2885852872370662, -0.2396365632718863,
  0.2042957326811146, -0.19061252957819347, 0.18782829405733426, -0.11297700582670683,
];

/** atan(t) / t in powers of t^2, 0 <= t <= 1; error 5.8e-9. */
const ARCTANGENT = [
  0.9999998863712427, -0.33332596992120195, 0.19985906379443616, -0.14161227159757495, 0.10498940120366872, -0.0723484716176368,
  0.039781121875318876, -0.014401303351316322, 0.0024567123966394017,
];

const everything: Interval = { low: -Infinity, high: Infinity };

/** The largest exponent, as a float has it. */
const MOST = Math.fround(127.99);
/** Errors of the polynomials of powers and logarithms, as shares; held by tests. */
const POWER_ERROR = 2 ** -20;
const beside = (x: number, way: -1 | 1) => x + way * POWER_ERROR * Math.max(1, Math.abs(x));

export const sineTurns: Kernel = defineKernel({
  name: 'sineTurns',
  note: 'Sine of a number of turns: sin(2 pi x).',
  params: [{ name: 'x', type: 'f1' }],
  result: 'f1',
  continuous: true,
  far: (b: Builder, [x], grownOf) => b.call(sineTurns, grownOf(x!)!.near),
  derivative: (b: Builder, [x], [change]) => b.mul(change!, b.mul(b.call(sineTurns, b.add(x!, 0.25)), 2 * Math.PI)),
  range: ([given]) => {
    if (!given) return { low: -1, high: 1 };
    // Far out a float holds few digits of a turn: what it was rounded to may lie beside the interval.
    const slack = Math.max(Math.abs(given.low), Math.abs(given.high)) * 2 ** -21;
    const x = { low: given.low - slack, high: given.high + slack };
    if (!(x.high - x.low < 1)) return { low: -1, high: 1 };
    // The polynomial's own error, beside the sine's.
    const s = (t: number) => Math.sin(2 * Math.PI * t);
    const error = 2 ** -20;
    const reaches = (place: number) => Math.ceil(x.low - place) <= x.high - place;
    return {
      low: reaches(0.75) ? -1 : Math.max(-1, Math.min(s(x.low), s(x.high)) - error),
      high: reaches(0.25) ? 1 : Math.min(1, Math.max(s(x.low), s(x.high)) + error),
    };
  },
  build: (b, x) => {
    // Within half a turn of zero, then both outer quarters folded back onto one odd polynomial; every step is exact.
    const r = b.sub(x!, b.op('floor', b.add(x!, 0.5)));
    const v = b.op('max', b.op('min', r, b.sub(0.5, r)), b.sub(-0.5, r));
    const s = b.mul(v, polynomial(b, b.mul(v, v), SINE));
    return b.op('min', b.op('max', s, -1), 1);
  },
});

export const exp2: Kernel = defineKernel({
  name: 'exp2Kernel',
  note: 'Two to the power of x; 0 below -126, held at 2^127.99 above.',
  params: [{ name: 'x', type: 'f1' }],
  result: 'f1',
  continuous: true,
  derivative: (b: Builder, [x], [change]) => b.mul(change!, b.mul(b.call(exp2, x!), Math.LN2)),
  range: ([x]) => {
    const value = (t: number) => (t < -126 ? 0 : 2 ** Math.min(t, MOST));
    return { low: value(x!.low) * (1 - POWER_ERROR), high: value(x!.high) * (1 + POWER_ERROR) };
  },
  build: (b, x) => {
    const held = b.op('min', b.op('max', x!, -126), 127.99);
    const whole = b.op('floor', held);
    const rest = b.sub(held, whole);
    const fraction = b.add(b.mul(rest, polynomial(b, rest, EXP2)), 1);
    const scale = b.op('ibits', b.op('ishl', b.op('iadd', b.op('ftoi', whole), b.integer(127)), b.integer(23)));
    return b.op('select', b.op('lt', x!, -126), 0, b.mul(fraction, scale));
  },
});

export const log2: Kernel = defineKernel({
  name: 'log2Kernel',
  note: 'Logarithm to the base of 2, for x above 0.',
  params: [{ name: 'x', type: 'f1' }],
  result: 'f1',
  continuous: true,
  derivative: (b: Builder, [x], [change]) => b.div(b.mul(change!, Math.LOG2E), x!),
  // Below the smallest normal float the exponent stops counting.
  range: ([x]) =>
    x && x.low > 0
      ? {
          low: x.low < 2 ** -126 ? -127.5 : beside(Math.log2(x.low), -1),
          high: beside(Math.log2(Math.max(x.high, 2 ** -126)), 1),
        }
      : everything,
  build: (b, x) => {
    // Subtracting the bits of sqrt(1/2) puts the mantissa between sqrt(1/2) and sqrt(2).
    const raw = b.op('fbits', x!);
    const base = b.integer(0x3f3504f3);
    const exponent = b.op('ishr', b.op('isub', raw, base), b.integer(23));
    const mantissa = b.op('ibits', b.op('isub', raw, b.op('ishl', exponent, b.integer(23))));
    const t = b.sub(mantissa, 1);
    return b.add(b.op('itof', exponent), b.mul(t, polynomial(b, t, LOG2)));
  },
});

export const power: Kernel = defineKernel({
  name: 'power',
  note: 'x to the power of y; 0 where x is not above 0.',
  params: [
    { name: 'x', type: 'f1' },
    { name: 'y', type: 'f1' },
  ],
  result: 'f1',
  continuous: true,
  // x^y (y dx / x + ln x dy), and flat where x is not above 0.
  derivative: (b: Builder, [x, y], [dx, dy]) => {
    const value = b.call(power, x!, y!);
    const byBase = dx && b.mul(dx, b.div(b.mul(value, y!), x!));
    const byExponent = dy && b.mul(dy, b.mul(value, b.mul(b.call(log2, x!), Math.LN2)));
    const sum = byBase && byExponent ? b.add(byBase, byExponent) : (byBase ?? byExponent)!;
    return b.op('select', b.op('lt', 0, x!), sum, 0);
  },
  range: ([x, y]) => {
    const low = Math.max(x!.low, 0);
    const high = Math.max(x!.high, 0);
    if (high === 0) return { low: 0, high: 0 };
    // The logarithm's error grows with the exponent: what it comes to, as a share of the power.
    const raise = (base: number, exponent: number, way: -1 | 1) => {
      if (base === 0) return exponent > 0 ? 0 : exponent === 0 ? 1 : 2 ** 128;
      const error = POWER_ERROR * (2 + Math.abs(exponent) * (1 + Math.abs(Math.log2(base))));
      const value = Math.min(base ** exponent, 2 ** MOST) * (1 + way * error);
      // A part to a power of 0 and more is a part: not one float above 1 (tried, 40 million of them).
      return base <= 1 && exponent >= 0 ? Math.min(value, 1) : value;
    };
    // Below the smallest normal float the logarithm stops counting, somewhere between these.
    const bases = [low, high].flatMap((base) => (base > 0 && base < 2 ** -126 ? [2 ** -127.5, 2 ** -126] : [base]));
    const corners = (way: -1 | 1) => bases.flatMap((base) => [raise(base, y!.low, way), raise(base, y!.high, way)]);
    return { low: x!.low <= 0 ? 0 : Math.max(0, Math.min(...corners(-1))), high: Math.max(...corners(1)) };
  },
  build: (b, x, y) => {
    const value = b.call(exp2, b.mul(y!, b.call(log2, x!)));
    return b.op('select', b.op('lt', 0, x!), value, 0);
  },
});

export const arctangent: Kernel = defineKernel({
  name: 'arctangent',
  note: 'The angle of the direction (x, y) from the x axis, -pi to pi; 0 for the zero vector.',
  params: [
    { name: 'y', type: 'f1' },
    { name: 'x', type: 'f1' },
  ],
  result: 'f1',
  // It jumps by a whole turn behind the origin.
  continuous: false,
  // (x dy - y dx) / (x^2 + y^2)
  derivative: (b: Builder, [y, x], [dy, dx]) => {
    const up = dy && b.mul(x!, dy);
    const across = dx && b.mul(y!, dx);
    const turn = up && across ? b.sub(up, across) : (up ?? b.op('neg', across!));
    return b.div(turn, b.add(b.mul(x!, x!), b.mul(y!, y!)));
  },
  range: () => ({ low: Math.fround(-Math.PI), high: Math.fround(Math.PI) }),
  build: (b, y, x) => {
    const [across, up] = [b.op('abs', x!), b.op('abs', y!)];
    // The steeper half is the shallower one, turned over; so the polynomial needs to reach to 1 only.
    const t = b.div(b.op('min', across, up), b.op('max', across, up));
    const shallow = b.mul(t, polynomial(b, b.mul(t, t), ARCTANGENT));
    const quarter = b.op('select', b.op('lt', across, up), b.sub(Math.PI / 2, shallow), shallow);
    const half = b.op('select', b.op('lt', x!, 0), b.sub(Math.PI, quarter), quarter);
    return b.op('select', b.op('lt', y!, 0), b.op('neg', half), half);
  },
});
