import { applier } from '../../../tests/fixtures/read.js';
import { randomFrom } from '../../../tests/fixtures/sheets.js';

const random = randomFrom(12);
const N = 90;
/** The mean over a point in each of many cells: off by the borders that cross cells alone, some thousandths. */
function mean(op: string, inputs: Parameters<typeof applier>[1], port?: string, options = {}): number {
  const read = applier(op, inputs, options, port ? { port } : {});
  let sum = 0;
  for (let k = 0; k < N * N; k++) sum += read({ uv: [((k % N) + random()) / N, (Math.floor(k / N) + random()) / N] })[0]!;
  return sum / (N * N);
}

// Shares of the plane by plane geometry.
test('each pattern covers the share of the plane that its geometry says', () => {
  const near = (got: number, wanted: number) => expect(Math.abs(got - wanted)).toBeLessThan(0.012);
  near(mean('grid', { count: [4, 4], width: 0.2 }), 1 - 0.8 * 0.8);
  near(mean('stripes', { count: 5, width: 0.3 }), 0.3);
  near(mean('stripes', { count: 12, width: 0.4, rotate: 30 }), 0.4);
  near(mean('checker', { count: [4, 6] }), 0.5);
  near(mean('dots', { count: [4, 4], radius: 0.3 }), Math.PI * 0.09);
  near(mean('brick', { count: [2, 8], width: 0.2 }), 1 - 0.8 * (1 - 0.05));
  // A hexagon's part within (1 - width) of its size, squared. Four tiles across and 4 / sqrt(3) pairs of rows up hold no
  // whole number of rows, so the share is taken over a large field.
  near(mean('hexTiles', { count: 21, width: 0.1 }), 1 - 0.9 * 0.9);
  near(mean('rings', { count: 40, width: 0.25, pivot: [-2, -3] }), 0.25);
  near(mean('spokes', { count: 60, width: 0.25, pivot: [0.5, 0.5] }), 0.25);
  near(mean('stripe', { in: '@uv.x', place: 0.95, width: 0.2, softness: 0 }), 0.2);
  near(mean('shapes', { size: 0.3 }), Math.PI * 0.09);
  near(mean('shapes', { size: 0.3 }, undefined, { shape: 'box' }), 0.36);
  // A regular hexagon of circumradius r: 3 sqrt(3) / 2 r^2. A star of n points: n r^2 inner sin(pi / n).
  near(mean('shapes', { size: 0.4, sides: 6 }, undefined, { shape: 'polygon' }), ((3 * Math.sqrt(3)) / 2) * 0.16);
  near(mean('shapes', { size: 0.4, sides: 5, inner: 0.5 }, undefined, { shape: 'star' }), 5 * 0.16 * 0.5 * Math.sin(Math.PI / 5));
  near(mean('shapes', { size: 0.3, inner: 0.2 }, undefined, { shape: 'ring' }), Math.PI * (0.33 ** 2 - 0.27 ** 2));
});

test('an edge under a pixel is its share of the pixel: a box filter, by many samples', () => {
  for (const [op, inputs] of [
    ['stripes', { count: 5, width: 0.3 }],
    ['grid', { count: [5, 1], width: 0.3 }],
  ] as const) {
    const read = applier(op, inputs as never);
    for (const width of [0.02, 0.07]) {
      for (let k = 0; k < 20; k++) {
        const at = random();
        const uv = op === 'stripes' ? [0.1, at] : [at, 0.5];
        const along = op === 'stripes' ? [0, width] : [width, 0];
        const soft = read({ uv, uvDx: along, uvDy: [0, 0] })[0]!;
        let sum = 0;
        for (let n = 0; n < 400; n++) {
          const by = ((n + 0.5) / 400 - 0.5) * width;
          sum += read({ uv: op === 'stripes' ? [0.1, at + by] : [at + by, 0.5] })[0]!;
        }
        expect(Math.abs(soft - sum / 400)).toBeLessThan(0.01);
      }
    }
  }
});

test('far away, where a cell is smaller than a pixel, its mean is left', () => {
  const change = { uvDx: [1, 0], uvDy: [0, 1] };
  for (const [op, inputs, wanted] of [
    ['stripes', { count: 40, width: 0.3 }, 0.3],
    ['checker', { count: [40, 40] }, 0.5],
    ['dots', { count: [40, 40], radius: 0.3 }, Math.PI * 0.09],
    ['hexTiles', { count: 40, width: 0.1 }, 0.19],
  ] as const)
    expect(applier(op, inputs as never)({ uv: [0.31, 0.77], ...change })[0]).toBeCloseTo(wanted, 4);
});

test('distances to polygon and star are those to their outlines, by a search along every side', () => {
  for (const shape of ['polygon', 'star'] as const)
    for (const sides of [3, 5, 6]) {
      const read = applier('shapes', { size: 0.4, sides, inner: 0.45 }, { shape }, { port: 'distance' });
      // Corners from the top, counter-clockwise; a star has notches between its tips. A polygon stands on a side: half a turn on.
      const corners: [number, number][] = [];
      const turnOf = (k: number) => Math.PI / 2 + (2 * Math.PI * k) / sides + (shape === 'polygon' ? Math.PI / sides : 0);
      for (let k = 0; k < sides; k++) {
        const turn = turnOf(k);
        corners.push([0.4 * Math.cos(turn), 0.4 * Math.sin(turn)]);
        const notch = turn + Math.PI / sides;
        if (shape === 'star') corners.push([0.18 * Math.cos(notch), 0.18 * Math.sin(notch)]);
      }
      for (let n = 0; n < 40; n++) {
        const [x, y] = [random() - 0.5, random() - 0.5];
        let least = Infinity;
        let inside = false;
        corners.forEach(([ax, ay], k) => {
          const [bx, by] = corners[(k + 1) % corners.length]!;
          const t = Math.max(0, Math.min(1, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / ((bx - ax) ** 2 + (by - ay) ** 2)));
          least = Math.min(least, Math.hypot(ax + t * (bx - ax) - x, ay + t * (by - ay) - y));
          // Even-odd rule (Foley et al.): a ray to the right crosses the outline an odd number of times.
          if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
        });
        expect(read({ uv: [x + 0.5, y + 0.5] })[0]).toBeCloseTo(inside ? -least : least, 4);
      }
    }
});

test('a stripe sweeps: past the end it comes in again at the beginning', () => {
  const at = (place: number, x: number) => applier('stripe', { in: x, place, width: 0.2, softness: 0 })()[0]!;
  expect([at(0.98, 0.03), at(0.98, 0.93), at(0.98, 0.5), at(3.98, 0.03)]).toEqual([1, 1, 0, 1]);
});

test('every tile has a number of its own, the same all over it', () => {
  const read = applier('hexTiles', { count: 6 }, {}, { port: 'cell' });
  const centre = applier('hexTiles', { count: 6 }, {}, { port: 'centre' });
  const numbers = new Map<number, number>();
  for (let k = 0; k < 900; k++) {
    const uv = [(k % 30) / 30 + 0.003, Math.floor(k / 30) / 30 + 0.004];
    const id = read({ uv })[0]!;
    numbers.set(id, (numbers.get(id) ?? 0) + 1);
    expect(centre({ uv })[0]!).toBeLessThanOrEqual(1.0001);
  }
  // 6 across and 6 / (sqrt(3) / 2) rows up, and those that are cut by the border.
  expect(numbers.size).toBeGreaterThan(38);
  expect(numbers.size).toBeLessThan(70);
});
