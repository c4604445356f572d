import fc from 'fast-check';
import { SCALAR, type ScalarOp } from '../base/scalar.js';
import { Builder } from '../ir/builder.js';
import { cubicBezier } from '../ir/kernels/easing.js';
import type { Node } from '../ir/types.js';
import { scalarise } from '../passes/scalarise.js';
import { evaluate } from './reference.js';
import { BLOCK, WasmRunner, emitWasm } from './wasm.js';

/** Three floats go in as the components of a position, so that nothing folds. */
function runBoth(
  make: (b: Builder, x: Node, y: Node, z: Node) => Node,
  rows: readonly (readonly number[])[],
): [number[], number[]] {
  const b = new Builder();
  const [x, y, z] = b.split(b.leaf('position')) as [Node, Node, Node];
  const program = scalarise([make(b, x, y, z)]);
  const planes = [0, 1, 2].map((lane) => Float32Array.from(rows, (r) => r[lane]!));
  const got = WasmRunner.make(emitWasm(program, new Set(['position']), 0)).evaluate(
    [],
    { position: planes },
    rows.length,
  )[0]![0]!;
  const expected = rows.map((r) => evaluate(program, { params: [], leaves: { position: r } })[0]![0]!);
  return [[...got], expected];
}

const float = fc.oneof(
  fc.float({ noNaN: false }),
  fc.constantFrom(0, -0, 1, -1, 0.5, -0.5, 1.5, 2.5, Infinity, -Infinity, NaN, 1e30, -1e30, 2147483648, 4194304.5),
);
const FLOAT_OPS = Object.entries(SCALAR).filter(([, r]) => r.args.every((a) => a === 'f') && r.result === 'f') as [
  ScalarOp,
  { args: readonly string[] },
][];
const COMPARE = (Object.entries(SCALAR).filter(([, r]) => r.result === 'b' && r.args[0] === 'f') as [ScalarOp, unknown][]).map(
  ([name]) => name,
);
const INTEGER = Object.entries(SCALAR).filter(
  ([name, r]) => r.args.every((a) => a === 'i') && r.result === 'i' && !/sh[lr]$/.test(name),
) as [ScalarOp, { args: readonly string[] }][];

describe('every scalar operation equals the table, to the bit, for any floats', () => {
  const same = (make: Parameters<typeof runBoth>[0]) =>
    fc.assert(
      fc.property(fc.array(fc.tuple(float, float, float), { minLength: 1, maxLength: 9 }), (rows) => {
        const [got, expected] = runBoth(make, rows);
        got.forEach((v, k) =>
          expect(Object.is(v + 0, expected[k]! + 0) || (Number.isNaN(v) && Number.isNaN(expected[k]!))).toBe(true),
        );
      }),
      { seed: 20261125, numRuns: 60 },
    );
  test.each(FLOAT_OPS.map(([name, r]) => [name, r.args.length] as const))('%s', (name, count) =>
    same((b, ...args) => b.op(name, ...args.slice(0, count))),
  );
  test.each(COMPARE)('%s, and choosing by it', (name) => same((b, x, y, z) => b.op('select', b.op(name, x, y), z, 7)));
  test('truth values', () =>
    same((b, x, y, z) =>
      b.op('select', b.op('or', b.op('and', b.op('lt', x, y), b.op('lt', y, z)), b.op('not', b.op('le', x, z))), 1, 2),
    ));
  test.each(INTEGER.map(([name]) => name))('%s of integers', (name) =>
    same((b, x, y) => b.op('itof', b.op(name, b.op('fbits', x), b.op('fbits', y)))),
  );
  test.each(['ishl', 'ishr', 'ushr'] as const)('%s', (name) =>
    same((b, x) => b.op('itof', b.op(name, b.op('fbits', x), b.integer(5)))),
  );
  test('float to integer and back', () => same((b, x) => b.op('itof', b.op('ftoi', x))));
  test('bits there and back', () => same((b, x) => b.op('ibits', b.op('ixor', b.op('fbits', x), b.integer(0)))));
  test('a loop inside a kernel', () => same((b, x) => b.call(cubicBezier, x, b.constant(0.3, -0.2, 0.6, 1.4))));
});

describe('runs of any length', () => {
  const b = new Builder();
  const program = scalarise([b.add(b.mul(b.leaf('time'), b.param(0, 1)), b.leaf('loop'))]);
  const module = emitWasm(program, new Set(['time']), 1);
  const runner = WasmRunner.make(module);
  test.each([1, 3, 4, 5, BLOCK - 1, BLOCK, BLOCK + 1, 3 * BLOCK + 7])('%i samples', (count) => {
    const time = Float32Array.from({ length: count }, (_, k) => k);
    const [[out]] = runner.evaluate([2], { time: [time], loop: [1] }, count) as [[Float32Array]];
    expect(out).toHaveLength(count);
    for (const k of [0, count >> 1, count - 1]) expect(out[k]).toBe(2 * k + 1);
  });
  test('a number stands for all samples of a leaf that varies', () => {
    expect([...runner.evaluate([3], { time: [5], loop: [0] }, 3)[0]![0]!]).toEqual([15, 15, 15]);
  });
  test('views are of the memory itself, and only as long as the module is', () => {
    const long = WasmRunner.make(emitWasm(program, new Set(['time']), 1, 10));
    expect(long.module.capacity).toBe(12);
    const plane = long.inputPlane('time', 0);
    plane.set([1, 2, 3]);
    expect([...long.view([2], { time: [plane], loop: [0] }, 3)[0]![0]!]).toEqual([2, 4, 6]);
    expect(() => long.view([2], { time: [plane] }, 13)).toThrow(/13 samples/);
    expect(() => long.inputPlane('uv', 0)).toThrow(/does not vary/);
  });
});

test('what does not vary is computed once: the loop holds only what does', () => {
  const size = (varying: boolean) => {
    const b = new Builder();
    const heavy = b.composite('normalize', b.add(b.leaf('normal'), b.param(0, 3)));
    const node = b.add(b.composite('dot', heavy, heavy), b.leaf('time'));
    return emitWasm(scalarise([node]), new Set(varying ? ['normal', 'time'] : ['time']), 3);
  };
  expect(size(false).planes.map((p) => p.leaf)).toEqual(['time']);
  expect(size(false).uniforms.map((u) => u.leaf)).toEqual(['normal']);
  expect(WebAssembly.validate(size(true).bytes)).toBe(true);
});
