import { fromHex } from '../base/srgb.js';
import { produce } from 'immer';
import { effectOf } from '../../../tests/fixtures/sheets.js';
import { Lineage, lower } from '../lower/lower.js';
import { kindOfLink } from '../lower/program.js';
import { FORMULA, OPERATORS, operatorOf } from '../operators/catalogue.js';
import { findOperators } from '../operators/find.js';
import { addStrand } from './edits.js';
import { strandsOf, type Effect, type Motif } from './schema.js';
import { readArguments, readLine, readUse, type Above } from './typed.js';

const EFFECT = effectOf(
  [
    { id: 'time', name: 'Time', op: 'time' },
    { id: 'place', name: 'Place', op: 'position' },
    { id: 'rim', name: 'Rim cut', op: 'fresnel' },
    { id: 'line', name: 'Line cut', op: 'contact' },
    { id: 'net', name: 'Net', op: 'cells' },
    { id: 'deep', name: 'Deep', op: 'colour' },
    { id: 'shallow', name: 'Shallow', op: 'colour' },
  ],
  {},
  { triggers: [{ id: 't1', name: 'Hit', at: [], duration: 1 }] },
);
const program = lower(EFFECT, { build: 'live' });
const above: Above = { effect: EFFECT, strands: strandsOf(EFFECT), kindOf: (link) => kindOfLink(program, link) };

/** The operator that a line comes to, the name, and what it is given. */
function read(typed: string) {
  const line = readLine(above, typed);
  const operator = findOperators(line.words)[0]!;
  const given = line.rest === '' ? { ok: true as const, inputs: {}, options: {} } : readArguments(above, operator, line.rest);
  return { name: line.name, op: operator.id, given };
}
const link = (from: string, more = {}) => ({ from, ...more });

const hue = (hex: string) => ({ value: { rgb: fromHex(hex)!, intensity: 1, unit: 'factor' } });

test.each([
  ['max Rim cut, Line cut', null, 'max', { a: link('rim'), b: link('line') }, {}],
  ['max rim CUT , line cut', null, 'max', { a: link('rim'), b: link('line') }, {}],
  ['Edges = max Rim cut, Line cut', 'Edges', 'max', { a: link('rim'), b: link('line') }, {}],
  ['max Rim cut Line cut', null, 'max', { a: link('rim'), b: link('line') }, {}],
  ['ripple Place, hit', null, 'ripple', { position: link('place'), trigger: { value: { text: 't1' } } }, {}],
  // A strand that is called like an operation is one, where an operation stands before it.
  ['mul Time, Net', null, 'multiply', { a: link('time'), b: link('net') }, {}],
  ['mul 24', null, 'multiply', { b: { value: 24 } }, {}],
  ['noise scale 8', null, 'noise', { scale: { value: 8 } }, {}],
  [
    'noise scale=2*pi, seed 3, churn Time',
    null,
    'noise',
    { scale: { value: 2 * Math.PI }, seed: { value: 3 }, churn: link('time') },
    {},
  ],
  ['fresnel width .3', null, 'fresnel', { width: { value: 0.3 } }, {}],
  ['smoothstep .2, .6', null, 'smoothstep', { low: { value: 0.2 }, high: { value: 0.6 } }, {}],
  ['smoothstep .2, .6, Rim cut', null, 'smoothstep', { low: { value: 0.2 }, high: { value: 0.6 }, in: link('rim') }, {}],
  [
    'remap -1, 1, 0, 1',
    null,
    'remap',
    { fromLow: { value: -1 }, fromHigh: { value: 1 }, toLow: { value: 0 }, toHigh: { value: 1 } },
    {},
  ],
  ['mix Deep, Shallow, Rim cut', null, 'mix', { a: link('deep'), b: link('shallow'), amount: link('rim') }, {}],
  // In the order written, whatever stands above and whatever else is named.
  ...(
    [
      ['mix #1260ff, #a8e4ff, Rim cut', '#1260ff', '#a8e4ff', { amount: link('rim') }],
      ['mix Rim cut, #1260ff, #a8e4ff', '#1260ff', '#a8e4ff', { amount: link('rim') }],
      ['mix #a8e4ff, #1260ff', '#a8e4ff', '#1260ff', {}],
    ] as const
  ).map(([typed, a, b, more]) => [typed, null, 'mix', { a: hue(a), b: hue(b), ...more }, {}] as const),
  ['subtract 3, Rim cut', null, 'subtract', { a: { value: 3 }, b: link('rim') }, {}],
  ['subtract Rim cut, 3', null, 'subtract', { a: link('rim'), b: { value: 3 } }, {}],
  ['smoothstep .2 .6', null, 'smoothstep', { low: { value: 0.2 }, high: { value: 0.6 } }, {}],
  [
    'remap -1 1 0 1',
    null,
    'remap',
    { fromLow: { value: -1 }, fromHigh: { value: 1 }, toLow: { value: 0 }, toHigh: { value: 1 } },
    {},
  ],
  ['random Net border', null, 'random', { position: link('net', { port: 'border' }) }, {}],
  ['random 5', null, 'random', { position: { value: 5 } }, {}],
  ['random size 5', null, 'random', { size: { value: 5 } }, {}],
  ['mix Rim cut, Deep, Shallow', null, 'mix', { a: link('deep'), b: link('shallow'), amount: link('rim') }, {}],
  ['multiply Net border, Deep', null, 'multiply', { a: link('net', { port: 'border' }), b: link('deep') }, {}],
  ['smoothstep Place.y', null, 'smoothstep', { in: link('place', { part: 'y' }) }, {}],
  ['grid Place.xz', null, 'grid', { uv: link('place', { part: 'xz' }) }, {}],
  ['scroll speed 0.2 -1', null, 'scroll', { speed: { value: [0.2, -1] } }, {}],
  ['Blend screen', null, 'blend', {}, { mode: 'screen' }],
  ['height axis x, 0, 2', null, 'height', { from: { value: 0 }, to: { value: 2 } }, { axis: 'x' }],
  ['flicker 8, low .2', null, 'flicker', { rate: { value: 8 }, low: { value: 0.2 } }, {}],
  ['Noise = noise 4', 'Noise', 'noise', { scale: { value: 4 } }, {}],
  ['Glow = fresnel', 'Glow', 'fresnel', {}, {}],
  ['Rust = fractal', 'Rust', 'fractal', {}, {}],
] as const)('%s', (typed, name, op, inputs, options) => {
  expect(read(typed)).toEqual({ name, op, given: { ok: true, inputs, options } });
});

test('a hue as CSS writes it, with its intensity', () => {
  // sRGB 0x80 is 0.215861 in linear light: IEC 61966-2-1.
  const amber = { rgb: [1, 0.215861, 0], intensity: 20, unit: 'factor' };
  expect(read('colour #ff8000 x 20')).toMatchObject({ op: 'colour', given: { inputs: { in: { value: amber } } } });
  expect(read('Hot = multiply Rim cut, #f80 × 20')).toMatchObject({
    name: 'Hot',
    given: { inputs: { a: link('rim'), b: { value: { intensity: 20 } } } },
  });
});

test('a formula after an equals sign, with a name or without', () => {
  const formula = { a: link('rim'), formula: { value: { text: '1 - a * 2' } } };
  expect(read('= 1 - rimCut * 2')).toEqual({ name: null, op: FORMULA.id, given: { ok: true, inputs: formula, options: {} } });
  expect(read('Core = 1 - rimCut * 2')).toEqual({
    name: 'Core',
    op: FORMULA.id,
    given: { ok: true, inputs: formula, options: {} },
  });
  expect(read('= 1 - rum').given).toEqual({ ok: false, why: expect.stringMatching(/^Character 5: .*rum/) as string });
});

test.each(['edge of a mesh', 'gradient along the height', 'burn away', 'noise', 'rotate over time', 'on and off'])(
  'what is looked for is no line: %s',
  (typed) => expect(readLine(above, typed)).toEqual({ name: null, words: typed, rest: '' }),
);

test.each([
  ['max', 'Rum cut', 'There is no strand called “Rum cut” above.'],
  ['max', 'Rim cut, Line cut, Net', 'The max has no input left that takes Net.'],
  ['noise', 'scale Deep', 'The noise scale does not take Deep.'],
  ['noise', 'scale red', '“red” is neither a strand above nor a value.'],
  ['blend', 'mode soft', 'mode is one of'],
  ['hueShift', '#ff0000, 4, 5', 'The hue shift has no input left that takes 5.'],
])('%s %s: says why it cannot be', (op, rest, why) => {
  const found = readArguments(above, operatorOf(op), rest);
  expect(found.ok ? '' : found.why).toContain(why);
});

test('numbers after the name of an operation are given to it, never looked for: what is wrong with them is said', () => {
  expect(readLine(above, 'smoothstep .7 1 Place.y')).toEqual({ name: null, words: 'smoothstep', rest: '.7 1 Place.y' });
  expect(read('smoothstep .7 1 Place.y').given).toEqual({
    ok: false,
    why: 'There is no strand called “.7 1 Place.y” above.',
  });
  expect(readLine(above, 'mult #ff80, Rim cut').rest).toBe('');
});

test.each([
  'Glow = deep * rimCut * .5',
  'Base = deep + shallow * net',
  'Swept = net.border * lineCut * 0.85',
  'Level = place.xz',
  'Deepest = net.f1 * 2',
])('arithmetic over strands is a formula, whatever operation its words are like: %s', (typed) => {
  const { op, given, name } = read(typed);
  expect([op, given.ok, name]).toEqual([FORMULA.id, true, typed.split(' ')[0]]);
});

test('whatever a line comes to can be stored and drawn', () => {
  const lineage = new Lineage();
  const parts = ['Rim cut', 'Place', 'Deep', '2', '.5 .5', '#40a0ff x 3'];
  let taken = 0;
  for (const operator of OPERATORS)
    for (const first of parts)
      for (const second of parts) {
        const given = readArguments(above, operator, `${first}, ${second}`);
        if (!given.ok || operator === FORMULA) continue;
        taken++;
        const made = produce(EFFECT, (draft) =>
          addStrand(draft as Effect, { id: 'added', op: operator.id, name: 'Added', after: 'shallow', ...given }),
        );
        const { problems } = lineage.lower(made);
        // Two vectors of other widths are taken, and told by the strand itself: each alone is right there.
        expect([operator.id, first, second, problems.filter((p) => p.code !== 'kind')]).toEqual([operator.id, first, second, []]);
      }
  expect(taken).toBeGreaterThan(400);
});

describe('a use of a motif, by its whole name', () => {
  const motif = (id: string, name: string): Motif => ({
    ...{ id, name, revision: 1, sections: [], outputs: [{ id: 'out1', name: 'Push', kind: '1', from: { from: 'n' } }] },
    inputs: [
      { id: 'in1', name: 'Heading', kind: '1', default: 20, soft: [-180, 180] },
      { id: 'in2', name: 'Lagging time', kind: '1', default: 0 },
    ],
    strands: [{ id: 'n', name: 'N', op: 'add', inputs: { a: { from: 'in1' }, b: { from: 'in2' } } }],
  });
  const motifs = [motif('m1', 'Current'), motif('m2', 'Current set'), motif('m3', 'Noise')];
  const use = (typed: string) => {
    const found = readUse(above, motifs, typed);
    return found && [found.motif.id, found.name, found.given.ok ? found.given.inputs : found.given.why];
  };
  test.each([
    ['Current set', ['m2', null, {}]],
    ['current set -52, Time', ['m2', null, { in1: { value: -52 }, in2: { from: 'time' } }]],
    ['South = Current set Heading -52, Lagging time Time', ['m2', 'South', { in1: { value: -52 }, in2: { from: 'time' } }]],
    ['South = Current set lagging time = net.border', ['m2', 'South', { in2: { from: 'net', port: 'border' } }]],
    ['Current set 1, 2, 3', ['m2', null, 'The motif has no input left that takes 3.']],
    ['Current setting', null],
    ['current of a river', null],
    // The operation of that name is meant where something is given to it.
    ['noise scale 8', null],
    ['noise', ['m3', null, {}]],
  ])('%s', (typed, expected) => expect(use(typed)).toEqual(expected));
});

test('inputs go by what they are called on screen, too', () => {
  expect(read('stripe softness 0.2').given).toEqual({ ok: true, inputs: { softness: { value: 0.2 } }, options: {} });
});
