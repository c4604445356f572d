import { scalarise } from '../passes/scalarise.js';
import { evaluate } from '../targets/reference.js';
import { Builder } from './builder.js';
import { defineKernel } from './kernel.js';
import { rates } from '../passes/rates.js';

const value = (node: Parameters<typeof scalarise>[0][number], params: number[] = []) =>
  evaluate(scalarise([node]), { params, leaves: { time: [2], position: [1, 2, 3], uv: [0.25, 0.5] } })[0]!;

describe('sharing and folding', () => {
  test('equal nodes are one node', () => {
    const b = new Builder();
    const sum = () => b.add(b.leaf('time'), b.param(0, 1));
    expect(sum()).toBe(sum());
    expect(b.constant(0.1)).toBe(b.constant(Math.fround(0.1)));
    expect(b.constant(0)).not.toBe(b.constant(-0));
  });
  test('constants fold, in 32 bits', () => {
    const b = new Builder();
    expect(b.add(0.1, 0.2).values).toEqual([Math.fround(Math.fround(0.1) + Math.fround(0.2))]);
    expect(b.composite('dot', b.constant(1, 2, 3), b.constant(4, 5, 6)).values).toEqual([32]);
    expect(b.composite('normalize', b.constant(0, 0, 0)).values).toEqual([0, 0, 0]);
    expect(b.op('select', b.truth(true), 3, 4).values).toEqual([3]);
  });
  test('what changes nothing leaves no node', () => {
    const b = new Builder();
    const t = b.leaf('time');
    for (const same of [b.add(t, 0), b.add(0, t), b.sub(t, 0), b.mul(t, 1), b.mul(1, t), b.div(t, 1)]) expect(same).toBe(t);
    // 0 times something is left alone: infinity times 0 must stay visible.
    expect(b.mul(t, 0).op).toBe('mul');
  });
  test('joining the parts of a vector is the vector; picks look through', () => {
    const b = new Builder();
    const p = b.leaf('position');
    expect(b.join(...b.split(p))).toBe(p);
    expect(b.pick(p, 0, 1, 2)).toBe(p);
    expect(b.pick(b.pick(p, 2, 1), 0)).toBe(b.pick(p, 2));
    const t = b.leaf('time');
    expect(b.pick(b.join(t, b.param(0, 1)), 0)).toBe(t);
  });
  test('signatures tell programs apart, but not their numbers', () => {
    const make = (width: number) => {
      const b = new Builder();
      b.add(b.leaf('position'), b.param(0, width));
      return b.signature();
    };
    expect(make(1)).toBe(make(1));
    expect(make(1)).not.toBe(make(3));
  });
});

describe('widths', () => {
  test('a number widens; two widths do not go together', () => {
    const b = new Builder();
    expect(value(b.mul(b.leaf('position'), 2))).toEqual([2, 4, 6]);
    expect(() => b.add(b.leaf('position'), b.leaf('uv'))).toThrow(/widths/);
    expect(() => b.widen(b.leaf('uv'), 3)).toThrow(/widen/);
    expect(() => b.pick(b.leaf('uv'), 2)).toThrow(/component/);
  });
  test('floats and integers do not mix without a conversion', () => {
    const b = new Builder();
    expect(() => b.op('iadd', b.integer(1), b.constant(1))).toThrow(/iadd/);
  });
});

describe('kernels and loops', () => {
  const triangle = defineKernel({
    name: 'triangleNumber',
    note: 'The sum of i x step for i from 0 to 4, and how often it ran.',
    params: [{ name: 'step', type: 'f1' }],
    result: 'f1',
    continuous: true,
    range: () => ({ low: -Infinity, high: Infinity }),
    build: (b, step) => {
      const [sum, count] = b.repeat(5, [b.constant(0), b.constant(0)], [step!], (q, [s, n], i, [by]) => [
        q.add(s!, q.mul(i, by!)),
        q.add(n!, 1),
      ]);
      return b.add(sum!, b.mul(count!, 100));
    },
  });
  test('a loop carries its state and reads what is outside', () => {
    const b = new Builder();
    expect(value(b.call(triangle, b.leaf('time')))).toEqual([520]);
  });
  test('a loop runs 1 to 32 times', () => {
    const b = new Builder();
    expect(() => b.repeat(33, [b.constant(0)], [], (_, s) => s)).toThrow(/32/);
  });
  test('arguments are checked', () => {
    const b = new Builder();
    expect(() => b.call(triangle, b.leaf('position'))).toThrow(/triangleNumber: step/);
  });
});

test('rates: the costliest of what is read', () => {
  const b = new Builder();
  const nodes = [b.param(0, 1), b.leaf('time'), b.add(b.leaf('time'), b.param(0, 1)), b.mul(b.leaf('uv'), b.leaf('time'))];
  const found = rates(nodes);
  expect(nodes.map((n) => found.get(n))).toEqual(['once', 'frame', 'frame', 'vertex']);
});
