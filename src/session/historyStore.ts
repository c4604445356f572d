/**
 * Undo that outlives the page: the steps, kept in this browser with a mark of the documents they belong to. Steps of
 * other documents, or of these as somebody else has changed them since, would do harm and are dropped. Each step is
 * written once, when it is made; a move along them writes only where they stand.
 */
import { createStore, delMany, getMany, get, setMany, type UseStore } from 'idb-keyval';
import { textHash } from '../core/base/textHash.js';
import type { Effect } from '../core/effect/schema.js';
import { writeEffect } from '../core/effect/write.js';
import { writeStage, type Stage } from '../core/formats/stage.js';
import type { Entry, History } from './history.js';

/** Where the steps stand: those from `first` on, of which `done` are done. */
interface Head {
  readonly mark: string;
  readonly first: number;
  readonly count: number;
  readonly done: number;
}

/** Names the two documents of a bench by their content: by what is written of them, whatever the order it was set in. */
export const markOf = (effect: Effect, stage: Stage): string =>
  [writeEffect(effect), writeStage(stage)].map((text) => `${text.length}-${textHash(text)}`).join(' ');

export type Restored<D extends string> = { readonly history: History<D> } | 'none' | 'dropped';

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

  /** @param mark of the documents as these steps leave them */
  async keep(mark: string, { past, future }: History<D>): Promise<void> {
    const steps = [...past, ...future];
    // Old steps that were forgotten leave the front.
    const gone = steps.length > 0 ? this.kept.indexOf(steps[0]!) : -1;
    const from = gone > 0 ? gone : 0;
    const before = this.kept.slice(from);
    const first = this.first + from;
    const written: [string, unknown][] = steps.flatMap((step, k) => (step === before[k] ? [] : [[this.place(first + k), step]]));
    const head: Head = { mark, first, count: steps.length, done: past.length };
    await setMany([...written, [this.key, head]], this.store);
    const dropped = [
      ...Array.from({ length: from }, (_, k) => this.place(this.first + k)),
      ...before.slice(steps.length).map((_, k) => this.place(first + steps.length + k)),
    ];
    if (dropped.length > 0) await delMany(dropped, this.store);
    this.kept = steps;
    this.first = first;
  }

  /** @returns the steps, or that there are none, or that those there were belong to other content */
  async restore(mark: string): Promise<Restored<D>> {
    const head = await get<Head>(this.key, this.store);
    if (!head || typeof head.count !== 'number' || head.count === 0) return 'none';
    const { first, count, done } = head;
    const places = Array.from({ length: count }, (_, k) => this.place(first + k));
    if (head.mark === mark) {
      const steps = await getMany<Entry<D>>(places, this.store);
      if (steps.every((s) => s !== undefined)) {
        this.kept = steps as Entry<D>[];
        this.first = first;
        return { history: { past: this.kept.slice(0, done), future: this.kept.slice(done) } };
      }
    }
    await delMany([...places, this.key], this.store);
    this.kept = [];
    this.first = 0;
    return 'dropped';
  }
}
