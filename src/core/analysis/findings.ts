/** All that is advised about an effect on its stage, in one list, less what the artist has waved aside. */
import type { Effect } from '../effect/schema.js';
import type { Mend } from '../effect/mends.js';
import type { Prop, Stage } from '../scene/stage.js';
import type { Program } from '../lower/lower.js';
import type { Advice } from './advice.js';
import { glowFindings, type Brightest, type GlowFinding } from './glow.js';
import type { StrandReading } from './reading.js';
import { NO_PAINT, adviseOnStage, type PropAbout } from './stageAdvice.js';

export interface Finding {
  /** Names the finding over changes of the sheet: its code and strand. */
  readonly key: string;
  readonly strand: string | null;
  readonly what: string;
  /** The reason, in numbers where there are any, or what to do. */
  readonly why: string;
  /** `note`: it can happen, at values it does not have now. */
  readonly level: Advice['level'];
  /** An edit that mends it, where one press can. */
  readonly mend: GlowFinding['mend'] | ({ readonly kind: 'edit' } & Mend) | HeightPaint;
}

const heightPaint = ({ id }: Prop): HeightPaint => ({ kind: 'height-paint', prop: id, label: 'Fill along the height' });

/** Has a prop painted: 0 at its foot, 1 at its top. */
export interface HeightPaint {
  readonly kind: 'height-paint';
  readonly prop: string;
  readonly label: string;
}

const keyOf = (code: string, strand: string | null) => (strand === null ? code : `${code}:${strand}`);

/** Keys of the findings that are waved aside; they travel with the effect, under `extra.dismissed`. */
export function dismissedIn(effect: Effect): ReadonlySet<string> {
  const { dismissed } = effect.extra;
  return new Set(Array.isArray(dismissed) ? dismissed.filter((k): k is string => typeof k === 'string') : []);
}

export function dismiss(draft: Effect, { key }: { key: string }): void {
  draft.extra.dismissed = [...new Set([...dismissedIn(draft), key])].sort();
}

export function recallDismissed(draft: Effect): void {
  delete draft.extra.dismissed;
}

/**
 * @param sheetAdvice what `advise` finds in the sheet alone: it measures, so it is made away from the page
 * @param shown the effect with the values of the prop that is looked at
 * @param prop the one that is looked at, and what is known of its mesh; null while it has none
 * @param brightest of its emission on that prop; null while it is not known, and when there is no light
 */
export function findingsOf(
  sheetAdvice: readonly Advice[],
  shown: Effect,
  program: Program,
  readings: ReadonlyMap<string, StrandReading>,
  stage: Stage,
  prop: { readonly prop: Prop; readonly about: PropAbout } | null,
  brightest: Brightest | null,
): Finding[] {
  const onStage = prop ? adviseOnStage(shown, program, readings, stage, prop.prop, prop.about) : [];
  const sheet = [...sheetAdvice, ...onStage].map(({ code, strand, message, mend, level, edit }) => ({
    key: keyOf(code, strand),
    strand,
    what: message,
    why: mend ?? '',
    level,
    mend: edit ? ({ kind: 'edit', ...edit } as const) : code === NO_PAINT && prop ? heightPaint(prop.prop) : null,
  }));
  return [
    ...glowFindings(shown, stage.optics, brightest).map(({ code, message, why, mend }) => ({
      key: keyOf(code, null),
      strand: mend?.kind === 'brightness' ? mend.knob.strand : null,
      what: message,
      why,
      level: 'caution' as const,
      mend,
    })),
    // What happens goes before what can happen.
    ...sheet.filter((f) => f.level === 'caution'),
    ...sheet.filter((f) => f.level === 'note'),
  ];
}
