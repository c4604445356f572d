/** Motifs by the hand: strands made one, unfolded and put back; a new use; what the library has of them. */
import { addStrand, freshId, freshName } from '../core/effect/edits.js';
import { NOTHING_HANDED, freshUse, changeMotif, takeMotif, unfoldMotif, type MotifChange } from '../core/effect/motifEdits.js';
import { NoMotif, makeMotif, reviseMotif } from '../core/effect/motifMaking.js';
import { motifOf, recursion, usesOf } from '../core/effect/motifs.js';
import { inOrder } from '../core/effect/runs.js';
import { isLink, strandsOf, type Effect, type Input, type Motif, type Strand } from '../core/effect/schema.js';
import { firstMotifInput } from '../core/effect/feeding.js';
import { kindOfLink } from '../core/lower/program.js';
import type { TypedUse } from '../core/effect/typed.js';
import { choose, type Hands } from './actions.js';
import type { MotifLibrary } from './motifLibrary.js';

export interface MotifHands extends Hands {
  readonly motifs: MotifLibrary;
}

const kindsNow = (hands: Hands) => {
  hands.compiling.flush();
  const { program } = hands.store.getState();
  return (link: Parameters<typeof kindOfLink>[1]) => (program ? kindOfLink(program, link) : undefined);
};

/** Does what may be refused with a sentence. @returns whether it was done */
function attempt(hands: Hands, label: string, recipe: (draft: Effect) => void): boolean {
  try {
    hands.documents.edit(label, recipe);
    return true;
  } catch (error) {
    if (!(error instanceof NoMotif)) throw error;
    hands.store.setState({ notice: error.message });
    return false;
  }
}

/** The motif that some strands were unfolded from, which they may be put back into; null where they were not. */
export function unfoldedFrom(hands: Pick<Hands, 'store'>, ids: readonly string[]): Motif | null {
  const { unfolded, effect } = hands.store.getState();
  if (!unfolded || !ids.some((id) => unfolded.ids.includes(id))) return null;
  return effect.motifs.find((m) => m.id === unfolded.motif.id) ?? unfolded.motif;
}

/** Makes a motif of strands: put back into the one that they were unfolded from, else a new one named after what it gives. */
export function group(hands: MotifHands, chosen: readonly string[], fresh = false): void {
  const before = fresh ? null : unfoldedFrom(hands, chosen);
  if (before) return putBack(hands, chosen, before);
  const { effect } = hands.store.getState();
  const ids = inOrder(effect, chosen);
  const taken = new Set(effect.motifs.map((m) => m.name));
  const base = strandsOf(effect).find((s) => s.id === ids.at(-1))!.name;
  let name = base;
  for (let k = 2; taken.has(name); k++) name = `${base} ${k}`;
  const [id, kindOf] = [crypto.randomUUID(), kindsNow(hands)];
  let use = '';
  const done = attempt(hands, `Make ${ids.length} strands a motif`, (draft) => {
    use = makeMotif(draft, { ids, id, name, kindOf });
  });
  if (!done) return;
  choose(hands, use);
  hands.store.setState(({ opened }) => ({ opened: new Set([...opened, use]) }));
}

function putBack(hands: MotifHands, chosen: readonly string[], before: Motif): void {
  const kindOf = kindsNow(hands);
  const handed = hands.store.getState().unfolded?.handed;
  const others = usesOf(hands.store.getState().effect, before.id).length;
  let use = '';
  const done = attempt(hands, `Put back into ${before.name}`, (draft) => {
    use = reviseMotif(draft, { ids: chosen, before, kindOf, ...(handed ? { handed } : {}) });
  });
  if (!done) return;
  choose(hands, use);
  const now = hands.store.getState().effect.motifs.find((m) => m.id === before.id)!;
  const follow = others === 0 ? '' : others === 1 ? ' One other strand follows.' : ` ${others} other strands follow.`;
  hands.store.setState({ unfolded: null, notice: `${now.name} is revision ${now.revision} now.${follow}` });
  hands.motifs.publish(now);
}

/** Puts a motif's strands in the place of a use, chosen, so that they can be changed and put back. */
export function unfoldUse(hands: Hands, id: string): void {
  const { effect } = hands.store.getState();
  const motif = motifOf(
    effect,
    strandsOf(effect).find((s) => s.id === id)!,
  );
  if (!motif) return;
  let made: ReturnType<typeof unfoldMotif> = { ids: [], handed: NOTHING_HANDED };
  hands.documents.edit(`Unfold ${motif.name}`, (draft) => {
    made = unfoldMotif(draft, { id });
  });
  const { ids } = made;
  hands.store.setState({ unfolded: { motif, ...made } });
  hands.choosing.run(ids, ids.at(-1)!);
}

/**
 * Uses a motif once more.
 * @param after the strand that it goes under; null for the top
 * @param typed its name and what its inputs are given, where that was said
 * @returns its id; null where it cannot be
 */
export function addUse(
  hands: Hands,
  motif: Motif,
  after: string | null,
  { splice = false, typed = null }: { readonly splice?: boolean; readonly typed?: TypedUse | null } = {},
): string | null {
  const kindOf = kindsNow(hands);
  const { effect } = hands.store.getState();
  const round = recursion([...effect.motifs.filter((m) => m.id !== motif.id), motif], motif);
  if (round) {
    hands.store.setState({ notice: `${motif.name} uses itself: ${round.join(', which uses ')}.` });
    return null;
  }
  const id = freshId(effect, 'motif');
  hands.documents.edit(`Add ${motif.name}`, (draft) => {
    if (!draft.motifs.some((m) => m.id === motif.id)) takeMotif(draft, { motif });
    const own = draft.motifs.find((m) => m.id === motif.id)!;
    const kind = after === null ? undefined : kindOf({ from: after });
    const given = typed?.given.ok ? typed.given.inputs : {};
    // Whoever says what is read means that, and nothing else.
    const input = kind && !Object.values(given).some(isLink) ? firstMotifInput(own, kind) : null;
    const called = freshName(draft, typed?.name ?? own.name);
    const { op, name, inputs } = freshUse(own, id, called) as Strand & { inputs: Record<string, Input> };
    Object.assign(inputs, given);
    const free = input !== null && given[input] === undefined;
    if (free) delete inputs[input];
    const reads = free && after !== null ? { reads: { strand: after, input } } : {};
    addStrand(draft, { id, op, name, after, splice, inputs, ...reads });
  });
  choose(hands, id);
  return id;
}

/** Names a motif, an input or an output of it; all its uses have the name. */
export const nameMotif = (hands: MotifHands, change: MotifChange): void => {
  hands.documents.edit('Name a motif', (draft) => changeMotif(draft, change));
  const now = hands.store.getState().effect.motifs.find((m) => m.id === change.id);
  if (now) hands.motifs.publish(now);
};

/** Takes the library's revision of a motif. */
export const takeFromLibrary = (hands: Hands, motif: Motif): void =>
  hands.documents.edit(`Take revision ${motif.revision} of ${motif.name}`, (draft) => takeMotif(draft, { motif }));
