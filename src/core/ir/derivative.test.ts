import { evaluate } from '../targets/reference.js';
import { scalarise } from '../passes/scalarise.js';
import { Builder } from './builder.js';
import { derivative, footprint, slopeBy } from './derivative.js';
import { cubicBezier } from './kernels/easing.js';
import { cellsOf } from './kernels/cells.js';
import { curlOf } from './kernels/curl.js';
import { gradientNoise } from './kernels/noise.js';
import { fractalOf } from './kernels/fractal.js';
import { materialxNoise } from './kernels/materialx.js';
import { arctangent, exp2, log2, power, sineTurns } from './kernels/transcendental.js';
import type { Node } from './types.js';
import { randomFrom } from '../../../tests/fixtures/sheets.js';

const random = randomFrom(5);

/**
 * A function's slope along a direction against central differences, which know nothing of how it was made.
 * @param step large enough that a 32-bit value's rounding does not drown the difference
 */
function check(
  f: (b: Builder, x: Node) => Node,
  width: 1 | 2 | 3,
  points: readonly number[][],
  { step = 2e-3, within = 4e-3 } = {},
): void {
  const b = new Builder();
  const x = b.param(0, width);
  const way = Array.from({ length: width }, (_, k) => [0.6, -0.64, 0.48][k]!);
  const value = f(b, x);
  const program = scalarise([value, slopeBy(b, value, x, b.constant(...way))]);
  const at = (p: readonly number[]) => evaluate(program, { params: p, leaves: {} });
  for (const p of points) {
    const [high] = at(p.map((c, k) => c + step * way[k]!));
    const [low] = at(p.map((c, k) => c - step * way[k]!));
    const [, slope] = at(p);
    slope!.forEach((s, k) => {
      const difference = (high![k]! - low![k]!) / (2 * step);
      expect(Math.abs(s - difference)).toBeLessThan(within * Math.max(1, Math.abs(s)));
    });
  }
}
const places = (width: number, low = -2, high = 2, count = 60) =>
  Array.from({ length: count }, () => Array.from({ length: width }, () => low + (high - low) * random()));

describe('slopes against central differences', () => {
  test('scalar operations and composites', () => {
    const away = (p: number[]) => p.every((c) => Math.abs(c) > 0.02 && Math.abs(Math.abs(c) - 0.7) > 0.02);
    const points = places(3).filter(away);
    check((b, x) => b.mul(b.add(x, 2), b.sub(1, x)), 3, points);
    check((b, x) => b.div(b.sub(x, 3), b.add(b.mul(x, x), 1)), 3, points);
    check((b, x) => b.op('sqrt', b.add(b.op('abs', x), 1)), 3, points);
    check(
      (b, x) => b.op('min', b.op('max', x, -0.7), b.mul(x, x)),
      3,
      points.filter((p) => p.every((c) => Math.abs(c - 1) > 0.02 && Math.abs(c + 0.84) > 0.1)),
    );
    check((b, x) => b.op('select', b.op('lt', x, 0), b.mul(x, 3), b.op('neg', x)), 3, points);
    check((b, x) => b.composite('mix', b.mul(x, x), 2, b.add(x, 0.5)), 3, points);
    check((b, x) => b.composite('clamp', b.mul(x, 2), -1.4, 1.4), 3, points);
    check((b, x) => b.composite('smoothstep', -1.5, 1.5, x), 3, points);
    check((b, x) => b.composite('dot', x, b.mul(x, x)), 3, points);
    check((b, x) => b.join(b.composite('length', x)), 3, points);
    check((b, x) => b.composite('normalize', x), 3, points);
    check((b, x) => b.join(b.pick(x, 2), b.pick(x, 0)), 3, points);
  });
  test('kernels that state their slope', () => {
    check((b, x) => b.call(sineTurns, x), 1, places(1));
    check((b, x) => b.call(exp2, x), 1, places(1));
    check((b, x) => b.call(log2, x), 1, places(1, 0.3, 4));
    check((b, x) => b.call(power, x, 2.5), 1, places(1, 0.2, 2));
    check((b, x) => b.call(power, 1.7, x), 1, places(1));
    check((b, x) => b.call(arctangent, b.pick(x, 1), b.pick(x, 0)), 2, places(2, 0.2, 2));
    check((b, x) => b.call(cubicBezier, x, b.constant(0.3, 0.1, 0.6, 1.2)), 1, places(1, 0.05, 0.95));
  });
  test('kernels that are differentiated themselves, loops among them', () => {
    for (const width of [1, 2, 3] as const) check((b, x) => b.call(gradientNoise[width], x, b.integer(77)), width, places(width));
    check(
      (b, x) => b.call(fractalOf(2, 'fbm', 4), x, b.constant(3), b.constant(3.5), b.constant(2), b.constant(0.5)),
      2,
      places(2),
      { step: 5e-4, within: 2e-2 },
    );
    check((b, x) => materialxNoise(b, x), 3, places(3));
    // A cell's border is a kink; none of these places is within a step of one.
    const b = new Builder();
    const border = scalarise([b.call(cellsOf(2, 'straight', false), b.param(0, 2), b.integer(9), b.constant(1))]);
    const inner = places(2).filter((p) => {
      const [f1, f2] = evaluate(border, { params: p, leaves: {} })[0]!;
      return f2! - f1! > 0.02 && f1! > 0.05;
    });
    expect(inner.length).toBeGreaterThan(30);
    check((q, x) => q.pick(q.call(cellsOf(2, 'straight', false), x, q.integer(9), q.constant(1)), 0), 2, inner);
  });
});

test('what has no slope has none: steps, hashes, places that do not change', () => {
  const b = new Builder();
  const uv = b.leaf('uv');
  expect(derivative(b, b.op('floor', uv), (l) => (l === 'uv' ? b.constant(1, 0) : null))).toBe(b.constant(0, 0));
  expect(derivative(b, b.mul(b.leaf('time'), 3), (l) => (l === 'uv' ? b.constant(1, 0) : null))).toBe(b.constant(0));
});

test('a footprint is the length of the change over a pixel', () => {
  const b = new Builder();
  const program = scalarise([footprint(b, b.mul(b.pick(b.leaf('uv'), 0), 5))]);
  const [[wide]] = evaluate(program, { params: [], leaves: { uvDx: [0.03, 0], uvDy: [0.04, 0.5] } }) as [[number]];
  expect(wide).toBeCloseTo(5 * 0.05, 6);
});

test('curl noise has no sources: its divergence by central differences is nought (Bridson et al. 2007)', () => {
  for (const width of [2, 3] as const) {
    const b = new Builder();
    const program = scalarise([b.call(curlOf(width, 'still'), b.param(0, width), b.constant(4))]);
    const at = (p: readonly number[]) => evaluate(program, { params: p, leaves: {} })[0]!;
    const step = 4e-3;
    let strongest = 0;
    for (const p of places(width, -3, 3, 80)) {
      let divergence = 0;
      let size = 0;
      for (let k = 0; k < width; k++) {
        const moved = (by: number) => at(p.map((c, j) => (j === k ? c + by : c)));
        const slope = (moved(step)[k]! - moved(-step)[k]!) / (2 * step);
        divergence += slope;
        size += Math.abs(slope);
      }
      strongest = Math.max(strongest, size);
      expect(Math.abs(divergence)).toBeLessThan(0.02 * Math.max(1, size));
    }
    // The parts it is made of are not nought.
    expect(strongest).toBeGreaterThan(1);
    expect(program.roots[0]).toHaveLength(width);
  }
});

test('a loop of several states and outer values: each of its results has the slope of its own', () => {
  const loop = (b: Builder, x: Node) => {
    const [u, v] = [b.pick(x, 0), b.pick(x, 1)];
    const start = [b.constant(2), u, b.mul(v, v), b.constant(0.5)];
    return b.repeat(3, start, [b.constant(0.7), v, b.add(u, v)], (inner, [k, p, q, r], _, [o, y, z]) => [
      inner.mul(k!, o!),
      inner.add(inner.mul(p!, o!), inner.mul(q!, y!)),
      inner.sub(inner.mul(q!, k!), inner.mul(p!, z!)),
      inner.add(r!, inner.mul(q!, inner.mul(p!, o!))),
    ]);
  };
  for (const k of [1, 2, 3]) check((b, x) => loop(b, x)[k]!, 2, places(2, -1, 1, 20));
});

test('a loop is differentiated only in what changes: its counters and what stands still stay as they are', () => {
  const b = new Builder();
  const x = b.param(0, 1);
  const still = b.param(1, 1);
  const loop = b.repeat(4, [x, b.constant(1), b.op('fbits', still)], [still], (inner, [sum, steady, bits], _k, [outer]) => [
    inner.add(inner.mul(sum!, sum!), steady!),
    inner.mul(steady!, outer!),
    inner.op('ixor', bits!, bits!),
  ]);
  const slope = slopeBy(b, loop[0]!, x, b.constant(1));
  const repeat = (node: Node): Node => (node.loop ? node : repeat(node.args.find((a) => a.loop ?? a.args.length > 0)!));
  // The sum's change alone is carried beside the three that there were.
  expect(repeat(slope).loop!.state.length).toBe(4);
});
