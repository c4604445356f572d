/**
 * The semantics of every scalar operation, in one table. Folding, the reference evaluator and the tests read it;
 * the WebAssembly and GLSL targets must agree with it, the first to the bit.
 *
 * Three bases: `f` a 32-bit float, `i` 32 bits of integer in two's complement, `b` a truth value (0 or 1).
 */
export type Base = 'f' | 'i' | 'b';
/** How many components a value has. */
export type Width = 1 | 2 | 3 | 4;

export interface ScalarRule {
  readonly args: readonly Base[];
  readonly result: Base;
  readonly apply: (a: number, b: number, c: number) => number;
}

const f = Math.fround;
const bits = new DataView(new ArrayBuffer(4));

/** The 32 bits of a float, as a signed integer. */
export function floatBits(x: number): number {
  bits.setFloat32(0, x);
  return bits.getInt32(0);
}

/** The float that these 32 bits stand for. */
export function bitsFloat(x: number): number {
  bits.setInt32(0, x);
  return bits.getFloat32(0);
}

/** Truncation towards zero, saturating at the ends of int32; NaN gives 0 (as WebAssembly's trunc_sat). */
function truncate(x: number): number {
  if (x !== x) return 0;
  return Math.max(-2147483648, Math.min(2147483647, Math.trunc(x))) | 0;
}

/** Rounds to the nearest whole number, halves to even (IEEE 754 roundToIntegralTiesToEven). */
function roundEven(x: number): number {
  const low = Math.floor(x);
  const rest = x - low;
  if (rest < 0.5) return low;
  if (rest > 0.5) return low + 1;
  return low % 2 === 0 ? low : low + 1;
}

const rule = (args: string, result: Base, apply: ScalarRule['apply']): ScalarRule => ({
  args: [...args] as Base[],
  result,
  apply,
});

export const SCALAR = {
  add: rule('ff', 'f', (a, b) => f(a + b)),
  sub: rule('ff', 'f', (a, b) => f(a - b)),
  mul: rule('ff', 'f', (a, b) => f(a * b)),
  /** Division by zero gives 0, whatever the dividend. */
  div: rule('ff', 'f', (a, b) => (b === 0 ? 0 : f(a / b))),
  neg: rule('f', 'f', (a) => -a),
  abs: rule('f', 'f', (a) => Math.abs(a)),
  sign: rule('f', 'f', (a) => (a > 0 ? 1 : a < 0 ? -1 : 0)),
  floor: rule('f', 'f', (a) => Math.floor(a)),
  ceil: rule('f', 'f', (a) => Math.ceil(a)),
  round: rule('f', 'f', (a) => roundEven(a)),
  /** The square root of a negative number is 0. */
  sqrt: rule('f', 'f', (a) => f(Math.sqrt(a < 0 ? 0 : a))),
  /** GLSL's definition: y < x ? y : x. */
  min: rule('ff', 'f', (a, b) => (b < a ? b : a)),
  /** GLSL's definition: x < y ? y : x. */
  max: rule('ff', 'f', (a, b) => (a < b ? b : a)),

  lt: rule('ff', 'b', (a, b) => (a < b ? 1 : 0)),
  le: rule('ff', 'b', (a, b) => (a <= b ? 1 : 0)),
  eq: rule('ff', 'b', (a, b) => (a === b ? 1 : 0)),
  and: rule('bb', 'b', (a, b) => a & b),
  or: rule('bb', 'b', (a, b) => a | b),
  not: rule('b', 'b', (a) => 1 - a),
  select: rule('bff', 'f', (c, a, b) => (c ? a : b)),

  iadd: rule('ii', 'i', (a, b) => (a + b) | 0),
  isub: rule('ii', 'i', (a, b) => (a - b) | 0),
  imul: rule('ii', 'i', (a, b) => Math.imul(a, b)),
  ixor: rule('ii', 'i', (a, b) => a ^ b),
  iand: rule('ii', 'i', (a, b) => a & b),
  ior: rule('ii', 'i', (a, b) => a | b),
  /** Shifts by a constant number of places. */
  ishl: rule('ii', 'i', (a, b) => a << b),
  /** Arithmetic shift: copies of the sign bit come in from the left. */
  ishr: rule('ii', 'i', (a, b) => a >> b),
  /** Logical shift: zeros come in from the left. */
  ushr: rule('ii', 'i', (a, b) => (a >>> b) | 0),

  ftoi: rule('f', 'i', (a) => truncate(a)),
  itof: rule('i', 'f', (a) => f(a)),
  fbits: rule('f', 'i', (a) => floatBits(a)),
  ibits: rule('i', 'f', (a) => bitsFloat(a)),
} as const satisfies Record<string, ScalarRule>;

export type ScalarOp = keyof typeof SCALAR;

const SCALAR_OPS: ReadonlySet<string> = new Set(Object.keys(SCALAR));
export const isScalarOp = (op: string): op is ScalarOp => SCALAR_OPS.has(op);
