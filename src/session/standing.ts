/** Props put on the stage, moved and measured by hand: where a new one stands, what its numbers are, what it is set on. */
import {
  MAX_PROPS,
  PRIMITIVES,
  addProp,
  duplicateProp,
  freshPropId,
  mirrorProp,
  placeProp,
  propOf,
  scaleProp,
  shapeProp,
  turnProp,
  type Vec3,
} from '../core/scene/edits.js';
import { shareProp } from '../core/scene/definitions.js';
import { type Box, boxOf, freePlace, groundHeight, roomAt, turnOf } from '../core/scene/placing.js';
import { moveTogether, scatterProp, spread, spreadAbout, turnTogether } from '../core/scene/scatter.js';
import { cut, resized } from '../core/scene/primitives.js';
import type { Prop, Stage } from '../core/scene/stage.js';
import { keepStandIn, whoWears } from '../core/scene/wearing.js';
import type { Hands } from './actions.js';
import type { Frames } from './frames.js';
import { keep, kept } from './kept.js';
import { propInHand } from './state.js';

/** What is needed of a bench to move its props. */
export type StageHands = Hands & { readonly frames: Pick<Frames, 'view' | 'frameRoom'> };

/** Half of the picture and a bit more: what stands nearer to its rim is hardly seen. */
const WELL_SEEN = 0.88;

/** Whether what takes such room about its place is well in the picture at a place, with nothing before it. */
function seesAt({ frames: { view } }: StageHands, own: Box, except: string | null = null) {
  return (at: Vec3): boolean => {
    if (!view) return true;
    const { low, high } = roomAt(own, at);
    const middle = low.map((v, axis) => (v + high[axis]!) / 2) as Vec3;
    const within = [low, high, middle].every((corner) => {
      const { x, y, ahead } = view.pointing.project(corner);
      return ahead && Math.abs(x - 0.5) < WELL_SEEN / 2 && Math.abs(y - 0.5) < WELL_SEEN / 2;
    });
    return within && view.pointing.sees(middle, except);
  };
}

/** The room that a prop takes: as it is drawn, since a mesh's size is only known there. */
const roomFor = ({ frames }: StageHands, prop: Prop): Box => frames.view?.scenery.roomOf(prop.id) ?? boxOf(prop);

/** A place for what takes such room about its own. @param height of its place; on the ground where it is not given */
export function placeFor(hands: StageHands, own: Box, height?: number): Vec3 {
  const { view } = hands.frames;
  return freePlace(hands.store.getState().stage, own, {
    near: propInHand(hands.store.getState())?.place ?? view?.looking.view.target ?? [0, 0, 0],
    ...(height === undefined ? {} : { height }),
    ...(view ? { right: view.looking.right } : {}),
    sees: seesAt(hands, own),
    obstacles: view?.scenery.obstacles ?? [],
    roomFor: (p) => roomFor(hands, p),
  });
}

/** Where the picture had no room for it, it is stepped back from until it shows the new prop and the one beside it. */
export function showBoth(hands: StageHands, own: Box, place: Vec3, beside: Prop | undefined): void {
  // It stands there already, and does not hide itself.
  if (seesAt(hands, own, hands.store.getState().inHand)(place)) return;
  const a = roomAt(own, place);
  const b = beside ? roomFor(hands, beside) : a;
  const both = (pick: (x: number, y: number) => number, end: 'low' | 'high') => a[end].map((v, k) => pick(v, b[end][k]!)) as Vec3;
  hands.frames.frameRoom({ low: both(Math.min, 'low'), high: both(Math.max, 'high') });
  hands.store.setState({ notice: 'The view stepped back, so that both are seen. V goes back.' });
}

/** Puts a primitive on the ground beside the others, in the picture: bare where some prop wears the effect already. */
export function addPrimitive(hands: StageHands, { name, source, turn = [0, 0, 0, 1] }: (typeof PRIMITIVES)[number]): void {
  const { stage, effect } = hands.store.getState();
  const id = freshPropId(stage, name);
  const worn = whoWears(stage, effect).some((w) => w.effect === effect.id);
  const room = boxOf({ source, turn, scale: [1, 1, 1], place: [0, 0, 0] });
  const [place, beside] = [placeFor(hands, room), propInHand(hands.store.getState())];
  hands.documents.editStage(`Add ${name.toLowerCase()}`, (draft) => {
    keepStandIn(draft, effect);
    addProp(draft, { id, name, source, place, turn, effect: worn ? null : effect.id });
  });
  hands.choosing.hand(id);
  showBoth(hands, room, place, beside);
}

/** A copy beside it, in the same dress, in hand. @param shared it shares what it is and wears with the first from then on */
export function duplicate(hands: StageHands, id: string, shared = false): void {
  const { stage, effect } = hands.store.getState();
  const prop = propOf(stage, id);
  const newId = freshPropId(stage, prop.name);
  // As high as the first: a lamp that hangs has a copy that hangs.
  const room = roomAt(roomFor(hands, prop), prop.place.map((v) => -v) as Vec3);
  const place = placeFor(hands, room, prop.place[1]);
  hands.documents.editStage(`Duplicate ${prop.name}`, (draft) => {
    keepStandIn(draft, effect);
    (shared ? shareProp : duplicateProp)(draft, { id, newId, place });
  });
  hands.choosing.hand(newId);
  showBoth(hands, room, place, prop);
}

/** A copy on the other side of the stage's middle, in hand. */
export function mirror(hands: StageHands, id: string): void {
  const { stage, effect } = hands.store.getState();
  const prop = propOf(stage, id);
  const newId = freshPropId(stage, prop.name);
  hands.documents.editStage(`Mirror ${prop.name}`, (draft) => {
    keepStandIn(draft, effect);
    mirrorProp(draft, { id, newId, at: 0 });
  });
  hands.choosing.hand(newId);
}

/** What copies of a prop are scattered over. */
export interface Scattering {
  readonly count: number;
  readonly seed: number;
  /** Metres along x and z, about the prop. */
  readonly size: readonly [number, number];
  /** Another prop, on whose surface they stand; null for the level of the prop itself. */
  readonly on: string | null;
  /** They share what they are and wear. */
  readonly shared: boolean;
}

/** Copies of a prop, spread evenly by a seed, in a group with it. */
export function scatter(hands: StageHands, id: string, { count, seed, size, on, shared }: Scattering): void {
  const { stage, effect } = hands.store.getState();
  const prop = propOf(stage, id);
  const surface = on === null ? null : (hands.frames.view?.scenery.pointsOf(on) ?? null);
  if (on !== null && !surface) return;
  const places = surface
    ? spread(count, seed, (u) => surface[Math.min(surface.length - 1, Math.floor(u * surface.length))]!)
    : spreadAbout(prop, count, seed, size);
  let made = 0;
  hands.documents.editStage(`Scatter ${prop.name}`, (draft) => {
    keepStandIn(draft, effect);
    made = scatterProp(draft, { id, places, seed, shared });
  });
  if (made < count) hands.store.setState({ notice: `A stage has room for ${MAX_PROPS} props: ${made} were scattered.` });
}

const TOGETHER = 'wispen.groups';
/** Whether a group goes where one of it is moved or turned: kept in this browser. */
export const groupsGo = (): boolean => kept(TOGETHER) !== 'apart';
export const letGroupsGo = (on: boolean): void => keep(TOGETHER, on ? 'together' : 'apart');

/** Changes a prop; the steps of one gesture are one. */
function change(hands: StageHands, id: string, label: string, recipe: (draft: Stage) => void, gesture: string): void {
  const { name } = propOf(hands.store.getState().stage, id);
  hands.documents.editStage(`${label} ${name}`, recipe, `${gesture} ${id}`);
}

export const placeAt = (hands: StageHands, id: string, place: Vec3): void =>
  change(hands, id, 'Move', (d) => (groupsGo() ? moveTogether : placeProp)(d, { id, place }), 'move');

/** @param degrees about x, y and z */
export const turnTo = (hands: StageHands, id: string, degrees: Vec3): void =>
  change(hands, id, 'Turn', (d) => (groupsGo() ? turnTogether : turnProp)(d, { id, turn: turnOf(degrees) }), 'turn');

export const scaleTo = (hands: StageHands, id: string, scale: Vec3): void =>
  change(hands, id, 'Scale', (d) => scaleProp(d, { id, scale }), 'scale');

/** @param k which of its sizes */
export const sizeTo = (hands: StageHands, id: string, k: number, value: number): void =>
  change(hands, id, 'Size', (d) => shapeProp(d, { id, source: resized(propOf(d, id).source, k, value) }), `size ${k}`);

/** @param k which way; @param count of parts, 1 to 512 */
export const cutInto = (hands: StageHands, id: string, k: number, count: number): void =>
  change(hands, id, 'Cuts of', (d) => shapeProp(d, { id, source: cut(propOf(d, id).source, k, count) }), `cuts ${k}`);

/** Sets a prop on the ground, as it is turned. */
export function toGround(hands: StageHands, id: string): void {
  const { stage } = hands.store.getState();
  const prop = propOf(stage, id);
  const height = prop.place[1] + groundHeight(roomFor(hands, prop));
  const place: Vec3 = [prop.place[0], Math.round(height * 1000) / 1000, prop.place[2]];
  hands.documents.editStage(`Set ${prop.name} on the ground`, (draft) => placeProp(draft, { id, place }));
}
