/** Draws the Library's pictures that are lacking while an open bench is at rest: one at a time, and given up at once when it is not. */
import type { Documents } from './documents.js';
import type { Frames } from './frames.js';
import type { BenchStore } from './state.js';

/** How long nothing must have moved or changed. */
const REST_MS = 6000;
/** After one that could not be drawn. */
const AGAIN_MS = 120_000;

/** What draws one strip. */
export interface Strips {
  /** @returns whether it was stored */
  paint(id: string, key: string): Promise<boolean>;
  stop(): void;
}

export interface RestingPorts {
  readonly store: BenchStore;
  readonly documents: Pick<Documents, 'onChange'>;
  readonly frames: Pick<Frames, 'onDrawn' | 'view' | 'busy'>;
  /** Those that lack theirs, the most wanted first. */
  readonly lacking: () => Promise<readonly { readonly id: string; readonly key: string }[]>;
  readonly strips: () => Promise<Strips>;
}

export class Resting {
  private timer: ReturnType<typeof setTimeout> | null = null;
  private strips: Strips | null = null;
  /** Counts what moves: a drawing that began before is given up. */
  private turn = 0;
  private stopped = false;
  /** What could not be drawn, by its key: it is not tried again for as long as the bench is open. */
  private readonly failed = new Set<string>();
  private readonly ends: readonly (() => void)[];

  constructor(private readonly ports: RestingPorts) {
    this.ends = [ports.frames.onDrawn(() => this.stir()), ports.documents.onChange(() => this.stir())];
    this.stir();
  }

  /** Something has moved. */
  private stir(): void {
    if (this.stopped) return;
    this.turn++;
    this.strips?.stop();
    this.strips = null;
    this.again(REST_MS);
  }

  private again(after: number): void {
    if (this.timer) clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.paint().catch(() => this.again(AGAIN_MS)), after);
  }

  private async paint(): Promise<void> {
    const { store, frames, lacking, strips } = this.ports;
    const mine = this.turn;
    const over = () => this.stopped || mine !== this.turn;
    const { saved, silentSince } = store.getState();
    if (!frames.view || frames.busy || saved.state !== 'saved' || silentSince) return this.again(REST_MS);
    const [next] = (await lacking()).filter(({ id, key }) => !this.failed.has(`${id} ${key}`));
    if (over() || !next) return;
    this.strips = await strips();
    if (over()) return this.strips?.stop();
    const stored = await this.strips.paint(next.id, next.key).catch(() => false);
    if (over()) return;
    this.strips.stop();
    this.strips = null;
    if (!stored) this.failed.add(`${next.id} ${next.key}`);
    this.again(stored ? REST_MS / 6 : REST_MS);
  }

  stop(): void {
    this.stopped = true;
    for (const end of this.ends) end();
    if (this.timer) clearTimeout(this.timer);
    this.strips?.stop();
    this.strips = null;
  }
}
