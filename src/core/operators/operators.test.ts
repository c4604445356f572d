import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { apply } from '../../../tests/fixtures/read.js';
import { effectOf } from '../../../tests/fixtures/sheets.js';
import { readAt } from '../../../tests/fixtures/read.js';
import { OPERATORS } from './catalogue.js';
import { handbook } from './handbook.js';

describe('records', () => {
  test.each(OPERATORS.map((o) => [o.id, o] as const))('%s says what it does, in one sentence, with units and ranges', (_, o) => {
    expect(o.summary).toMatch(/^[A-Z].*\.$/);
    expect(o.outputs.length).toBeGreaterThan(0);
    for (const i of Object.values(o.inputs)) {
      expect(i.note).not.toBe('');
      expect(i.soft[0]).toBeLessThan(i.soft[1]);
    }
    for (const option of Object.values(o.options)) expect(option.values).toContain(option.default);
  });
});

test('docs/operators.md is what the catalogue says: `npm run operators` makes it anew', () => {
  const page = join(dirname(fileURLToPath(import.meta.url)), '../../../docs/operators.md');
  expect(readFileSync(page, 'utf8')).toBe(handbook());
});

describe('Fresnel', () => {
  const at = (degrees: number) => ({
    normal: [0, 0, 1],
    view: [Math.sin((degrees * Math.PI) / 180), 0, Math.cos((degrees * Math.PI) / 180)],
  });
  // Schlick 1994 with the normal-incidence reflectance of glass (1.5) and water (1.333): handbook values.
  test.each([
    [0.04, 60, 0.07],
    [0.04, 75, 0.25473],
    [0.020373, 60, 0.05099],
    [0.020373, 75, 0.23949],
  ])('f0 %f at %f degrees', (f0, degrees, expected) => {
    expect(apply('fresnel', { f0, falloff: 5 }, {}, at(degrees))[0]).toBeCloseTo(expected, 4);
  });
  test('a greater width is a wider rim; 0 .. 1 stand for a falloff of 10 .. 0.5 (common practice, no source)', () => {
    const rim = (width: number) => apply('fresnel', { width }, {}, at(60))[0]!;
    expect(rim(0)).toBeCloseTo(0.5 ** 10, 6);
    expect(rim(1)).toBeCloseTo(0.5 ** 0.5, 6);
    expect(rim(0.7)).toBeGreaterThan(rim(0.3));
  });
});

describe('arithmetic', () => {
  test('GLSL ES 3.00 section 8 definitions', () => {
    expect(apply('mix', { a: 2, b: 10, amount: 0.25 })).toEqual([4]);
    expect(apply('clamp', { in: 3, low: -1, high: 2 })).toEqual([2]);
    expect(apply('fract', { in: -0.25 })).toEqual([0.75]);
    expect(apply('smoothstep', { low: 0, high: 1, in: 0.25 })[0]).toBeCloseTo(0.15625, 6);
    expect(apply('sin', { in: Math.PI / 6 })[0]).toBeCloseTo(0.5, 6);
  });
  test('smoothstep falls when its edges are in reverse, and is a step when they meet', () => {
    expect(apply('smoothstep', { low: 1, high: 0, in: 0.25 })[0]).toBeCloseTo(1 - 0.15625, 6);
    expect(apply('smoothstep', { low: 0.5, high: 0.5, in: 0.49 })).toEqual([0]);
    expect(apply('smoothstep', { low: 0.5, high: 0.5, in: 0.5 })).toEqual([1]);
  });
  test('undefined cases give 0', () => {
    expect(apply('divide', { a: 3, b: 0 })).toEqual([0]);
    expect(apply('power', { in: -2, exponent: 2 })).toEqual([0]);
    expect(apply('remap', { in: 3, fromLow: 1, fromHigh: 1, toLow: 7, toHigh: 9 })).toEqual([7]);
  });
  test('remap, either way round, and held when asked', () => {
    expect(apply('remap', { in: 0.25, toLow: 10, toHigh: 0 })).toEqual([7.5]);
    expect(apply('remap', { in: 3, toLow: 0, toHigh: 10 }, { outside: 'clamp' })).toEqual([10]);
    expect(apply('remap', { in: 3, toLow: 0, toHigh: 10 })).toEqual([30]);
  });
  test('a number widens to any vector; pick and join', () => {
    expect(apply('multiply', { a: [1, 2, 3], b: 2 })).toEqual([2, 4, 6]);
    expect(apply('pick', { in: [5, 6, 7] }, { component: 'y' })).toEqual([6]);
    expect(apply('join', { x: 1, y: 2, z: 3 })).toEqual([1, 2, 3]);
    expect(apply('join', { x: 1, y: 2 })).toEqual([1, 2]);
  });
});

describe('wave', () => {
  const wave = (inputs: Record<string, number>, shape = 'sine') => apply('wave', inputs, { shape })[0]!;
  test('low + (high - low)(.5 + .5 sin 2 pi (rate (time - delay) + phase))', () => {
    for (const time of [0, 0.3, 1.7, 9.1])
      expect(wave({ time, rate: 1.5, delay: 0.2, phase: 0.1, low: 2, high: 6 })).toBeCloseTo(
        2 + 4 * (0.5 + 0.5 * Math.sin(2 * Math.PI * (1.5 * (time - 0.2) + 0.1))),
        4,
      );
  });
  test('the other shapes at the quarters of a turn', () => {
    const quarters = [0, 0.25, 0.5, 0.75];
    expect(quarters.map((t) => wave({ time: t }, 'triangle'))).toEqual([0, 1, 0, -1]);
    expect(quarters.map((t) => wave({ time: t }, 'square'))).toEqual([1, 1, -1, -1]);
    expect(quarters.map((t) => wave({ time: t }, 'saw'))).toEqual([-1, -0.5, 0, 0.5]);
  });
  test('follows the stage’s time when nothing else is given', () => {
    const effect = effectOf([{ id: 'w', name: 'W', op: 'wave' }]);
    expect(readAt(effect, 'w', { time: [0.25] })).toEqual([1]);
  });
});

describe('colour and intensity', () => {
  test('hue and intensity are multiplied, in factors or stops', () => {
    expect(apply('colour', { in: { rgb: [0.5, 1, 0.25], intensity: 12, unit: 'factor' } })).toEqual([6, 12, 3]);
    expect(apply('colour', { in: { rgb: [0.5, 1, 0.25], intensity: 3, unit: 'stops' } })).toEqual([4, 8, 2]);
    expect(apply('intensity', { in: [1, 2, 3], amount: 4 }, { unit: 'stops' })).toEqual([16, 32, 48]);
  });
});

describe('noise', () => {
  test('takes one, two or three numbers, and churns along a further axis', () => {
    const n = (position: number | number[], more: Record<string, number> = {}) => apply('noise', { position, ...more })[0]!;
    for (const p of [0.37, [0.37, 1.2], [0.37, 1.2, -4.4]]) expect(Math.abs(n(p))).toBeGreaterThan(0);
    expect(n([0.37, 1.2, -4.4], { churn: 0.5 })).not.toBe(n([0.37, 1.2, -4.4], { churn: 0.8 }));
    expect(n(0.37, { seed: 1 })).not.toBe(n(0.37, { seed: 2 }));
    expect(n(0.74)).toBe(n(0.37, { scale: 2 }));
  });
});

describe('cues', () => {
  test('a cue moves its dial with its easing, and wins over the literal', () => {
    const effect = effectOf(
      [{ id: 'n', name: 'N', op: 'number', inputs: { in: { value: 9 } } }],
      {},
      {
        dials: [{ id: 'd', strand: 'n', input: 'in' }],
        cues: [
          {
            dial: 'd',
            keys: [
              { time: 1, value: 2, ease: 'linear' },
              { time: 2, value: 4, ease: [0.25, 0.1, 0.25, 1] },
              { time: 3, value: 0, ease: 'step' },
            ],
          },
        ],
      },
    );
    const at = (time: number) => readAt(effect, 'n', { time: [time] })[0]!;
    expect([at(0), at(1), at(1.5), at(2), at(9)]).toEqual([2, 2, 3, 4, 0]);
    expect(at(2.5)).toBeCloseTo(4 - 4 * 0.8024034, 4);
  });
});
