/**
 * How an operation's value changes as its arguments do. Steps and bits are flat wherever they have a slope at all: null.
 */
import type { ScalarOp } from '../../base/scalar.js';
import type { Builder } from '../builder.js';
import { widthOf, type CompositeOp, type Node } from '../types.js';

/** The change of a value; null for one that does not change. */
export type Change = Node | null;

export interface Changing {
  readonly b: Builder;
  readonly node: Node;
  /** Of each argument; null where it does not change. */
  readonly d: readonly Change[];
}
export type SlopeRule = (of: Changing) => Change;

export const sum = (b: Builder, p: Change, q: Change): Change => (p && q ? b.add(p, q) : (p ?? q));
const less = (b: Builder, p: Change, q: Change): Change => {
  if (!q) return p;
  return p ? b.sub(p, q) : b.op('neg', q);
};
const times = (b: Builder, p: Change, factor: Node): Change => p && b.mul(p, factor);
const wide = ({ b, node }: Changing, change: Change): Change => change && b.widen(change, widthOf(node.type));
const either = ({ b, node }: Changing, condition: Node, yes: Change, no: Change): Change =>
  yes || no ? b.widen(b.op('select', condition, yes ?? 0, no ?? 0), widthOf(node.type)) : null;

type Three = [Node, Node, Node];
type ThreeChanges = [Change, Change, Change];
/** With the arguments and their changes by name. */
const rule =
  (of: (c: Changing, args: Three, changes: ThreeChanges) => Change): SlopeRule =>
  (c) =>
    of(c, c.node.args as unknown as Three, c.d as unknown as ThreeChanges);

const flat = null;

export const SLOPES: Readonly<Record<ScalarOp | CompositeOp, SlopeRule | null>> = {
  add: rule((c, _, [dx, dy]) => wide(c, sum(c.b, dx, dy))),
  sub: rule((c, _, [dx, dy]) => wide(c, less(c.b, dx, dy))),
  mul: rule((c, [x, y], [dx, dy]) => wide(c, sum(c.b, times(c.b, dx, y), times(c.b, dy, x)))),
  // (dx - q dy) / y; dividing by 0 gives 0, and so does its change.
  div: rule((c, [, y], [dx, dy]) => wide(c, c.b.div(less(c.b, dx, times(c.b, dy, c.node))!, y))),
  neg: rule(({ b }, _, [dx]) => b.op('neg', dx!)),
  abs: rule(({ b }, [x], [dx]) => b.mul(dx!, b.op('sign', x))),
  sqrt: rule(({ b, node }, _, [dx]) => b.div(b.mul(dx!, 0.5), node)),
  min: rule((c, [x, y], [dx, dy]) => either(c, c.b.op('lt', y, x), dy, dx)),
  max: rule((c, [x, y], [dx, dy]) => either(c, c.b.op('lt', x, y), dy, dx)),
  select: rule((c, [condition], [, yes, no]) => either(c, condition, yes, no)),
  fract: rule((_, __, [dx]) => dx),
  mix: rule((c, [x, y, z], [dx, dy, dz]) => {
    const { b } = c;
    const ends = sum(b, times(b, dx, b.sub(1, z)), times(b, dy, z));
    return wide(c, sum(b, ends, times(b, dz, b.sub(y, x))));
  }),
  // min(max(x, low), high)
  clamp: rule((c, [x, y, z], [dx, dy, dz]) =>
    either(c, c.b.op('lt', z, c.b.op('max', x, y)), dz, either(c, c.b.op('lt', x, y), dy, dx)),
  ),
  smoothstep: rule((c, [low, high, at], [dLow, dHigh, dAt]) => {
    const { b } = c;
    const span = b.sub(high, low);
    const t = b.div(b.sub(at, low), span);
    // t's own change, from all three; a window of no width is a step, and dividing by 0 gives 0.
    const rise = b.div(less(b, less(b, dAt, dLow), times(b, less(b, dHigh, dLow), t))!, span);
    // One comparison serves vectors too: shading languages have no `and` of theirs.
    const inside = b.op('le', b.op('abs', b.sub(t, 0.5)), 0.5);
    return wide(c, b.op('select', inside, b.mul(rise, b.mul(b.mul(t, b.sub(1, t)), 6)), 0));
  }),
  dot: rule(({ b }, [x, y], [dx, dy]) => {
    const size = Math.max(widthOf(x.type), widthOf(y.type));
    const part = (change: Change, other: Node) => change && b.composite('dot', b.widen(change, size), b.widen(other, size));
    return sum(b, part(dx, y), part(dy, x));
  }),
  cross: rule(({ b }, [x, y], [dx, dy]) =>
    sum(b, dx && b.composite('cross', b.widen(dx, 3), y), dy && b.composite('cross', x, b.widen(dy, 3))),
  ),
  length: rule(({ b, node }, [x], [dx]) => b.div(b.composite('dot', x, dx!), node)),
  normalize: rule(({ b, node }, [x], [dx]) =>
    b.div(b.sub(dx!, b.mul(node, b.composite('dot', node, dx!))), b.composite('length', x)),
  ),
  ...{ sign: flat, floor: flat, ceil: flat, round: flat, lt: flat, le: flat, eq: flat, and: flat, or: flat, not: flat },
  ...{ iadd: flat, isub: flat, imul: flat, ixor: flat, iand: flat, ior: flat, ishl: flat, ishr: flat, ushr: flat },
  ...{ ftoi: flat, itof: flat, fbits: flat, ibits: flat },
};
