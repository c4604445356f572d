import { CylinderGeometry, PlaneGeometry, SphereGeometry, type BufferGeometry } from 'three';
import { mergeGeometries } from 'three/examples/jsm/utils/BufferGeometryUtils.js';
import fc from 'fast-check';
import { PNG } from 'pngjs';
import { PaintRefused, paintFor, readPaint, writePaint } from '../formats/paintFile.js';
import { partsOf } from '../mesh/welds.js';
import {
  alongAxis,
  betweenPoints,
  extentOf,
  fromCurvature,
  fromDistance,
  inverted,
  levelled,
  meanCurvature,
  openness,
  randomPerPart,
  smoothed,
} from './fills.js';
import { blank, canvasOf, channelOf, isUntouched, kept, spreadOf, withChannel, type Canvas, type Paint } from './paint.js';
import { Stroke, reachOf, type Brush } from './stroke.js';

const canvasOfGeometry = (geometry: BufferGeometry): Canvas =>
  canvasOf({
    position: geometry.getAttribute('position').array,
    normal: geometry.getAttribute('normal').array,
    index: geometry.getIndex()?.array ?? null,
  });
const ball = canvasOfGeometry(new SphereGeometry(0.5, 48, 24));
const sheet = canvasOfGeometry(new PlaneGeometry(2, 1, 20, 10));
const near = (canvas: Canvas, at: readonly number[], radius: number) =>
  Array.from({ length: canvas.vertices }, (_, vertex) => ({
    vertex,
    distance: Math.hypot(...at.map((c, k) => canvas.position[vertex * 3 + k]! - c)),
  })).filter(({ distance }) => distance <= radius);

test('vertices in one place are one point: a ball has one at each pole, and none doubled along its seam', () => {
  // Rings without the poles, a column of each: counted by hand.
  expect(ball.vertices).toBe(49 * 25);
  expect(ball.welds.count).toBe(48 * 23 + 2);
  // Euler: corners - sides + triangles = 2 for what is closed and in one piece.
  const sides = ball.neighbours.beside.length / 2;
  const triangles = (ball.index!.length / 3) as number;
  expect(ball.welds.count - sides + triangles).toBe(2);
});

test('parts are what hangs together, and each has one random number', () => {
  const three = [0, 1, 2].map((k) => new SphereGeometry(0.2, 8, 6).translate(k, 0, 0));
  const canvas = canvasOfGeometry(mergeGeometries(three));
  const part = partsOf(canvas.neighbours);
  expect(new Set(part).size).toBe(3);
  const values = randomPerPart(canvas, 7);
  expect(new Set(values).size).toBe(3);
  const one = new SphereGeometry(0.2, 8, 6).getAttribute('position').count;
  for (let v = 0; v < canvas.vertices; v++) expect(values[v]).toBe(values[Math.floor(v / one) * one]);
  expect([...randomPerPart(canvas, 7)]).toEqual([...values]);
  expect([...randomPerPart(canvas, 8)]).not.toEqual([...values]);
});

test('ramps: along an axis, between two points, away from one', () => {
  expect(extentOf(sheet, 0)).toEqual([-1, 1]);
  const along = alongAxis(sheet, 0, -1, 1);
  for (let v = 0; v < sheet.vertices; v++) expect(along[v]).toBeCloseTo((sheet.position[v * 3]! + 1) / 2, 6);
  const back = alongAxis(sheet, 0, 1, -1);
  for (let v = 0; v < sheet.vertices; v++) expect(back[v]).toBeCloseTo(1 - along[v]!, 6);
  // Between the ends of the same line it is the same ramp; a slanted one is level square to itself.
  expect([...betweenPoints(sheet, [-1, 0.3, 0], [1, 0.3, 0])].map((v) => v.toFixed(5))).toEqual(
    [...along].map((v) => v.toFixed(5)),
  );
  const slanted = betweenPoints(sheet, [0, 0, 0], [0.4, 0.4, 0]);
  const at = (x: number, y: number) => slanted[near(sheet, [x, y, 0], 1e-6)[0]!.vertex]!;
  expect(at(0.2, 0.2)).toBeCloseTo(0.5, 6);
  expect(at(0.4, 0)).toBeCloseTo(0.5, 6);
  expect(at(0.8, 0.5)).toBe(1);
  const away = fromDistance(sheet, [[0, 0, 0]], 0.5);
  expect(away[near(sheet, [0.3, 0, 0], 1e-6)[0]!.vertex]).toBeCloseTo(0.6, 6);
});

test('curvature of a ball is one over its radius, of a cylinder half of that, of a sheet none (differential geometry, any handbook)', () => {
  const bends = (canvas: Canvas, inside: (v: number) => boolean) => [...meanCurvature(canvas)].filter((_, v) => inside(v));
  for (const h of bends(ball, (v) => Math.abs(ball.position[v * 3 + 1]!) < 0.45)) expect(h).toBeCloseTo(2, 1);
  const tube = canvasOfGeometry(new CylinderGeometry(0.25, 0.25, 1, 64, 16, true));
  for (const h of bends(tube, (v) => Math.abs(tube.position[v * 3 + 1]!) < 0.49)) expect(h).toBeCloseTo(2, 1);
  for (const h of bends(sheet, () => true)) expect(h).toBeCloseTo(0, 6);
  // Seen from inside a ridge is a hollow.
  const inner: Canvas = { ...ball, normal: Float32Array.from(ball.normal, (c) => -c) };
  const half = fromCurvature(inner, 0.25);
  expect(half[near(ball, [0.5, 0, 0], 0.01)[0]!.vertex]).toBeCloseTo(0.25, 1);
});

test('openness: all of it over a sheet, half beside a wall (cosine law: a wall that stands on it hides half the light)', () => {
  expect([...openness(sheet, 16, () => false)].every((v) => v === 1)).toBe(true);
  const beside = openness({ ...sheet, vertices: 1 }, 256, (_, to) => to[0] > 0);
  expect(beside[0]).toBeCloseTo(0.5, 1);
  // Directions crowd where the cosine is large: the mean of their heights is that of cosine-weighted ones, 2/3.
  let sum = 0;
  openness({ ...sheet, vertices: 1 }, 256, (_, to) => ((sum += to[2]), false));
  expect(sum / 256).toBeCloseTo(2 / 3, 2);
});

test('smoothing keeps what is even, takes down what stands out, and crosses the seam of uv', () => {
  const even = smoothed(ball, new Float32Array(ball.vertices).fill(0.25), 5);
  for (const v of even) expect(v).toBeCloseTo(0.25, 6);
  const seam = near(ball, [-0.5, 0, 0], 1e-4);
  expect(seam).toHaveLength(2);
  const spike = new Float32Array(ball.vertices);
  for (const { vertex } of seam) spike[vertex] = 1;
  const flatter = smoothed(ball, spike, 1);
  expect(flatter[seam[0]!.vertex]).toBe(flatter[seam[1]!.vertex]);
  expect(flatter[seam[0]!.vertex]).toBeLessThan(0.3);
  // It spreads to both sides of the seam alike.
  const side = (z: number) => Math.max(...near(ball, [-0.495, 0, z], 0.02).map(({ vertex }) => flatter[vertex]!));
  expect(side(0.065)).toBeGreaterThan(0);
  expect(side(0.065)).toBeCloseTo(side(-0.065), 6);
});

test('invert and levels', () => {
  const values = Float32Array.of(0, 0.25, 0.5, 1);
  expect([...inverted(values)]).toEqual([1, 0.75, 0.5, 0]);
  expect([...levelled(values, 0.25, 0.5, 1)]).toEqual([0, 0, 1, 1]);
  // Gamma 2 takes a quarter to a half: 0.25 ^ (1 / 2).
  expect(levelled(values, 0, 1, 2)[1]).toBeCloseTo(0.5, 6);
});

const BRUSH: Brush = { kind: 'add', value: 1, radius: 0.3, strength: 0.5, falloff: 0.5 };
const strokeOf = (canvas: Canvas, paint: Paint, brush: Partial<Brush> = {}) =>
  new Stroke(canvas, paint, 0, { ...BRUSH, ...brush });
const middle = near(sheet, [0, 0, 0], 1e-6)[0]!.vertex;

test('a brush reaches all of its middle, nothing of what is past its radius, and falls between', () => {
  for (const falloff of [0, 0.3, 1]) {
    expect(reachOf(0, falloff)).toBe(1);
    expect(reachOf(1.001, falloff)).toBe(0);
    let last = 1;
    for (let at = 0; at <= 1; at += 0.05) {
      expect(reachOf(at, falloff)).toBeLessThanOrEqual(last);
      last = reachOf(at, falloff);
    }
  }
  expect(reachOf(0.75, 0.5)).toBeCloseTo(0.5, 6);
});

test('a stroke covers each vertex once, whatever the places it was heard at', () => {
  const paint = withChannel(blank(sheet.vertices), 0, new Float32Array(sheet.vertices).fill(0.2));
  const once = strokeOf(sheet, paint);
  once.dab(near(sheet, [0, 0, 0], 0.3));
  expect(once.values[middle]).toBeCloseTo(0.7, 4);
  const often = strokeOf(sheet, paint);
  for (let k = 0; k < 9; k++) often.dab(near(sheet, [0, 0, 0], 0.3));
  expect([...often.values]).toEqual([...once.values]);
  // Those out of reach keep what they had.
  const far = near(sheet, [1, 0.5, 0], 1e-6)[0]!.vertex;
  expect(once.values[far]).toBeCloseTo(0.2, 4);
  const second = strokeOf(sheet, withChannel(paint, 0, once.values));
  second.dab(near(sheet, [0, 0, 0], 0.3), 0.5);
  expect(second.values[middle]).toBeCloseTo(0.95, 4);
});

test('add, take, set and smooth do what they say and stay between 0 and 1', () => {
  fc.assert(
    fc.property(
      fc.constantFrom('add', 'take', 'set', 'smooth' as const),
      fc.double({ min: 0, max: 1, noNaN: true }),
      fc.double({ min: 0, max: 1, noNaN: true }),
      fc.double({ min: 0, max: 1, noNaN: true }),
      (kind, was, value, strength) => {
        const paint = withChannel(
          blank(sheet.vertices),
          0,
          alongAxis(sheet, 0, -1, 1).map((v) => v * was * 0.999),
        );
        const stroke = strokeOf(sheet, paint, { kind, value, strength });
        stroke.dab(near(sheet, [0, 0, 0], 0.3));
        const before = paint[middle * 4]!;
        const after = stroke.values[middle]!;
        expect(after).toBeGreaterThanOrEqual(0);
        expect(after).toBeLessThanOrEqual(1);
        const expected = {
          add: Math.min(1, before + strength * value),
          take: Math.max(0, before - strength * value),
          set: before + strength * (value - before),
          // In the middle of an even ramp the mean of what is around is what is there.
          smooth: before,
        }[kind as 'add'];
        expect(after).toBeCloseTo(expected, 3);
      },
    ),
    { seed: 5, numRuns: 60 },
  );
});

test('a channel that nobody has painted reads 1, and what is added to it begins from nothing', () => {
  const paint = blank(sheet.vertices);
  expect(isUntouched(paint, 2)).toBe(true);
  const stroke = strokeOf(sheet, paint);
  stroke.dab(near(sheet, [0, 0, 0], 0.3));
  const painted = withChannel(paint, 0, stroke.values);
  expect(isUntouched(painted, 0)).toBe(false);
  expect(isUntouched(painted, 1)).toBe(true);
  const { low, high } = spreadOf(painted, 0, 20);
  expect([low, high]).toEqual([0, kept(0.5)]);
  // What is taken away goes from 1.
  const taken = strokeOf(sheet, paint, { kind: 'take' });
  taken.dab(near(sheet, [0, 0, 0], 0.3));
  expect(spreadOf(withChannel(paint, 0, taken.values), 0, 4).high).toBe(1);
});

test('how values are spread: every vertex is in one step, with its mean', () => {
  const paint = withChannel(blank(sheet.vertices), 1, alongAxis(sheet, 0, -1, 1));
  const { bins, mean, low, high } = spreadOf(paint, 1, 20);
  expect(bins.reduce((a, b) => a + b)).toBe(sheet.vertices);
  expect([low, high]).toEqual([0, 1]);
  expect(mean).toBeCloseTo(0.5, 3);
});

test('a paint file is a picture that another library reads, and comes back as the same numbers (PNG, 16 bit)', () => {
  for (const vertices of [1, 3, 1024, 1025, 2500]) {
    const paint = Float32Array.from({ length: vertices * 4 }, (_, k) => kept(((k * 2654435761) >>> 0) / 2 ** 32)) as Paint;
    const file = writePaint(paint);
    expect([...paintFor(readPaint(file), vertices)!]).toEqual([...paint]);
    const other = PNG.sync.read(Buffer.from(file), { skipRescale: true } as object) as unknown as {
      data: Uint16Array;
      width: number;
    };
    expect(other.width).toBe(Math.min(1024, vertices));
    for (let k = 0; k < paint.length; k++) expect(other.data[k]! / 65535).toBeCloseTo(paint[k]!, 7);
  }
});

test('what is no paint, or another mesh’s, is refused in a sentence', () => {
  const file = writePaint(blank(50));
  expect(paintFor(readPaint(file), 51)).toBeNull();
  expect(paintFor(readPaint(file), 50)).toHaveLength(200);
  // As it is painted, before any file: of so many vertices, without what fills a row.
  expect(paintFor(blank(1500), 1500)).toHaveLength(6000);
  expect(paintFor(blank(1500), 1400)).toBeNull();
  expect(() => readPaint(file.slice(0, 40))).toThrow(PaintRefused);
  expect(() => readPaint(file.slice(0, 40))).toThrow(/cannot be read/);
  const grey = PNG.sync.write(new PNG({ width: 50, height: 1 }));
  expect(() => readPaint(grey)).toThrow(/another kind/);
});

test('one channel of paint is taken and put back without touching the others', () => {
  const paint = blank(
    4,
    Float32Array.from({ length: 16 }, (_, k) => k / 16),
  );
  const changed = withChannel(paint, 2, Float32Array.of(1, 2, Number.NaN, 0.5));
  expect([...channelOf(changed, 2)]).toEqual([1, 1, 0, kept(0.5)]);
  for (const c of [0, 1, 3] as const) expect([...channelOf(changed, c)]).toEqual([...channelOf(paint, c)]);
});
