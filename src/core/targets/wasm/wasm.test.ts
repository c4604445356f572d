import fc from 'fast-check';
import { SCALAR, type ScalarOp } from '../../base/scalar.js';
import { Builder } from '../../ir/builder.js';
import { cubicBezier } from '../../ir/kernels/easing.js';
import type { Node } from '../../ir/types.js';
import { scalarise } from '../../passes/scalarise.js';
import { evaluate } from '../reference.js';
import { BLOCK, emitWasm } from './module.js';
import { WasmRunner } from './runner.js';

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

/** Where an instruction first and last stands in a module, and where its one loop begins. */
function placesOf({ bytes }: { readonly bytes: Uint8Array }, code: readonly number[]) {
  const text = String.fromCharCode(...bytes);
  const find = String.fromCharCode(...code);
  return { first: text.indexOf(find), last: text.lastIndexOf(find), loop: text.lastIndexOf('\x03\x40') };
}
/** f32x4.sqrt, WebAssembly core specification 2.0. */
const SQRT = [0xfd, 0xe3, 0x01];

test('what does not vary is computed once: the loop holds only what does', () => {
  const emit = (varying: boolean) => {
    const b = new Builder();
    const heavy = b.composite('length', b.add(b.leaf('normal'), b.param(0, 3)));
    return emitWasm(scalarise([b.add(heavy, b.leaf('time'))]), new Set(varying ? ['normal', 'time'] : ['time']), 3);
  };
  const steady = placesOf(emit(false), SQRT);
  expect(steady.first).toBeGreaterThan(0);
  expect(steady.last).toBeLessThan(steady.loop);
  const varying = placesOf(emit(true), SQRT);
  expect(varying.first).toBeGreaterThan(varying.loop);
});

describe('code grows with the sheet, and no faster', () => {
  type Link = (b: Builder, x: Node) => Node;
  const composite = (name: Parameters<Builder['composite']>[0], count: number): [string, Link] => [
    name,
    (b, x) => {
      const made = b.composite(
        name,
        ...[x, b.leaf('uv1'), b.leaf('uv')].slice(0, count).map((n, k) => (k === 0 ? n : b.pick(n, 0))),
      );
      return b.add(made, 1.5);
    },
  ];
  const float = (b: Builder, name: ScalarOp, x: Node): Node => {
    const { args, result } = SCALAR[name];
    const whole = (n: Node) => b.op('fbits', n);
    const truth = (n: Node) => b.op('lt', n, 2);
    const given = args.map((base, k) => {
      const from = k === 0 || name === 'select' ? x : b.pick(b.leaf('uv'), 0);
      if (name.endsWith('shl') || name.endsWith('shr')) return k === 0 ? whole(x) : b.integer(3);
      return base === 'f' ? from : base === 'i' ? whole(from) : truth(from);
    });
    const made = b.op(name, ...given);
    const number =
      result === 'f' ? made : result === 'i' ? b.op('ibits', made) : b.op('select', made, 1, b.pick(b.leaf('uv'), 1));
    return b.add(number, 1.5);
  };
  const LINKS: [string, Link][] = [
    ...(Object.keys(SCALAR) as ScalarOp[]).map((name): [string, Link] => [name, (b, x) => float(b, name, x)]),
    ['div, turned over', (b, x) => b.div(1, b.add(x, 1))],
    ['sign of a sign', (b, x) => b.op('sign', b.sub(x, 0.25))],
    ...(
      [
        ['mix', 3],
        ['clamp', 3],
        ['fract', 1],
        ['smoothstep', 3],
        ['dot', 2],
        ['length', 1],
        ['normalize', 1],
      ] as const
    ).map(([name, count]) => composite(name, count)),
    ['a kernel with a loop', (b, x) => b.call(cubicBezier, x, b.constant(0.3, -0.2, 0.6, 1.4))],
  ];
  const emit = (link: Link, length: number) => {
    const b = new Builder();
    let x = b.pick(b.leaf('position'), 0);
    for (let k = 0; k < length; k++) x = link(b, x);
    const program = scalarise([x]);
    return { nodes: program.nodes.length, module: emitWasm(program, new Set(['position', 'uv', 'uv1']), 0) };
  };
  test.each(LINKS)('%s: at most 40 bytes a node in chains of 2000, and they run', (_, link) => {
    const { nodes, module } = emit(link, 2000);
    expect(module.bytes.length).toBeLessThan(40 * nodes + 4000);
    expect(WebAssembly.validate(module.bytes)).toBe(true);
  });
});
