import { readRun } from '../../../core/effect/runs.js';
import { OPERATORS } from '../../../core/operators/catalogue.js';
import { exampleOf } from '../../../core/operators/examples.js';
import { readEffect } from '../../../core/effect/read.js';
import { exampleText } from './Help.js';

test.each(OPERATORS.map((o) => o.id))('the example of %s is whole, can be pasted', (op) => {
  const strands = exampleOf(op);
  expect(strands.at(-1)!.op).toBe(op);
  const read = readEffect({ format: 'wispen-effect', version: 1, id: 'example', name: 'Example', strands });
  expect(read.ok ? [] : read.problems.map((p) => p.message)).toEqual([]);
  const run = readRun(exampleText(op));
  expect(run.ok ? run.run.strands.map((s) => s.op) : run.why).toEqual(strands.map((s) => s.op));
  expect(run.ok && run.run.outer).toEqual([]);
});
