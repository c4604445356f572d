/** The stage document: props, lights, surroundings, viewpoints, optics. */
import { z } from 'zod';
import { sortedDeep } from '../base/sorted.js';
import { TONE_CURVES } from '../optics/tone.js';
import { whatIsUnwholesome } from '../base/wholesome.js';
import { documentId, id, reference, value } from '../effect/schema.js';
import type { ReadResult } from '../effect/read.js';
import type { Problem } from '../effect/read.js';

export const STAGE_VERSION = 1;
const finite = z.number().min(-1e9).max(1e9);
const text = (max: number) => z.string().max(max);
const vec3 = z.tuple([finite, finite, finite]);
const quaternion = z.tuple([finite, finite, finite, finite]);

const length = z.number().positive().max(1000);
/** Into how many parts a primitive is cut, one way and the other; as many as suit it where nothing is said. */
const segments = z.tuple([z.number().int().min(1).max(512), z.number().int().min(1).max(512)]).optional();

/** Sizes in metres, measured from the prop's middle; a dome stands on its rim. */
const primitive = z.discriminatedUnion('primitive', [
  z.strictObject({ primitive: z.literal('sphere'), radius: length, segments }),
  z.strictObject({ primitive: z.literal('box'), size: z.tuple([length, length, length]), segments }),
  z.strictObject({ primitive: z.literal('plane'), size: z.tuple([length, length]), segments }),
  z.strictObject({ primitive: z.literal('tube'), radius: length, length, segments }),
  z.strictObject({ primitive: z.literal('ring'), radius: length, thickness: length, segments }),
  z.strictObject({ primitive: z.literal('dome'), radius: length, segments }),
  z.strictObject({ primitive: z.literal('cylinder'), radius: length, length, segments }),
]);

/** A mesh of the artist's own: a key of the stage's `assets`. */
const source = z.union([primitive, z.strictObject({ asset: id })]);

const asset = z.strictObject({
  sha256: z.string().regex(/^[0-9a-f]{64}$/),
  name: text(200),
  type: text(80),
  size: z.number().int().min(0),
});

const prop = z.strictObject({
  id,
  name: text(80),
  source,
  place: vec3,
  turn: quaternion,
  scale: vec3,
  seed: z.number().int(),
  group: text(64).nullable(),
  parts: z
    .array(
      z.strictObject({
        part: text(64),
        effect: reference(64).nullable(),
        variant: reference(64).nullable(),
        overrides: z.record(id, z.union([value, text(40)])),
      }),
    )
    .max(64),
  /** A key of the stage's `assets`: a picture of sixteen bits, a pixel a vertex (`formats/paintFile`). */
  paint: reference(64).nullable(),
  /** What the four channels of its paint are called. */
  channels: z.tuple([text(24), text(24), text(24), text(24)]).optional(),
  /** What it is made of where it wears nothing: linear colour; instead of what its file says. */
  surface: z.strictObject({ rgb: vec3, roughness: z.number().min(0).max(1), metalness: z.number().min(0).max(1) }).optional(),
  /** Props of one definition are made of, painted with and wear the same (`definitions`). */
  definition: id.optional(),
  visible: z.boolean(),
  locked: z.boolean(),
});

const light = z.strictObject({
  id,
  name: text(80),
  /** A key light is a far one whose rays are parallel, as of a sun; a point and a spot shine from where they are. */
  kind: z.enum(['key', 'fill', 'sun', 'point', 'spot']),
  place: vec3,
  target: vec3,
  rgb: vec3,
  intensity: z.number().min(0).max(1e6),
  shadow: z.boolean(),
  /** Of a spot: half the angle of its cone in degrees, and the share of it over which it fades. */
  cone: z.strictObject({ angle: z.number().min(1).max(85), soft: z.number().min(0).max(1) }).optional(),
  /**
   * What its colour and intensity are multiplied by at each moment: a strand of an effect, or with null what an effect of
   * kind light gives; as a prop of that seed would have it.
   */
  drivenBy: z
    .strictObject({
      effect: reference(64),
      variant: reference(64).nullable(),
      strand: id.nullable(),
      scale: z.number().min(0).max(1e6),
      seed: z.number().int().optional(),
    })
    .nullable(),
});

/** Where motes are born, in the field's own space: metres. */
const births = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('box'), size: z.tuple([length, length, length]) }),
  z.strictObject({ kind: z.literal('ball'), radius: length }),
  z.strictObject({ kind: z.literal('path'), points: z.array(vec3).min(2).max(64) }),
  /**
   * On the surface of a prop, from which they go square to it; `where`: only where and when a strand of what it wears is
   * above a level.
   */
  z.strictObject({
    kind: z.literal('prop'),
    prop: reference(64),
    where: z.strictObject({ strand: id, port: id.optional(), above: finite }).optional(),
  }),
]);

const from0To1 = z.number().min(0).max(1);
const moteField = z.strictObject({
  id,
  name: text(80),
  effect: reference(64).nullable(),
  variant: reference(64).nullable(),
  seed: z.number().int(),
  place: vec3,
  turn: quaternion,
  from: births,
  /** Born a second; how long each lives, in seconds; the share by which lives, sizes and speeds differ. */
  rate: z.number().min(0).max(1e6),
  life: z.number().min(0.01).max(3600),
  lifeSpread: from0To1,
  /** Radius in metres. */
  size: z.number().min(1e-5).max(100),
  sizeSpread: from0To1,
  /** Metres a second, which way, and from all that way (0) to every way (1). */
  speed: finite,
  speedSpread: from0To1,
  heading: vec3,
  spread: from0To1,
  /** Downwards, metres a second a second. */
  gravity: finite,
  /** Swirls: how far they carry, how large they are, both in metres; how fast they change. */
  drift: z.strictObject({ strength: finite, scale: z.number().min(0.01).max(1000), pace: finite }),
  /** Turns a second. */
  spin: finite,
  /** A streak is as long as it goes in so many seconds. */
  shape: z.discriminatedUnion('kind', [
    z.strictObject({ kind: z.literal('round') }),
    z.strictObject({ kind: z.literal('square') }),
    z.strictObject({ kind: z.literal('streak'), seconds: z.number().min(0).max(10) }),
    /** Copies of a prop, and of the group that it is in, in what they wear: each its own way forward, with a random number of its own. */
    z.strictObject({ kind: z.literal('copies'), prop: reference(64) }),
  ]),
  /** Metres before a surface over which they fade. */
  soft: z.number().min(0).max(10),
  /** So many at once whenever a trigger of the effect is fired. */
  burst: z.strictObject({ trigger: id, count: z.number().int().min(0).max(5000) }).nullable(),
  visible: z.boolean(),
});

const viewpoint = z.strictObject({
  id,
  name: text(80),
  eye: vec3,
  target: vec3,
  fov: z.number().min(5).max(150),
  lensBend: finite,
});

const slope = z.number().min(0).max(16);
const offset = z.number().min(-4).max(4);
const power = z.number().min(0.05).max(16);
const optics = z.strictObject({
  /** Stops. */
  exposure: z.number().min(-16).max(16),
  bloom: z.strictObject({
    on: z.boolean(),
    /** Exposed luminance, linear. */
    threshold: z.number().min(0).max(1000),
    /** Half width of the soft part around the threshold, as a share of it. */
    knee: z.number().min(0).max(1),
    intensity: z.number().min(0).max(100),
    /** Share of the picture's height. */
    spread: z.number().min(0.001).max(1),
    quality: z.enum(['draft', 'full']),
  }),
  tone: z.enum(TONE_CURVES),
  /** At the very end, as a screen shows it (`optics/grade`). */
  grade: z
    .strictObject({
      slope: z.tuple([slope, slope, slope]),
      offset: z.tuple([offset, offset, offset]),
      power: z.tuple([power, power, power]),
      saturation: z.number().min(0).max(4),
    })
    .optional(),
});

const zone = z.strictObject({
  id,
  name: text(80),
  place: vec3,
  turn: quaternion,
  size: z.tuple([length, length, length]),
  blend: z.number().min(0).max(1000),
  optics,
});

export const stageSchema = z.strictObject({
  format: z.literal('wispen-stage'),
  version: z.literal(STAGE_VERSION),
  id: documentId,
  name: text(120).min(1),
  note: text(20000),
  props: z.array(prop).max(500),
  lights: z.array(light).max(32),
  surroundings: z.strictObject({
    asset: reference(64).nullable(),
    rgb: vec3,
    strength: z.number().min(0).max(1000),
    turn: finite,
    seen: z.boolean(),
  }),
  /** What is far takes on its colour. */
  haze: z
    .strictObject({
      rgb: vec3,
      /** A metre of it takes this share of the light, as far as it is small; at the height that it is counted from. */
      density: z.number().min(0).max(100),
      /** Metres of height over which it falls to 1 / e; null where it is as dense everywhere. */
      falls: z.number().positive().max(1e6).nullable(),
      /** The height that its density is told for, in metres. */
      from: finite,
    })
    .optional(),
  ground: z.strictObject({ on: z.boolean(), wall: z.boolean(), rgb: vec3, roughness: z.number().min(0).max(1) }),
  viewpoints: z.array(viewpoint).min(1).max(32),
  motes: z.array(moteField).max(32),
  optics,
  /** Boxes within which other optics hold, blended in over so many metres from their faces; the last that is entered counts most. */
  zones: z.array(zone).max(8),
  /** A slow move of the camera through viewpoints; once round, or there and back, in so many seconds. */
  move: z
    .strictObject({ viewpoints: z.array(reference(64)).max(32), seconds: z.number().min(0.5).max(3600), closed: z.boolean() })
    .optional(),
  spill: z.strictObject({ on: z.boolean(), strength: z.number().min(0).max(100) }),
  /** Files the stage refers to. */
  assets: z.record(id, asset).default({}),
  extra: z.record(z.string(), z.unknown()),
});

export type Stage = z.infer<typeof stageSchema>;
export type Prop = Stage['props'][number];
export type PropSource = Prop['source'];
export type Primitive = z.infer<typeof primitive>;
export type StageAsset = z.infer<typeof asset>;
export type Light = Stage['lights'][number];
export type Optics = Stage['optics'];
export type Viewpoint = Stage['viewpoints'][number];

export type StageResult = { readonly ok: true; readonly stage: Stage } | Extract<ReadResult, { ok: false }>;

export function readStage(parsed: unknown): StageResult {
  const refuse = (code: string, message: string): StageResult => ({
    ok: false,
    problems: [{ strand: null, code, message }] satisfies Problem[],
  });
  if (typeof parsed !== 'object' || parsed === null) return refuse('format', 'The file does not hold a stage.');
  const file = parsed as Record<string, unknown>;
  if (file.format !== 'wispen-stage') return refuse('format', 'The field "format" is not "wispen-stage".');
  if (file.version !== STAGE_VERSION)
    return refuse('version', `The stage is of version ${String(file.version)}; this Wispen reads version ${STAGE_VERSION}.`);
  const unwholesome = whatIsUnwholesome(parsed);
  if (unwholesome) return refuse('unwholesome', unwholesome);
  const checked = stageSchema.safeParse(parsed);
  if (checked.success) return { ok: true, stage: checked.data };
  const issue = checked.error.issues[0]!;
  return refuse('schema', `The stage cannot be read: ${issue.path.join('.') || 'the file'}: ${issue.message}.`);
}

/** The canonical text of a stage: equal stages are equal texts, whatever the order their fields were set in. */
export function writeStage(stage: Stage): string {
  const read = stageSchema.safeParse(stage);
  const { assets, extra, ...rest } = read.success ? read.data : stage;
  const props = rest.props.map((p) => ({
    ...p,
    parts: p.parts.map((part) => ({ ...part, overrides: sortedDeep(part.overrides) })),
  }));
  return `${JSON.stringify({ ...rest, props, assets: sortedDeep(assets), extra: sortedDeep(extra) }, null, 2)}\n`;
}
