/** Another operation in a strand's place: what it would let go and upset, told before it is done. */
import { produce } from 'immer';
import { replacement, replaceStrand } from '../core/effect/replace.js';
import { strandOf } from '../core/effect/edits.js';
import type { Effect } from '../core/effect/schema.js';
import { Lineage } from '../core/lower/lower.js';
import { kindOfLink, type Program } from '../core/lower/program.js';
import { operatorOf } from '../core/operators/catalogue.js';
import type { Hands } from './actions.js';

export interface Foresight {
  /** What it would let go, in words. */
  readonly lost: readonly string[];
  /** What would be wrong with the sheet then, and is not now. */
  readonly troubles: readonly string[];
}

/** Looks ahead, for as long as one strand is being replaced: each look lowers only what differs. */
export class Replacing {
  private readonly lineage = new Lineage();
  private readonly now: Program;
  private readonly known: ReadonlySet<string>;

  constructor(
    private readonly effect: Effect,
    private readonly id: string,
  ) {
    this.now = this.lineage.lower(effect);
    this.known = new Set(this.now.problems.map((p) => p.message));
  }

  /** The strand's. */
  get name(): string {
    return strandOf(this.effect, this.id).name;
  }

  private with(op: string) {
    return replacement(this.effect, { id: this.id, op, kindOf: (link) => kindOfLink(this.now, link) });
  }

  /** @param op the operation to come */
  foresee(op: string): Foresight {
    const how = this.with(op);
    const after = produce(this.effect, (draft) => replaceStrand(draft as Effect, { id: this.id, with: how }));
    const { problems } = this.lineage.lower(after);
    return { lost: how.lost, troubles: problems.map((p) => p.message).filter((m) => !this.known.has(m)) };
  }

  replace(hands: Hands, op: string): void {
    const how = this.with(op);
    hands.documents.edit(`Replace ${this.name} by ${operatorOf(op).label}`, (draft) =>
      replaceStrand(draft, { id: this.id, with: how }),
    );
  }
}
