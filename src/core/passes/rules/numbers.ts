/** Plainer arithmetic: constants gathered, limits that cannot matter left out, powers that products serve. */
import type { Builder } from '../../ir/builder.js';
import { power, sineTurns } from '../../ir/kernels/transcendental.js';
import { rebuilt } from '../../ir/rebuilt.js';
import { widthOf, type Interval, type Node } from '../../ir/types.js';
import { is, moved, oneOf, scaled, scaledEnds, type Known, type Rule } from './rule.js';

const square = (b: Builder, x: Node) => b.mul(x, x);
/** Whole and half exponents that products and roots serve, from a base that is not below 0. */
const POWERS: Readonly<Record<string, (b: Builder, x: Node) => Node>> = {
  0.5: (b, x) => b.op('sqrt', x),
  1: (_, x) => x,
  1.5: (b, x) => b.mul(x, b.op('sqrt', x)),
  2: (b, x) => b.mul(x, x),
  3: (b, x) => b.mul(b.mul(x, x), x),
  4: (b, x) => square(b, square(b, x)),
  5: (b, x) => b.mul(square(b, square(b, x)), x),
  6: (b, x) => square(b, b.mul(b.mul(x, x), x)),
  7: (b, x) => b.mul(square(b, b.mul(b.mul(x, x), x)), x),
  8: (b, x) => square(b, square(b, square(b, x))),
};

const powered: Rule = ([x, y], { b, range }, node) => {
  const product = node.kernel === power && y!.op === 'const' ? POWERS[y!.values![0]!] : undefined;
  return product ? product(b, range(0).low >= 0 ? x! : b.op('max', x!, 0)) : null;
};

/** The power that x is the base of, times what: its slope is `(x^n n) / x`. */
function powerOf(node: Node, x: Node): readonly [exponent: number, by: Node] | null {
  if (node.op !== 'mul') return null;
  const [value, by] = node.args as [Node, Node];
  const exponent = value.kernel === power && value.args[0] === x ? value.args[1]! : null;
  return exponent?.op === 'const' ? [exponent.values![0]!, by] : null;
}

/** `(x^n n) / x` is `x^(n - 1) n`, where products serve. */
const slopeOfPower: Rule = ([, x], { b, range }, node) => {
  const found = powerOf(node.args[0]!, node.args[1]!);
  const product = found && POWERS[found[0] - 1];
  return product ? b.mul(product(b, range(1).low >= 0 ? x! : b.op('max', x!, 0)), found[1]) : null;
};

/** `0 < x ? slope of x^n : 0`: from the exponent 1.5 on it is 0 there by itself. */
const guardOfPower: Rule = ([, slope, otherwise], _, { args: [guard, whole] }) => {
  if (!is(otherwise, 0) || guard!.op !== 'lt' || !is(guard!.args[0], 0) || whole!.op !== 'mul') return null;
  const x = guard!.args[1]!;
  const of = whole!.args.find((arg) => arg.op === 'div' && arg.args[1] === x);
  const found = of && powerOf(of.args[0]!, x);
  return found && found[0] >= 1.5 && POWERS[found[0] - 1] ? slope! : null;
};

/** The larger (`max`) or the smaller: one side may always win, and two limits are one. */
const extreme =
  (name: 'max' | 'min'): Rule =>
  ([x, y], { b, range }, node) => {
    const [p, q] = [range(0), range(1)];
    const width = widthOf(node.type);
    const above = (a: Interval, c: Interval) => (name === 'max' ? a.low >= c.high : a.high <= c.low);
    if (above(p, q)) return b.widen(x!, width);
    if (above(q, p)) return b.widen(y!, width);
    if (x!.op === name && x!.args[1]!.op === 'const' && y!.op === 'const')
      return b.op(name, x!.args[0]!, b.op(name, x!.args[1]!, y!));
    return null;
  };

/** Above a limit that is below the number asked about: the limit does not matter. */
const above: Rule = ([x, y], { b }) => {
  const [of, limit] = y!.args as [Node, Node];
  if (x!.op !== 'const' || y!.op !== 'max' || limit.op !== 'const' || widthOf(y!.type) > 1) return null;
  return limit.values![0]! <= x!.values![0]! ? b.op('lt', x!, of) : null;
};

const clamp: Rule = ([x, low, high], { b, range }, node) => {
  const [value, least, most] = [range(0), range(1), range(2)];
  const width = widthOf(node.type);
  const [over, under] = [value.low >= least.high, value.high <= most.low];
  if (over && under) return b.widen(x!, width);
  if (least.high > most.low) return null;
  if (over) return b.op('min', b.widen(x!, width), high!);
  if (under) return b.op('max', b.widen(x!, width), low!);
  return null;
};

const mix: Rule = ([x, y, t], { b }, node) => {
  const width = widthOf(node.type);
  if (x === y || is(t, 0)) return b.widen(x!, width);
  if (is(t, 1)) return b.widen(y!, width);
  if (is(x, 0)) return b.widen(b.mul(y!, t!), width);
  if (is(x, 1) && is(y, 0)) return b.widen(b.sub(1, t!), width);
  return null;
};

/** Between two ends that are a fixed way apart, or the wrong way round. */
const smoothstep: Rule = ([low, high, x], { b }) => {
  const numbers = low!.op === 'const' && high!.op === 'const';
  if (numbers)
    return low!.values!.every((v, k) => v > high!.values![k % high!.values!.length]!)
      ? b.sub(1, b.composite('smoothstep', high!, low!, x!))
      : null;
  const [from, by] = moved(b, low!);
  const [to, and] = moved(b, high!);
  const way = b.sub(and, by);
  return from === to && way.values!.every((v) => v > 0) ? b.composite('smoothstep', 0, way, b.sub(x!, low!)) : null;
};

/** A product of which a factor has a constant in it already: that one scaled instead. */
function scaledWithin(given: Known, product: Node, was: Node, by: Node): Node | null {
  const { b, alone } = given;
  if (product.op !== 'mul' || !alone(was)) return null;
  for (const k of [0, 1]) {
    const factor = product.args[k]!;
    const inner = factor.op === 'mul' ? scaled(b, factor) : null;
    const wide = inner && widthOf(inner[1].type) >= widthOf(by.type) ? b.mul(inner[0], b.mul(inner[1], by)) : null;
    const made = wide ?? (was.op === 'mul' && alone(was.args[k]!) ? scaledEnds(b, factor, by) : null);
    if (made) return b.mul(made, product.args[1 - k]!);
  }
  return null;
}

/** Two scales are one; so are a scale and a scaled sum's own. */
const scale: Rule = ([x, y], known, node) => {
  const { b } = known;
  const to = (given: Node, by: Node) => (node.op === 'div' ? b.div(given, by) : b.mul(given, by));
  const [of, by] = y!.op === 'const' ? [x!, y!] : node.op === 'mul' ? [y!, x!] : [x!, x!];
  if (by.op !== 'const' || of.op === 'const') return null;
  const inner = scaled(b, of);
  if (inner) return b.mul(inner[0], to(inner[1], by));
  if (node.op === 'mul') {
    const within = scaledWithin(known, of, node.args[of === x ? 0 : 1]!, by);
    if (within) return within;
  }
  const parts = of.op === 'add' ? of.args.map((arg) => scaled(b, arg)) : [];
  return parts.length > 0 && parts.every((part) => part !== null)
    ? parts.map((part) => b.mul(part![0], to(part![1], by))).reduce((p, q) => b.add(p, q))
    : null;
};

const nothing: Rule = (args, { b, range }, node) => {
  const finite = ({ low, high }: Interval) => low > -Infinity && high < Infinity;
  for (const k of [0, 1]) if (is(args[k], 0) && finite(range(1 - k))) return b.widen(0, widthOf(node.type));
  return null;
};

/** `x + -y` is `x - y`. */
const lessOf: Rule = ([x, y], { b }) =>
  y!.op === 'neg' ? b.sub(x!, y!.args[0]!) : x!.op === 'neg' ? b.sub(y!, x!.args[0]!) : null;

/** `-x y` is `-(x y)`, which a sum takes away. */
const negative: Rule = ([x, y], { b }) => {
  if (x!.op === 'neg') return y!.op === 'const' ? b.mul(x!.args[0]!, b.op('neg', y!)) : b.op('neg', b.mul(x!.args[0]!, y!));
  return y!.op === 'neg' ? b.op('neg', b.mul(x!, y!.args[0]!)) : null;
};

/** `(x + c) + d` is `x + (c + d)`; so it is where that is scaled between and nothing else reads it. */
const sum: Rule = ([x, y], { b, alone }, node) => {
  const [rest, by, k] = y!.op === 'const' ? [x!, y!, 0] : [y!, x!, 1];
  if (by.op !== 'const') return null;
  const inner = scaled(b, rest);
  if (inner && alone(node.args[k]!)) {
    const [of, already] = moved(b, inner[0]);
    if (of !== inner[0]) return b.add(b.mul(of, inner[1]), b.add(b.mul(already, inner[1]), by));
  }
  const [of, already] = moved(b, rest);
  return of === rest ? null : b.add(of, b.add(already, by));
};

/** Whole numbers do not matter to a fraction. */
const fract: Rule = ([x], { b }, node) => {
  const parts = summands(b, x!);
  const isWhole = (part: Node) => part.op === 'const' && part.values!.every(Number.isInteger);
  const rest = parts.filter((part) => !isWhole(part));
  if (rest.length === parts.length || rest.length === 0) return null;
  const left = rest.reduce((p, q) => b.add(p, q));
  return b.widen(b.composite('fract', left), widthOf(node.type));
};

/** `x - c` is `x + -c`, `0 - x` is `-x`, and of two that stand a fixed way apart that way is left. */
const difference: Rule = ([x, y], given, node) => {
  const { b } = given;
  const width = widthOf(node.type);
  if (y!.op === 'const') return sum([x!, b.op('neg', y!)], given, node) ?? b.add(x!, b.op('neg', y!));
  if (is(x, 0)) return b.widen(b.op('neg', y!), width);
  const [of, by] = moved(b, x!);
  if (of === y) return b.widen(by, width);
  // c - (d - x) is (c - d) + x.
  if (x!.op === 'const' && y!.op === 'sub' && y!.args[0]!.op === 'const') return b.add(y!.args[1]!, b.sub(x!, y!.args[0]!));
  const [taken, more] = moved(b, y!);
  return x!.op === 'const' && taken !== y ? b.sub(b.sub(x!, more), taken) : null;
};

/** What is scaled the other way. */
const negated: Rule = ([x], { b }) => {
  const inner = scaled(b, x!);
  return inner && b.mul(inner[0], b.op('neg', inner[1]));
};

/** What is added up to one number, constants apart; a vector's own constants too. */
function summands(b: Builder, node: Node): Node[] {
  if (node.op === 'add') return node.args.flatMap((arg) => summands(b, arg));
  const [of] = node.args;
  if (node.op !== 'pick' || node.lanes!.length > 1) return [node];
  const [rest, by] = moved(b, of!);
  const lane = node.lanes![0]!;
  return rest === of ? [node] : [b.pick(rest, lane), widthOf(by.type) === 1 ? by : b.pick(by, lane)];
}

/** A sine half a turn on is the other way round: cosines of cosines become sines that are there already. */
const sine: Rule = ([x], { b }, node) => {
  if (node.kernel !== sineTurns) return null;
  const all = summands(b, x!);
  const rest = all.filter((part) => part.op !== 'const');
  if (rest.length === 0 || rest.length === all.length) return null;
  const shift = all.reduce((total, part) => (part.op === 'const' ? total + part.values![0]! : total), 0);
  const within = shift - Math.floor(shift);
  const of = rest.reduce((p, q) => b.add(p, q));
  return within < 0.5 ? b.call(sineTurns, b.add(of, within)) : b.op('neg', b.call(sineTurns, b.add(of, within - 0.5)));
};

/** A kernel of numbers that are written in is a number. */
const folding: Rule = (args, { b }, node) => {
  if (!args.every((arg) => arg.op === 'const')) return null;
  const value = rebuilt(b, node.kernel!.body(), (inner) => (inner.op === 'arg' ? args[inner.index!]! : null));
  return value.op === 'const' ? value : null;
};

/** What a straight line of x is where x is a number; null for what is no line of it. */
function lineAt(line: Node, x: Node, at: number): number | null {
  if (line === x) return at;
  const [p, q] = line.args as [Node, Node];
  if (!['add', 'sub', 'mul', 'div'].includes(line.op) || q.op !== 'const') return null;
  const before = lineAt(p, x, at);
  const by = q.values![0]!;
  if (before === null) return null;
  return line.op === 'add' ? before + by : line.op === 'sub' ? before - by : line.op === 'mul' ? before * by : before / by;
}

/** Nearer than the last digits of a float of about 1. */
const NEAR = 1e-6;

/** `x < c ? held : ramp` where the ramp is held there by itself: a cue's first and last segments. */
const held: Rule = ([given, before, after]) => {
  if (given!.op !== 'lt' || given!.args[1]!.op !== 'const' || widthOf(given!.type) > 1) return null;
  const [x, place] = [given!.args[0]!, given!.args[1]!.values![0]!];
  for (const [ramp, value, rises] of [
    [after!, before!, false],
    [before!, after!, true],
  ] as const) {
    if (ramp.op !== 'clamp' || widthOf(ramp.type) > 1 || value.op !== 'const') continue;
    const [line, low, high] = ramp.args as [Node, Node, Node];
    const [there, beyond] = [lineAt(line, x, place), lineAt(line, x, place + 1)];
    if (there === null || low.op !== 'const' || high.op !== 'const') continue;
    // From the step on, on the side where the number stands, the line must lead away from the ramp.
    const [least, most] = [low.values![0]!, high.values![0]!];
    const goesUp = beyond! > there === rises;
    const [end, past] = goesUp ? [most, there >= most - NEAR] : [least, there <= least + NEAR];
    if (past && value.values![0] === end) return ramp;
  }
  return null;
};

/** A share of itself: `max(x, x (1 - smoothstep))` is x. */
const share: Rule = ([x, y], { b, range }, node) => {
  for (const [whole, part, k] of [
    [x!, y!, 0],
    [y!, x!, 1],
  ] as const) {
    if (part.op !== 'mul' || !part.args.includes(whole) || range(k).low < 0) continue;
    const by = part.args[part.args[0] === whole ? 1 : 0]!;
    if (by.op === 'sub' && is(by.args[0], 1) && by.args[1]!.op === 'smoothstep') return b.widen(whole, widthOf(node.type));
  }
  return null;
};

export const NUMBERS: Partial<Record<Node['op'], Rule>> = {
  max: oneOf(extreme('max'), share),
  min: extreme('min'),
  ...{ clamp, mix, smoothstep },
  lt: above,
  add: oneOf(lessOf, sum),
  fract,
  sub: difference,
  neg: negated,
  mul: oneOf(nothing, negative, scale),
  div: oneOf(slopeOfPower, scale),
  select: oneOf(guardOfPower, held),
  call: oneOf(folding, powered, sine),
};

/** Operations whose rules ask what their arguments can be. */
export const asksRanges = (node: Node): boolean =>
  ['max', 'min', 'clamp', 'mul'].includes(node.op) ||
  node.kernel === power ||
  (node.op === 'div' && powerOf(node.args[0]!, node.args[1]!) !== null);
