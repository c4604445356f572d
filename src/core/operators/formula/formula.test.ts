import fc from 'fast-check';
import { apply, readerOf } from '../../../../tests/fixtures/read.js';
import { effectOf } from '../../../../tests/fixtures/sheets.js';
import { FormulaError, namesIn, parseFormula } from './parse.js';
import { FORMULA_FUNCTIONS } from './lower.js';

const value = (text: string, inputs: Record<string, number | number[]> = {}) =>
  apply('formula', { ...inputs, formula: { text } });
const problem = (text: string, inputs: Record<string, number | number[]> = {}) => {
  try {
    value(text, inputs);
  } catch (error) {
    return (error as Error).message;
  }
  return 'none';
};
const near = (got: readonly number[], ...wanted: number[]) => {
  expect(got).toHaveLength(wanted.length);
  wanted.forEach((w, k) => expect(got[k]).toBeCloseTo(w, 5));
};

test('arithmetic, precedence and choices as the OpenGL ES Shading Language 3.00 has them (chapter 5.1)', () => {
  near(value('1 + 2 * 3 - 4 / 2'), 5);
  near(value('-(2 - 5) * 2'), 6);
  near(value('2 - 3 - 4'), -5);
  near(value('a > 0.5 && a < 2.0 || a == 7.0 ? 1.0 : -1.0', { a: 1 }), 1);
  near(value('!(a >= 1.0) ? 3 : a != 2. ? 4 : 5', { a: 2 }), 5);
  // Sums are made before they are compared, and compared before they are joined.
  for (const [sign, wanted] of [
    ['<', 1],
    ['<=', 1],
    ['>', 0],
    ['>=', 0],
    ['==', 0],
    ['!=', 1],
  ] as const)
    near(value(`1 + 1 ${sign} 2 + 2 && a ${sign} 5 - 1 ? 1 : 0`, { a: 2 }), wanted);
  near(value('.5e1 % 3'), 2);
  near(value('-7 % 3'), 2);
});

test('vectors widen, are joined and picked', () => {
  near(value('a * 2 + vec3(1, 0, .5)', { a: [1, 2, 3] }), 3, 4, 6.5);
  near(value('vec4(a.zy, b.x, 1).wxyz', { a: [1, 2, 3], b: [9, 8] }), 1, 3, 2, 9);
  near(value('vec2(a)', { a: 3 }), 3, 3);
  near(value('dot(a, b) + length(a)', { a: [3, 4], b: [1, 0] }), 8);
  near(value('cross(vec3(1, 0, 0), vec3(0, 1, 0))'), 0, 0, 1);
  near(value('reflect(vec2(1, -1), vec2(0, 1))'), 1, 1);
});

test('every function of one number is the host’s own', () => {
  const host: Record<string, (x: number) => number> = {
    ...{ abs: Math.abs, sign: Math.sign, floor: Math.floor, ceil: Math.ceil, sqrt: Math.sqrt, sin: Math.sin, cos: Math.cos },
    ...{ tan: Math.tan, asin: Math.asin, acos: Math.acos, atan: Math.atan, exp: Math.exp, log: Math.log, log2: Math.log2 },
    exp2: (x) => 2 ** x,
    fract: (x) => x - Math.floor(x),
    round: Math.round,
    inversesqrt: (x) => 1 / Math.sqrt(x),
    radians: (x) => (x * Math.PI) / 180,
    degrees: (x) => (x * 180) / Math.PI,
  };
  for (const [name, f] of Object.entries(host)) {
    expect(FORMULA_FUNCTIONS[name]).toBeDefined();
    for (const x of [0.13, 0.42, 0.77, 0.98]) near(value(`${name}(a)`, { a: x }), Number(f(x).toFixed(7)));
  }
  near(value('atan(a, b)', { a: 1, b: -1 }), Math.atan2(1, -1));
  near(value('pow(a, 2.5)', { a: 1.7 }), 1.7 ** 2.5);
  near(value('mix(1, 3, .25) + clamp(a, 0, 1) + smoothstep(0, 1, .5) + step(.2, .1)', { a: 4 }), 3);
});

test('errors name the character and what is wrong there', () => {
  expect(problem('1 - smoothstp(0, 1, a)', { a: 1 })).toMatch(/there is no function smoothstp, at character 5\.$/);
  expect(problem('1 +')).toMatch(/the formula ends where a value is needed, at character 4\.$/);
  expect(problem('a * # 2', { a: 1 })).toMatch(/"#" means nothing in a formula, at character 5\.$/);
  expect(problem('b + 1', { a: 1 })).toMatch(/nothing is linked to b, at character 1\.$/);
  expect(problem('a.z', { a: [1, 2] })).toMatch(/a vector of 2 has no "\.z", at character 3\.$/);
  expect(problem('a + vec3(1)', { a: [1, 2] })).toMatch(/a vector of 2 and a vector of 3 do not go together, at character 3\.$/);
  expect(problem('mix(1, 2)')).toMatch(/mix takes 3 values, not 2, at character 1\.$/);
  expect(problem('(a > 1) * 2', { a: 1 })).toMatch(/a comparison stands where a number is needed/);
  expect(problem('a ? 1 : 2', { a: 1 })).toMatch(/a number stands where a comparison is needed/);
  for (const text of ['a < 1', '1 < a', 'a == a'])
    expect(problem(`${text} ? 1 : 2`, { a: [1, 2] })).toMatch(
      /only single numbers are compared; take one component, at character/,
    );
  expect(problem('(1 + 2')).toMatch(/a "\)" is needed, at character 7\.$/);
  expect(problem('')).toMatch(/the formula is empty/);
  expect(problem('('.repeat(300))).toMatch(/nested too deeply/);
  expect(problem('constructor(1)')).toMatch(/there is no function constructor/);
});

test('any text is read, or refused with a place in it; nothing else is thrown', () => {
  fc.assert(
    fc.property(
      fc.oneof(fc.string({ maxLength: 40 }), fc.string({ unit: fc.constantFrom(...'ab12.+-*/()<>?:,sin xyz'), maxLength: 60 })),
      (text) => {
        try {
          parseFormula(text);
        } catch (error) {
          if (!(error instanceof FormulaError)) throw error;
          expect(error.at).toBeGreaterThanOrEqual(0);
          expect(error.at).toBeLessThanOrEqual(text.length);
        }
      },
    ),
    { seed: 4, numRuns: 2000 },
  );
});

test('the names in a formula are those of its values, not of functions or parts', () => {
  expect(namesIn('1 - smoothstep(0, width, gap.x)')).toEqual([
    { name: 'width', at: 18 },
    { name: 'gap', at: 25 },
  ]);
});

test('a formula stands for the strands it replaces', () => {
  const effect = effectOf([
    { id: 'u', name: 'U', op: 'uv' },
    {
      id: 'five',
      name: 'Five',
      op: 'formula',
      inputs: { a: { from: 'u', part: 'x' }, b: { value: 0.3 }, formula: { value: { text: '1 - smoothstep(0, b, a)' } } },
    },
    { id: 's', name: 'S', op: 'smoothstep', inputs: { low: { value: 0 }, high: { value: 0.3 }, in: { from: 'u', part: 'x' } } },
    { id: 'i', name: 'I', op: 'invert', inputs: { in: { from: 's' } } },
  ]);
  const [formula, strands] = [readerOf(effect, 'five'), readerOf(effect, 'i')];
  for (let k = 0; k <= 20; k++) near(formula({ uv: [k / 20, 0] }), strands({ uv: [k / 20, 0] })[0]!);
});
