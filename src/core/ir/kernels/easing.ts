/** The timing curve of cues: CSS Easing Functions Level 1, cubic-bezier. */
import { Builder } from '../builder.js';
import { defineKernel } from '../kernel.js';
import type { Kernel, Node } from '../types.js';

/** 3 (1 - s)^2 s a + 3 (1 - s) s^2 c + s^3 */
function cubic(b: Builder, s: Node, a: Node, c: Node): Node {
  const r = b.sub(1, s);
  const first = b.mul(b.mul(b.mul(b.mul(r, r), s), a), 3);
  const second = b.mul(b.mul(b.mul(b.mul(r, s), s), c), 3);
  return b.add(b.add(first, second), b.mul(b.mul(s, s), s));
}

/** Its slope: 3 (1 - s)^2 a + 6 (1 - s) s (c - a) + 3 s^2 (1 - c). */
function cubicSlope(b: Builder, s: Node, a: Node, c: Node): Node {
  const r = b.sub(1, s);
  const first = b.mul(b.mul(b.mul(r, r), a), 3);
  const second = b.mul(b.mul(b.mul(r, s), b.sub(c, a)), 6);
  return b.add(b.add(first, second), b.mul(b.mul(b.mul(s, s), b.sub(1, c)), 3));
}

const PARAMS = [
  { name: 'x', type: 'f1' },
  { name: 'h', type: 'f4' },
] as const;

const bezierPlace: Kernel = defineKernel({
  name: 'bezierPlace',
  note: 'How far along its curve a cubic has the progress x; handles h.xy and h.zw.',
  params: PARAMS,
  result: 'f1',
  continuous: true,
  range: () => ({ low: 0, high: 1 }),
  build: (b, x, h) => {
    const held = b.op('min', b.op('max', x!, 0), 1);
    // x rises with s whenever 0 <= x1, x2 <= 1, so halving finds it; 24 halvings exhaust a float's mantissa.
    const outer = [held, b.pick(h!, 0), b.pick(h!, 2)];
    const [low] = b.repeat(24, [b.constant(0), b.constant(1)], outer, (q, [lo, hi], _i, [target, a, c]) => {
      const middle = q.mul(q.add(lo!, hi!), 0.5);
      const below = q.op('lt', cubic(q, middle, a!, c!), target!);
      return [q.op('select', below, middle, lo!), q.op('select', below, hi!, middle)];
    });
    return low!;
  },
});

export const cubicBezier: Kernel = defineKernel({
  name: 'cubicBezier',
  note: 'Progress x eased by a cubic from (0, 0) to (1, 1) with the two handles h.xy and h.zw.',
  params: PARAMS,
  result: 'f1',
  continuous: true,
  range: (args) => ({ low: Math.min(0, args[2]!.low, args[4]!.low), high: Math.max(1, args[2]!.high, args[4]!.high) }),
  // Both of x and y by the way along the curve, one over the other; flat outside 0..1. Handles do not move with a place.
  derivative: (b: Builder, [x, h], [change]) => {
    const s = b.call(bezierPlace, x!, h!);
    const slope = b.div(cubicSlope(b, s, b.pick(h!, 1), b.pick(h!, 3)), cubicSlope(b, s, b.pick(h!, 0), b.pick(h!, 2)));
    const inside = b.op('and', b.op('le', 0, x!), b.op('le', x!, 1));
    return b.mul(change ?? b.constant(0), b.op('select', inside, slope, 0));
  },
  build: (b, x, h) => cubic(b, b.call(bezierPlace, x!, h!), b.pick(h!, 1), b.pick(h!, 3)),
});
