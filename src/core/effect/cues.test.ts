import fc from 'fast-check';
import { produce } from 'immer';
import BezierEasing from 'bezier-easing';
import { converter } from 'culori';
import { effectOf } from '../../../tests/fixtures/sheets.js';
import { readAt } from '../../../tests/fixtures/read.js';
import { lower } from '../lower/lower.js';
import { paramValues } from '../lower/params.js';
import { switched, type Results } from '../lower/switched.js';
import { Builder } from '../ir/builder.js';
import { OPERATORS, operatorOf } from '../operators/catalogue.js';
import { scalarise } from '../passes/scalarise.js';
import { evaluate } from '../targets/reference.js';
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

describe('an option is keyed: its words hold until the next key', () => {
  const word = (time: number, text: string): CueKey => key(time, { text }, 'step');
  const swing = (shape: string | undefined, list: CueKey[] = [], more: Partial<Cue> = {}): Effect =>
    effectOf(
      [
        { id: 't', name: 'T', op: 'time' },
        { id: 'n', name: 'N', op: 'wave', inputs: { time: { from: 't' } }, ...(shape ? { options: { shape } } : {}) },
      ],
      { emission: { from: 'n' } },
      {
        loop: null,
        dials: [{ id: 'd', strand: 'n', input: 'shape' }],
        cues: list.length > 0 ? [{ dial: 'd', keys: list, ...more }] : [],
      },
    );
  const list = [word(2, 'square'), word(0.5, 'saw'), word(3, 'saw'), word(1, 'triangle')];
  const holds = (time: number) => (time < 1 ? 'saw' : time < 2 ? 'triangle' : time < 3 ? 'square' : 'saw');

  test.each([0, 0.3, 0.9, 1, 1.37, 2, 2.2, 2.99, 3, 4.6])('at %d s it is the wave of the word that holds', (time) => {
    const [expected] = readAt(swing(holds(time)), 'n', { time: [time] });
    expect(readAt(swing('sine', list), 'n', { time: [time] })[0]).toBe(expected);
    expect(cues.cueAt(swing('sine', list).cues[0]!, time)).toEqual({ text: holds(time) });
    const looped = swing('sine', list, { after: 'loop', before: 'loop' });
    const within = time < 0.5 ? time + 2.5 : time > 3 ? time - 2.5 : time;
    expect(readAt(looped, 'n', { time: [time] })[0]).toBe(readAt(swing(holds(within)), 'n', { time: [time] })[0]);
  });

  test('written out for programs that stand alone it is the same; another time of a key is another number of one program', () => {
    const effect = swing('sine', list);
    const live = lower(effect, { build: 'live' });
    expect(live.problems).toEqual([]);
    const later = swing('sine', [...list.slice(0, 3), word(1.5, 'triangle')]);
    expect(lower(later, { build: 'live' }).signature).toBe(live.signature);
    expect(readAt(later, 'n', { time: [1.2] })[0]).toBe(readAt(swing('saw'), 'n', { time: [1.2] })[0]);
    const frozen = lower(effect, { build: 'frozen' });
    for (const time of [0, 0.9, 1.37, 2.2, 4.6]) {
      const scalar = scalarise([frozen.strands.get('n')!.value.node]);
      const leaves = { time: [time], timeRest: [0] };
      const [[value]] = evaluate(scalar, { params: new Float32Array(0), leaves }) as [[number]];
      // Folded, its last bits may differ.
      expect(value).toBeCloseTo(readAt(swing(holds(time)), 'n', { time: [time] })[0]!, 5);
    }
  });

  test('keys that are none of its words, and words for what is a number, are refused with a sentence', () => {
    expect(() => swing('sine', list)).not.toThrow();
    const sentence = 'The cue of N, shape, has a key at 1 s that is none of sine, triangle, square, saw.';
    expect(() => swing('sine', [word(1, 'zigzag')])).toThrow(sentence);
    expect(() => swing('sine', [key(1, 3)])).toThrow(sentence);
    expect(() => withCue([key(0, 1), word(1, 'saw')])).toThrow(/at 1 s that is the words .*saw.*, and not a value/);
  });

  const options = OPERATORS.flatMap((o) => Object.keys(o.options).map((name): [string, string] => [o.id, name]));
  test.each(options)('%s, %s: keyed, it is at any time what it is with the word that holds', (op, name) => {
    const { values } = operatorOf(op).options[name]!;
    const one = (word: string | null): Effect =>
      effectOf(
        [{ id: 'n', name: 'N', op, ...(word ? { options: { [name]: word } } : {}) }],
        {},
        {
          dials: [{ id: 'd', strand: 'n', input: name }],
          cues: word ? [] : [{ dial: 'd', keys: values.map((text, k) => ({ time: k, value: { text }, ease: 'step' })) }],
        },
      );
    const point = { position: [0.31, -0.7, 0.42], normal: [0.36, 0.48, 0.8], uv: [0.3, 0.6] };
    values.forEach((word, k) => {
      const at = { ...point, time: [k + 0.4], timeRest: [0] };
      expect(readAt(one(null), 'n', at)).toEqual(readAt(one(word), 'n', at));
    });
  });

  test('an option with which a value is of another kind cannot be keyed', () => {
    const b = new Builder();
    const how = (fail: (name: string) => Results) => ({
      b,
      words: (name: string) => (name === 'by' ? ['one', 'three'] : null),
      which: () => b.leaf('time'),
      make: ({ by }: Readonly<Record<string, string>>) => ({ value: by === 'one' ? b.constant(1) : b.constant(1, 2, 3) }),
      fail,
    });
    const said: string[] = [];
    expect(
      switched(
        how((name) => (said.push(name), {})),
        ['other', 'by'],
        {},
      ),
    ).toEqual({});
    expect(said).toEqual(['by']);
  });
});

test('a hue whose easing overshoots is the same on its dial, in the picture and in what leaves: never less than no light', () => {
  const hue = (...rgb: [number, number, number]): Colour => ({ rgb, intensity: 1, unit: 'factor' });
  const back: CueKey['ease'] = [0.36, -0.9, 0.64, 1.9];
  const effect = withCue([key(0, hue(0.9, 0.02, 0), back), key(1, hue(0, 0.05, 0.8))], {}, 'colour');
  let below = 0;
  for (let k = 0; k <= 40; k++) {
    const time = k / 40;
    const { rgb, intensity } = cues.cueAt(effect.cues[0]!, time) as Colour;
    const dial = rgb.map((v) => v * intensity);
    if (dial.some((v) => v === 0)) below++;
    for (const writeCues of [false, true]) {
      const program = lower(effect, { build: 'live', writeCues });
      const [shown] = evaluate(scalarise([program.strands.get('n')!.value.node]), {
        params: paramValues(program.params, effect),
        leaves: { time: [time], loop: [0] },
      });
      shown!.forEach((v, lane) => expect(v).toBeCloseTo(dial[lane]!, 4));
    }
  }
  // It is about what overshoots.
  expect(below).toBeGreaterThan(5);
});
