/** Saving of both documents of a bench: how it stands, what is at risk, and conflicts. */
import { v7 as uuid } from 'uuid';
import { readEffect } from '../core/effect/read.js';
import type { Effect } from '../core/effect/schema.js';
import { readStage, type Stage } from '../core/scene/stage.js';
import { createDocument, sender } from './api.js';
import { Autosave, type PendingStore, type SaveStatus } from './autosave.js';
import { letGo, type Opening } from './drafts.js';
import { type Aside } from './failure.js';
import { EMPTY_HISTORY, filesOf } from './history.js';
import type { KeptHistory } from './keptHistory.js';
import type { BenchState, BenchStore, DocumentName, Both } from './state.js';

/** What a conflict asks of the documents: to take the other one. */
export interface Taker {
  take(changed: Partial<Both>, more: Partial<BenchState>): void;
}

export class Saving {
  private readonly saves: Record<DocumentName, Autosave>;
  private readonly statuses: Record<DocumentName, SaveStatus>;

  constructor(
    private readonly store: BenchStore,
    private readonly keep: PendingStore,
    private readonly history: KeptHistory,
    private readonly documents: Taker,
    opened: { readonly effect: Opening<Effect>; readonly stage: Opening<Stage> },
  ) {
    this.statuses = {
      effect: { state: 'saved', at: opened.effect.savedAt },
      stage: { state: 'saved', at: opened.stage.savedAt },
    };
    this.saves = { effect: this.saver('effect', opened.effect), stage: this.saver('stage', opened.stage) };
    if (store.getState().following) return;
    for (const name of ['effect', 'stage'] as const) {
      const { pending } = opened[name];
      if (pending) this.saves[name].resume(pending);
    }
  }

  private saver(name: DocumentName, { document, version }: Opening<Effect | Stage>): Autosave {
    return new Autosave({
      key: `${name}:${document.id}`,
      base: version,
      store: this.keep,
      send: sender(name, document.id, () => filesOf(this.store.getState().history)),
      onStatus: (status) => {
        this.statuses[name] = status;
        const other: DocumentName = name === 'effect' ? 'stage' : 'effect';
        // While the other is not saved, its trouble is what the mark tells.
        const worse = status.state === 'saved' && this.statuses[other].state !== 'saved' ? other : name;
        this.store.setState({ saved: { ...this.statuses[worse], document: worse } });
      },
    });
  }

  changed(documents: Partial<Both>): void {
    for (const name of ['effect', 'stage'] as const) {
      const document = documents[name];
      if (document) this.saves[name].change(document);
    }
  }

  /** The page may end any moment: what is not kept in this browser yet is kept now. */
  async hold(): Promise<void> {
    await Promise.all([this.saves.effect.hold(), this.saves.stage.hold(), ...(this.history.waits ? [this.history.keep()] : [])]);
  }

  /** Closing the page now would lose something. */
  get atRisk(): boolean {
    return this.saves.effect.atRisk || this.saves.stage.atRisk || this.store.getState().saved.state === 'refused';
  }

  /** Makes everything safe: what is not confirmed is in this browser, the rest with the server. */
  async settle(): Promise<void> {
    await this.hold();
    await Promise.race([this.now(), new Promise((r) => setTimeout(r, 1000))]);
  }

  now(): Promise<void[]> {
    return Promise.all([this.saves.effect.flush(), this.saves.stage.flush()]);
  }

  /** A draft that could not be read is a file now, or is not wanted. */
  async letGo(aside: Aside): Promise<void> {
    await letGo(this.keep, aside);
    this.store.setState(({ asides }) => ({ asides: asides.filter((a) => a.key !== aside.key) }));
  }

  /** After a conflict: mine goes over theirs, which stays as a revision. */
  keepMine(): void {
    const { saved } = this.store.getState();
    if (saved.state === 'conflict') this.saves[saved.document].overwrite(saved.version);
  }

  /** After a conflict: theirs is taken, once mine is safe as a document of its own; where it cannot be, nothing changes, with a sentence. */
  async takeTheirs(): Promise<void> {
    await this.takeOther().catch((error: Error) =>
      this.store.setState({ notice: `The other was not taken; this one is still here. ${error.message}` }),
    );
  }

  private async takeOther(): Promise<void> {
    const { saved, effect, stage } = this.store.getState();
    if (saved.state !== 'conflict') return;
    const { document, theirs, version } = saved;
    const mine = document === 'effect' ? effect : stage;
    const result = document === 'effect' ? readEffect(theirs) : readStage(theirs);
    if (!result.ok) throw new Error(result.problems[0]!.message);
    await createDocument(document, { ...mine, id: uuid(), name: `${mine.name} (kept)`.slice(0, 120) });
    await this.saves[document].forget(version);
    const more = { history: EMPTY_HISTORY, saved: { state: 'saved', at: new Date(), document } } as const;
    this.documents.take('effect' in result ? { effect: result.effect } : { stage: result.stage }, more);
    this.history.keepSoon();
  }

  stop(): void {
    this.saves.effect.stop();
    this.saves.stage.stop();
  }
}
