/** The ray drone by its numbers: its paint, its beat, and the school that is made of copies of it. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { paintFor, readPaint } from '../src/core/formats/paintFile.js';
import { readGlb } from '../src/core/formats/glb.js';
import { Materials } from '../src/core/scene/materials.js';
import { paceOf } from '../src/core/scene/motes.js';
import { readStage } from '../src/core/scene/stage.js';
import { WornOnStage } from '../src/core/scene/worn.js';
import { outputAt, starter, turned } from '../tests/fixtures/starters.js';

const at = (...path: string[]) => join(import.meta.dirname, ...path);
const ray = starter('ray-drone');
const read = readStage(JSON.parse(readFileSync(at('stages/drop-off.wispen-stage.json'), 'utf8')));
if (!read.ok) throw new Error(read.problems[0]!.message);
const { stage } = read;
const mesh = await readGlb(new Uint8Array(readFileSync(at('meshes/ray-fin.glb'))));
const paint = paintFor(readPaint(new Uint8Array(readFileSync(at('paints/ray-fin.png')))), mesh.about.vertices)!;

/** How far up points of so much red are carried, at a time in seconds. */
const lift = (red: readonly number[], time: number, effect = ray) =>
  [
    ...outputAt(effect, 'displacement', { vertexColour: red.map((r) => [r, 1, 1, 1]), time: [[time]], propRandom: [[0]] }, red.length)[1]!,
  ];

test('a fin is painted 0 where it is hinged and 1 at its tip, rising all the way, without a step', () => {
  const along = Array.from({ length: mesh.about.vertices }, (_, v) => ({ z: mesh.position[v * 3 + 2]!, red: paint[v * 4]! })).sort(
    (a, b) => a.z - b.z,
  );
  expect(along[0]!.red).toBeLessThan(0.01);
  expect(along.at(-1)!.red).toBeGreaterThan(0.97);
  let last = along[0]!;
  for (const here of along) {
    // Of one distance some differ by what smoothing took from the rims.
    expect(here.red).toBeGreaterThan(last.red - 0.02);
    expect(here.red - last.red).toBeLessThan(0.08);
    last = here;
  }
});

test('the root never moves; the tip goes up and down by the amplitude, twice a beat of two seconds', () => {
  for (let t = 0; t < 4; t += 0.1) expect(Math.abs(lift([0], t)[0]!)).toBeLessThan(1e-6);
  const tip = Array.from({ length: 201 }, (_, k) => lift([1], k * 0.01)[0]!);
  expect(Math.max(...tip)).toBeCloseTo(0.17, 3);
  expect(Math.min(...tip)).toBeCloseTo(-0.17, 3);
  // 0.5 Hz: after two seconds it is where it was.
  expect(tip[200]).toBeCloseTo(tip[0]!, 4);
  // Rates of 0.2 to 16 Hz: a sixteenth of a second on, at 16 Hz, likewise.
  const fast = turned(ray, { beat: 16 });
  expect(lift([1], 0.3, fast)[0]).toBeCloseTo(lift([1], 0.3 + 1 / 16, fast)[0]!, 4);
});

test('the tip leads: it is at the top before what is nearer the body', () => {
  const top = (red: number) => {
    const swing = Array.from({ length: 200 }, (_, k) => lift([red], k * 0.01)[0]!);
    return swing.indexOf(Math.max(...swing));
  };
  expect(top(1)).toBeLessThan(top(0.5));
  // By a share of a beat: 0.14 turns of two seconds, between its tip and its root.
  expect((top(0.2) - top(1)) * 0.01).toBeGreaterThan(0.15);
});

test('one fin is the other mirrored, in the same paint; the school is copies of body and fins, each in what they wear', () => {
  const fin = (id: string) => stage.props.find((p) => p.id === id)!;
  expect(fin('fin-left').paint).toBe(fin('fin-right').paint);
  expect(fin('fin-left').scale[0]! * fin('fin-right').scale[0]!).toBe(-1);
  const [school] = stage.motes;
  expect(paceOf(school!, ray.loop).count).toBeGreaterThan(20);
  const worn = new WornOnStage(new Materials(new Map()));
  worn.update(stage, new Map([[ray.id, ray]]), ray);
  expect(worn.copies.map(({ of }) => of.map(({ prop, worn: w }) => [prop, w?.shown.id ?? null]))).toEqual([
    [
      ['body', null],
      ['fin-left', ray.id],
      ['fin-right', ray.id],
    ],
  ]);
  // Those that are hidden are copied all the same.
  const hidden = { ...stage, props: stage.props.map((p) => ({ ...p, visible: p.group !== 'Ray' })) };
  worn.update(hidden, new Map([[ray.id, ray]]), ray);
  expect(worn.copies[0]!.of[1]!.worn?.shown.id).toBe(ray.id);
});
