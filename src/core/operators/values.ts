/** Values the artist types: numbers, vectors, colours. */
import { FILTERS, WRAPS, type Filter, type Wrap } from '../base/picture.js';
import { slopeAlong } from '../ir/derivative.js';
import { log2 } from '../ir/kernels/transcendental.js';
import type { Node } from '../ir/types.js';
import { FormulaError, parseFormula } from './formula/parse.js';
import { lowerFormula } from './formula/lower.js';
import type { Kind } from '../base/kinds.js';
import { operator, type InputRecord, type OperatorRecord } from './record.js';

const LETTERS = ['a', 'b', 'c', 'd', 'e', 'f', 'g', 'h'] as const;

export const VALUES: readonly OperatorRecord[] = [
  operator({
    id: 'number',
    label: 'number',
    family: 'Values',
    picture: { in: 0.5 },
    summary: 'One number of your own.',
    keywords: ['value', 'constant', 'float'],
    inputs: { in: { kind: '1', default: 0, soft: [0, 1], literal: 'number', note: 'the number' } },
    outputs: [{ id: 'value', kind: '1', note: 'the number' }],
    lower: (_, { in: x }) => ({ value: x! }),
  }),
  operator({
    id: 'vector',
    label: 'vector',
    family: 'Values',
    picture: { in: [0.6, 0.4, 0.8] },
    initial: { in: [0, 0, 0] },
    summary: 'Two, three or four numbers of your own.',
    keywords: ['value', 'direction', 'constant'],
    inputs: { in: { kind: ['2', '3', '4'], default: [0, 0, 0], soft: [-1, 1], literal: 'vector', note: 'the numbers' } },
    outputs: [{ id: 'value', kind: (given) => given.in ?? '3', note: 'the numbers' }],
    lower: (_, { in: x }) => ({ value: x! }),
  }),
  operator({
    id: 'colour',
    label: 'colour',
    family: 'Values',
    picture: { in: { rgb: [0.95, 0.45, 0.2], intensity: 1, unit: 'factor' } },
    brightness: { source: 'in' },
    initial: { in: { rgb: [1, 0.72, 0.4], intensity: 1, unit: 'factor' } },
    summary: 'A hue and, apart from it, an intensity; they are multiplied.',
    keywords: ['color', 'hue', 'rgb', 'intensity'],
    inputs: { in: { kind: 'rgb', default: [1, 1, 1], soft: [0, 1], literal: 'colour', note: 'hue and intensity' } },
    outputs: [{ id: 'value', kind: 'rgb', note: 'linear Rec.709, not bounded above' }],
    lower: (_, { in: x }) => ({ value: x! }),
  }),
  operator({
    id: 'formula',
    hands: 'a',
    label: 'formula',
    family: 'Values',
    wild: true,
    picture: { a: '@hills', b: '@ramp', formula: { text: 'smoothstep(0.2, 0.8, a) * b' } },
    summary: 'A line of arithmetic over strands above it, instead of the five strands it stands for.',
    keywords: ['expression', 'code', 'glsl', 'math', 'equation'],
    inputs: Object.fromEntries(
      LETTERS.map((letter) => [
        letter,
        {
          kind: ['1', '2', '3', '4', 'rgb'],
          default: 0,
          soft: [0, 1],
          optional: true,
          note: `what ${letter} stands for`,
        } as const,
      ]),
    ),
    literals: { formula: { form: 'text', default: 'a', note: 'GLSL functions, swizzles, and the letters of its inputs' } },
    outputs: [{ id: 'value', kind: 'own', note: 'the result' }],
    source: 'The OpenGL ES Shading Language 3.00, chapters 5 and 8; modulo, powers and divisions by 0 as everywhere in Wispen',
    lower: ({ b, texts, fail }, x) => {
      try {
        return { value: lowerFormula(b, parseFormula(texts.formula!), x) };
      } catch (error) {
        if (!(error instanceof FormulaError)) throw error;
        return fail('formula', `${error.message}, at character ${error.at + 1}.`, error.at);
      }
    },
  }),
  operator({
    id: 'image',
    label: 'image',
    family: 'Values',
    wild: true,
    summary: 'A picture of your own, looked up by coordinates; grey until one is chosen.',
    keywords: ['texture', 'bitmap', 'map', 'picture', 'sample', 'file'],
    inputs: { uv: { kind: '2', default: { leaf: 'uv' }, soft: [0, 1], note: 'where it is looked up' } },
    literals: { image: { form: 'image', default: null, note: 'PNG, JPEG, WebP, EXR or HDR' } },
    options: {
      wrap: { values: WRAPS, default: 'repeat', note: 'what lies beyond its edges' },
      filter: { values: FILTERS, default: 'smooth', note: 'smooth and free of shimmer, or the nearest texel' },
    },
    outputs: [
      { id: 'rgb', kind: 'rgb', note: 'the colour, in linear light' },
      { id: 'value', kind: '4', note: 'all four channels' },
      ...(['r', 'g', 'b', 'a'] as const).map((id) => ({ id, kind: '1' as const, note: `the channel ${id}` })),
    ],
    source: 'bilinear in the two nearest levels, which are chosen by the footprint of the coordinates',
    lower: ({ b, options, images }, x) => {
      const { asset, size } = images.image ?? { asset: '', size: [1, 1] as const };
      const changes = (['x', 'y'] as const).map((axis) => {
        const change = slopeAlong(b, x.uv!, axis);
        return b.composite('length', b.mul(change, b.constant(...size)));
      });
      const texels = b.op('max', b.op('max', changes[0]!, changes[1]!), 1);
      const level = options.filter === 'nearest' ? b.constant(0) : b.call(log2, texels);
      const value = asset
        ? b.sample({ asset, wrap: options.wrap as Wrap, filter: options.filter as Filter }, x.uv!, level)
        : b.constant(0.5, 0.5, 0.5, 1);
      const [r, g, blue, a] = b.split(value) as [Node, Node, Node, Node];
      return { rgb: b.pick(value, 0, 1, 2), value, r, g, b: blue, a };
    },
  }),
  operator({
    id: 'shared',
    label: 'shared dial',
    family: 'Values',
    summary: 'A value that several effects of the library read, set once for all of them.',
    keywords: ['global', 'library', 'common', 'constant'],
    inputs: {},
    literals: { shared: { form: 'shared', default: null, note: 'which of the library’s shared dials' } },
    outputs: [{ id: 'value', kind: 'own', note: 'its value' }],
    // One that names none yet is 0, as every input that nothing is given to.
    lower: ({ b, shared, texts, fail }) => {
      if (shared.shared) return { value: shared.shared };
      if (texts.shared) return fail('shared', `There is no shared dial ${JSON.stringify(texts.shared)}.`);
      return { value: b.constant(0) };
    },
  }),
  operator({
    id: 'motif',
    label: 'motif',
    family: 'Values',
    wild: true,
    summary: 'Strands of your own, used as one: a group with inputs and outputs, edited once for all that use it.',
    keywords: ['group', 'reuse', 'preset', 'block', 'macro', 'function'],
    inputs: Object.fromEntries(
      Array.from({ length: 12 }, (_, k) => [
        `in${k + 1}`,
        {
          kind: ['1', '2', '3', '4', 'rgb'],
          default: 0,
          soft: [0, 1],
          optional: true,
          wants: [],
          note: `what the motif’s input ${k + 1} is given`,
        } satisfies InputRecord,
      ]),
    ),
    literals: { motif: { form: 'motif', default: null, note: 'which of the effect’s motifs' } },
    outputs: Array.from({ length: 12 }, (_, k) => ({
      id: `out${k + 1}`,
      kind: (given: Readonly<Record<string, Kind>>) => given[`in${k + 1}`] ?? '1',
      note: `the motif’s output ${k + 1}`,
    })),
    // Its strands stand before it by now (`effect/motifs.ts`): it hands on what they give.
    lower: ({ b, texts, fail }, x) => {
      if (texts.motif) return fail('motif', `There is no motif ${JSON.stringify(texts.motif)}.`);
      return Object.fromEntries(Array.from({ length: 12 }, (_, k) => [`out${k + 1}`, x[`in${k + 1}`] ?? b.constant(0)]));
    },
  }),
];
