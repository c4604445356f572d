/** Mote fields put on the stage, and what an effect is made for, by the hand. */
import { setKind } from '../core/effect/edits.js';
import { outputRecord } from '../core/effect/outputs.js';
import type { Effect } from '../core/effect/schema.js';
import { MAX_MOTE_FIELDS, addMotes } from '../core/scene/edits.js';
import type { Hands } from './actions.js';
import { propInHand } from './state.js';

/** Puts a mote field about the prop in hand, in the effect on the bench where that is of motes. @returns its id; null where there is no room */
export function newMotes(hands: Hands): string | null {
  const { stage, effect } = hands.store.getState();
  if (stage.motes.length >= MAX_MOTE_FIELDS) {
    hands.store.setState({ notice: `A stage has room for ${MAX_MOTE_FIELDS} mote fields.` });
    return null;
  }
  const [x, y, z] = propInHand(hands.store.getState())?.place ?? [0, 0, 0];
  const taken = new Set(stage.motes.map((m) => m.id));
  let id = '';
  for (let k = 1; id === '' || taken.has(id); k++) id = `motes-${k}`;
  hands.documents.editStage('Add motes', (draft) =>
    addMotes(draft, { id, place: [x, y + 0.75, z], effect: effect.kind === 'mote' ? effect.id : null }),
  );
  return id;
}

/** Makes the effect on the bench one of another kind; motes and lights come to stand on the stage, where none of it does. */
export function makeOfKind(hands: Hands, kind: Effect['kind']): void {
  let gone: string[] = [];
  hands.documents.edit(`Make it an effect of a ${kind}`, (draft) => {
    gone = setKind(draft, kind).map((name) => outputRecord(name).label);
  });
  if (gone.length > 0)
    hands.store.setState({ notice: `A ${kind} has no ${gone.join(', no ')}: what was connected there is let go.` });
  const { stage, effect } = hands.store.getState();
  if (kind === 'mote' && !stage.motes.some((field) => field.effect === effect.id)) newMotes(hands);
}
