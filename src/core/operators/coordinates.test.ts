import { Matrix3, Vector2 } from 'three';
import { apply, readAt } from '../../../tests/fixtures/read.js';
import { effectOf } from '../../../tests/fixtures/sheets.js';

const POINTS = [
  [0.2, 0.7],
  [0.9, 0.1],
  [-1.3, 2.4],
] as const;
const near = (got: readonly number[], wanted: readonly number[], digits = 5) =>
  wanted.forEach((w, k) => expect(got[k]).toBeCloseTo(w, digits));
const rad = (deg: number) => (deg * Math.PI) / 180;

test('place: MaterialX place2d, scale, then rotate, then translate, about the pivot', () => {
  for (const [u, v] of POINTS) {
    const [pivot, scale, offset, rotate] = [[0.5, 0.25], [2, 0.5], [0.1, -0.3], 30];
    // The nodes of MaterialX's NG_place2d, one after another.
    const [x, y] = [(u - pivot[0]!) / scale[0]!, (v - pivot[1]!) / scale[1]!];
    const [sa, ca] = [Math.sin(rad(rotate)), Math.cos(rad(rotate))];
    const [rx, ry] = [ca * x + sa * y, -sa * x + ca * y];
    near(apply('place', { pivot, scale, offset, rotate }, {}, { uv: [u, v] }), [
      rx - offset[0]! + pivot[0]!,
      ry - offset[1]! + pivot[1]!,
    ]);
  }
  near(apply('place', {}, {}, { uv: [0.3, 0.6] }), [0.3, 0.6]);
});

test('place turns as three.js turns a texture the other way about', () => {
  const matrix = new Matrix3().setUvTransform(0, 0, 1, 1, rad(40), 0.5, 0.5);
  const wanted = new Vector2(0.2, 0.7).applyMatrix3(matrix);
  near(apply('place', { pivot: [0.5, 0.5], rotate: 40 }, {}, { uv: [0.2, 0.7] }), wanted.toArray());
});

describe('over time', () => {
  const at = (op: string, time: number, inputs: Record<string, number | number[]>, options: Record<string, string>, loop = 4) => {
    const effect = effectOf(
      [
        ...Object.entries(inputs)
          .filter(([, value]) => Array.isArray(value))
          .map(([name, value]) => ({ id: name, name, op: 'vector' as const, inputs: { in: { value } } })),
        {
          id: 'r',
          name: 'R',
          op,
          inputs: Object.fromEntries(
            Object.entries(inputs).map(([name, value]) => [name, Array.isArray(value) ? { from: name } : { value }]),
          ),
          options,
        },
      ],
      {},
      { loop: loop > 0 ? loop : null },
    );
    return readAt(effect, 'r', { uv: [0.2, 0.7], time: [time], loop: [loop] });
  };
  test('scroll moves so much a second; asked to close, at the nearest speed that does', () => {
    near(at('scroll', 2, { speed: [0.3, -0.1] }, {}), [0.2 - 0.6, 0.7 + 0.2]);
    // 0.3 a second is 1.2 in 4 s: the nearest whole number is 1; 0.1 is 0.4, and what moves goes on moving: once.
    near(at('scroll', 4, { speed: [0.3, -0.1] }, { over: 'loop' }), [0.2 - 1, 0.7 + 1]);
    near(at('scroll', 2, { speed: [0.3, -0.1] }, { over: 'loop' }), [0.2 - 0.5, 0.7 + 0.5]);
    near(at('scroll', 2, { speed: [0.3, 0] }, { over: 'loop' }, 0), [0.2 - 0.6, 0.7]);
  });
  test('spin turns the pattern counter-clockwise about its pivot, and closes when asked', () => {
    const turn = (turns: number) => {
      const a = -2 * Math.PI * turns;
      const [x, y] = [0.2 - 0.5, 0.7 - 0.5];
      return [x * Math.cos(a) - y * Math.sin(a) + 0.5, x * Math.sin(a) + y * Math.cos(a) + 0.5];
    };
    near(at('spin', 1.5, { rate: 0.2 }, {}), turn(0.3));
    near(at('spin', 2, { rate: 0.2 }, { over: 'loop' }), turn(0.5));
    near(at('spin', 4, { rate: 0.2 }, { over: 'loop' }), [0.2, 0.7]);
  });
});

test('polar: the host’s atan2 in turns from 0 to 1, and the distance', () => {
  for (const [u, v] of POINTS) {
    const [angle, distance] = apply('polar', {}, {}, { uv: [u, v] });
    const wanted = Math.atan2(v - 0.5, u - 0.5) / (2 * Math.PI);
    expect(angle).toBeCloseTo(wanted - Math.floor(wanted), 5);
    expect(distance).toBeCloseTo(Math.hypot(u - 0.5, v - 0.5), 5);
  }
});

test('twirl turns the middle whole, and nothing from its radius on; distances stay', () => {
  near(apply('twirl', { turns: 0.25, radius: 0.5 }, {}, { uv: [0.5, 0.5] }), [0.5, 0.5]);
  near(apply('twirl', { turns: 0.25, radius: 0.5 }, {}, { uv: [1.2, 0.5] }), [1.2, 0.5]);
  const [u, v] = apply('twirl', { turns: 0.25, radius: 0.5 }, {}, { uv: [0.6, 0.55] });
  expect(Math.hypot(u! - 0.5, v! - 0.5)).toBeCloseTo(Math.hypot(0.1, 0.05), 5);
  // A share of (1 - d / r)^2 of the turn.
  const share = (1 - Math.hypot(0.1, 0.05) / 0.5) ** 2;
  expect(Math.atan2(v! - 0.5, u! - 0.5)).toBeCloseTo(Math.atan2(0.05, 0.1) - 2 * Math.PI * 0.25 * share, 4);
});

test('tile repeats, or mirrors so that neighbours meet; pixelate holds the middles', () => {
  near(apply('tile', { count: [2, 4] }, {}, { uv: [0.6, 0.3] }), [0.2, 0.2]);
  near(apply('tile', { count: [2, 4] }, { each: 'mirror' }, { uv: [0.6, 0.3] }), [0.8, 0.8]);
  const edge = (u: number) => apply('tile', { count: [2, 2] }, { each: 'mirror' }, { uv: [u, 0] })[0]!;
  expect(edge(0.4999)).toBeCloseTo(edge(0.5001), 3);
  near(apply('pixelate', { count: [4, 2] }, {}, { uv: [0.3, 0.9] }), [0.375, 0.75]);
});
