/**
 * Any change of a sheet that is more than a number gives another program, and other numbers. A program is known by its
 * signature: two that shared one would share a picture.
 */
import { samplePlaces } from '../src/core/places/spread.js';
import type { Effect, Input, Strand } from '../src/core/effect/schema.js';
import { LEAF_NAMES } from '../src/core/ir/leaves.js';
import { lower } from '../src/core/lower/lower.js';
import { paramValues } from '../src/core/lower/params.js';
import { OPERATORS } from '../src/core/operators/catalogue.js';
import type { OperatorRecord } from '../src/core/operators/record.js';
import { scalarise } from '../src/core/passes/scalarise.js';
import { emitGlsl } from '../src/core/targets/glsl.js';
import { emitWasm } from '../src/core/targets/wasm/module.js';
import { WasmRunner, type LeafValues } from '../src/core/targets/wasm/runner.js';
import { FILLS, SOURCES, kindsOf, sheetOf } from './fixtures/fills.js';
import { PICTURES } from './fixtures/sheets.js';

const POINTS = 64;
const leaves: LeafValues = {
  ...samplePlaces(POINTS),
  time: [Float32Array.from({ length: POINTS }, (_, k) => (k * 3.9) / POINTS + 0.03)],
  loop: [4],
  propRandom: [0.3],
};
const VARYING = new Set(LEAF_NAMES.filter((l) => l !== 'loop'));

const signature = (effect: Effect): string => lower(effect, { build: 'live' }).signature;

/** Every port of the strand under test, at every place. */
function numbers(effect: Effect): string {
  const program = lower(effect, { build: 'live' });
  const roots = Object.values(program.strands.get('tested')!.ports).map((p) => p.node);
  const params = paramValues(program.params, effect);
  const values = WasmRunner.make(emitWasm(scalarise(roots), VARYING, params.length), PICTURES).evaluate(params, leaves, POINTS);
  return values.map((root) => root.map((plane) => plane.join()).join(';')).join('|');
}

interface Change {
  readonly what: string;
  /** What the number that is changed ranges over. */
  readonly soft?: readonly [number, number];
  /** Two strands that differ in one thing. */
  readonly one: Partial<Strand>;
  readonly other: Partial<Strand>;
}

const ramp = (more: object): Partial<Strand> => {
  const stops = [
    { at: 0.1, rgb: [1, 0.2, 0] },
    { at: 0.9, rgb: [0, 0.4, 1] },
  ];
  return { inputs: { stops: { value: { stops, space: 'linear', interpolation: 'linear', ...more } as never } } };
};

function changesOf(op: OperatorRecord): Change[] {
  const changes: Change[] = [];
  for (const [name, { values }] of Object.entries(op.options))
    values.slice(1).forEach((value, k) => {
      const [one, other] = [values[k]!, value].map((v) => ({ options: { [name]: v } }));
      changes.push({ what: `${name}: ${values[k]!} or ${value}`, one: one!, other: other! });
    });
  for (const [name, record] of Object.entries(op.inputs)) {
    const kinds = kindsOf(record);
    const single = kinds.includes('1');
    const [source, second] = single ? ['rising', 'falling'] : SOURCES[kinds[0]!];
    const { soft } = record;
    const formula = op.literals.formula ? { formula: { value: { text: `sin(a) + ${name}` } } } : {};
    const linked = (from: string): Partial<Strand> => ({ inputs: { [name]: { from }, ...formula } });
    if (record.optional) changes.push({ what: `${name}, which need not be given`, soft, one: {}, other: linked(source!) });
    if (second && !(op.family === 'Values' && record.literal !== undefined))
      changes.push({ what: `${name} from elsewhere`, soft, one: linked(source!), other: linked(second) });
  }
  for (const [name, { form }] of Object.entries(op.literals)) {
    const given = (value: object): Partial<Strand> => ({ inputs: { [name]: { value } as Input } });
    const add = (what: string, one: Partial<Strand>, other: Partial<Strand>) => changes.push({ what, one, other });
    if (form === 'image') add(name, given({ asset: 'rock' }), given({ asset: 'slate' }));
    if (form === 'text' && name === 'formula') add(name, given({ text: 'a + 1.0' }), given({ text: 'a * a' }));
    if (form !== 'ramp') continue;
    add(`${name} in another space`, ramp({}), ramp({ space: 'oklab' }));
    add(`${name} in steps`, ramp({}), ramp({ interpolation: 'step' }));
    add(`${name} with one more`, ramp({}), ramp({ stops: [0, 0.5, 0.8].map((at, k) => ({ at, rgb: [k / 3, 1, at] })) }));
  }
  if (Object.keys(op.inputs).length > 0 && op.family !== 'Values')
    changes.push({ what: 'bypassed', one: {}, other: { bypassed: true } });
  return changes;
}

const CHANGES = OPERATORS.flatMap((op) => changesOf(op).map((change) => ({ op, ...change, title: `${op.id}, ${change.what}` })));

/** What else a strand may have chosen, that the change under test could need to be seen. */
const choices = (op: OperatorRecord): Record<string, string>[] => [
  {},
  ...Object.entries(op.options).flatMap(([name, { values }]) => values.map((v) => ({ [name]: v }))),
];

/** On the CPU what lies behind is given, wherever it is looked up: there the shader tells. */
function shown(effect: Effect): string {
  const { strands, outputs, ...program } = lower(effect, { build: 'live' });
  const { value } = strands.get('tested')!;
  if (!program.builder.nodes.some((n) => n.op === 'behind')) return numbers(effect);
  const all = new Map([...outputs, ['emission', value] as const]);
  return emitGlsl({ ...program, strands, outputs: all }, { hoist: true, naming: 'ids' }).fragment.code;
}

test.each(CHANGES)('$title: another program, other numbers', ({ op, soft, one, other }) => {
  let differs = false;
  for (const options of choices(op)) {
    if (differs) break;
    for (const fill of FILLS) {
      const sheet = (more: Partial<Strand>) => sheetOf(op, fill, { ...more, soft, options: { ...options, ...more.options } });
      const [a, b] = [sheet(one), sheet(other)];
      if (!a || !b) continue;
      // Where a change does nothing, the program may stay what it is.
      if (signature(a) === signature(b)) expect([options, fill, shown(a)]).toEqual([options, fill, shown(b)]);
      else differs ||= shown(a) !== shown(b);
    }
  }
  expect(differs).toBe(true);
});
