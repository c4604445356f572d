import { applyPatches, enablePatches, produce, produceWithPatches } from 'immer';
import fc from 'fast-check';
import { constructSheet, effectOf } from '../../../tests/fixtures/sheets.js';
import { lower } from '../lower/lower.js';
import * as edits from './edits.js';
import { readEffect, readEffectText } from './read.js';
import { strandsOf, type Effect, type Strand } from './schema.js';
import { withVariant } from './variant.js';
import { writeEffect, writeRead } from './write.js';

enablePatches();

const SMALL: Strand[] = [
  { id: 't', name: 'Time', op: 'time' },
  { id: 'hum', name: 'Hum', op: 'wave', inputs: { time: { from: 't' }, rate: { value: 2 } } },
  { id: 'lit', name: 'Lit', op: 'clamp', inputs: { in: { from: 'hum' }, low: { value: 0.3 } } },
  { id: 'hue', name: 'Hue', op: 'colour', inputs: { in: { value: { rgb: [0.5, 1, 0.8], intensity: 12, unit: 'factor' } } } },
  { id: 'glow', name: 'Glow', op: 'multiply', inputs: { a: { from: 'hue' }, b: { from: 'lit' } } },
];
const small = (): Effect => effectOf(structuredClone(SMALL), { emission: { from: 'glow' } });
const raw = () => JSON.parse(writeEffect(small())) as Record<string, unknown> & { strands: Record<string, unknown>[] };

function refusal(change: (file: ReturnType<typeof raw>) => void) {
  const file = raw();
  change(file);
  const result = readEffect(file);
  if (result.ok) throw new Error('it was read');
  return result.problems[0]!;
}

describe('reading', () => {
  test('what is written is read back, and written the same', () => {
    const text = writeEffect(small());
    const result = readEffectText(text);
    expect(result.ok && writeEffect(result.effect)).toBe(text);
    expect(result.ok && writeRead(result.effect)).toBe(text);
  });

  test.each([
    [
      'a strand that reads below itself',
      (f: ReturnType<typeof raw>) => (f.strands[1]!.inputs = { time: { from: 'glow' } }),
      'order',
      /Strand 2 \(Hum\), input time, reads Glow, which stands below it/,
    ],
    ['a strand that reads itself', (f) => (f.strands[1]!.inputs = { time: { from: 'hum' } }), 'order', /reads itself/],
    ['a missing strand', (f) => (f.strands[1]!.inputs = { time: { from: 'gone' } }), 'missing-strand', /gone/],
    ['an unknown operator', (f) => (f.strands[0]!.op = 'wibble'), 'unknown-op', /Strand 1 \(t\) uses the operator "wibble"/],
    ['an unknown input', (f) => (f.strands[2]!.inputs = { lo: { value: 1 } }), 'unknown-field', /Strand 3 \(lit\).*"lo"/],
    ['an unknown option', (f) => (f.strands[1]!.options = { shape: 'round' }), 'schema', /Strand 2 \(hum\).*shape/],
    ['a later version', (f) => (f.version = 9), 'version', /version 9.*newer Wispen/],
    ['another format', (f) => (f.format = 'picture'), 'format', /"wispen-effect"/],
    ['an unknown field', (f) => (f.sparkle = 1), 'unknown-field', /"sparkle".*extra/],
    ['a number beyond 1e9', (f) => (f.strands[2]!.inputs = { low: { value: 1e12 } }), 'schema', /Strand 3 \(lit\)/],
    ['two strands of one id', (f) => (f.strands[1]!.id = 't'), 'duplicate-id', /same id, t/],
    ['an unknown output', (f) => (f.outputs = { sparkle: { from: 'glow' } }), 'unknown-field', /Outputs.*"sparkle"/],
    ['an output of another kind of effect', (f) => (f.outputs = { size: { from: 'lit' } }), 'output', /no output size/],
    ['a port that is not there', (f) => (f.strands[1]!.inputs = { time: { from: 't', port: 'f9' } }), 'port', /seconds, phase/],
    ['a dial without its strand', (f) => (f.dials = [{ id: 'd', strand: 'x', input: 'low' }]), 'dial', /strand x/],
  ] as [string, (f: ReturnType<typeof raw>) => unknown, string, RegExp][])('refuses %s', (_, change, code, message) => {
    const problem = refusal(change);
    expect(problem.code).toBe(code);
    expect(problem.message).toMatch(message);
    expect(problem.message).toMatch(/\.$/);
  });

  test('refuses text that is not JSON, too much of it, and too many strands', () => {
    const of = (r: ReturnType<typeof readEffectText>) => (r.ok ? 'read' : r.problems[0]!.code);
    expect(of(readEffectText('{ "format": '))).toBe('syntax');
    expect(of(readEffectText(JSON.stringify({ pad: 'x'.repeat(5_000_000) })))).toBe('oversized');
    expect(of(readEffect({ format: 'wispen-effect', version: 1, strands: Array(5000).fill(SMALL[0]) }))).toBe('oversized');
    expect(of(readEffect(null))).toBe('format');
  });

  test('a stop that the ramp does not have is refused, by input and by dial', () => {
    const ramp = (inputs: object, dials: object[] = []) =>
      readEffect({
        format: 'wispen-effect',
        version: 1,
        id: 'ramp',
        name: 'Ramp',
        strands: [{ id: 'r', name: 'Ember', op: 'ramp', inputs }],
        dials,
      });
    expect(ramp({ 'stops.1.place': { value: 0.3 } }, [{ id: 'd', strand: 'r', input: 'stops.0.at' }]).ok).toBe(true);
    for (const result of [ramp({ 'stops.2.place': { value: 0.3 } }), ramp({}, [{ id: 'd', strand: 'r', input: 'stops.7.rgb' }])])
      expect(result).toMatchObject({ ok: false, problems: [{ strand: 'r', code: 'stop' }] });
  });
  test('random damage is always refused with a sentence, or leaves a valid effect; it never throws', () => {
    fc.assert(
      fc.property(fc.nat(400), fc.jsonValue({ maxDepth: 2 }), fc.nat(60), (seed, junk, where) => {
        const file = JSON.parse(writeEffect(constructSheet(seed, { strands: 5 }))) as Record<string, unknown>;
        // Walk to some place in the document and put something else there.
        let at: Record<string, unknown> = file;
        for (let depth = 0; depth < where % 5; depth++) {
          const keys = Object.keys(at).filter((k) => typeof at[k] === 'object' && at[k] !== null);
          if (keys.length === 0) break;
          at = at[keys[where % keys.length]!] as Record<string, unknown>;
        }
        const keys = Object.keys(at);
        at[keys.length > 0 ? keys[where % keys.length]! : 'x'] = junk;
        const result = readEffect(JSON.parse(JSON.stringify(file)));
        if (result.ok) lower(result.effect, { build: 'live' });
        else for (const p of result.problems) expect(p.message).toMatch(/^[A-Z"].{8,}\.$/s);
      }),
      { seed: 20261125, numRuns: 400 },
    );
  });
});

describe('lowering', () => {
  test('a kind that does not fit is a problem of that strand, in an artist’s words, and of no other', () => {
    const effect = effectOf([
      { id: 'along', name: 'Along', op: 'uv' },
      { id: 'tint', name: 'Tint', op: 'mix', inputs: { amount: { from: 'along' } } },
      { id: 'more', name: 'More', op: 'multiply', inputs: { a: { from: 'tint' } } },
    ]);
    expect(lower(effect, { build: 'live' }).problems).toEqual([
      { strand: 'tint', code: 'kind', message: 'Along is two numbers, the mix amount takes one number.' },
    ]);
  });
  test('two and three numbers do not go together', () => {
    const effect = effectOf([
      { id: 'a', name: 'Along', op: 'uv' },
      { id: 'b', name: 'Place', op: 'position' },
      { id: 'c', name: 'Sum', op: 'add', inputs: { a: { from: 'a' }, b: { from: 'b' } } },
    ]);
    expect(lower(effect, { build: 'live' }).problems[0]).toMatchObject({ strand: 'c', code: 'kind' });
  });
  test('an output that is computed once a frame cannot read the surface; the strand that does is named', () => {
    const strands = [
      { id: 'n', name: 'Ripple', op: 'noise' },
      { id: 'w', name: 'Swing', op: 'wave' },
      { id: 'm', name: 'Both', op: 'multiply', inputs: { a: { from: 'w' }, b: { from: 'n' } } },
    ];
    const light = (from: string) =>
      lower(effectOf(strands, { intensity: { from } }, { kind: 'light' }), { build: 'live' }).problems;
    expect(light('w')).toEqual([]);
    expect(light('m')).toEqual([
      {
        strand: 'n',
        code: 'place',
        message: 'Ripple reads the surface, and the output intensity takes only what is the same all over it.',
      },
    ]);
    // The vertices may read the surface.
    expect(
      lower(effectOf([...strands, { id: 'p', name: 'P', op: 'position' }], { displacement: { from: 'p' } }), { build: 'live' })
        .problems,
    ).toEqual([]);
  });
  test('a variant’s values stand in for the base’s', () => {
    const effect = {
      ...small(),
      dials: [{ id: 'd', strand: 'lit', input: 'low' }],
      variants: [{ id: 'v', name: 'Dim', values: { d: 0.1 } }],
    };
    expect(strandsOf(withVariant(effect, 'v'))[2]!.inputs!.low).toEqual({ value: 0.1 });
    expect(withVariant(effect, null)).toBe(effect);
  });
});

describe('edits', () => {
  const run = (recipe: (draft: Effect) => void, from = small()) => produce(from, (d) => recipe(d as Effect));
  const inputsOf = (e: Effect, id: string) => strandsOf(e).find((s) => s.id === id)?.inputs;

  test('adding under a strand, and splicing into what read it', () => {
    const after = run((d) =>
      edits.addStrand(d, {
        id: 'n',
        op: 'power',
        name: 'Sharp',
        after: 'lit',
        reads: { strand: 'lit', input: 'in' },
        splice: true,
      }),
    );
    expect(strandsOf(after).map((s) => s.id)).toEqual(['t', 'hum', 'lit', 'n', 'hue', 'glow']);
    expect(inputsOf(after, 'n')).toEqual({ in: { from: 'lit' } });
    expect(inputsOf(after, 'glow')!.b).toEqual({ from: 'n' });
  });
  test('deleting joins the reader to the first input', () => {
    const after = run((d) => edits.deleteStrand(d, { id: 'lit' }));
    expect(inputsOf(after, 'glow')!.b).toEqual({ from: 'hum' });
    expect(readEffect(JSON.parse(writeEffect(after))).ok).toBe(true);
  });
  test('deleting a source unsets its readers', () => {
    const after = run((d) => edits.deleteStrand(d, { id: 't' }));
    expect(inputsOf(after, 'hum')!.time).toBeUndefined();
  });
  test('a strand moves no further than what it reads and what reads it', () => {
    expect(edits.moveLimits(small(), 'lit')).toEqual({ lowest: 2, highest: 3 });
    const after = run((d) => edits.moveStrand(d, { id: 'lit', to: 99 }));
    expect(strandsOf(after).map((s) => s.id)).toEqual(['t', 'hum', 'hue', 'lit', 'glow']);
    expect(edits.moveLimits(small(), 'hue')).toEqual({ lowest: 0, highest: 3 });
  });
  test('swapping the inputs of a subtraction takes its dial along', () => {
    const effect = effectOf(
      [
        { id: 'a', name: 'A', op: 'number' },
        { id: 's', name: 'S', op: 'subtract', inputs: { a: { from: 'a' }, b: { value: 3 } } },
      ],
      {},
      { dials: [{ id: 'd', strand: 's', input: 'b' }] },
    );
    const after = run((d) => edits.swapInputs(d, { id: 's' }), effect);
    expect(inputsOf(after, 's')).toEqual({ a: { value: 3 }, b: { from: 'a' } });
    expect(after.dials[0]!.input).toBe('a');
  });
  test('wrapping puts a step before the readers', () => {
    const after = run((d) => edits.wrapStrand(d, { id: 'lit', how: 'invert', newId: 'inv', dialId: 'd1' }));
    expect(inputsOf(after, 'inv')).toEqual({ a: { value: 1 }, b: { from: 'lit' } });
    expect(inputsOf(after, 'glow')!.b).toEqual({ from: 'inv' });
  });
  test('a link to a strand below is not made', () => {
    expect(() => run((d) => edits.setInput(d, { id: 'hum', name: 'rate', input: { from: 'glow' } }))).toThrow(/above/);
  });

  test('any run of edits keeps the document valid, and undo gives back the same bytes', () => {
    fc.assert(
      fc.property(fc.nat(200), fc.array(fc.tuple(fc.nat(6), fc.nat(30), fc.nat(30)), { maxLength: 12 }), (seed, steps) => {
        let effect = constructSheet(seed, { strands: 8 });
        const before = writeEffect(effect);
        const inverses: Parameters<typeof applyPatches>[1][] = [];
        for (const [what, a, n] of steps) {
          const strands = strandsOf(effect);
          const id = strands[a % strands.length]?.id;
          if (id === undefined) break;
          const [next, , inverse] = produceWithPatches(effect, (draft) => {
            const d = draft as Effect;
            if (what === 0) edits.deleteStrand(d, { id });
            else if (what === 1) edits.moveStrand(d, { id, to: n % strands.length });
            else if (what === 2)
              edits.addStrand(d, {
                id: edits.freshId(effect, 'clamp'),
                op: 'clamp',
                name: 'Held',
                after: id,
                reads: { strand: id, input: 'in' },
                splice: n % 2 === 0,
              });
            else if (what === 3) edits.swapInputs(d, { id });
            else if (what === 4) edits.toggleBypass(d, { id });
            else if (what === 5) edits.renameStrand(d, { id, name: `Renamed ${n}` });
            else
              edits.wrapStrand(d, {
                id,
                how: (['invert', 'clamp', 'dial'] as const)[n % 3]!,
                newId: edits.freshId(effect, 'wrap'),
                dialId: `d${inverses.length}`,
              });
          });
          inverses.push(inverse);
          effect = next;
          const read = readEffect(JSON.parse(writeEffect(effect)));
          if (!read.ok) throw new Error(read.problems[0]!.message);
        }
        for (const inverse of inverses.reverse()) effect = applyPatches(effect, inverse);
        expect(writeEffect(effect)).toBe(before);
      }),
      { seed: 20261125, numRuns: 120 },
    );
  });
});
