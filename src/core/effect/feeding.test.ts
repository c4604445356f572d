/** A new strand reads what makes sense, or nothing; and everything that is offered instead makes a sound sheet. */
import { produce } from 'immer';
import { effectOf } from '../../../tests/fixtures/sheets.js';
import { Lineage, lower } from '../lower/lower.js';
import { kindOfLink } from '../lower/program.js';
import { OPERATORS } from '../operators/catalogue.js';
import { addStrand } from './edits.js';
import { firstInputFor, kindMends, readBy, waysInto, waysToRead, type KindOf } from './feeding.js';
import { readEffect } from './read.js';
import { strandsOf, type Effect, type Input, type Strand } from './schema.js';

const ABOVE: Strand[] = [
  { id: 'time', name: 'Time', op: 'time' },
  { id: 'uv', name: 'Along', op: 'uv' },
  { id: 'place', name: 'Place', op: 'position' },
  { id: 'normal', name: 'Normal', op: 'normal' },
  { id: 'view', name: 'View', op: 'view' },
  { id: 'gap', name: 'Gap', op: 'depthGap' },
  { id: 'copy', name: 'Copy', op: 'propRandom' },
  { id: 'mask', name: 'Grain', op: 'noise' },
  { id: 'hue', name: 'Hue', op: 'colour' },
  { id: 'paint', name: 'Paint', op: 'vertexColour' },
  { id: 'own', name: 'Own', op: 'number', inputs: { in: { value: 2 } } },
  // What a strand works on is what it still means.
  { id: 'fast', name: 'Fast', op: 'multiply', inputs: { a: { from: 'time' }, b: { value: 2 } } },
  { id: 'late', name: 'Late', op: 'add', inputs: { a: { value: 1 }, b: { from: 'fast' } } },
  { id: 'beats', name: 'Beats', op: 'fract', inputs: { in: { from: 'late' } } },
  { id: 'tint', name: 'Tint', op: 'multiply', inputs: { a: { from: 'mask' }, b: { from: 'hue' } } },
  { id: 'high', name: 'High', op: 'add', inputs: { a: { from: 'place', part: 'y' } } },
];
const sheet = (): Effect => effectOf(structuredClone(ABOVE), { emission: { from: 'tint' } });
const kindsOf = (effect: Effect): KindOf => {
  const program = lower(effect, { build: 'live' });
  return (link) => kindOfLink(program, link);
};
const EFFECT = sheet();
const KINDS = kindsOf(EFFECT);
const reads = (op: string, from: string) => firstInputFor(EFFECT, op, from, KINDS);

// Common practice, no source: what a practised artist would link by hand.
test.each([
  // A time runs what moves, and drives what travels.
  ['time', { wave: 'time', noise: 'churn', flicker: 'time', scroll: 'time', stripes: 'offset', multiply: 'a', fresnel: null }],
  ['fast', { wave: 'time', cells: 'churn' }],
  ['late', { gerstner: 'time' }],
  ['beats', { noise: null, smoothstep: 'in', mix: 'amount' }],
  // A mask is an amount, a factor, a height; never a place, a gap, a constant or a distance.
  ['mask', { mix: 'amount', blend: 'amount', dissolve: 'mask', joinMasks: 'a', ramp: 'in', harden: 'in', multiply: 'a' }],
  ['mask', { normalFromHeight: 'height', sway: 'mask', warp: 'amount', saturation: 'amount', foam: 'noise' }],
  ['mask', { noise: null, contact: null, refractOffset: null, number: null, colour: null, vector: null, height: null }],
  ['mask', { wave: null, fresnel: null, falloff: null, blackbody: null, hueShift: null, place: null }],
  ['uv', { noise: 'position', place: 'uv', grid: 'uv', wave: null, mix: 'a', behind: null, fresnel: null }],
  ['place', { noise: 'position', near: 'position', place: null, sway: 'position', fresnel: null, cross: 'a' }],
  ['normal', { fresnel: 'normal', slope: 'normal', blendNormals: 'a', refractOffset: 'normal', noise: null }],
  ['view', { reflect: 'in', fresnel: null }],
  ['gap', { contact: 'gap', absorb: 'thickness', falloff: 'distance', foam: 'gap', refractOffset: 'depth', smoothstep: 'in' }],
  ['gap', { mix: 'a', dissolve: null, noise: null }],
  ['copy', { flicker: 'seed', wave: 'phase', number: null }],
  ['hue', { intensity: 'in', mix: 'a', blend: 'a', hueShift: 'in', absorb: 'in', noise: null, dissolve: null, choose: 'a' }],
  ['tint', { luminance: 'in', multiply: 'a' }],
  ['paint', { sway: null, pick: 'in', multiply: 'a' }],
  // A number that says nothing of itself goes to what is worked on, or counts as a mask.
  ['own', { blackbody: 'in', dissolve: 'mask', sway: 'mask', multiply: 'a', wave: null, contact: null, noise: null }],
  ['high', { smoothstep: 'in', noise: null, ramp: 'in' }],
] as const)('what a strand under %s reads', (from, wanted) => {
  const found = Object.fromEntries(Object.keys(wanted).map((op) => [op, reads(op, from)]));
  expect(found).toEqual(wanted);
});

test('every input that is chosen, and every way that is offered, makes an effect that can be stored and drawn', () => {
  // Only the strand that is added is lowered anew.
  const lineage = new Lineage();
  const wrong: unknown[] = [];
  let ways = 0;
  for (const { id: op } of OPERATORS)
    // One of each kind.
    for (const from of ['time', 'uv', 'place', 'hue', 'paint']) {
      const input = reads(op, from);
      const offered = waysToRead(op, from, KINDS);
      if (input !== null) expect(offered.map((w) => w.text === '' && w.input)).toContain(input);
      for (const way of offered) {
        ways++;
        const made = produce(EFFECT, (draft) => {
          addStrand(draft as Effect, { id: 'added', op, name: 'Added', after: strandsOf(EFFECT).at(-1)!.id });
          readBy(draft as Effect, { reader: { strand: 'added', input: way.input }, way });
        });
        // What can be stored is asked once an operator.
        const read = way === offered[0] ? readEffect(JSON.parse(JSON.stringify(made))) : null;
        if (read && !read.ok) wrong.push([op, from, read.problems]);
        for (const problem of lineage.lower(made).problems) wrong.push([op, from, problem.message]);
      }
    }
  expect(wrong).toEqual([]);
  expect(ways).toBeGreaterThan(OPERATORS.length * 8);
});

test('what is of another kind is offered by what brings it there', () => {
  expect(waysInto({ kind: '1' }, { from: 'hue' }, 'rgb').map((w) => w.text)).toEqual([
    'by luminance',
    'from .r',
    'from .g',
    'from .b',
  ]);
  expect(waysInto({ kind: '2' }, { from: 'place' }, '3').map((w) => w.text)).toEqual(['from .xy', 'from .xz']);
  expect(waysInto({ kind: '3' }, { from: 'uv' }, '2').map((w) => w.text)).toEqual(['joined with 0']);
  expect(waysInto({ kind: 'rgb' }, { from: 'mask' }, '1')).toEqual([{ link: { from: 'mask' }, text: '' }]);
  const lit = produce(EFFECT, (draft) =>
    readBy(draft as Effect, { reader: { output: 'opacity' }, way: waysInto({ kind: '1' }, { from: 'tint' }, 'rgb')[0]! }),
  );
  const made = strandsOf(lit)[strandsOf(lit).findIndex((s) => s.id === 'tint') + 1]!;
  expect([made.name, lit.outputs.opacity, made.inputs]).toEqual(['Tint luminance', { from: made.id }, { in: { from: 'tint' } }]);
  expect(lower(lit, { build: 'live' }).problems).toEqual([]);
});

test.each([
  ['a colour where one number is taken', 'dissolve', { mask: { from: 'hue' } }, 'Hue by luminance'],
  ['three numbers where coordinates are', 'grid', { uv: { from: 'place' } }, 'Place from .xy'],
  ['two numbers where three are', 'fresnel', { normal: { from: 'uv' } }, 'Along joined with 0'],
  ['two numbers beside three', 'add', { a: { from: 'uv' }, b: { from: 'place' } }, 'Along joined with 0'],
  ['four numbers for a share', 'sway', { mask: { from: 'paint' } }, 'Paint from .x'],
] as const)('the mend of %s', (_, op, inputs, label) => {
  const broken = produce(EFFECT, (draft) =>
    addStrand(draft as Effect, { id: 'added', op, name: 'Added', after: 'high', inputs: inputs as Record<string, Input> }),
  );
  expect(lower(broken, { build: 'live' }).problems).toHaveLength(1);
  const mends = kindMends(broken, 'added', kindsOf(broken));
  expect(mends[0]!.label).toBe(label);
  for (const mend of mends) {
    const mended = produce(broken, (draft) => readBy(draft as Effect, mend));
    expect([mend.label, lower(mended, { build: 'live' }).problems]).toEqual([mend.label, []]);
  }
});
