/** From a formula to IR: GLSL's functions, with Wispen's meaning where GLSL leaves one open. */
import type { Builder } from '../../ir/builder.js';
import { arctangent, exp2, log2, power } from '../../ir/kernels/transcendental.js';
import type { Leaf } from '../../ir/leaves.js';
import { baseOf, widthOf, type Node } from '../../ir/types.js';
import { cosine, cross, sine, turnsOf } from '../space.js';
import { FormulaError, type Expression } from './parse.js';

type Maker = (b: Builder, args: readonly Node[]) => Node;
interface FormulaFunction {
  /** How many arguments it takes, at least and at most. */
  readonly takes: readonly [number, number];
  readonly make: Maker;
}

const componentwise =
  (f: (b: Builder, ...lanes: Node[]) => Node): Maker =>
  (b, args) => {
    const width = Math.max(...args.map((a) => widthOf(a.type)));
    const wide = args.map((a) => b.split(b.widen(a, width)));
    return b.join(...Array.from({ length: width }, (_, k) => f(b, ...wide.map((w) => w[k]!))));
  };
const of = (least: number, make: Maker, most = least): FormulaFunction => ({ takes: [least, most], make });
const one = (f: (b: Builder, x: Node) => Node) => of(1, (b, [x]) => f(b, x!));
const two = (f: (b: Builder, x: Node, y: Node) => Node) => of(2, (b, [x, y]) => f(b, x!, y!));
/** Shared widths: every argument as wide as the widest. */
const alike = (b: Builder, args: readonly Node[]): Node[] => {
  const width = Math.max(...args.map((a) => widthOf(a.type)));
  return args.map((a) => b.widen(a, width));
};
const together = (width: 2 | 3 | 4): FormulaFunction =>
  of(
    1,
    (b, args) => {
      const parts = args.flatMap((a) => b.split(a));
      if (parts.length === 1) return b.widen(parts[0]!, width);
      if (parts.length !== width) throw new Error(`vec${width} takes ${width} numbers, not ${parts.length}`);
      return b.join(...parts);
    },
    4,
  );

export const FORMULA_FUNCTIONS: Readonly<Record<string, FormulaFunction>> = {
  abs: one((b, x) => b.op('abs', x)),
  sign: one((b, x) => b.op('sign', x)),
  floor: one((b, x) => b.op('floor', x)),
  ceil: one((b, x) => b.op('ceil', x)),
  round: one((b, x) => b.op('round', x)),
  fract: one((b, x) => b.composite('fract', x)),
  sqrt: one((b, x) => b.op('sqrt', x)),
  inversesqrt: one((b, x) => b.div(1, b.op('sqrt', x))),
  radians: one((b, x) => b.mul(x, Math.PI / 180)),
  degrees: one((b, x) => b.mul(x, 180 / Math.PI)),
  mod: two((b, x, y) => b.sub(x, b.mul(y, b.op('floor', b.div(x, y))))),
  min: two((b, x, y) => b.op('min', x, y)),
  max: two((b, x, y) => b.op('max', x, y)),
  step: two((b, edge, x) => b.op('select', b.op('lt', x, edge), 0, 1)),
  clamp: of(3, (b, args) => b.composite('clamp', ...alike(b, args))),
  mix: of(3, (b, args) => b.composite('mix', ...alike(b, args))),
  smoothstep: of(3, (b, args) => b.composite('smoothstep', ...alike(b, args))),
  sin: of(
    1,
    componentwise((b, x) => sine(b, turnsOf(b, x!))),
  ),
  cos: of(
    1,
    componentwise((b, x) => cosine(b, turnsOf(b, x!))),
  ),
  tan: of(
    1,
    componentwise((b, x) => b.div(sine(b, turnsOf(b, x!)), cosine(b, turnsOf(b, x!)))),
  ),
  asin: of(
    1,
    componentwise((b, x) => b.call(arctangent, x!, b.op('sqrt', b.sub(1, b.mul(x!, x!))))),
  ),
  acos: of(
    1,
    componentwise((b, x) => b.call(arctangent, b.op('sqrt', b.sub(1, b.mul(x!, x!))), x!)),
  ),
  atan: of(
    1,
    componentwise((b, y, x) => b.call(arctangent, y!, x ?? b.constant(1))),
    2,
  ),
  exp: of(
    1,
    componentwise((b, x) => b.call(exp2, b.mul(x!, Math.LOG2E))),
  ),
  exp2: of(
    1,
    componentwise((b, x) => b.call(exp2, x!)),
  ),
  log: of(
    1,
    componentwise((b, x) => b.op('select', b.op('lt', 0, x!), b.mul(b.call(log2, x!), Math.LN2), 0)),
  ),
  log2: of(
    1,
    componentwise((b, x) => b.op('select', b.op('lt', 0, x!), b.call(log2, x!), 0)),
  ),
  pow: of(
    2,
    componentwise((b, x, y) => b.call(power, x!, y!)),
  ),
  length: one((b, x) => b.composite('length', x)),
  normalize: one((b, x) => b.composite('normalize', x)),
  distance: of(2, (b, args) => {
    const [x, y] = alike(b, args) as [Node, Node];
    return b.composite('length', b.sub(x, y));
  }),
  dot: of(2, (b, args) => b.composite('dot', ...alike(b, args))),
  cross: two((b, x, y) => {
    if (widthOf(x.type) !== 3 || widthOf(y.type) !== 3) throw new Error('cross takes two vectors of three');
    return cross(b, x, y);
  }),
  reflect: of(2, (b, args) => {
    const [v, n] = alike(b, args) as [Node, Node];
    return b.sub(v, b.mul(n, b.mul(b.composite('dot', n, v), 2)));
  }),
  vec2: together(2),
  vec3: together(3),
  vec4: together(4),
};

/** Whether every function is known and given as many values as it takes: what can be said without the strands' kinds. @throws FormulaError */
export function checkFunctions(e: Expression): void {
  switch (e.kind) {
    case 'call':
      takesOf(e);
      e.args.forEach(checkFunctions);
      return;
    case 'part':
    case 'unary':
      return checkFunctions(e.of);
    case 'binary':
      checkFunctions(e.left);
      return checkFunctions(e.right);
    case 'choice':
      [e.condition, e.yes, e.no].forEach(checkFunctions);
  }
}

/** @throws FormulaError */
function takesOf(e: Extract<Expression, { kind: 'call' }>): FormulaFunction {
  const known = Object.hasOwn(FORMULA_FUNCTIONS, e.name) ? FORMULA_FUNCTIONS[e.name]! : undefined;
  if (!known) throw new FormulaError(`there is no function ${e.name}`, e.at);
  const [least, most] = known.takes;
  if (e.args.length < least || e.args.length > most)
    throw new FormulaError(
      `${e.name} takes ${least === most ? least : `${least} to ${most}`} ${most === 1 ? 'value' : 'values'}, not ${e.args.length}`,
      e.at,
    );
  return known;
}

/** Places that a formula calls by their names, and what they are. */
export const FORMULA_PLACES = {
  time: 'seconds since the loop began',
  position: 'metres, in the prop’s own space',
  worldPosition: 'metres, on the stage',
  normal: 'which way the surface faces',
  view: 'from the surface to the eye',
  uv: 'the mesh’s coordinates',
  screen: '0 to 1 over the picture',
} as const satisfies Partial<Record<Leaf, string>>;
const isPlace = (name: string): name is keyof typeof FORMULA_PLACES => Object.hasOwn(FORMULA_PLACES, name);

const CONSTANTS: Readonly<Record<string, number>> = { pi: Math.PI };
const COMPARE: Readonly<Record<string, (b: Builder, x: Node, y: Node) => Node>> = {
  '<': (b, x, y) => b.op('lt', x, y),
  '>': (b, x, y) => b.op('lt', y, x),
  '<=': (b, x, y) => b.op('le', x, y),
  '>=': (b, x, y) => b.op('le', y, x),
  '==': (b, x, y) => b.op('eq', x, y),
  '!=': (b, x, y) => b.op('not', b.op('eq', x, y)),
};

const vectorWord = (n: Node) => (widthOf(n.type) === 1 ? 'one number' : `a vector of ${widthOf(n.type)}`);

/**
 * @param names what each name of the formula stands for
 * @throws FormulaError
 */
export function lowerFormula(b: Builder, expression: Expression, names: Readonly<Record<string, Node>>): Node {
  const number = (e: Expression): Node => {
    const node = make(e);
    if (baseOf(node.type) !== 'f') throw new FormulaError('a comparison stands where a number is needed', e.at);
    return node;
  };
  const condition = (e: Expression): Node => {
    const node = make(e);
    if (baseOf(node.type) === 'b') return node;
    throw new FormulaError('a number stands where a comparison is needed', e.at);
  };
  const pair = (e: Extract<Expression, { kind: 'binary' }>): [Node, Node] => {
    const [x, y] = [number(e.left), number(e.right)];
    const widths = [widthOf(x.type), widthOf(y.type)];
    if (widths[0] !== widths[1] && !widths.includes(1))
      throw new FormulaError(`${vectorWord(x)} and ${vectorWord(y)} do not go together`, e.at);
    return [x, y];
  };
  const make = (e: Expression): Node => {
    switch (e.kind) {
      case 'number':
        return b.constant(e.value);
      case 'name': {
        const node = Object.hasOwn(names, e.name) ? names[e.name] : undefined;
        if (node) return node;
        if (Object.hasOwn(CONSTANTS, e.name)) return b.constant(CONSTANTS[e.name]!);
        if (isPlace(e.name)) return b.leaf(e.name);
        throw new FormulaError(`nothing is linked to ${e.name}`, e.at);
      }
      case 'part': {
        const of = number(e.of);
        const letters = /^[xyzw]+$/.test(e.part) ? 'xyzw' : 'rgba';
        const lanes = [...e.part].map((c) => letters.indexOf(c));
        if (lanes.some((l) => l >= widthOf(of.type))) throw new FormulaError(`${vectorWord(of)} has no ".${e.part}"`, e.at);
        return b.pick(of, ...lanes);
      }
      case 'unary':
        return e.sign === '-' ? b.op('neg', number(e.of)) : b.op('not', condition(e.of));
      case 'choice': {
        const [yes, no] = alike(b, [number(e.yes), number(e.no)]) as [Node, Node];
        return b.op('select', condition(e.condition), yes, no);
      }
      case 'binary': {
        if (e.sign === '&&' || e.sign === '||')
          return b.op(e.sign === '&&' ? 'and' : 'or', condition(e.left), condition(e.right));
        const [x, y] = pair(e);
        const compare = COMPARE[e.sign];
        if (compare) {
          if (widthOf(x.type) !== 1 || widthOf(y.type) !== 1)
            throw new FormulaError('only single numbers are compared; take one component', e.at);
          return compare(b, x, y);
        }
        if (e.sign === '+') return b.add(x, y);
        if (e.sign === '-') return b.sub(x, y);
        if (e.sign === '*') return b.mul(x, y);
        if (e.sign === '/') return b.div(x, y);
        return FORMULA_FUNCTIONS.mod!.make(b, [x, y]);
      }
      case 'call': {
        const known = takesOf(e);
        const args = e.args.map(number);
        const widths = new Set(args.map((a) => widthOf(a.type)).filter((w) => w !== 1));
        if (widths.size > 1 && !e.name.startsWith('vec'))
          throw new FormulaError(`${e.name} takes values of one width, not ${args.map(vectorWord).join(', ')}`, e.at);
        try {
          return known.make(b, args);
        } catch (error) {
          throw new FormulaError((error as Error).message, e.at);
        }
      }
    }
  };
  return number(expression);
}
