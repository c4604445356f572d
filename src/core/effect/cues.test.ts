import fc from 'fast-check';
import { produce } from 'immer';
import BezierEasing from 'bezier-easing';
import { converter } from 'culori';
import { effectOf } from '../../../tests/fixtures/sheets.js';
import { readAt } from '../../../tests/fixtures/read.js';
import { lower } from '../lower/lower.js';
import * as cues from './cues.js';
import type { Beyond, Colour, Cue, CueKey, Effect, Value } from './schema.js';
import { readEffect } from './read.js';

const key = (time: number, value: Value, ease: CueKey['ease'] = 'linear'): CueKey => ({ time, value, ease });
const withCue = (list: CueKey[], more: Partial<Cue> = {}, op = 'number'): Effect =>
  effectOf(
    [{ id: 'n', name: 'N', op, inputs: { in: { value: list[0]!.value } } }],
    {},
    { loop: null, dials: [{ id: 'd', strand: 'n', input: 'in' }], cues: [{ dial: 'd', keys: list, ...more }] },
  );
const keysOf = (effect: Effect) => effect.cues[0]!.keys.map((k) => [k.time, k.value]);
const edited = (effect: Effect, recipe: (draft: Effect) => void) => produce(effect, recipe);

test('easings are those of CSS: any cubic against the bezier-easing library, in the reference evaluator too', () => {
  const unit = fc.double({ min: 0, max: 1, noNaN: true });
  const tall = fc.double({ min: -1, max: 2, noNaN: true });
  fc.assert(
    fc.property(fc.tuple(unit, tall, unit, tall), fc.double({ min: 0.01, max: 0.99, noNaN: true }), (ease, progress) => {
      const expected = BezierEasing(...ease)(progress);
      expect(cues.easing(ease)(progress)).toBe(expected);
      // Both find the place on the curve to about a millionth of progress: where it is steep that is more of the value.
      const effect = withCue([key(0, 0, ease), key(1, 1)]);
      const [low, high] = [progress - 1e-6, progress + 1e-6].map((x) => BezierEasing(...ease)(x)) as [number, number];
      const off = Math.abs(readAt(effect, 'n', { time: [progress] })[0]! - expected);
      expect(off).toBeLessThan(2e-5 + 4 * Math.abs(high - low));
    }),
    { seed: 20261129, numRuns: 80 },
  );
  // The names' handles: CSS Easing Functions Level 1, section 2.3.
  expect(cues.EASES['ease-in-out']).toBe('smooth');
  expect(cues.handlesOf('smooth')).toEqual([0.42, 0, 0.58, 1]);
  expect(cues.easeName([0.25, 0.1, 0.25, 1])).toBe('ease');
  expect(cues.easeName([0.3, 0.1, 0.25, 1])).toBe('free');
});

describe.each(['hold', 'loop', 'mirror'] as const)('beyond its keys: %s', (how: Beyond) => {
  const effect = withCue([key(1, 0), key(2, 10), key(3, 4)], how === 'hold' ? {} : { before: how, after: how });
  const cue = effect.cues[0]!;
  test.each([-5.25, -1.5, 0, 0.5, 1, 1.4, 2.9, 3.25, 4.5, 7.75, 12.6])('at %d s', (time) => {
    const [first, last] = [1, 3];
    const lap = (((time - first) % 4) + 4) % 4;
    const at = how === 'loop' ? first + (lap % 2) : how === 'mirror' ? first + (lap < 2 ? lap : 4 - lap) : time;
    const inside = time >= first && time <= last ? time : at;
    const expected = inside <= 1 ? 0 : inside >= 3 ? 4 : inside < 2 ? (inside - 1) * 10 : 10 - (inside - 2) * 6;
    expect(cues.cueAt(cue, time)).toBeCloseTo(expected, 6);
    expect(readAt(effect, 'n', { time: [time] })[0]).toBeCloseTo(expected, 4);
    expect(lower(effect, { build: 'frozen' }).problems).toEqual([]);
  });
});

test('colours are eased in OKLab: half way between red and blue is what culori says', () => {
  const colour = (rgb: [number, number, number], intensity = 1): Colour => ({ rgb, intensity, unit: 'factor' });
  const effect = withCue([key(0, colour([1, 0, 0])), key(1, colour([0, 0, 1], 4))], {}, 'colour');
  const [oklab, lrgb] = [converter('oklab'), converter('lrgb')];
  const [a, b] = [oklab({ mode: 'lrgb', r: 1, g: 0, b: 0 }), oklab({ mode: 'lrgb', r: 0, g: 0, b: 4 })];
  const middle = lrgb({ mode: 'oklab', l: (a.l + b.l) / 2, a: (a.a + b.a) / 2, b: (a.b + b.b) / 2 });
  const expected = [middle.r, middle.g, middle.b];
  readAt(effect, 'n', { time: [0.5] }).forEach((v, k) => expect(v).toBeCloseTo(expected[k]!, 3));
  const shown = cues.cueAt(effect.cues[0]!, 0.5) as Colour;
  shown.rgb.forEach((v, k) => expect(v * shown.intensity).toBeCloseTo(Math.max(0, expected[k]!), 4));
});

test('what the bench shows of a cue is what the effect reads, at any time', () => {
  const ease = fc.constantFrom<CueKey['ease']>('linear', 'smooth', 'step', [0.2, 0.9, 0.4, 1]);
  const list = fc.array(
    fc.record({ time: fc.integer({ min: 0, max: 40 }).map((t) => t / 8), value: fc.integer({ min: -9, max: 9 }), ease }),
    { minLength: 1, maxLength: 12 },
  );
  const beyond = fc.constantFrom<Beyond>('hold', 'loop', 'mirror');
  fc.assert(
    fc.property(list, beyond, beyond, fc.integer({ min: -30, max: 90 }), (keys, before, after, t) => {
      const apart = keys.filter((k, j) => keys.findIndex((o) => o.time === k.time) === j);
      const effect = withCue(apart, { before, after });
      // Between the ticks, where a step's two sides could part by rounding.
      const time = t / 8 + 0.03;
      expect(readAt(effect, 'n', { time: [time] })[0]).toBeCloseTo(cues.cueAt(effect.cues[0]!, time) as number, 2);
    }),
    { seed: 20261129, numRuns: 120 },
  );
});

test('keys are set, changed, moved, scaled, deleted; they stay by rising time, and one at a time', () => {
  let effect = effectOf([{ id: 'n', name: 'N', op: 'number' }], {}, { dials: [{ id: 'd', strand: 'n', input: 'in' }] });
  const set = (time: number, value: number) => (effect = edited(effect, (d) => cues.setKey(d, { dial: 'd', time, value })));
  set(2, 1);
  set(0, 0);
  set(1, 5);
  set(1.001, 6);
  expect(keysOf(effect)).toEqual([[0, 0], [1, 6], [2, 1]]); // prettier-ignore
  effect = edited(effect, (d) => cues.changeKeys(d, { dial: 'd', keys: [0, 1], ease: [0.1, 0, 0.2, 1] }));
  set(0.5, 3);
  expect(effect.cues[0]!.keys.map((k) => k.ease)[1]).toEqual([0.1, 0, 0.2, 1]);
  // A run of keys is scaled about the first.
  effect = edited(effect, (d) => cues.retimeKeys(d, { dial: 'd', keys: [1, 2, 3], to: (t) => 0.5 + (t - 0.5) * 2 }));
  expect(keysOf(effect).map(([t]) => t)).toEqual([0, 0.5, 1.5, 3.5]);
  // One that lands on another takes its place; past it, it is another order.
  effect = edited(effect, (d) => cues.retimeKeys(d, { dial: 'd', keys: [1], to: () => 1.5 }));
  expect(keysOf(effect)).toEqual([[0, 0], [1.5, 3], [3.5, 1]]); // prettier-ignore
  effect = edited(effect, (d) => cues.retimeKeys(d, { dial: 'd', keys: [0], to: () => 9 }));
  expect(keysOf(effect)).toEqual([[1.5, 3], [3.5, 1], [9, 0]]); // prettier-ignore
  effect = edited(effect, (d) => cues.setBeyond(d, { dial: 'd', after: 'mirror' }));
  expect(effect.cues[0]!.after).toBe('mirror');
  expect(readEffect(effect).ok).toBe(true);
  effect = edited(effect, (d) => cues.setBeyond(d, { dial: 'd', after: 'hold' }));
  expect(effect.cues[0]).not.toHaveProperty('after');
  const copied = effect.cues[0]!.keys.slice(0, 2);
  effect = edited(effect, (d) => void cues.pasteKeys(d, { dial: 'd', at: 7, keys: copied }));
  expect(keysOf(effect)).toEqual([[1.5, 3], [3.5, 1], [7, 3], [9, 1]]); // prettier-ignore
  effect = edited(effect, (d) => cues.deleteKeys(d, { dial: 'd', keys: [0, 1, 2, 3] }));
  expect(effect.cues).toEqual([]);
});

test('a paste beyond what a cue has room for says how many had none', () => {
  const many = Array.from({ length: 200 }, (_, k) => key(k, k));
  const effect = withCue(many);
  let left = 0;
  const pasted = edited(effect, (d) => {
    left = cues.pasteKeys(d, { dial: 'd', at: 300, keys: many });
  });
  expect(left).toBe(144);
  expect(pasted.cues[0]!.keys).toHaveLength(cues.MOST_KEYS);
  expect(readEffect(pasted).ok).toBe(true);
});
