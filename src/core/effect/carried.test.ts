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
