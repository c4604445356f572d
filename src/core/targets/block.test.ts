import fc from 'fast-check';
import { ASSETS, PICTURES, effectOf } from '../../../tests/fixtures/sheets.js';

import { lower } from '../lower/lower.js';
import { keyRows, paramValues } from '../lower/params.js';
import type { Cue } from '../effect/schema.js';
import { nextUp } from '../base/floats.js';
import { lookAtKeys, lookOf, rowOf } from '../base/keys.js';
import { ranges } from '../passes/ranges.js';
import { scalarise } from '../passes/scalarise.js';
import { fillBlock } from './block.js';
import { emitGlsl } from './glsl.js';
import { evaluate } from './reference.js';

describe('an image that is read at a place of frame rate', () => {
  const effect = effectOf(
    [
      { id: 't', name: 'T', op: 'time' },
      { id: 'at', name: 'At', op: 'join', inputs: { x: { from: 't' }, y: { value: 0.3 } } },
      { id: 'i', name: 'I', op: 'image', inputs: { image: { value: { asset: 'rock' } }, uv: { from: 'at' } } },
    ],
    { emission: { from: 'i', port: 'rgb' } },
    ASSETS,
  );
  const program = lower(effect, { build: 'live' });
  const text = emitGlsl(program, { hoist: true, naming: 'ids' });
  const params = paramValues(program.params, effect);

  test('is in the block as the reference evaluator has it, and no sampler is left in the shader', () => {
    expect(program.problems).toEqual([]);
    expect(text.fragment.images.size).toBe(0);
    const scalar = scalarise([program.outputs.get('emission')!.node]);
    for (const time of [0.1, 0.45, 2.8]) {
      const [expected] = evaluate(scalar, { params, leaves: { time: [time], loop: [4] }, pictures: PICTURES });
      const block = fillBlock(text, params, time, 4, {}, PICTURES);
      expect([...block.subarray(0, 3)]).toEqual(expected);
      expect(new Set(expected).size).toBeGreaterThan(1);
    }
  });
  test('comes when it comes: grey until then', () => {
    const late = new Map<string, typeof PICTURES extends ReadonlyMap<string, infer P> ? P : never>();
    expect([...fillBlock(text, params, 0.1, 4, {}, late).subarray(0, 3)]).toEqual([0.5, 0.5, 0.5]);
    for (const [key, picture] of PICTURES) late.set(key, picture);
    expect([...fillBlock(text, params, 0.1, 4, {}, late)]).toEqual([...fillBlock(text, params, 0.1, 4, {}, PICTURES)]);
  });
});

describe('cues', () => {
  const unit = fc.double({ min: 0, max: 1, noNaN: true });
  const handle = fc.double({ min: -1, max: 2, noNaN: true });
  const ease = fc.oneof(
    fc.constantFrom('linear' as const, 'smooth' as const, 'step' as const),
    fc.tuple(unit, handle, unit, handle),
  );
  const keys = fc.array(
    fc.record({
      time: fc.integer({ min: -20, max: 60 }).map((t) => t / 8),
      value: fc.double({ min: -5, max: 5, noNaN: true }),
      ease,
    }),
    { minLength: 1, maxLength: 40 },
  );
  const sheet = (list: Cue['keys'], op = 'number') =>
    effectOf(
      [{ id: 'n', name: 'N', op, inputs: { in: { value: list[0]!.value } } }],
      { roughness: op === 'number' ? { from: 'n' } : { value: 0 } },
      { dials: [{ id: 'd', strand: 'n', input: 'in' }], cues: [{ dial: 'd', keys: list }] },
    );

  test('searched or written out, a cue is the same at every time', () => {
    fc.assert(
      fc.property(keys, fc.double({ min: -3, max: 9, noNaN: true }), (list, moment) => {
        const effect = sheet(list);
        // The keys' own times are where the two could part.
        for (const time of [moment, ...list.slice(0, 4).map((k) => k.time)]) {
          const read = (writeCues: boolean) => {
            const program = lower(effect, { build: 'live', writeCues });
            const scalar = scalarise([program.strands.get('n')!.value.node]);
            return evaluate(scalar, { params: paramValues(program.params, effect), leaves: { time: [time], loop: [4] } })[0]![0]!;
          };
          expect(read(false)).toBeCloseTo(read(true), 5);
        }
      }),
      { seed: 20261128, numRuns: 150 },
    );
  });
  test('the block has what the reference evaluator says, to the bit, colours too', () => {
    const colour = (r: number) => ({ rgb: [r, 1 - r, 0.5] as [number, number, number], intensity: 2, unit: 'stops' as const });
    const list = [4, 0, 2.5, 1].map((time, k) => ({ time, value: colour(k / 4), ease: 'smooth' as const }));
    const effect = { ...sheet(list, 'colour'), outputs: { emission: { from: 'n' } } };
    const program = lower(effect, { build: 'live' });
    expect(program.problems).toEqual([]);
    const text = emitGlsl(program, { hoist: true, naming: 'ids' });
    const params = paramValues(program.params, effect);
    const scalar = scalarise([program.outputs.get('emission')!.node]);
    for (const time of [-1, 0, 0.4, 1, 2, 3.3, 4, 7]) {
      const [expected] = evaluate(scalar, { params, leaves: { time: [time], loop: [4] } });
      expect([...fillBlock(text, params, time, 4).subarray(0, 3)]).toEqual(expected);
    }
  });
  test('neither a key’s time, its easing nor the order of keys is part of the program', () => {
    const list = [0, 1, 2].map((time) => ({ time, value: time, ease: 'linear' as const }));
    const moved = [{ ...list[0]!, time: 1.5, ease: [0.2, 0, 0.4, 1] as [number, number, number, number] }, list[1]!, list[2]!];
    const [a, b] = [lower(sheet(list), { build: 'live' }), lower(sheet(moved), { build: 'live' })];
    expect(a.signature).toBe(b.signature);
    // So numbers of the one program serve the other document.
    expect(paramValues(a.params, sheet(moved))).toEqual(paramValues(b.params, sheet(moved)));
  });
  test('what a cue can be is what its keys are', () => {
    const list = [-2, 3, 7].map((value, time) => ({ time, value, ease: 'linear' as const }));
    const program = lower(sheet(list), { build: 'live' });
    const [[range]] = ranges(scalarise([program.strands.get('n')!.value.node], { paste: false }), program.paramBounds, 4) as [
      [{ low: number; high: number }],
    ];
    expect([range.low, range.high]).toEqual([-2, nextUp(7)]);
  });
});

test('a look at keys finds the two around a time, by any search', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 0, max: 50 }), { minLength: 1, maxLength: 30 }),
      fc.integer({ min: -5, max: 55 }),
      (times, t) => {
        const cue: Cue = { dial: 'd', keys: times.map((time, k) => ({ time, value: [k, -k], ease: 'linear' })) };
        const table = { at: 3, count: times.length, width: 2 };
        const numbers = [9, 9, 9, ...keyRows(cue, table, '')];
        expect(numbers).toHaveLength(3 + times.length * rowOf(table));
        const out: number[] = [];
        lookAtKeys(numbers, table, t, out);
        expect(out).toHaveLength(lookOf(table));
        const sorted = [...times].sort((a, b) => a - b);
        const before = sorted.slice(0, -1).filter((s) => s <= t).length;
        const first = Math.max(0, before - 1);
        expect([out[0], out[1]]).toEqual([sorted[first], sorted[Math.min(first + 1, sorted.length - 1)]]);
      },
    ),
    { seed: 20261128 },
  );
});
