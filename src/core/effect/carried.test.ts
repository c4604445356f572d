/** A motif that looks up a picture takes it along: to the library, to the clipboard, and into another effect. */
import { own } from '../base/wholesome.js';
import { effectOf } from '../../../tests/fixtures/sheets.js';
import { motifAlone, motifWithin } from './carried.js';
import { takeMotif } from './motifEdits.js';
import { readMotif } from './motifFile.js';
import { readEffect } from './read.js';
import { copyRun, pasteRun, readRun, writeRun } from './runs.js';
import type { Effect, Motif } from './schema.js';

const file = (letter: string) => ({
  sha256: letter.repeat(64),
  name: `${letter}.png`,
  type: 'image/png',
  colour: 'data' as const,
  size: [8, 8],
});
const MOTIF: Motif = {
  ...{ id: 'm1', revision: 1, name: 'Etched' },
  inputs: [],
  outputs: [{ id: 'out1', name: 'Etched', kind: 'rgb', from: { from: 'pic' } }],
  strands: [
    { id: 'at', name: 'At', op: 'uv' },
    { id: 'pic', name: 'Picture', op: 'image', inputs: { uv: { from: 'at' }, image: { value: { asset: 'etch' } } } },
  ],
};
const owner = (): Effect =>
  effectOf(
    [{ id: 'use', name: 'Etched', op: 'motif', inputs: { motif: { value: { text: 'm1' } } } }],
    { emission: { from: 'use' } },
    { motifs: [MOTIF], assets: { etch: file('a'), other: file('b') } },
  );
const pictureIn = ({ motifs, assets }: Effect) => {
  const { inputs } = (motifs[0] as Motif).strands[1] as unknown as { inputs: { image: { value: { asset: string } } } };
  return own(assets, inputs.image.value.asset)?.sha256[0];
};

test('by itself it has the files that it names and no others; one that names none is as it was', () => {
  expect(motifAlone(owner(), MOTIF).assets).toEqual({ etch: file('a') });
  const plain = { ...MOTIF, strands: [MOTIF.strands[0]!] };
  expect(motifAlone(owner(), plain)).toBe(plain);
  const read = readMotif(JSON.parse(JSON.stringify({ format: 'wispen-motif', version: 1, ...motifAlone(owner(), MOTIF) })));
  expect(read.ok && read.motif.assets).toEqual({ etch: file('a') });
});

test('within another effect that has the name for something else, it looks up what it did', () => {
  const into = effectOf([], {}, { assets: { etch: file('c') } });
  takeMotif(into, { motif: motifAlone(owner(), MOTIF) });
  expect(pictureIn(into)).toBe('a');
  expect(into.motifs[0]).not.toHaveProperty('assets');
  expect(Object.values(into.assets).map((a) => a.sha256[0])).toEqual(['c', 'a']);
  // Another revision brings nothing twice.
  takeMotif(into, { motif: { ...motifAlone(owner(), MOTIF), revision: 2 } });
  expect([Object.keys(into.assets).length, pictureIn(into)]).toEqual([2, 'a']);
  expect(readEffect(JSON.parse(JSON.stringify(into)))).toMatchObject({ ok: true });
  expect(motifWithin(into, MOTIF)).toEqual(MOTIF);
});

test('on the clipboard too', () => {
  const read = readRun(writeRun(copyRun(owner(), ['use'])));
  if (!read.ok) throw new Error(read.why);
  const into = effectOf([], {}, { assets: { etch: file('c') } });
  pasteRun(into, { run: read.run, after: null });
  expect(pictureIn(into)).toBe('a');
});

describe('a motif that holds another, which looks up a picture, hears a trigger and reads a shared dial', () => {
  const inner: Motif = {
    ...{ id: 'inner', revision: 2, name: 'Inner', inputs: [] },
    outputs: [{ id: 'out1', name: 'Sum', kind: '1', from: { from: 'sum' } }],
    strands: [
      ...MOTIF.strands,
      { id: 'hit', name: 'Since', op: 'ripple', inputs: { trigger: { value: { text: 'hit-id' } } } },
      { id: 'tide', name: 'Tide', op: 'shared', inputs: { shared: { value: { text: 'tide' } } } },
      { id: 'sum', name: 'Sum', op: 'add', inputs: { a: { from: 'hit' }, b: { from: 'tide' } } },
    ],
  };
  const outer: Motif = {
    ...{ id: 'outer', revision: 1, name: 'Outer', inputs: [] },
    outputs: [{ id: 'out1', name: 'Sum', kind: '1', from: { from: 'in' } }],
    strands: [{ id: 'in', name: 'In', op: 'motif', inputs: { motif: { value: { text: 'inner' } } } }],
  };
  const from = effectOf(
    [{ id: 'use', name: 'Use', op: 'motif', inputs: { motif: { value: { text: 'outer' } } } }],
    { emission: { from: 'use' } },
    {
      motifs: [inner, outer],
      assets: { etch: file('a'), other: file('b') },
      triggers: [
        { id: 'hit-id', name: 'Strike', at: [1], duration: 1 },
        { id: 'deaf', name: 'Unheard', at: [], duration: 1 },
      ],
      shared: [
        { id: 'tide', name: 'Tide', value: 0.4 },
        { id: 'swell', name: 'Swell', value: 1 },
      ],
    },
  );
  /** Another effect has the names for other things. */
  const into = () =>
    effectOf(
      [],
      {},
      { shared: [], assets: { etch: file('c') }, triggers: [{ id: 'hit-id', name: 'Other', at: [0], duration: 2 }] },
    );
  const arrived = (effect: Effect) => {
    expect(readEffect(JSON.parse(JSON.stringify(effect)))).toMatchObject({ ok: true });
    const own = effect.motifs.find((m) => m.id === 'inner')!;
    const heard = (own.strands as { inputs?: { trigger?: { value: { text: string } } } }[])[2]!.inputs!.trigger!.value.text;
    expect(pictureIn({ ...effect, motifs: [own] })).toBe('a');
    expect(effect.triggers.find((t) => t.id === heard)?.name).toBe('Strike');
    expect(effect.shared).toEqual([{ id: 'tide', name: 'Tide', value: 0.4 }]);
    expect(effect.motifs.map((m) => m.id).sort()).toEqual(['inner', 'outer']);
    for (const m of effect.motifs)
      for (const key of ['assets', 'motifs', 'shared', 'triggers']) expect(m).not.toHaveProperty(key);
  };
  test('goes to the library and back with all of them, and with nothing else', () => {
    const read = readMotif(JSON.parse(JSON.stringify({ format: 'wispen-motif', version: 1, ...motifAlone(from, outer) })));
    if (!read.ok) throw new Error(read.problems[0]!.message);
    expect(read.motif).toMatchObject({ motifs: [{ id: 'inner' }], shared: [{ id: 'tide' }], triggers: [{ id: 'hit-id' }] });
    expect([read.motif.shared?.length, read.motif.triggers?.length, Object.keys(read.motif.assets ?? {})]).toEqual([
      1,
      1,
      ['etch'],
    ]);
    const effect = into();
    takeMotif(effect, { motif: read.motif });
    arrived(effect);
    // An older one within stays as the effect has it; a newer one is taken.
    const older = { ...read.motif, revision: 3, motifs: [{ ...inner, revision: 1, name: 'Old' }] };
    takeMotif(effect, { motif: older });
    expect(effect.motifs.find((m) => m.id === 'inner')!.name).toBe('Inner');
    takeMotif(effect, { motif: { ...older, motifs: [{ ...inner, revision: 9, name: 'New' }] } });
    expect(effect.motifs.find((m) => m.id === 'inner')!.name).toBe('New');
  });
  test('goes by the clipboard likewise', () => {
    const read = readRun(writeRun(copyRun(from, ['use'])));
    if (!read.ok) throw new Error(read.why);
    const effect = into();
    pasteRun(effect, { run: read.run, after: null });
    arrived(effect);
  });
});
