/**
 * What the props of a stage wear, worked out: for each its effect with variant and own values written in, the material
 * that draws it, and its numbers. Props whose effects differ only in numbers share one material.
 */
import { randomOf } from '../base/random.js';
import type { Problem } from '../effect/read.js';
import type { Node } from '../ir/types.js';
import { strandsOf, type Effect } from '../effect/schema.js';
import { withVariant } from '../effect/variant.js';
import type { Program } from '../lower/lower.js';
import { paramValues } from '../lower/params.js';
import type { Material, Materials } from './materials.js';
import { drivenLight, type DrivenLight } from './driven.js';
import { partIn, partOf, piecesOf, propIn } from './pieces.js';
import type { Light, Prop, Stage } from './stage.js';
import type { MoteField } from './motes.js';
import { variantElsewhere, whoWears, type Wearing } from './wearing.js';

export interface Worn {
  /** The prop, or the piece of it (`pieces`). */
  readonly prop: string;
  /** The effect with variant and own values written into it. */
  readonly shown: Effect;
  readonly program: Program;
  readonly material: Material;
  readonly params: Float32Array;
}

/** One number that a sheet works out: a strand's, or one of its others. */
export interface NumberOf {
  /** The strand, and after a space its port where that is not the first. */
  readonly id: string;
  readonly name: string;
  readonly node: Node;
}

/** All that is one number of what is worn. */
export const numbersOf = ({ shown, program }: Pick<Worn, 'shown' | 'program'>): readonly NumberOf[] =>
  strandsOf(shown).flatMap(({ id, name }) =>
    Object.entries(program.strands.get(id)?.ports ?? {}).flatMap(([port, { kind, node }], k) =>
      kind === '1' ? [{ id: k === 0 ? id : `${id} ${port}`, name: k === 0 ? name : `${name}: ${port}`, node }] : [],
    ),
  );

/** What is one value for a prop and all its pieces, whatever it wears: its random number, by its seed. */
export const steadyOf = (stage: Stage, prop: string): { propRandom: number[] } => ({
  propRandom: [randomOf(stage.props.find((p) => p.id === propIn(prop))?.seed ?? 0)],
});

/** A mote field with what its motes are made of. */
export interface WornMotes extends Omit<Worn, 'prop'> {
  readonly field: MoteField;
}

/** A mote field whose motes are copies of props, and what those wear; null for a bare one. */
export interface WornCopies {
  readonly field: MoteField;
  /** The pieces of the one that the field names first, then those of its group. */
  readonly of: readonly { readonly prop: string; readonly worn: Worn | null }[];
}

export class WornOnStage {
  /** Effects with the values of a prop written into them. */
  private readonly written = new WeakMap<Effect, Map<string, Effect>>();
  /** The last of a prop that had no errors. */
  private readonly good = new Map<string, Worn>();
  /** What each prop is to wear. */
  all: readonly Worn[] = [];
  /** Lights that effects drive. */
  lights: readonly DrivenLight[] = [];
  /** Mote fields that are seen. */
  motes: readonly WornMotes[] = [];
  /** Mote fields that are seen, of copies of props. */
  copies: readonly WornCopies[] = [];
  private readonly blown = new Map<string, WornMotes>();
  private readonly lit = new Map<
    string,
    { readonly light: Light; readonly shown: Effect; readonly driven: DrivenLight | null }
  >();

  constructor(private readonly materials: Materials) {}

  /** An effect as one prop wears it: the same object for as long as nothing of that changes. */
  private shown(effect: Effect, { variant, overrides }: Pick<Wearing, 'variant' | 'overrides'>): Effect {
    let made = this.written.get(effect);
    if (!made) this.written.set(effect, (made = new Map()));
    const key = `${variant ?? ''} ${JSON.stringify(overrides)}`;
    let shown = made.get(key);
    if (!shown) made.set(key, (shown = withVariant(effect, variant, overrides)));
    return shown;
  }

  /**
   * Follows the documents.
   * @param effects those that are at hand, by id; props that wear others stay bare
   * @param bench the effect that stands in where the stage has no word of it
   */
  update(stage: Stage, effects: ReadonlyMap<string, Effect>, bench: Effect): readonly Worn[] {
    this.all = whoWears(stage, bench).flatMap((wearing): Worn[] => {
      const effect = effects.get(wearing.effect);
      // What has become one of motes or of a light since is no surface: the prop is bare until it is one again.
      if (effect?.kind !== 'surface') return [];
      const shown = this.shown(effect, wearing);
      const { program, material } = this.materials.of(shown);
      const before = this.good.get(wearing.prop);
      // A sheet with an error keeps its last good picture.
      if (!material) return before?.shown.id === effect.id ? [before] : [];
      if (before?.shown === shown && before.material === material) return [before];
      const worn: Worn = { prop: wearing.prop, shown, program, material, params: paramValues(program.params, shown) };
      this.good.set(wearing.prop, worn);
      return [worn];
    });
    this.motes = stage.motes.flatMap((field) => (field.shape.kind === 'copies' ? [] : (this.blow(field, effects) ?? [])));
    this.copies = stage.motes.flatMap((field) => this.copied(stage, field, effects) ?? []);
    this.lights = stage.lights.flatMap((light) => this.driven(light, effects) ?? []);
    return this.all;
  }

  /** What the copies of a field are, whether the props themselves are seen or not; null where there is no such prop. */
  private copied(stage: Stage, field: MoteField, effects: ReadonlyMap<string, Effect>): WornCopies | null {
    const { shape } = field;
    if (shape.kind !== 'copies' || !field.visible) return null;
    const first = stage.props.find((p) => p.id === shape.prop);
    if (!first) return null;
    const others = first.group === null ? [] : stage.props.filter((p) => p.group === first.group && p !== first);
    return {
      field,
      of: [first, ...others].flatMap((prop) =>
        piecesOf(prop).map((piece) => ({ prop: piece, worn: this.on(piece) ?? this.hidden(prop, piece, effects) })),
      ),
    };
  }

  /** What a prop would wear that is not seen. */
  private hidden(prop: Prop, piece: string, effects: ReadonlyMap<string, Effect>): Worn | null {
    const part = partOf(prop, partIn(piece));
    const effect = part?.effect ? effects.get(part.effect) : undefined;
    if (!part || effect?.kind !== 'surface') return null;
    const shown = this.shown(effect, part);
    const { program, material } = this.materials.of(shown);
    return material && { prop: piece, shown, program, material, params: paramValues(program.params, shown) };
  }

  /** A field in its effect; in what it was last where that has an error, else not there. */
  private blow(field: MoteField, effects: ReadonlyMap<string, Effect>): WornMotes | null {
    const effect = field.visible && field.effect !== null ? effects.get(field.effect) : undefined;
    if (!effect) return null;
    const shown = this.shown(effect, { variant: field.variant, overrides: {} });
    const before = this.blown.get(field.id);
    if (before?.shown === shown && before.field === field) return before;
    const { program, material } = this.materials.of(shown);
    if (!material) return before?.field.effect === field.effect ? { ...before, field } : null;
    const worn: WornMotes = { field, shown, program, material, params: paramValues(program.params, shown) };
    this.blown.set(field.id, worn);
    return worn;
  }

  /** What drives a light; where its effect is gone, or has an error, what did last, else nothing. */
  private driven(light: Light, effects: ReadonlyMap<string, Effect>): DrivenLight | null {
    const { id, drivenBy } = light;
    const effect = drivenBy && effects.get(drivenBy.effect);
    if (!effect) return null;
    const shown = this.shown(effect, { variant: drivenBy.variant, overrides: {} });
    const before = this.lit.get(id);
    if (before?.shown === shown && before.light === light) return before.driven;
    const { program, problems } = this.materials.of(shown);
    if (problems.length > 0) return before?.light.drivenBy?.effect === drivenBy.effect ? before.driven : null;
    const driven = drivenLight(light, shown, program, paramValues(program.params, shown));
    this.lit.set(id, { light, shown, driven });
    return driven;
  }

  /** What is worn, by props, motes and copies. */
  get used(): Material[] {
    const copied = this.copies.flatMap(({ of }) => of.flatMap(({ worn }) => worn ?? []));
    return [...this.all, ...this.motes, ...copied].map((w) => w.material);
  }

  on(prop: string): Worn | undefined {
    return this.all.find((o) => o.prop === prop);
  }

  /** All that is one number of what a prop wears; of pieces that wear the same, once. */
  numbersOn(prop: string): readonly NumberOf[] {
    return [...new Map(this.anywhereOn(prop).flatMap((worn) => numbersOf(worn).map((n) => [n.id, n] as const))).values()];
  }

  /** All that a prop wears, of whichever pieces. */
  anywhereOn(prop: string): readonly Worn[] {
    return this.all.filter((o) => propIn(o.prop) === prop);
  }

  /** How an effect reads for a prop, or in its base when no prop wears it. */
  asWornBy(
    stage: Stage,
    effect: Effect,
    prop: string | null,
  ): { readonly shown: Effect; readonly program: Program; readonly problems: readonly Problem[] } {
    const wearing = whoWears(stage, effect).find((w) => w.prop === prop && w.effect === effect.id);
    const elsewhere = effect.kind === 'surface' ? null : variantElsewhere(stage, effect);
    const shown = this.shown(effect, wearing ?? { variant: elsewhere, overrides: {} });
    const { program, problems } = this.materials.of(shown);
    return { shown, program, problems };
  }
}
