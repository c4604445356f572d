/** Props put on the stage, moved and measured by hand: where a new one stands, what its numbers are, what it is set on. */
import {
  PRIMITIVES,
  addProp,
  duplicateProp,
  freshPropId,
  placeProp,
  propOf,
  scaleProp,
  shapeProp,
  turnProp,
  type Vec3,
} from '../core/scene/edits.js';
import { boxOf, freePlace, onGround, resized, turnOf, type Box } from '../core/scene/placing.js';
import type { Prop, Stage } from '../core/scene/stage.js';
import { keepStandIn, whoWears } from '../core/scene/wearing.js';
import type { Hands } from './actions.js';
import type { Frames } from './frames.js';
import { propInHand } from './state.js';

/** What is needed of a bench to move its props. */
export type StageHands = Hands & { readonly frames: Pick<Frames, 'view' | 'frameRoom'> };

/** Where a new prop is looked for: beside the one in hand, or about what is looked at. */
function about(hands: StageHands): Vec3 {
  return propInHand(hands.store.getState())?.place ?? hands.frames.view?.looking.view.target ?? [0, 0, 0];
}

/** Half of the picture and a bit more: what stands nearer to its rim is hardly seen. */
const WELL_SEEN = 0.88;

/** Whether a prop that stands somewhere is well in the picture, with nothing before it. */
function seesAt({ frames: { view } }: StageHands, standing: Pick<Prop, 'source' | 'turn' | 'scale'>) {
  return (at: Vec3): boolean => {
    if (!view) return true;
    const { low, high } = boxOf({ ...standing, place: at });
    const middle = low.map((v, axis) => (v + high[axis]!) / 2) as Vec3;
    const within = [low, high, middle].every((corner) => {
      const { x, y, ahead } = view.pointing.project(corner);
      return ahead && Math.abs(x - 0.5) < WELL_SEEN / 2 && Math.abs(y - 0.5) < WELL_SEEN / 2;
    });
    return within && view.pointing.sees(middle);
  };
}

/** @param height of its place; on the ground where it is not given */
function placeFor(hands: StageHands, standing: Pick<Prop, 'source' | 'turn' | 'scale'>, height?: number): Vec3 {
  const { view } = hands.frames;
  const { stage } = hands.store.getState();
  return freePlace(
    stage,
    { ...standing, place: [0, 0, 0] },
    {
      near: about(hands),
      ...(height === undefined ? {} : { height }),
      ...(view ? { right: view.looking.right } : {}),
      sees: seesAt(hands, standing),
      obstacles: view?.scenery.obstacles ?? [],
      roomFor: (p) => view?.scenery.roomOf(p.id) ?? null,
    },
  );
}

/** Where the picture had no room for it, it is stepped back from until it shows the new prop and the one beside it. */
function showBoth(
  hands: StageHands,
  standing: Pick<Prop, 'source' | 'turn' | 'scale' | 'place'>,
  beside: Prop | undefined,
): void {
  if (seesAt(hands, standing)(standing.place)) return;
  const [a, b] = [boxOf(standing), beside ? boxOf(beside) : boxOf(standing)];
  const both = (pick: (x: number, y: number) => number, end: 'low' | 'high') => a[end].map((v, k) => pick(v, b[end][k]!)) as Vec3;
  hands.frames.frameRoom({ low: both(Math.min, 'low'), high: both(Math.max, 'high') });
}

/** Puts a primitive on the ground beside the others, in the picture: bare where some prop wears the effect already. */
export function addPrimitive(hands: StageHands, { name, source, turn = [0, 0, 0, 1] }: (typeof PRIMITIVES)[number]): void {
  const { stage, effect } = hands.store.getState();
  const id = freshPropId(stage, name);
  const worn = whoWears(stage, effect).some((w) => w.effect === effect.id);
  const standing = { source, turn, scale: [1, 1, 1] as Vec3 };
  const [place, beside] = [placeFor(hands, standing), propInHand(hands.store.getState())];
  hands.documents.editStage(`Add ${name.toLowerCase()}`, (draft) => {
    keepStandIn(draft, effect);
    addProp(draft, { id, name, source, place, turn, effect: worn ? null : effect.id });
  });
  hands.choosing.hand(id);
  showBoth(hands, { ...standing, place }, beside);
}

/** A copy beside it, in the same dress, in hand. */
export function duplicate(hands: StageHands, id: string): void {
  const { stage, effect } = hands.store.getState();
  const prop = propOf(stage, id);
  const newId = freshPropId(stage, prop.name);
  // As high as the first: a lamp that hangs has a copy that hangs.
  const place = placeFor(hands, prop, prop.place[1]);
  hands.documents.editStage(`Duplicate ${prop.name}`, (draft) => {
    keepStandIn(draft, effect);
    duplicateProp(draft, { id, newId, place });
  });
  hands.choosing.hand(newId);
  showBoth(hands, { ...prop, place }, prop);
}

/** Changes a prop; the steps of one gesture are one. */
function change(hands: StageHands, id: string, label: string, recipe: (draft: Stage) => void, gesture: string): void {
  const { name } = propOf(hands.store.getState().stage, id);
  hands.documents.editStage(`${label} ${name}`, recipe, `${gesture} ${id}`);
}

export const placeAt = (hands: StageHands, id: string, place: Vec3): void =>
  change(hands, id, 'Move', (d) => placeProp(d, { id, place }), 'move');

/** @param degrees about x, y and z */
export const turnTo = (hands: StageHands, id: string, degrees: Vec3): void =>
  change(hands, id, 'Turn', (d) => turnProp(d, { id, turn: turnOf(degrees) }), 'turn');

export const scaleTo = (hands: StageHands, id: string, scale: Vec3): void =>
  change(hands, id, 'Scale', (d) => scaleProp(d, { id, scale }), 'scale');

/** @param k which of its sizes */
export const sizeTo = (hands: StageHands, id: string, k: number, value: number): void =>
  change(hands, id, 'Size', (d) => shapeProp(d, { id, source: resized(propOf(d, id).source, k, value) }), `size ${k}`);

/** Sets a prop on the ground, as it is turned. */
export function toGround(hands: StageHands, id: string): void {
  const { stage } = hands.store.getState();
  const prop = propOf(stage, id);
  const room: Box | null = hands.frames.view?.scenery.roomOf(id) ?? null;
  // What is drawn knows a mesh's own size; a primitive's is known without.
  const height = 'asset' in prop.source && room ? prop.place[1] - room.low[1] : onGround(prop);
  const place: Vec3 = [prop.place[0], Math.round(height * 1000) / 1000, prop.place[2]];
  hands.documents.editStage(`Set ${prop.name} on the ground`, (draft) => placeProp(draft, { id, place }));
}
