/**
 * Effects that run on for days. Steps of a float of a million seconds are 62 ms; what repeats, or is looked up in a
 * lattice, goes on as smoothly as in its first minute.
 */
import { ASSETS, effectOf } from '../../../tests/fixtures/sheets.js';
import { CLOCKS, runningOf } from '../../../tests/fixtures/running.js';
import { overTime } from '../../../tests/fixtures/read.js';
import type { Strand } from '../effect/schema.js';
import { OPERATORS } from '../operators/catalogue.js';
import { scalarise } from '../passes/scalarise.js';
import { evaluate } from '../targets/reference.js';
import { Builder } from './builder.js';
import { lapCount, lapFraction } from './kernels/laps.js';

const LONG = 1e6;

describe('laps', () => {
  /** A number as a whole number of 2^-1074ths: products of such are exact. */
  const exact = (x: number): { top: bigint; shift: number } => {
    let shift = 0;
    while (x !== Math.floor(x)) {
      x *= 2;
      shift++;
    }
    return { top: BigInt(x), shift };
  };
  const cases = Array.from({ length: 400 }, (_, k) => {
    const rate = Math.fround(((k * 0.754877666) % 1) * (k % 2 ? 60 : 0.3) * (k % 3 ? 1 : -1));
    return { rate, time: ((k * 0.569840291) % 1) * LONG * (k % 5 ? 1 : -1) };
  });
  const b = new Builder();
  const given = [b.param(0, 1), b.leaf('time'), b.leaf('timeRest')];
  const scalar = scalarise([b.call(lapFraction, ...given), b.call(lapCount, ...given)]);

  it('are those of whole numbers, to half a millionth of a lap', () => {
    for (const { rate, time } of cases) {
      const [[left], [many, few]] = evaluate(scalar, { params: [rate], leaves: { time: [time] } }) as [number[], number[]];
      const [p, q] = [exact(rate), exact(time)];
      const one = 1n << BigInt(p.shift + q.shift);
      const laps = many! * 65536 + few! + left!;
      // The same in whole numbers: how far it is from the exact product.
      const top = p.top * q.top;
      const whole = BigInt(many! * 65536 + few!) * one;
      const off = Number(top - whole) / Number(one) - left!;
      expect(Math.abs(off)).toBeLessThan(5e-7);
      expect(Math.abs(laps - rate * time)).toBeLessThan(1e-5);
    }
  });
});

/** Steps of a millisecond, over a second. */
const MOMENTS = Array.from({ length: 1000 }, (_, k) => k / 1000 + 0.0003);

const PLACE = { position: [0.3125, 0.5625, -0.25], uv: [0.375, 0.625], worldPosition: [0.3125, 0.5625, -0.25] } as const;

/**
 * How a value goes on: how large a step all but a fiftieth of them are (jumps are rarer), how many stand still, and how
 * far it comes in all.
 */
function pace(plane: Float32Array) {
  const steps = [...plane.subarray(1)].map((v, k) => Math.abs(v - plane[k]!)).sort((p, q) => p - q);
  return {
    step: steps[Math.floor(steps.length * 0.98)]!,
    stands: steps.filter((s) => s === 0).length / steps.length,
    moves: steps.reduce((p, q) => p + q, 0),
    size: Math.max(...plane.map(Math.abs)),
  };
}

const CASES = OPERATORS.flatMap(runningOf);

describe('what runs on', () => {
  // Times and rates of few bits: 2^12 s and a sixteenth, times 3/4, is a float as it stands.
  const moments = [0, 2 ** 12].flatMap((from) => Array.from({ length: 48 }, (_, k) => from + k / 16));

  it('has the values of what loops, wherever floats hold the growth itself', () => {
    const off: string[] = [];
    for (const { what, strand } of CASES) {
      if (strand.options?.over === 'loop') continue;
      const [free, looped] = [null, 3600].map((loop) =>
        overTime(effectOf([...CLOCKS, strand], {}, { loop, ...ASSETS }), 'tested', moments, PLACE),
      ) as [Float32Array[], Float32Array[]];
      looped.forEach((plane, lane) =>
        plane.forEach((v, k) => {
          const w = free[lane]![k]!;
          if (Math.abs(w - v) > 1e-3 * (1 + v * v)) off.push(`${what}.${lane} at ${moments[k]!}: ${v}, ${w}`);
        }),
      );
    }
    expect(off.slice(0, 20)).toEqual([]);
  });

  it('keeps a sine’s phase: against its closed form in double precision', () => {
    const rate = Math.fround(1.37);
    const wave: Strand = { id: 'w', name: 'w', op: 'wave', inputs: { rate: { value: rate }, phase: { value: 0.125 } } };
    const times = MOMENTS.map((m) => LONG + 17 * m);
    const [values] = overTime(effectOf([wave], {}, { loop: null }), 'w', times) as [Float32Array];
    // 2 pi rate x time in doubles: rate has 24 bits, so that its product with whole seconds is exact.
    values.forEach((v, k) => {
      const turns = ((rate * LONG) % 1) + rate * 17 * MOMENTS[k]! + 0.125;
      expect(Math.abs(v - Math.sin(2 * Math.PI * turns))).toBeLessThan(8e-6);
    });
  });
});

describe('after 1,000,000 seconds', () => {
  it('moves as smoothly as in the first', () => {
    const rough: string[] = [];
    let read = 0;
    for (const { what, strand } of CASES) {
      const effect = effectOf([...CLOCKS, strand], {}, { loop: null, ...ASSETS });
      const [early, late] = [0, LONG].map((from) => {
        const times = MOMENTS.map((m) => from + m);
        return overTime(effect, 'tested', times, PLACE).map(pace);
      }) as [ReturnType<typeof pace>[], ReturnType<typeof pace>[]];
      early.forEach((e, lane) => {
        const l = late[lane]!;
        // What itself grows is as coarse as a float of its size.
        if (l.size > 1e4) return;
        read++;
        // Held at an end it stands; in steps it moves, seldom.
        const inSteps = e.stands < 0.5 && l.stands > 0.9 && l.stands < 0.997 && l.moves > 1e-3;
        if (l.step > 4 * e.step * (1 + l.size ** 2) + 2e-4 || inSteps)
          rough.push(`${what}.${lane}: steps ${e.step} -> ${l.step}, stands ${e.stands} -> ${l.stands}`);
      });
    }
    expect(rough.slice(0, 20)).toEqual([]);
    expect(read).toBeGreaterThan(300);
  });
});
