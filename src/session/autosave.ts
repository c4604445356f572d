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
  private stopped = false;
  private readonly quietMs: number;
  private readonly longestMs: number;
  private readonly retryMs: number;

  constructor(private readonly options: AutosaveOptions) {
    this.base = options.base;
    this.quietMs = options.quietMs ?? 300;
    this.longestMs = options.longestMs ?? 1000;
    this.retryMs = options.retryMs ?? 1000;
  }

  /** Takes up what an earlier page left: its unanswered save first, then its document. */
  resume(pending: Pending): void {
    this.base = pending.base;
    this.sent = pending.sent;
    this.document = pending.document;
    this.dirty = pending.sent === null || JSON.stringify(pending.sent.document) !== JSON.stringify(pending.document);
    this.options.onStatus({ state: 'unsaved' });
    void this.flush();
  }

  change(document: unknown): void {
    this.document = document;
    this.dirty = true;
    this.keep();
    if (!this.unreachableSince) this.options.onStatus({ state: 'unsaved' });
    if (this.quiet) clearTimeout(this.quiet);
    this.quiet = setTimeout(() => void this.flush(), this.quietMs);
    this.deadline ??= setTimeout(() => void this.flush(), this.longestMs);
  }

  /** Writes the unconfirmed state to the browser's store; later calls wait for earlier ones. */
  private keep(): void {
    const state: Pending = { base: this.base, document: this.document, sent: this.sent };
    this.keeping = this.keeping.then(() => this.options.store.set(this.options.key, state)).catch(() => undefined);
  }

  private clearTimers(): void {
    for (const t of [this.quiet, this.deadline, this.retry]) if (t) clearTimeout(t);
    this.quiet = this.deadline = this.retry = null;
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
    if (!this.unreachableSince) this.options.onStatus({ state: 'saving' });
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
      this.options.onStatus({ state: 'saved', at: new Date(reply.body.savedAt!) });
      return;
    }
    this.dirty = true;
    this.keep();
    if (reply.status === 412)
      this.options.onStatus({ state: 'conflict', theirs: reply.body.document, version: reply.body.version! });
    else this.options.onStatus({ state: 'refused', why: reply.body.error ?? 'The server refused the save.' });
  }

  private unreachable(): void {
    this.unreachableSince ??= new Date();
    this.options.onStatus({ state: 'unreachable', since: this.unreachableSince });
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
