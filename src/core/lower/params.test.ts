import { effectOf } from '../../../tests/fixtures/sheets.js';
import { lower } from './lower.js';
import { dialInterval } from './bounds.js';
import { handlesOf } from '../effect/cues.js';
import { factorOf } from '../effect/schema.js';
import { componentsOf, paramValues } from './params.js';

describe('literals as numbers', () => {
  test('colours multiply out, or come apart', () => {
    const colour = { rgb: [0.5, 1, 0.25] as [number, number, number], intensity: 3, unit: 'stops' as const };
    expect(componentsOf(colour, 'value')).toEqual([4, 8, 2]);
    expect(componentsOf(colour, 'rgb')).toEqual([0.5, 1, 0.25]);
    expect(componentsOf(colour, 'intensity')).toEqual([8]);
    expect(factorOf(3, 'factor')).toBe(3);
  });
  test('degrees become radians, switches 0 or 1', () => {
    expect(componentsOf(180, 'value', 'deg')).toEqual([Math.PI]);
    expect(componentsOf([90, 0], 'value', 'deg')).toEqual([Math.PI / 2, 0]);
    expect(componentsOf(true, 'value')).toEqual([1]);
  });
  test('images have no components', () => expect(() => componentsOf({ asset: 'a' }, 'value')).toThrow());
  test('named easings are curves', () => {
    expect(handlesOf('linear')).toEqual([0, 0, 1, 1]);
    expect(handlesOf([0.1, 0.2, 0.3, 0.4])).toEqual([0.1, 0.2, 0.3, 0.4]);
  });
});

describe('the live numbers', () => {
  const effect = effectOf(
    [
      { id: 'c', name: 'C', op: 'colour', inputs: { in: { value: { rgb: [1, 0.5, 0], intensity: 2, unit: 'factor' } } } },
      { id: 'k', name: 'K', op: 'clamp', inputs: { in: { from: 'c' }, high: { value: 3 } } },
    ],
    { emission: { from: 'k' }, roughness: { value: 0.4 } },
  );
  const program = lower(effect, { build: 'live' });

  test('stand in a row, defaults among them, so that the first drag of a default changes no program', () => {
    const { params } = program;
    params.forEach((p, k) => expect(p.at).toBe(k === 0 ? 0 : params[k - 1]!.at + params[k - 1]!.width));
    const source = (input: string) =>
      params.find((p) => p.source.from === 'strand' && p.source.input === input && p.source.strand === 'k');
    expect(source('low')).toBeDefined();
    expect(source('high')).toBeDefined();
  });
  test('follow the document', () => {
    const values = paramValues(program.params, effect);
    expect([...values]).toEqual([1, 0.5, 0, 2, 0, 3, expect.closeTo(0.4, 6)]);
    const changed = structuredClone(effect);
    (changed.outputs.roughness as { value: number }).value = 0.9;
    (changed.strands[1]!.inputs as Record<string, unknown>).low = { value: 0.25 };
    expect([...paramValues(program.params, changed)]).toEqual([1, 0.5, 0, 2, 0.25, 3, expect.closeTo(0.9, 6)]);
  });
  test('a frozen program has none', () => expect(lower(effect, { build: 'frozen' }).params).toEqual([]));
});

describe('how far a dial turns', () => {
  const dial = { id: 'd', strand: 'n', input: 'in', soft: [-1, 2] as [number, number] };
  const effect = effectOf(
    [{ id: 'n', name: 'N', op: 'number', inputs: { in: { value: 5 } } }],
    {},
    { dials: [dial], variants: [{ id: 'v', name: 'V', values: { d: -8 } }] },
  );
  test('over its soft range, its base and every variant', () => {
    expect(dialInterval(effect, dial, 'value', [5], '')).toEqual([{ low: -8, high: 5 }]);
  });
  test('a colour’s soft range is its intensity’s', () => {
    expect(dialInterval({ ...effect, variants: [] }, dial, 'rgb', [0.2, 0.3, 0.4], '')).toEqual(
      [0.2, 0.3, 0.4].map((v) => ({ low: v, high: v })),
    );
  });
});

describe('parts of links', () => {
  const at = (part: string) =>
    lower(
      effectOf([
        { id: 'p', name: 'P', op: 'position' },
        { id: 'm', name: 'M', op: 'multiply', inputs: { a: { from: 'p', part } } },
      ]),
      { build: 'live' },
    ).strands.get('m')!.value;
  test.each([
    ['x', '1'],
    ['xz', '2'],
    ['zyx', '3'],
    ['rgb', '3'],
    ['xxyy', '4'],
  ])('%s is of kind %s', (part, kind) => expect(at(part).kind).toBe(kind));
  test('a second port is asked for by name', () => {
    const effect = effectOf([
      { id: 't', name: 'T', op: 'time' },
      { id: 'f', name: 'F', op: 'fract', inputs: { in: { from: 't', port: 'phase' } } },
    ]);
    expect(lower(effect, { build: 'live' }).strands.get('f')!.value.kind).toBe('1');
  });
});
