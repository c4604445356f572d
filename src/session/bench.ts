/**
 * An open bench: the effect and its home stage, their history and saving, the clock, and the readings. It knows no
 * React; screens subscribe to slices of its store, and what changes every frame is drawn by its listeners directly.
 */
import { createStore as createKeyStore, del, get, set } from 'idb-keyval';
import { createStore, type StoreApi } from 'zustand/vanilla';
import type { Draft } from 'immer';
import { readStrands, type StrandReading } from '../core/analysis/reading.js';
import { readEffect, type Problem } from '../core/effect/read.js';
import type { Effect } from '../core/effect/schema.js';
import { withVariant } from '../core/effect/variant.js';
import { readStage, type Stage } from '../core/formats/stage.js';
import { lower, type Program } from '../core/lower/lower.js';
import { LEAF_NAMES, type Leaf } from '../core/ir/leaves.js';
import { paramValues } from '../core/lower/params.js';
import { budgetProblems } from '../core/targets/budgets.js';
import { emitGlsl, fillBlock, type GlslText } from '../core/targets/glsl.js';
import { evaluatorOf, type Evaluator } from '../core/targets/evaluate.js';
import type { StageRenderer } from '../stage/renderer.js';
import { SPILL_POINTS } from '../stage/spill.js';
import { SWATCH_HEIGHT, SWATCH_WIDTH, type Readings, type ReadingsRequest } from '../workers/readings.js';
import { v7 as uuid } from 'uuid';
import { NotThere, createDocument, loadEffect, loadStage, sender, type Loaded } from './api.js';
import { Autosave, type Pending, type PendingStore, type SaveStatus } from './autosave.js';
import { Clock } from './clock.js';
import { EMPTY_HISTORY, record, redoEntry, seal, undoEntry, type History } from './history.js';

type DocumentName = 'effect' | 'stage';

/** How saving stands, of the one of the two documents that stands worse. */
export type BenchSaveStatus = SaveStatus & { readonly document: DocumentName };

export interface BenchState {
  readonly effect: Effect;
  readonly stage: Stage;
  readonly variant: string | null;
  /** The strand whose threads are lit. */
  readonly chosen: string | null;
  /** Rows that show their inputs. */
  readonly opened: ReadonlySet<string>;
  readonly history: History<DocumentName>;
  readonly saved: BenchSaveStatus;
  readonly problems: readonly Problem[];
  readonly readings: ReadonlyMap<string, StrandReading>;
  /** Programs linked since the bench opened. */
  readonly links: number;
  readonly viewpoint: string | null;
  /** Hides bloom and tone curve. */
  readonly raw: boolean;
  /** Hides everything but the picture. */
  readonly bare: boolean;
}

const SWATCH_GAP_MS = 100;
const SETTLE_MS = 200;

/** A store that forgets at the end, for browsers that refuse to keep anything. */
function memoryStore(): PendingStore {
  const kept = new Map<string, Pending>();
  return {
    get: (key) => Promise.resolve(kept.get(key)),
    set: (key, value) => Promise.resolve(void kept.set(key, value)),
    del: (key) => Promise.resolve(void kept.delete(key)),
  };
}

async function pendingStore(): Promise<PendingStore> {
  try {
    const store = createKeyStore('wispen', 'pending');
    await get('probe', store);
    return {
      get: (key) => get<Pending>(key, store),
      set: (key, value) => set(key, value, store),
      del: (key) => del(key, store),
    };
  } catch {
    return memoryStore();
  }
}

const OVER_SURFACE = new Set(LEAF_NAMES.filter((l): l is Leaf => l !== 'time' && l !== 'loop'));

/** Computes the emission over the surface, for the light it throws. */
function emissionOf(program: Program): Evaluator | null {
  const port = program.outputs.get('emission');
  return port ? evaluatorOf(program, [port.node], OVER_SURFACE, SPILL_POINTS) : null;
}

interface Opening<T> {
  readonly document: T;
  readonly version: number;
  readonly savedAt: Date;
  readonly pending: Pending | null;
}

/** The server's document, or what this browser still holds of it. */
async function openDocument<T>(
  store: PendingStore,
  key: string,
  load: () => Promise<Loaded<T>>,
  read: (kept: unknown) => T | null,
): Promise<Opening<T>> {
  const kept = await store.get(key).catch(() => undefined);
  const mine = kept ? read(kept.document) : null;
  let loaded: Loaded<T> | null = null;
  try {
    loaded = await load();
  } catch (error) {
    if (!mine || (error instanceof NotThere && kept!.base > 0)) throw error;
  }
  if (kept && mine && !(loaded && JSON.stringify(loaded.document) === JSON.stringify(mine)))
    return { document: mine, version: kept.base, savedAt: loaded?.savedAt ?? new Date(0), pending: kept };
  if (kept) await store.del(key);
  return { ...loaded!, pending: null };
}

export interface BenchOptions {
  readonly frozen: boolean;
  readonly time: number;
  /** Used when an effect has no home of its own. */
  readonly fallbackStage: string;
}

export class BenchSession {
  readonly store: StoreApi<BenchState>;
  readonly clock: Clock;
  private readonly saves: Record<DocumentName, Autosave>;
  private readonly worker: Worker;
  private renderer: StageRenderer | null = null;
  private worn: { text: GlslText; params: Float32Array; emission: Evaluator | null } | null = null;
  private wanted = '';
  private params: Float32Array = new Float32Array();
  private compileQueued = false;
  private frameQueued = 0;
  private workerBusy = false;
  private workerStale = false;
  private lastSwatches = 0;
  private swatchTimer: ReturnType<typeof setTimeout> | null = null;
  private settleTimer: ReturnType<typeof setTimeout> | null = null;
  private readonly readingListeners = new Set<(r: Readings) => void>();
  private readonly drawnListeners = new Set<(frame: number) => void>();
  private frames = 0;
  lastReadings: Readings | null = null;

  static async open(id: string, options: BenchOptions): Promise<BenchSession> {
    const keep = await pendingStore();
    const effect = await openDocument(
      keep,
      `effect:${id}`,
      () => loadEffect(id),
      (kept) => {
        const result = readEffect(kept);
        return result.ok ? result.effect : null;
      },
    );
    const stageId = effect.document.home?.stage ?? options.fallbackStage;
    const openStage = (sid: string) =>
      openDocument(
        keep,
        `stage:${sid}`,
        () => loadStage(sid),
        (kept) => {
          const result = readStage(kept);
          return result.ok ? result.stage : null;
        },
      );
    const stage = await openStage(stageId).catch((error: unknown) => {
      if (error instanceof NotThere && stageId !== options.fallbackStage) return openStage(options.fallbackStage);
      throw error;
    });
    return new BenchSession(effect, stage, keep, options);
  }

  private constructor(effect: Opening<Effect>, stage: Opening<Stage>, keep: PendingStore, options: BenchOptions) {
    const home = effect.document.home;
    this.clock = new Clock(options.frozen);
    this.clock.loop = effect.document.loop;
    this.clock.fps = effect.document.fps;
    this.store = createStore<BenchState>(() => ({
      effect: effect.document,
      stage: stage.document,
      variant: null,
      chosen: null,
      opened: new Set<string>(),
      history: EMPTY_HISTORY,
      saved: { state: 'saved', at: effect.savedAt, document: 'effect' },
      problems: [],
      readings: new Map(),
      links: 0,
      viewpoint: stage.document.viewpoints.find((v) => v.id === home?.viewpoint)?.id ?? stage.document.viewpoints[0]!.id,
      raw: false,
      bare: false,
    }));
    const statuses: Record<DocumentName, SaveStatus> = {
      effect: { state: 'saved', at: effect.savedAt },
      stage: { state: 'saved', at: stage.savedAt },
    };
    const saver = (name: DocumentName, id: string, opening: Opening<unknown>) =>
      new Autosave({
        key: `${name}:${id}`,
        base: opening.version,
        store: keep,
        send: sender(name, id),
        onStatus: (status) => {
          statuses[name] = status;
          const other: DocumentName = name === 'effect' ? 'stage' : 'effect';
          // While the other is not saved, its trouble is what the mark tells.
          const worse = status.state === 'saved' && statuses[other].state !== 'saved' ? other : name;
          this.store.setState({ saved: { ...statuses[worse], document: worse } });
        },
      });
    this.saves = { effect: saver('effect', effect.document.id, effect), stage: saver('stage', stage.document.id, stage) };
    if (effect.pending) this.saves.effect.resume(effect.pending);
    if (stage.pending) this.saves.stage.resume(stage.pending);
    this.worker = new Worker(new URL('../workers/readings.worker.ts', import.meta.url), { type: 'module' });
    this.worker.addEventListener('message', ({ data }: MessageEvent<Readings>) => this.receive(data));
    this.clock.set(options.time);
    this.clock.onTick(() => {
      this.requestFrame();
      this.requestSwatches();
    });
    this.queueCompile();
  }

  // --- editing

  edit(label: string, recipe: (draft: Effect) => void, mergeKey: string | null = null): void {
    this.change('effect', label, recipe as (draft: Draft<Effect>) => void, mergeKey);
  }

  editStage(label: string, recipe: (draft: Stage) => void, mergeKey: string | null = null): void {
    this.change('stage', label, recipe as (draft: Draft<Stage>) => void, mergeKey);
  }

  private change<D extends DocumentName>(
    name: D,
    label: string,
    recipe: (draft: Draft<BenchState[D]>) => void,
    mergeKey: string | null,
  ): void {
    const state = this.store.getState();
    const result = record(state.history, name, state[name], label, mergeKey, recipe);
    if (!result) return;
    this.store.setState({ [name]: result.value, history: result.history } as Partial<BenchState>);
    this.changed(name);
  }

  /** The end of a drag or of a run of typing. */
  endGesture(): void {
    this.store.setState(({ history }) => ({ history: seal(history) }));
  }

  undo(): void {
    const { history } = this.store.getState();
    const entry = history.past[history.past.length - 1];
    if (entry)
      this.travel(entry.document, undoEntry(this.store.getState()[entry.document], entry), {
        past: history.past.slice(0, -1),
        future: [entry, ...history.future],
      });
  }

  redo(): void {
    const { history } = this.store.getState();
    const entry = history.future[0];
    if (entry)
      this.travel(entry.document, redoEntry(this.store.getState()[entry.document], entry), {
        past: [...history.past, entry],
        future: history.future.slice(1),
      });
  }

  private travel(name: DocumentName, value: Effect | Stage, history: History<DocumentName>): void {
    this.store.setState({ [name]: value, history } as Partial<BenchState>);
    this.changed(name);
  }

  private changed(name: DocumentName): void {
    const state = this.store.getState();
    this.saves[name].change(state[name]);
    if (name === 'effect') {
      this.clock.loop = state.effect.loop;
      this.clock.fps = state.effect.fps;
      const alive = new Set(state.effect.strands.map((s) => s.id));
      if (state.chosen !== null && !alive.has(state.chosen)) this.store.setState({ chosen: null });
      this.queueCompile();
    } else {
      this.renderer?.setStage(state.stage);
      this.settleSoon();
      this.requestFrame();
    }
  }

  setVariant(variant: string | null): void {
    this.store.setState({ variant });
    this.queueCompile();
  }

  saveNow(): Promise<void[]> {
    return Promise.all([this.saves.effect.flush(), this.saves.stage.flush()]);
  }

  /** After a conflict: mine goes over theirs, which stays as a revision. */
  keepMine(): void {
    const { saved } = this.store.getState();
    if (saved.state === 'conflict') this.saves[saved.document].overwrite(saved.version);
  }

  /** After a conflict: theirs is taken, once mine is safe as a document of its own. @throws when it cannot be stored */
  async takeTheirs(): Promise<void> {
    const { saved, effect, stage } = this.store.getState();
    if (saved.state !== 'conflict') return;
    const { document, theirs, version } = saved;
    const mine = document === 'effect' ? effect : stage;
    const result = document === 'effect' ? readEffect(theirs) : readStage(theirs);
    if (!result.ok) throw new Error(result.problems[0]!.message);
    await createDocument(document, { ...mine, id: uuid(), name: `${mine.name} (kept)`.slice(0, 120) });
    await this.saves[document].forget(version);
    this.store.setState({ history: EMPTY_HISTORY, saved: { state: 'saved', at: new Date(), document } });
    if ('effect' in result) this.store.setState({ effect: result.effect });
    else {
      this.store.setState({ stage: result.stage });
      this.renderer?.setStage(result.stage);
      this.settleSoon();
    }
    this.queueCompile();
  }

  // --- compiling

  private queueCompile(): void {
    if (this.compileQueued) return;
    this.compileQueued = true;
    queueMicrotask(() => {
      this.compileQueued = false;
      this.compile();
    });
  }

  private compile(): void {
    const { effect, variant } = this.store.getState();
    const shown = withVariant(effect, variant);
    const program = lower(shown, { build: 'live' });
    this.store.setState({ problems: program.problems, readings: readStrands(program, shown.loop) });
    // A sheet with an error keeps its last good picture.
    if (program.problems.length > 0) return;
    this.params = paramValues(program.params, shown);
    const { lighting, sides, castsShadow, writesDepth } = shown.finish;
    const outputs = [...program.outputs].map(([name, port]) => `${name}:${port.node.id}`);
    const strands = [...program.strands.values()].map((s) => `${s.id}:${s.value.node.id}`);
    const signature = [program.builder.signature(), ...outputs, ...strands, lighting, sides, castsShadow, writesDepth].join('|');
    if (signature === this.wanted) {
      if (this.worn) this.worn.params = this.params;
    } else {
      this.wanted = signature;
      const text = emitGlsl(program, { hoist: true, naming: 'ids' });
      const beyond = budgetProblems(text);
      if (beyond.length > 0) {
        this.store.setState({ problems: beyond });
        return;
      }
      this.post({ kind: 'program', effect: shown });
      void this.wear(text, emissionOf(program));
    }
    this.requestFrame();
    this.requestSwatches();
  }

  private get propId(): string {
    const { effect, stage } = this.store.getState();
    return (stage.props.find((p) => p.id === effect.home?.prop) ?? stage.props[0])?.id ?? '';
  }

  private async wear(text: GlslText, emission: Evaluator | null): Promise<void> {
    const { renderer } = this;
    if (!renderer) {
      this.worn = { text, params: this.params, emission };
      return;
    }
    const { effect } = this.store.getState();
    const ready = await renderer.wear(this.propId, text, effect.finish);
    this.store.setState({ links: renderer.links });
    if (!ready) return;
    this.worn = { text, params: this.params, emission };
    this.requestFrame();
  }

  // --- drawing

  attach(renderer: StageRenderer): void {
    this.renderer = renderer;
    const { stage, viewpoint } = this.store.getState();
    renderer.setStage(stage);
    renderer.lookFrom(stage.viewpoints.find((v) => v.id === viewpoint) ?? stage.viewpoints[0]!);
    renderer.controls.addEventListener('change', () => {
      this.requestFrame();
      this.settleSoon();
    });
    renderer.onContextRestored(() => {
      renderer.forget();
      if (this.worn) void this.wear(this.worn.text, this.worn.emission);
    });
    if (this.worn) void this.wear(this.worn.text, this.worn.emission);
    this.settleSoon();
    this.requestFrame();
  }

  detach(): void {
    this.renderer?.dispose();
    this.renderer = null;
  }

  resized(): void {
    this.requestFrame();
    this.settleSoon();
  }

  lookFrom(viewpoint: string): void {
    const { stage } = this.store.getState();
    const found = stage.viewpoints.find((v) => v.id === viewpoint);
    if (!found) return;
    this.store.setState({ viewpoint });
    this.renderer?.lookFrom(found);
    this.settleSoon();
    this.requestFrame();
  }

  setRaw(raw: boolean): void {
    this.store.setState({ raw });
    this.requestFrame();
  }

  requestFrame(): void {
    if (this.frameQueued || !this.renderer) return;
    this.frameQueued = requestAnimationFrame(() => {
      this.frameQueued = 0;
      this.drawFrame();
    });
  }

  private drawFrame(): void {
    const { renderer, worn } = this;
    if (!renderer) return;
    const { effect, stage, raw } = this.store.getState();
    if (worn) {
      const time = this.clock.time;
      renderer.setBlock(worn.text, fillBlock(worn.text, worn.params, time, effect.loop));
      const { planes } = renderer.spill;
      const lit =
        worn.emission && planes
          ? worn.emission.view(worn.params, { ...planes, time: [time], loop: [effect.loop ?? 0] }, SPILL_POINTS)[0]!
          : null;
      renderer.spill.shine(lit, stage.spill.on ? stage.spill.strength : 0);
    }
    if (this.clock.frozen) renderer.sharpen();
    renderer.draw({ raw, adapt: !this.clock.frozen });
    if (this.clock.frozen) renderer.settle();
    this.frames++;
    for (const l of this.drawnListeners) l(this.frames);
  }

  /** Called after each frame with the count of frames. */
  onDrawn(listener: (frame: number) => void): () => void {
    this.drawnListeners.add(listener);
    return () => this.drawnListeners.delete(listener);
  }

  // --- readings

  private post(request: ReadingsRequest, transfer: Transferable[] = []): void {
    this.worker.postMessage(request, transfer);
  }

  /** Reads the prop's places anew once camera and stage have come to rest. */
  private settleSoon(): void {
    if (this.settleTimer) clearTimeout(this.settleTimer);
    this.settleTimer = setTimeout(() => {
      const reading = this.renderer?.read(this.propId, SWATCH_WIDTH, SWATCH_HEIGHT);
      if (!reading) return;
      const { mask, position, objectNormal, normal, viewNormal, worldPosition, view, uv } = reading;
      this.post({
        kind: 'places',
        places: { mask, planes: { position, objectNormal, normal, viewNormal, worldPosition, view, uv, uv1: uv } },
      });
      this.requestSwatches();
    }, SETTLE_MS);
  }

  private requestSwatches(): void {
    this.workerStale = true;
    if (this.workerBusy || this.swatchTimer) return;
    const wait = Math.max(0, this.lastSwatches + SWATCH_GAP_MS - performance.now());
    this.swatchTimer = setTimeout(() => {
      this.swatchTimer = null;
      this.workerStale = false;
      this.workerBusy = true;
      this.lastSwatches = performance.now();
      this.post({ kind: 'draw', params: this.params, time: this.clock.time, loop: this.store.getState().effect.loop });
      // A worker without places yet does not answer; it is asked again when it has them.
      setTimeout(() => {
        if (this.lastReadings === null) this.workerBusy = false;
      }, SWATCH_GAP_MS);
    }, wait);
  }

  private receive(readings: Readings): void {
    this.workerBusy = false;
    this.lastReadings = readings;
    for (const l of this.readingListeners) l(readings);
    if (this.workerStale) this.requestSwatches();
  }

  onReadings(listener: (r: Readings) => void): () => void {
    this.readingListeners.add(listener);
    if (this.lastReadings) listener(this.lastReadings);
    return () => this.readingListeners.delete(listener);
  }

  // --- the end

  async close(): Promise<void> {
    await this.saveNow();
    this.saves.effect.stop();
    this.saves.stage.stop();
    this.clock.dispose();
    this.worker.terminate();
    for (const t of [this.swatchTimer, this.settleTimer]) if (t) clearTimeout(t);
    cancelAnimationFrame(this.frameQueued);
    this.detach();
  }
}
