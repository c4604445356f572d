import { readerOf } from '../../../tests/fixtures/read.js';
import { produce } from 'immer';
import { effectOf } from '../../../tests/fixtures/sheets.js';
import { lower } from '../lower/lower.js';
import { stageOf } from '../../../tests/fixtures/stages.js';
import { applyMend } from '../effect/mends.js';
import { readEffect } from '../effect/read.js';
import { DEFAULT_FINISH, strandsOf, type Effect, type Strand } from '../effect/schema.js';
import type { Stage } from '../scene/stage.js';
import { adviseOnStage } from './stageAdvice.js';
import { advise } from './advice.js';
import { readLoop } from './loop.js';
import { samplePlaces } from '../places/spread.js';
import { measuredWhereOpen } from './measure.js';
import { hullOf, readKinds, readRanges, readStrands, withRanges } from './reading.js';

const wave = (rate: number, shape = 'sine'): Strand => ({
  id: 'w',
  name: 'Wave',
  op: 'wave',
  inputs: { rate: { value: rate } },
  options: { shape },
});
const lit = (strands: Strand[], more: object = {}) =>
  effectOf(strands, { emission: { from: strands[strands.length - 1]!.id } }, more);
const loopOf = (effect: Effect) => readLoop(lower(effect, { build: 'live' }), effect);
const codes = (effect: Effect) => advise(effect, lower(effect, { build: 'live' })).map((a) => a.code);

describe('does it loop', () => {
  test('whole turns close, others do not', () => {
    expect(loopOf(lit([wave(1.5)], { loop: 4 }))).toMatchObject({ closes: true, period: 4 });
    expect(loopOf(lit([wave(1.3)], { loop: 4 }))).toMatchObject({ closes: false, period: null });
  });
  test('a wave that jumps within its turn still closes when its turns are whole', () => {
    for (const shape of ['square', 'saw']) {
      expect(loopOf(lit([wave(0.5, shape)], { loop: 4 })).closes).toBe(true);
      expect(loopOf(lit([wave(0.6, shape)], { loop: 4 })).closes).toBe(false);
    }
  });
  test('noise of time that is not at the same place again jumps', () => {
    const noise = (rate: number): Strand[] => [
      { id: 't', name: 'Time', op: 'time' },
      { id: 'r', name: 'Rate', op: 'multiply', inputs: { a: { from: 't' }, b: { value: rate } } },
      { id: 'n', name: 'Noise', op: 'noise', inputs: { position: { from: 'r' } } },
    ];
    expect(loopOf(lit(noise(1.37), { loop: 4 })).closes).toBe(false);
  });
  test('what never moves closes without a period; what runs on has none', () => {
    expect(loopOf(lit([{ id: 'n', name: 'N', op: 'number' }]))).toMatchObject({ closes: true, period: null });
    expect(loopOf(lit([wave(1)], { loop: null }))).toMatchObject({ closes: false, period: null });
  });
  test('sample places are spread and unit where they must be', () => {
    const { normal, view } = samplePlaces(200);
    let alike = 0;
    for (let k = 0; k < 200; k++) {
      expect(Math.hypot(normal![0]![k]!, normal![1]![k]!, normal![2]![k]!)).toBeCloseTo(1, 5);
      if ([0, 1, 2].reduce((s, l) => s + normal![l]![k]! * view![l]![k]!, 0) > 0.999) alike++;
    }
    expect(alike).toBeLessThan(20);
  });
});

describe('advice', () => {
  test('nothing connected', () =>
    expect(codes(effectOf([{ id: 't', name: 'T', op: 'time' }]))).toEqual(['nothing-connected', 'unread']));
  test('a strand that nobody reads, and nothing that moves', () => {
    expect(
      codes(
        lit([
          { id: 'a', name: 'A', op: 'uv' },
          { id: 'b', name: 'B', op: 'number' },
        ]),
      ),
    ).toEqual(['unread', 'nothing-moves']);
  });
  test('a power of what can fall below 0, with the number', () => {
    const effect = lit([wave(1), { id: 'p', name: 'Sharp', op: 'power', inputs: { in: { from: 'w' } } }]);
    const [first] = advise(effect, lower(effect, { build: 'live' }));
    expect(first).toMatchObject({ strand: 'p', code: 'power-below-zero' });
    expect(first!.message).toContain('Wave can fall to -1');
  });
  test('noise so fine that floats tell no places apart, with how far they are, and the scale at which they do', () => {
    const noise = (scale: number): Strand[] => [
      { id: 'uv', name: 'Place', op: 'uv' },
      { id: 'n', name: 'Grain', op: 'noise', inputs: { position: { from: 'uv' }, scale: { value: scale } } },
    ];
    const found = (scale: number) => {
      const effect = effectOf(noise(scale), { opacity: { from: 'n' } });
      return advise(effect, lower(effect, { build: 'live' })).find((a) => a.code === 'too-fine');
    };
    expect(found(1e5)).toBeUndefined();
    // 2^20 cells out the floats of 24 bits are an eighth of a cell apart (IEEE 754 binary32).
    expect(found(2 ** 20)!.message).toContain('0.125 cells apart');
    expect(found(2 ** 20)!.mend).toContain('524000x or less');
    expect(found(2 ** 19)).toBeUndefined();
  });
  test('noise along time alone, which is 0 at every whole cell; a place, a churn or a flicker has no such beat', () => {
    const along = (more: Partial<Strand>): Strand[] => [
      { id: 't', name: 'T', op: 'time' },
      { id: 'p', name: 'P', op: 'position' },
      { id: 'n', name: 'Lamp', op: 'noise', inputs: { position: { from: 't' } }, ...more },
    ];
    const beat = (more: Partial<Strand>) => {
      const effect = effectOf(along(more), { emission: { from: 'n' } });
      return advise(effect, lower(effect, { build: 'live' })).some((a) => a.code === 'noise-beat');
    };
    expect(beat({})).toBe(true);
    const read = readerOf(effectOf(along({}), {}), 'n');
    const lamp = (time: number) => read({ time: [time] })[0]!;
    for (const second of [0, 1, 5, 12]) expect(Math.abs(lamp(second))).toBeLessThan(1e-6);
    expect(Math.abs(lamp(0.4))).toBeGreaterThan(0.01);
    expect(beat({ inputs: { position: { from: 'p' }, churn: { from: 't' } } })).toBe(false);
    expect(beat({ inputs: { position: { from: 'p' } } })).toBe(false);
    expect(beat({ op: 'flicker', inputs: { time: { from: 't' } } })).toBe(false);
  });
  test('dividing by what can be 0', () => {
    expect(codes(lit([wave(1), { id: 'd', name: 'D', op: 'divide', inputs: { b: { from: 'w' } } }]))).toEqual(['divide-by-zero']);
  });
  test('a clamped base is fine, and so is a bypassed strand', () => {
    const clamp: Strand = { id: 'c', name: 'C', op: 'clamp', inputs: { in: { from: 'w' } } };
    const sharp = (from: string, bypassed = false): Strand => ({
      id: 'p',
      name: 'P',
      op: 'power',
      bypassed,
      inputs: { in: { from } },
    });
    expect(codes(lit([wave(1), clamp, sharp('c')]))).toEqual([]);
    expect(codes(lit([wave(1), sharp('w', true)]))).toEqual([]);
  });
  test('opacity outside 0 to 1', () => {
    const effect = effectOf([wave(1)], { opacity: { from: 'w' } });
    expect(codes(effect)).toEqual(['opacity-range', 'opaque-opacity']);
  });
  test('a loop that jumps', () => expect(codes(lit([wave(1.3)]))).toEqual(['loop-jumps']));
  test('every mend that is an edit takes its finding away', () => {
    const finish = (change: object) => ({ finish: { ...DEFAULT_FINISH, ...change } });
    const depth: Strand = { id: 'g', name: 'Gap', op: 'contact' };
    const sqrt: Strand = { id: 'p', name: 'Root', op: 'sqrt', inputs: { in: { from: 'w' } } };
    const log: Strand = { id: 'p', name: 'Log', op: 'log', inputs: { in: { from: 'w' } } };
    const abs: Strand = { id: 'a', name: 'Size', op: 'abs', inputs: { in: { from: 'w' } } };
    const divide: Strand = { id: 'p', name: 'Share', op: 'divide', inputs: { b: { from: 'a' } } };
    const power: Strand = { id: 'p', name: 'Sharp', op: 'power', inputs: { in: { from: 'w' } } };
    for (const [code, effect] of [
      ['power-below-zero', lit([wave(1), power])],
      ['root-below-zero', lit([wave(1), sqrt])],
      ['log-below-zero', lit([wave(1), log])],
      ['divide-by-zero', lit([wave(1), abs, divide])],
      [
        'opacity-range',
        effectOf([wave(1)], { opacity: { from: 'w' } }, finish({ alphaMode: 'blend', castsShadow: false, writesDepth: false })),
      ],
      ['opaque-opacity', effectOf([wave(1)], { opacity: { from: 'w' } })],
      ['opaque-depth', lit([depth])],
      ['opaque-refraction', effectOf([{ id: 'r', name: 'R', op: 'refractOffset' }], { refraction: { from: 'r' } })],
      ['no-mask', effectOf([wave(1)], { maskThreshold: { from: 'w' } })],
      ['solid-shadow', effectOf([wave(1)], { opacity: { from: 'w' } }, finish({ alphaMode: 'blend' }))],
      ['hides-behind', effectOf([wave(1)], { opacity: { from: 'w' } }, finish({ alphaMode: 'add' }))],
      ['nothing-connected', effectOf([wave(1)])],
      ['unread', lit([wave(1), { id: 'x', name: 'X', op: 'uv' }, { ...wave(1), id: 'y' }])],
      ['loop-jumps', lit([wave(1.3)])],
    ] as const) {
      const found = advise(effect, lower(effect, { build: 'live' })).find((a) => a.code === code);
      expect([code, found?.edit !== null && found !== undefined]).toEqual([code, true]);
      const mended = structuredClone(effect);
      applyMend(mended, found!.edit!);
      expect(readEffect(mended).ok).toBe(true);
      const left = advise(mended, lower(mended, { build: 'live' })).filter(
        (a) => a.strand === found!.strand || code !== 'unread',
      );
      expect([code, left.some((a) => a.code === code)]).toEqual([code, false]);
    }
  });
  test('what can happen but does not is a quiet note', () => {
    // The interval of x - x is wide where each x has its own way: this difference never falls below 0, though it could.
    const strands: Strand[] = [
      { id: 'u', name: 'U', op: 'uv' },
      {
        id: 's',
        name: 'Square',
        op: 'formula',
        inputs: { a: { from: 'u', part: 'x' }, formula: { value: { text: '(a - 0.5) * (a - 0.25) + 0.02' } } },
      },
      { id: 'p', name: 'Root', op: 'sqrt', inputs: { in: { from: 's' } } },
    ];
    const effect = lit(strands);
    const found = advise(effect, lower(effect, { build: 'live' })).find((a) => a.code === 'root-below-zero');
    expect(found).toMatchObject({ level: 'note' });
    expect(
      advise(
        lit([wave(1), { id: 'p', name: 'Root', op: 'sqrt', inputs: { in: { from: 'w' } } }]),
        lower(lit([wave(1), { id: 'p', name: 'Root', op: 'sqrt', inputs: { in: { from: 'w' } } }]), { build: 'live' }),
      )[0],
    ).toMatchObject({ code: 'root-below-zero', level: 'caution' });
  });
  test('a speed of 0 stands still', () =>
    expect(
      codes(
        lit([
          { id: 's', name: 'Drift', op: 'scroll', inputs: { speed: { value: [0, 0] } } },
          { id: 'p', name: 'P', op: 'pick', inputs: { in: { from: 's' } } },
        ]),
      ),
    ).toContain('stands-still'));
  test('on its stage: nothing behind, no paint, a flat one-sided prop, an offset farther than the prop, too few vertices', () => {
    const strands: Strand[] = [
      { id: 'g', name: 'Gap', op: 'contact' },
      { id: 'v', name: 'Paint', op: 'vertexColour' },
      { id: 'f', name: 'Rim', op: 'fresnel' },
      { id: 'm', name: 'Both', op: 'multiply', inputs: { a: { from: 'g' }, b: { from: 'f' } } },
      { id: 'e', name: 'Glow', op: 'multiply', inputs: { a: { from: 'm' }, b: { from: 'v', port: 'rgb' } } },
      { id: 'o', name: 'Shift', op: 'multiply', inputs: { a: { from: 'n' }, b: { value: 3 } } },
    ];
    strands.splice(5, 0, { id: 'n', name: 'Out', op: 'normal' });
    const effect = effectOf(strands, { emission: { from: 'e' }, displacement: { from: 'o' } });
    const stage = stageOf();
    const bare: Stage = { ...stage, props: stage.props.slice(0, 1), ground: { ...stage.ground, on: false, wall: false } };
    const program = lower(effect, { build: 'live' });
    const found = adviseOnStage(effect, program, readStrands(program, 4), bare, bare.props[0]!, {
      vertices: 4,
      hasColours: false,
      radius: 0.5,
      flat: true,
      seeThrough: [],
    });
    expect(found.map((a) => a.code)).toEqual([
      'nothing-behind',
      'no-paint',
      'one-sided',
      'flat-rim',
      'far-offset',
      'few-vertices',
    ]);
    const fine = adviseOnStage(effect, program, readStrands(program, 4), stage, bare.props[0]!, {
      vertices: 900,
      hasColours: true,
      radius: 9,
      flat: false,
      seeThrough: [],
    });
    expect(fine.map((a) => a.code)).toEqual([]);
    const behind = adviseOnStage(effect, program, readStrands(program, 4), stage, bare.props[0]!, {
      vertices: 900,
      hasColours: true,
      radius: 9,
      flat: false,
      seeThrough: [stage.props[0]!.id],
    });
    expect(behind.map((a) => [a.code, a.strand, a.level])).toEqual([['see-through-behind', 'g', 'note']]);
    expect(behind[0]!.message).toMatch(/^Tube is see-through too: .*\.$/);
  });
  test('on its stage: a lit surface in the dark, a glossy one with nothing to mirror', () => {
    const tint: Strand[] = [{ id: 'h', name: 'Hue', op: 'colour' }];
    const round = { vertices: 900, hasColours: true, radius: 9, flat: false, seeThrough: [] };
    const told = (outputs: Effect['outputs'], stage: Stage, lighting: 'lit' | 'unlit' = 'lit') => {
      const effect = effectOf(tint, { baseColour: { from: 'h' }, ...outputs }, { finish: { ...DEFAULT_FINISH, lighting } });
      const program = lower(effect, { build: 'live' });
      return adviseOnStage(effect, program, readStrands(program, 4), stage, stage.props[0]!, round).map((a) => a.code);
    };
    const { surroundings, lights, ...rest } = stageOf();
    const dark = {
      ...rest,
      surroundings: { ...surroundings, strength: 0.01 },
      lights: lights.map((l) => ({ ...l, intensity: 0 })),
    };
    const lamp = { ...rest, surroundings, lights: lights.map((l) => ({ ...l, intensity: 1 })) };
    expect(told({}, dark)).toEqual(['in-the-dark']);
    expect(told({}, dark, 'unlit')).toEqual([]);
    expect(told({}, lamp)).toEqual([]);
    expect(told({ roughness: { value: 0.1 } }, lamp)).toEqual(['nothing-to-mirror']);
    expect(told({ metalness: { value: 1 } }, lamp)).toEqual(['nothing-to-mirror']);
    expect(told({ roughness: { value: 0.1 } }, { ...lamp, surroundings: { ...surroundings, asset: 'wispen:hall' } })).toEqual([]);
  });
  test('a number of -1 to 1 where a mask is meant, with the wrap that brings it to 0 to 1', () => {
    const strands: Strand[] = [
      { id: 'n', name: 'Grain', op: 'noise' },
      { id: 'd', name: 'Gone', op: 'dissolve', inputs: { mask: { from: 'n' } } },
    ];
    const effect = effectOf(strands, { opacity: { from: 'd' } }, { finish: { ...DEFAULT_FINISH, alphaMode: 'mask' } });
    const found = advise(effect, lower(effect, { build: 'live' })).find((a) => a.code === 'mask-range')!;
    expect(found.message).toBe('Grain runs from -1 to 1, and mask of Gone means 0 to 1.');
    const mended = produce(effect, (draft) => applyMend(draft as Effect, found.edit!));
    expect(strandsOf(mended).map((s) => [s.name, s.op])).toEqual([
      ['Grain', 'noise'],
      ['Grain 0..1', 'remap'],
      ['Gone', 'dissolve'],
    ]);
    expect(advise(mended, lower(mended, { build: 'live' })).map((a) => a.code)).not.toContain('mask-range');
    // A wave of its own range is asked for no such thing.
    const calm = effectOf([{ ...strands[0]!, op: 'pulse' }, strands[1]!], { opacity: { from: 'd' } });
    expect(advise(calm, lower(calm, { build: 'live' })).map((a) => a.code)).not.toContain('mask-range');
  });
  test('every finding is a sentence, and so is every mend', () => {
    const effect = effectOf([wave(1.3), { id: 'p', name: 'P', op: 'power', inputs: { in: { from: 'w' } } }], {
      opacity: { from: 'w' },
    });
    for (const a of advise(effect, lower(effect, { build: 'live' }))) {
      expect(a.message).toMatch(/^[A-Z].*\.$/);
      if (a.mend) expect(a.mend).toMatch(/^[A-Z].*\.$/);
    }
  });
});

describe('readings', () => {
  const effect = effectOf([
    { id: 'n', name: 'N', op: 'number', inputs: { in: { value: 3 } } },
    wave(1),
    { id: 'u', name: 'U', op: 'uv' },
    { id: 'm', name: 'M', op: 'multiply', inputs: { a: { from: 'w' }, b: { from: 'u' } } },
    { id: 'c', name: 'C', op: 'colour', inputs: { in: { value: { rgb: [1, 0.5, 0], intensity: 2, unit: 'factor' } } } },
    { id: 's', name: 'S', op: 'smoothstep', inputs: { in: { from: 'w' } } },
    { id: 'f', name: 'F', op: 'fract', inputs: { in: { from: 'u' } } },
  ]);
  const readings = readStrands(lower(effect, { build: 'live' }), 4);
  test('where each is computed', () => {
    expect(['n', 'w', 'u', 'm', 'c'].map((id) => readings.get(id)!.rate)).toEqual(['once', 'frame', 'vertex', 'vertex', 'once']);
  });
  test('which kind each is, and what it can be', () => {
    expect(['n', 'u', 'm', 'c'].map((id) => readings.get(id)!.kind)).toEqual(['1', '2', '2', 'rgb']);
    expect(hullOf(readings.get('c')!.range)).toEqual({ low: 0, high: 2 });
    expect(hullOf(readings.get('m')!.range)).toEqual({ low: -1, high: 1 });
    expect(hullOf(readings.get('s')!.range)).toEqual({ low: 0, high: 1 });
    expect(hullOf(readings.get('f')!.range)).toEqual({ low: 0, high: 1 });
  });
  test('a dial’s soft range widens what a strand can be', () => {
    const dialled = { ...effect, dials: [{ id: 'd', strand: 'n', input: 'in', soft: [0, 10] as [number, number] }] };
    expect(readStrands(lower(dialled, { build: 'live' }), 4).get('n')!.range).toEqual([{ low: 0, high: 10 }]);
  });
});

test('a clock that runs on is told to have no end, rather than how far it was looked at', () => {
  const effect = lit([{ id: 't', name: 'Time', op: 'time' }], { loop: null });
  const program = lower(effect, { build: 'live' });
  const ranges = readRanges(program, program.paramBounds, null);
  expect(ranges.get('t')).toEqual([{ low: 0, high: Infinity }]);
  expect(measuredWhereOpen(program, effect, ranges).size).toBe(0);
});

test('what nothing bounds is measured, and nothing else is', () => {
  const strands: Strand[] = [
    { id: 'p', name: 'Place', op: 'position' },
    { id: 'n', name: 'Grain', op: 'noise', inputs: { position: { from: 'p' } } },
    { id: 'd', name: 'Share', op: 'divide', inputs: { a: { value: 0.3 }, b: { from: 'n' } } },
    { id: 'h', name: 'Held', op: 'clamp', inputs: { in: { from: 'd' } } },
  ];
  const effect = lit(strands);
  const program = lower(effect, { build: 'live' });
  const ranges = readRanges(program, program.paramBounds, effect.loop);
  const found = measuredWhereOpen(program, effect, ranges);
  expect([...found.keys()]).toEqual(['d']);
  // The least share is that of the farthest hill.
  const { low, high } = found.get('d')!;
  expect(low).toBeLessThan(-0.3);
  expect(high).toBeGreaterThan(0.3);
  const told = withRanges(readKinds(program), ranges, found);
  expect(told.get('d')!.measured).toEqual({ low, high });
  expect(told.get('h')!.measured).toBeUndefined();
  // Told again, it stays the same object; bounded, it loses what was measured.
  const again = withRanges(told, ranges, found);
  expect(again.get('d')).toBe(told.get('d'));
  expect(withRanges(told, new Map([['d', [{ low: 0, high: 1 }]]])).get('d')!.measured).toBeUndefined();
});
