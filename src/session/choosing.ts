/** What is chosen on a bench: a strand, the strands whose pulse is kept, a prop and its variant; and what is asked before it is done. */
import { takenFrom, wear, whoWears, whyNowhere } from '../core/scene/wearing.js';
import { propIn } from '../core/scene/pieces.js';
import { inOrder } from '../core/effect/runs.js';
import { strandsOf, type Effect } from '../core/effect/schema.js';
import type { Documents } from './documents.js';
import { chosenRun, propState, type BenchStore, type Question } from './state.js';

export interface ChoosingPorts {
  /** An effect of another prop's, where it is at hand. */
  readonly otherEffect: (id: string) => Effect | null;
  /** Another strand's numbers are wanted. */
  readonly onStrands: () => void;
  /** Numbers are wanted of another prop. */
  readonly onProp: () => void;
}

/** Strands whose pulse may be drawn beside the chosen one's. */
const MOST_KEPT = 4;

export class Choosing {
  constructor(
    private readonly store: BenchStore,
    private readonly documents: Documents,
    private readonly ports: ChoosingPorts,
  ) {}

  strand(chosen: string | null): void {
    // Choosing one of several anew, as the focus does, lets the others be.
    const { run } = this.store.getState();
    const among = chosen !== null && run.includes(chosen);
    this.store.setState(among ? { chosen } : { chosen, run: [] });
    this.endOffer(chosen);
    this.ports.onStrands();
  }

  /** Folds a section, or unfolds it. @param first its first strand */
  fold(first: string): void {
    const { folded } = this.store.getState();
    this.store.setState({ folded: new Set(folded.has(first) ? [...folded].filter((x) => x !== first) : [...folded, first]) });
  }

  /** Chooses this strand alone. */
  only(chosen: string): void {
    this.store.setState({ chosen, run: [] });
    this.endOffer(chosen);
    this.ports.onStrands();
  }

  /** What was offered to a strand is not asked for where another one is turned to. */
  private endOffer(chosen: string | null): void {
    const { offer } = this.store.getState();
    if (offer && offer.strand !== chosen) this.store.setState({ offer: null });
  }

  /** Chooses several. @param chosen the one whose threads are lit; the last of them where it is not among them */
  run(ids: readonly string[], chosen?: string): void {
    const { effect } = this.store.getState();
    const run = inOrder(effect, ids);
    const lit = chosen !== undefined && run.includes(chosen) ? chosen : (run[run.length - 1] ?? null);
    this.store.setState({ chosen: lit, run: run.length > 1 ? run : [] });
    this.ports.onStrands();
  }

  /** Chooses all strands from the one that is lit to this one, which is lit then. */
  upTo(id: string): void {
    const { effect, chosen, run } = this.store.getState();
    const order = effect.strands.map((s) => (s as { id: string }).id);
    // The end that does not move is the one farthest from where it was lit.
    const ends = run.length > 0 ? [run[0]!, run[run.length - 1]!] : [chosen ?? id, chosen ?? id];
    const fixed = ends[0] === chosen ? ends[1]! : ends[0]!;
    const [from, to] = [order.indexOf(fixed), order.indexOf(id)].sort((a, b) => a - b) as [number, number];
    this.run(order.slice(from, to + 1), id);
  }

  /** Takes one more strand among the chosen ones, or lets it go. */
  toggle(id: string): void {
    const state = this.store.getState();
    const now = chosenRun(state);
    this.run(now.includes(id) ? now.filter((x) => x !== id) : [...now, id], id);
  }

  /** Holds a strand's pulse beside the chosen one's, or lets it go. */
  keepPulse(strand: string, keep: boolean): void {
    this.store.setState(({ kept }) => ({
      kept: keep ? [...kept.filter((k) => k !== strand), strand].slice(-MOST_KEPT) : kept.filter((k) => k !== strand),
    }));
    this.ports.onStrands();
  }

  /** The prop that readings are taken on and dials turn. */
  prop(prop: string): void {
    this.store.setState(propState(this.store.getState(), prop));
    this.ports.onProp();
  }

  /** Takes a prop in hand; where it wears the effect, readings are taken on it too. @param piece of it, that was hit */
  hand(prop: string, piece = prop): void {
    const { effect, stage } = this.store.getState();
    this.store.setState({ inHand: prop });
    const wearers = whoWears(stage, effect).flatMap((w) => (w.effect === effect.id && propIn(w.prop) === prop ? [w.prop] : []));
    const there = wearers.includes(piece) ? piece : wearers[0];
    if (there !== undefined) this.prop(there);
  }

  /** Puts another variant on the chosen prop; a prop that only stands in for the effect's home comes to wear it. */
  variant(variant: string | null): void {
    const { effect, stage, prop } = this.store.getState();
    const name = effect.variants.find((v) => v.id === variant)?.name ?? 'Base';
    const nowhere = whyNowhere(stage, effect);
    if (nowhere !== null) return this.store.setState({ notice: nowhere });
    this.askFirst(effect.kind === 'surface' ? [prop] : [], () =>
      this.documents.editStage(`Wear ${name}`, (draft) => wear(draft, effect, { id: prop, variant })),
    );
  }

  /** What goes by the name of an effect that props of the stage wear. */
  nameOf(effect: string): string {
    return this.ports.otherEffect(effect)?.name ?? 'another effect';
  }

  /** The same, told apart from the effect that is open where both are called the same. */
  private toldApart(other: string): string {
    const { effect } = this.store.getState();
    const name = this.nameOf(other);
    if (name !== effect.name) return name;
    const count = strandsOf(this.ports.otherEffect(other) ?? effect).length;
    return `the other ${name}, the one of ${count} strand${count === 1 ? '' : 's'},`;
  }

  /** Does what dresses props; first it is asked for, where that takes one from an effect whose home this stage is. */
  askFirst(props: readonly string[], act: () => void): void {
    const { effect, stage } = this.store.getState();
    const taken = props
      .flatMap((id) => takenFrom(stage, effect, id) ?? [])
      .filter(({ effect: other }) => (this.ports.otherEffect(other)?.home?.stage ?? stage.id) === stage.id);
    if (taken.length === 0) return act();
    const names = [...new Set(taken.map((t) => this.toldApart(t.effect)))].join(' and ');
    const what = taken.map((t) => t.prop).join(' and ');
    this.store.setState({
      question: {
        text: `${what} ${taken.length === 1 ? 'belongs' : 'belong'} to ${names}, which would lose it.`,
        yes: 'Take it',
        act,
      },
    });
  }

  /** Asks before something is done that undo does not take back, or that others would notice. */
  ask(question: Question): void {
    this.store.setState({ question });
  }

  /** @param yes does what was asked about, in the one way or the other; else it is left */
  answer(yes: boolean | 'or'): void {
    const { question } = this.store.getState();
    this.store.setState({ question: null });
    if (yes === 'or') question?.or?.act();
    else if (yes) question?.act();
  }
}
