/** What the parts of a formula are as operators, and the other way round: their meaning is the same, to the node. */

export interface AsOperator {
  readonly op: string;
  /** Its inputs, in the order of the formula's arguments. */
  readonly inputs: readonly string[];
  readonly options?: Readonly<Record<string, string>>;
}
const same = (op: string, ...inputs: string[]): AsOperator => ({ op, inputs });

/** By the function's name. What is missing has no operator of its own. */
export const FUNCTION_OPERATORS: Readonly<Record<string, AsOperator>> = {
  ...Object.fromEntries(
    ['abs', 'sign', 'floor', 'ceil', 'round', 'fract', 'sqrt', 'sin', 'cos', 'tan', 'exp', 'log', 'length', 'normalize'].map(
      (op) => [op, same(op, 'in')],
    ),
  ),
  ...Object.fromEntries(['min', 'max', 'dot', 'cross', 'distance'].map((op) => [op, same(op, 'a', 'b')])),
  mod: same('modulo', 'a', 'b'),
  pow: same('power', 'in', 'exponent'),
  step: same('step', 'edge', 'in'),
  clamp: same('clamp', 'in', 'low', 'high'),
  mix: same('mix', 'a', 'b', 'amount'),
  smoothstep: same('smoothstep', 'low', 'high', 'in'),
  reflect: same('reflect', 'in', 'normal'),
};

/** By the sign between two values. */
export const SIGN_OPERATORS: Readonly<Record<string, AsOperator>> = {
  '+': same('add', 'a', 'b'),
  '-': same('subtract', 'a', 'b'),
  '*': same('multiply', 'a', 'b'),
  '/': same('divide', 'a', 'b'),
  '%': same('modulo', 'a', 'b'),
};
export const NEGATIVE = same('negate', 'in');
export const JOINED = same('join', 'x', 'y', 'z', 'w');

/** By the place's name. */
export const PLACE_OPERATORS: Readonly<Record<string, AsOperator>> = {
  time: same('time'),
  position: { ...same('position'), options: { space: 'object' } },
  worldPosition: { ...same('position'), options: { space: 'world' } },
  normal: { ...same('normal'), options: { space: 'world' } },
  view: same('view'),
  uv: same('uv'),
  screen: same('screen'),
};
