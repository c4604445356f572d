/** The examples of docs/examples do what they say. */
import { spawnSync } from 'node:child_process';
import { readFileSync, readdirSync } from 'node:fs';
import { countOperations } from '../docs/examples/countOperations.js';
import { readEffectText } from '../src/core/effect/read.js';
import { ORGANIC } from '../bench/sheets.js';
import { effectOf } from './fixtures/sheets.js';

test('operations are counted as one would by hand', () => {
  // (a * a + 3) / a, and a root: a product, a sum, a quotient, a root.
  const sheet = effectOf(
    [
      { id: 'u', name: 'U', op: 'uv' },
      {
        id: 'f',
        name: 'F',
        op: 'formula',
        inputs: { a: { from: 'u', part: 'x' }, formula: { value: { text: '(a * a + 3.0) / a' } } },
      },
      { id: 'r', name: 'R', op: 'sqrt', inputs: { in: { from: 'f' } } },
    ],
    { opacity: { from: 'r' } },
  );
  expect(new Map([...countOperations(sheet)].sort())).toEqual(
    new Map([
      ['add', 1],
      ['div', 1],
      ['mul', 1],
      ['sqrt', 1],
    ]),
  );
  // A noise hashes its corners: whole numbers are multiplied, as often as its kernel is called.
  expect(countOperations(ORGANIC).get('imul')!).toBeGreaterThan(2);
});

test('every starter is counted, and the example runs by itself in under 60 lines', () => {
  const folder = 'demo/starters';
  for (const file of readdirSync(folder).filter((f) => f.endsWith('.wispen.json'))) {
    const read = readEffectText(readFileSync(`${folder}/${file}`, 'utf8'));
    expect(read.ok && [...countOperations(read.effect).values()].reduce((a, b) => a + b, 0)).toBeGreaterThan(20);
  }
  const script = 'docs/examples/countOperations.ts';
  expect(readFileSync(script, 'utf8').split('\n').length).toBeLessThan(60);
  const env = { ...process.env, NODE_OPTIONS: '' };
  const { stdout, status } = spawnSync(process.execPath, ['--import', 'tsx', script, `${folder}/failing-tube.wispen.json`], {
    encoding: 'utf8',
    env,
  });
  expect([status, /^ +\d+ mul$/m.test(stdout)]).toEqual([0, true]);
});
