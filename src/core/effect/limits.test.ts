/** What the schema allows, and not one more. The limits are the file format's own (`schema.ts`), no outside source. */
import { effectOf } from '../../../tests/fixtures/sheets.js';
import { readEffect, readEffectText } from './read.js';
import { MAX_STRANDS, type Strand } from './schema.js';
import { writeEffect } from './write.js';

const STRANDS: Strand[] = [
  { id: 'g', name: 'Grain', op: 'noise', inputs: { scale: { value: 2 } } },
  { id: 'c', name: 'Paint', op: 'ramp', inputs: {} },
];
const file = () => JSON.parse(writeEffect(effectOf(STRANDS, { emission: { from: 'g' } }))) as Record<string, unknown>;
const many = <T>(n: number, one: (k: number) => T): T[] => Array.from({ length: n }, (_, k) => one(k));
const reads = (more: object): boolean => readEffect({ ...file(), ...more }).ok;
const word = (n: number) => 'w'.repeat(n);

const dial = (k: number) => ({ id: `d${k}`, strand: 'g', input: 'scale' });
const key = (k: number) => ({ time: k, value: k, ease: 'linear' });
const one = (d: object) => ({ dials: [{ ...dial(0), ...d }] });
const port = (k: number) => ({ id: `p${k}`, name: 'Port', kind: '1' });
const motif = (more: object, k = 0) => ({ id: `m${k}`, revision: 1, name: 'Run', inputs: [], outputs: [], strands: [], ...more });
const input = (value: unknown) => ({ strands: [{ ...STRANDS[0], inputs: { scale: { value } } }, STRANDS[1]] });
const stops = (n: number) => ({
  stops: many(n, (k) => ({ at: k / n, rgb: [0, 0, 0] })),
  space: 'linear',
  interpolation: 'linear',
});
const asset = (more: object = {}) => ({
  sha256: 'a'.repeat(64),
  name: 'rock.png',
  type: 'image/png',
  colour: 'srgb',
  size: [4, 4],
  ...more,
});
const finish = (more: object) => ({ finish: more });

/** How many, or how much, is the most; and a file with so many. */
const MOST: [string, number, (n: number) => object][] = [
  ['tags', 32, (n) => ({ tags: many(n, (k) => `tag ${k}`) })],
  ['letters of a tag', 40, (n) => ({ tags: [word(n)] })],
  ['letters of a name', 120, (n) => ({ name: word(n) })],
  ['letters of an id', 64, (n) => ({ id: word(n) })],
  ['letters of a note', 20000, (n) => ({ note: word(n) })],
  ['seconds of a loop', 3600, (n) => ({ loop: n })],
  ['frames a second', 240, (n) => ({ fps: n })],
  ['sections', 500, (n) => ({ sections: many(n, () => ({ title: 'Run', first: 'g' })) })],
  ['letters of a section', 80, (n) => ({ sections: [{ title: word(n), first: 'g' }] })],
  ['letters of its note', 4000, (n) => ({ sections: [{ title: 'Run', first: 'g', note: word(n) }] })],
  ['letters of its tint', 32, (n) => ({ sections: [{ title: 'Run', first: 'g', tint: word(n) }] })],
  ['dials', 500, (n) => ({ dials: many(n, dial) })],
  ['letters of a label', 80, (n) => one({ label: word(n) })],
  ['letters of a unit', 16, (n) => one({ unit: word(n) })],
  ['letters of a group', 80, (n) => one({ group: word(n) })],
  ['variants', 100, (n) => ({ variants: many(n, (k) => ({ id: `v${k}`, name: 'Dim', values: {} })) })],
  ['letters of a variant', 80, (n) => ({ variants: [{ id: 'v', name: word(n), values: {} }] })],
  ['cues', 100, (n) => ({ dials: [dial(0)], cues: many(n, () => ({ dial: 'd0', keys: [key(0)] })) })],
  ['keys of a cue', 256, (n) => ({ dials: [dial(0)], cues: [{ dial: 'd0', keys: many(n, key) }] })],
  ['triggers', 32, (n) => ({ triggers: many(n, (k) => ({ id: `t${k}`, name: 'Hit', at: [], duration: 1 })) })],
  ['times of a trigger', 256, (n) => ({ triggers: [{ id: 't', name: 'Hit', at: many(n, (k) => k), duration: 1 }] })],
  ['letters of a trigger', 80, (n) => ({ triggers: [{ id: 't', name: word(n), at: [], duration: 1 }] })],
  ['motifs', 100, (n) => ({ motifs: many(n, (k) => motif({}, k)) })],
  ['letters of a motif', 80, (n) => ({ motifs: [motif({ name: word(n) })] })],
  ['inputs of a motif', 32, (n) => ({ motifs: [motif({ inputs: many(n, port) })] })],
  ['outputs of a motif', 32, (n) => ({ motifs: [motif({ outputs: many(n, port) })] })],
  ['shared dials', 200, (n) => ({ shared: many(n, (k) => ({ id: `s${k}`, name: 'Pulse', value: 1 })) })],
  ['letters of a shared dial', 80, (n) => ({ shared: [{ id: 's', name: word(n), value: 1 }] })],
  ['letters of a home', 64, (n) => ({ home: { stage: word(n), prop: 'p', viewpoint: 'v' } })],
  ['stops of a ramp', 32, (n) => ({ strands: [STRANDS[0], { ...STRANDS[1], inputs: { stops: { value: stops(n) } } }] })],
  ['numbers of a vector', 4, (n) => input(many(n, () => 1))],
  ['letters of a written text', 2000, (n) => input({ text: word(n) })],
  ['keys of a curve', 64, (n) => input({ keys: many(n, (k) => ({ at: k, value: k, ease: 'smooth' })) })],
  ['letters of a strand', 80, (n) => ({ strands: [{ ...STRANDS[0], name: word(n) }, STRANDS[1]] })],
  ['letters of its note', 4000, (n) => ({ strands: [{ ...STRANDS[0], note: word(n) }, STRANDS[1]] })],
  ['letters of an asset', 200, (n) => ({ assets: { a: asset({ name: word(n) }) } })],
  ['letters of its type', 100, (n) => ({ assets: { a: asset({ type: word(n) }) } })],
  ['sides of an asset', 3, (n) => ({ assets: { a: asset({ size: many(n, () => 4) }) } })],
  ['order of drawing', 1000, (n) => finish({ order: n })],
  ['cut-off', 1, (n) => finish({ alphaCutoff: n })],
  ['place along an ease', 1, (n) => ({ dials: [dial(0)], cues: [{ dial: 'd0', keys: [{ ...key(0), ease: [n, 0, 0, 1] }] }] })],
];

test.each(MOST)('%s: %d and no more', (_, most, more) => {
  const read = readEffect({ ...file(), ...more(most) });
  expect(read.ok ? [] : read.problems).toEqual([]);
  expect(reads(more(most + 1))).toBe(false);
});

/** And at least so much. */
const LEAST: [string, number, (n: number) => object][] = [
  ['frames a second', 1, (n) => ({ fps: n })],
  ['letters of a name', 1, (n) => ({ name: word(n) })],
  ['letters of an id', 1, (n) => ({ id: word(n) })],
  ['letters of a tag', 1, (n) => ({ tags: [word(n)] })],
  ['letters of a strand', 1, (n) => ({ strands: [{ ...STRANDS[0], name: word(n) }, STRANDS[1]] })],
  ['letters of a variant', 1, (n) => ({ variants: [{ id: 'v', name: word(n), values: {} }] })],
  ['letters of a shared dial', 1, (n) => ({ shared: [{ id: 's', name: word(n), value: 1 }] })],
  ['keys of a cue', 1, (n) => ({ dials: [dial(0)], cues: [{ dial: 'd0', keys: many(n, key) }] })],
  ['stops of a ramp', 1, (n) => ({ strands: [STRANDS[0], { ...STRANDS[1], inputs: { stops: { value: stops(n) } } }] })],
  ['keys of a curve', 1, (n) => input({ keys: many(n, (k) => ({ at: k, value: k, ease: 'smooth' })) })],
  ['numbers of a vector', 2, (n) => input(many(n, () => 1))],
  ['revision of a motif', 1, (n) => ({ motifs: [motif({ revision: n })] })],
  ['seconds of a trigger', 0, (n) => ({ triggers: [{ id: 't', name: 'Hit', at: [], duration: n }] })],
  ['order of drawing', -1000, (n) => finish({ order: n })],
  ['cut-off', 0, (n) => finish({ alphaCutoff: n })],
];

test.each(LEAST)('%s: %d and no less', (_, least, more) => {
  const read = readEffect({ ...file(), ...more(least) });
  expect(read.ok ? [] : read.problems).toEqual([]);
  expect(reads(more(least - 1))).toBe(false);
});

test('a loop is longer than nothing', () => {
  expect([reads({ loop: 0 }), reads({ loop: 1e-3 })]).toEqual([false, true]);
});

test(`a sheet of ${MAX_STRANDS} strands and no more; a file of 4 MB and no more`, () => {
  const strands = (n: number) => many(n, (k) => ({ id: `s${k}`, name: 'Place', op: 'uv' }));
  const sheet = (n: number) => ({ strands: strands(n), outputs: {} });
  expect([reads(sheet(MAX_STRANDS)), reads(sheet(MAX_STRANDS + 1))]).toEqual([true, false]);
  const text = (bytes: number) => {
    const bare = JSON.stringify({ ...file(), extra: { a: '' } });
    return JSON.stringify({ ...file(), extra: { a: word(bytes - bare.length) } });
  };
  expect(readEffectText(text(4 * 1024 * 1024)).ok).toBe(true);
  expect(readEffectText(text(4 * 1024 * 1024 + 1)).ok).toBe(false);
});
