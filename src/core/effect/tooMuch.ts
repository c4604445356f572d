/** What an edit may not bring about: an effect that no reader would take any more, so that nothing could save it. */
import { overgrown, recursion } from './motifs.js';
import { MAX_STRANDS, MOST, type Effect } from './schema.js';

const NAMED = {
  dials: 'dials',
  variants: 'variants',
  cues: 'cues',
  triggers: 'triggers',
  motifs: 'motifs',
  sections: 'sections',
};

/** @param before what it was: what has not changed is not counted again @returns a sentence; null where it may be */
export function tooMuch(before: Effect, after: Effect): string | null {
  if (after.strands.length > MAX_STRANDS && after.strands.length > before.strands.length)
    return `A sheet has ${MAX_STRANDS} strands at most, so this was not done.`;
  for (const [list, name] of Object.entries(NAMED) as [keyof typeof NAMED, string][])
    if (after[list].length > MOST[list] && after[list].length > before[list].length)
      return `An effect has ${MOST[list]} ${name} at most, so this was not done.`;
  if (after.strands === before.strands && after.motifs === before.motifs) return null;
  const [round] = after.motifs.flatMap((m) => recursion(after.motifs, m) ?? []);
  if (round !== undefined) return `${round} would use itself: unfold it within first.`;
  const grown = overgrown(after);
  return grown && !overgrown(before) ? `${grown} This was not done.` : null;
}
