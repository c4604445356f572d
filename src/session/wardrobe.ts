/**
 * What the props of a stage wear: for each its effect with variant and overrides, the program that draws it, and its
 * numbers. Props whose effects differ only in numbers share one program; a change of numbers links nothing.
 */
import type { Problem } from '../core/effect/read.js';
import type { Effect, Finish } from '../core/effect/schema.js';
import { skeletonOf } from '../core/effect/skeleton.js';
import { withVariant } from '../core/effect/variant.js';
import { whoWears, type Wearing } from '../core/scene/wearing.js';
import type { Stage } from '../core/scene/stage.js';
import { SURFACE_LEAVES } from '../core/ir/leaves.js';
import { randomOf } from '../core/base/random.js';
import { lower, type Program } from '../core/lower/lower.js';
import { paramValues } from '../core/lower/params.js';
import { budgetProblems } from '../core/targets/budgets.js';
import { fillBlock } from '../core/targets/block.js';
import { emitGlsl, type GlslText } from '../core/targets/glsl.js';
import { evaluatorOf, type Evaluator } from '../core/targets/evaluate.js';
import { movementOf, type MoveBy, type Movement } from '../core/places/surface.js';
import type { StageRenderer } from '../render/renderer.js';
import { SPILL_POINTS } from '../render/spill.js';
import { pictures } from './images.js';

/** Programs that are remembered: undo goes back to one that was. */
const PATTERNS = 24;
const OVER_SURFACE = new Set(SURFACE_LEAVES);

/** A program, as it is drawn and as its emission is computed for the light it throws. */
export interface Cut {
  /** Tells programs apart, shortly. */
  readonly number: number;
  readonly text: GlslText;
  readonly finish: Finish;
  readonly emission: Evaluator | null;
  /** What moves its vertices. */
  readonly movement: Movement | null;
}

/** A sheet with the options of a prop, lowered. */
interface Pattern {
  readonly program: Program;
  readonly problems: readonly Problem[];
  readonly cut: Cut | null;
}

export interface Outfit {
  readonly prop: string;
  /** The effect with variant and overrides written into it. */
  readonly shown: Effect;
  readonly program: Program;
  readonly cut: Cut;
  readonly params: Float32Array;
}

const signatureOf = (
  program: Program,
  { lighting, sides, castsShadow, writesDepth, alphaMode, alphaCutoff, order }: Finish,
): string => [program.signature, lighting, sides, castsShadow, writesDepth, alphaMode, alphaCutoff, order].join('|');

/** The light it gives: of a surface that is partly there, that part. */
function emissionOf(program: Program, { alphaMode }: Finish): Evaluator | null {
  const port = program.outputs.get('emission');
  const { builder: b } = program;
  const opacity = alphaMode === 'opaque' ? undefined : program.outputs.get('opacity')?.node;
  const light = port && opacity ? b.mul(port.node, b.composite('clamp', opacity, 0, 1)) : port?.node;
  return light ? evaluatorOf(program, [light], OVER_SURFACE, SPILL_POINTS, pictures) : null;
}

/** What is one value for a prop, whatever is worn: its random number, by its seed. */
export const steadyOf = (stage: Stage, prop: string): { propRandom: number[] } => ({
  propRandom: [randomOf(stage.props.find((p) => p.id === prop)?.seed ?? 0)],
});

export class Wardrobe {
  /** Effects with the values of a prop written into them. */
  private worded = new WeakMap<Effect, Map<string, Effect>>();
  /** Programs by what makes them: numbers are no part of it. */
  private patterns = new Map<string, Pattern>();
  private cuts = new Map<string, Cut>();
  private made = 0;
  /** The last outfit of a prop that had no errors. */
  private good = new Map<string, Outfit>();
  /** What each prop is to wear; the renderer follows when its programs are ready. */
  private wanted: readonly Outfit[] = [];
  /** What each prop is drawn in. */
  private worn = new Map<string, Outfit>();

  /** An effect as one prop wears it: the same object for as long as nothing of that changes. */
  private shown(effect: Effect, { variant, overrides }: Pick<Wearing, 'variant' | 'overrides'>): Effect {
    let made = this.worded.get(effect);
    if (!made) this.worded.set(effect, (made = new Map()));
    const key = `${variant ?? ''} ${JSON.stringify(overrides)}`;
    let shown = made.get(key);
    if (!shown) made.set(key, (shown = withVariant(effect, variant, overrides)));
    return shown;
  }

  /** The program of an effect, whatever its numbers are. */
  private pattern(shown: Effect): Pattern {
    const key = `${skeletonOf(shown)}\n${JSON.stringify(shown.finish)}`;
    let pattern = this.patterns.get(key);
    // The last to be asked for are the last to be forgotten.
    this.patterns.delete(key);
    if (!pattern) pattern = this.make(shown);
    this.patterns.set(key, pattern);
    for (const old of this.patterns.keys()) {
      if (this.patterns.size <= PATTERNS) break;
      this.patterns.delete(old);
    }
    return pattern;
  }

  private make(shown: Effect): Pattern {
    const program = lower(shown, { build: 'live' });
    const { problems } = program;
    if (problems.length > 0) return { program, problems, cut: null };
    const signature = signatureOf(program, shown.finish);
    let cut = this.cuts.get(signature);
    if (!cut) {
      const text = emitGlsl(program, { hoist: true, naming: 'ids', lit: shown.finish.lighting === 'lit' });
      const beyond = budgetProblems(text);
      if (beyond.length > 0) return { program, problems: beyond, cut: null };
      const emission = emissionOf(program, shown.finish);
      const movement = movementOf(program, SPILL_POINTS, pictures);
      this.cuts.set(signature, (cut = { number: ++this.made, text, finish: shown.finish, emission, movement }));
    }
    return { program, problems, cut };
  }

  /**
   * Brings what is wanted up to date with the documents.
   * @param effects the effects that are at hand, by id; props that wear others stay bare
   */
  update(stage: Stage, effects: ReadonlyMap<string, Effect>, bench: Effect): void {
    this.wanted = whoWears(stage, bench).flatMap((wearing): Outfit[] => {
      const effect = effects.get(wearing.effect);
      if (!effect) return [];
      const shown = this.shown(effect, wearing);
      const { program, cut } = this.pattern(shown);
      if (!cut) {
        // A sheet with an error keeps its last good picture.
        const last = this.good.get(wearing.prop);
        return last && last.shown.id === effect.id ? [last] : [];
      }
      const before = this.good.get(wearing.prop);
      if (before?.shown === shown && before.cut === cut) return [before];
      const outfit: Outfit = { prop: wearing.prop, shown, program, cut, params: paramValues(program.params, shown) };
      this.good.set(wearing.prop, outfit);
      return [outfit];
    });
    // A prop that is drawn in the same program takes the new numbers at once.
    for (const outfit of this.wanted) {
      const worn = this.worn.get(outfit.prop);
      if (worn && worn.cut === outfit.cut) this.worn.set(outfit.prop, outfit);
    }
    const used = new Set([...this.wanted, ...this.worn.values()].map((o) => o.cut));
    for (const [signature, cut] of this.cuts) if (!used.has(cut)) this.cuts.delete(signature);
  }

  /** How the sheet on the bench reads for a prop, or in its base when no prop wears it. */
  read(
    stage: Stage,
    bench: Effect,
    prop: string | null,
  ): { readonly shown: Effect; readonly program: Program; readonly problems: readonly Problem[] } {
    const wearing = whoWears(stage, bench).find((w) => w.prop === prop && w.effect === bench.id) ?? {
      prop: '',
      effect: bench.id,
      variant: null,
      overrides: {},
    };
    const shown = this.shown(bench, wearing);
    const { program, problems } = this.pattern(shown);
    return { shown, program, problems };
  }

  outfit(prop: string): Outfit | undefined {
    return this.wanted.find((o) => o.prop === prop);
  }

  get outfits(): readonly Outfit[] {
    return this.wanted;
  }

  /** Dresses the renderer's props. @returns false when a later call overtook this one */
  async dress(renderer: StageRenderer): Promise<boolean> {
    const { wanted } = this;
    const ready = await renderer.dress(wanted.map(({ prop, cut }) => ({ prop, text: cut.text, finish: cut.finish })));
    if (!ready) return false;
    // Numbers may have moved on while the programs were made.
    const latest = new Map(this.wanted.map((o) => [o.prop, o]));
    this.worn = new Map(
      wanted.map((o) => {
        const now = latest.get(o.prop);
        return [o.prop, now && now.cut === o.cut ? now : o];
      }),
    );
    return true;
  }

  /** What moves the vertices of a prop as it is drawn, at a moment; null where nothing does. */
  moveBy(stage: Stage, prop: string, time: number): MoveBy | null {
    const worn = this.worn.get(prop);
    if (!worn?.cut.movement) return null;
    const { movement } = worn.cut;
    const still = { ...steadyOf(stage, prop), time: [time], loop: [worn.shown.loop ?? 0] };
    return (rest, count) => movement.at(worn.params, { ...rest, ...still }, count);
  }

  /** Hands the renderer every prop's numbers and light for a moment of time. */
  fill(renderer: StageRenderer, stage: Stage, time: number): void {
    const emissions = new Map<string, Float32Array[]>();
    for (const { prop, cut, params, shown } of this.worn.values()) {
      const own = steadyOf(stage, prop);
      renderer.setBlock(prop, cut.text, fillBlock(cut.text, params, time, shown.loop, own, pictures));
      if (!stage.spill.on || !cut.emission) continue;
      const still = { ...own, time: [time], loop: [shown.loop ?? 0] };
      const planes = renderer.spill.placesOf(prop, this.moveBy(stage, prop, time));
      if (planes) {
        // The evaluator's numbers are its own until its next call: another prop may share it.
        emissions.set(prop, renderer.spill.gather(prop, cut.emission.view(params, { ...planes, ...still }, SPILL_POINTS)[0]!));
      }
    }
    renderer.spill.shine(emissions, stage.spill.on ? stage.spill.strength : 0);
  }
}
