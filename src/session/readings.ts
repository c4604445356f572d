/** What the sheet's values are: asked of the readings worker as documents, places and time change, and shown as they come. */
import { findingsOf } from '../core/analysis/findings.js';
import type { Advice } from '../core/analysis/advice.js';
import { withRanges } from '../core/analysis/reading.js';
import type { Picture } from '../core/base/picture.js';
import type { Effect } from '../core/effect/schema.js';
import type { Program } from '../core/lower/lower.js';
import { inOrder, paramValues } from '../core/lower/params.js';
import { moteSheet } from '../core/places/moteSheet.js';
import type { PlaceBounds } from '../core/passes/ranges.js';
import { propIn } from '../core/scene/pieces.js';
import { pinsOf, type Pin } from '../core/scene/pins.js';
import { steadyOf, type WornOnStage } from '../core/scene/worn.js';
import type { PlaceOn } from '../render/pointing.js';
import type { StageRenderer } from '../render/renderer.js';
import {
  SWATCH_HEIGHT,
  SWATCH_WIDTH,
  type Places,
  type Probe,
  type Readings,
  type ReadingsAnswer,
  type ReadingsRequest,
} from '../workers/readings.js';
import type { Clock } from './clock.js';
import type { Compiled } from './compiling.js';
import { pictures } from './pictures.js';
import { ReadingsPort, type WorkerLike } from './readingsPort.js';
import type { BenchStore } from './state.js';

export interface ReadingsPorts {
  readonly worker: () => WorkerLike;
  /** The stage as it is drawn; null while it is not. */
  readonly view: () => StageRenderer | null;
  /** Programs are being made for what is drawn: reading from the graphics card would wait for them. */
  readonly busy: () => boolean;
  /** The sheet as the chosen prop wears it. */
  readonly compiled: () => Compiled;
}

const SWATCH_GAP_MS = 100;
const SETTLE_MS = 200;
const ADVISE_GAP_MS = 300;

export class ReadingsOfBench {
  private readonly port: ReadingsPort;
  private readonly listeners = new Set<(r: Readings) => void>();
  /** Names the program that the worker has. */
  private number = 0;
  private program: Program | null = null;
  /** The effect whose program the worker has, with its latest numbers. */
  private shown: Effect | null = null;
  private params: Float32Array = new Float32Array();
  /** The prop's places as they were last read. */
  private places: Places | null = null;
  /** Where the props are that wear the effect, as the worker knows it. */
  private bounds: PlaceBounds | null = null;
  private workerBusy = false;
  private stale = false;
  private wholeStale = true;
  private lastDrawn = 0;
  private wantsCost = false;
  private costKey: { readonly program: Program; readonly dials: string } | null = null;
  private drawTimer: ReturnType<typeof setTimeout> | null = null;
  private settleTimer: ReturnType<typeof setTimeout> | null = null;
  private adviseTimer: ReturnType<typeof setTimeout> | null = null;
  last: Readings | null = null;

  constructor(
    private readonly store: BenchStore,
    private readonly clock: Clock,
    private readonly worn: WornOnStage,
    private readonly ports: ReadingsPorts,
  ) {
    this.port = new ReadingsPort(ports.worker, {
      onAnswer: (answer) => this.receive(answer),
      onTrouble: (notice) => store.setState({ notice }),
      onFresh: () => this.tellAll(),
    });
  }

  /** Hands the worker something that nobody waits for. */
  post(request: ReadingsRequest, transfer: Transferable[] = []): void {
    this.port.post(request, transfer);
  }

  onReadings(listener: (r: Readings) => void): () => void {
    this.listeners.add(listener);
    if (this.last) listener(this.last);
    return () => this.listeners.delete(listener);
  }

  /** Follows a sheet that has been compiled. */
  follow({ shown, program, problems }: Compiled): void {
    this.tellBounds(shown.id);
    this.port.ask('ranges', shown);
    this.askCost();
    this.adviseSoon();
    // A sheet with an error keeps its last good numbers.
    if (problems.length > 0) return;
    // The worker has lowered the sheet by itself.
    this.params = paramValues(inOrder(program.params), shown);
    this.shown = shown;
    if (program !== this.program) {
      this.program = program;
      this.post({ kind: 'program', number: ++this.number, effect: shown });
    }
    this.placeProbes();
    this.requestWhole();
  }

  /** What values can be depends on where the props are that wear the effect. */
  private tellBounds(effect: string): void {
    const wearers = this.worn.all.filter((o) => o.shown.id === effect).map((o) => o.prop);
    const bounds = this.ports.view()?.scenery.placeBounds(wearers) ?? null;
    if (!bounds || JSON.stringify(bounds) === JSON.stringify(this.bounds)) return;
    this.bounds = bounds;
    this.post({ kind: 'bounds', bounds });
  }

  /** A new worker is told all that the one before knew. */
  private tellAll(): void {
    for (const [key, picture] of pictures) this.post({ kind: 'picture', key, picture });
    if (this.program && this.shown) this.post({ kind: 'program', number: ++this.number, effect: this.shown });
    if (this.places) this.post({ kind: 'places', places: this.places });
    if (this.bounds) this.post({ kind: 'bounds', bounds: this.bounds });
    this.placeProbes();
    this.workerBusy = false;
    this.costKey = null;
    if (this.shown) this.port.ask('ranges', this.shown);
    this.askCost();
    this.adviseSoon();
    this.requestWhole();
  }

  /** An image has come. */
  picture(key: string, picture: Picture): void {
    this.post({ kind: 'picture', key, picture });
    this.requestWhole();
  }

  // --- cost and advice

  /** Whether somebody looks at what the sheet costs: it is worked out only then. */
  watchCost(on: boolean): void {
    this.wantsCost = on;
    this.askCost();
  }

  /** A dial's number changes nothing of it: only the sheet does, and which of its inputs are dials. */
  private askCost(): void {
    const { effect, problems, program } = this.store.getState();
    if (!this.wantsCost || !program || problems.length > 0) return;
    const key = { program, dials: effect.dials.map((d) => `${d.id}:${d.strand}.${d.input}`).join() };
    if (this.costKey?.program === key.program && this.costKey.dials === key.dials) return;
    this.costKey = key;
    this.port.ask('cost', this.ports.compiled().shown);
  }

  /** Advice follows once things have come to rest: it is read, not watched. */
  private adviseSoon(): void {
    if (this.adviseTimer) clearTimeout(this.adviseTimer);
    this.adviseTimer = setTimeout(() => {
      this.adviseTimer = null;
      const { shown, problems } = this.ports.compiled();
      if (problems.length === 0) this.port.ask('advise', shown);
    }, ADVISE_GAP_MS);
  }

  /** @param advice it may be of a sheet a moment ago: what it says of strands that are gone is passed over */
  private advised(advice: readonly Advice[]): void {
    const { stage, prop, brightest, readings } = this.store.getState();
    const { shown, program, problems } = this.ports.compiled();
    if (problems.length > 0) return;
    const alive = advice.filter((a) => a.strand === null || program.strands.has(a.strand));
    const chosen = stage.props.find((p) => p.id === propIn(prop));
    const about = this.ports.view()?.scenery.aboutProp(prop) ?? null;
    const looked = chosen && about ? { prop: chosen, about } : null;
    this.store.setState({ findings: findingsOf(alive, shown, program, readings, stage, looked, brightest) });
  }

  // --- places

  /** Reads the prop's places anew once camera and stage have come to rest. */
  settleSoon(): void {
    if (this.settleTimer) clearTimeout(this.settleTimer);
    this.settleTimer = setTimeout(() => {
      if (this.ports.busy()) return this.settleSoon();
      const { effect, prop } = this.store.getState();
      const reading =
        effect.kind === 'mote'
          ? moteSheet(SWATCH_WIDTH, SWATCH_HEIGHT)
          : this.ports.view()?.placesOf(prop, SWATCH_WIDTH, SWATCH_HEIGHT);
      this.placeProbes();
      if (reading) {
        this.places = { mask: reading.mask, planes: reading.planes };
        this.post({ kind: 'places', places: this.places });
      }
      this.requestWhole();
    }, SETTLE_MS);
  }

  /** Where a pin is now: on the surface as the effect has moved it. */
  placeOfPin(pin: Pin): PlaceOn | null {
    const { stage } = this.store.getState();
    const view = this.ports.view();
    return view?.pointing.placeOn(pin, view.dressing.moveBy(stage, view.pointing.pieceOf(pin), this.clock.time)) ?? null;
  }

  /** Tells the worker where the pins are, and what is worn there. A pin on a prop that wears another program reads nothing. */
  private placeProbes(): void {
    const view = this.ports.view();
    if (!view) return;
    const { stage, prop } = this.store.getState();
    const material = this.worn.on(prop)?.material;
    const probes = pinsOf(stage).flatMap((pin): Probe[] => {
      const piece = view.pointing.pieceOf(pin);
      const worn = this.worn.on(piece);
      const place = this.placeOfPin(pin);
      if (!place || !worn || worn.material !== material) return [];
      const { points, stand } = place;
      const steady = { ...view.pointing.gapsAt(piece, place), ...steadyOf(stage, piece) };
      return [{ id: pin.id, points, stand, steady, params: paramValues(inOrder(worn.program.params), worn.shown) }];
    });
    this.post({ kind: 'probes', probes });
  }

  // --- swatches and curves

  /** Asks for everything that numbers, places or choices change. */
  requestWhole(): void {
    this.wholeStale = true;
    this.request();
  }

  /** Asks for what the moment changes. */
  request(): void {
    this.stale = true;
    if (this.workerBusy || this.drawTimer || !this.program) return;
    const wait = Math.max(0, this.lastDrawn + SWATCH_GAP_MS - performance.now());
    this.drawTimer = setTimeout(() => {
      this.drawTimer = null;
      this.draw();
    }, wait);
  }

  private draw(): void {
    this.stale = false;
    this.workerBusy = true;
    this.lastDrawn = performance.now();
    const { effect, stage, prop, chosen, kept } = this.store.getState();
    const whole = this.wholeStale ? { strands: [...new Set([...(chosen === null ? [] : [chosen]), ...kept])] } : null;
    this.wholeStale = false;
    const asked = this.port.post({
      kind: 'draw',
      number: this.number,
      params: this.params,
      time: this.clock.time,
      loop: effect.loop,
      steady: steadyOf(stage, prop),
      whole,
    });
    // Without a worker nobody answers; a new one is told everything.
    if (!asked) this.workerBusy = false;
  }

  private receive(answer: ReadingsAnswer): void {
    switch (answer.kind) {
      case 'ranges':
        return this.store.setState(({ readings }) => ({ readings: withRanges(readings, answer.ranges, answer.measured) }));
      case 'advise':
        return this.advised(answer.advice);
      case 'cost':
        return this.store.setState({ cost: { cost: answer.cost, savings: answer.savings } });
      case 'levels':
        return this.store.setState({ levels: { ...answer.levels, frame: answer.frame } });
      case 'trouble':
        if (answer.about === 'draw') this.workerBusy = false;
        return;
      case 'idle':
        this.workerBusy = false;
        this.wholeStale = true;
        // It has another program by now, or has come to have places.
        if (answer.number !== this.number || this.stale) this.request();
        return;
      case 'readings':
        return this.drawn(answer);
    }
  }

  private drawn(answer: Readings): void {
    this.workerBusy = false;
    // Of a sheet that is no longer: its rows would show another's pictures.
    if (answer.number !== this.number) {
      this.wholeStale ||= answer.whole !== null;
      return this.request();
    }
    this.last = answer;
    if (answer.whole) {
      this.store.setState({ pulse: answer.whole.pulse, brightest: answer.whole.brightest });
      this.adviseSoon();
    }
    for (const l of this.listeners) l(answer);
    if (this.stale) this.request();
  }

  stop(): void {
    this.port.stop();
    for (const t of [this.drawTimer, this.settleTimer, this.adviseTimer]) if (t) clearTimeout(t);
  }
}
