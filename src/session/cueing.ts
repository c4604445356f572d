/** Keys of cues, set and moved by the hand: at the time that is shown, on whole frames while that is wished. */
import { dialLabel } from '../core/effect/edits.js';
import * as cues from '../core/effect/cues.js';
import type { CueKey, Cue, Dial, Ease, Effect, Value } from '../core/effect/schema.js';
import type { Clock } from './clock.js';
import type { Documents } from './documents.js';
import { dialAt, exposeInput, freshDial, literalOf, optionShown } from './showing.js';
import type { Choosing } from './choosing.js';
import type { BenchStore } from './state.js';

/** What whoever keys needs of a bench. */
export interface CueHands {
  readonly store: BenchStore;
  readonly documents: Documents;
  readonly clock: Pick<Clock, 'time' | 'set' | 'pause'>;
}

/** A time as keys have it: on a whole frame, or as it is. */
export const onFrame = (hands: Pick<CueHands, 'store'>, time: number): number => {
  const { snap, effect } = hands.store.getState();
  return snap ? Math.round(time * effect.fps) / effect.fps : time;
};

/** The keys of a dial by rising time; none where no cue holds it. */
export const keysOf = (effect: Effect, dial: string): CueKey[] => cues.byTime(cues.cueOf(effect, dial)?.keys ?? []);

/** What a dial is at a time: what its cue says, else what the chosen prop, its variant or the literal does. */
function valueAt(hands: CueHands, { id, strand, input }: Dial, time: number): Value | undefined {
  const { effect, variant, overrides } = hands.store.getState();
  const cue = cues.cueOf(effect, id);
  if (cue) return cues.cueAt(cue, time);
  const word = optionShown(effect, { variant, overrides }, strand, input);
  return word === undefined ? literalOf(effect, { variant, overrides }, strand, input) : { text: word };
}

const labelOf = (hands: CueHands, dial: string): string => {
  const { effect } = hands.store.getState();
  const found = effect.dials.find((d) => d.id === dial);
  return found ? dialLabel(effect, found) : dial;
};

/** Takes a cue in hand, with some of its keys chosen. A curve that is open follows; a closed one is not opened by it. */
export const takeLane = ({ store }: Pick<CueHands, 'store'>, dial: string, keys: readonly number[] = []): void =>
  store.setState(({ lane }) => ({ lane: { dial, keys, curve: lane?.curve ?? false } }));

/** Opens the curve of a cue, or closes it. */
export const openCurve = ({ store }: Pick<CueHands, 'store'>, dial: string, curve: boolean): void =>
  store.setState(({ lane }) => ({ lane: { dial, keys: lane?.dial === dial ? lane.keys : [], curve } }));

/** Sets a key at the time that is shown, of the value that the dial has; where one stands there, it is taken away. */
export function toggleKey(hands: CueHands, strand: string, input: string): void {
  const { effect } = hands.store.getState();
  const time = onFrame(hands, hands.clock.time);
  const dial = dialAt(effect, strand, input) ?? freshDial(effect, strand, input);
  const at = cues.keyAt(keysOf(effect, dial.id), time);
  if (at >= 0) return deleteKeys(hands, dial.id, [at]);
  const value = valueAt(hands, dial, time);
  if (value === undefined) return;
  const there = effect.dials.some((d) => d.id === dial.id);
  hands.documents.edit(`Key ${dialLabel(effect, dial)}`, (draft) => {
    if (!there) exposeInput(draft, dial);
    cues.setKey(draft, { dial: dial.id, time, value });
  });
  choseKeyAt(hands, dial.id, time);
}

function choseKeyAt(hands: CueHands, dial: string, time: number): void {
  const at = cues.keyAt(keysOf(hands.store.getState().effect, dial), time);
  takeLane(hands, dial, at < 0 ? [] : [at]);
}

const RECORD_IT = 'turn Record on to key it here, or take its keys away.';

/** Turns recording on or off; what asked for that has been answered then. */
export function setRecord(hands: Pick<CueHands, 'store'>, record: boolean): void {
  const { notice } = hands.store.getState();
  hands.store.setState({ record, notice: record && notice?.endsWith(RECORD_IT) ? null : notice });
}

/**
 * A dial that a cue holds is keyed while it is recorded, else it says so.
 * @returns whether a cue holds it
 */
export function keyOrSay(hands: CueHands, { id }: Dial, value: Value): boolean {
  const { effect, record } = hands.store.getState();
  if (!cues.cueOf(effect, id)) return false;
  const label = labelOf(hands, id);
  if (!record) {
    hands.store.setState({ notice: `A cue holds ${label}: ${RECORD_IT}` });
    return true;
  }
  const time = onFrame(hands, hands.clock.time);
  hands.documents.edit(`Key ${label}`, (draft) => cues.setKey(draft, { dial: id, time, value }), `key ${id} ${time.toFixed(4)}`);
  choseKeyAt(hands, id, time);
  return true;
}

export function deleteKeys(hands: CueHands, dial: string, keys: readonly number[]): void {
  const label = labelOf(hands, dial);
  hands.documents.edit(keys.length === 1 ? `Delete a key of ${label}` : `Delete ${keys.length} keys of ${label}`, (draft) =>
    cues.deleteKeys(draft, { dial, keys }),
  );
  takeLane(hands, dial);
}

/** Adds a key where the playhead is, on the line as it goes. */
export function addKey(hands: CueHands, dial: string): void {
  const { effect } = hands.store.getState();
  const cue = cues.cueOf(effect, dial);
  if (!cue) return;
  const time = onFrame(hands, hands.clock.time);
  hands.documents.edit(`Key ${labelOf(hands, dial)}`, (draft) =>
    cues.setKey(draft, { dial, time, value: cues.cueAt(cue, time) }),
  );
  choseKeyAt(hands, dial, time);
}

/** Goes to the key before or after the time that is shown. */
export function stepToKey(hands: CueHands, dial: string, way: 1 | -1): void {
  const keys = keysOf(hands.store.getState().effect, dial);
  const { time } = hands.clock;
  const beside = way > 0 ? keys.findIndex((k) => k.time > time + 1e-3) : keys.findLastIndex((k) => k.time < time - 1e-3);
  if (beside < 0) return;
  hands.clock.pause();
  hands.clock.set(keys[beside]!.time);
  takeLane(hands, dial, [beside]);
}

/** What a drag does to keys, from the effect as it found it: one step of the history until the hand lets go. */
export interface KeyDrag {
  readonly from: Effect;
  readonly dial: string;
  /** By their places in rising time. */
  readonly keys: readonly number[];
}

/** Moves keys by some seconds, and numbers by some height. */
export function moveKeys(hands: CueHands, drag: KeyDrag, by: number, raise = 0): void {
  const { from, dial, keys } = drag;
  const to = (time: number) => Math.max(0, onFrame(hands, time + by));
  retime(hands, drag, `Move ${keys.length === 1 ? 'a key' : `${keys.length} keys`}`, to, raise);
  const there = keysOf(from, dial);
  const now = keysOf(hands.store.getState().effect, dial);
  takeLane(
    hands,
    dial,
    [...new Set(keys.map((k) => cues.keyAt(now, to(there[k]!.time))))].filter((k) => k >= 0),
  );
}

/** Scales a run of keys about a time. */
export const scaleKeys = (hands: CueHands, drag: KeyDrag, about: number, factor: number): void =>
  retime(hands, drag, `Scale ${drag.keys.length} keys`, (time) => onFrame(hands, about + (time - about) * factor), 0);

function retime(
  hands: CueHands,
  { from, dial, keys }: KeyDrag,
  label: string,
  to: (time: number) => number,
  raise: number,
): void {
  const cue = cues.cueOf(from, dial);
  if (!cue) return;
  hands.documents.edit(
    `${label} of ${labelOf(hands, dial)}`,
    (draft) => {
      // From where the drag began: a key that it is taken over on the way is not lost.
      draft.cues = draft.cues.map((c) => (c.dial === dial ? structuredClone(cue) : c));
      const sorted = keysOf(draft, dial);
      for (const k of keys) if (typeof sorted[k]?.value === 'number') sorted[k].value += raise;
      cues.retimeKeys(draft, { dial, keys, to });
    },
    `retime ${dial}`,
  );
}

export function changeKeys(hands: CueHands, dial: string, keys: readonly number[], change: { value?: Value; ease?: Ease }): void {
  const what = change.ease === undefined ? 'value' : 'easing';
  hands.documents.edit(
    `Change the ${what} of ${keys.length === 1 ? 'a key' : `${keys.length} keys`} of ${labelOf(hands, dial)}`,
    (draft) => cues.changeKeys(draft, { dial, keys, ...change }),
    `${what} ${dial} ${keys.join()}`,
  );
}

export const setBeyond = (hands: CueHands, dial: string, change: { before?: Cue['before']; after?: Cue['after'] }): void =>
  hands.documents.edit(`Beyond the keys of ${labelOf(hands, dial)}`, (draft) => cues.setBeyond(draft, { dial, ...change }));

/** Puts keys among those that are there, or in their stead, the earliest at a time: asked where there are some. */
export function bringKeys(
  hands: CueHands & { readonly choosing: Pick<Choosing, 'ask'> },
  dial: string,
  keys: readonly CueKey[],
  at = onFrame(hands, hands.clock.time),
): void {
  const there = keysOf(hands.store.getState().effect, dial).length;
  if (there === 0) return pasteKeys(hands, dial, keys, at, false);
  const count = (n: number) => `${n} key${n === 1 ? '' : 's'}`;
  hands.choosing.ask({
    text: `${labelOf(hands, dial)} has ${count(there)} already; ${count(keys.length)} would come.`,
    yes: 'Add them',
    act: () => pasteKeys(hands, dial, keys, at, false),
    or: { yes: 'Replace all', act: () => pasteKeys(hands, dial, keys, at, true) },
  });
}

function pasteKeys(hands: CueHands, dial: string, keys: readonly CueKey[], at: number, replaces: boolean): void {
  let left = 0;
  const into = `${replaces ? 'Replace the keys of' : `Paste ${keys.length} keys into`} ${labelOf(hands, dial)}`;
  hands.documents.edit(into, (draft) => {
    left = cues.pasteKeys(draft, { dial, at, keys, replaces });
  });
  if (left > 0) hands.store.setState({ notice: `${left} keys had no room: a cue has ${cues.MOST_KEYS} at most.` });
  takeLane(hands, dial);
}

/** Strands whose dials cues hold, in the order of the dials: a lane each. */
export const lanesOf = (effect: Effect): { readonly dial: Dial; readonly cue: Cue }[] =>
  effect.dials.flatMap((dial) => {
    const cue = cues.cueOf(effect, dial.id);
    return cue && effect.strands.some((s) => s.id === dial.strand) ? [{ dial, cue }] : [];
  });
