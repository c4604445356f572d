/** The documents of a bench: edits, undo, and what follows from each. There is one way in which a document changes. */
import type { Draft } from 'immer';
import { v7 as uuid } from 'uuid';
import type { Effect } from '../core/effect/schema.js';
import { tooMuch } from '../core/effect/tooMuch.js';
import { keepAlike } from '../core/scene/definitions.js';
import { copyStage } from '../core/scene/edits.js';
import type { Stage } from '../core/scene/stage.js';
import { createDocument, loadStage } from './api.js';
import { record, redoEntry, seal, undoEntry, type History } from './history.js';
import { propState, type BenchState, type BenchStore, type DocumentName, type Both } from './state.js';

/** What has changed, and what was before. `taken` comes from elsewhere: it is saved there, and is nobody's step here. */
export interface Change {
  readonly changed: Partial<Both>;
  readonly before: Both;
  readonly how: 'edited' | 'taken';
}

export class Documents {
  private readonly listeners = new Set<(change: Change) => void>();
  private closed = false;
  /** The step that has been taken back to be compared. */
  private compared: History<DocumentName>['past'][number] | null = null;

  constructor(private readonly store: BenchStore) {}

  edit(label: string, recipe: (draft: Effect) => void, mergeKey: string | null = null): void {
    this.change('effect', label, recipe as (draft: Draft<Effect>) => void, mergeKey);
  }

  editStage(label: string, recipe: (draft: Stage) => void, mergeKey: string | null = null): void {
    const { stage } = this.store.getState();
    const alike = (draft: Stage) => {
      recipe(draft);
      keepAlike(stage, draft);
    };
    this.change('stage', label, alike as (draft: Draft<Stage>) => void, mergeKey);
  }

  private change<D extends DocumentName>(
    name: D,
    label: string,
    recipe: (draft: Draft<BenchState[D]>) => void,
    mergeKey: string | null,
  ): void {
    const state = this.store.getState();
    if (state.following || this.closed) return;
    const result = record(state.history, name, state[name], label, mergeKey, recipe);
    if (!result) return;
    // What nobody could save is not begun.
    const why = name === 'effect' ? tooMuch(state.effect, result.value as unknown as Effect) : null;
    if (why !== null) this.store.setState({ notice: why });
    else this.apply({ [name]: result.value }, result.history);
  }

  /** Nothing is taken any more: the documents are about to be opened anew, or left. */
  close(): void {
    this.closed = true;
  }

  /** The end of a drag or of a run of typing. */
  endGesture(): void {
    this.store.setState(({ history }) => ({ history: seal(history) }));
  }

  undo(): void {
    const { history } = this.store.getState();
    const entry = history.past[history.past.length - 1];
    if (entry)
      this.travel(entry.document, (value) => undoEntry(value, entry), {
        past: history.past.slice(0, -1),
        future: [entry, ...history.future],
      });
  }

  redo(): void {
    const { history } = this.store.getState();
    const entry = history.future[0];
    if (entry)
      this.travel(entry.document, (value) => redoEntry(value, entry), {
        past: [...history.past, entry],
        future: history.future.slice(1),
      });
  }

  /** The sheet before the last step and after it, by turns. */
  compare(): void {
    if (this.compared) return this.redo();
    const { past } = this.store.getState().history;
    const step = past[past.length - 1];
    if (!step) return;
    this.undo();
    this.compared = step;
    this.store.setState({ notice: `As it was before “${step.label}”. C shows it after.` });
  }

  /** Goes along the steps to where so many of them are done, in one move. */
  goTo(done: number): void {
    const { following, effect, stage, history } = this.store.getState();
    if (this.closed) return;
    const steps = [...history.past, ...history.future];
    if (following || done < 0 || done > steps.length || done === history.past.length) return;
    const both = statesOf({ effect, stage }, history, done).get(done)!;
    this.apply(both, { past: steps.slice(0, done), future: steps.slice(done) });
  }

  /** Another state of the effect in place of this one: a revision. It is a step like any other. */
  restore(label: string, effect: Effect): void {
    this.edit(label, (draft) => {
      const into = draft as unknown as Record<string, unknown>;
      const from: Record<string, unknown> = { ...effect, id: draft.id };
      for (const key of Object.keys(into)) if (!Object.hasOwn(from, key)) delete into[key];
      for (const [key, value] of Object.entries(from)) if (JSON.stringify(into[key]) !== JSON.stringify(value)) into[key] = value;
    });
  }

  private travel(name: DocumentName, go: <T extends Effect | Stage>(value: T) => T, history: History<DocumentName>): void {
    const { following, effect, stage } = this.store.getState();
    if (following || this.closed) return;
    this.apply(name === 'effect' ? { effect: go(effect) } : { stage: go(stage) }, history);
  }

  /** A changed document, with the steps that lead to it. The store is set once, and everybody follows. */
  apply(changed: Partial<Both>, history: History<DocumentName>): void {
    // Whatever is done next ends the comparing, and what was said of it.
    const compared = this.compared !== null;
    this.compared = null;
    this.set(changed, compared ? { history, notice: null } : { history }, 'edited');
  }

  /** Takes what somebody else has made of a document. */
  take(changed: Partial<Both>, more: Partial<BenchState> = {}): void {
    this.set(changed, more, 'taken');
  }

  private set(changed: Partial<Both>, more: Partial<BenchState>, how: Change['how']): void {
    const before = this.store.getState();
    const shown = { effect: changed.effect ?? before.effect, stage: changed.stage ?? before.stage };
    const alive = new Set(shown.effect.strands.map((s) => s.id));
    const chosen = before.chosen !== null && alive.has(before.chosen) ? before.chosen : null;
    const kept = before.kept.every((id) => alive.has(id)) ? before.kept : before.kept.filter((id) => alive.has(id));
    const run = before.run.every((id) => alive.has(id)) ? before.run : before.run.filter((id) => alive.has(id));
    this.store.setState({ chosen, run, kept, offer: null, glimpse: null, ...changed, ...more, ...propState(shown, before.prop) });
    for (const l of this.listeners) l({ changed, before, how });
  }

  /** Called after each change, in the order in which they asked for it. */
  onChange(listener: (change: Change) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  get both(): Both {
    const { effect, stage } = this.store.getState();
    return { effect, stage };
  }

  /** Takes what the tab that edits has, in a tab that follows. */
  show({ effect, stage }: Both): void {
    const before = this.store.getState();
    if (!before.following) return;
    this.take(JSON.stringify(before.stage) === JSON.stringify(stage) ? { effect } : { effect, stage });
  }

  /** Puts the effect on another stage, or on a copy of it that is its own. @throws with a sentence; then it stays where it is */
  async standOn(id: string, copy: boolean): Promise<void> {
    const { effect } = this.store.getState();
    let there = id;
    if (copy) {
      const { document } = await loadStage(id);
      there = uuid();
      const name = `${document.name.slice(0, 80)}, for ${effect.name}`.slice(0, 120);
      await createDocument('stage', copyStage(document, { id: there, name, worn: {} }));
    }
    this.edit('Stand on another stage', (draft) => void (draft.home = { stage: there, prop: '', viewpoint: '' }));
  }
}

/**
 * The documents as they were, or will be, where so many steps are done, for each count from here to there.
 * @param done where to, 0 to all steps
 */
export function statesOf({ effect, stage }: Both, { past, future }: History<DocumentName>, done: number): Map<number, Both> {
  const steps = [...past, ...future];
  const here = past.length;
  const states = new Map<number, Both>([[here, { effect, stage }]]);
  let now: Both = { effect, stage };
  for (let at = here; at > done; at--) {
    const step = steps[at - 1]!;
    now = { ...now, [step.document]: undoEntry(now[step.document], step) };
    states.set(at - 1, now);
  }
  for (let at = here; at < done; at++) {
    const step = steps[at]!;
    now = { ...now, [step.document]: redoEntry(now[step.document], step) };
    states.set(at + 1, now);
  }
  return states;
}
