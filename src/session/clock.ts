/** Stage time: seconds in double precision, taken modulo the loop. One frame callback serves everything that moves. */

type Listener = (time: number) => void;

export class Clock {
  private seconds = 0;
  private all = 0;
  private running = false;
  private last = 0;
  private frame = 0;
  private readonly listeners = new Set<Listener>();
  private readonly stateListeners = new Set<() => void>();
  loop: number | null = 4;
  fps = 30;
  speed = 1;

  /** @param frozen time moves only when it is set: for tests and captures */
  constructor(readonly frozen: boolean) {}

  get time(): number {
    return this.seconds;
  }
  /** Seconds with the laps of the loop: for what takes longer than one, as the camera's slow move. */
  get onward(): number {
    return this.all;
  }
  get playing(): boolean {
    return this.running;
  }

  /** Called with the new time whenever it changes. */
  onTick(listener: Listener): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** Called when playing starts or stops. */
  onState(listener: () => void): () => void {
    this.stateListeners.add(listener);
    return () => this.stateListeners.delete(listener);
  }

  /** @param time seconds; beyond the loop it is so many laps on */
  set(time: number): void {
    this.go(time, 0);
  }

  /** @param laps seconds of whole laps before it */
  private go(time: number, laps: number): void {
    this.all = laps + time;
    this.seconds = this.loop === null ? time : time - this.loop * Math.floor(time / this.loop);
    for (const l of this.listeners) l(this.seconds);
  }

  play(): void {
    if (this.running) return;
    this.running = true;
    this.last = performance.now();
    this.notify();
    if (!this.frozen) this.frame = requestAnimationFrame(this.advance);
  }

  pause(): void {
    if (!this.running) return;
    this.running = false;
    cancelAnimationFrame(this.frame);
    this.notify();
  }

  /** One frame on or back; whole frames, so that stepping there and back returns to the same picture. */
  step(frames: number): void {
    this.pause();
    this.go((Math.round(this.seconds * this.fps) + frames) / this.fps, this.all - this.seconds);
  }

  private notify(): void {
    for (const l of this.stateListeners) l();
  }

  private readonly advance = (now: number): void => {
    if (!this.running) return;
    // A tab that slept must not leap.
    const passed = Math.min(0.25, Math.max(0, (now - this.last) / 1000));
    this.last = now;
    this.go(this.seconds + passed * this.speed, this.all - this.seconds);
    this.frame = requestAnimationFrame(this.advance);
  };

  dispose(): void {
    this.pause();
    this.listeners.clear();
    this.stateListeners.clear();
  }
}
