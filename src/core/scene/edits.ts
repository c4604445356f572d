/** Changes of a stage, as functions on a draft of it. */
import { own } from '../base/wholesome.js';
import type { Value } from '../effect/schema.js';
import { WHOLE, partIn, partOf, propIn } from './pieces.js';
import type { Light, Primitive, Prop, PropSource, Stage, StageAsset, Viewpoint } from './stage.js';

export type Vec3 = [number, number, number];

export const MAX_PROPS = 500;

export const propOf = (stage: Stage, id: string): Prop => {
  const prop = stage.props.find((p) => p.id === id);
  if (!prop) throw new Error(`no prop ${id}`);
  return prop;
};

/** What can be put on a stage as it is. Turned by a quaternion where it is not to stand as it is made. */
export const PRIMITIVES: readonly { readonly name: string; readonly source: Primitive; readonly turn?: Prop['turn'] }[] = [
  { name: 'Sphere', source: { primitive: 'sphere', radius: 0.5 } },
  { name: 'Box', source: { primitive: 'box', size: [0.8, 0.8, 0.8] } },
  { name: 'Upright plane', source: { primitive: 'plane', size: [1.6, 1.6] } },
  { name: 'Lying plane', source: { primitive: 'plane', size: [2.4, 2.4] }, turn: [-Math.SQRT1_2, 0, 0, Math.SQRT1_2] },
  { name: 'Tube', source: { primitive: 'tube', radius: 0.045, length: 1.5 } },
  { name: 'Ring', source: { primitive: 'ring', radius: 0.5, thickness: 0.08 } },
  { name: 'Dome', source: { primitive: 'dome', radius: 0.8 } },
  { name: 'Cylinder', source: { primitive: 'cylinder', radius: 0.3, length: 1 } },
];

/** A name that no other prop of the stage has: "Tube 2". */
export function freshPropName(stage: Stage, name: string): string {
  const taken = new Set(stage.props.map((p) => p.name));
  const plain = name.replace(/ \d+$/, '');
  if (!taken.has(name)) return name;
  for (let k = 2; ; k++) if (!taken.has(`${plain} ${k}`)) return `${plain} ${k}`;
}

export function freshPropId(stage: Stage, name: string): string {
  const stem =
    name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .slice(0, 24) || 'prop';
  const taken = new Set(stage.props.map((p) => p.id));
  for (let k = 1; ; k++) if (!taken.has(`${stem}-${k}`)) return `${stem}-${k}`;
}

/** Adds a prop at a place. @param effect what it wears; null leaves it bare */
export function addProp(
  draft: Stage,
  {
    id,
    name,
    source,
    place,
    turn = [0, 0, 0, 1],
    scale = [1, 1, 1],
    effect,
  }: {
    id: string;
    name: string;
    source: PropSource;
    place: Vec3;
    turn?: Prop['turn'];
    scale?: Vec3;
    effect: string | null;
  },
): void {
  const seed = draft.props.reduce((most, p) => Math.max(most, p.seed), 0) + 1;
  draft.props.push({
    id,
    name: freshPropName(draft, name),
    source,
    place,
    turn,
    scale,
    seed,
    group: null,
    parts: effect === null ? [] : [{ part: WHOLE, effect, variant: null, overrides: {} }],
    paint: null,
    visible: true,
    locked: false,
  });
}

export function addAsset(draft: Stage, { key, asset }: { key: string; asset: StageAsset }): void {
  draft.assets[key] = asset;
}

/** With the same effect, variant and overrides, at a place and with a seed of its own: a thing of its own from then on. */
export function duplicateProp(draft: Stage, { id, newId, place }: { id: string; newId: string; place: Vec3 }): void {
  const prop = propOf(draft, id);
  const copy = JSON.parse(JSON.stringify(prop)) as Prop;
  copy.id = newId;
  copy.name = freshPropName(draft, prop.name);
  copy.place = place;
  copy.seed = draft.props.reduce((most, p) => Math.max(most, p.seed), 0) + 1;
  copy.locked = false;
  delete copy.definition;
  draft.props.splice(draft.props.indexOf(prop) + 1, 0, copy);
}

/**
 * A copy on the other side of a plane square to the stage's x axis: the left fin of a right one. Its faces stay outward,
 * and its paint is the same.
 * @param at where the plane is, metres
 */
export function mirrorProp(draft: Stage, { id, newId, at }: { id: string; newId: string; at: number }): void {
  const { place, turn, scale } = propOf(draft, id);
  duplicateProp(draft, { id, newId, place: [2 * at - place[0], place[1], place[2]] });
  const copy = propOf(draft, newId);
  // What is turned about an axis is turned about the mirrored axis, the other way round; the rest is a scale below 0.
  const [x, y, z, w] = turn;
  copy.turn = [x, -y + 0, -z + 0, w];
  copy.scale = [-scale[0], scale[1], scale[2]];
}

/** What a prop is made of where it wears nothing; undefined for what its file says, or grey. */
export function surfaceProp(draft: Stage, { id, surface }: { id: string; surface: Prop['surface'] }): void {
  const prop = propOf(draft, id);
  if (surface) prop.surface = surface;
  else delete prop.surface;
}

/** Puts a prop into a group, or with null takes it out. */
export function groupProp(draft: Stage, { id, group }: { id: string; group: string | null }): void {
  propOf(draft, id).group = group;
}

/** Lets go of files that no prop is made of or painted with. */
export function dropUnusedAssets(draft: Stage): void {
  const used = new Set(draft.props.flatMap((p) => ['asset' in p.source ? p.source.asset : null, p.paint]));
  for (const key of Object.keys(draft.assets)) if (!used.has(key)) delete draft.assets[key];
}

/** Takes a prop away, and with it the mesh and the paint that only it had. */
export function deleteProp(draft: Stage, { id }: { id: string }): void {
  const gone = propOf(draft, id);
  draft.props = draft.props.filter((p) => p !== gone);
  dropUnusedAssets(draft);
}

/** Paints a prop: its paint is a file of the stage's; null takes it off. */
export function paintProp(draft: Stage, { id, asset }: { id: string; asset: StageAsset | null }): void {
  const prop = propOf(draft, id);
  prop.paint = asset && `paint-${asset.sha256.slice(0, 12)}`;
  if (prop.paint !== null && asset) draft.assets[prop.paint] = asset;
  dropUnusedAssets(draft);
}

/** What the channels are called until they have names. */
export const CHANNEL_NAMES: NonNullable<Prop['channels']> = ['red', 'green', 'blue', 'alpha'];

/** Calls a channel of a prop's paint something. @param channel 0 to 3 */
export function nameChannel(draft: Stage, { id, channel, name }: { id: string; channel: number; name: string }): void {
  const prop = propOf(draft, id);
  prop.channels = (prop.channels ?? CHANNEL_NAMES).map((old, k) => (k === channel ? name : old)) as typeof CHANNEL_NAMES;
}

/**
 * Dresses a prop in an effect, or with null leaves it bare. Its variant and overrides are of that effect and go with it.
 * @param id of the prop, or of a piece of it
 */
export function dressProp(
  draft: Stage,
  { id, effect, variant = null }: { id: string; effect: string | null; variant?: string | null },
): void {
  const prop = propOf(draft, propIn(id));
  const part = 'asset' in prop.source ? partIn(id) : WHOLE;
  const now = partOf(prop, part);
  if (now && effect !== null && now.effect === effect) now.variant = variant;
  // What is left of a prop is bare where nothing is said of it; a named part says so, or it would wear what the rest wears.
  else if (effect === null && part === WHOLE) prop.parts = prop.parts.filter((p) => p !== now);
  else {
    const worn = { part, effect, variant, overrides: {} };
    if (now) prop.parts[prop.parts.indexOf(now)] = worn;
    else if (part === WHOLE) prop.parts.unshift(worn);
    else prop.parts.push(worn);
  }
}

/** A part of a prop is no longer by itself: it wears what the rest of the prop wears. @param id of the piece */
export function joinPart(draft: Stage, { id }: { id: string }): void {
  const prop = propOf(draft, propIn(id));
  prop.parts = prop.parts.filter((p) => p.part !== partIn(id));
}

/** One dial's value on one prop, or on a piece of it, alone; undefined takes it back to the variant's. */
export function setOverride(
  draft: Stage,
  { id, effect, dial, value }: { id: string; effect: string; dial: string; value: Value | string | undefined },
): void {
  const prop = propOf(draft, propIn(id));
  const worn = () => partOf(prop, partIn(id));
  if (worn()?.effect !== effect) dressProp(draft, { id, effect });
  const { overrides } = worn()!;
  if (value === undefined) delete overrides[dial];
  else overrides[dial] = value;
}

export function placeProp(draft: Stage, { id, place }: { id: string; place: Vec3 }): void {
  propOf(draft, id).place = place;
}

export function turnProp(draft: Stage, { id, turn }: { id: string; turn: Prop['turn'] }): void {
  propOf(draft, id).turn = turn;
}

export function scaleProp(draft: Stage, { id, scale }: { id: string; scale: Vec3 }): void {
  propOf(draft, id).scale = scale;
}

/** Makes a prop of another primitive, or of the same in another size. */
export function shapeProp(draft: Stage, { id, source }: { id: string; source: PropSource }): void {
  propOf(draft, id).source = source;
}

export function placeLight(draft: Stage, { id, place }: { id: string; place: Vec3 }): void {
  const light = draft.lights.find((l) => l.id === id);
  if (light) light.place = place;
}

/** A name that no other light of the stage has: "Point light 2". */
function freshLightName(stage: Stage, name: string): string {
  const taken = new Set(stage.lights.map((l) => l.name));
  if (!taken.has(name)) return name;
  for (let k = 2; ; k++) if (!taken.has(`${name} ${k}`)) return `${name} ${k}`;
}

export const MAX_LIGHTS = 32;
/** What can be put on a stage to light it. */
export const LIGHTS: readonly { readonly kind: Light['kind']; readonly name: string }[] = [
  { kind: 'sun', name: 'Sun' },
  { kind: 'point', name: 'Point light' },
  { kind: 'spot', name: 'Spot light' },
];

/** Adds a light. @param target what it shines at: of one that is far, or a spot */
export function addLight(
  draft: Stage,
  { id, kind, place, target }: { id: string; kind: Light['kind']; place: Vec3; target: Vec3 },
): void {
  const name = freshLightName(draft, LIGHTS.find((l) => l.kind === kind)?.name ?? 'Light');
  draft.lights.push({
    ...{ id, name, kind, place, target },
    ...{ rgb: [1, 1, 1], intensity: 1, shadow: kind !== 'point', drivenBy: null },
  });
}

export function deleteLight(draft: Stage, { id }: { id: string }): void {
  draft.lights = draft.lights.filter((l) => l.id !== id);
}

export const MAX_MOTE_FIELDS = 32;

/** Adds a mote field of ordinary numbers: a box of slow motes. @param effect of kind mote; null leaves it unseen */
export function addMotes(draft: Stage, { id, place, effect }: { id: string; place: Vec3; effect: string | null }): void {
  const taken = new Set(draft.motes.map((m) => m.name));
  let name = 'Motes';
  for (let k = 2; taken.has(name); k++) name = `Motes ${k}`;
  draft.motes.push({
    ...{ id, name, effect, variant: null, seed: draft.motes.length + 1, place, turn: [0, 0, 0, 1] },
    ...{ from: { kind: 'box', size: [2, 1.5, 2] }, rate: 40, life: 6, lifeSpread: 0.3, size: 0.012, sizeSpread: 0.5 },
    ...{ speed: 0.1, speedSpread: 0.5, heading: [0, 1, 0], spread: 0.4, gravity: 0 },
    ...{ drift: { strength: 0.15, scale: 0.6, pace: 0.1 }, spin: 0, shape: { kind: 'round' }, soft: 0.05, burst: null },
    visible: true,
  });
}

/** Changes a field's numbers. */
export function changeMotes(draft: Stage, { id, to }: { id: string; to: Partial<Stage['motes'][number]> }): void {
  const field = draft.motes.find((m) => m.id === id);
  if (field) Object.assign(field, to);
}

export function deleteMotes(draft: Stage, { id }: { id: string }): void {
  draft.motes = draft.motes.filter((m) => m.id !== id);
}

export const MAX_ZONES = 8;

/** Adds a zone: a box in which the stage's optics hold as they are, until they are turned there. */
export function addZone(draft: Stage, { id, place }: { id: string; place: Vec3 }): void {
  const taken = new Set(draft.zones.map((z) => z.name));
  let name = 'Zone';
  for (let k = 2; taken.has(name); k++) name = `Zone ${k}`;
  const optics = JSON.parse(JSON.stringify(draft.optics)) as Stage['optics'];
  draft.zones.push({ id, name, place, turn: [0, 0, 0, 1], size: [2, 2, 2], blend: 0.5, optics });
}

export function changeZone(draft: Stage, { id, to }: { id: string; to: Partial<Stage['zones'][number]> }): void {
  const zone = draft.zones.find((z) => z.id === id);
  if (zone) Object.assign(zone, to);
}

export function deleteZone(draft: Stage, { id }: { id: string }): void {
  draft.zones = draft.zones.filter((z) => z.id !== id);
}

/** The camera's slow move; undefined takes it away. */
export function setMove(draft: Stage, { move }: { move: Stage['move'] }): void {
  if (move) draft.move = move;
  else delete draft.move;
}

/** Has a light driven by an effect, or with null lets it shine as it is. */
export function driveLight(draft: Stage, { id, by }: { id: string; by: Light['drivenBy'] }): void {
  const light = draft.lights.find((l) => l.id === id);
  if (light) light.drivenBy = by;
}

export function setViewpoint(draft: Stage, { viewpoint }: { viewpoint: Viewpoint }): void {
  const at = draft.viewpoints.findIndex((v) => v.id === viewpoint.id);
  if (at < 0) draft.viewpoints.push(viewpoint);
  else draft.viewpoints[at] = viewpoint;
}

/** The last one stays: a stage is seen from somewhere. */
export function deleteViewpoint(draft: Stage, { id }: { id: string }): void {
  if (draft.viewpoints.length > 1) draft.viewpoints = draft.viewpoints.filter((v) => v.id !== id);
}

/** An id and a name that no other viewpoint has: "Viewpoint 2". */
export function freshViewpoint(viewpoints: readonly Viewpoint[]): Pick<Viewpoint, 'id' | 'name'> {
  for (let k = viewpoints.length + 1; ; k++) {
    const [id, name] = [`view-${k}`, `Viewpoint ${k}`];
    if (!viewpoints.some((v) => v.id === id || v.name === name)) return { id, name };
  }
}

/** The stage of a copied effect: an id and a name of its own, and the copy worn where the original was. */
export function copyStage(
  stage: Stage,
  { id, name, worn }: { id: string; name: string; worn: Readonly<Record<string, string>> },
): Stage {
  return {
    ...stage,
    id,
    name,
    props: stage.props.map((prop) => ({
      ...prop,
      parts: prop.parts.map((part) => ({
        ...part,
        effect: part.effect === null ? null : (own(worn, part.effect) ?? part.effect),
      })),
    })),
    lights: stage.lights.map((light) => ({
      ...light,
      drivenBy: light.drivenBy && { ...light.drivenBy, effect: own(worn, light.drivenBy.effect) ?? light.drivenBy.effect },
    })),
    motes: stage.motes.map((field) => ({
      ...field,
      effect: field.effect === null ? null : (own(worn, field.effect) ?? field.effect),
    })),
  };
}
