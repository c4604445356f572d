/** Keeps the steps of undo in this browser as they are made, and takes them up again when the bench is opened. */
import { HistoryStore, markOf } from './historyStore.js';
import type { BenchStore, DocumentName } from './state.js';

/** Steps of undo are kept once things fall quiet, and at least this often. */
const QUIET_MS = 300;
const LONGEST_MS = 1500;

export class KeptHistory {
  private readonly steps: HistoryStore<DocumentName>;
  private quiet: ReturnType<typeof setTimeout> | null = null;
  private deadline: ReturnType<typeof setTimeout> | null = null;

  constructor(private readonly store: BenchStore) {
    this.steps = new HistoryStore(store.getState().effect.id);
  }

  async restore(): Promise<void> {
    const { effect, stage } = this.store.getState();
    const found = await this.steps.restore(markOf(effect, stage)).catch(() => null);
    if (!found) return;
    this.store.setState({ history: found.history });
    const lost = found.dropped.map((name) => `the ${name}`).join(' and ');
    if (lost === '') return;
    const were = found.dropped.length > 1 ? 'were' : 'was';
    this.store.setState({ notice: `Undo begins here: ${lost} ${were} changed elsewhere since.` });
  }

  keepSoon(): void {
    if (this.quiet) clearTimeout(this.quiet);
    this.quiet = setTimeout(() => void this.keep(), QUIET_MS);
    this.deadline ??= setTimeout(() => void this.keep(), LONGEST_MS);
  }

  /** Something has not been kept yet. */
  get waits(): boolean {
    return this.quiet !== null;
  }

  async keep(): Promise<void> {
    for (const t of [this.quiet, this.deadline]) if (t) clearTimeout(t);
    this.quiet = this.deadline = null;
    const { effect, stage, history, following } = this.store.getState();
    if (!following) await this.steps.keep(markOf(effect, stage), history).catch(() => undefined);
  }
}
