/**
 * Undo that outlives the page: the steps, kept in this browser with a mark of the documents they belong to. Steps of
 * other documents, or of these as somebody else has changed them since, would do harm and are dropped. Each step is
 * written once, when it is made; a move along them writes only where they stand.
 */
import { createStore, delMany, getMany, get, setMany, type UseStore } from 'idb-keyval';
import { textHash } from '../core/base/textHash.js';
import type { Effect } from '../core/effect/schema.js';
import { writeEffect } from '../core/effect/write.js';
import { writeStage, type Stage } from '../core/scene/stage.js';
import type { Entry, History } from './history.js';

/** What the documents are that the steps lead to: which, and what is written of it. */
export type Marks<D extends string> = Readonly<Record<D, { readonly id: string; readonly mark: string }>>;

/** Where the steps stand: those from `first` on, of which `done` are done. */
interface Head<D extends string> {
  readonly marks: Marks<D>;
  readonly first: number;
  readonly count: number;
  readonly done: number;
}

const hashed = (text: string) => `${text.length}-${textHash(text)}`;

/** Names the two documents of a bench by their content: by what is written of them, whatever the order it was set in. */
export const markOf = (effect: Effect, stage: Stage): Marks<'effect' | 'stage'> => ({
  effect: { id: effect.id, mark: hashed(writeEffect(effect)) },
  stage: { id: stage.id, mark: hashed(writeStage(stage)) },
});

export interface Restored<D extends string> {
  readonly history: History<D>;
  /** Documents that were changed elsewhere since: their steps are gone. Those of a document that is not open any more go without a word. */
  readonly dropped: readonly D[];
}

/** The steps of one bench. @param key the effect's id */
export class HistoryStore<D extends string> {
  private readonly store: UseStore;
  /** What is in the store: steps in order, done ones first, and the number of the first. */
  private kept: readonly Entry<D>[] = [];
  private first = 0;

  constructor(private readonly key: string) {
    this.store = createStore('wispen-history', 'steps');
  }

  private place(n: number): string {
    return `${this.key} step ${n}`;
  }

  /** @param marks of the documents as these steps leave them */
  async keep(marks: Marks<D>, { past, future }: History<D>): Promise<void> {
    const steps = [...past, ...future];
    // Old steps that were forgotten leave the front.
    const gone = steps.length > 0 ? this.kept.indexOf(steps[0]!) : -1;
    const from = gone > 0 ? gone : 0;
    const before = this.kept.slice(from);
    const first = this.first + from;
    const written: [string, unknown][] = steps.flatMap((step, k) => (step === before[k] ? [] : [[this.place(first + k), step]]));
    const head: Head<D> = { marks, first, count: steps.length, done: past.length };
    await setMany([...written, [this.key, head]], this.store);
    const dropped = [
      ...Array.from({ length: from }, (_, k) => this.place(this.first + k)),
      ...before.slice(steps.length).map((_, k) => this.place(first + steps.length + k)),
    ];
    if (dropped.length > 0) await delMany(dropped, this.store);
    this.kept = steps;
    this.first = first;
  }

  /** @returns the steps that fit the documents as they are; null where there are none */
  async restore(marks: Marks<D>): Promise<Restored<D> | null> {
    const head = await get<Head<D>>(this.key, this.store);
    if (!head?.marks || head.count === 0) return null;
    const { first, count, done } = head;
    const places = Array.from({ length: count }, (_, k) => this.place(first + k));
    const steps = await getMany<Entry<D>>(places, this.store);
    this.kept = steps as Entry<D>[];
    this.first = first;
    const whole = steps.every((s) => s !== undefined);
    const names = Object.keys(marks) as D[];
    const fits = (name: D) => whole && head.marks[name]?.mark === marks[name].mark && head.marks[name].id === marks[name].id;
    // Steps of one document know nothing of the other's: each kind stands or falls by itself.
    const stays = (step: Entry<D>) => fits(step.document);
    const past = this.kept.slice(0, done).filter(stays);
    const future = this.kept.slice(done).filter(stays);
    const had = new Set(whole ? this.kept.map((s) => s.document) : names);
    const dropped = names.filter((name) => !fits(name) && had.has(name) && head.marks[name]?.id === marks[name].id);
    return { history: { past, future }, dropped };
  }
}
