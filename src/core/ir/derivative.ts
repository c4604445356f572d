/**
 * How a value changes as the places it is made of do: forward-mode differentiation of IR. Exact wherever the value has
 * a slope; steps (floor, sign, hashes) have none. Kernels that state a derivative give theirs, every other one is
 * differentiated itself, once.
 */
import { isScalarOp } from '../base/scalar.js';
import { Builder } from './builder.js';
import { defineKernel } from './kernel.js';
import { LEAVES, type Axis, type Leaf } from './leaves.js';
import type { Change } from './operations/slopes.js';
import { COMPOSITES, OPERATIONS } from './operations/table.js';
import { rebuilt } from './rebuilt.js';
import { baseOf, widthOf, type Kernel, type Node } from './types.js';

/** The change of each leaf, or null for one that does not change. */
export type Seed = (leaf: Leaf) => Node | null;

/** How far either side of a place an image is looked up for its slope. */
const TEXEL = 1 / 512;

/**
 * @param seed nodes of the same builder, each as wide as its leaf
 * @returns a node of the same width; the constant 0 where nothing changes
 */
export const derivative = (b: Builder, node: Node, seed: Seed): Node => derivatives(b, seed)(node);

/** The same for many nodes: what they have in common is worked out once. */
export function derivatives(b: Builder, seed: Seed): (node: Node) => Node {
  const all = new Differentiation(b, (leaf) => (leaf.op === 'leaf' ? seed(leaf.leaf!) : null));
  return (node) => all.of(node) ?? b.widen(0, widthOf(node.type));
}

/**
 * How a value changes as a node that it is made of does.
 * @param by the node; @param change of it, as wide as it is
 */
export function slopeBy(b: Builder, node: Node, by: Node, change: Node): Node {
  return new Differentiation(b, (n) => (n === by ? change : null), by).of(node) ?? b.widen(0, widthOf(node.type));
}

/** How a place changes from one pixel to the next, or along the surface; null for one that is the same all over. */
export function changeAlong(b: Builder, leaf: Leaf, axis: Axis): Change {
  const change = `${leaf}D${axis}`;
  return Object.hasOwn(LEAVES, change) ? b.leaf(change as Leaf) : null;
}

/** Sheets look at the same changes again and again: each is worked out once a builder. */
const screens = new WeakMap<Builder, Record<Axis, Differentiation>>();

/**
 * How a value changes from one pixel to the next, to the right or upwards; or along the surface, with a metre of the
 * prop's own space towards its tangent or bitangent.
 */
export function slopeAlong(b: Builder, node: Node, axis: Axis): Node {
  let all = screens.get(b);
  if (!all) {
    const along = (a: Axis) => new Differentiation(b, (n) => (n.op === 'leaf' ? changeAlong(b, n.leaf!, a) : null));
    screens.set(b, (all = { x: along('x'), y: along('y'), t: along('t'), b: along('b') }));
  }
  return all[axis].of(node) ?? b.widen(0, widthOf(node.type));
}

/** How far a value reaches over a pixel: the length of its change to the right and upwards, component by component. */
export function footprint(b: Builder, node: Node): Node {
  const [dx, dy] = [slopeAlong(b, node, 'x'), slopeAlong(b, node, 'y')];
  return b.op('sqrt', b.add(b.mul(dx, dx), b.mul(dy, dy)));
}

class Differentiation {
  private readonly known = new Map<Node, Change>();
  /** The changes of a loop's several results. */
  private readonly loops = new Map<Node, readonly Change[]>();

  /** @param outside the change of a leaf or an argument */
  constructor(
    private readonly b: Builder,
    private readonly outside: (node: Node) => Change,
    /** A node that is taken as it is, whatever it is made of. */
    private readonly by: Node | null = null,
  ) {}

  /** Iterative, so that long sheets cannot exhaust the stack. */
  of(root: Node): Change {
    const pending = [root];
    while (pending.length > 0) {
      const node = pending[pending.length - 1]!;
      if (this.known.has(node)) {
        pending.pop();
        continue;
      }
      const missing = node.args.filter((a) => !this.known.has(a));
      if (missing.length > 0) {
        pending.push(...missing);
        continue;
      }
      pending.pop();
      this.known.set(node, this.change(node));
    }
    return this.known.get(root)!;
  }

  private change(node: Node): Change {
    const { b } = this;
    if (node.op === 'leaf' || node.op === 'arg' || node === this.by) return this.outside(node);
    const d = node.args.map((a) => this.known.get(a)!);
    // A repeat has results of every base; anything else that is no float has no slope.
    if (node.op === 'repeat') {
      this.loops.set(node, this.repeat(node, d));
      return null;
    }
    if (node.op === 'result') return this.loops.get(node.args[0]!)?.[node.index!] ?? null;
    if (baseOf(node.type) !== 'f' || d.every((c) => c === null)) return null;
    switch (node.op) {
      case 'join':
        return b.join(...node.args.map((a, k) => d[k] ?? b.widen(0, widthOf(a.type))));
      case 'pick':
        return b.pick(d[0]!, ...node.lanes!);
      case 'behind':
        return d[2]!;
      case 'sample':
        return this.texelSlope(node, d[0]!);
      case 'call':
        return this.call(node, d);
      case 'const':
      case 'param':
      case 'keys':
        return null;
      default: {
        const { slope } = isScalarOp(node.op) ? OPERATIONS[node.op] : COMPOSITES[node.op];
        return slope && slope({ b, node, d });
      }
    }
  }

  /** An image's slope is the difference of its texels, taken one finest texel of a 256th apart either side. */
  private texelSlope(node: Node, change: Change): Change {
    if (!change) return null;
    const { b } = this;
    const [uv, level] = node.args as [Node, Node];
    const along = (step: Node) => {
      const at = (sign: number) => b.sample(node.image!, b.add(uv, b.mul(step, sign)), level);
      return b.mul(b.sub(at(1), at(-1)), 1 / (2 * TEXEL));
    };
    return b.add(b.mul(along(b.constant(TEXEL, 0)), b.pick(change, 0)), b.mul(along(b.constant(0, TEXEL)), b.pick(change, 1)));
  }

  private call(node: Node, d: readonly Change[]): Change {
    const kernel = node.kernel!;
    if (kernel.derivative) return kernel.derivative(this.b, node.args, d);
    const changing = d.map((c) => c !== null);
    const slope = slopeOf(kernel, changing);
    return slope && this.b.call(slope, ...node.args, ...d.filter((c) => c !== null));
  }

  private repeat(node: Node, d: readonly Change[]): readonly Change[] {
    const loop = node.loop!;
    const states = loop.state.length;
    const isFloat = (k: number) => baseOf(loop.state[k]!) === 'f';
    // Which of the state comes to change, until no more of it does.
    const moves = loop.state.map((_, k) => isFloat(k) && d[k] !== null);
    const outerMoves = loop.outer.map((_, k) => d[states + k] !== null);
    const changesIn = (inner: Builder, state: readonly (Node | null)[], outer: readonly (Node | null)[], next: Node) =>
      new Differentiation(inner, (arg) => {
        const k = arg.index!;
        if (k < states) return state[k]!;
        return k === states ? null : outer[k - states - 1]!;
      }).of(next);
    for (let grown = true; grown;) {
      grown = false;
      const probe = new Builder();
      const args = argsOf(probe, [...loop.state, 'f1', ...loop.outer]);
      const any = (on: boolean, at: Node) => (on ? at : null);
      loop.next.forEach((next, k) => {
        if (moves[k] || !isFloat(k)) return;
        const copy = transplant(probe, next, args);
        const state = moves.map((on, j) => any(on, args[j]!));
        const outer = outerMoves.map((on, j) => any(on, args[states + 1 + j]!));
        if (changesIn(probe, state, outer, copy)) moves[k] = grown = true;
      });
    }
    if (!moves.includes(true)) return loop.state.map(() => null);
    const { b } = this;
    const moving = moves.flatMap((on, k) => (on ? [k] : []));
    const outerMoving = outerMoves.flatMap((on, k) => (on ? [k] : []));
    const results = b.repeat(
      loop.count,
      [...node.args.slice(0, states), ...moving.map((k) => d[k] ?? b.widen(0, widthOf(loop.state[k]!)))],
      [...node.args.slice(states), ...outerMoving.map((k) => d[states + k]!)],
      (inner, state, counter, outer) => {
        const own = [...state.slice(0, states), counter, ...outer.slice(0, loop.outer.length)];
        const next = loop.next.map((n) => transplant(inner, n, own));
        const stateChange = loop.state.map((_, k) => (moves[k] ? state[states + moving.indexOf(k)]! : null));
        const outerChange = loop.outer.map((_, k) => (outerMoves[k] ? outer[loop.outer.length + outerMoving.indexOf(k)]! : null));
        const differentiation = new Differentiation(inner, (arg) => {
          const at = own.indexOf(arg);
          if (at < 0 || at === states) return null;
          return at < states ? stateChange[at]! : outerChange[at - states - 1]!;
        });
        const changes = moving.map((k) => differentiation.of(next[k]!) ?? inner.widen(0, widthOf(loop.state[k]!)));
        return [...next, ...changes];
      },
    );
    return loop.state.map((_, k) => (moves[k] ? results[states + moving.indexOf(k)]! : null));
  }
}

const argsOf = (b: Builder, types: readonly Node['type'][]) => types.map((t, k) => b.arg(k, t));

/** The node in another builder, with its arguments given. */
const transplant = (into: Builder, root: Node, args: readonly Node[]): Node =>
  rebuilt(into, root, (node) => (node.op === 'arg' ? args[node.index!]! : null));

/** A slope's slope changes what changes already. */
function freshName(params: Kernel['params'], name: string): string {
  let fresh = `${name}Change`;
  while (params.some((p) => p.name === fresh)) fresh += 'Too';
  return fresh;
}

const slopes = new WeakMap<Kernel, Map<string, Kernel | null>>();

/** The kernel that gives how another changes, for these of its arguments changing; null where it never does. */
function slopeOf(kernel: Kernel, changing: readonly boolean[]): Kernel | null {
  let known = slopes.get(kernel);
  if (!known) slopes.set(kernel, (known = new Map()));
  const key = changing.map(Number).join('');
  const found = known.get(key);
  if (found !== undefined) return found;
  const { params } = kernel;
  const moving = params.flatMap((p, k) => (changing[k] && baseOf(p.type) === 'f' ? [k] : []));
  const build = (b: Builder, args: readonly Node[]): Change => {
    const value = transplant(b, kernel.body(), args.slice(0, params.length));
    return new Differentiation(b, (arg) => {
      const at = args.indexOf(arg);
      return moving.includes(at) ? args[params.length + moving.indexOf(at)]! : null;
    }).of(value);
  };
  // Tried once on its own: a hash has no slope, whatever is asked.
  const probe = new Builder();
  const types = [...params.map((p) => p.type), ...moving.map((k) => params[k]!.type)];
  const flat = build(probe, argsOf(probe, types)) === null;
  const made = flat
    ? null
    : defineKernel({
        name: `${kernel.name}Slope${key}`,
        note: `How ${kernel.name} changes with its arguments.`,
        params: [...params, ...moving.map((k) => ({ name: freshName(params, params[k]!.name), type: params[k]!.type }))],
        result: kernel.result,
        continuous: kernel.continuous,
        range: () => ({ low: -Infinity, high: Infinity }),
        build: (b, ...args) => build(b, args)!,
      });
  known.set(key, made);
  return made;
}
