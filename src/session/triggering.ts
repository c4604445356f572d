/**
 * Triggers, fired by the hand: at the time that is shown, maybe at a place of a prop. What is fired live belongs to the
 * session, and sounds again each time that moment comes, until it is kept or let go; while Record is on it is kept at once.
 */
import {
  MOST_TRIGGERS,
  REMEMBERED,
  addTrigger,
  changeTrigger,
  deleteFirings,
  deleteTrigger,
  fire,
  freshTrigger,
  retimeFirings,
  sameFiring,
  type Firing,
  type Place,
} from '../core/effect/triggers.js';
import { setInput } from '../core/effect/edits.js';
import type { Effect, Trigger } from '../core/effect/schema.js';
import type { Compiling } from './compiling.js';
import { onFrame, type CueHands } from './cueing.js';
import type { BenchState } from './state.js';

export interface TriggerHands extends CueHands {
  readonly compiling: Pick<Compiling, 'queue'>;
}

/** The trigger that a key or a press on a prop fires: the one taken in hand while it is there, else the first. */
export const triggerInHand = ({ effect, trigger }: Pick<BenchState, 'effect' | 'trigger'>): Trigger | undefined =>
  effect.triggers.find((t) => t.id === trigger) ?? effect.triggers[0];

export const takeTrigger = ({ store }: Pick<TriggerHands, 'store'>, id: string): void => store.setState({ trigger: id });

const named = (hands: TriggerHands, id: string): string =>
  hands.store.getState().effect.triggers.find((t) => t.id === id)?.name ?? id;

function setLive(hands: TriggerHands, id: string, firings: readonly Firing[]): void {
  hands.store.setState(({ firings: all }) => ({ firings: { ...all, [id]: firings } }));
  hands.compiling.queue();
}

/** Fires a trigger now. @param place of the prop that was hit, in its own space */
export function fireNow(hands: TriggerHands, id: string, place: Place | null = null): void {
  const { record, firings, snap, effect } = hands.store.getState();
  const { time } = hands.clock;
  // On the frame that is shown, not on the one after it: what is fired is seen.
  const firing = { at: snap ? Math.floor(time * effect.fps + 1e-6) / effect.fps : time, place };
  if (record) {
    hands.documents.edit(`Fire ${named(hands, id)}`, (draft) => fire(draft, { id, firing }));
    return;
  }
  // More than the last four of them nothing hears.
  const others = (firings[id] ?? []).filter((f) => !sameFiring(f, firing));
  setLive(hands, id, [...others, firing].slice(-REMEMBERED));
}

/** What was fired live becomes the effect's own. */
export function keepFirings(hands: TriggerHands, id: string): void {
  const live = hands.store.getState().firings[id] ?? [];
  if (live.length === 0) return;
  hands.documents.edit(`Keep ${live.length === 1 ? 'a firing' : `${live.length} firings`} of ${named(hands, id)}`, (draft) => {
    for (const firing of live) fire(draft, { id, firing });
  });
  setLive(hands, id, []);
}

export const letGo = (hands: TriggerHands, id: string): void => setLive(hands, id, []);

/** A new trigger, taken in hand. @param reader the strand's literal that is to name it */
export function newTrigger(hands: TriggerHands, reader?: { readonly strand: string; readonly input: string }): void {
  const { effect } = hands.store.getState();
  if (effect.triggers.length >= MOST_TRIGGERS) {
    hands.store.setState({ notice: `There are ${MOST_TRIGGERS} triggers, as many as there may be.` });
    return;
  }
  const trigger = freshTrigger(effect);
  hands.documents.edit(`Add the trigger ${trigger.name}`, (draft) => {
    addTrigger(draft, { trigger });
    if (reader) setInput(draft, { id: reader.strand, name: reader.input, input: { value: { text: trigger.id } } });
  });
  takeTrigger(hands, trigger.id);
}

export function dropTrigger(hands: TriggerHands, id: string): void {
  hands.documents.edit(`Delete the trigger ${named(hands, id)}`, (draft) => deleteTrigger(draft, { id }));
  setLive(hands, id, []);
}

export const renameTrigger = (hands: TriggerHands, id: string, name: string): void =>
  hands.documents.edit(`Rename ${named(hands, id)}`, (draft) => changeTrigger(draft, { id, name }));

export const setDuration = (hands: TriggerHands, id: string, duration: number): void =>
  hands.documents.edit(`Duration of ${named(hands, id)}`, (draft) => changeTrigger(draft, { id, duration }), `duration ${id}`);

export const dropFiring = (hands: TriggerHands, id: string, firings: readonly number[]): void =>
  hands.documents.edit(`Delete a firing of ${named(hands, id)}`, (draft) => deleteFirings(draft, { id, firings }));

/** Moves firings, from the effect as the drag found it. @param firings their places in rising time */
export function moveFiring(hands: TriggerHands, from: Effect, id: string, firings: readonly number[], by: number): void {
  const kept = from.triggers.find((t) => t.id === id);
  if (!kept) return;
  hands.documents.edit(
    `Move a firing of ${named(hands, id)}`,
    (draft) => {
      // From where the drag began: a firing that it is taken over on the way is not lost.
      draft.triggers = draft.triggers.map((t) => (t.id === id ? structuredClone(kept) : t));
      retimeFirings(draft, { id, firings, to: (time) => onFrame(hands, time + by) });
    },
    `move firing ${id}`,
  );
}
