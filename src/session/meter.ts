/** Reads the levels of the picture back, a few times a second at most; on a slow machine seldomer, at the picture's pace. */
import type { Measured } from '../render/measuring.js';
import type { StageRenderer } from '../render/renderer.js';

const GAP_MS = 250;
/** Times as long as a reading takes, between two. */
const REST = 6;

export interface MeterPorts {
  /** Null while nothing can be read. */
  readonly view: () => StageRenderer | null;
  /** Counts frames. */
  readonly frame: () => number;
  /** @param frame of which frame it is */
  readonly onMeasured: (measured: Measured, threshold: number, frame: number) => void;
}

export class Meter {
  private reading = false;
  private last = 0;
  private gap = GAP_MS;
  private timer: ReturnType<typeof setTimeout> | null = null;
  private watchers = 0;

  constructor(private readonly ports: MeterPorts) {}

  /** Measures for as long as somebody looks. @returns ends it */
  watch(): () => void {
    this.watchers++;
    this.soon();
    return () => void this.watchers--;
  }

  soon(): void {
    if (this.timer || this.watchers === 0) return;
    const wait = Math.max(0, this.last + this.gap - performance.now());
    this.timer = setTimeout(() => {
      this.timer = null;
      void this.read();
    }, wait);
  }

  private async read(): Promise<void> {
    const renderer = this.ports.view();
    if (!renderer || this.reading) return;
    this.reading = true;
    this.last = performance.now();
    const drawn = this.ports.frame();
    const measured = await renderer.measuring.measure().catch(() => null);
    this.reading = false;
    this.gap = Math.max(GAP_MS, REST * (performance.now() - this.last));
    const optics = renderer.frame.opticsHere;
    if (!measured || !optics) return;
    this.ports.onMeasured(measured, optics.bloom.threshold, drawn);
    if (this.ports.frame() !== drawn) this.soon();
  }

  stop(): void {
    if (this.timer) clearTimeout(this.timer);
  }
}
