import { readFileSync, readdirSync } from 'node:fs';
import fc from 'fast-check';
import { produce } from 'immer';
import { constructSheet, effectOf } from '../../../tests/fixtures/sheets.js';
import { readAt, readerOf } from '../../../tests/fixtures/read.js';
import { LEAVES, LEAF_NAMES } from '../ir/leaves.js';
import { Lineage, lower } from '../lower/lower.js';
import { paramValues } from '../lower/params.js';
import { kindOfLink } from '../lower/program.js';
import { readCost } from '../analysis/cost.js';
import { scalarise } from '../passes/scalarise.js';
import { evaluate } from '../targets/reference.js';
import { addDial, setInput } from './edits.js';
import { NOTHING_HANDED, changeMotif, freshUse, takeMotif, unfoldMotif } from './motifEdits.js';
import { NoMotif, makeMotif, reviseMotif } from './motifMaking.js';
import { readMotif } from './motifFile.js';
import { flat, inputsOf, motifOf, outputsOf, usesOf } from './motifs.js';
import { readEffect } from './read.js';
import { copyRun, inOrder, pasteRun, readRun, writeRun } from './runs.js';
import { emptyEffect, isLink, strandsOf, type Effect, type Motif, type Strand } from './schema.js';
import { skeletonOf } from './skeleton.js';
import { withVariant } from './variant.js';
import { writeEffect } from './write.js';

const RUNS = process.env.WISPEN_DEEP === undefined ? 60 : 2000;
const ID = '0190a000-0000-7000-8000-00000000c001';
const sheets = [3, 17, 40, 71, 102].map((seed) => constructSheet(seed, { strands: 14 }));
const someOf = fc.constantFrom(...sheets).chain((sheet) =>
  fc.record({
    sheet: fc.constant(sheet),
    picks: fc.subarray(
      strandsOf(sheet).map((s) => s.id),
      { minLength: 1, maxLength: 7 },
    ),
  }),
);
const valid = (effect: Effect) => {
  const read = readEffect(JSON.parse(JSON.stringify(effect)));
  expect(read.ok ? [] : read.problems).toEqual([]);
};
const kinds = (effect: Effect) => {
  const program = lower(effect, { build: 'live' });
  return (link: Parameters<typeof kindOfLink>[1]) => kindOfLink(program, link);
};

/** What strands and outputs come to at one place. */
function values(effect: Effect, ids: readonly string[]): Record<string, number[]> {
  const program = lower(effect, { build: 'live' });
  const roots = new Map([
    ...ids.map((id) => [id, program.strands.get(id)!.value.node] as const),
    ...[...program.outputs].map(([name, port]) => [`= ${name}`, port.node] as const),
  ]);
  const leaves = Object.fromEntries(LEAF_NAMES.map((l) => [l, l === 'time' ? [0.7] : LEAVES[l].fallback]));
  const results = evaluate(scalarise([...roots.values()]), { params: paramValues(program.params, effect), leaves });
  return Object.fromEntries([...roots.keys()].map((name, k) => [name, results[k]!]));
}

/** @returns null where these strands can be no motif */
function made(sheet: Effect, picks: readonly string[]): { after: Effect; use: string } | null {
  let use = '';
  try {
    const after = produce(sheet, (d) => void (use = makeMotif(d, { ids: picks, id: ID, name: 'Group', kindOf: kinds(sheet) })));
    return { after, use };
  } catch (error) {
    if (!(error instanceof NoMotif)) throw error;
    expect(error.message).toMatch(/\.$/);
    return null;
  }
}

test('strands that become one, and are unfolded again: all else comes to the same numbers', () => {
  let many = 0;
  fc.assert(
    fc.property(someOf, ({ sheet, picks }) => {
      const result = made(sheet, picks);
      fc.pre(result !== null);
      many++;
      const { after, use } = result!;
      valid(after);
      const others = strandsOf(sheet).flatMap((s) => (picks.includes(s.id) ? [] : [s.id]));
      expect(values(after, others)).toEqual(values(sheet, others));
      expect(strandsOf(after)).toHaveLength(strandsOf(sheet).length - inOrder(sheet, picks).length + 1);
      const unfolded = produce(after, (d) => void unfoldMotif(d, { id: use }));
      valid(unfolded);
      expect(unfolded.motifs).toEqual([]);
      expect(values(unfolded, others)).toEqual(values(sheet, others));
      // A file with it comes back byte for byte.
      const read = readEffect(JSON.parse(writeEffect(after)));
      expect(read.ok && writeEffect(read.effect)).toBe(writeEffect(after));
    }),
    { seed: 20261129, numRuns: RUNS },
  );
  expect(many).toBeGreaterThan(RUNS / 2);
});

const strand = (id: string, op: string, inputs: Strand['inputs'] = {}): Strand => ({ id, name: id.toUpperCase(), op, inputs });
const contact = () =>
  effectOf(
    [
      strand('t', 'time'),
      strand('a', 'number', { in: { value: 3 } }),
      strand('b', 'multiply', { a: { from: 'a' }, b: { value: 2 } }),
      strand('c', 'add', { a: { from: 'b' }, b: { from: 't', port: 'phase' } }),
      strand('d', 'multiply', { a: { from: 'c' }, b: { value: 10 } }),
    ],
    { roughness: { from: 'c' } },
    {
      loop: 4,
      dials: [{ id: 'd1', strand: 'b', input: 'b', label: 'Strength', soft: [0, 8], unit: 'x' }],
      variants: [{ id: 'v', name: 'V', values: { d1: 5 } }],
    },
  );
const grouped = () => made(contact(), ['b', 'c'])!;

test('dials of strands within become inputs with their names, ranges and values, and are the use’s own', () => {
  const { after, use } = grouped();
  const [motif] = after.motifs as [Motif];
  expect(motif.inputs).toEqual([
    { id: 'in1', name: 'A', kind: '1' },
    { id: 'in2', name: 'Strength', kind: '1', default: 2, soft: [0, 8], unit: 'x' },
    { id: 'in3', name: 'T phase', kind: '1' },
  ]);
  expect(motif.outputs).toEqual([{ id: 'out1', name: 'C', kind: '1', from: { from: 'c' } }]);
  expect(after.dials).toMatchObject([{ id: 'd1', strand: use, input: 'in2', label: 'Strength' }]);
  expect(readAt(after, 'd', { time: [2], loop: [4] })).toEqual([65]);
  expect(readAt(withVariant(after, 'v'), 'd', { time: [2], loop: [4] })).toEqual([155]);
  // A turned dial is only another number.
  expect(skeletonOf(withVariant(after, 'v'))).toBe(skeletonOf(after));
  const unfolded = produce(after, (d) => void unfoldMotif(d, { id: use }));
  expect(unfolded.dials).toMatchObject([{ id: 'd1', input: 'b', label: 'Strength' }]);
  expect(readAt(withVariant(unfolded, 'v'), 'd', { time: [2], loop: [4] })).toEqual([155]);
});

test('used twice, made again once: both follow, by the names of inputs and outputs', () => {
  const { after, use } = grouped();
  const twice = produce(after, (d) => {
    const motif = d.motifs[0]!;
    strandsOf(d).splice(2, 0, freshUse(motif, 'again', 'Again'));
    setInput(d, { id: 'again', name: 'in1', input: { value: 7 } });
    setInput(d, { id: 'd', name: 'b', input: { from: 'again' } });
  });
  valid(twice);
  expect(readAt(twice, 'again')).toEqual([14]);
  expect(usesOf(twice, ID)).toHaveLength(2);
  const revised = produce(twice, (d) => {
    const { ids, handed } = unfoldMotif(d, { id: use });
    const sum = strandsOf(d).find((s) => s.op === 'add')!;
    sum.inputs!.b = { value: 1000 };
    reviseMotif(d, { ids, handed, before: twice.motifs[0]!, kindOf: kinds(twice) });
  });
  valid(revised);
  expect(revised.motifs[0]).toMatchObject({
    revision: 2,
    inputs: [
      { id: 'in1', name: 'A' },
      { id: 'in2', name: 'Strength' },
    ],
  });
  expect(readAt(revised, 'again')).toEqual([1014]);
  // What it has no more is let go of where it was given.
  expect(Object.keys(strandsOf(revised).find((s) => s.id === 'again')!.inputs!)).toEqual(['motif', 'in1', 'in2']);
});

test('a motif within a motif; one that would use itself is refused with a sentence', () => {
  const { after, use } = grouped();
  let outer = '';
  const nested = produce(
    after,
    (d) => void (outer = makeMotif(d, { ids: [use, 'd'], id: `${ID.slice(0, -1)}2`, name: 'Outer', kindOf: kinds(after) })),
  );
  valid(nested);
  expect(values(nested, ['a'])).toEqual(values(after, ['a']));
  expect(readAt(nested, outer, { time: [2], loop: [4] })).toEqual([6.5]);
  expect(() =>
    produce(nested, (d) => void reviseMotif(d, { ids: [outer], before: nested.motifs[0]!, kindOf: kinds(nested) })),
  ).toThrow('Group would use itself');
  const round = structuredClone(after);
  strandsOf(round.motifs[0] as unknown as Effect).push(freshUse(round.motifs[0]!, 'self', 'Self'));
  const read = readEffect(round);
  expect(read.ok ? [] : read.problems.map((p) => p.message)).toEqual([
    'The motif Group: it uses itself: Group, which uses Group.',
  ]);
  // Even so nothing hangs.
  expect(flat(round).strands.length).toBeLessThan(20);
});

test.each<[string, (e: Effect) => void, RegExp]>([
  ['a use of what is gone', (e) => void (e.motifs = []), /uses the motif .*, which the file does not have/],
  [
    'a link to nothing',
    (e) => void ((e.motifs[0]!.strands[0]!.inputs as Record<string, unknown>).a = { from: 'x' }),
    /B reads x for a, which is neither/,
  ],
  [
    'an output of nothing',
    (e) => void (e.motifs[0]!.outputs[0]!.from = { from: 'x' }),
    /its output C gives x, which is not there/,
  ],
  ['two of one id', (e) => void e.motifs.push(structuredClone(e.motifs[0]!)), /another motif has the id/],
  ['two strands of one id', (e) => void (e.motifs[0]!.strands[1]!.id = 'b'), /two of its strands or inputs have the id b/],
])('a file with %s is refused with a sentence', (_, spoil, says) => {
  const effect = structuredClone(grouped().after);
  spoil(effect);
  const read = readEffect(effect);
  expect(read.ok ? '' : read.problems.map((p) => p.message).join(' ')).toMatch(says);
});

test('strands that another one stands between, and more inputs than there may be, are no motif', () => {
  const between = contact();
  expect(() => makeMotif(structuredClone(between), { ids: ['b', 'd'], id: ID, name: 'G', kindOf: kinds(between) })).toThrow(
    'C stands between them: it reads one of them and is read by D. Choose it too.',
  );
  const wide = effectOf([
    ...Array.from({ length: 14 }, (_, k) => strand(`n${k}`, 'number', { in: { value: k } })),
    ...Array.from({ length: 7 }, (_, k) => strand(`s${k}`, 'add', { a: { from: `n${k}` }, b: { from: `n${k + 7}` } })),
  ]);
  expect(() =>
    makeMotif(structuredClone(wide), { ids: ['s0', 's1', 's2', 's3', 's4', 's5', 's6'], id: ID, name: 'G', kindOf: kinds(wide) }),
  ).toThrow(/at most 12 inputs/);
});

test('names and a note of its own; what is within is told where it is used, and costs there', () => {
  const { after, use } = grouped();
  const named = produce(after, (d) =>
    changeMotif(d, { id: ID, name: ' Line ', note: 'Why', port: { id: 'in1', name: 'Gap', soft: [0, 4] } }),
  );
  expect(named.motifs[0]).toMatchObject({
    name: 'Line',
    note: 'Why',
    revision: 2,
    inputs: [{ name: 'Gap', soft: [0, 4] }, {}, {}],
  });
  const wrong = produce(after, (d) => setInput(d, { id: use, name: 'in1', input: undefined }));
  expect(readAt(wrong, 'd')).toEqual([0]);
  const bad = produce(after, (d) => {
    strandsOf(d.motifs[0] as unknown as Effect).push(strand('f', 'formula', { formula: { value: { text: '1 +' } } }));
  });
  expect(lower(bad, { build: 'live' }).problems.map((p) => [p.strand, p.message.split(':')[0]])).toEqual([[use, 'Group, F']]);
  const cost = readCost(lower(after, { build: 'live' }));
  expect([...cost.strands.keys()].every((id) => !id.includes('/'))).toBe(true);
});

test('inputs and outputs with ids of their own stand where there is room', () => {
  const effect = structuredClone(grouped().after);
  const [motif] = effect.motifs as [Motif];
  const [gap, inside] = [motif.inputs[0]!, strandsOf(motif as unknown as Effect)];
  gap.id = 'gap';
  (inside[0]!.inputs as Record<string, unknown>).a = { from: 'gap' };
  motif.outputs = [{ id: 'c', name: 'C', kind: '1' }];
  valid(effect);
  expect(readAt(effect, 'd', { time: [2], loop: [4] })).toEqual([65]);
});

test('lowered again after an edit it is what it is when lowered anew', () => {
  const lineage = new Lineage();
  const { after, use } = grouped();
  lineage.lower(after);
  const next = produce(after, (d) => {
    addDial(d, { dial: { id: 'd9', strand: use, input: 'in1' } });
    strandsOf(d.motifs[0] as unknown as Effect)[0]!.inputs!.a = { value: 9 };
  });
  const again = lineage.lower(next);
  const anew = lower(next, { build: 'live' });
  expect([...again.strands.keys()]).toEqual([...anew.strands.keys()]);
  const at = (p: typeof anew) =>
    evaluate(scalarise([p.strands.get('d')!.value.node]), {
      params: paramValues(p.params, next),
      leaves: Object.fromEntries(LEAF_NAMES.map((l) => [l, LEAVES[l].fallback])),
    })[0];
  expect(at(again)).toEqual(at(anew));
});

test('uses that are copied bring their motif into another effect, once', () => {
  const { after, use } = grouped();
  const run = readRun(writeRun(copyRun(after, [use])));
  const into = produce(emptyEffect(ID, 'Other'), (d) => {
    if (!run.ok) throw new Error(run.why);
    pasteRun(d, { run: run.run, after: null });
    pasteRun(d, { run: run.run, after: null });
  });
  valid(into);
  expect(into.motifs).toEqual(after.motifs);
  expect(usesOf(into, ID)).toHaveLength(2);
});

test('another revision that is taken keeps what it still has', () => {
  const { after, use } = grouped();
  const motif = structuredClone(after.motifs[0]!);
  motif.revision = 5;
  motif.inputs = [motif.inputs[1]!, { id: 'in4', name: 'More', kind: '1', default: 6 }];
  (strandsOf(motif as unknown as Effect)[0]!.inputs as Record<string, unknown>).a = { from: 'in4' };
  (strandsOf(motif as unknown as Effect)[1]!.inputs as Record<string, unknown>).b = { value: 0 };
  const taken = produce(after, (d) => takeMotif(d, { motif }));
  valid(taken);
  const { inputs } = strandsOf(taken).find((s) => s.id === use)!;
  expect(Object.entries(inputs!).map(([name, i]) => [name, isLink(i) ? i : i!.value])).toEqual([
    ['motif', { text: ID }],
    ['in2', 2],
    ['in4', 6],
  ]);
  expect(readAt(taken, 'd')).toEqual([120]);
  expect(
    motifOf(
      taken,
      strandsOf(taken).find((s) => s.id === use)!,
    )!.revision,
  ).toBe(5);
  expect(emptyEffect(ID, 'E').motifs).toEqual([]);
});

// Invented data of the demo: that each is whole, does something, and says what it is for.
describe('the motifs that ship', () => {
  const folder = new URL('../../../demo/motifs/', import.meta.url);
  const shipped = readdirSync(folder).map((name) => JSON.parse(readFileSync(new URL(name, folder), 'utf8')) as unknown);
  test.each(shipped.map((m) => [(m as Motif).name, m] as const))('%s', (_, parsed) => {
    const read = readMotif(parsed);
    expect(read.ok ? [] : read.problems).toEqual([]);
    if (!read.ok) return;
    const { motif } = read;
    expect(motif.note!.length).toBeGreaterThan(60);
    const effect = { ...emptyEffect(ID, 'E'), motifs: [motif], strands: [freshUse(motif, 'use', 'Use')] as Effect['strands'] };
    valid(effect);
    const program = lower(effect, { build: 'live' });
    expect(program.problems).toEqual([]);
    const ports = program.strands.get('use')!.ports;
    for (const [place, output] of outputsOf(motif)) expect([output.name, ports[place]!.kind]).toEqual([output.name, output.kind]);
    for (const [place, input] of inputsOf(motif)) {
      expect(input.name).toMatch(/^[A-Z]/);
      // Each input does something.
      const turned = produce(effect, (d) =>
        setInput(d, {
          id: 'use',
          name: place,
          input: { value: input.kind === 'rgb' ? { rgb: [0.3, 0.9, 0.1], intensity: 2, unit: 'factor' } : 0.77 },
        }),
      );
      const places = [0.1, 0.3, 0.5, 0.7, 0.9].map((x) => ({
        ...{ time: [0.4], loop: [4], position: [x, 0.2, 0.43], worldPosition: [0.6, x, 0.2], uv: [x, 0.7], view: [x, 0.3, 0.8] },
        ...{ depthGap: [x / 4], depthGapDown: [x], uvDx: [0.01, 0], uvDy: [0, 0.01] },
        ...{ worldPositionDx: [0.02, 0, 0], worldPositionDy: [0, 0.02, 0] },
      }));
      const all = (e: Effect) => [...outputsOf(motif).keys()].map((port) => places.map(readerOf(e, 'use', port)));
      expect([input.name, all(turned)]).not.toEqual([input.name, all(effect)]);
    }
  });
});

test('an input in degrees is in degrees, given or dialled', () => {
  const motif: Motif = {
    ...{ id: ID, revision: 1, name: 'Turn' },
    inputs: [{ id: 'in1', name: 'Angle', kind: '1', default: 90, unit: 'deg' }],
    outputs: [{ id: 'out1', name: 'Sine', kind: '1', from: { from: 's' } }],
    strands: [strand('s', 'sin', { in: { from: 'in1' } })] as Motif['strands'],
  };
  const effect = { ...emptyEffect(ID, 'E'), motifs: [motif], strands: [freshUse(motif, 'use', 'Use')] as Effect['strands'] };
  expect(readAt(effect, 'use')[0]).toBeCloseTo(1, 6);
});

test('unfolded and put back as it was, a motif is as it was: its inputs, their names, what each use is given', () => {
  fc.assert(
    fc.property(someOf, ({ sheet, picks }) => {
      const result = made(sheet, picks);
      fc.pre(result !== null);
      const { after, use } = result!;
      const [before] = after.motifs as [Motif];
      let open = { ids: [] as string[], handed: NOTHING_HANDED };
      const unfolded = produce(after, (d) => void (open = unfoldMotif(d, { id: use })));
      const back = produce(unfolded, (d) => void reviseMotif(d, { ...open, before, kindOf: kinds(unfolded) }));
      valid(back);
      const now = back.motifs[0]!;
      expect(now.inputs).toEqual(before.inputs);
      expect(now.outputs.map((o) => [o.id, o.kind])).toEqual(before.outputs.map((o) => [o.id, o.kind]));
      const givenTo = (e: Effect) => strandsOf(e).find((s) => motifOf(e, s))!.inputs;
      expect(givenTo(back)).toEqual(givenTo(after));
      const others = strandsOf(sheet).flatMap((s) => (picks.includes(s.id) ? [] : [s.id]));
      expect(values(back, others)).toEqual(values(after, others));
    }),
    { seed: 20261130, numRuns: RUNS },
  );
});
