/** What an open bench holds, for whoever shows it: the documents as they are, what is chosen, and what is known of them. */
import type { StoreApi } from 'zustand/vanilla';
import type { CostReading } from '../core/analysis/cost.js';
import type { Finding } from '../core/analysis/findings.js';
import type { Brightest } from '../core/analysis/glow.js';
import type { Levels } from '../core/analysis/levels.js';
import type { PeekMode, PeekName, PeekStats } from '../core/analysis/peek.js';
import type { StrandReading } from '../core/analysis/reading.js';
import type { Problem } from '../core/effect/read.js';
import type { Effect, Motif } from '../core/effect/schema.js';
import type { AllHanded } from '../core/effect/motifEdits.js';
import type { Firing } from '../core/effect/triggers.js';
import type { Port, Program } from '../core/lower/lower.js';
import type { Prop, Stage } from '../core/scene/stage.js';
import { propIn } from '../core/scene/pieces.js';
import { variantElsewhere, whoWears } from '../core/scene/wearing.js';
import type { Pulse } from '../workers/readings.js';
import type { Offer } from './adding.js';
import type { SaveStatus } from './autosave.js';
import type { Aside } from './failure.js';
import type { LibraryMotif } from './motifLibrary.js';
import { EMPTY_HISTORY, type History } from './history.js';

export type DocumentName = 'effect' | 'stage';

/** How saving stands, of the one of the two documents that stands worse. */
export type BenchSaveStatus = SaveStatus & { readonly document: DocumentName };

/** Whose values the dials turn: those of the variant that is shown, or the chosen prop's own. */
export type DialScope = 'variant' | 'prop';

/** A value that several effects of the library read. */
export type SharedDial = Effect['shared'][number];

export interface Question {
  readonly text: string;
  /** What the button says that does it. */
  readonly yes: string;
  readonly act: () => void;
  /** Another way to do it. */
  readonly or?: { readonly yes: string; readonly act: () => void };
}

/** The two documents of a bench: also what a tab that edits shows one that follows. */
export interface Both {
  readonly effect: Effect;
  readonly stage: Stage;
}

/** What only the sheet can open, since it stands at a row. */
export type SheetAsk = 'show' | 'add' | 'replace' | 'rename' | 'feed' | 'wrap';

/** What is peeked at, and how. */
export interface Peek {
  readonly of: PeekName;
  /** It stays when the key or the button is let go. */
  readonly locked: boolean;
  /** As the artist has chosen; null for what suits the value. */
  readonly mode: PeekMode | null;
  /** What suits it, once its numbers are known. */
  readonly suited: PeekMode;
  readonly stats: PeekStats | null;
  /** One component or several; of several, as a colour or as a vector. */
  readonly lanes: number;
  readonly kind: Port['kind'];
}

export interface BenchState extends Both {
  /** The chosen prop; readings are taken on it. */
  readonly prop: string;
  /** The prop that was last taken in hand, which may be bare or gone by now; null for the chosen one (`propInHand`). */
  readonly inHand: string | null;
  /** The variant that the chosen prop wears. */
  readonly variant: string | null;
  /** What the chosen prop alone has, by dial. */
  readonly overrides: Readonly<Record<string, unknown>>;
  readonly scope: DialScope;
  /** The strand whose threads are lit. */
  readonly chosen: string | null;
  /** All strands that are chosen, in the order of the sheet, where there are several; the lit one is among them. */
  readonly run: readonly string[];
  /** Strands whose pulse is drawn beside the chosen one's. */
  readonly kept: readonly string[];
  /** Rows that show their inputs. */
  readonly opened: ReadonlySet<string>;
  /** First strands of the sections that are folded. */
  readonly folded: ReadonlySet<string>;
  readonly history: History<DocumentName>;
  readonly saved: BenchSaveStatus;
  /** Since when the server has not answered; null while it does. */
  readonly silentSince: Date | null;
  /** Whether this browser keeps what is not confirmed. */
  readonly keeps: boolean;
  /** Another tab edits, this one follows. */
  readonly following: boolean;
  /** The strand whose operation is told about beside its row. */
  readonly help: string | null;
  /** What the sheet is asked to open, from outside it: a menu or the picker, for the chosen strand. */
  readonly asked: SheetAsk | null;
  /** Something that is done only when the artist says so. */
  readonly question: Question | null;
  /** What a new strand may read, which reads nothing by itself; until something else is done. */
  readonly offer: Offer | null;
  /** Something the artist should know once. */
  readonly notice: string | null;
  readonly problems: readonly Problem[];
  readonly program: Program | null;
  readonly readings: ReadonlyMap<string, StrandReading>;
  /** What the sheet costs, and what holding each dial would save; null until it has been asked for. */
  readonly cost: { readonly cost: CostReading; readonly savings: ReadonlyMap<string, number> } | null;
  /** Drafts of this browser's that could not be read. */
  readonly asides: readonly Aside[];
  /** The picture's levels, and of which frame they are. */
  readonly levels: (Levels & { readonly frame: number }) | null;
  readonly pulse: Pulse | null;
  readonly brightest: Brightest | null;
  /** All advice, also what has been waved aside. */
  readonly findings: readonly Finding[];
  /** The library's shared dials. */
  readonly library: readonly SharedDial[];
  /** Programs linked since the bench opened. */
  readonly links: number;
  readonly viewpoint: string | null;
  /** One has gone on from the viewpoint: what is seen is another view. */
  readonly away: boolean;
  /** The camera goes along the stage's slow move. */
  readonly moving: boolean;
  /** Hides bloom and tone curve. */
  readonly raw: boolean;
  /** Hides everything but the picture. */
  readonly bare: boolean;
  /** What is peeked at. */
  readonly peek: Peek | null;
  /** A dial that a cue holds gets a key where it is turned. */
  readonly record: boolean;
  /** Keys are set on whole frames. */
  readonly snap: boolean;
  /** The cue in hand, by its dial; which of its keys are chosen, by rising time; and whether its curve is open. */
  readonly lane: { readonly dial: string; readonly keys: readonly number[]; readonly curve: boolean } | null;
  /** The trigger that a key fires; null for the first. */
  readonly trigger: string | null;
  /** What was fired live, by trigger: it is in no file. */
  readonly firings: Readonly<Record<string, readonly Firing[]>>;
  /** A press on a prop fires the trigger in hand there. */
  readonly striking: boolean;
  /** The library's motifs. */
  readonly motifs: readonly LibraryMotif[];
  /** Strands that a motif was unfolded into last, which may be put back into it. */
  readonly unfolded: { readonly motif: Motif; readonly ids: readonly string[]; readonly handed: AllHanded } | null;
  /** Another state of the documents, on the stage for as long as it is held; nothing is saved of it. */
  readonly glimpse: Partial<Both> | null;
  /** Samples that the still has, while nothing moves; 0 while something does. */
  readonly samples: number;
}

export type BenchStore = StoreApi<BenchState>;

/** The strands that what is done now is done to. */
export const chosenRun = ({ chosen, run }: Pick<BenchState, 'chosen' | 'run'>): readonly string[] =>
  run.length > 0 ? run : chosen === null ? [] : [chosen];

/** The prop that is moved, framed and measured by its numbers: the one taken in hand while it is there, else the chosen one. */
export const propInHand = ({ stage, inHand, prop }: Pick<BenchState, 'stage' | 'inHand' | 'prop'>): Prop | undefined =>
  stage.props.find((p) => p.id === inHand) ?? stage.props.find((p) => p.id === propIn(prop));

const NO_OVERRIDES: Readonly<Record<string, unknown>> = {};

function homeProp(effect: Effect, stage: Stage): string {
  const worn = whoWears(stage, effect).filter((w) => w.effect === effect.id);
  return (worn.find((w) => propIn(w.prop) === effect.home?.prop) ?? worn[0])?.prop ?? stage.props[0]?.id ?? '';
}

/**
 * What follows from which prop is chosen. A prop that does not wear the effect has nothing of it to show: readings are
 * taken on one that does.
 * @param prop the home prop where it is not given
 */
export function propState(
  { effect, stage }: Both,
  prop = homeProp(effect, stage),
): Pick<BenchState, 'prop' | 'variant' | 'overrides'> {
  const known = (variant: string | null | undefined) =>
    effect.variants.some((v) => v.id === variant) ? (variant ?? null) : null;
  if (effect.kind !== 'surface') return { prop, variant: known(variantElsewhere(stage, effect)), overrides: NO_OVERRIDES };
  const wearers = whoWears(stage, effect).filter((w) => w.effect === effect.id);
  const there = wearers.some((w) => w.prop === prop) ? prop : homeProp(effect, stage);
  const wearing = wearers.find((w) => w.prop === there);
  return {
    prop: there,
    variant: known(wearing?.variant),
    overrides: wearing?.overrides ?? NO_OVERRIDES,
  };
}

/** A bench as it is when it has just been opened. */
export function openingState(shown: Both, more: Pick<BenchState, 'saved' | 'keeps' | 'following' | 'asides'>): BenchState {
  const { effect, stage } = shown;
  return {
    ...shown,
    ...propState(shown),
    ...more,
    ...{ inHand: null, scope: 'variant', chosen: null, run: [], kept: [], history: EMPTY_HISTORY },
    ...{ opened: new Set<string>(), folded: new Set<string>() },
    ...{
      silentSince: null,
      question: null,
      help: null,
      asked: null,
      offer: null,
      notice: null,
      problems: [],
      program: null,
      readings: new Map(),
    },
    ...{ cost: null, levels: null, pulse: null, brightest: null, findings: [], library: [], links: 0 },
    viewpoint: (stage.viewpoints.find((v) => v.id === effect.home?.viewpoint) ?? stage.viewpoints[0]!).id,
    ...{ away: false, moving: false, raw: false, bare: false, peek: null, glimpse: null, samples: 0 },
    ...{ record: false, snap: true, lane: null, trigger: null, firings: {}, striking: false },
    ...{ motifs: [], unfolded: null },
  };
}
