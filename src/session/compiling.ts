/** From documents to programs: at most once a frame, however many edits come in it; and the files that sheets look up. */
import { carriedOver, readKinds } from '../core/analysis/reading.js';
import type { Picture } from '../core/base/picture.js';
import type { Problem } from '../core/effect/read.js';
import { pictureKey, type Effect } from '../core/effect/schema.js';
import { withFirings } from '../core/effect/triggers.js';
import type { Program } from '../core/lower/lower.js';
import { Materials } from '../core/scene/materials.js';
import { effectsOn } from '../core/scene/wearing.js';
import { WornOnStage } from '../core/scene/worn.js';
import { loadEffect } from './api.js';
import { loadPicture, pictures } from './pictures.js';
import type { BenchState, BenchStore, Both } from './state.js';

/** The sheet on the bench as the chosen prop wears it. */
export interface Compiled {
  /** The effect with the prop's variant and own values written in. */
  readonly shown: Effect;
  readonly program: Program;
  readonly problems: readonly Problem[];
}

export interface CompilingPorts {
  /** The documents have been followed: there may be other programs, other numbers, or problems. */
  readonly onCompiled: (compiled: Compiled) => void;
  /** Another state of the documents is on the stage. */
  readonly onGlimpsed: () => void;
  /** An image has come. */
  readonly onPicture: (key: string, picture: Picture) => void;
}

export class Compiling {
  readonly materials = new Materials(pictures);
  readonly worn = new WornOnStage(this.materials);
  /** Other effects that props of the stage wear; null for one that cannot be had. */
  private readonly others = new Map<string, Effect | null>();
  /** Images that have been asked for. */
  private readonly asked = new Set<string>();
  private queued = false;
  /** The effect with what was fired live, made once. */
  private fired: { readonly effect: Effect; readonly firings: BenchState['firings']; readonly made: Effect } | null = null;

  constructor(
    private readonly store: BenchStore,
    private readonly ports: CompilingPorts,
  ) {}

  /** At most once a frame; a page that is not seen has no frames. */
  queue(): void {
    if (this.queued) return;
    this.queued = true;
    if (document.hidden) setTimeout(() => this.flush());
    else requestAnimationFrame(() => this.flush());
  }

  /** Does what waits for the next frame now: for whoever wants to know what an edit has made of the sheet. */
  flush(): void {
    if (!this.queued) return;
    this.queued = false;
    try {
      this.compile();
    } catch (error) {
      this.store.setState({
        notice: `The sheet could not be worked out, so the picture is as it was. ${(error as Error).message}`,
      });
    }
  }

  /** Shows another state of the documents, for as long as it is held; null ends it. Nothing else follows it. */
  glimpse(other: Partial<Both> | null): void {
    this.store.setState({ glimpse: other });
    this.queue();
  }

  /** The documents that are on the stage: what is fired live is heard there. */
  private get onStage(): Both {
    const { effect: own, stage, glimpse, firings } = this.store.getState();
    const effect = glimpse?.effect ?? own;
    if (this.fired?.effect !== effect || this.fired.firings !== firings)
      this.fired = { effect, firings, made: withFirings(effect, firings) };
    return { stage, ...glimpse, effect: this.fired.made };
  }

  private compile(): void {
    const { glimpse, program: before, problems: known, readings } = this.store.getState();
    const { effect, stage } = this.onStage;
    this.worn.update(stage, new Map([...this.otherEffects, [effect.id, effect]]), effect);
    if (glimpse !== null) return this.ports.onGlimpsed();
    const compiled = this.asShown();
    const { program, problems } = compiled;
    // Other numbers leave the program, and whoever shows it, as they are.
    if (program !== before || problems !== known)
      this.store.setState({ problems, program, readings: carriedOver(readings, readKinds(program)) });
    this.fetchPictures();
    this.ports.onCompiled(compiled);
  }

  /** How the sheet reads for the chosen prop. */
  asShown(): Compiled {
    const { prop } = this.store.getState();
    const { effect, stage } = this.onStage;
    return this.worn.asWornBy(stage, effect, prop);
  }

  other(id: string): Effect | null {
    return this.others.get(id) ?? null;
  }

  /** Those that are at hand, by id. */
  get otherEffects(): ReadonlyMap<string, Effect> {
    return new Map([...this.others].flatMap(([id, effect]) => (effect ? [[id, effect] as const] : [])));
  }

  /** Fetches the effects that the stage refers to and that are not at hand. */
  fetchOthers(): void {
    const { effect, stage } = this.store.getState();
    for (const id of effectsOn(stage)) {
      if (id === effect.id || this.others.has(id)) continue;
      this.others.set(id, null);
      loadEffect(id).then(
        ({ document }) => {
          this.others.set(id, document);
          this.queue();
        },
        // Props that wear an effect that is gone stay bare.
        () => undefined,
      );
    }
  }

  /** Images come when they come: until then grey stands for them. */
  private fetchPictures(): void {
    const effects = [this.store.getState().effect, ...this.otherEffects.values()];
    for (const asset of effects.flatMap((e) => Object.values(e.assets))) {
      const key = pictureKey(asset);
      if (this.asked.has(key)) continue;
      this.asked.add(key);
      loadPicture(asset).then(
        (picture) => this.ports.onPicture(key, picture),
        (error: Error) => {
          this.asked.delete(key);
          this.store.setState({ notice: error.message });
        },
      );
    }
  }
}
