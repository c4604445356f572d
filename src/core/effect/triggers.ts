/**
 * Triggers: events with a name, fired at times of the effect's own, each maybe at a place of the surface. An effect reads
 * of each its last four firings (`age`, `ripple`). Edits of them; times are seconds, places metres in the prop's own space.
 */
import { NEVER } from '../operators/inputs.js';
import type { Effect, Trigger } from './schema.js';

export { NEVER };
/** How many firings an effect can tell apart, from the latest on. */
export const REMEMBERED = 4;
/** The most firings that a trigger has room for, and the most triggers. */
export const MOST_FIRINGS = 256;
export const MOST_TRIGGERS = 32;
/** Firings nearer to one another than this are one, in seconds. */
export const SAME_MOMENT = 1 / 240;

export type Place = readonly [number, number, number];

export interface Firing {
  readonly at: number;
  /** Null for one that is of the whole surface. */
  readonly place: Place | null;
}

/** Two presses that are one: at one moment and place. */
export const sameFiring = (a: Firing, b: Firing): boolean =>
  Math.abs(a.at - b.at) < SAME_MOMENT && (a.place ?? []).join() === (b.place ?? []).join();

/** Firings by rising time; of two at one moment and place the later one of the list. */
export function firingsOf({ at, places }: Pick<Trigger, 'at' | 'places'>): Firing[] {
  const sorted = at.map((time, k): Firing => ({ at: time, place: places?.[k] ?? null })).sort((a, b) => a.at - b.at);
  return sorted.filter((f, k) => !sorted.slice(k + 1).some((later) => sameFiring(f, later)));
}

/** Those of earlier laps that a loop still hears, before its own. */
function ofEarlierLaps(firings: readonly Firing[], loop: number): Firing[] {
  const heard = firings.filter((f) => f.at < loop);
  const laps: Firing[] = [];
  for (let lap = 1; heard.length > 0 && laps.length < REMEMBERED; lap++)
    laps.unshift(...heard.map((f) => ({ ...f, at: f.at - lap * loop })));
  return laps.slice(-REMEMBERED);
}

/** Of several at one moment, at places of their own, each is heard a moment before the next: a table tells them by their times. */
function apart(firings: readonly Firing[]): Firing[] {
  let next = Infinity;
  const spaced = [...firings].reverse().map((f) => {
    next = Math.min(f.at, next - SAME_MOMENT);
    return { ...f, at: next };
  });
  return spaced.reverse();
}

/** What an effect hears of a trigger, by rising time. @param loop in which firings come again each lap; null where they do not */
export function heardOf(trigger: Pick<Trigger, 'at' | 'places'>, loop: number | null): Firing[] {
  if (loop === null || loop <= 0) return apart(firingsOf(trigger));
  // Before 0 is before the end of the lap before: it comes again in every lap.
  const within = trigger.at.map((at) => (at < 0 ? at - loop * Math.floor(at / loop) : at));
  const firings = apart(firingsOf({ ...trigger, at: within }));
  return [...ofEarlierLaps(firings, loop), ...firings];
}

/** The last firings at a time, the latest first; four at most. */
export const lastAt = (firings: readonly Firing[], time: number): Firing[] =>
  firings
    .filter((f) => f.at <= time)
    .slice(-REMEMBERED)
    .reverse();

/** The rows that firings take: so many, a power of two, that another firing is only another number. */
export function roomFor({ at }: Pick<Trigger, 'at'>): number {
  let room = 8;
  while (room < at.length) room *= 2;
  return room;
}

export const triggerOf = (effect: Pick<Effect, 'triggers'>, id: string): Trigger | undefined =>
  effect.triggers.find((t) => t.id === id) ?? effect.triggers.find((t) => t.name === id);

/** A trigger that no effect has yet: "Hit", "Hit 2", ... */
export function freshTrigger(effect: Pick<Effect, 'triggers'>, wanted = 'Hit'): Trigger {
  const [ids, names] = [new Set(effect.triggers.map((t) => t.id)), new Set(effect.triggers.map((t) => t.name))];
  const free = (taken: ReadonlySet<string>, name: (k: number) => string) => {
    let k = 1;
    while (taken.has(name(k))) k++;
    return name(k);
  };
  return {
    id: free(ids, (k) => `t${k}`),
    name: free(names, (k) => (k === 1 ? wanted : `${wanted} ${k}`)),
    at: [],
    duration: 1,
  };
}

export function addTrigger(draft: Effect, { trigger }: { trigger: Trigger }): void {
  if (draft.triggers.length < MOST_TRIGGERS) draft.triggers.push(structuredClone(trigger));
}

/** Takes a trigger away: strands that named it hear nothing any more. */
export function deleteTrigger(draft: Effect, { id }: { id: string }): void {
  draft.triggers = draft.triggers.filter((t) => t.id !== id);
}

export function changeTrigger(draft: Effect, { id, name, duration }: { id: string; name?: string; duration?: number }): void {
  const trigger = draft.triggers.find((t) => t.id === id);
  if (!trigger) return;
  const trimmed = name?.trim().slice(0, 80);
  if (trimmed) trigger.name = trimmed;
  if (duration !== undefined) trigger.duration = Math.max(0, duration);
}

/** Keeps firings by rising time, and what says nothing of them out of the file. */
function keep(trigger: Trigger, firings: readonly Firing[]): void {
  const at = firings.map((f) => f.at);
  const sorted = firingsOf({ at, places: firings.map((f) => (f.place ? [...f.place] : null)) }).slice(-MOST_FIRINGS);
  trigger.at = sorted.map((f) => f.at);
  if (sorted.some((f) => f.place)) trigger.places = sorted.map((f) => (f.place ? [...f.place] : null));
  else delete trigger.places;
}

/** Fires at a time; a firing that is there at that moment, at that place, is replaced. */
export function fire(draft: Effect, { id, firing }: { id: string; firing: Firing }): void {
  const trigger = draft.triggers.find((t) => t.id === id);
  if (trigger) keep(trigger, [...firingsOf(trigger), firing]);
}

/** Takes firings away, by their places in rising time. */
export function deleteFirings(draft: Effect, { id, firings }: { id: string; firings: readonly number[] }): void {
  const trigger = draft.triggers.find((t) => t.id === id);
  if (trigger)
    keep(
      trigger,
      firingsOf(trigger).filter((_, k) => !firings.includes(k)),
    );
}

/** Gives firings other times. One that lands on another takes its place. */
export function retimeFirings(
  draft: Effect,
  { id, firings, to }: { id: string; firings: readonly number[]; to: (time: number) => number },
): void {
  const trigger = draft.triggers.find((t) => t.id === id);
  if (!trigger) return;
  const [still, moved] = [[] as Firing[], [] as Firing[]];
  firingsOf(trigger).forEach((f, k) => (firings.includes(k) ? moved.push({ ...f, at: Math.max(0, to(f.at)) }) : still.push(f)));
  const free = still.filter((f) => moved.every((m) => Math.abs(m.at - f.at) >= SAME_MOMENT));
  keep(trigger, [...free, ...moved]);
}

/** An effect whose triggers are fired at other moments as well: live ones, which no file has. */
export function withFirings(effect: Effect, live: Readonly<Record<string, readonly Firing[]>>): Effect {
  if (effect.triggers.every((t) => !live[t.id]?.length)) return effect;
  const triggers = effect.triggers.map((t) => {
    const more = live[t.id];
    if (!more?.length) return t;
    const all = [...firingsOf(t), ...more];
    return { ...t, at: all.map((f) => f.at), places: all.map((f) => (f.place ? [...f.place] : null)) } as Trigger;
  });
  return { ...effect, triggers };
}
