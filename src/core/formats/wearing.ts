/** Which prop wears what: a stage's own word, and where it has none for the effect on the bench, that effect's home. */
import type { Effect } from '../effect/schema.js';
import { partOf } from './stageEdits.js';
import type { Stage } from './stage.js';

export interface Wearing {
  readonly prop: string;
  readonly effect: string;
  readonly variant: string | null;
  readonly overrides: Readonly<Record<string, unknown>>;
}

/**
 * What the visible props wear. An effect that no prop of the stage wears is shown on its home prop, or on the first,
 * instead of what that prop wears otherwise.
 */
export function whoWears(stage: Stage, bench: Pick<Effect, 'id' | 'home'>): Wearing[] {
  const known = stage.props.some((p) => partOf(p)?.effect === bench.id);
  const stand = known ? null : (stage.props.find((p) => p.id === bench.home?.prop) ?? stage.props[0] ?? null);
  return stage.props
    .filter((p) => p.visible)
    .flatMap((p): Wearing[] => {
      if (p === stand) return [{ prop: p.id, effect: bench.id, variant: null, overrides: {} }];
      const part = partOf(p);
      return part && part.effect !== null
        ? [{ prop: p.id, effect: part.effect, variant: part.variant, overrides: part.overrides }]
        : [];
    });
}

/** Effects that a stage's props wear, in the order of the props, each once. */
export const effectsOn = (stage: Pick<Stage, 'props'>): string[] => [
  ...new Set(stage.props.flatMap((p) => p.parts.flatMap((part) => (part.effect === null ? [] : [part.effect])))),
];
