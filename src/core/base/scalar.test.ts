import { SCALAR, bitsFloat, floatBits } from './scalar.js';

describe('scalar semantics', () => {
  test('min and max are GLSL ES 3.00 section 8.3: y < x ? y : x, so a NaN on the right is dropped', () => {
    expect(SCALAR.min.apply(1, NaN, 0)).toBe(1);
    expect(SCALAR.min.apply(NaN, 1, 0)).toBeNaN();
    expect(SCALAR.max.apply(2, 3, 0)).toBe(3);
  });

  test('division by zero and the root of a negative number are 0', () => {
    expect(SCALAR.div.apply(5, 0, 0)).toBe(0);
    expect(SCALAR.div.apply(0, 0, 0)).toBe(0);
    expect(SCALAR.sqrt.apply(-4, 0, 0)).toBe(0);
  });

  test('rounds halves to even (IEEE 754 roundToIntegralTiesToEven)', () => {
    expect([-2.5, -1.5, -0.5, 0.5, 1.5, 2.5, 3.2].map((x) => Math.abs(SCALAR.round.apply(x, 0, 0)))).toEqual([
      2, 2, 0, 0, 2, 2, 3,
    ]);
  });

  test('every result is a 32-bit float or integer', () => {
    for (const [name, rule] of Object.entries(SCALAR)) {
      const args = rule.args.map((base, k) => (base === 'f' ? 1.1 + k : base === 'b' ? 1 : 3 + k)) as [number, number, number];
      const held = rule.args.map((base, k) => (base === 'f' ? Math.fround(args[k]!) : args[k]!)) as [number, number, number];
      const result = rule.apply(...held);
      if (rule.result === 'f') expect([name, result]).toEqual([name, Math.fround(result)]);
      else expect([name, result]).toEqual([name, result | 0]);
    }
  });

  test('float to integer saturates and turns NaN into 0 (WebAssembly trunc_sat)', () => {
    expect(SCALAR.ftoi.apply(3e9, 0, 0)).toBe(2147483647);
    expect(SCALAR.ftoi.apply(-3e9, 0, 0)).toBe(-2147483648);
    expect(SCALAR.ftoi.apply(NaN, 0, 0)).toBe(0);
    expect(SCALAR.ftoi.apply(-1.9, 0, 0)).toBe(-1);
  });

  test('bits of known floats (IEEE 754 binary32)', () => {
    expect(floatBits(1)).toBe(0x3f800000);
    expect(bitsFloat(0x40490fdb)).toBe(Math.fround(Math.PI));
  });
});
