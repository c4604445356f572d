import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { readStage, writeStage } from './stage.js';

const file = join(dirname(fileURLToPath(import.meta.url)), '../../../demo/stages/dock-passage.wispen-stage.json');
const raw = () =>
  JSON.parse(readFileSync(file, 'utf8')) as Record<string, unknown> & {
    props: Record<string, unknown>[];
    optics: { bloom: Record<string, unknown> };
  };

test('the shipped stage is read, and written the same', () => {
  const result = readStage(raw());
  if (!result.ok) throw new Error(result.problems[0]!.message);
  expect(readStage(JSON.parse(writeStage(result.stage)))).toEqual(result);
});

test.each([
  ['another format', (s: ReturnType<typeof raw>) => (s.format = 'wispen-effect'), /"wispen-stage"/],
  ['a later version', (s) => (s.version = 2), /version 2/],
  ['an unknown field', (s) => (s.sparkle = 1), /sparkle/],
  ['a shape that is not known', (s) => (s.props[0]!.source = { primitive: 'teapot' }), /props\.0\.source/],
  ['a prop of no size', (s) => (s.props[0]!.source = { primitive: 'sphere', radius: 0 }), /radius/],
  ['a bloom that is not a number', (s) => (s.optics.bloom.intensity = 'much'), /optics\.bloom\.intensity/],
  ['no viewpoint', (s) => (s.viewpoints = []), /viewpoints/],
] as [string, (s: ReturnType<typeof raw>) => unknown, RegExp][])('refuses %s with a sentence', (_, change, words) => {
  const stage = raw();
  change(stage);
  const result = readStage(stage);
  expect(result.ok).toBe(false);
  if (!result.ok) {
    expect(result.problems[0]!.message).toMatch(words);
    expect(result.problems[0]!.message).toMatch(/\.$/);
  }
});
