/** Lights and motes put on the stage, and what drives a light, by the hand. */
import { MAX_LIGHTS, MAX_MOTE_FIELDS, addLight, addMotes, driveLight, type Vec3 } from '../core/scene/edits.js';
import { driverIn, driversIn } from '../core/scene/driven.js';
import type { Light } from '../core/scene/stage.js';
import { whoWears } from '../core/scene/wearing.js';
import { setKind } from '../core/effect/edits.js';
import { outputRecord } from '../core/effect/outputs.js';
import { strandsOf, type Effect, type Strand } from '../core/effect/schema.js';
import type { Hands } from './actions.js';
import type { Compiling } from './compiling.js';
import { propInHand } from './state.js';

export interface LightHands extends Hands {
  readonly compiling: Hands['compiling'] & Pick<Compiling, 'materials' | 'otherEffects'>;
}

/** What a light may follow: a prop, as it wears its effect; or an effect that no prop of the stage has like that. */
export interface Leader {
  readonly id: string;
  readonly name: string;
  readonly by: NonNullable<Light['drivenBy']>;
}

const effectsNow = (hands: LightHands): ReadonlyMap<string, Effect> => {
  const { effect } = hands.store.getState();
  return new Map([...hands.compiling.otherEffects, [effect.id, effect]]);
};

/** What of an effect drives a light where nothing is chosen: a strand, or with null an effect of kind light itself. */
const meant = (hands: LightHands, effect: Effect): string | null | undefined =>
  effect.kind === 'light' ? null : driverIn(effect, hands.compiling.materials.of(effect).program)?.id;

/** All that a light of the stage may follow, in the order of the props. */
export function leaders(hands: LightHands): Leader[] {
  const { stage, effect } = hands.store.getState();
  const effects = effectsNow(hands);
  const worn = whoWears(stage, effect).flatMap(({ prop, effect: id, variant }): Leader[] => {
    const wearer = stage.props.find((p) => p.id === prop)!;
    const of = effects.get(id);
    const strand = of && meant(hands, of);
    if (!of || strand === undefined) return [];
    const by = { effect: id, variant, strand, scale: 1, seed: wearer.seed };
    return [{ id: `prop ${prop}`, name: `${wearer.name}, ${of.name}`, by }];
  });
  // An effect of a light stands on no prop.
  const strand = effect.kind === 'light' ? null : undefined;
  const own =
    strand === null ? [{ id: 'own', name: effect.name, by: { effect: effect.id, variant: null, strand, scale: 1 } }] : [];
  return [...worn, ...own];
}

/** Which of them a light follows: the prop of that effect, variant and seed; null for one that is no prop's. */
export const leaderOf = (all: readonly Leader[], by: NonNullable<Light['drivenBy']>): Leader | null =>
  all.find((l) => l.by.effect === by.effect && l.by.variant === by.variant && (l.by.seed ?? 0) === (by.seed ?? 0)) ?? null;

/** The effect that drives a light, and what of it could; null while it is not at hand. */
export function driverOf(
  hands: LightHands,
  by: NonNullable<Light['drivenBy']>,
): { readonly effect: Effect; readonly strands: readonly Strand[] } | null {
  const effect = effectsNow(hands).get(by.effect);
  return effect ? { effect, strands: driversIn(effect, hands.compiling.materials.of(effect).program) } : null;
}

/** Has a light follow something, as strongly as it did before; null lets it shine as it is. */
export function follow(hands: LightHands, light: Light, leader: Leader | null): void {
  const scale = light.drivenBy?.scale ?? 1;
  hands.documents.editStage(leader ? `${light.name} follows ${leader.name}` : `${light.name} follows nothing`, (draft) =>
    driveLight(draft, { id: light.id, by: leader && { ...leader.by, scale } }),
  );
}

/** Changes what drives a light; the steps of one gesture are one. */
export function driveBy(hands: LightHands, light: Light, to: Partial<NonNullable<Light['drivenBy']>>): void {
  hands.documents.editStage(
    `What drives ${light.name}`,
    (draft) => {
      const by = draft.lights.find((l) => l.id === light.id)?.drivenBy;
      if (by) driveLight(draft, { id: light.id, by: { ...by, ...to } });
    },
    `drive ${light.id}`,
  );
}

/** Metres from what it shines at, by kind: a sun stands far, a point hangs near. */
const STANDS: Readonly<Record<string, Vec3>> = { sun: [3, 5, 4], point: [0.6, 1.2, 0.8], spot: [1, 2.2, 1.2] };

/** Puts a light over the prop in hand. @returns its id; null where there are as many as a stage has room for */
export function newLight(hands: Hands, kind: Light['kind']): string | null {
  const { stage } = hands.store.getState();
  if (stage.lights.length >= MAX_LIGHTS) {
    hands.store.setState({ notice: `A stage has room for ${MAX_LIGHTS} lights.` });
    return null;
  }
  const target: Vec3 = [...(propInHand(hands.store.getState())?.place ?? [0, 0, 0])];
  const [x, y, z] = STANDS[kind] ?? STANDS.point!;
  const taken = new Set(stage.lights.map((l) => l.id));
  let id = '';
  for (let k = 1; id === '' || taken.has(id); k++) id = `${kind}-${k}`;
  const place: Vec3 = [target[0] + x, target[1] + y, target[2] + z];
  hands.documents.editStage('Add a light', (draft) => addLight(draft, { id, kind, place, target }));
  return id;
}

/** Puts a mote field about the prop in hand, in the effect on the bench where that is of motes. @returns its id; null where there is no room */
export function newMotes(hands: Hands): string | null {
  const { stage, effect } = hands.store.getState();
  if (stage.motes.length >= MAX_MOTE_FIELDS) {
    hands.store.setState({ notice: `A stage has room for ${MAX_MOTE_FIELDS} mote fields.` });
    return null;
  }
  const [x, y, z] = propInHand(hands.store.getState())?.place ?? [0, 0, 0];
  const taken = new Set(stage.motes.map((m) => m.id));
  let id = '';
  for (let k = 1; id === '' || taken.has(id); k++) id = `motes-${k}`;
  hands.documents.editStage('Add motes', (draft) =>
    addMotes(draft, { id, place: [x, y + 0.75, z], effect: effect.kind === 'mote' ? effect.id : null }),
  );
  return id;
}

/** Makes the effect on the bench one of another kind; motes and lights come to stand on the stage, where none of it does. */
export function makeOfKind(hands: Hands, kind: Effect['kind']): void {
  let gone: string[] = [];
  hands.documents.edit(`Make it an effect of a ${kind}`, (draft) => {
    gone = setKind(draft, kind).map((name) => outputRecord(name).label);
  });
  if (gone.length > 0)
    hands.store.setState({ notice: `A ${kind} has no ${gone.join(', no ')}: what was connected there is let go.` });
  const { stage, effect } = hands.store.getState();
  if (kind === 'mote' && !stage.motes.some((field) => field.effect === effect.id)) newMotes(hands);
}

/** Every strand that a light's sheet has, by its id, for what is said of it. */
export const strandName = (effect: Effect, id: string | null): string =>
  id === null ? 'colour and intensity' : (strandsOf(effect).find((s) => s.id === id)?.name ?? id);
