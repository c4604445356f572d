/** The text that is handed to a colleague: of every starter and every motif that ships, with every number in words. */
import { readFileSync, readdirSync } from 'node:fs';
import { effectOf } from '../../../tests/fixtures/sheets.js';
import { STARTERS, starter } from '../../../tests/fixtures/starters.js';
import { freshUse, takeMotif } from '../effect/motifEdits.js';
import { readMotif } from '../effect/motifFile.js';
import type { Effect, Strand } from '../effect/schema.js';
import { shareText } from './shareText.js';

const textOf = (effect: Effect): string => {
  const shared = shareText(effect);
  if (!shared.ok) throw new Error(shared.why);
  return shared.text;
};

test.each(STARTERS)('%s', (name) => {
  const text = textOf(starter(name));
  expect(text).toMatch(/#version 300 es[\s\S]*#version 300 es/);
  expect(text).not.toMatch(/undefined|NaN/);
});

const folder = 'demo/motifs';
test.each(readdirSync(folder))('a use of %s, with a dial of its input', (file) => {
  const read = readMotif(JSON.parse(readFileSync(`${folder}/${file}`, 'utf8')));
  if (!read.ok) throw new Error(read.problems[0]!.message);
  const effect = structuredClone(effectOf([], {}));
  takeMotif(effect, { motif: read.motif });
  (effect.strands as Strand[]).push(
    freshUse(
      effect.motifs.find((m) => m.id === read.motif.id)!,
      'use',
      'Use',
    ),
  );
  effect.outputs = { emission: { from: 'use' } };
  const [input] = read.motif.inputs;
  effect.dials = input ? [{ id: 'd', strand: 'use', input: 'in1', label: 'Turned here' }] : [];
  const text = textOf(effect);
  expect(text).not.toMatch(/undefined|NaN/);
  expect(text).toContain('Use, ');
});
