import { scalarise } from '../../passes/scalarise.js';
import { evaluate } from '../../targets/reference.js';
import { Builder } from '../builder.js';
import { cellsOf, type Metric } from './cells.js';
import { materialxCell, materialxCells, materialxNoise } from './materialx.js';
import { loopedNoiseAt, noiseAt } from './noise.js';

const b = new Builder();
const read = (node: Parameters<typeof b.pick>[0]) => evaluate(scalarise([node]), { params: [], leaves: {} })[0]!;

/** pcg3d as published (Jarzynski and Olano 2020), in big integers. */
function pcg3d(v: readonly number[]): number[] {
  const M = 0xffffffffn;
  let [x, y, z] = v.map((n) => (BigInt(n >>> 0) * 1664525n + 1013904223n) & M) as [bigint, bigint, bigint];
  const round = () => {
    x = (x + y * z) & M;
    y = (y + z * x) & M;
    z = (z + x * y) & M;
  };
  round();
  [x, y, z] = [x ^ (x >> 16n), y ^ (y >> 16n), z ^ (z >> 16n)];
  round();
  return [Number(x), Number(y), Number(z)];
}

const DISTANCE: Record<Metric, (d: number[]) => number> = {
  straight: (d) => Math.hypot(...d),
  city: (d) => d.reduce((s, c) => s + Math.abs(c), 0),
  chess: (d) => Math.max(...d.map(Math.abs)),
};

test.each(['straight', 'city', 'chess'] as const)(
  'cells by %s distance against a search of Worley’s definition over every neighbour',
  (metric) => {
    for (const width of [2, 3] as const)
      for (let k = 0; k < 40; k++) {
        const p = [k * 0.737 - 9, k * 0.291 + 3, k * 1.13 - 20].slice(0, width).map(Math.fround);
        const home = p.map(Math.floor);
        const near: { far: number; cell: number[] }[] = [];
        for (let n = 0; n < 3 ** width; n++) {
          const step = [n % 3, Math.floor(n / 3) % 3, Math.floor(n / 9)].slice(0, width).map((d) => d - 1);
          const cell = home.map((c, j) => c + step[j]!);
          // Cells are counted from 1.5 x 2^23 as bits of a float: a constant offset.
          const bits = cell.map((c) => (c + 0x4b400000) | 0);
          const random = pcg3d([(bits[0]! + 11) | 0, bits[1]!, bits[2] ?? 0]).map((h) => Math.floor(h / 256) / 2 ** 24);
          const point = cell.map((c, j) => c + 0.5 + (random[j]! - 0.5) * 0.8);
          near.push({ far: DISTANCE[metric](point.map((c, j) => c - p[j]!)), cell });
        }
        near.sort((x, y) => x.far - y.far);
        const [f1, f2, random] = read(b.call(cellsOf(width, metric, false), b.constant(...p), b.integer(11), b.constant(0.8)));
        expect(f1).toBeCloseTo(near[0]!.far, 5);
        expect(f2).toBeCloseTo(near[1]!.far, 5);
        expect(random).toBeGreaterThanOrEqual(0);
        expect(random).toBeLessThan(1);
      }
  },
);

test('without jitter the points are a lattice; circling points come back after a turn', () => {
  const at = (jitter: number, turns: number) =>
    read(b.call(cellsOf(2, 'straight', true), b.constant(0.3, 0.9), b.integer(5), b.constant(jitter), b.constant(turns)));
  expect(at(0, 0.4)[0]).toBeCloseTo(Math.hypot(0.2, 0.4), 6);
  expect(at(1, 0.25)[0]).not.toBeCloseTo(at(1, 0)[0]!, 2);
  at(1, 3).forEach((v, k) => expect(v).toBeCloseTo(at(1, 0)[k]!, 5));
});

// Values of MaterialX 1.39's own noise functions, from two independent programs (worleynoise from one).
describe('MaterialX 1.39 noises', () => {
  test.each([
    [[0.1, 0.2, 0.3], -0.2371653, 0.6110677, 0.1318321],
    [[1.5, 2.25, 3.75], -0.0031298, 0.7219464, 0.888171],
    [[-1.3, 4.7, 2.9], -0.1851817, 0.5360725, 0.4743631],
    [[10.25, 20.5, 30.75], 0.2969026, 0.6409537, 0.5161585],
    [[0.3, 0.7], 0.0407437, 0.8603128, 0.6009494],
    [[1.5, 2.25], 0.1282496, 0.0633514, 0.3491502],
  ])('at %j', (p, noise, cell, worley) => {
    const place = b.constant(...p);
    expect(read(materialxNoise(b, place))[0]).toBeCloseTo(noise, 5);
    expect(read(materialxCell(b, place))[0]).toBeCloseTo(cell, 6);
    expect(read(b.call(materialxCells[p.length as 2 | 3], place, b.constant(1)))[0]).toBeCloseTo(worley, 5);
  });
});

test('looped noise repeats after its period, is continuous there, and without one is the plain noise', () => {
  const seed = b.constant(3);
  for (const p of [[0.37], [1.3, 0.21], [0.4, -2.2, 3.9], [0.1, 5.4, -1.7, 0.65]]) {
    const place = (shift: number) => b.constant(...p.slice(0, -1), p.at(-1)! + shift);
    expect(read(loopedNoiseAt(b, place(0), seed, b.constant(0)))[0]).toBeCloseTo(read(noiseAt(b, place(0), seed))[0]!, 5);
    const looped = (shift: number) => read(loopedNoiseAt(b, place(shift), seed, b.constant(3)))[0]!;
    expect(looped(3)).toBeCloseTo(looped(0), 5);
    expect(looped(-6)).toBeCloseTo(looped(0), 5);
    expect(Math.abs(looped(1.5) - looped(0))).toBeGreaterThan(1e-3);
    const join = 3 - p.at(-1)!;
    expect(looped(join - 1e-4)).toBeCloseTo(looped(join + 1e-4), 3);
  }
});
