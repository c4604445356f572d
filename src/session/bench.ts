/**
 * An open bench: the effect and its home stage, their history and saving, the clock, and the readings. It knows no
 * React; screens subscribe to slices of its store, and what changes every frame is drawn by its listeners directly.
 */
import { createStore, type StoreApi } from 'zustand/vanilla';
import { produce, type Draft } from 'immer';
import { findingsOf, type Finding } from '../core/analysis/findings.js';
import type { PlaceBounds } from '../core/passes/ranges.js';
import type { Advice } from '../core/analysis/advice.js';
import type { Brightest } from '../core/analysis/glow.js';
import type { PeekMode, PeekName } from '../core/analysis/peek.js';
import type { Levels } from '../core/analysis/levels.js';
import type { CostReading } from '../core/analysis/cost.js';
import { carriedOver, readKinds, withRanges, type StrandReading } from '../core/analysis/reading.js';
import { readEffect, type Problem } from '../core/effect/read.js';
import { pictureKey, type Effect } from '../core/effect/schema.js';
import { pinsOf, type Pin } from '../core/scene/pins.js';
import { readStage, type Stage } from '../core/scene/stage.js';
import { copyStage } from '../core/scene/edits.js';
import { effectsOn, takenFrom, wear, whoWears } from '../core/scene/wearing.js';
import type { Program } from '../core/lower/lower.js';
import { paramValues } from '../core/lower/params.js';
import type { PlaceOn, StageRenderer } from '../render/renderer.js';
import { STILL_SAMPLES } from '../render/still.js';
import {
  SWATCH_HEIGHT,
  SWATCH_WIDTH,
  type Places,
  type Probe,
  type Pulse,
  type Readings,
  type ReadingsAnswer,
  type ReadingsRequest,
} from '../workers/readings.js';
import { v7 as uuid } from 'uuid';
import { OpenFailure, createDocument, loadEffect, loadStage, sender } from './api.js';
import { Autosave, type PendingStore, type SaveStatus } from './autosave.js';
import { Clock } from './clock.js';
import { letGo, openDocument, pendingStore, type Aside, type Opening } from './documents.js';
import { loadPicture, pictures } from './images.js';
import { watchServer } from './health.js';
import { EMPTY_HISTORY, record, redoEntry, seal, undoEntry, type History } from './history.js';
import { HistoryStore, markOf } from './historyStore.js';
import { meshOf } from './meshes.js';
import { Peeking, type Peek } from './peeking.js';
import { ReadingsPort, type WorkerLike } from './readingsPort.js';
import { loadShared, newerIn, storeShared, takeOver, type SharedDial } from './sharedDials.js';
import { surround } from './surroundings.js';
import { Wardrobe, steadyOf } from './wardrobe.js';

export type DocumentName = 'effect' | 'stage';

/** How saving stands, of the one of the two documents that stands worse. */
export type BenchSaveStatus = SaveStatus & { readonly document: DocumentName };

/** Whose values the dials turn: those of the variant that is shown, or the chosen prop's own. */
export type DialScope = 'variant' | 'prop';

export interface Question {
  readonly text: string;
  /** What the button says that does it. */
  readonly yes: string;
  readonly act: () => void;
}

export interface BenchState {
  readonly effect: Effect;
  readonly stage: Stage;
  /** The chosen prop; readings are taken on it. */
  readonly prop: string;
  /** The variant that the chosen prop wears. */
  readonly variant: string | null;
  /** What the chosen prop alone has, by dial. */
  readonly overrides: Readonly<Record<string, unknown>>;
  readonly scope: DialScope;
  /** The strand whose threads are lit. */
  readonly chosen: string | null;
  /** Strands whose pulse is drawn beside the chosen one's. */
  readonly kept: readonly string[];
  /** Rows that show their inputs. */
  readonly opened: ReadonlySet<string>;
  readonly history: History<DocumentName>;
  readonly saved: BenchSaveStatus;
  /** Since when the server has not answered; null while it does. */
  readonly silentSince: Date | null;
  /** Whether this browser keeps what is not confirmed. */
  readonly keeps: boolean;
  /** Another tab edits, this one follows. */
  readonly following: boolean;
  /** Something that is done only when the artist says so. */
  readonly question: Question | null;
  /** Something the artist should know once. */
  readonly notice: string | null;
  readonly problems: readonly Problem[];
  readonly program: Program | null;
  readonly readings: ReadonlyMap<string, StrandReading>;
  /** What the sheet costs, and what holding each dial would save; null until it has been asked for. */
  readonly cost: { readonly cost: CostReading; readonly savings: ReadonlyMap<string, number> } | null;
  /** Drafts of this browser's that could not be read. */
  readonly asides: readonly Aside[];
  readonly levels: Levels | null;
  readonly pulse: Pulse | null;
  readonly brightest: Brightest | null;
  /** All advice, also what has been waved aside. */
  readonly findings: readonly Finding[];
  /** The library's shared dials. */
  readonly library: readonly SharedDial[];
  /** Programs linked since the bench opened. */
  readonly links: number;
  readonly viewpoint: string | null;
  /** Hides bloom and tone curve. */
  readonly raw: boolean;
  /** Hides everything but the picture. */
  readonly bare: boolean;
  /** What is peeked at. */
  readonly peek: Peek | null;
  /** Samples that the still has, while nothing moves; 0 while something does. */
  readonly samples: number;
}

const NO_OVERRIDES: Readonly<Record<string, unknown>> = {};
const SWATCH_GAP_MS = 100;
const SETTLE_MS = 200;
const LEVELS_GAP_MS = 250;
/** Steps of undo are kept once things fall quiet, and at least this often. */
const KEEP_QUIET_MS = 300;
const KEEP_LONGEST_MS = 1500;
const ADVISE_GAP_MS = 300;
/** How long nothing must move before the picture refines itself. */
const STILL_AFTER_MS = 250;

export interface BenchPorts {
  readonly readings: () => WorkerLike;
  readonly watchServer: typeof watchServer;
}

const PAGE: BenchPorts = {
  readings: () => new Worker(new URL('../workers/readings.worker.ts', import.meta.url), { type: 'module' }),
  watchServer,
};

export interface BenchOptions {
  readonly frozen: boolean;
  readonly time: number;
  /** Used when an effect has no home of its own. */
  readonly fallbackStage: string;
  /** Another tab edits: this one shows what that one has, and changes nothing. */
  readonly following: boolean;
  /** What the session is made of besides documents: a page's own unless others are given. */
  readonly ports?: Partial<BenchPorts>;
  /** The effect has another home now: the bench is to be opened anew. */
  readonly onRehome: () => void;
}

/** What a tab that edits shows one that follows. */
export interface Shown {
  readonly effect: Effect;
  readonly stage: Stage;
}

export class BenchSession {
  readonly store: StoreApi<BenchState>;
  readonly clock: Clock;
  private readonly saves: Record<DocumentName, Autosave>;
  private readonly worker: ReadingsPort;
  private readonly steps: HistoryStore<DocumentName>;
  private renderer: StageRenderer | null = null;
  private readonly wardrobe = new Wardrobe();
  private readonly peeking: Peeking;
  /** Meshes that the renderer has, or will have. */
  private readonly provided = new Set<string>();
  /** Other effects that props of the stage wear; null for one that cannot be had. */
  private readonly others = new Map<string, Effect | null>();
  private dressed = '';
  /** Names the program that the worker has. */
  private programNumber = 0;
  private workerProgram: Program | null = null;
  /** The prop's places as they were last read. */
  private places: Places | null = null;
  /** Where the props are that wear the effect, as the worker knows it. */
  private bounds: PlaceBounds | null = null;
  private params: Float32Array = new Float32Array();
  private compileQueued = false;
  private frameQueued = 0;
  private workerBusy = false;
  private workerStale = false;
  private wholeStale = true;
  private lastSwatches = 0;
  private lastLevels = 0;
  private measuring = false;
  /** Programs are being made for what is worn. */
  private dressing = 0;
  private levelsGap = LEVELS_GAP_MS;
  private swatchTimer: ReturnType<typeof setTimeout> | null = null;
  private settleTimer: ReturnType<typeof setTimeout> | null = null;
  private levelsTimer: ReturnType<typeof setTimeout> | null = null;
  /** Shared dials that wait to be told to the library. */
  private readonly publishing = new Map<string, ReturnType<typeof setTimeout>>();
  /** Images that have been asked for. */
  private readonly asked = new Set<string>();
  private wantsCost = false;
  private costKey: { readonly program: Program; readonly dials: string } | null = null;
  /** The effect whose program the worker has, with its latest numbers. */
  private workerShown: Effect | null = null;
  private adviseTimer: ReturnType<typeof setTimeout> | null = null;
  /** Which run of samples the still is in: a frame ends it. */
  private refining = 0;
  /** A frame has been handed over and is not drawn yet. */
  private drawing = false;
  private frameWanted = false;
  private refineTimer: ReturnType<typeof setTimeout> | null = null;
  private historyTimer: ReturnType<typeof setTimeout> | null = null;
  private historyDeadline: ReturnType<typeof setTimeout> | null = null;
  private readonly unwatch: () => void;
  private readonly readingListeners = new Set<(r: Readings) => void>();
  private readonly drawnListeners = new Set<(frame: number) => void>();
  private readonly changeListeners = new Set<() => void>();
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
        return result.ok ? { ok: true, document: result.effect } : { ok: false, why: result.problems[0]!.message };
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
          return result.ok ? { ok: true, document: result.stage } : { ok: false, why: result.problems[0]!.message };
        },
      );
    const stage = await openStage(stageId).catch((error: unknown) => {
      if (error instanceof OpenFailure && error.reason === 'gone' && stageId !== options.fallbackStage)
        return openStage(options.fallbackStage);
      throw error;
    });
    const session = new BenchSession(effect, stage, keep, options);
    if (!options.following) await session.restoreHistory();
    return session;
  }

  private constructor(
    effect: Opening<Effect>,
    stage: Opening<Stage>,
    private readonly keep: PendingStore,
    private readonly options: BenchOptions,
  ) {
    const home = effect.document.home;
    const ports = { ...PAGE, ...options.ports };
    this.clock = new Clock(options.frozen);
    this.clock.loop = effect.document.loop;
    this.clock.fps = effect.document.fps;
    this.store = createStore<BenchState>(() => ({
      effect: effect.document,
      stage: stage.document,
      ...this.propState(effect.document, stage.document, this.homeProp(effect.document, stage.document)),
      scope: 'variant',
      chosen: null,
      kept: [],
      opened: new Set<string>(),
      history: EMPTY_HISTORY,
      saved: { state: 'saved', at: effect.savedAt, document: 'effect' },
      silentSince: null,
      keeps: keep.lasting,
      following: options.following,
      question: null,
      notice: null,
      problems: [],
      program: null,
      readings: new Map(),
      cost: null,
      asides: [...effect.asides, ...stage.asides],
      levels: null,
      pulse: null,
      brightest: null,
      findings: [],
      library: [],
      links: 0,
      viewpoint: stage.document.viewpoints.find((v) => v.id === home?.viewpoint)?.id ?? stage.document.viewpoints[0]!.id,
      raw: false,
      bare: false,
      peek: null,
      samples: 0,
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
    if (!options.following) {
      if (effect.pending) this.saves.effect.resume(effect.pending);
      if (stage.pending) this.saves.stage.resume(stage.pending);
    }
    this.steps = new HistoryStore(effect.document.id);
    this.worker = new ReadingsPort(ports.readings, {
      onAnswer: (answer) => this.receive(answer),
      onTrouble: (notice) => this.store.setState({ notice }),
      onFresh: () => this.tellWorker(),
    });
    this.peeking = new Peeking(
      this.wardrobe,
      () => this.store.getState(),
      (peek) => {
        this.store.setState({ peek });
        void this.peeking.follow(this.renderer);
        this.requestFrame();
      },
      () => this.requestFrame(),
    );
    this.unwatch = ports.watchServer((answers) => {
      this.store.setState({ silentSince: answers ? null : new Date() });
      if (answers) void this.saveNow();
    });
    this.clock.set(options.time);
    this.clock.onState(() => {
      if (!this.clock.playing) this.refineSoon();
    });
    this.clock.onTick(() => {
      this.requestFrame();
      this.requestSwatches();
    });
    this.furnish();
    this.queueCompile();
  }

  private homeProp(effect: Effect, stage: Stage): string {
    const worn = whoWears(stage, effect).filter((w) => w.effect === effect.id);
    return (worn.find((w) => w.prop === effect.home?.prop) ?? worn[0])?.prop ?? stage.props[0]?.id ?? '';
  }

  /** What follows from which prop is chosen. */
  private propState(effect: Effect, stage: Stage, prop: string): Pick<BenchState, 'prop' | 'variant' | 'overrides'> {
    // A prop that does not wear the effect has nothing of it to show: readings are taken on one that does.
    const wearers = whoWears(stage, effect).filter((w) => w.effect === effect.id);
    const there = wearers.some((w) => w.prop === prop) ? prop : this.homeProp(effect, stage);
    const wearing = wearers.find((w) => w.prop === there);
    return {
      prop: there,
      variant: effect.variants.some((v) => v.id === wearing?.variant) ? wearing!.variant : null,
      overrides: wearing?.overrides ?? NO_OVERRIDES,
    };
  }

  /** Fetches what the stage refers to and is not at hand: other effects, and meshes. */
  private furnish(): void {
    const { effect, stage } = this.store.getState();
    for (const id of effectsOn(stage)) {
      if (id === effect.id || this.others.has(id)) continue;
      this.others.set(id, null);
      loadEffect(id).then(
        ({ document }) => {
          this.others.set(id, document);
          this.queueCompile();
        },
        // Props that wear an effect that is gone stay bare.
        () => undefined,
      );
    }
    if (this.renderer)
      surround(this.renderer, stage).then(
        (given) => given && this.restage(),
        (error: Error) => this.store.setState({ notice: error.message }),
      );
    for (const { sha256 } of Object.values(stage.assets)) {
      const { renderer } = this;
      if (!renderer || this.provided.has(sha256)) continue;
      this.provided.add(sha256);
      meshOf(sha256).then(
        (mesh) => {
          if (this.renderer !== renderer) return;
          renderer.provide(sha256, mesh);
          this.restage();
        },
        (error: Error) => {
          this.provided.delete(sha256);
          this.store.setState({ notice: error.message });
        },
      );
    }
  }

  /** Brings the renderer to the stage document. */
  private restage(): void {
    const { renderer } = this;
    if (!renderer) return;
    renderer.setStage(this.store.getState().stage);
    this.queueCompile();
    this.settleSoon();
    this.requestFrame();
  }

  // --- the history, kept across reloads

  private async restoreHistory(): Promise<void> {
    const { effect, stage } = this.store.getState();
    const found = await this.steps.restore(markOf(effect, stage)).catch(() => null);
    if (!found) return;
    this.store.setState({ history: found.history });
    const lost = found.dropped.map((name) => `the ${name}`).join(' and ');
    if (lost !== '')
      this.store.setState({
        notice: `Undo begins here: ${lost} ${found.dropped.length > 1 ? 'were' : 'was'} changed elsewhere since.`,
      });
  }

  private keepHistorySoon(): void {
    if (this.historyTimer) clearTimeout(this.historyTimer);
    this.historyTimer = setTimeout(() => void this.keepHistory(), KEEP_QUIET_MS);
    this.historyDeadline ??= setTimeout(() => void this.keepHistory(), KEEP_LONGEST_MS);
  }

  private async keepHistory(): Promise<void> {
    for (const t of [this.historyTimer, this.historyDeadline]) if (t) clearTimeout(t);
    this.historyTimer = this.historyDeadline = null;
    const { effect, stage, history, following } = this.store.getState();
    if (following) return;
    await this.steps.keep(markOf(effect, stage), history).catch(() => undefined);
  }

  /** The page may end any moment: what is not kept in this browser yet is kept now. */
  async hold(): Promise<void> {
    const pending = this.historyTimer !== null;
    await Promise.all([this.saves.effect.hold(), this.saves.stage.hold(), ...(pending ? [this.keepHistory()] : [])]);
  }

  /** Closing the page now would lose something. */
  get atRisk(): boolean {
    return this.saves.effect.atRisk || this.saves.stage.atRisk || this.store.getState().saved.state === 'refused';
  }

  /** A draft that could not be read is a file now, or is not wanted. */
  async letGo(aside: Aside): Promise<void> {
    await letGo(this.keep, aside);
    this.store.setState(({ asides }) => ({ asides: asides.filter((a) => a.key !== aside.key) }));
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
    if (state.following) return;
    const result = record(state.history, name, state[name], label, mergeKey, recipe);
    if (!result) return;
    this.apply({ [name]: result.value }, result.history);
  }

  /** Turns a shared dial: here at once, and for every effect of the library that reads it. */
  turnShared(id: string, value: SharedDial['value']): void {
    this.edit(
      'Turn a shared dial',
      (draft) => {
        const dial = draft.shared.find((d) => d.id === id);
        if (dial) dial.value = value;
      },
      `shared ${id}`,
    );
  }

  /** Tells the library, once things have come to rest. */
  publishShared(dial: SharedDial): void {
    const { library } = this.store.getState();
    this.store.setState({ library: [...library.filter((d) => d.id !== dial.id), dial] });
    const waiting = this.publishing.get(dial.id);
    if (waiting) clearTimeout(waiting);
    this.publishing.set(
      dial.id,
      setTimeout(() => {
        this.publishing.delete(dial.id);
        void storeShared(dial).then((ok) => {
          if (!ok)
            this.store.setState({
              notice: `The shared dial ${dial.name} was not told to the library; turn it again when the server answers.`,
            });
        });
      }, SETTLE_MS),
    );
  }

  /** Follows the library's shared dials. It is nobody's step: there is nothing to undo. */
  private async followShared(): Promise<void> {
    const library = await loadShared().catch(() => []);
    this.store.setState({ library });
    const { effect, following, history } = this.store.getState();
    const newer = newerIn(effect, library);
    if (newer.length > 0 && !following) this.apply({ effect: produce(effect, (draft) => takeOver(draft, newer)) }, history);
  }

  /** The end of a drag or of a run of typing. */
  endGesture(): void {
    this.store.setState(({ history }) => ({ history: seal(history) }));
  }

  undo(): void {
    const { history } = this.store.getState();
    const entry = history.past[history.past.length - 1];
    if (entry)
      this.travel(entry.document, (value) => undoEntry(value, entry), {
        past: history.past.slice(0, -1),
        future: [entry, ...history.future],
      });
  }

  redo(): void {
    const { history } = this.store.getState();
    const entry = history.future[0];
    if (entry)
      this.travel(entry.document, (value) => redoEntry(value, entry), {
        past: [...history.past, entry],
        future: history.future.slice(1),
      });
  }

  private travel(name: DocumentName, go: <T extends Effect | Stage>(value: T) => T, history: History<DocumentName>): void {
    const { following, effect, stage } = this.store.getState();
    if (following) return;
    this.apply(name === 'effect' ? { effect: go(effect) } : { stage: go(stage) }, history);
  }

  /** Puts the effect on another stage, or on a copy of it that is its own. @throws with a sentence; then it stays where it is */
  async standOn(id: string, copy: boolean): Promise<void> {
    const { effect } = this.store.getState();
    let there = id;
    if (copy) {
      const { document } = await loadStage(id);
      there = uuid();
      const name = `${document.name.slice(0, 80)}, for ${effect.name}`.slice(0, 120);
      await createDocument('stage', copyStage(document, { id: there, name, worn: {} }));
    }
    this.edit('Stand on another stage', (draft) => void (draft.home = { stage: there, prop: '', viewpoint: '' }));
  }

  /** The one way in which a document changes: the store is set once, and everybody follows. */
  private apply(changed: Partial<Shown>, history: History<DocumentName>): void {
    const before = this.store.getState();
    this.take(changed, { history });
    for (const name of ['effect', 'stage'] as const) if (changed[name]) this.saves[name].change(changed[name]);
    if (changed.effect) this.tellShared(before.effect, changed.effect);
    this.keepHistorySoon();
    for (const l of this.changeListeners) l();
    const home = (e: Effect) => e.home?.stage ?? this.options.fallbackStage;
    if (changed.effect && home(changed.effect) !== home(before.effect)) this.options.onRehome();
  }

  /** A shared dial that has another value, by whatever step, has it for the whole library. */
  private tellShared(before: Effect, now: Effect): void {
    if (before.shared === now.shared) return;
    const { library } = this.store.getState();
    for (const dial of now.shared) {
      const old = before.shared.find((d) => d.id === dial.id);
      if (!old || old === dial || JSON.stringify(old.value) === JSON.stringify(dial.value)) continue;
      const known = library.find((d) => d.id === dial.id);
      if (JSON.stringify(known?.value) !== JSON.stringify(dial.value)) this.publishShared(dial);
    }
  }

  /** Takes changed documents, with what they mean for the rest of the session. */
  private take(changed: Partial<Shown>, more: Partial<BenchState> = {}): void {
    const before = this.store.getState();
    const { effect, stage } = { ...before, ...changed };
    const alive = new Set(effect.strands.map((s) => s.id));
    const chosen = before.chosen !== null && alive.has(before.chosen) ? before.chosen : null;
    const kept = before.kept.every((id) => alive.has(id)) ? before.kept : before.kept.filter((id) => alive.has(id));
    this.store.setState({ chosen, kept, ...changed, ...more, ...this.propState(effect, stage, before.prop) });
    if (changed.effect) {
      this.clock.loop = effect.loop;
      this.clock.fps = effect.fps;
      this.queueCompile();
    }
    if (changed.stage) {
      this.furnish();
      this.restage();
    }
  }

  /** Called after each change of a document. */
  onChange(listener: () => void): () => void {
    this.changeListeners.add(listener);
    return () => this.changeListeners.delete(listener);
  }

  get shown(): Shown {
    const { effect, stage } = this.store.getState();
    return { effect, stage };
  }

  /** Takes what the tab that edits has, in a tab that follows. */
  show({ effect, stage }: Shown): void {
    const before = this.store.getState();
    if (!before.following) return;
    this.take(JSON.stringify(before.stage) === JSON.stringify(stage) ? { effect } : { effect, stage });
  }

  /** The prop that readings are taken on and dials turn. */
  chooseProp(prop: string): void {
    const { effect, stage } = this.store.getState();
    this.store.setState(this.propState(effect, stage, prop));
    this.settleSoon();
    this.queueCompile();
  }

  /** What goes by the name of an effect that props of the stage wear. */
  nameOf(effect: string): string {
    return this.others.get(effect)?.name ?? 'another effect';
  }

  /** Does what dresses props; first it is asked for, where that takes one from an effect whose home this stage is. */
  askFirst(props: readonly string[], act: () => void): void {
    const { effect, stage } = this.store.getState();
    const taken = props
      .flatMap((id) => takenFrom(stage, effect, id) ?? [])
      .filter(({ effect: other }) => (this.others.get(other)?.home?.stage ?? stage.id) === stage.id);
    if (taken.length === 0) return act();
    const names = [...new Set(taken.map((t) => this.nameOf(t.effect)))].join(' and ');
    const what = taken.map((t) => t.prop).join(' and ');
    this.store.setState({
      question: {
        text: `${what} ${taken.length === 1 ? 'belongs' : 'belong'} to ${names}, which would lose it.`,
        yes: 'Take it',
        act,
      },
    });
  }

  /** @param yes does what was asked about; else it is left */
  answer(yes: boolean): void {
    const { question } = this.store.getState();
    this.store.setState({ question: null });
    if (yes) question?.act();
  }

  /** Puts another variant on the chosen prop; a prop that only stands in for the effect's home comes to wear it. */
  setVariant(variant: string | null): void {
    const { effect, prop } = this.store.getState();
    const name = effect.variants.find((v) => v.id === variant)?.name ?? 'Base';
    this.askFirst([prop], () => this.editStage(`Wear ${name}`, (draft) => wear(draft, effect, { id: prop, variant })));
  }

  choose(chosen: string | null): void {
    this.store.setState({ chosen });
    this.requestWhole();
  }

  /** Holds a strand's pulse beside the chosen one's, or lets it go. */
  keepPulse(strand: string, keep: boolean): void {
    this.store.setState(({ kept }) => ({
      kept: keep ? [...kept.filter((k) => k !== strand), strand].slice(-4) : kept.filter((k) => k !== strand),
    }));
    this.requestWhole();
  }

  /** Makes everything safe: what is not confirmed is in this browser, the rest with the server. */
  async settle(): Promise<void> {
    await this.hold();
    await Promise.race([this.saveNow(), new Promise((r) => setTimeout(r, 1000))]);
  }

  saveNow(): Promise<void[]> {
    return Promise.all([this.saves.effect.flush(), this.saves.stage.flush()]);
  }

  /** After a conflict: mine goes over theirs, which stays as a revision. */
  keepMine(): void {
    const { saved } = this.store.getState();
    if (saved.state === 'conflict') this.saves[saved.document].overwrite(saved.version);
  }

  /** After a conflict: theirs is taken, once mine is safe as a document of its own; where it cannot be, nothing changes, with a sentence. */
  async takeTheirs(): Promise<void> {
    await this.takeOther().catch((error: Error) =>
      this.store.setState({ notice: `The other was not taken; this one is still here. ${error.message}` }),
    );
  }

  private async takeOther(): Promise<void> {
    const { saved, effect, stage } = this.store.getState();
    if (saved.state !== 'conflict') return;
    const { document, theirs, version } = saved;
    const mine = document === 'effect' ? effect : stage;
    const result = document === 'effect' ? readEffect(theirs) : readStage(theirs);
    if (!result.ok) throw new Error(result.problems[0]!.message);
    await createDocument(document, { ...mine, id: uuid(), name: `${mine.name} (kept)`.slice(0, 120) });
    await this.saves[document].forget(version);
    const more = { history: EMPTY_HISTORY, saved: { state: 'saved', at: new Date(), document } } as const;
    this.take('effect' in result ? { effect: result.effect } : { stage: result.stage }, more);
    this.keepHistorySoon();
  }

  // --- compiling

  /** At most once a frame, however many edits come in it; a page that is not seen has no frames. */
  private queueCompile(): void {
    if (this.compileQueued) return;
    this.compileQueued = true;
    if (document.hidden) setTimeout(() => this.flush());
    else requestAnimationFrame(() => this.flush());
  }

  /** Does what waits for the next frame now: for whoever wants to know what an edit has made of the sheet. */
  flush(): void {
    if (!this.compileQueued) return;
    this.compileQueued = false;
    try {
      this.compile();
    } catch (error) {
      this.store.setState({
        notice: `The sheet could not be worked out, so the picture is as it was. ${(error as Error).message}`,
      });
    }
  }

  private compile(): void {
    const { effect, stage, prop, program: before, problems: knownProblems, readings } = this.store.getState();
    const effects = new Map<string, Effect>([[effect.id, effect]]);
    for (const [id, other] of this.others) if (other) effects.set(id, other);
    this.wardrobe.update(stage, effects, effect);
    const { shown, program, problems } = this.wardrobe.read(stage, effect, prop);
    // Other numbers leave the program, and whoever shows it, as they are.
    if (program !== before || problems !== knownProblems) {
      this.store.setState({ problems, program, readings: carriedOver(readings, readKinds(program)) });
    }
    this.fetchPictures();
    void this.dress();
    void this.peeking.follow(this.renderer);
    this.tellBounds(effect.id);
    this.worker.ask('ranges', shown);
    this.askCost();
    this.adviseSoon();
    // A sheet with an error keeps its last good picture and numbers.
    if (problems.length > 0) return;
    this.params = paramValues(program.params, shown);
    this.workerShown = shown;
    if (program !== this.workerProgram) {
      this.workerProgram = program;
      this.post({ kind: 'program', number: ++this.programNumber, effect: shown });
    }
    this.placeProbes();
    this.requestWhole();
    this.requestFrame();
  }

  /** What values can be depends on where the props are that wear the effect. */
  private tellBounds(effect: string): void {
    const wearers = this.wardrobe.outfits.filter((o) => o.shown.id === effect).map((o) => o.prop);
    const bounds = this.renderer?.placeBounds(wearers) ?? null;
    if (!bounds || JSON.stringify(bounds) === JSON.stringify(this.bounds)) return;
    this.bounds = bounds;
    this.post({ kind: 'bounds', bounds });
  }

  /** A new worker is told all that the one before knew. */
  private tellWorker(): void {
    for (const [key, picture] of pictures) this.post({ kind: 'picture', key, picture });
    if (this.workerProgram && this.workerShown)
      this.post({ kind: 'program', number: ++this.programNumber, effect: this.workerShown });
    if (this.places) this.post({ kind: 'places', places: this.places });
    if (this.bounds) this.post({ kind: 'bounds', bounds: this.bounds });
    this.placeProbes();
    this.workerBusy = false;
    this.costKey = null;
    if (this.workerShown) this.worker.ask('ranges', this.workerShown);
    this.askCost();
    this.adviseSoon();
    this.requestWhole();
  }

  /** Whether somebody looks at what the sheet costs: it is worked out only then. */
  watchCost(on: boolean): void {
    this.wantsCost = on;
    this.askCost();
  }

  /** A dial's number changes nothing of it: only the sheet does, and which of its inputs are dials. */
  private askCost(): void {
    const { effect, stage, prop, problems, program } = this.store.getState();
    if (!this.wantsCost || !program || problems.length > 0) return;
    const key = { program, dials: effect.dials.map((d) => `${d.id}:${d.strand}.${d.input}`).join() };
    if (this.costKey?.program === key.program && this.costKey.dials === key.dials) return;
    this.costKey = key;
    this.worker.ask('cost', this.wardrobe.read(stage, effect, prop).shown);
  }

  /** Images come when they come: until then grey stands for them. */
  private fetchPictures(): void {
    const effects = [this.store.getState().effect, ...this.others.values()];
    for (const asset of effects.flatMap((e) => Object.values(e?.assets ?? {}))) {
      const key = pictureKey(asset);
      if (this.asked.has(key)) continue;
      this.asked.add(key);
      loadPicture(asset).then(
        (picture) => {
          this.renderer?.providePicture(key, picture);
          this.post({ kind: 'picture', key, picture });
          this.requestWhole();
          this.requestFrame();
        },
        (error: Error) => {
          this.asked.delete(key);
          this.store.setState({ notice: error.message });
        },
      );
    }
  }

  /** Advice follows once things have come to rest: it is read, not watched. */
  private adviseSoon(): void {
    if (this.adviseTimer) clearTimeout(this.adviseTimer);
    this.adviseTimer = setTimeout(() => {
      this.adviseTimer = null;
      const { effect, stage, prop } = this.store.getState();
      const { shown, problems } = this.wardrobe.read(stage, effect, prop);
      if (problems.length === 0) this.worker.ask('advise', shown);
    }, ADVISE_GAP_MS);
  }

  /** @param advice it may be of a sheet a moment ago: what it says of strands that are gone is passed over */
  private advised(advice: readonly Advice[]): void {
    const { effect, stage, prop, brightest, readings } = this.store.getState();
    const { shown, program, problems } = this.wardrobe.read(stage, effect, prop);
    if (problems.length > 0) return;
    const alive = advice.filter((a) => a.strand === null || program.strands.has(a.strand));
    const chosen = stage.props.find((p) => p.id === prop);
    const about = this.renderer?.aboutProp(prop) ?? null;
    const looked = chosen && about ? { prop: chosen, about } : null;
    this.store.setState({ findings: findingsOf(alive, shown, program, readings, stage, looked, brightest) });
  }

  /** Has the renderer follow what is to be worn, where that is another program than before. */
  private async dress(): Promise<void> {
    const { renderer } = this;
    const key = this.wardrobe.outfits.map((o) => `${o.prop}:${o.cut.number}`).join();
    if (!renderer || key === this.dressed) return;
    this.dressed = key;
    this.dressing++;
    const ready = await this.wardrobe.dress(renderer).finally(() => this.dressing--);
    this.store.setState({ links: renderer.links });
    if (!ready) return;
    this.requestFrame();
    // A surface that has become see-through has something behind it to read.
    this.settleSoon();
  }

  // --- drawing

  attach(renderer: StageRenderer): void {
    this.renderer = renderer;
    this.provided.clear();
    this.drawing = false;
    renderer.onRemade = () => {
      this.dressed = '';
      this.queueCompile();
    };
    const { stage, viewpoint } = this.store.getState();
    for (const [key, picture] of pictures) renderer.providePicture(key, picture);
    void this.followShared();
    renderer.setStage(stage);
    renderer.lookFrom(stage.viewpoints.find((v) => v.id === viewpoint) ?? stage.viewpoints[0]!);
    renderer.controls.addEventListener('start', () => (renderer.coarse = true));
    renderer.controls.addEventListener('end', () => {
      renderer.coarse = false;
      this.requestFrame();
    });
    renderer.controls.addEventListener('change', () => {
      this.requestFrame();
      this.settleSoon();
    });
    renderer.onContextRestored(() => {
      renderer.forget();
      this.peeking.forget();
      this.dressed = '';
      void this.dress();
      void this.peeking.follow(renderer);
    });
    this.dressed = '';
    this.peeking.forget();
    this.furnish();
    void this.dress();
    void this.peeking.follow(renderer);
    this.settleSoon();
    this.requestFrame();
  }

  detach(): void {
    this.renderer?.dispose();
    this.renderer = null;
  }

  get view(): StageRenderer | null {
    return this.renderer;
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

  /** Peeks at a strand or an output, for as long as it is held or until it is let go. */
  peekAt(of: PeekName, locked: boolean): void {
    this.peeking.begin(of, locked);
  }

  endPeek(): void {
    this.peeking.end();
  }

  showPeek(mode: PeekMode): void {
    this.peeking.show(mode);
  }

  setRaw(raw: boolean): void {
    this.store.setState({ raw });
    this.requestFrame();
  }

  requestFrame(): void {
    if (this.frameQueued || !this.renderer) return;
    // Frames that are not drawn yet would queue up behind one another, and what is pressed would wait for all of them.
    if (this.drawing) {
      this.frameWanted = true;
      return;
    }
    this.frameQueued = requestAnimationFrame(() => {
      this.frameQueued = 0;
      this.drawFrame();
    });
  }

  private drawFrame(): void {
    const { renderer } = this;
    // What is asked for while a picture is taken is drawn after it.
    if (!renderer || renderer.capturing) return;
    this.flush();
    const { stage, raw } = this.store.getState();
    this.wardrobe.fill(renderer, stage, this.clock.time);
    this.peeking.fill(renderer, stage, this.clock.time);
    if (this.clock.frozen) renderer.sharpen();
    renderer.draw({ raw, adapt: !this.clock.frozen });
    if (this.clock.frozen) renderer.settle();
    else {
      this.drawing = true;
      void renderer.drawn().then(() => {
        this.drawing = false;
        if (!this.frameWanted) return;
        this.frameWanted = false;
        this.requestFrame();
      });
    }
    this.frames++;
    for (const l of this.drawnListeners) l(this.frames);
    this.measureSoon();
    this.peeking.measureSoon(renderer);
    this.refineSoon();
  }

  /** While nothing moves the picture refines itself, a sample at a time; any frame begins anew. */
  private refineSoon(): void {
    this.refining++;
    if (this.refineTimer) clearTimeout(this.refineTimer);
    if (this.store.getState().samples !== 0) this.store.setState({ samples: 0 });
    if (this.clock.frozen || this.clock.playing) return;
    const step = () => {
      this.refineTimer = null;
      const { renderer } = this;
      if (!renderer || this.frameQueued || this.clock.playing || document.hidden) return;
      // Programs that are being made would be waited for.
      if (this.dressing > 0) {
        this.refineTimer = setTimeout(step, STILL_AFTER_MS);
        return;
      }
      const before = this.store.getState().samples;
      const samples = renderer.refine(this.store.getState().raw);
      if (samples === before) return;
      this.store.setState({ samples });
      const began = performance.now();
      const turn = ++this.refining;
      void renderer.drawn().then(() => {
        if (turn !== this.refining || samples >= STILL_SAMPLES) return;
        // As long again for whatever else the page has to do, where there is no graphics card.
        this.refineTimer = setTimeout(step, Math.min(STILL_AFTER_MS, performance.now() - began));
      });
    };
    this.refineTimer = setTimeout(step, STILL_AFTER_MS);
  }

  /** Reads the picture's levels back, a few times a second at most. */
  private measureSoon(): void {
    if (this.levelsTimer) return;
    const wait = Math.max(0, this.lastLevels + this.levelsGap - performance.now());
    this.levelsTimer = setTimeout(() => {
      this.levelsTimer = null;
      void this.measure();
    }, wait);
  }

  private async measure(): Promise<void> {
    const { renderer } = this;
    // Reading back would wait for the programs that are being made, and the page with it; the frame that shows them measures.
    if (!renderer || this.measuring || this.dressing > 0) return;
    this.measuring = true;
    this.lastLevels = performance.now();
    const drawn = this.frames;
    const picture = await renderer.measure().catch(() => null);
    this.measuring = false;
    // On a slow machine the gauge takes its time rather than the picture's.
    this.levelsGap = Math.max(LEVELS_GAP_MS, 6 * (performance.now() - this.lastLevels));
    if (!picture || !this.renderer) return;
    const { luminance, display } = picture;
    const { threshold } = this.store.getState().stage.optics.bloom;
    this.post({ kind: 'levels', luminance, display, threshold }, [luminance.buffer, display.buffer]);
    if (this.frames !== drawn) this.measureSoon();
  }

  /** Called after each frame with the count of frames. */
  onDrawn(listener: (frame: number) => void): () => void {
    this.drawnListeners.add(listener);
    return () => this.drawnListeners.delete(listener);
  }

  // --- readings

  private post(request: ReadingsRequest, transfer: Transferable[] = []): void {
    this.worker.post(request, transfer);
  }

  /** Reads the prop's places anew once camera and stage have come to rest. */
  private settleSoon(): void {
    if (this.settleTimer) clearTimeout(this.settleTimer);
    this.settleTimer = setTimeout(() => {
      if (this.dressing > 0) return this.settleSoon();
      const reading = this.renderer?.read(this.store.getState().prop, SWATCH_WIDTH, SWATCH_HEIGHT);
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
    return this.renderer?.placeOn(pin, this.wardrobe.moveBy(stage, pin.prop, this.clock.time)) ?? null;
  }

  /** Tells the worker where the pins are, and what is worn there. A pin on a prop that wears another program reads nothing. */
  private placeProbes(): void {
    const { renderer } = this;
    if (!renderer) return;
    const { stage, prop } = this.store.getState();
    const cut = this.wardrobe.outfit(prop)?.cut;
    const probes = pinsOf(stage).flatMap((pin): Probe[] => {
      const outfit = this.wardrobe.outfit(pin.prop);
      const place = this.placeOfPin(pin);
      if (!place || !outfit || outfit.cut !== cut) return [];
      const { points, stand } = place;
      const steady = { ...renderer.gapsAt(pin.prop, place), ...steadyOf(stage, pin.prop) };
      return [{ id: pin.id, points, stand, steady, params: outfit.params }];
    });
    this.post({ kind: 'probes', probes });
  }

  /** Asks for everything that numbers, places or choices change. */
  private requestWhole(): void {
    this.wholeStale = true;
    this.requestSwatches();
  }

  private requestSwatches(): void {
    this.workerStale = true;
    if (this.workerBusy || this.swatchTimer || !this.workerProgram) return;
    const wait = Math.max(0, this.lastSwatches + SWATCH_GAP_MS - performance.now());
    this.swatchTimer = setTimeout(() => {
      this.swatchTimer = null;
      this.workerStale = false;
      this.workerBusy = true;
      this.lastSwatches = performance.now();
      const { effect, stage, prop, chosen, kept } = this.store.getState();
      const whole = this.wholeStale ? { strands: [...new Set([...(chosen === null ? [] : [chosen]), ...kept])] } : null;
      this.wholeStale = false;
      const asked = this.worker.post({
        kind: 'draw',
        number: this.programNumber,
        params: this.params,
        time: this.clock.time,
        loop: effect.loop,
        steady: steadyOf(stage, prop),
        whole,
      });
      // Without a worker nobody answers; a new one is told everything.
      if (!asked) this.workerBusy = false;
    }, wait);
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
        return this.store.setState({ levels: answer.levels });
      case 'trouble':
        if (answer.about === 'draw') this.workerBusy = false;
        return;
      case 'idle':
        this.workerBusy = false;
        this.wholeStale = true;
        // It has another program by now, or has come to have places.
        if (answer.number !== this.programNumber || this.workerStale) this.requestSwatches();
        return;
      case 'readings':
        return this.drawnReadings(answer);
    }
  }

  private drawnReadings(answer: Readings): void {
    this.workerBusy = false;
    // Of a sheet that is no longer: its rows would show another's pictures.
    if (answer.number !== this.programNumber) {
      this.wholeStale ||= answer.whole !== null;
      return this.requestSwatches();
    }
    this.lastReadings = answer;
    if (answer.whole) {
      this.store.setState({ pulse: answer.whole.pulse, brightest: answer.whole.brightest });
      this.adviseSoon();
    }
    for (const l of this.readingListeners) l(answer);
    if (this.workerStale) this.requestSwatches();
  }

  onReadings(listener: (r: Readings) => void): () => void {
    this.readingListeners.add(listener);
    if (this.lastReadings) listener(this.lastReadings);
    return () => this.readingListeners.delete(listener);
  }

  // --- the end

  async close(): Promise<void> {
    this.unwatch();
    await this.keepHistory();
    if (!this.store.getState().following) await this.saveNow();
    this.saves.effect.stop();
    this.saves.stage.stop();
    this.peeking.stop();
    this.clock.dispose();
    this.worker.stop();
    for (const t of [
      this.swatchTimer,
      this.settleTimer,
      this.levelsTimer,
      this.historyTimer,
      this.historyDeadline,
      this.adviseTimer,
      this.refineTimer,
    ])
      if (t) clearTimeout(t);
    cancelAnimationFrame(this.frameQueued);
    this.detach();
  }
}
