/**
 * One tab edits a document, others follow it: a lock that the browser holds for as long as a tab lives, and a channel
 * on which the one that edits shows the others what it has. Asking to edit makes the other finish and step back.
 */

export type Role = 'editing' | 'following';

type Message<T> = { readonly kind: 'hello' } | { readonly kind: 'yield' } | { readonly kind: 'state'; readonly state: T };

/** A tab that is asked to step back and does not within this time has hung: its lock is taken. */
const PATIENCE_MS = 2000;

export interface TabOptions<T> {
  readonly name: string;
  readonly onRole: (role: Role) => void;
  /** What the editing tab shows, for one that follows. */
  readonly onState: (state: T) => void;
  /** What this tab shows the others, when it edits. */
  readonly state: () => T | null;
  /** Called before this tab steps back: everything is to be safe when it resolves. */
  readonly settle: () => Promise<void>;
}

export class Tab<T> {
  private channel: BroadcastChannel | null = null;
  private release: (() => void) | null = null;
  private waiting: AbortController | null = null;
  private patience: ReturnType<typeof setTimeout> | null = null;
  private closed = false;
  role: Role | null = null;

  constructor(private readonly options: TabOptions<T>) {}

  /** Resolves with the role this tab begins in. */
  async join(): Promise<Role> {
    if (!('locks' in navigator) || !('BroadcastChannel' in globalThis)) {
      this.become('editing');
      return 'editing';
    }
    this.channel = new BroadcastChannel(this.options.name);
    this.channel.addEventListener('message', ({ data }: MessageEvent<Message<T>>) => this.receive(data));
    const got = await this.take({ ifAvailable: true });
    if (!got) {
      this.become('following');
      this.queue();
    }
    return this.role!;
  }

  /** Asks the tab that edits to show what it has. */
  greet(): void {
    if (this.role === 'following') this.post({ kind: 'hello' });
  }

  private post(message: Message<T>): void {
    this.channel?.postMessage(message);
  }

  private become(role: Role): void {
    if (this.closed || this.role === role) return;
    this.role = role;
    this.options.onRole(role);
  }

  /** Asks for the lock. @returns whether it was had */
  private take(options: LockOptions): Promise<boolean> {
    return new Promise((answer) => {
      let held = false;
      navigator.locks
        .request(this.options.name, options, (lock) => {
          if (!lock || this.closed) {
            answer(false);
            return;
          }
          if (this.patience) clearTimeout(this.patience);
          this.patience = null;
          this.waiting = null;
          held = true;
          const until = new Promise<void>((free) => (this.release = free));
          this.become('editing');
          answer(true);
          return until;
        })
        .catch(() => {
          // Given up waiting, or, where it was held, taken by another tab.
          answer(false);
          if (held) {
            this.release = null;
            this.become('following');
            this.queue();
          }
        });
    });
  }

  /** Waits in line: when the tab that edits is closed, the next in line edits. */
  private queue(): void {
    if (this.closed) return;
    this.waiting = new AbortController();
    void this.take({ signal: this.waiting.signal });
  }

  private receive(message: Message<T>): void {
    if (this.role === 'editing') {
      if (message.kind === 'hello') this.show();
      if (message.kind === 'yield') void this.stepBack();
    } else if (message.kind === 'state') this.options.onState(message.state);
  }

  /** Shows the others what this tab has. */
  show(): void {
    const state = this.role === 'editing' ? this.options.state() : null;
    if (state !== null) this.post({ kind: 'state', state });
  }

  private async stepBack(): Promise<void> {
    await this.options.settle();
    const { release } = this;
    this.release = null;
    this.become('following');
    release?.();
    this.queue();
  }

  /** Asks the tab that edits to step back, so that this one can. */
  editHere(): void {
    // Asked twice, it is asked once: the first has its time.
    if (this.role !== 'following' || this.patience) return;
    this.post({ kind: 'yield' });
    this.patience = setTimeout(() => {
      this.patience = null;
      // What was had meanwhile is not taken from oneself.
      if (this.role !== 'following') return;
      this.waiting?.abort();
      void this.take({ steal: true });
    }, PATIENCE_MS);
  }

  close(): void {
    this.closed = true;
    if (this.patience) clearTimeout(this.patience);
    this.waiting?.abort();
    this.release?.();
    this.channel?.close();
  }
}
