/** Plainer vectors: what is done lane by lane and could be done at once, sums of products that are dot products. */
import type { Builder } from '../../ir/builder.js';
import { isScalarOp } from '../../ir/builder.js';
import { sineTurns } from '../../ir/kernels/transcendental.js';
import { baseOf, widthOf, type Node } from '../../ir/types.js';
import { is, moved, oneOf, product, scaled, type Rule } from './rule.js';

/** Vectors of which one has 0 wherever the other has something are one vector. */
const put: Rule = ([x, y], { b }) => {
  const width = widthOf(x!.type);
  if (width === 1 || widthOf(y!.type) !== width) return null;
  const parts = (node: Node) => (node.op === 'join' ? node.args : node.op === 'const' ? b.split(node) : null);
  const [p, q] = [parts(x!), parts(y!)];
  if (p?.length !== width || q?.length !== width || !p.every((part, k) => is(part, 0) || is(q[k], 0))) return null;
  return b.join(...p.map((part, k) => (is(part, 0) ? q[k]! : part)));
};

/** The vector of which these are all the components, in order. */
function wholeOf(parts: readonly Node[]): Node | null {
  const [of] = parts[0]!.args;
  const all = of && widthOf(of.type) === parts.length && parts.every((p, k) => p.op === 'pick' && p.args[0] === of && is1(p, k));
  return all ? of : null;
}
const is1 = (pick: Node, lane: number) => pick.lanes!.length === 1 && pick.lanes![0] === lane;

/** `v.x a + v.y b` is a dot product. */
const products: Rule = ([x, y], { b }, node) => {
  if (widthOf(node.type) > 1) return null;
  const terms: (readonly [Node, Node])[] = [];
  const add = (part: Node): boolean => {
    if (part.op === 'add') return part.args.every(add);
    const term = scaled(b, part);
    if (term) terms.push(term);
    return term !== null;
  };
  if (!add(x!) || !add(y!) || terms.length > 4) return null;
  const of = wholeOf(terms.map(([part]) => part));
  return of && b.composite('dot', of, b.join(...terms.map(([, by]) => by)));
};

/** What stands for the lanes of one argument at once, and whether that costs nothing. */
function together(b: Builder, lanes: readonly Node[]): readonly [Node, free: boolean] | null {
  const [first] = lanes;
  if (lanes.some((lane) => widthOf(lane.type) > 1)) return null;
  if (lanes.every((lane) => lane === first)) return [first!, true];
  if (lanes.every((lane) => lane.op === 'const')) return [b.join(...lanes), true];
  const [from] = first!.args;
  if (lanes.every((lane) => lane.op === 'pick' && lane.args[0] === from))
    return [b.pick(from!, ...lanes.map((lane) => lane.lanes![0]!)), true];
  const made = joined(b, lanes);
  return [made ?? b.join(...lanes), made !== null];
}

const AT_ONCE: ReadonlySet<Node['op']> = new Set(['add', 'sub', 'mul', 'div', 'neg']);

/** The same operation in every lane, once for all of them. */
function joined(b: Builder, lanes: readonly Node[]): Node | null {
  const { op } = lanes[0]!;
  if (!AT_ONCE.has(op) || !isScalarOp(op) || lanes.some((lane) => lane.op !== op || baseOf(lane.type) !== 'f')) return null;
  const args = lanes[0]!.args.map((_, k) =>
    together(
      b,
      lanes.map((lane) => lane.args[k]!),
    ),
  );
  if (args.some((arg) => arg === null) || (op !== 'neg' && !args.some((arg) => arg![1]))) return null;
  const made = b.op(op, ...args.map((arg) => arg![0]));
  return widthOf(made.type) === lanes.length ? made : null;
}

const lanes: Rule = (args, { b }, node) => (widthOf(node.type) === args.length ? joined(b, args) : null);

/** Sines of a vector's lanes, each moved on by a number of its own, are sines of the moved vector. */
const sines: Rule = (args, { b }, node) => {
  if (widthOf(node.type) !== args.length) return null;
  const waves = args.map((arg) => (arg.kernel === sineTurns ? ([arg, b.constant(1)] as const) : scaled(b, arg)));
  if (!waves.every((wave) => wave?.[0].kernel === sineTurns)) return null;
  const turns = joined(
    b,
    waves.map((wave) => wave![0].args[0]!),
  );
  if (!turns) return null;
  // What all of them are moved by stays with each, as it does where one sine stands alone: the same is then worked out once.
  const [of, by] = moved(b, turns);
  const sines = b.split(of).map((lane, k) => b.call(sineTurns, b.add(lane, b.pick(b.widen(by, args.length), k))));
  return b.mul(b.join(...sines), b.join(...waves.map((wave) => wave![1])));
};

/** A vector's length and its direction, whatever a number scales it by. */
const length: Rule = ([x], { b }) => {
  const inner = scaled(b, x!);
  const by = inner?.[1].values;
  return by?.every((v) => v === by[0]) ? b.mul(b.composite('length', inner![0]), Math.abs(by[0]!)) : null;
};

/** One number, however often it stands in a vector. */
const numberIn = (node: Node): Node =>
  node.op === 'join' && node.args.every((arg) => arg === node.args[0]) ? node.args[0]! : node;

const unit: Rule = ([x], { b }) => {
  if (x!.op !== 'div' || widthOf(x!.args[0]!.type) === 1) return null;
  const by = numberIn(x!.args[1]!);
  return widthOf(by.type) === 1 ? b.composite('normalize', b.mul(x!.args[0]!, b.op('sign', by))) : null;
};

/** What both sides of a dot product are scaled by. */
const dot: Rule = (args, { b }) => {
  for (const [x, y] of [
    [args[0]!, args[1]!],
    [args[1]!, args[0]!],
  ] as const) {
    const inner = y.op === 'const' ? scaled(b, x) : null;
    if (inner) return b.composite('dot', inner[0], b.mul(y, inner[1]));
    const by = x.op === 'div' ? numberIn(x.args[1]!) : null;
    if (by && widthOf(by.type) === 1 && widthOf(x.args[0]!.type) > 1) return b.div(b.composite('dot', x.args[0]!, y), by);
  }
  return null;
};

const factors = (node: Node): readonly Node[] => (node.op === 'mul' ? node.args.flatMap(factors) : [node]);
/** A place's own components, or how it changes: what differs between two axes of the screen. */
const isPlace = (node: Node): boolean => node.op === 'leaf' || (node.op === 'pick' && node.args[0]!.op === 'leaf');

/** `dot(place a, c)` is `dot(place, a c)`: both axes share the product. */
const apart: Rule = ([x, y], { b }) => {
  const parts = factors(x!);
  const place = parts.find(isPlace);
  if (!place || parts.length < 2 || widthOf(place.type) !== widthOf(x!.type)) return null;
  const rest = parts.filter((part) => part !== place);
  return rest.length === parts.length - 1 ? b.composite('dot', place, product(b, [...rest, y!])) : null;
};

/** Between a dot product and one of its vector's components: one dot product with what is chosen. */
const chosen: Rule = ([given, x, y], known, node) => {
  const { b } = known;
  if (widthOf(given!.type) > 1) return null;
  const [dotted, lane] = x!.op === 'dot' ? [x!, y!] : [y!, x!];
  const [of, by] = dotted.args;
  if (dotted.op !== 'dot' || lane.op !== 'pick' || lane.args[0] !== of || by!.op !== 'const' || lane.lanes!.length > 1)
    return null;
  const alone = b.constant(...by!.values!.map((_, k) => (k === lane.lanes![0] ? 1 : 0)));
  const choice = dotted === x ? b.op('select', given!, by!, alone) : b.op('select', given!, alone, by!);
  return apart([of!, choice], known, node) ?? b.composite('dot', of!, choice);
};

/** The length of numbers that are scaled alike. */
const root: Rule = ([x], { b }) => {
  const squares =
    x!.op === 'add' ? x!.args.map((arg) => (arg.op === 'mul' && arg.args[0] === arg.args[1] ? arg.args[0]! : null)) : [];
  if (squares.length === 0 || squares.some((of) => of === null || widthOf(of.type) > 1)) return null;
  const parts = squares.map((of) => scaled(b, of!));
  const by = parts[0]?.[1];
  const alike = parts.every((part) => part !== null && part[1] === by);
  const far = b.composite('length', b.join(...(alike ? parts.map((part) => part![0]) : squares.map((of) => of!))));
  return alike ? b.mul(far, Math.abs(by!.values![0]!)) : far;
};

export const VECTORS: Partial<Record<Node['op'], Rule>> = {
  add: oneOf(put, products),
  join: oneOf(sines, lanes),
  ...{ length, dot: oneOf(dot, apart) },
  select: chosen,
  normalize: unit,
  sqrt: root,
};
