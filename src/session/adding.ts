/** Adding a strand: what a typed line means here, what the new strand would read, and doing it. */
import { own } from '../core/base/wholesome.js';
import { addStrand, freshId, freshName, strandOf } from '../core/effect/edits.js';
import { firstInputFor, readBy, waysInto, waysToRead, type InputWay, type Way } from '../core/effect/feeding.js';
import { isColour, isLink, strandsOf, type Effect, type Input, type Motif, type Value } from '../core/effect/schema.js';
import { addTrigger, freshTrigger } from '../core/effect/triggers.js';
import { labelOfOutput, recordOfMotif } from '../core/effect/recordOf.js';
import { outputRecord, type OutputName } from '../core/effect/outputs.js';
import { readArguments, readLine, readUse, type Above, type TypedLine, type TypedUse } from '../core/effect/typed.js';
import { kindOfLink, type Program } from '../core/lower/program.js';
import { operatorOf } from '../core/operators/catalogue.js';
import { inputLabel } from '../core/operators/record.js';
import type { Hands } from './actions.js';

/** What a new strand would be. */
export interface Prospect {
  /** How it reads the strand that it goes under; null where it reads it not at all. */
  readonly way: InputWay | null;
  /** In how many ways it could, nothing among them; 1 where nothing is to be chosen. */
  readonly choices: number;
  readonly inputs: Readonly<Record<string, Input>>;
  readonly options: Readonly<Record<string, string>>;
  /** What inputs are called, where that is not their own name. */
  readonly labels?: Readonly<Record<string, string>>;
  /** Why what was typed after the operation cannot be; null where it can. */
  readonly why: string | null;
}

export interface Added {
  readonly op: string;
  readonly line?: TypedLine;
  /** Which of the ways to read the strand above is taken: 0 is what makes sense by itself. */
  readonly turn?: number;
  /** Hands its result to whoever read the strand above. */
  readonly splice?: boolean;
}

/** A strand that reads nothing of the one it was added under, since nothing made sense: what it may read. */
export interface Offer {
  readonly strand: string;
  readonly from: string;
  readonly ways: readonly InputWay[];
}

/** For as long as one place is being added at. */
export class Adding {
  private readonly above: Above;

  /** @param after the strand that it goes under; null for the top of an empty sheet */
  constructor(
    readonly effect: Effect,
    program: Program | null,
    readonly after: string | null,
  ) {
    const strands = strandsOf(effect);
    this.above = {
      effect,
      strands: strands.slice(0, strands.findIndex((s) => s.id === after) + 1),
      kindOf: (link) => (program ? kindOfLink(program, link) : undefined),
    };
  }

  /** Where the chosen strand is; under the last where none is. What the strand above has become by now counts. */
  static under(hands: Hands): Adding {
    hands.compiling.flush();
    const { effect, program, chosen } = hands.store.getState();
    return new Adding(effect, program, chosen ?? strandsOf(effect).at(-1)?.id ?? null);
  }

  line(typed: string): TypedLine {
    return readLine(this.above, typed);
  }

  /** A use of a motif, where that is what was typed. */
  use(motifs: readonly Motif[], typed: string): TypedUse | null {
    return readUse(this.above, motifs, typed);
  }

  /** What would come of a use. */
  foreseeUse({ motif, given }: TypedUse): Prospect {
    const labels = Object.fromEntries(Object.entries(recordOfMotif(motif).inputs).map(([id, { label = id }]) => [id, label]));
    return { way: null, choices: 1, inputs: given.ok ? given.inputs : {}, options: {}, labels, why: given.ok ? null : given.why };
  }

  /** What would come of it. @param turn as in `Added` */
  foresee(op: string, rest: string, turn = 0): Prospect {
    const { after } = this;
    const best = after === null ? null : firstInputFor(this.effect, op, after, this.above.kindOf);
    const all = after === null ? [] : waysToRead(op, after, this.above.kindOf);
    const first = all.find((way) => way.input === best && way.text === '') ?? null;
    const ways: (InputWay | null)[] = [first, ...all.filter((way) => way !== first), ...(first ? [null] : [])];
    const chosen = ways[((turn % ways.length) + ways.length) % ways.length]!;
    const read = rest === '' ? null : readArguments(this.above, operatorOf(op), rest, chosen?.input ?? null);
    if (read && !read.ok) return { way: chosen, choices: ways.length, inputs: {}, options: {}, why: read.why };
    const { inputs = {}, options = {} } = read ?? {};
    // Whoever names what is read means that, and nothing else.
    const named =
      Object.values(inputs).some((input) => isLink(input)) || (chosen !== null && own(inputs, chosen.input) !== undefined);
    return { way: named ? null : chosen, choices: named ? 1 : ways.length, inputs, options, why: null };
  }

  /** What may be read where nothing is. */
  private offered(op: string, { way, inputs }: Prospect): readonly InputWay[] {
    if (this.after === null || way !== null || Object.values(inputs).some((input) => isLink(input))) return [];
    return waysToRead(op, this.after, this.above.kindOf).filter(({ input }) => inputs[input] === undefined);
  }

  /** Adds it to the document as it is. @returns its id; null where what was typed cannot be */
  put(draft: Effect, { op, line, turn = 0, splice = false }: Added): string | null {
    const { way, inputs, options, why } = this.foresee(op, line?.rest ?? '', turn);
    if (why !== null) return null;
    const { after } = this;
    const id = freshId(draft, op);
    // What hears a trigger hears the first, or a new one.
    const heard: Record<string, Input> = {};
    for (const [name, { form }] of Object.entries(operatorOf(op).literals)) {
      if (form !== 'trigger' || inputs[name]) continue;
      if (draft.triggers.length === 0) addTrigger(draft, { trigger: freshTrigger(draft) });
      heard[name] = { value: { text: draft.triggers[0]!.id } };
    }
    const plain = way && !way.through && way.link.part === undefined ? { strand: way.link.from, input: way.input } : null;
    const name = freshName(draft, line?.name ?? operatorOf(op).label);
    addStrand(draft, {
      id,
      op,
      name,
      after,
      inputs: { ...heard, ...inputs },
      options,
      splice,
      ...(plain ? { reads: plain } : {}),
    });
    if (way && !plain) readBy(draft, { reader: { strand: id, input: way.input }, way });
    return id;
  }

  /** What may be read of the strand above where nothing is, to be offered beside the new one. */
  offers({ op, line, turn = 0 }: Added, strand: string): Offer | null {
    if (turn !== 0 || this.after === null) return null;
    const ways = this.offered(op, this.foresee(op, line?.rest ?? ''));
    return ways.length > 0 ? { strand, from: this.after, ways } : null;
  }

  /** How an output would read the strand above; null where it cannot. */
  feeding(output: OutputName): Way | null {
    if (this.after === null) return null;
    const kind = this.above.kindOf({ from: this.after });
    return (kind !== undefined && waysInto(outputRecord(output), { from: this.after }, kind)[0]) || null;
  }

  /** What a prospect gives, in words by input: `a` Rim cut, `falloff` 3. */
  words({ way, inputs, options, labels = {} }: Prospect): { readonly input: string; readonly text: string }[] {
    const link = (l: Way['link']) =>
      strandOf(this.effect, l.from).name +
      (l.port ? ` ${labelOfOutput(this.effect, strandOf(this.effect, l.from), l.port)}` : '') +
      (l.part ? `.${l.part}` : '');
    return [
      ...(way ? [{ input: inputLabel(way.input), text: way.through ? `${link(way.link)} ${way.text}` : link(way.link) }] : []),
      ...Object.entries(inputs).map(([input, i]) => ({
        input: own(labels, input) ?? inputLabel(input),
        text: isLink(i) ? link(i) : valueWords(i.value),
      })),
      ...Object.entries(options).map(([input, text]) => ({ input, text })),
    ];
  }
}

function valueWords(value: Value): string {
  if (typeof value === 'number') return String(value);
  if (isColour(value)) return value.intensity === 1 ? 'a colour' : `a colour × ${value.intensity}`;
  return Array.isArray(value) ? value.join(' ') : typeof value === 'object' && 'text' in value ? value.text : 'a value';
}
