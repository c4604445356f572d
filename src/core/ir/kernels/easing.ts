/** The timing curve of cues: CSS Easing Functions Level 1, cubic-bezier. */
import { defineKernel } from '../builder.js';
import type { Kernel } from '../types.js';

export const cubicBezier: Kernel = defineKernel({
  name: 'cubicBezier',
  note: 'Progress x eased by a cubic from (0, 0) to (1, 1) with the two handles h.xy and h.zw.',
  params: [
    { name: 'x', type: 'f1' },
    { name: 'h', type: 'f4' },
  ],
  result: 'f1',
  continuous: true,
  range: (args) => ({ low: Math.min(0, args[2]!.low, args[4]!.low), high: Math.max(1, args[2]!.high, args[4]!.high) }),
  build: (b, x, h) => {
    const [x1, y1, x2, y2] = b.split(h!) as [typeof h & object, typeof h & object, typeof h & object, typeof h & object];
    // 3 (1 - s)^2 s a + 3 (1 - s) s^2 c + s^3
    type B = typeof b;
    type N = typeof x1;
    const cubic = (q: B, s: N, a: N, c: N) => {
      const r = q.sub(1, s);
      const first = q.mul(q.mul(q.mul(q.mul(r, r), s), a), 3);
      const second = q.mul(q.mul(q.mul(q.mul(r, s), s), c), 3);
      return q.add(q.add(first, second), q.mul(q.mul(s, s), s));
    };
    const held = b.op('min', b.op('max', x!, 0), 1);
    // x rises with s whenever 0 <= x1, x2 <= 1, so halving finds it; 24 halvings exhaust a float's mantissa.
    const [low] = b.repeat(24, [b.constant(0), b.constant(1)], [held, x1, x2], (q, [lo, hi], _i, [target, a, c]) => {
      const middle = q.mul(q.add(lo!, hi!), 0.5);
      const below = q.op('lt', cubic(q, middle, a!, c!), target!);
      return [q.op('select', below, middle, lo!), q.op('select', below, hi!, middle)];
    });
    return cubic(b, low!, y1, y2);
  },
});
