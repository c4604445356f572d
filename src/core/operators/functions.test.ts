import { MathUtils, Vector3 } from 'three';
import { apply } from '../../../tests/fixtures/read.js';
import { randomFrom } from '../../../tests/fixtures/sheets.js';
import { Builder } from '../ir/builder.js';
import { arctangent } from '../ir/kernels/transcendental.js';
import { scalarise } from '../passes/scalarise.js';
import { evaluate } from '../targets/reference.js';

const one = (op: string, x: number, options = {}) => apply(op, { in: x }, options)[0]!;
const SOME = [-7.25, -2.5, -1, -0.3, 0, 0.2, 0.5, 1, 1.5, 2.5, 9.75];

describe('functions of one value', () => {
  // The host's Math is the outside here: ECMAScript 2025, 21.3.
  test.each([
    ['abs', Math.abs],
    ['sign', Math.sign],
    ['floor', Math.floor],
    ['ceil', Math.ceil],
    ['exp', Math.exp],
    ['cos', Math.cos],
    ['tan', Math.tan],
    ['sqrt', (x: number) => Math.sqrt(Math.max(0, x))],
    ['log', (x: number) => (x > 0 ? Math.log(x) : 0)],
    ['negate', (x: number) => -x],
    ['invert', (x: number) => 1 - x],
  ] as const)('%s', (op, f) => {
    for (const x of SOME) {
      const [got, wanted] = [one(op, x), f(x)];
      // A tangent steepens with its square, and its error with it.
      const size = Math.max(1, op === 'tan' ? wanted * wanted : Math.abs(wanted));
      expect(Math.abs(got - wanted)).toBeLessThanOrEqual(1e-6 * size);
    }
  });
  test('round goes to the even one at a half (IEEE 754, roundToIntegralTiesToEven)', () => {
    expect([0.5, 1.5, 2.5, -0.5, -1.5, 2.4, 2.6].map((x) => one('round', x) + 0)).toEqual([0, 2, 2, 0, -2, 2, 3]);
  });
  test('act on each component', () => {
    expect(apply('abs', { in: [-1, 2, -3] })).toEqual([1, 2, 3]);
    expect(apply('min', { a: [1, 5], b: 3 })).toEqual([1, 3]);
    expect(apply('max', { a: [1, 5], b: 3 })).toEqual([3, 5]);
  });
});

describe('the arctangent', () => {
  const angle = (() => {
    const b = new Builder();
    const program = scalarise([b.call(arctangent, b.param(0, 1), b.param(1, 1))]);
    return (y: number, x: number) => evaluate(program, { params: Float32Array.of(y, x), leaves: {} })[0]![0]!;
  })();
  test('is the host’s within 4e-7 all the way round, at any size', () => {
    const random = randomFrom(5);
    let worst = 0;
    for (let k = 0; k < 4000; k++) {
      const size = 10 ** (random() * 12 - 6);
      const turn = random() * 2 * Math.PI;
      const [y, x] = [Math.fround(size * Math.sin(turn)), Math.fround(size * Math.cos(turn))];
      worst = Math.max(worst, Math.abs(angle(y, x) - Math.atan2(y, x)));
    }
    expect(worst).toBeLessThan(4e-7);
  });
  test('on the axes, and of the zero vector', () => {
    expect([angle(0, 1), angle(0, 0)]).toEqual([0, 0]);
    expect(angle(1, 0)).toBeCloseTo(Math.PI / 2, 6);
    expect(angle(0, -1)).toBeCloseTo(Math.PI, 6);
    expect(angle(-1, 0)).toBeCloseTo(-Math.PI / 2, 6);
    expect(apply('atan2', { a: 1, b: 1 })[0]).toBeCloseTo(Math.PI / 4, 6);
  });
});

describe('of two and three values', () => {
  test('modulo is floored: GLSL ES 3.00, 8.3, x - y floor(x / y); 0 by 0', () => {
    for (const a of SOME)
      for (const b of [-3, -0.5, 0.7, 4]) expect(apply('modulo', { a, b })[0]).toBeCloseTo(a - b * Math.floor(a / b), 5);
    expect(apply('modulo', { a: 5, b: 0 })).toEqual([0]);
  });
  test('step, compare and choose', () => {
    expect([0.49, 0.5, 0.51].map((x) => apply('step', { edge: 0.5, in: x })[0])).toEqual([0, 1, 1]);
    const compare = (test: string) => [0.2, 0.5, 0.8].map((a) => apply('compare', { a, b: 0.5 }, { test })[0]);
    expect(compare('greater')).toEqual([0, 0, 1]);
    expect(compare('greaterOrEqual')).toEqual([0, 1, 1]);
    expect(compare('equal')).toEqual([0, 1, 0]);
    expect([0, 0.49, 0.5, 1].map((condition) => apply('choose', { condition, a: 7, b: 3 })[0])).toEqual([3, 3, 7, 7]);
    expect(apply('choose', { condition: 1, a: [1, 2, 3], b: 0 })).toEqual([1, 2, 3]);
  });
  test('smootherstep: 6t^5 - 15t^4 + 10t^3 (Perlin 2002), a step where its edges meet', () => {
    for (const t of [-1, 0, 0.1, 0.25, 0.5, 0.9, 1, 3]) {
      const c = Math.max(0, Math.min(1, t));
      expect(apply('smootherstep', { low: 2, high: 6, in: 2 + 4 * t })[0]).toBeCloseTo(6 * c ** 5 - 15 * c ** 4 + 10 * c ** 3, 5);
    }
    expect([0.4, 0.5].map((x) => apply('smootherstep', { low: 0.5, high: 0.5, in: x })[0])).toEqual([0, 1]);
  });
  test('bias and gain: ends stay, 0.5 changes nothing, bias takes the middle to its amount (Schlick 1994)', () => {
    for (const amount of [0.1, 0.5, 0.8]) {
      for (const op of ['bias', 'gain']) {
        expect(apply(op, { in: 0, amount })[0]).toBeCloseTo(0, 6);
        expect(apply(op, { in: 1, amount })[0]).toBeCloseTo(1, 5);
      }
      expect(apply('bias', { in: 0.5, amount })[0]).toBeCloseTo(amount, 6);
      expect(apply('gain', { in: 0.5, amount })[0]).toBeCloseTo(0.5, 6);
      for (const t of [0.1, 0.3, 0.7]) {
        expect(apply('bias', { in: t, amount })[0]).toBeCloseTo(t / ((1 / amount - 2) * (1 - t) + 1), 5);
        // Perlin's gain: two biases back to back.
        const bias = (a: number, x: number) => x / ((1 / a - 2) * (1 - x) + 1);
        const gain = t < 0.5 ? bias(1 - amount, 2 * t) / 2 : 1 - bias(1 - amount, 2 - 2 * t) / 2;
        expect(apply('gain', { in: t, amount })[0]).toBeCloseTo(gain, 5);
      }
    }
    expect(apply('gain', { in: 0.4, amount: 0.9 })[0]).toBeLessThan(0.2);
    expect(Number.isFinite(apply('bias', { in: 0.4, amount: 0 })[0])).toBe(true);
  });
  test('quantise holds a value on so many steps to each 1', () => {
    expect([0, 0.24, 0.25, 0.99, 1].map((x) => apply('quantise', { in: x, steps: 4 })[0])).toEqual([0, 0, 0.25, 0.75, 1]);
    expect(apply('quantise', { in: 0.4, steps: 0 })).toEqual([0]);
  });
});

describe('vectors', () => {
  const A = [0.3, -1.2, 2.5];
  const B = [-0.7, 0.4, 1.1];
  const v = (x: readonly number[]) => new Vector3(...x);
  const near = (got: readonly number[], wanted: Vector3) => wanted.toArray().forEach((w, k) => expect(got[k]).toBeCloseTo(w, 5));
  // three.js's vectors are the outside here.
  test('dot, length, distance, cross, normalise', () => {
    expect(apply('dot', { a: A, b: B })[0]).toBeCloseTo(v(A).dot(v(B)), 5);
    expect(apply('length', { in: A })[0]).toBeCloseTo(v(A).length(), 5);
    expect(apply('distance', { a: A, b: B })[0]).toBeCloseTo(v(A).distanceTo(v(B)), 5);
    near(apply('cross', { a: A, b: B }), v(A).cross(v(B)));
    near(apply('normalize', { in: A }), v(A).normalize());
    expect(apply('normalize', { in: [0, 0, 0] })).toEqual([0, 0, 0]);
    expect(apply('length', { in: -3 })).toEqual([3]);
  });
  test('reflect', () => {
    const n = v(B).normalize();
    near(apply('reflect', { in: A, normal: n.toArray() }), v(A).reflect(n));
  });
  test('rotate, in degrees, by the right hand, whatever the axis’s length', () => {
    for (const angle of [-170, -30, 0, 45, 90, 200])
      near(apply('rotate', { in: A, axis: B, angle }), v(A).applyAxisAngle(v(B).normalize(), MathUtils.degToRad(angle)));
    near(apply('rotate', { in: [1, 0, 0], axis: [0, 0, 9], angle: 90 }), new Vector3(0, 1, 0));
  });
});
