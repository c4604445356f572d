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
  readonly onMeasured: (measured: Measured, threshold: number) => void;
}

export class Meter {
  private reading = false;
  private last = 0;
  private gap = GAP_MS;
  private timer: ReturnType<typeof setTimeout> | null = null;

  constructor(private readonly ports: MeterPorts) {}

  soon(): void {
    if (this.timer) return;
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
    this.ports.onMeasured(measured, optics.bloom.threshold);
    if (this.ports.frame() !== drawn) this.soon();
  }

  stop(): void {
    if (this.timer) clearTimeout(this.timer);
  }
}
