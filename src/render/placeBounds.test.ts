import { BoxGeometry, BufferAttribute, Euler, Matrix4, Quaternion, SphereGeometry, Vector3 } from 'three';
import { effectOf } from '../../tests/fixtures/sheets.js';
import { readRanges } from '../core/analysis/reading.js';
import { lower } from '../core/lower/lower.js';
import { hullOfBounds, placeBounds } from './placeBounds.js';

const model = (x: number, scale: number) =>
  new Matrix4().compose(
    new Vector3(x, 2, -1),
    new Quaternion().setFromEuler(new Euler(0.4, 1.1, -0.7)),
    new Vector3(scale, 1, scale * 0.5),
  );
const within = (v: number, { low, high }: { low: number; high: number }) => v >= low && v <= high;

test('hold every place of a prop, turned and scaled, and are not much wider', () => {
  const geometry = new SphereGeometry(0.7, 24, 16);
  const matrix = model(14, 3);
  const bounds = placeBounds(geometry, matrix);
  const position = geometry.getAttribute('position') as BufferAttribute;
  const low = [Infinity, Infinity, Infinity];
  for (let k = 0; k < position.count; k++) {
    const p = new Vector3().fromBufferAttribute(position, k);
    p.toArray().forEach((v, lane) => expect(within(v, bounds.position![lane]!)).toBe(true));
    p.applyMatrix4(matrix)
      .toArray()
      .forEach((v, lane) => {
        expect(within(v, bounds.worldPosition![lane]!)).toBe(true);
        low[lane] = Math.min(low[lane]!, v);
      });
  }
  expect(bounds.position![0]!.high).toBeCloseTo(0.7, 2);
  // A turned box around a ball is wider than the ball, by no more than its corners reach.
  bounds.worldPosition!.forEach((b, lane) => expect(b.low).toBeGreaterThan(low[lane]! - 3 * 0.7));
  expect(bounds.pivot!.map((b) => b.low)).toEqual([14, 2, -1]);
});

test('of several props are those of all; what one does not have is bounded for none', () => {
  const tiled = new BoxGeometry(1, 1, 1);
  const uv = tiled.getAttribute('uv') as BufferAttribute;
  for (let k = 0; k < uv.count; k++) uv.setXY(k, uv.getX(k) * 5 - 2, uv.getY(k));
  const plain = new BoxGeometry(1, 1, 1).deleteAttribute('uv');
  const [a, b] = [placeBounds(tiled, model(-20, 1)), placeBounds(new BoxGeometry(4, 1, 1), model(3, 1))];
  const both = hullOfBounds([a, b]);
  expect(both.uv![0]).toEqual({ low: -2, high: 3 });
  expect(both.position![0]).toEqual({ low: -2, high: 2 });
  expect([both.pivot![0]!.low, both.pivot![0]!.high]).toEqual([-20, 3]);
  expect(hullOfBounds([a, placeBounds(plain, model(0, 1))]).uv).toBeUndefined();
  expect(hullOfBounds([])).toEqual({});
});

test('a strand that reads a place can be what its props make of it', () => {
  const effect = effectOf([
    { id: 'p', name: 'Place', op: 'position', options: { space: 'world' } },
    { id: 'u', name: 'Along', op: 'uv' },
    { id: 'd', name: 'Twice', op: 'multiply', inputs: { a: { from: 'u' }, b: { value: 2 } } },
  ]);
  const program = lower(effect, { build: 'live' });
  const bounds = placeBounds(new BoxGeometry(1, 1, 1), new Matrix4().makeTranslation(40, 0, 0));
  const known = readRanges(program, program.paramBounds, 4, undefined, bounds);
  expect(known.get('p')![0]!.low).toBeCloseTo(39.5, 2);
  expect(known.get('p')![0]!.high).toBeCloseTo(40.5, 2);
  expect(known.get('d')).toEqual([
    { low: 0, high: 2 },
    { low: 0, high: 2 },
  ]);
  // Where nothing is known of props, a stage of ordinary size is meant.
  expect(readRanges(program, program.paramBounds, 4).get('p')![0]).toEqual({ low: -10, high: 10 });
});
