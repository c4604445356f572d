import { PNG } from 'pngjs';
import { FloatType } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { effectOf } from '../../../tests/fixtures/sheets.js';
import type { Strand } from '../effect/schema.js';
import { LEAVES, LEAF_NAMES, type Leaf } from '../ir/leaves.js';
import { lower } from '../lower/lower.js';
import { paramValues } from '../lower/params.js';
import { scalarise } from '../passes/scalarise.js';
import { evaluate } from '../targets/reference.js';
import { MOST_OF_HALF, beyondHalf, pictureFile, textureBake } from './texture.js';

const [W, H] = [8, 4];
const PLACES: Record<string, Strand[]> = {
  uv: [{ id: 'p', name: 'P', op: 'uv' }],
  position: [
    { id: 'q', name: 'Q', op: 'position' },
    { id: 'p', name: 'P', op: 'swizzle', options: { order: 'xy' }, inputs: { in: { from: 'q' } } },
  ],
  screen: [{ id: 'p', name: 'P', op: 'screen' }],
};

/** The places of a sheet of one metre, faced straight on: what the header of `textureBake` says. */
function placesAt(column: number, row: number): Partial<Record<Leaf, number[]>> {
  const [u, v] = [(column + 0.5) / W, 1 - (row + 0.5) / H];
  const flat = [u - 0.5, v - 0.5, 0];
  return {
    ...{ uv: [u, v], uv1: [u, v], screen: [u, v], position: flat, worldPosition: flat },
    ...{ uvDx: [1 / W, 0], uvDy: [0, 1 / H], uv1Dx: [1 / W, 0], uv1Dy: [0, 1 / H], screenDx: [1 / W, 0], screenDy: [0, 1 / H] },
    ...{ positionDx: [1 / W, 0, 0], positionDy: [0, 1 / H, 0], worldPositionDx: [1 / W, 0, 0], worldPositionDy: [0, 1 / H, 0] },
  };
}

test.each(['uv', 'screen'])('a pattern of %s is baked as the reference has it there, as soft as a texel is wide', (place) => {
  // Lines both ways, of other counts: what is soft one way must not be so the other.
  const grid: Strand = {
    id: 'g',
    name: 'G',
    op: 'grid',
    inputs: { uv: { from: 'p' }, count: { value: [3, 2] }, width: { value: 0.3 } },
  };
  const effect = effectOf([...PLACES[place]!, grid], { opacity: { from: 'g' } }, { loop: null });
  const made = textureBake(effect, 'opacity', W, H);
  if (!made.ok) throw new Error(made.problem.message);
  const [plane] = made.bake.frame(0) as [Float32Array];
  const program = lower(effect, { build: 'frozen' });
  const scalar = scalarise([program.outputs.get('opacity')!.node]);
  const rest = Object.fromEntries(LEAF_NAMES.map((l) => [l, LEAVES[l].fallback]));
  for (let row = 0; row < H; row++)
    for (let column = 0; column < W; column++) {
      const leaves = { ...rest, ...placesAt(column, row), loop: [0], time: [0] };
      const [[wanted]] = evaluate(scalar, { params: paramValues(program.params, effect), leaves }) as [[number]];
      expect(plane[row * W + column]).toBeCloseTo(wanted, 6);
    }
  expect(new Set(plane).size).toBeGreaterThan(3);
});

test('rows go from the top, and a frame of a loop is the one a loop later', () => {
  const effect = effectOf(
    [
      { id: 'p', name: 'P', op: 'uv' },
      { id: 't', name: 'T', op: 'time' },
      { id: 's', name: 'S', op: 'add', inputs: { a: { from: 'p', part: 'y' }, b: { from: 't' } } },
    ] as Strand[],
    { opacity: { from: 's' } },
    { loop: 2, fps: 10 },
  );
  const made = textureBake(effect, 'opacity', 2, 4);
  if (!made.ok) throw new Error(made.problem.message);
  expect([...made.bake.frame(0)[0]!].filter((_, k) => k % 2 === 0)).toEqual([0.875, 0.625, 0.375, 0.125]);
  expect(made.bake.frame(3)[0]![0]).toBeCloseTo(0.875 + 0.3, 6);
  expect([...made.bake.frame(23)[0]!]).toEqual([...made.bake.frame(3)[0]!]);
});

describe('files', () => {
  const row = Float32Array.from([0, 0.5, 1, 2, -1, NaN]);
  const codes = (file: Uint8Array, channel = 0) => {
    const png = PNG.sync.read(Buffer.from(file), { skipRescale: true });
    return Array.from({ length: 6 }, (_, k) => (png.data as unknown as Uint16Array)[k * 4 + channel]!);
  };
  test('PNG: colours as IEC 61966-2-1 codes them, numbers as they are, signed ones from the middle; cut off at the ends', () => {
    const three = [row, row, row];
    // .5 of the light is coded as .73536 (IEC 61966-2-1).
    expect(codes(pictureFile(three, 6, 1, 'emission', 'png'))).toEqual([
      0,
      Math.round(0.7353569830524495 * 65535),
      65535,
      65535,
      0,
      0,
    ]);
    expect(codes(pictureFile([row], 6, 1, 'opacity', 'png'))).toEqual([0, 32768, 65535, 65535, 0, 0]);
    expect(codes(pictureFile(three, 6, 1, 'normal', 'png'))).toEqual([32768, 49151, 65535, 65535, 0, 32768]);
    const two = pictureFile([row, row], 6, 1, 'refraction', 'png');
    expect([codes(two, 1)[2], codes(two, 2)[2]]).toEqual([65535, 32768]);
  });
  test('EXR: halves, cut off at the most that they hold and counted; what is no number is 0', () => {
    const far = Float32Array.from([1e5, -1e6, Infinity, 65504, NaN, 0.25]);
    expect(beyondHalf([far, far])).toBe(6);
    const read = new EXRLoader()
      .setDataType(FloatType)
      .parse(pictureFile([far], 6, 1, 'opacity', 'exr').slice().buffer as ArrayBuffer);
    const { data } = read as unknown as { data: Float32Array };
    const width = data.length / 6;
    expect(Array.from({ length: 6 }, (_, k) => data[k * width])).toEqual([65504, -65504, 65504, 65504, 0, 0.25]);
    expect(MOST_OF_HALF).toBe(65504);
  });
});

test('an output that nothing is connected to is refused with a sentence', () => {
  const made = textureBake(effectOf(PLACES.uv!), 'emission', 2, 2);
  expect(made).toMatchObject({ ok: false, problem: { message: 'Nothing is connected to the output emission.' } });
});
