import fc from 'fast-check';
import { nextDown, nextUp } from '../base/floats.js';
import { SCALAR, type ScalarOp } from '../base/scalar.js';
import { Builder } from '../ir/builder.js';
import { exp2, log2, power, sineTurns } from '../ir/kernels/transcendental.js';
import type { Interval, Kernel, Node } from '../ir/types.js';
import { evaluate } from '../targets/reference.js';
import { ranges } from './ranges.js';
import { scalarise } from './scalarise.js';

/** A place between the ends of an interval, by a share of it. */
const within = ({ low, high }: Interval, share: number) => Math.fround(low + (high - low) * share);
// Ends that a 32-bit float can hold; bounds are stated to within the rounding of those that it cannot.
const number = (min: number, max: number) => fc.float({ min, max, noNaN: true });
const ends = fc.oneof(
  fc.tuple(number(-50, 50), number(0, 32)).map(([low, size]): Interval => ({ low, high: Math.fround(low + size) })),
  // A number alone, whole numbers and their neighbours: where steps are.
  fc.tuple(fc.integer({ min: -30, max: 30 }), fc.constantFrom(1, 0.01, 0.1, 7)).map(([k, unit]): Interval => {
    const at = Math.fround(k * unit);
    return { low: at, high: at };
  }),
  fc.integer({ min: -9, max: 9 }).map((k): Interval => ({ low: nextDown(k), high: nextUp(k + 1) })),
);
const share = fc.double({ min: 0, max: 1, noNaN: true });

/** For any intervals of the inputs and any values in them, the result lies in the interval that is claimed. */
function holds(make: (b: Builder, args: Node[]) => Node, count: number): void {
  fc.assert(
    fc.property(
      fc.array(ends, { minLength: count, maxLength: count }),
      fc.array(share, { minLength: count, maxLength: count }),
      (intervals, shares) => {
        const b = new Builder();
        const node = make(
          b,
          intervals.map((_, k) => b.param(k, 1)),
        );
        const [[claimed]] = ranges(scalarise([node], { paste: false }), intervals, 4) as [[Interval]];
        const params = intervals.map((interval, k) => within(interval, shares[k]!));
        const [[value]] = evaluate(scalarise([node]), { params, leaves: {} }) as [[number]];
        // To the last bit: an end that is rounded is rounded as the values are.
        expect(Number.isNaN(value) || (value >= claimed.low && value <= claimed.high)).toBe(true);
        expect(claimed.low).toBeLessThanOrEqual(claimed.high);
      },
    ),
    { seed: 20261125, numRuns: 300 },
  );
}

const OPS = (Object.entries(SCALAR) as [ScalarOp, { args: readonly string[]; result: string }][]).filter(
  ([, r]) => r.result === 'f' && r.args.every((a) => a === 'f'),
);

/** And where it can be exact, it is. */
test.each([
  [
    'div',
    [
      [1, 2],
      [0, 0],
    ],
    [0, 0],
  ],
  [
    'div',
    [
      [0, 0],
      [-1, 1],
    ],
    [0, 0],
  ],
  [
    'div',
    [
      [2, 4],
      [-2, -1],
    ],
    [-4, -1],
  ],
  [
    'div',
    [
      [1, 2],
      [-1, 1],
    ],
    [-Infinity, Infinity],
  ],
  [
    'mul',
    [
      [-2, 3],
      [-5, 4],
    ],
    [-15, 12],
  ],
  [
    'sub',
    [
      [1, 2],
      [5, 9],
    ],
    [-8, -3],
  ],
  ['abs', [[-3, 2]], [0, 3]],
  ['abs', [[-3, -2]], [2, 3]],
  [
    'lt',
    [
      [0, 1],
      [2, 3],
    ],
    [1, 1],
  ],
  [
    'lt',
    [
      [2, 3],
      [0, 2],
    ],
    [0, 0],
  ],
  [
    'lt',
    [
      [0, 2],
      [2, 3],
    ],
    [0, 1],
  ],
  [
    'le',
    [
      [0, 2],
      [2, 3],
    ],
    [1, 1],
  ],
  [
    'eq',
    [
      [1, 1],
      [1, 1],
    ],
    [1, 1],
  ],
  [
    'eq',
    [
      [1, 2],
      [2, 3],
    ],
    [0, 1],
  ],
  [
    'eq',
    [
      [1, 2],
      [3, 4],
    ],
    [0, 0],
  ],
] as const)('%s of %j is in %j and not wider', (op, given, [low, high]) => {
  const b = new Builder();
  const node = b.op(op, ...given.map((_, k) => b.param(k, 1)));
  const intervals = given.map(([l, h]) => ({ low: l, high: h }));
  const [[claimed]] = ranges(scalarise([node], { paste: false }), intervals, 4) as [[Interval]];
  expect([claimed.low + 0, claimed.high + 0]).toEqual([low, high]);
});

describe('interval arithmetic is never too narrow', () => {
  test.each(OPS.map(([name, r]) => [name, r.args.length] as const))('%s', (name, count) =>
    holds((b, args) => b.op(name, ...args), count),
  );
  test.each([
    ['sineTurns', sineTurns, 1],
    ['exp2', exp2, 1],
    ['log2', log2, 1],
    ['power', power, 2],
  ] as [string, Kernel, number][])('%s', (_, kernel, count) => holds((b, args) => b.call(kernel, ...args), count));
  test('mix, clamp, fract and smoothstep', () => {
    holds((b, [x, y, t]) => b.composite('mix', x!, y!, t!), 3);
    holds((b, [x, low, high]) => b.composite('clamp', x!, low!, high!), 3);
    holds((b, [x]) => b.composite('fract', x!), 1);
    holds((b, [low, high, x]) => b.composite('smoothstep', low!, high!, x!), 3);
  });
  test('the same value on both sides', () => {
    holds((b, [x]) => b.mul(x!, x!), 1);
    holds((b, [x]) => b.sub(x!, x!), 1);
  });
  test.each(['lt', 'le', 'eq'] as const)('choosing by a comparison: %s', (op) =>
    holds((b, [x, y, z]) => b.op('select', b.op(op, x!, y!), z!, 1), 3),
  );
});

describe('and as narrow as an artist needs', () => {
  const rangeOf = (make: (b: Builder, x: Node) => Node, low: number, high: number) => {
    const b = new Builder();
    return ranges(scalarise([make(b, b.param(0, 1))], { paste: false }), [{ low, high }], 4)[0]![0]!;
  };
  test.each([
    ['lt', -2, 1, 1.5, 1],
    ['lt', 2, 3, 2, 0],
    ['le', -2, 1, 1, 1],
    ['le', 2, 3, 1.5, 0],
    ['eq', 2, 3, 1.5, 0],
    ['eq', 2, 2, 2, 1],
  ] as const)('a comparison that is always the same: %s of %f to %f with %f', (op, low, high, other, wanted) =>
    expect(rangeOf((b, x) => b.op('select', b.op(op, x, other), 1, 0), low, high)).toEqual({ low: wanted, high: wanted }),
  );
  test.each([
    ['lt', 1],
    ['lt', -2],
    ['le', -1.5],
    ['eq', 1],
  ] as const)('and one that may be either: %s with %f', (op, other) => {
    const { low, high } = rangeOf((b, x) => b.op('select', b.op(op, x, other), 1, 0), -2, 1.25);
    expect([low, high]).toEqual(op === 'lt' && other === -2 ? [0, 0] : [0, 1]);
  });
  test('a square is not negative', () => expect(rangeOf((b, x) => b.mul(x, x), -2, 1)).toEqual({ low: 0, high: 4 }));
  test('a fraction is 0 to 1', () => expect(rangeOf((b, x) => b.composite('fract', x), -9, 9)).toEqual({ low: 0, high: 1 }));
  test('a part to a power of more than 0 is a part, and no more than 1', () => {
    expect(rangeOf((b, x) => b.call(power, x, b.constant(2.5)), 0, 1)).toEqual({ low: 0, high: 1 });
  });
  test('a square is never below 0, and is that of its ends', () => {
    expect(rangeOf((b, x) => b.mul(x, x), -2, 3)).toEqual({ low: 0, high: 9 });
    expect(rangeOf((b, x) => b.mul(x, x), -3, -2)).toEqual({ low: 4, high: 9 });
  });
  test('a turn that passes its top or its bottom reaches it, and no other', () => {
    expect(rangeOf((b, x) => b.call(sineTurns, x), 0.7, 0.8).low).toBe(-1);
    expect(rangeOf((b, x) => b.call(sineTurns, x), 0.7, 0.8).high).toBeLessThan(0);
    expect(rangeOf((b, x) => b.call(sineTurns, x), 0.2, 0.3).high).toBe(1);
    expect(rangeOf((b, x) => b.call(sineTurns, x), 0.2, 0.3).low).toBeGreaterThan(0);
  });
  test('a mix by 0 to 1 stays between', () =>
    expect(rangeOf((b, x) => b.composite('mix', 3, 5, x), 0, 1)).toEqual({ low: nextDown(3), high: nextUp(5) }));
  test('a mix by more goes beyond', () =>
    expect(rangeOf((b, x) => b.composite('mix', 3, 5, x), 0, 2).high).toBeGreaterThanOrEqual(7));
  test('part of a turn is part of a wave', () => {
    const { low, high } = rangeOf((b, x) => b.call(sineTurns, x), 0, 0.1);
    expect(low).toBeCloseTo(0, 5);
    expect(high).toBeCloseTo(Math.sin(0.2 * Math.PI), 5);
  });
  test('dividing by what may be 0 says nothing', () =>
    expect(rangeOf((b, x) => b.div(1, x), -1, 1)).toEqual({ low: -Infinity, high: Infinity }));
});
