/** The starters by their numbers: what each is said to do, it does. Bounds are those of the effects themselves. */
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { readEffect } from '../src/core/effect/read.js';
import { strandsOf, type Effect } from '../src/core/effect/schema.js';
import { withVariant } from '../src/core/effect/variant.js';
import { LEAVES, LEAF_NAMES, type Leaf } from '../src/core/ir/leaves.js';
import { widthOf } from '../src/core/ir/types.js';
import { lower } from '../src/core/lower/lower.js';
import { paramValues } from '../src/core/lower/params.js';
import { evaluatorOf } from '../src/core/targets/evaluate.js';

const folder = join(import.meta.dirname, 'starters');
const files = readdirSync(folder);
function starter(name: string): Effect {
  const read = readEffect(JSON.parse(readFileSync(join(folder, `${name}.wispen.json`), 'utf8')));
  if (!read.ok) throw new Error(read.problems[0]!.message);
  return read.effect;
}

type Points = Partial<Record<Leaf, readonly (readonly number[])[]>>;

/** An effect with some of its dials turned. */
function turned(effect: Effect, dials: Record<string, number>): Effect {
  const values = Object.entries(dials).map(([id, value]) => {
    if (!effect.dials.some((d) => d.id === id)) throw new Error(`${effect.name} has no dial ${id}`);
    return [id, value];
  });
  const variant = { id: 'turned', name: 'Turned', values: Object.fromEntries(values) as Record<string, number> };
  return withVariant({ ...effect, variants: [variant] }, variant.id);
}

/** An output at points, each component a plane. Places that are not given are the same everywhere. */
function outputAt(effect: Effect, output: string, points: Points, count: number): Float32Array[] {
  const program = lower(effect, { build: 'live' });
  if (program.problems.length > 0) throw new Error(program.problems[0]!.message);
  const port = [...program.outputs].find(([name]) => name === output)![1];
  const evaluator = evaluatorOf(program, [port.node], new Set(LEAF_NAMES), count);
  const leaves = Object.fromEntries(
    LEAF_NAMES.map((leaf) => {
      const rows = points[leaf] ?? [LEAVES[leaf].fallback];
      return [
        leaf,
        Array.from({ length: widthOf(LEAVES[leaf].type) }, (_, lane) =>
          Float32Array.from({ length: count }, (__, k) => rows[k % rows.length]![lane]!),
        ),
      ];
    }),
  );
  return evaluator.evaluate(paramValues(program.params, effect), leaves, count)[0]!;
}

test.each(files)('%s: at most 24 strands, a note, a home, and dials that say what they are', (file) => {
  const effect = starter(file.replace('.wispen.json', ''));
  expect(strandsOf(effect).length).toBeLessThanOrEqual(24);
  expect(effect.note.length).toBeGreaterThan(60);
  expect(effect.home).not.toBeNull();
  expect(effect.dials.length).toBeGreaterThan(2);
  for (const dial of effect.dials) expect(dial.label).not.toBe('');
  expect(lower(effect, { build: 'live' }).problems).toEqual([]);
});

describe('Tide inlet', () => {
  const inlet = starter('tide-inlet');
  const depths = Array.from({ length: 41 }, (_, k) => k * 0.05);
  const at = (effect: Effect, output: string) => outputAt(effect, output, { depthGapDown: depths.map((d) => [d]) }, depths.length);

  test.each([0.05, 0.12, 0.4])('is never seen through more than at its shore: least %f', (least) => {
    const [opacity] = at(turned(inlet, { shoremin: least }), 'opacity') as [Float32Array];
    expect(Math.min(...opacity)).toBeCloseTo(least, 5);
    expect(opacity[0]).toBeCloseTo(least, 5);
    for (const [k, o] of [...opacity].entries()) if (k > 0) expect(o).toBeGreaterThanOrEqual(opacity[k - 1]!);
    expect(opacity.at(-1)).toBeCloseTo(0.82, 5);
  });

  test('its hue deepens to the deep one at the full depth, sooner with a falloff below 1', () => {
    const green = (effect: Effect) => at(turned(effect, { full: 1 }), 'baseColour')[1]!;
    const plain = green(turned(inlet, { fall: 1 }));
    const soon = green(turned(inlet, { fall: 0.5 }));
    for (let k = 1; k < plain.length; k++) expect(plain[k]).toBeLessThanOrEqual(plain[k - 1]! + 1e-6);
    // mix(shallow, deep, d^f) at d = 0.25 is a quarter and a half of the way.
    const way = (v: number) => (plain[0]! - v) / (plain[0]! - plain.at(-1)!);
    expect(way(plain[5]!)).toBeCloseTo(0.25, 3);
    expect(way(soon[5]!)).toBeCloseTo(0.5, 3);
    expect(plain[20]).toBeCloseTo(plain.at(-1)!, 5);
  });

  test('the ground at its edge is not moved, and what lies deeper is, in proportion', () => {
    const tilted = { normal: [[0.2, 0.97, 0.13]], eyeDepth: [[4]] };
    const shift = (effect: Effect, depth: number) =>
      Math.hypot(...outputAt(effect, 'refraction', { ...tilted, depthGapDown: [[depth]] }, 1).map((p) => p[0]!)) * (4 + depth);
    expect(shift(inlet, 0)).toBe(0);
    expect(shift(inlet, 0.8) / shift(inlet, 0.2)).toBeCloseTo(4, 3);
    expect(shift(turned(inlet, { bend: 0.6 }), 0.5) / shift(turned(inlet, { bend: 0.3 }), 0.5)).toBeCloseTo(2, 3);
  });
});

describe('Open swell', () => {
  const sea = starter('open-swell');
  /** Places along a heading, from near to beyond the reach of the waves. */
  const far = Array.from({ length: 120 }, (_, k) => [k * 4, 0, k * -3]);
  const heights = (effect: Effect, points = far) =>
    outputAt(effect, 'displacement', { position: points, worldPosition: points }, points.length)[1]!;

  test('waves where they are told apart, and a level sea beyond', () => {
    const y = heights(sea);
    const near = y.filter((_, k) => Math.hypot(far[k]![0]!, far[k]![2]!) < 37);
    const beyond = y.filter((_, k) => Math.hypot(far[k]![0]!, far[k]![2]!) > 150);
    expect(Math.max(...near) - Math.min(...near)).toBeGreaterThan(0.3);
    expect(Math.max(...beyond.map(Math.abs))).toBe(0);
  });

  test('the dial swell raises them in proportion', () => {
    const [one, half] = [heights(turned(sea, { swell: 1 })), heights(turned(sea, { swell: 0.5 }))];
    one.forEach((v, k) => expect(half[k]).toBeCloseTo(v / 2, 6));
  });
});

describe('Kelp frond', () => {
  const frond = starter('kelp-frond');
  test('its root is still, its top moves, and what is painted between moves between', () => {
    const times = Array.from({ length: 60 }, (_, k) => [k * 0.2]);
    const swing = (red: number) => {
      const points = { time: times, vertexColour: [[red, 0, 0.5, 1]], position: [[0, red * 1.7, 0]] };
      const planes = outputAt(frond, 'displacement', points, times.length);
      return Math.max(...planes.map((p) => Math.max(...p) - Math.min(...p)));
    };
    expect(swing(0)).toBe(0);
    expect(swing(1)).toBeGreaterThan(0.2);
    expect(swing(0.5)).toBeGreaterThan(0.02);
    expect(swing(0.5)).toBeLessThan(swing(1));
  });
});
