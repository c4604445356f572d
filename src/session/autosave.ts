/**
 * Saving by itself: 300 ms after things fall quiet and at most a second after a change, one save at a time. Until the
 * server has confirmed, the document is also kept in this browser, with the save that is under way, so that a lost
 * reply can be asked for again under the same name instead of being mistaken for somebody else's change.
 */
import { v7 as uuid } from 'uuid';

export type SaveStatus =
  | { readonly state: 'saved'; readonly at: Date }
  | { readonly state: 'unsaved' }
  | { readonly state: 'saving' }
  /** The server does not answer; kept here since `since`. */
  | { readonly state: 'unreachable'; readonly since: Date }
  | { readonly state: 'conflict'; readonly theirs: unknown; readonly version: number }
  | { readonly state: 'refused'; readonly why: string };

/** What this browser keeps of a document that is not confirmed. */
export interface Pending {
  /** The server's version that the document was made from; 0 for one the server has never had. */
  readonly base: number;
  readonly document: unknown;
  /** A save that was sent and not answered. */
  readonly sent: { readonly saveId: string; readonly document: unknown } | null;
}

export interface PendingStore {
  /** False where what is kept ends with the page. */
  readonly lasting: boolean;
  get(key: string): Promise<Pending | undefined>;
  set(key: string, value: Pending): Promise<void>;
  del(key: string): Promise<void>;
}

export interface SaveReply {
  readonly status: number;
  readonly body: { version?: number; savedAt?: string; error?: string; document?: unknown };
}

/** Sends one save; rejects when the server cannot be reached. */
export type Send = (save: { saveId: string; base: number; document: unknown }) => Promise<SaveReply>;

export interface AutosaveOptions {
  readonly key: string;
  readonly base: number;
  readonly store: PendingStore;
  readonly send: Send;
  readonly onStatus: (status: SaveStatus) => void;
  readonly quietMs?: number;
  readonly longestMs?: number;
  readonly retryMs?: number;
  /** A run of changes is kept in this browser at its first, and then this often. */
  readonly keepMs?: number;
}

export class Autosave {
  private base: number;
  private document: unknown = null;
  private dirty = false;
  private sent: Pending['sent'] = null;
  private sending = false;
  private quiet: ReturnType<typeof setTimeout> | null = null;
  private deadline: ReturnType<typeof setTimeout> | null = null;
  private retry: ReturnType<typeof setTimeout> | null = null;
  private unreachableSince: Date | null = null;
  private keeping: Promise<void> = Promise.resolve();
  private keepTimer: ReturnType<typeof setTimeout> | null = null;
  private keepAgain = false;
  /** Counts changes, and up to which of them this browser has kept. */
  private changes = 0;
  private kept = 0;
  private state: SaveStatus['state'] = 'saved';
  private stopped = false;
  private readonly quietMs: number;
  private readonly longestMs: number;
  private readonly retryMs: number;
  private readonly keepMs: number;

  constructor(private readonly options: AutosaveOptions) {
    this.base = options.base;
    this.quietMs = options.quietMs ?? 300;
    this.longestMs = options.longestMs ?? 1000;
    this.retryMs = options.retryMs ?? 1000;
    this.keepMs = options.keepMs ?? 200;
  }

  /** Takes up what an earlier page left: its unanswered save first, then its document. */
  resume(pending: Pending): void {
    this.base = pending.base;
    this.sent = pending.sent;
    this.document = pending.document;
    this.dirty = pending.sent === null || JSON.stringify(pending.sent.document) !== JSON.stringify(pending.document);
    this.tell({ state: 'unsaved' });
    void this.flush();
  }

  private tell(status: SaveStatus): void {
    // A run of changes says once that it is not saved.
    if (status.state === 'unsaved' && this.state === 'unsaved') return;
    this.state = status.state;
    this.options.onStatus(status);
  }

  change(document: unknown): void {
    this.document = document;
    this.dirty = true;
    this.changes++;
    this.keepSoon();
    if (!this.unreachableSince) this.tell({ state: 'unsaved' });
    if (this.quiet) clearTimeout(this.quiet);
    this.quiet = setTimeout(() => void this.flush(), this.quietMs);
    this.deadline ??= setTimeout(() => void this.flush(), this.longestMs);
  }

  /** Keeps the first of a run of changes at once, and the others now and then. */
  private keepSoon(): void {
    if (this.keepTimer) {
      this.keepAgain = true;
      return;
    }
    this.keep();
    this.keepTimer = setTimeout(() => {
      this.keepTimer = null;
      if (this.keepAgain) this.keepSoon();
    }, this.keepMs);
  }

  /** Writes the unconfirmed state to the browser's store; later calls wait for earlier ones. */
  private keep(): void {
    this.keepAgain = false;
    const { changes } = this;
    const state: Pending = { base: this.base, document: this.document, sent: this.sent };
    this.keeping = this.keeping
      .then(() => this.options.store.set(this.options.key, state))
      .then(
        () => void (this.kept = Math.max(this.kept, changes)),
        () => undefined,
      );
  }

  /** Keeps in this browser whatever it does not have yet. */
  async hold(): Promise<void> {
    if (this.keepAgain) this.keep();
    await this.keeping;
  }

  /** Something is neither confirmed by the server nor kept in this browser: closing the page would lose it. */
  get atRisk(): boolean {
    return this.pending && (!this.options.store.lasting || this.kept < this.changes);
  }

  private clearTimers(): void {
    for (const t of [this.quiet, this.deadline, this.retry]) if (t) clearTimeout(t);
    if (this.keepTimer) clearTimeout(this.keepTimer);
    this.quiet = this.deadline = this.retry = this.keepTimer = null;
  }

  /** Saves now if there is something to save. */
  async flush(): Promise<void> {
    this.clearTimers();
    if (this.sending || this.stopped || (!this.dirty && !this.sent)) return;
    this.sending = true;
    // A save without an answer is sent again as it was; only then the newer document goes.
    const save = this.sent ?? { saveId: uuid(), document: this.document };
    if (!this.sent) {
      this.sent = save;
      this.dirty = false;
    }
    this.keep();
    if (!this.unreachableSince) this.tell({ state: 'saving' });
    const reply = await this.options.send({ saveId: save.saveId, base: this.base, document: save.document }).catch(() => null);
    this.sending = false;
    if (this.stopped) return;
    if (reply === null || reply.status >= 500) return this.unreachable();
    this.unreachableSince = null;
    this.sent = null;
    if (reply.status === 200 || reply.status === 201) {
      this.base = reply.body.version!;
      if (this.dirty) {
        this.keep();
        return this.flush();
      }
      this.keeping = this.keeping
        .then(() => (this.dirty || this.sent ? undefined : this.options.store.del(this.options.key)))
        .catch(() => undefined);
      this.tell({ state: 'saved', at: new Date(reply.body.savedAt!) });
      return;
    }
    this.dirty = true;
    this.keep();
    if (reply.status === 412) this.tell({ state: 'conflict', theirs: reply.body.document, version: reply.body.version! });
    else this.tell({ state: 'refused', why: reply.body.error ?? 'The server refused the save.' });
  }

  private unreachable(): void {
    this.unreachableSince ??= new Date();
    this.tell({ state: 'unreachable', since: this.unreachableSince });
    this.retry = setTimeout(() => void this.flush(), this.retryMs);
  }

  /** After a conflict: this document goes on top of the server's. */
  overwrite(version: number): void {
    this.base = version;
    void this.flush();
  }

  /** True while something is not confirmed. */
  get pending(): boolean {
    return this.dirty || this.sent !== null;
  }

  /** After a conflict: the server's document was taken. */
  async forget(version: number): Promise<void> {
    this.clearTimers();
    this.base = version;
    this.dirty = false;
    this.sent = null;
    await this.keeping;
    await this.options.store.del(this.options.key);
  }

  stop(): void {
    this.stopped = true;
    this.clearTimers();
  }
}
