/**
 * An open bench, put together: its documents, saving, compiling, frames and readings, each behind what it needs of the
 * others and no more. It knows no React; screens subscribe to slices of its store, and what changes every frame is drawn
 * by its listeners directly.
 */
import { createStore } from 'zustand/vanilla';
import { readEffect } from '../core/effect/read.js';
import { readStage } from '../core/scene/stage.js';
import { emptyEffect, type Effect } from '../core/effect/schema.js';
import type { Stage } from '../core/scene/stage.js';
import { whyNowhere } from '../core/scene/wearing.js';
import { lackingStrips, loadEffect, loadStage } from './api.js';
import { OpenFailure } from './failure.js';
import type { PendingStore } from './autosave.js';
import { Choosing } from './choosing.js';
import { Clock } from './clock.js';
import { Compiling } from './compiling.js';
import { Documents, type Change } from './documents.js';
import { openDocument, pendingStore, type Opening } from './drafts.js';
import { Frames } from './frames.js';
import { watchServer } from './health.js';
import { KeptHistory } from './keptHistory.js';
import { MotifLibrary } from './motifLibrary.js';
import { Painting } from './painting.js';
import { sendWaiting } from './paints.js';
import { ReadingsOfBench } from './readings.js';
import type { WorkerLike } from './readingsPort.js';
import { Resting, type RestingPorts } from './resting.js';
import { Saving } from './saving.js';
import { SharedDials } from './sharedDials.js';
import { Thumbnails } from './thumbnails.js';
import { openingState, type BenchState, type BenchStore } from './state.js';

export interface BenchPorts {
  readonly readings: () => WorkerLike;
  readonly watchServer: typeof watchServer;
  readonly strips: Pick<RestingPorts, 'lacking' | 'strips'>;
}

const PAGE: BenchPorts = {
  readings: () => new Worker(new URL('../workers/readings.worker.ts', import.meta.url), { type: 'module' }),
  watchServer,
  strips: {
    lacking: lackingStrips,
    strips: async () => new (await import('./strips.js')).StripPainter(),
  },
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

interface Opened {
  readonly effect: Opening<Effect>;
  readonly stage: Opening<Stage>;
}

const openEffect = (id: string, keep: PendingStore): Promise<Opening<Effect>> =>
  openDocument(
    keep,
    `effect:${id}`,
    () => loadEffect(id),
    (kept) => {
      const result = readEffect(kept);
      return result.ok ? { ok: true, document: result.effect } : { ok: false, why: result.problems[0]!.message };
    },
  );

const openStageFile = (id: string, keep: PendingStore): Promise<Opening<Stage>> =>
  openDocument(
    keep,
    `stage:${id}`,
    () => loadStage(id),
    (kept) => {
      const result = readStage(kept);
      return result.ok ? { ok: true, document: result.stage } : { ok: false, why: result.problems[0]!.message };
    },
  );

/** A stage, with the effect that stands there, or with nobody's: one that gives nothing, stands on no prop and is never saved. */
async function openOnStage(stage: string, effect: string | null, keep: PendingStore): Promise<Opened> {
  const opened = await openStageFile(stage, keep);
  // One that has another home by now, or is gone, is no part of this.
  const theirs = effect === null ? null : await openEffect(effect, keep).catch(() => null);
  if (theirs?.document.home?.stage === stage) return { stage: opened, effect: theirs };
  const nobody: Effect = { ...emptyEffect(`nobody-on-${stage}`.slice(0, 64), 'No effect'), kind: 'light' };
  return { stage: opened, effect: { document: nobody, version: 0, savedAt: opened.savedAt, pending: null, asides: [] } };
}

async function openBoth(id: string, keep: PendingStore, fallbackStage: string): Promise<Opened> {
  const effect = await openEffect(id, keep);
  const openStage = (sid: string) => openStageFile(sid, keep);
  const stageId = effect.document.home?.stage ?? fallbackStage;
  const stage = await openStage(stageId).catch((error: unknown) => {
    if (error instanceof OpenFailure && error.reason === 'gone' && stageId !== fallbackStage) return openStage(fallbackStage);
    throw error;
  });
  return { effect, stage };
}

export class Bench {
  readonly store: BenchStore;
  readonly clock: Clock;
  readonly documents: Documents;
  readonly saving: Saving;
  readonly compiling: Compiling;
  readonly frames: Frames;
  readonly readings: ReadingsOfBench;
  readonly shared: SharedDials;
  readonly motifs: MotifLibrary;
  readonly choosing: Choosing;
  readonly thumbnails: Thumbnails;
  readonly painting: Painting;
  private readonly history: KeptHistory;
  private readonly unwatch: () => void;
  private readonly resting: Resting | null;

  static async open(id: string, options: BenchOptions): Promise<Bench> {
    const keep = await pendingStore();
    return Bench.begun(await openBoth(id, keep, options.fallbackStage), keep, options);
  }

  /** A stage by itself. @param effect whose home it is, where there is one: then both have one undo, as on its bench */
  static async openStage(stage: string, effect: string | null, options: BenchOptions): Promise<Bench> {
    const keep = await pendingStore();
    return Bench.begun(await openOnStage(stage, effect, keep), keep, options);
  }

  private static async begun(opened: Opened, keep: PendingStore, options: BenchOptions): Promise<Bench> {
    const bench = new Bench(opened, keep, options);
    if (!options.following) await bench.history.restore();
    const { effect, stage, notice } = bench.store.getState();
    const nowhere = notice === null ? whyNowhere(stage, effect) : null;
    if (nowhere !== null) bench.store.setState({ notice: nowhere });
    return bench;
  }

  private constructor(
    opened: Opened,
    keep: PendingStore,
    private readonly options: BenchOptions,
  ) {
    const { effect, stage } = opened;
    const ports = { ...PAGE, ...options.ports };
    const store = (this.store = createStore<BenchState>(() =>
      openingState(
        { effect: effect.document, stage: stage.document },
        {
          saved: { state: 'saved', at: effect.savedAt, document: 'effect' },
          keeps: keep.lasting,
          following: options.following,
          asides: [...effect.asides, ...stage.asides],
        },
      ),
    ));
    this.clock = new Clock(options.frozen);
    this.clock.loop = effect.document.loop;
    this.clock.fps = effect.document.fps;
    this.documents = new Documents(store);
    this.history = new KeptHistory(store);
    this.saving = new Saving(store, keep, this.history, this.documents, opened);
    this.shared = new SharedDials(store, this.documents);
    this.motifs = new MotifLibrary(store, this.documents);
    this.compiling = new Compiling(store, {
      onCompiled: (compiled) => {
        this.frames.follow();
        this.readings.follow(compiled);
        if (compiled.problems.length === 0) this.frames.request();
      },
      onGlimpsed: () => {
        this.frames.follow();
        this.frames.request();
      },
      onPicture: (key, picture) => {
        this.frames.picture(key, picture);
        this.readings.picture(key, picture);
      },
    });
    this.frames = new Frames(store, this.clock, this.compiling, {
      onMeasured: ({ luminance, display }, threshold, frame) =>
        this.readings.post({ kind: 'levels', luminance, display, threshold, frame }, [luminance.buffer, display.buffer]),
      onPlaces: () => this.readings.settleSoon(),
    });
    this.readings = new ReadingsOfBench(store, this.clock, this.compiling.worn, {
      worker: ports.readings,
      view: () => this.frames.view,
      busy: () => this.frames.busy,
      compiled: () => this.compiling.asShown(),
    });
    this.choosing = new Choosing(store, this.documents, {
      otherEffect: (id) => this.compiling.other(id),
      onStrands: () => this.readings.requestWhole(),
      onProp: () => {
        this.readings.settleSoon();
        this.compiling.queue();
      },
    });
    this.thumbnails = new Thumbnails(this);
    this.painting = new Painting(this);
    this.documents.onChange((change) => this.follow(change));
    this.unwatch = ports.watchServer((answers) => {
      store.setState({ silentSince: answers ? null : new Date() });
      if (answers) void sendWaiting().then(() => this.saving.now());
    });
    // What is frozen is for pictures and tests: nothing else is drawn meanwhile.
    this.resting = options.frozen || options.following ? null : new Resting({ ...this, ...ports.strips });
    this.begin();
  }

  private begin(): void {
    this.clock.set(this.options.time);
    this.clock.onState(() => {
      if (!this.clock.playing) this.frames.refineSoon();
    });
    this.clock.onTick(() => {
      this.frames.request();
      this.readings.request();
    });
    this.compiling.fetchOthers();
    this.compiling.queue();
    // With a picture or without.
    void sendWaiting();
    void this.shared.follow();
    void this.motifs.follow();
  }

  /** What follows from a change of a document. */
  private follow({ changed, before, how }: Change): void {
    const { effect, stage } = changed;
    if (effect) {
      this.clock.loop = effect.loop;
      this.clock.fps = effect.fps;
      this.compiling.queue();
    }
    if (stage) {
      this.compiling.fetchOthers();
      this.frames.restage();
      this.painting.follow(stage);
    }
    if (how === 'taken') return;
    this.saving.changed(changed);
    if (effect) this.shared.tell(before.effect, effect);
    this.history.keepSoon();
    const home = (e: Effect) => e.home?.stage ?? this.options.fallbackStage;
    if (effect && home(effect) !== home(before.effect)) this.options.onRehome();
  }

  async close(): Promise<void> {
    this.unwatch();
    this.resting?.stop();
    await this.painting.settled;
    // What comes from now on would be saved by nobody.
    this.documents.close();
    await this.history.keep();
    if (!this.store.getState().following) {
      await this.saving.hold();
      await this.saving.now();
    }
    this.saving.stop();
    this.clock.dispose();
    this.readings.stop();
    this.frames.stop();
  }
}
