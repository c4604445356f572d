/** The starters of motes by their numbers. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { MotesOf } from '../src/core/scene/motes.js';
import { readStage } from '../src/core/scene/stage.js';
import { inVariant, outputAt, starter, turned } from '../tests/fixtures/starters.js';

describe('Plankton motes', () => {
  const plankton = starter('plankton-motes');
  const read = readStage(JSON.parse(readFileSync(join(import.meta.dirname, 'stages/night-shelf.wispen-stage.json'), 'utf8')));
  if (!read.ok) throw new Error(read.problems[0]!.message);
  const { stage } = read;
  const field = stage.motes[0]!;
  const COUNT = 200;
  const spread = (k: number, stride: number) => (k * stride) % 1;
  const lives = {
    moteRandom: Array.from({ length: COUNT }, (_, k) => [spread(k, 0.618034)]),
    moteAge: Array.from({ length: COUNT }, (_, k) => [spread(k, 0.7548777)]),
    moteIndex: [[0]],
    uv: [[0.5, 0.5]],
    time: [[1.3]],
  };
  const most = (planes: Float32Array[]) => Math.max(...planes.flatMap((p) => [...p]));

  test('it stands in a field of its own stage', () => {
    expect(field.effect).toBe(plankton.id);
    expect(plankton.home!.stage).toBe(stage.id);
    const { count, centre } = new MotesOf().at(field, 3, plankton.loop);
    expect(count).toBeGreaterThan(500);
    // As the loop ends, everything is where it began.
    const begun = [...centre.subarray(0, count * 3)];
    const after = new MotesOf().at(field, 3 + plankton.loop!, plankton.loop);
    expect(after.count).toBe(count);
    begun.forEach((v, k) => expect(v).toBeCloseTo(after.centre[k]!, 3));
  });
  test('none is seen to come or to go', () => {
    const cover = (age: number) => most(outputAt(plankton, 'opacity', { ...lives, moteAge: [[age]] }, COUNT));
    expect(cover(0)).toBe(0);
    expect(cover(1)).toBe(0);
    expect(cover(0.45)).toBeGreaterThan(0.8);
  });
  test('its variants stand on either side of the bloom threshold', () => {
    const { exposure, bloom } = stage.optics;
    // The brightest that a mote shows: its light, by how much of it is there.
    const shown = (name: string) => {
      const effect = inVariant(plankton, name);
      const [r, g, b] = outputAt(effect, 'emission', lives, COUNT) as [Float32Array, Float32Array, Float32Array];
      const [cover] = outputAt(effect, 'opacity', lives, COUNT) as [Float32Array];
      const luminance = Array.from(r, (v, k) => (0.2126 * v + 0.7152 * g[k]! + 0.0722 * b[k]!) * cover[k]! * 2 ** exposure);
      return luminance.filter((l) => l > bloom.threshold).length / COUNT;
    };
    expect(shown('Below the threshold')).toBe(0);
    expect(shown('Above the threshold')).toBeGreaterThan(0.6);
  });
  test('each dial does what its name says', () => {
    const at = (dials: Record<string, number>, output: 'size' | 'opacity' | 'emission', points = lives) =>
      outputAt(turned(plankton, dials), output, points, COUNT);
    expect(most(at({ size: 0.028 }, 'size')) / most(at({ size: 0.014 }, 'size'))).toBeCloseTo(2, 4);
    expect(most(at({ power: 16 }, 'emission')) / most(at({ power: 8 }, 'emission'))).toBeCloseTo(2, 4);
    // Near its rim a hard disc is whole, a soft one nearly gone.
    const rim = { ...lives, uv: [[0.88, 0.5]] };
    expect(most(at({ softness: 0.1 }, 'opacity', rim))).toBeGreaterThan(10 * most(at({ softness: 1 }, 'opacity', rim)));
    // One in five is of the other hue; with more, more.
    const others = (which: number) => {
      const [r] = at({ which }, 'emission') as [Float32Array];
      return r.filter((v) => v > 2).length / COUNT;
    };
    expect(others(0.2)).toBeGreaterThan(0.1);
    expect(others(0.2)).toBeLessThan(0.32);
    expect(others(1)).toBe(1);
    // Breaths differ from mote to mote, and close over the loop.
    const breath = (time: number) => outputAt(plankton, 'opacity', { ...lives, moteAge: [[0.45]], time: [[time]] }, COUNT)[0]!;
    expect(Math.max(...breath(0)) - Math.min(...breath(0))).toBeGreaterThan(0.3);
    breath(0).forEach((v, k) => expect(v).toBeCloseTo(breath(12)[k]!, 3));
  });
});

describe('Vent sparks', () => {
  const sparks = starter('vent-sparks');
  const at = (effect: typeof sparks, output: string, age: number, more = {}) =>
    outputAt(effect, output, { moteAge: [[age]], moteRandom: [[0.3], [0.6], [0.9]], time: [[2.1]], ...more }, 3);
  const mean = ([p]: Float32Array[]) => p!.reduce((sum, v) => sum + v, 0) / p!.length;
  test('they cool: less light along their way, and redder; a higher cooling does it sooner', () => {
    const light = [0, 0.3, 0.6, 1].map((age) => mean(at(sparks, 'emission', age)));
    for (let k = 1; k < light.length; k++) expect(light[k]).toBeLessThan(light[k - 1]!);
    const redness = (age: number) => {
      const [r, g] = at(sparks, 'emission', age) as [Float32Array, Float32Array];
      return r[0]! / g[0]!;
    };
    expect(redness(1)).toBeGreaterThan(3 * redness(0));
    expect(mean(at(turned(sparks, { cooling: 3.2 }), 'emission', 0.3))).toBeLessThan(mean(at(sparks, 'emission', 0.3)));
  });
  test('they burn away, and are gone before they end', () => {
    expect(mean(at(sparks, 'size', 0.9))).toBeLessThan(0.6 * mean(at(sparks, 'size', 0)));
    expect(mean(at(sparks, 'opacity', 1))).toBe(0);
    expect(mean(at(turned(sparks, { size: 0.021 }), 'size', 0)) / mean(at(sparks, 'size', 0))).toBeCloseTo(2, 4);
  });
  test('its variants: fiercer, and dying', () => {
    const light = (name: string) => mean(at(inVariant(sparks, name), 'emission', 0.1));
    expect(light('Eruption')).toBeGreaterThan(1.5 * mean(at(sparks, 'emission', 0.1)));
    expect(light('Dying vent')).toBeLessThan(0.5 * mean(at(sparks, 'emission', 0.1)));
  });
});
