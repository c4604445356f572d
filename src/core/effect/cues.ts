/** Cues: what a dial is at a time, and the edits of its keys. Times are seconds; keys are kept by rising time. */
import BezierEasing from 'bezier-easing';
import { linearOf, oklabOf, type Row } from '../base/oklab.js';
import {
  factorOf,
  isColour,
  isWritten,
  type Beyond,
  type Colour,
  type Cue,
  type CueKey,
  type Ease,
  type Effect,
  type Value,
} from './schema.js';

/** Keys nearer to one another than this are one, in seconds: a quarter of a frame at 60 a second. */
const SAME = 1 / 240;

/** Easings by the names that CSS gives them (CSS Easing Functions Level 1); `hold` stays until the next key. */
export const EASES = {
  hold: 'step',
  linear: 'linear',
  ease: [0.25, 0.1, 0.25, 1],
  'ease-in': [0.42, 0, 1, 1],
  'ease-out': [0, 0, 0.58, 1],
  'ease-in-out': 'smooth',
} as const satisfies Record<string, Ease>;

/** The name of an easing; `free` where it has none. */
export function easeName(ease: Ease): keyof typeof EASES | 'free' {
  const same = (other: Ease) => JSON.stringify(other) === JSON.stringify(ease);
  return (Object.keys(EASES) as (keyof typeof EASES)[]).find((name) => same(EASES[name])) ?? 'free';
}

export const handlesOf = (ease: Ease): readonly [number, number, number, number] =>
  ease === 'linear' ? [0, 0, 1, 1] : ease === 'smooth' ? [0.42, 0, 0.58, 1] : ease === 'step' ? [0, 0, 1, 0] : ease;

/** What an easing makes of progress 0..1. */
export function easing(ease: Ease): (progress: number) => number {
  if (ease === 'step') return (progress) => (progress < 1 ? 0 : 1);
  return ease === 'linear' ? (progress) => progress : BezierEasing(...handlesOf(ease));
}

export const cueOf = (effect: Effect, dial: string): Cue | undefined => effect.cues.find((c) => c.dial === dial);
export const byTime = (keys: readonly CueKey[]): CueKey[] => [...keys].sort((a, b) => a.time - b.time);

/** The time at which a cue's keys are read: beyond them it stays, begins again, or goes to and fro. */
function withinKeys({ before = 'hold', after = 'hold' }: Cue, first: number, last: number, time: number): number {
  const how = time < first ? before : time > last ? after : 'hold';
  const span = last - first;
  if (how === 'hold' || span <= 0) return time;
  const laps = (time - first) / (how === 'loop' ? span : 2 * span);
  const lap = laps - Math.floor(laps);
  return first + span * (how === 'loop' ? lap : 1 - Math.abs(2 * lap - 1));
}

/** Between two values of one form: colours in OKLab, as bright as they shine. */
function between(a: Value, b: Value, share: number): Value {
  const mix = (p: number, q: number) => p + (q - p) * share;
  if (typeof a === 'number' && typeof b === 'number') return mix(a, b);
  if (Array.isArray(a) && Array.isArray(b)) return a.map((v, k) => mix(v, b[k] ?? v)) as Value;
  if (isColour(a) && isColour(b)) {
    if (share === 0 || share === 1) return share === 0 ? a : b;
    const lab = (c: Colour) => oklabOf(c.rgb.map((v) => v * factorOf(c.intensity, c.unit)) as unknown as Row);
    const [p, q] = [lab(a), lab(b)];
    const shine = linearOf(p.map((v, k) => mix(v, q[k]!)) as unknown as Row).map((v) => Math.max(0, v));
    const most = Math.max(1, ...shine);
    return { rgb: shine.map((v) => v / most) as [number, number, number], intensity: most, unit: 'factor' };
  }
  return share < 1 ? a : b;
}

/** Keys by rising time, and how each goes on: made once for a cue, which is asked at every frame and at hundreds of moments. */
interface Timeline {
  readonly keys: readonly CueKey[];
  readonly ways: readonly ((progress: number) => number)[];
}
const timelines = new WeakMap<Cue, Timeline>();

function timelineOf(cue: Cue): Timeline {
  const known = timelines.get(cue);
  if (known) return known;
  const keys = byTime(cue.keys);
  const made = { keys, ways: keys.map(({ ease }) => easing(ease)) };
  // Documents are never changed in their place: another cue is another object.
  timelines.set(cue, made);
  return made;
}

/** What a cue's dial is at a time, as the effect reads it. */
export function cueAt(cue: Cue, time: number): Value {
  const { keys, ways } = timelineOf(cue);
  const [first, last] = [keys[0]!, keys.at(-1)!];
  const at = withinKeys(cue, first.time, last.time, time);
  if (at <= first.time) return first.value;
  if (at >= last.time) return last.value;
  const next = keys.findIndex((k) => k.time > at);
  const [a, b] = [keys[next - 1]!, keys[next]!];
  return between(a.value, b.value, ways[next - 1]!((at - a.time) / (b.time - a.time)));
}

/** The words between which the cue of an option goes, each once; none where its keys are numbers or colours. */
export const wordsOf = ({ keys }: Pick<Cue, 'keys'>): readonly string[] =>
  [...new Set(keys.flatMap(({ value }) => (isWritten(value) ? value.text : [])))].sort();

const stepped = new WeakMap<Cue, Cue>();

/** A cue whose keys have numbers: of an option's, the places of its words in `wordsOf`, held until the next key. */
export function numbered(cue: Cue): Cue {
  const words = wordsOf(cue);
  if (words.length === 0) return cue;
  let made = stepped.get(cue);
  if (!made) {
    const at = (value: Value): number => (isWritten(value) ? words.indexOf(value.text) : 0);
    made = { ...cue, keys: cue.keys.map(({ time, value }) => ({ time, value: at(value), ease: 'step' })) };
    stepped.set(cue, made);
  }
  return made;
}

/** The key that stands at a time; -1 where none does. @param keys by rising time */
export const keyAt = (keys: readonly CueKey[], time: number): number => keys.findIndex((k) => Math.abs(k.time - time) < SAME);

/** Keeps keys by rising time; of two at one time the one that was changed stays. */
function settle(cue: Cue, changed: ReadonlySet<CueKey> = new Set()): void {
  const kept: CueKey[] = [];
  for (const key of byTime(cue.keys)) {
    const other = kept.at(-1);
    if (other === undefined || key.time - other.time >= SAME) kept.push(key);
    else if (changed.has(key)) kept[kept.length - 1] = key;
  }
  cue.keys = kept;
}

/** Sets a key: the value that a dial has at a time. A new one goes on as the one before it did. */
export function setKey(draft: Effect, { dial, time, value }: { dial: string; time: number; value: Value }): void {
  const cue = cueOf(draft, dial);
  if (!cue) {
    draft.cues.push({ dial, keys: [{ time, value, ease: isWritten(value) ? 'step' : 'smooth' }] });
    return;
  }
  cue.keys = byTime(cue.keys);
  const at = keyAt(cue.keys, time);
  if (at >= 0) {
    cue.keys[at]!.value = value;
    return;
  }
  const before = cue.keys.filter((k) => k.time < time).at(-1) ?? cue.keys[0]!;
  cue.keys.push({ time, value, ease: before.ease });
  cue.keys = byTime(cue.keys);
}

/** Takes keys away, by their places in rising time; with the last of them the cue goes. */
export function deleteKeys(draft: Effect, { dial, keys }: { dial: string; keys: readonly number[] }): void {
  const cue = cueOf(draft, dial);
  if (!cue) return;
  cue.keys = byTime(cue.keys).filter((_, k) => !keys.includes(k));
  if (cue.keys.length === 0) draft.cues = draft.cues.filter((c) => c !== cue && c.dial !== dial);
}

/** How keys are moved or scaled in time. */
export interface Retimed {
  readonly dial: string;
  /** By their places in rising time. */
  readonly keys: readonly number[];
  readonly to: (time: number) => number;
}

/** Gives keys other times. One that lands on another takes its place. */
export function retimeKeys(draft: Effect, { dial, keys, to }: Retimed): void {
  const cue = cueOf(draft, dial);
  if (!cue) return;
  cue.keys = byTime(cue.keys);
  const changed = new Set(keys.flatMap((k) => cue.keys[k] ?? []));
  for (const key of changed) key.time = to(key.time);
  settle(cue, changed);
}

/** Gives keys another value or easing. */
export function changeKeys(
  draft: Effect,
  { dial, keys, value, ease }: { dial: string; keys: readonly number[]; value?: Value; ease?: Ease },
): void {
  const cue = cueOf(draft, dial);
  if (!cue) return;
  cue.keys = byTime(cue.keys);
  for (const k of keys) {
    const key = cue.keys[k];
    if (!key) continue;
    if (value !== undefined) key.value = value;
    if (ease !== undefined) key.ease = typeof ease === 'string' ? ease : [...ease];
  }
}

/** What a cue does before its first key and after its last. */
export function setBeyond(draft: Effect, { dial, before, after }: { dial: string; before?: Beyond; after?: Beyond }): void {
  const cue = cueOf(draft, dial);
  if (!cue) return;
  const set = (end: 'before' | 'after', how: Beyond | undefined) => {
    if (how === undefined) return;
    if (how === 'hold') delete cue[end];
    else cue[end] = how;
  };
  set('before', before);
  set('after', after);
}

/** The most keys that a cue has room for. */
export const MOST_KEYS = 256;

export interface Pasting {
  readonly dial: string;
  /** Seconds: when the earliest is. */
  readonly at: number;
  readonly keys: readonly CueKey[];
  /** Those that are there go. */
  readonly replaces?: boolean;
}

/** Puts keys among those of a dial, or in their stead. @returns how many had no room */
export function pasteKeys(draft: Effect, { dial, at, keys, replaces = false }: Pasting): number {
  const earliest = Math.min(...keys.map((k) => k.time));
  const moved = keys.map((k): CueKey => ({ ...structuredClone(k), time: k.time - earliest + at }));
  let cue = cueOf(draft, dial);
  if (!cue) {
    draft.cues.push({ dial, keys: [] });
    cue = cueOf(draft, dial)!;
  }
  const free = replaces ? [] : cue.keys.filter((k) => keyAt(moved, k.time) < 0);
  const room = MOST_KEYS - free.length;
  cue.keys = byTime([...free, ...moved.slice(0, room)]);
  return Math.max(0, moved.length - room);
}
