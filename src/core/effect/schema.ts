/**
 * The effect document: its Zod schema, built from the operator catalogue, and its types.
 * Limits: 4 MB of text, 4000 strands, numbers up to 1e9 in magnitude.
 */
import { OUTPUT_NAMES, type OutputName } from './outputs.js';
import { z } from 'zod';
import { isReserved } from '../base/wholesome.js';
import { OPERATORS } from '../operators/catalogue.js';
import { MAX_STOPS, type OperatorRecord } from '../operators/record.js';

// Zod would otherwise probe for `new Function`, which the content security policy forbids.
z.config({ jitless: true });

export const EFFECT_VERSION = 1;
export const MAX_FILE_BYTES = 4 * 1024 * 1024;
export const MAX_STRANDS = 4000;
export const MAX_MAGNITUDE = 1e9;
/** An effect has so many of each at most. */
export const MOST = { sections: 500, dials: 500, variants: 100, cues: 100, triggers: 32, motifs: 100 } as const;

const text = (max: number) => z.string().max(max);
const finite = z.number().min(-MAX_MAGNITUDE).max(MAX_MAGNITUDE);
const own = (name: string): boolean => !isReserved(name);
const OWN = 'this name means something else to every object, so nothing can be called by it';
export const strandId = z
  .string()
  .regex(/^[a-z][a-z0-9]{0,23}$/, 'an id is a small letter and up to 23 small letters or digits')
  .refine(own, OWN);
/** An id of a document's, or a name by which something is looked up. */
export const id = z.string().min(1).max(64).refine(own, OWN);
/** The id of a document. */
export const documentId = z
  .string()
  .regex(/^[\w…-]{1,64}$/, 'an id is letters, digits and hyphens')
  .refine(own, OWN);
/** A name by which something is looked up, of so many letters; none where it is empty. */
export const reference = (max: number) => z.string().max(max).refine(own, OWN);

const colour = z.strictObject({
  rgb: z.tuple([finite, finite, finite]),
  intensity: finite,
  unit: z.enum(['factor', 'stops']),
});
const stop = z.strictObject({ at: finite, rgb: z.tuple([finite, finite, finite]) });
const ramp = z.strictObject({
  stops: z.array(stop).min(1).max(MAX_STOPS),
  space: z.enum(['linear', 'oklab']),
  interpolation: z.enum(['linear', 'smooth', 'step']),
});
const ease = z.union([
  z.enum(['linear', 'smooth', 'step']),
  z.tuple([z.number().min(0).max(1), finite, z.number().min(0).max(1), finite]),
]);
const curve = z.strictObject({
  keys: z
    .array(z.strictObject({ at: finite, value: finite, ease }))
    .min(1)
    .max(64),
});
const image = z.strictObject({ asset: id });
/** A written pattern, a formula, the id of a shared dial, a trigger or a motif. */
const written = z.strictObject({ text: reference(2000) });
const vector = z.array(finite).min(2).max(4);
export const value = z.union([finite, vector, curve, colour, image, ramp, written, z.boolean()]);

const link = z.strictObject({
  from: strandId,
  port: id.optional(),
  part: z
    .string()
    .regex(/^([xyzw]{1,4}|[rgba]{1,4})$/, 'a part is one to four of xyzw, or of rgba')
    .optional(),
});
const input = z.union([z.strictObject({ value }), link]);

const common = { id: strandId, name: text(80).min(1), note: text(4000).optional(), bypassed: z.boolean().optional() };

function strandOf(operator: OperatorRecord) {
  const inputs = Object.fromEntries(Object.keys(operator.inputs).map((name) => [name, input.optional()]));
  for (const [name, { form }] of Object.entries(operator.literals)) {
    const given = { ramp, image, text: written, shared: written, trigger: written, motif: written }[form];
    inputs[name] = z.strictObject({ value: given }).optional() as unknown as (typeof inputs)[string];
    if (form !== 'ramp') continue;
    // A stop's place and colour are inputs of their own.
    for (let k = 0; k < MAX_STOPS; k++) for (const part of ['place', 'colour']) inputs[`${name}.${k}.${part}`] = input.optional();
  }
  const options = Object.fromEntries(
    Object.entries(operator.options).map(([name, o]) => [name, z.enum(o.values as [string, ...string[]]).optional()]),
  );
  return z.strictObject({
    ...common,
    op: z.literal(operator.id),
    inputs: z.strictObject(inputs).optional(),
    options: z.strictObject(options).optional(),
  });
}

const strand = z.discriminatedUnion(
  'op',
  OPERATORS.map(strandOf) as [ReturnType<typeof strandOf>, ...ReturnType<typeof strandOf>[]],
);

const outputs = z.partialRecord(z.enum(OUTPUT_NAMES as [OutputName, ...OutputName[]]), input);

const finish = z.strictObject({
  alphaMode: z.enum(['opaque', 'mask', 'dither', 'blend', 'add']),
  sides: z.enum(['front', 'back', 'both']),
  lighting: z.enum(['lit', 'unlit']),
  castsShadow: z.boolean(),
  writesDepth: z.boolean(),
  order: z.number().int().min(-1000).max(1000),
  alphaCutoff: z.number().min(0).max(1),
});

const dial = z.strictObject({
  id,
  strand: strandId,
  input: reference(80).min(1),
  label: text(80).optional(),
  unit: text(16).optional(),
  soft: z.tuple([finite, finite]).optional(),
  hard: z.tuple([finite.nullable(), finite.nullable()]).optional(),
  scale: z.enum(['linear', 'log']).optional(),
  group: text(80).optional(),
  /** What it does, for whoever turns it. */
  about: text(400).optional(),
  /** What one press of an arrow key changes. */
  step: finite.positive().optional(),
});

const variant = z.strictObject({
  id,
  name: text(80).min(1),
  values: z.record(id, z.union([value, text(40)])),
  /** What of the finish is another than the effect's own: a variant that adds, where the base covers. */
  finish: finish.partial().optional(),
});
/** What a cue does beyond its keys: stays, begins again, goes to and fro. */
const beyond = z.enum(['hold', 'loop', 'mirror']);
const cue = z.strictObject({
  dial: id,
  keys: z
    .array(z.strictObject({ time: finite, value, ease }))
    .min(1)
    .max(256),
  before: beyond.optional(),
  after: beyond.optional(),
});
const trigger = z.strictObject({
  id,
  name: text(80),
  /** Seconds at which it fires. */
  at: z.array(finite).max(256),
  /** Where on the surface each of them is, in the prop's own space; null for the whole of it. */
  places: z
    .array(z.tuple([finite, finite, finite]).nullable())
    .max(256)
    .optional(),
  /** Seconds that what it sets off lasts. */
  duration: finite.min(0),
});
const section = z.strictObject({
  title: text(80),
  first: strandId,
  note: text(4000).optional(),
  tint: text(32).nullable().optional(),
});
const asset = z.strictObject({
  sha256: z.string().regex(/^[0-9a-f]{64}$/, 'a SHA-256 in small hexadecimal digits'),
  name: text(200),
  type: text(100),
  colour: z.enum(['srgb', 'data', 'linear']),
  size: z.array(z.number().int().min(0)).max(3),
});
const kind = z.enum(['1', '2', '3', '4', 'rgb']);
const motifInput = z.strictObject({
  id,
  name: text(80),
  kind,
  /** What a new use begins with. */
  default: value.optional(),
  soft: z.tuple([finite, finite]).optional(),
  unit: text(16).optional(),
});
const motifOutput = z.strictObject({
  id,
  name: text(80),
  kind,
  /** What of the motif it gives: the strand of its id where nothing is said. */
  from: link.optional(),
});
export const sharedSchema = z.strictObject({ id, name: text(80).min(1), value });

/** Strands that are used as one: those within read the motif's inputs by their ids. */
const motifWithin = z.strictObject({
  id: documentId,
  revision: z.number().int().min(1),
  name: text(80),
  inputs: z.array(motifInput).max(32),
  outputs: z.array(motifOutput).max(32),
  strands: z.array(strand).max(MAX_STRANDS),
  note: text(4000).optional(),
  /** Of a motif by itself, as the library has it: the files that its strands name. Within an effect they are the effect's. */
  assets: z.record(id, asset).optional(),
});
export const motifSchema = motifWithin.extend({
  // So are the triggers and shared dials that they name, and the motifs that they use.
  triggers: z.array(trigger).max(MOST.triggers).optional(),
  shared: z.array(sharedSchema).max(200).optional(),
  motifs: z.array(motifWithin).max(MOST.motifs).optional(),
});

export const effectSchema = z.strictObject({
  format: z.literal('wispen-effect'),
  version: z.literal(EFFECT_VERSION),
  id: documentId,
  name: text(120).min(1),
  kind: z.enum(['surface', 'light', 'mote']),
  loop: z.number().positive().max(3600).nullable(),
  fps: z.number().min(1).max(240),
  tags: z.array(text(40).min(1)).max(32),
  note: text(20000),
  strands: z.array(strand).max(MAX_STRANDS),
  sections: z.array(section).max(MOST.sections),
  outputs,
  finish,
  dials: z.array(dial).max(MOST.dials),
  variants: z.array(variant).max(MOST.variants),
  cues: z.array(cue).max(MOST.cues),
  triggers: z.array(trigger).max(MOST.triggers),
  motifs: z.array(motifSchema).max(MOST.motifs),
  shared: z.array(sharedSchema).max(200),
  assets: z.record(id, asset),
  home: z.strictObject({ stage: reference(64), prop: reference(64), viewpoint: reference(64) }).nullable(),
  extra: z.record(z.string(), z.unknown()),
});

export type Effect = z.infer<typeof effectSchema>;
export type Motif = z.infer<typeof motifSchema>;
export type MotifInput = Motif['inputs'][number];
export type Trigger = z.infer<typeof trigger>;
export type Value = z.infer<typeof value>;
export type Colour = z.infer<typeof colour>;
export type Input = z.infer<typeof input>;
export type Link = z.infer<typeof link>;
export type Dial = z.infer<typeof dial>;
export type Cue = z.infer<typeof cue>;
export type CueKey = Cue['keys'][number];
export type Ease = CueKey['ease'];
export type Beyond = z.infer<typeof beyond>;
export type Finish = z.infer<typeof finish>;
export type Section = z.infer<typeof section>;
/** A strand, whatever its operator; the schema holds its inputs and options to the operator's. */
export interface Strand {
  id: string;
  name: string;
  op: string;
  note?: string;
  bypassed?: boolean;
  inputs?: Record<string, Input | undefined>;
  options?: Record<string, string | undefined>;
}

/** Names an image by what it holds, whatever a document calls it: the same in every effect. */
export const pictureKey = ({ sha256, colour }: Effect['assets'][string]): string => `${sha256}:${colour}`;

export const isLink = (i: Input | undefined): i is Link => i !== undefined && 'from' in i;
export const isColour = (v: unknown): v is Colour => typeof v === 'object' && v !== null && 'rgb' in v;

/** A colour's factor, whichever way its intensity was typed. */
export const factorOf = (intensity: number, unit: Colour['unit']): number => (unit === 'stops' ? 2 ** intensity : intensity);
export const isRamp = (v: unknown): v is z.infer<typeof ramp> => typeof v === 'object' && v !== null && 'stops' in v;
export const isWritten = (v: unknown): v is z.infer<typeof written> => typeof v === 'object' && v !== null && 'text' in v;
export const isImage = (v: unknown): v is z.infer<typeof image> => typeof v === 'object' && v !== null && 'asset' in v;
/** What kind of value it is: `vector 3` is another than `vector 2`, as a ramp is another than a picture. */
export function formOf(v: unknown): string {
  if (Array.isArray(v)) return `vector of ${v.length}`;
  if (typeof v !== 'object' || v === null) return typeof v;
  if (isColour(v)) return 'colour';
  if (isRamp(v)) return 'ramp';
  if (isImage(v)) return 'picture';
  return isWritten(v) ? 'text' : 'curve';
}
/** Kinds of which a number, a vector or a colour is. */
export const isNumbers = (v: unknown): boolean => ['number', 'boolean', 'colour'].includes(formOf(v)) || Array.isArray(v);

export const strandsOf = (effect: Effect): Strand[] => effect.strands as Strand[];

export const DEFAULT_FINISH: Finish = {
  alphaMode: 'opaque',
  sides: 'front',
  lighting: 'lit',
  castsShadow: true,
  writesDepth: true,
  order: 0,
  alphaCutoff: 0.5,
};

/** What a finish changes to for a surface to be seen through: a solid shadow and depth would be those of an opaque one. */
export const BLENDED = { alphaMode: 'blend', castsShadow: false, writesDepth: false } as const satisfies Partial<Finish>;

/** Defaults of a file that leaves fields out: only `format`, `version`, `id`, `name` and `strands` must be there. */
export const EFFECT_DEFAULTS: Omit<Effect, 'format' | 'version' | 'id' | 'name' | 'strands'> = {
  kind: 'surface',
  loop: 4,
  fps: 30,
  tags: [],
  note: '',
  sections: [],
  outputs: {},
  finish: DEFAULT_FINISH,
  dials: [],
  variants: [],
  cues: [],
  triggers: [],
  motifs: [],
  shared: [],
  assets: {},
  home: null,
  extra: {},
};

export const emptyEffect = (effectId: string, name: string): Effect => ({
  format: 'wispen-effect',
  version: EFFECT_VERSION,
  id: effectId,
  name,
  ...structuredClone(EFFECT_DEFAULTS),
  strands: [],
});
