/** A sheet that is lowered as it is edited is the sheet lowered by itself; and no more of it is lowered than has changed. */
import fc from 'fast-check';
import { produce } from 'immer';
import { EFFECT, steps } from '../../../tests/fixtures/edits.js';
import { ASSETS, PICTURES, constructSheet, effectOf } from '../../../tests/fixtures/sheets.js';
import { setInput, setOption } from '../effect/edits.js';
import type { Effect, Strand } from '../effect/schema.js';
import { LEAVES, LEAF_NAMES } from '../ir/leaves.js';
import { scalarise } from '../passes/scalarise.js';
import { strandRoots } from '../targets/evaluate.js';
import { emitGlsl } from '../targets/glsl.js';
import { evaluate } from '../targets/reference.js';
import { Lineage, lower, type Program } from './lower.js';
import { inOrder, paramValues } from './params.js';

const RUNS = process.env.WISPEN_DEEP === undefined ? 60 : 3000;
const leaves = {
  ...Object.fromEntries(LEAF_NAMES.map((l) => [l, LEAVES[l].fallback])),
  ...{ time: [0.7], loop: [4], uv: [0.3, 0.6], position: [0.2, -0.4, 0.7], timeRest: undefined },
} as never;

const numbers = (program: Program, effect: Effect) =>
  evaluate(scalarise(strandRoots(program)), { params: paramValues(program.params, effect), leaves, pictures: PICTURES });

test('any run of edits: the same values, kinds, problems and live numbers, in the same order', () => {
  const sheets = [3, 17, 40, 71, 102].map((seed) => constructSheet(seed, { strands: 12 }));
  let edits = 0;
  fc.assert(
    fc.property(fc.constantFrom(...sheets), steps(Object.keys(EFFECT)), (sheet, list) => {
      const lineage = new Lineage();
      let effect = { ...sheet, ...ASSETS } as unknown as Effect;
      lineage.lower(effect);
      for (const [name, a, b] of list) {
        effect = produce(effect, (d) => EFFECT[name]!(d as Effect, a, b));
        const [kept, fresh] = [lineage.lower(effect), lower(effect, { build: 'live' })];
        edits++;
        const kinds = (p: Program) =>
          [...p.strands].map(([id, s]) => [id, s.name, Object.entries(s.ports).map(([k, v]) => [k, v.kind])]);
        expect([name, kinds(kept)]).toEqual([name, kinds(fresh)]);
        expect([...kept.outputs.keys()]).toEqual([...fresh.outputs.keys()]);
        expect(kept.problems).toEqual(fresh.problems);
        // A worker that lowers the sheet by itself is sent these.
        expect(inOrder(kept.params)).toEqual(inOrder(fresh.params));
        expect([...paramValues(inOrder(kept.params), effect)]).toEqual([...paramValues(fresh.params, effect)]);
        expect(numbers(kept, effect)).toEqual(numbers(fresh, effect));
        kept.params.forEach(({ at, width }, k) =>
          expect(kept.paramBounds.slice(at, at + width)).toEqual(
            fresh.paramBounds.slice(fresh.params[k]!.at, fresh.params[k]!.at + width),
          ),
        );
      }
    }),
    { seed: 20261128, numRuns: RUNS },
  );
  expect(edits).toBeGreaterThan(RUNS);
});

/** A tree of waves: w0 reads the time, each other one half of its way up. */
const COUNT = 200;
const tree = effectOf([
  { id: 't', name: 'Time', op: 'time' },
  ...Array.from({ length: COUNT }, (_, k): Strand => ({
    ...{ id: `w${k}`, name: `Wave ${k}`, op: 'wave' },
    inputs: { time: { from: k === 0 ? 't' : `w${(k - 1) >> 1}` }, rate: { value: 1 + k } },
  })),
]);

test('what an edit changes, and what reads it, is made anew; nothing else is', () => {
  const lineage = new Lineage();
  const first = lineage.lower(tree);
  const per = first.builder.nodes.length / COUNT;
  const nodes = () => first.builder.nodes.length;
  const before = nodes();
  // A leaf of the tree: itself.
  const leaf = produce(tree, (d) => setOption(d as Effect, { id: `w${COUNT - 1}`, name: 'shape', value: 'square' }));
  const second = lineage.lower(leaf);
  expect(second.builder).toBe(first.builder);
  expect(nodes() - before).toBeLessThan(3 * per);
  expect(nodes()).toBeGreaterThan(before);
  // A third of the way down: the strands under it, about a sixteenth of all.
  const middle = produce(leaf, (d) => setInput(d as Effect, { id: 'w15', name: 'phase', input: { from: 't' } }));
  const at = nodes();
  const third = lineage.lower(middle);
  expect(nodes() - at).toBeLessThan((COUNT / 8) * per);
  for (const [id, s] of third.strands)
    if (!/^w(15|31|32|6\d|12[789]|13\d)$/.test(id)) expect(s.ports).toBe(second.strands.get(id)!.ports);
  // And back: everything is there.
  const back = nodes();
  lineage.lower(leaf);
  expect(nodes()).toBe(back);
});

test('what is left over of earlier sheets is let go before it is more than the sheet itself', () => {
  const lineage = new Lineage();
  let effect: Effect = tree;
  const size = lineage.lower(effect).builder.nodes.length;
  let fresh = 0;
  let last = lineage.lower(effect).builder;
  for (let k = 0; k < 60; k++) {
    effect = produce(effect, (d) => setInput(d as Effect, { id: 'w0', name: 'phase', input: { value: [k, 1][k % 2]! } }));
    effect = produce(effect, (d) =>
      setOption(d as Effect, { id: 'w0', name: 'shape', value: ['sine', 'saw', 'square', 'triangle'][k % 4]! }),
    );
    effect = produce(effect, (d) =>
      setInput(d as Effect, { id: 'w1', name: 'delay', input: k % 3 === 0 ? { from: 't' } : { value: 2 } }),
    );
    const { builder } = lineage.lower(effect);
    if (builder !== last) fresh++;
    last = builder;
    // The sheet, as much again, and a little.
    expect(builder.nodes.length).toBeLessThan(3.5 * size + 4096);
    expect(() => emitGlsl(lineage.lower(effect), { hoist: true, naming: 'ids' })).not.toThrow();
  }
  // All states of it are known after a while: nothing has to be let go for ever.
  expect(fresh).toBeLessThan(10);
});
