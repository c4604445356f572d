/** Lights put on the stage, and what drives them, by the hand. */
import { MAX_LIGHTS, addLight, driveLight, type Vec3 } from '../core/scene/edits.js';
import { driverIn, driversIn } from '../core/scene/driven.js';
import { pieceName, propIn } from '../core/scene/pieces.js';
import type { Light } from '../core/scene/stage.js';
import { whoWears } from '../core/scene/wearing.js';
import type { Effect, Strand } from '../core/effect/schema.js';
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
    const wearer = stage.props.find((p) => p.id === propIn(prop))!;
    const of = effects.get(id);
    const strand = of && meant(hands, of);
    if (!of || strand === undefined) return [];
    const by = { effect: id, variant, strand, scale: 1, seed: wearer.seed };
    return [{ id: `prop ${prop}`, name: `${pieceName(stage, prop)}, ${of.name}`, by }];
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
