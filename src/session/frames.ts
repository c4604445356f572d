/** The frames of a bench: when one is drawn, what is drawn in it, and what is measured of it. Drawn on demand, a frame at a time. */
import type { Box } from '../core/scene/placing.js';
import { isAway, keepView, keptView } from './keptView.js';
import type { PeekMode, PeekName } from '../core/analysis/peek.js';
import type { Picture } from '../core/base/picture.js';
import { seenOnMove } from '../core/scene/moves.js';
import type { Stage } from '../core/scene/stage.js';
import type { Worn } from '../core/scene/worn.js';
import type { Measured } from '../render/measuring.js';
import type { StageRenderer } from '../render/renderer.js';
import { STILL_SAMPLES } from '../render/still.js';
import type { Clock } from './clock.js';
import type { Compiling } from './compiling.js';
import { Furnishing } from './furnishing.js';
import { Meter } from './meter.js';
import { pictures } from './pictures.js';
import { Peeking } from './peeking.js';
import type { BenchStore } from './state.js';

export interface FramesPorts {
  /** What the picture was measured to be. */
  readonly onMeasured: (measured: Measured, threshold: number, frame: number) => void;
  /** What is seen of the props has changed: their places are to be read anew. */
  readonly onPlaces: () => void;
}

/** How long nothing must move before the picture refines itself. */
const STILL_AFTER_MS = 250;

export class Frames {
  private renderer: StageRenderer | null = null;
  readonly peeking: Peeking;
  private readonly listeners = new Set<(frame: number) => void>();
  private readonly furnishing = new Furnishing();
  private readonly meter: Meter;
  /** Which materials the props are dressed in, or are to be. */
  private dressed = '';
  /** Programs are being made for what is worn. */
  private dressing = 0;
  private queued = 0;
  /** The camera is moved by the stage, not by hand. */
  private carried = false;
  /** A frame of the paint alone is asked for. */
  private painting = 0;
  /** A frame has been handed over and is not drawn yet. */
  private drawing = false;
  private wanted = false;
  private count = 0;
  /** Which run of samples the still is in: a frame ends it. */
  private refining = 0;
  private refineTimer: ReturnType<typeof setTimeout> | null = null;

  constructor(
    private readonly store: BenchStore,
    private readonly clock: Clock,
    private readonly compiling: Pick<Compiling, 'worn' | 'materials' | 'queue' | 'flush'>,
    private readonly ports: FramesPorts,
  ) {
    this.meter = new Meter({
      // Reading back would wait for the programs that are being made, and the page with it; the frame that shows them measures.
      view: () => (this.busy ? null : this.renderer),
      frame: () => this.count,
      onMeasured: ports.onMeasured,
    });
    this.peeking = new Peeking(
      compiling.worn,
      () => store.getState(),
      (peek) => {
        store.setState({ peek });
        void this.peeking.follow(this.renderer);
        this.request();
      },
      () => this.request(),
    );
  }

  /** Files of the stage that are on their way. */
  get coming(): number {
    return this.furnishing.coming;
  }

  get view(): StageRenderer | null {
    return this.renderer;
  }

  /** Programs are being made: whatever reads from the graphics card would wait for them. */
  get busy(): boolean {
    return this.dressing > 0;
  }

  // --- the renderer, and what it is given

  attach(renderer: StageRenderer): void {
    this.renderer = renderer;
    this.furnishing.forget();
    this.drawing = false;
    this.dressing = 0;
    const { effect, stage, viewpoint } = this.store.getState();
    renderer.scenery.onRemade = () => {
      this.dressed = '';
      this.compiling.queue();
    };
    for (const [key, picture] of pictures) renderer.providePicture(key, picture);
    renderer.setStage(stage);
    const kept = keptView(effect.id, stage);
    const seen = stage.viewpoints.find((v) => v.id === (kept?.viewpoint ?? viewpoint)) ?? stage.viewpoints[0]!;
    renderer.looking.from(kept?.view ?? seen);
    this.store.setState({ viewpoint: seen.id, away: isAway(renderer.looking.view, seen) });
    this.listen(renderer);
    this.dressed = '';
    this.peeking.forget();
    this.furnish(stage);
    void this.dress();
    void this.peeking.follow(renderer);
    this.ports.onPlaces();
    this.request();
  }

  private listen(renderer: StageRenderer): void {
    const { controls } = renderer.looking;
    controls.addEventListener('start', () => {
      renderer.frame.coarse = true;
      // Who takes the picture in hand has it.
      this.store.setState({ moving: false });
    });
    controls.addEventListener('end', () => {
      renderer.frame.coarse = false;
      this.request();
      this.keepView();
    });
    controls.addEventListener('change', () => {
      if (this.carried) return;
      this.request();
      this.ports.onPlaces();
    });
  }

  /** Lets go of the renderer; the canvas is its owner's, and keeps its last picture. */
  detach(): void {
    const { renderer } = this;
    this.renderer = null;
    renderer?.dispose();
  }

  /** Brings the renderer to the stage's document. */
  restage(): void {
    const { stage } = this.store.getState();
    this.furnish(stage);
    this.show(stage);
  }

  private show(stage: Stage): void {
    const { renderer } = this;
    if (!renderer) return;
    renderer.setStage(stage);
    this.compiling.queue();
    this.ports.onPlaces();
    this.request();
  }

  /** Fetches the files that the stage refers to and that are not at hand. */
  private furnish(stage: Stage): void {
    const { renderer } = this;
    if (!renderer) return;
    this.furnishing.furnish(renderer, stage, {
      isThere: () => this.renderer === renderer,
      onThere: () => this.show(this.store.getState().stage),
      onLacking: (why) => {
        this.request();
        this.store.setState({ notice: why });
      },
    });
  }

  picture(key: string, picture: Picture): void {
    this.renderer?.providePicture(key, picture);
    this.request();
  }

  /** Follows what is worn: numbers at once, other materials when their programs are ready. */
  follow(): void {
    const { worn, materials } = this.compiling;
    this.renderer?.dressing.renumber(worn.all);
    // What is only glimpsed at is let go soon: the programs of what it stands before are kept.
    if (this.store.getState().glimpse === null)
      materials.keepOnly(new Set([...worn.used, ...(this.renderer?.dressing.materials ?? [])]));
    void this.dress();
    void this.peeking.follow(this.renderer);
  }

  private async dress(): Promise<void> {
    const { renderer } = this;
    const { worn } = this.compiling;
    const copied = worn.copies.flatMap(({ of }) => of.flatMap((o) => o.worn ?? []));
    const key = [...worn.all, ...copied].map((o: Worn) => `${o.prop}:${o.material.number}`).join();
    if (!renderer || key === this.dressed) return;
    this.dressed = key;
    this.dressing++;
    const ready = await renderer.dressing
      .dress(worn.all, () => worn.all, worn.copies)
      .finally(() => {
        // What another renderer was dressed in is nobody's now.
        if (renderer === this.renderer) this.dressing--;
      });
    if (renderer !== this.renderer) return;
    this.store.setState({ links: renderer.dressing.links });
    if (!ready) return;
    this.request();
    // A surface that has become see-through has something behind it to read.
    this.ports.onPlaces();
  }

  // --- what is looked at

  lookFrom(viewpoint: string): void {
    const { stage } = this.store.getState();
    const found = stage.viewpoints.find((v) => v.id === viewpoint);
    if (!found) return;
    this.store.setState({ viewpoint, away: false, moving: false });
    this.renderer?.looking.from(found);
    this.seenAnew();
  }

  /** Shows all of a prop, from where one looks now; from then on one goes round it. */
  frameProp(prop: string): void {
    const room = this.renderer?.scenery.roomOf(prop);
    if (room) this.frameRoom(room);
  }

  frameRoom(room: Box): void {
    this.renderer?.looking.frame(room);
    this.seenAnew();
  }

  private seenAnew(): void {
    this.ports.onPlaces();
    this.request();
    this.keepView();
  }

  /** What is seen now stays so when the page is loaded again. */
  private keepView(): void {
    const { effect, stage, viewpoint } = this.store.getState();
    if (!this.renderer) return;
    keepView(effect.id, { stage: stage.id, viewpoint, view: this.renderer.looking.view });
    const from = stage.viewpoints.find((v) => v.id === viewpoint);
    this.store.setState({ away: from !== undefined && isAway(this.renderer.looking.view, from) });
  }

  resized(): void {
    this.request();
    this.ports.onPlaces();
  }

  setRaw(raw: boolean): void {
    this.store.setState({ raw });
    this.request();
  }

  /** Peeks at a strand or an output, for as long as it is held or until it is let go. */
  peekAt(of: PeekName, locked: boolean): void {
    const { kind } = this.store.getState().effect;
    if (kind === 'surface') this.peeking.begin(of, locked);
    else this.store.setState({ notice: `A ${kind} has no surface to peek at: its swatches show what its strands give.` });
  }

  endPeek(): void {
    this.peeking.end();
  }

  showPeek(mode: PeekMode): void {
    this.peeking.show(mode);
  }

  // --- drawing

  request(): void {
    if (this.queued || !this.renderer) return;
    // Frames that are not drawn yet would queue up behind one another, and what is pressed would wait for all of them.
    if (this.drawing) {
      this.wanted = true;
      return;
    }
    this.queued = requestAnimationFrame(() => {
      this.queued = 0;
      this.draw();
    });
  }

  /** Draws what is painted over the picture as it is: nothing under it has changed. */
  requestPaint(): void {
    if (this.queued || this.painting || !this.renderer) return;
    this.painting = requestAnimationFrame(() => {
      this.painting = 0;
      if (this.queued || !this.renderer) return;
      if (this.renderer.frame.drawPaint()) this.tellDrawn();
      else this.request();
    });
  }

  private tellDrawn(): void {
    this.count++;
    for (const l of this.listeners) l(this.count);
  }

  /** The camera goes along the stage's slow move, for as long as that is shown. */
  private moveOn(renderer: StageRenderer, stage: Stage): void {
    const seen = this.store.getState().moving ? seenOnMove(stage, this.clock.onward) : null;
    if (!seen) return;
    this.carried = true;
    renderer.looking.from(seen);
    this.carried = false;
  }

  private draw(): void {
    const { renderer } = this;
    if (!renderer) return;
    this.compiling.flush();
    const { stage, raw } = this.store.getState();
    this.moveOn(renderer, stage);
    renderer.dressing.bring(this.compiling.worn);
    renderer.dressing.fill(stage, this.clock.time, pictures);
    this.peeking.fill(renderer, stage, this.clock.time);
    if (this.clock.frozen) renderer.frame.sharpen();
    renderer.frame.draw({ raw, adapt: !this.clock.frozen });
    if (this.clock.frozen) renderer.graphics.settle();
    else {
      this.drawing = true;
      void renderer.graphics.drawn().then(() => {
        this.drawing = false;
        if (!this.wanted) return;
        this.wanted = false;
        this.request();
      });
    }
    this.tellDrawn();
    this.meter.soon();
    this.peeking.measureSoon(renderer);
    this.refineSoon();
  }

  /** How many frames have been drawn: names the one that is shown. */
  get shown(): number {
    return this.count;
  }

  /** Has the picture's levels measured for as long as somebody looks at them. @returns ends it */
  watchLevels(): () => void {
    return this.meter.watch();
  }

  /** Called after each frame with the count of frames. */
  onDrawn(listener: (frame: number) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** While nothing moves the picture refines itself, a sample at a time; any frame begins anew. */
  refineSoon(): void {
    this.refining++;
    if (this.refineTimer) clearTimeout(this.refineTimer);
    if (this.store.getState().samples !== 0) this.store.setState({ samples: 0 });
    if (this.clock.frozen || this.clock.playing) return;
    this.refineTimer = setTimeout(() => this.refine(), STILL_AFTER_MS);
  }

  private refine(): void {
    this.refineTimer = null;
    const { renderer } = this;
    if (!renderer || this.queued || this.clock.playing || document.hidden) return;
    // Programs that are being made would be waited for.
    if (this.busy) {
      this.refineTimer = setTimeout(() => this.refine(), STILL_AFTER_MS);
      return;
    }
    const { samples: before, raw } = this.store.getState();
    const samples = renderer.frame.refine(raw);
    if (samples === before) return;
    this.store.setState({ samples });
    const began = performance.now();
    const turn = ++this.refining;
    void renderer.graphics.drawn().then(() => {
      if (turn !== this.refining || samples >= STILL_SAMPLES) return;
      // As long again for whatever else the page has to do, where there is no graphics card.
      this.refineTimer = setTimeout(() => this.refine(), Math.min(STILL_AFTER_MS, performance.now() - began));
    });
  }

  stop(): void {
    this.peeking.stop();
    this.meter.stop();
    if (this.refineTimer) clearTimeout(this.refineTimer);
    for (const frame of [this.queued, this.painting]) cancelAnimationFrame(frame);
    this.detach();
  }
}
