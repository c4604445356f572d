import fc from 'fast-check';
import { produce } from 'immer';
import { effectOf } from '../../../tests/fixtures/sheets.js';
import { readAt, readerOf } from '../../../tests/fixtures/read.js';
import { lower } from '../lower/lower.js';
import { paramValues } from '../lower/params.js';
import { scalarise } from '../passes/scalarise.js';
import { evaluate } from '../targets/reference.js';
import { LEAVES, LEAF_NAMES } from '../ir/leaves.js';
import { readEffect } from './read.js';
import { copyRun, pasteRun } from './runs.js';
import { emptyEffect, type Effect, type Trigger } from './schema.js';
import { skeletonOf } from './skeleton.js';
import * as triggers from './triggers.js';
import { writeEffect } from './write.js';

const hit = (at: number[], more: Partial<Trigger> = {}): Trigger => ({ id: 't1', name: 'Hit', at, duration: 1, ...more });
const heard = (trigger: Trigger, { loop = null as number | null, over = 'free' } = {}): Effect =>
  effectOf(
    [
      { id: 'a', name: 'Since', op: 'age', inputs: { trigger: { value: { text: 'Hit' } } }, options: { over } },
      { id: 'r', name: 'Ring', op: 'ripple', inputs: { trigger: { value: { text: 't1' } } }, options: { over } },
    ],
    {},
    { loop, triggers: [trigger] },
  );
const edited = (effect: Effect, recipe: (draft: Effect) => void) => produce(effect, recipe);
const times = fc.uniqueArray(fc.integer({ min: 0, max: 80 }), { maxLength: 20 }).map((all) => all.map((k) => k / 10));

/** The same in a program that stands alone, which has no table. */
function readWritten(effect: Effect, strand: string, port: string, time: number): number[] {
  const program = lower(effect, { build: 'live', writeCues: true });
  const scalar = scalarise([program.strands.get(strand)!.ports[port]!.node]);
  const leaves = Object.fromEntries(LEAF_NAMES.map((l) => [l, l === 'time' ? [time] : LEAVES[l].fallback]));
  return evaluate(scalar, { params: paramValues(program.params, effect), leaves })[0]!;
}

// The rule: docs of `age` in operators.md; the oracle lists all firings and sorts them.
test.each([
  ['once', null, 'free'],
  ['once in a loop', 9, 'free'],
  ['again each lap', 9, 'loop'],
] as const)('age: seconds since the last four, 1e6 before; %s', (_, loop, over) => {
  fc.assert(
    fc.property(times, fc.double({ min: 0, max: 8.95, noNaN: true }), (at, time) => {
      const laps = over === 'loop' ? [0, 1, 2, 3, 4, 5] : [0];
      const all = laps.flatMap((lap) => at.map((t) => t - lap * 9)).filter((t) => t <= time);
      const ages = all.map((t) => time - t).sort((p, q) => p - q);
      const expected = [0, 1, 2, 3].map((k) => ages[k] ?? triggers.NEVER);
      // Moments so near a firing that a float cannot tell which comes first.
      fc.pre(all.every((t) => time - t > 1e-4) && at.every((t) => Math.abs(t - time) > 1e-4));
      const effect = heard(hit(at), { loop, over });
      const point = { time: [time], loop: [loop ?? 0] };
      readerOf(effect, 'a', 'all')(point).forEach((v, k) => expect(v).toBeCloseTo(expected[k]!, 3));
      expect(readAt(effect, 'a', point)[0]).toBeCloseTo(expected[0]!, 3);
      expect(readerOf(effect, 'a', 'share')(point)[0]).toBeCloseTo(Math.min(1, expected[0]!), 3);
      readWritten(effect, 'a', 'all', time).forEach((v, k) => expect(v).toBeCloseTo(expected[k]!, 3));
    }),
    { seed: 20261129, numRuns: 120 },
  );
});

test('each of the last four was somewhere: two rings at once, each about its own place', () => {
  const effect = heard(
    hit([1, 1.5], {
      places: [
        [1, 0, 0],
        [-1, 0, 0],
      ],
      duration: 2,
    }),
  );
  const at = (x: number, y: number, time: number) => readAt(effect, 'r', { time: [time], position: [x, y, 0] })[0]!;
  // A ring grows at 1 m/s: after 1 s and after half a second, fading over 2 s.
  expect(at(1, 1, 2)).toBeCloseTo(0.5, 5);
  expect(at(-1, 0.5, 2)).toBeCloseTo(0.75, 5);
  expect(at(-1, -0.5, 2)).toBeCloseTo(0.75, 5);
  expect(at(1, 0.5, 2)).toBe(0);
  expect(at(1, 1, 0.9)).toBe(0);
  expect(at(1, 2, 4)).toBe(0);
  const place = (port: string, time: number) => readerOf(effect, 'a', port)({ time: [time] });
  expect([place('place', 2), place('place2', 2), place('place3', 2)]).toEqual([
    [-1, 0, 0],
    [1, 0, 0],
    [0, 0, 0],
  ]);
  expect(readWritten(effect, 'a', 'place2', 2)).toEqual([1, 0, 0]);
});

test('two at one moment, at places of their own, are both heard', () => {
  const effect = heard(
    hit([1, 1], {
      places: [
        [1, 0, 0],
        [-1, 0, 0],
      ],
      duration: 2,
    }),
  );
  const at = (x: number, y: number, time: number) => readAt(effect, 'r', { time: [time], position: [x, y, 0] })[0]!;
  expect(at(1, 0.5, 1.5)).toBeCloseTo(0.75, 1);
  expect(at(-1, 0.5, 1.5)).toBeCloseTo(0.75, 2);
  // Both at once, at the very moment.
  expect(readerOf(effect, 'a', 'all')({ time: [1] }).map((v) => v < 0.01)).toEqual([true, true, false, false]);
});

test('heard again each lap, a loop draws the same at its end as at its beginning', () => {
  const effect = heard(hit([1, 8.5]), { loop: 9, over: 'loop' });
  const all = (time: number) => readerOf(effect, 'a', 'all')({ time: [time], loop: [9] });
  all(9).forEach((v, k) => expect(v).toBeCloseTo(all(0)[k]!, 3));
  expect(readAt(effect, 'r', { time: [9], loop: [9], position: [0.5, 0, 0] })[0]).toBeCloseTo(
    readAt(effect, 'r', { time: [0], loop: [9], position: [0.5, 0, 0] })[0]!,
    3,
  );
});

test('another firing is only another number: no new program until there is no more room', () => {
  const [one, eight, nine] = [[1], [1, 2, 3, 4, 5, 6, 7, 8], [1, 2, 3, 4, 5, 6, 7, 8, 9]].map((at) => skeletonOf(heard(hit(at))));
  expect(one).toBe(eight);
  expect(nine).not.toBe(eight);
  // Two hundred and fifty-six, of which the last counts.
  const full = heard(hit(Array.from({ length: 256 }, (_, k) => k / 20)));
  expect(readAt(full, 'a', { time: [100] })[0]).toBeCloseTo(100 - 255 / 20, 4);
});

test('one that names no trigger, or one that is gone: nothing has ever been, or a sentence', () => {
  const none = effectOf([{ id: 'a', name: 'Since', op: 'age' }]);
  expect(readAt(none, 'a')[0]).toBe(triggers.NEVER);
  const gone = edited(heard(hit([1])), (draft) => triggers.deleteTrigger(draft, { id: 't1' }));
  expect(lower(gone, { build: 'live' }).problems.map((p) => p.message)).toEqual([
    'Since: There is no trigger "Hit".',
    'Ring: There is no trigger "t1".',
  ]);
});

test('an envelope rises, stays and falls: of one age, and of four at once', () => {
  const envelope = (options = {}) =>
    effectOf([
      { id: 'v', name: 'V', op: 'vector', inputs: { in: { value: [-1, 0.1, 0.5, 0.9] } } },
      {
        id: 'e',
        name: 'E',
        op: 'envelope',
        options,
        inputs: { age: { from: 'v' }, attack: { value: 0.2 }, hold: { value: 0.5 }, release: { value: 0.4 } },
      },
    ]);
  const at = (shape: string) => readAt(envelope({ shape }), 'e').map((v) => Number(v.toFixed(5)));
  expect(at('linear')).toEqual([0, 0.5, 1, 0.5]);
  expect(at('smooth')).toEqual([0, 0.5, 1, 0.5]);
  expect(at('sharp')).toEqual([0, 0.25, 1, 0.25]);
  const instant = effectOf([
    {
      id: 'e',
      name: 'E',
      op: 'envelope',
      inputs: { age: { value: 0.2 }, attack: { value: 0 }, release: { value: 0.4 } },
      options: { shape: 'linear' },
    },
  ]);
  expect(readAt(instant, 'e')[0]).toBeCloseTo(0.5, 5);
  expect(readAt(effectOf([{ id: 'e', name: 'E', op: 'envelope' }]), 'e')[0]).toBe(0);
});

test('firings are kept by rising time; one that lands on another takes its place; what says nothing is not written', () => {
  const place = [1, 2, 3] as const;
  let effect = heard(hit([]));
  const now = () => effect.triggers[0]!;
  const fire = (at: number, where: triggers.Place | null = null) =>
    void (effect = edited(effect, (d) => triggers.fire(d, { id: 't1', firing: { at, place: where } })));
  fire(2);
  fire(1, place);
  expect(now()).toEqual(hit([1, 2], { places: [[1, 2, 3], null] }));
  fire(2.001);
  expect(now().at).toEqual([1, 2.001]);
  // Another place is another firing.
  fire(2.001, [9, 9, 9]);
  expect(now().at).toEqual([1, 2.001, 2.001]);
  effect = edited(effect, (d) => triggers.deleteFirings(d, { id: 't1', firings: [2] }));
  effect = edited(effect, (d) => triggers.retimeFirings(d, { id: 't1', firings: [0], to: (t) => t + 1 }));
  expect(now()).toEqual(hit([2], { places: [[1, 2, 3]] }));
  fire(3);
  effect = edited(effect, (d) => triggers.deleteFirings(d, { id: 't1', firings: [0] }));
  expect(now()).toEqual(hit([3]));
  effect = edited(effect, (d) => triggers.changeTrigger(d, { id: 't1', name: '  Touch ', duration: -1 }));
  expect(now()).toEqual(hit([3], { name: 'Touch', duration: 0 }));
  for (let k = 0; k < 300; k++) fire(k);
  expect(now().at).toHaveLength(triggers.MOST_FIRINGS);
});

test('live firings sound with the file’s, and are not in it', () => {
  const effect = heard(hit([1]));
  const live = triggers.withFirings(effect, { t1: [{ at: 2, place: [1, 0, 0] }] });
  expect(readAt(live, 'a', { time: [2.5] })[0]).toBeCloseTo(0.5, 5);
  expect(effect.triggers[0]!.at).toEqual([1]);
  expect(triggers.withFirings(effect, {})).toBe(effect);
  expect(skeletonOf(live)).toBe(skeletonOf(effect));
});

test('files with places come back byte for byte; older files have none', () => {
  const text = writeEffect({
    ...emptyEffect('0190a000-0000-7000-8000-0000000000aa', 'E'),
    triggers: [hit([1, 2], { places: [[1, 0, 0], null] })],
  });
  const read = readEffect(JSON.parse(text));
  expect(read.ok && writeEffect(read.effect)).toBe(text);
  const older = readEffect({
    ...emptyEffect('0190a000-0000-7000-8000-0000000000aa', 'E'),
    triggers: [{ id: 't', name: 'Hit', at: [1], duration: 1 }],
  });
  expect(older.ok && older.effect.triggers[0]!.places).toBeUndefined();
});

test('strands that are pasted bring their trigger: the one of its name, or a new one', () => {
  const run = copyRun(heard(hit([1, 2])), ['a', 'r']);
  const into = (own: Trigger[]) =>
    edited(
      { ...emptyEffect('0190a000-0000-7000-8000-0000000000ab', 'F'), triggers: own },
      (d) => void pasteRun(d, { run, after: null }),
    );
  const names = (e: Effect) =>
    e.strands.map((s) => (s.inputs as Record<string, { value: { text: string } }>).trigger!.value.text);
  const fresh = into([]);
  expect([fresh.triggers.map((t) => [t.id, t.at]), names(fresh)]).toEqual([[['t1', [1, 2]]], ['t1', 't1']]);
  const taken = into([hit([9], { name: 'Other' })]);
  expect([taken.triggers.map((t) => [t.id, t.name]), names(taken)]).toEqual([
    [
      ['t1', 'Other'],
      ['t2', 'Hit'],
    ],
    ['t2', 't2'],
  ]);
  const same = into([hit([9], { id: 'x' })]);
  expect([same.triggers.length, names(same)]).toEqual([1, ['x', 'x']]);
});

test('a firing before 0 is heard in every lap of a loop, in its order', () => {
  const ages = (at: number[], time: number) => {
    const effect = heard(hit(at), { loop: 4, over: 'loop' });
    return readAt(effect, 'a', { time: [time], loop: [4] });
  };
  // -1 is 3 in a loop of 4; -9 is 3 too.
  for (const time of [0.25, 1.5, 2.9, 3.5]) {
    const [was] = ages([-1, 1], time) as [number];
    const last = [3 - 4, 1, 3].filter((t) => t <= time).at(-1)!;
    expect(was).toBeCloseTo(time - last, 4);
    expect(ages([-9, 1], time)).toEqual(ages([-1, 1], time));
  }
  const rows = triggers.heardOf(hit([-1, 1, -5.5, 2, 0]), 4).map((f) => f.at);
  expect(rows).toEqual([...rows].sort((a, b) => a - b));
});
