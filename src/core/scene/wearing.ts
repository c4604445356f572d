/** Which prop wears what: a stage's own word, and where it has none for the effect on the bench, that effect's home. */
import type { Effect } from '../effect/schema.js';
import { dressProp } from './edits.js';
import { WHOLE, namedParts, partIn, partOf, pieceName, pieceOf, piecesOf, propIn } from './pieces.js';
import type { Prop, Stage } from './stage.js';

export interface Wearing {
  /** The prop, or the piece of it (`pieces`). */
  readonly prop: string;
  readonly effect: string;
  readonly variant: string | null;
  readonly overrides: Readonly<Record<string, unknown>>;
}

/**
 * The prop on which an effect stands in that no prop of the stage wears: its home prop, or the first that wears nothing,
 * or the first there is; of those that are seen, and not locked. Null where some prop wears it.
 */
export function standInOf(stage: Stage, bench: Pick<Effect, 'id' | 'home'> & Partial<Pick<Effect, 'kind'>>): Prop | null {
  // What motes or a light are made of stands on no prop.
  if (bench.kind !== undefined && bench.kind !== 'surface') return null;
  if (stage.props.some((p) => wears(p, bench.id))) return null;
  const visible = stage.props.filter((p) => p.visible);
  // A set that others stand in is dressed by nobody, unless it is said to be its home.
  const seen = visible.filter((p) => !p.locked);
  return visible.find((p) => p.id === bench.home?.prop) ?? seen.find((p) => !wornBy(p)) ?? seen[0] ?? null;
}

/** Why no prop shows the effect on the bench, as a sentence; null where one does, or where it needs none. */
export function whyNowhere(stage: Stage, bench: Pick<Effect, 'id' | 'home' | 'kind' | 'name'>): string | null {
  if (bench.kind !== 'surface' || whoWears(stage, bench).some((w) => w.effect === bench.id)) return null;
  const locked = stage.props.some((p) => p.visible && p.locked);
  return `Nothing on ${stage.name} can wear ${bench.name}: add a prop${locked ? '; what is locked there stays as it is' : ''}.`;
}

const wears = (prop: Prop, effect: string): boolean =>
  [partOf(prop), ...namedParts(prop)].some((part) => part?.effect === effect);
const wornBy = (prop: Prop): string | null => partOf(prop)?.effect ?? null;

/** What the visible props wear. An effect that no prop of the stage wears is shown in place of what its stand-in wears otherwise. */
export function whoWears(stage: Stage, bench: Pick<Effect, 'id' | 'home'>): Wearing[] {
  const stand = standInOf(stage, bench);
  return stage.props
    .filter((p) => p.visible)
    .flatMap((p) => {
      const whole = p === stand ? { part: WHOLE, effect: bench.id, variant: null, overrides: {} } : partOf(p);
      return [...(whole ? [{ ...whole, part: WHOLE }] : []), ...namedParts(p)].flatMap(({ part, effect, ...how }): Wearing[] =>
        effect === null ? [] : [{ prop: pieceOf(p.id, part), effect, ...how }],
      );
    });
}

/** Makes the stand-in's wearing its own, where that takes it from no other effect: it is not to lose it to the next that is dressed. */
export function keepStandIn(draft: Stage, bench: Pick<Effect, 'id' | 'home'>): void {
  const stand = standInOf(draft, bench);
  if (stand && wornBy(stand) === null) dressProp(draft, { id: stand.id, effect: bench.id });
}

type Bench = Pick<Effect, 'id' | 'home'> & Partial<Pick<Effect, 'kind'>>;

/** In which variant an effect is shown that no prop wears: of its first mote field, or of the first light that it drives. */
export function variantElsewhere(stage: Stage, { id, kind }: Pick<Effect, 'id' | 'kind'>): string | null {
  if (kind === 'mote') return stage.motes.find((field) => field.effect === id)?.variant ?? null;
  return stage.lights.find((light) => light.drivenBy?.effect === id)?.drivenBy?.variant ?? null;
}

/** Dresses a prop, or a piece of one, in the effect on the bench; whoever wears it already, or stands in for it, goes on to. Motes and lights have no prop. */
export function wear(draft: Stage, bench: Bench, { id, variant = null }: { id: string; variant?: string | null }): void {
  if (bench.kind === 'mote') {
    for (const field of draft.motes) if (field.effect === bench.id) field.variant = variant;
    return;
  }
  if (bench.kind === 'light') {
    for (const { drivenBy } of draft.lights) if (drivenBy?.effect === bench.id) drivenBy.variant = variant;
    return;
  }
  keepStandIn(draft, bench);
  dressProp(draft, { id, effect: bench.id, variant });
}

/** The stage with an effect in one variant wherever it is worn or drives a light, without own values. @param variant null for the base */
export function inVariant(stage: Stage, bench: Pick<Effect, 'id' | 'home'>, variant: string | null): Stage {
  const wearers = new Set(whoWears(stage, bench).flatMap(({ prop, effect }) => (effect === bench.id ? [prop] : [])));
  const worn = (part: string) => ({ part, effect: bench.id, variant, overrides: {} });
  const dressed = (p: Prop): Prop => {
    const rest = partOf(p);
    const whole = wearers.has(p.id) ? [worn(WHOLE)] : rest ? [rest] : [];
    const named = namedParts(p).map((part) => (wearers.has(pieceOf(p.id, part.part)) ? worn(part.part) : part));
    return { ...p, parts: [...whole, ...named] };
  };
  const driven = (light: Stage['lights'][number]) =>
    light.drivenBy?.effect === bench.id ? { ...light, drivenBy: { ...light.drivenBy, variant } } : light;
  return {
    ...stage,
    props: stage.props.map((p) => (piecesOf(p).some((piece) => wearers.has(piece)) ? dressed(p) : p)),
    lights: stage.lights.map(driven),
    motes: stage.motes.map((field) => (field.effect === bench.id ? { ...field, variant } : field)),
  };
}

/** What another effect wears that the effect on the bench would take from it: null for a prop that is bare, or its own. */
export function takenFrom(stage: Stage, bench: Pick<Effect, 'id'>, id: string): { prop: string; effect: string } | null {
  const prop = stage.props.find((p) => p.id === propIn(id));
  const effect = (prop && partOf(prop, partIn(id))?.effect) ?? null;
  return effect !== null && effect !== bench.id ? { prop: pieceName(stage, id), effect } : null;
}

/** Effects that a stage's props wear, in the order of the props, those that drive its lights, and its motes'; each once. */
export const effectsOn = (stage: Pick<Stage, 'props' | 'lights' | 'motes'>): string[] => [
  ...new Set([
    ...stage.props.flatMap((p) => p.parts.flatMap((part) => (part.effect === null ? [] : [part.effect]))),
    ...stage.lights.flatMap((light) => (light.drivenBy ? [light.drivenBy.effect] : [])),
    ...stage.motes.flatMap((field) => field.effect ?? []),
  ]),
];
