/**
 * A line of several operations, `;` between them: `scroll .05 .02; noise scale 8; Ripples = normal from height; normal`.
 * Each reads the one before it as if they had been added one after the other; the name of an output gives it what was made
 * last. All of it is one step of the history.
 */
import { produce } from 'immer';
import { giveOutput, readBy, type Way } from '../core/effect/feeding.js';
import { OUTPUTS, outputRecord, type OutputName } from '../core/effect/outputs.js';
import type { Effect } from '../core/effect/schema.js';
import type { TypedLine } from '../core/effect/typed.js';
import { lower } from '../core/lower/lower.js';
import { operatorOf } from '../core/operators/catalogue.js';
import { findOperators, operatorCalled } from '../core/operators/find.js';
import { BLENDS_NOW, choose, type Hands } from './actions.js';
import { Adding, type Added } from './adding.js';

/** One operation of a line, or the giving of what was made last to an output. */
export type Step =
  | { readonly type: 'add'; readonly adding: Adding; readonly added: Added }
  | { readonly type: 'feed'; readonly output: OutputName; readonly way: Way };

/** The last operation of a line, and what stands before it. */
export interface Here {
  /** Where it goes. */
  readonly adding: Adding;
  readonly line: TypedLine;
  /** The output that it names, in an operation's place, and how that reads what was made last; null where it names none. */
  readonly feeds: { readonly output: OutputName; readonly way: Way } | null;
  readonly before: readonly Step[];
  /** Why what stands before it, or the giving, cannot be; null where it can. */
  readonly why: string | null;
}

/** What has been read of a line, but for what is typed now. */
interface Made {
  readonly text: string;
  readonly adding: Adding;
  readonly steps: readonly Step[];
  readonly why: string | null;
}

const outputCalled = ({ kind }: Effect, words: string): OutputName | null =>
  OUTPUTS[kind].find((name) => outputRecord(name).label.toLowerCase() === words.trim().toLowerCase()) ?? null;

/** Whether each word says this operation: what is not seen being picked is not to be guessed. */
const meant = (words: string, op: string): boolean =>
  operatorCalled(words)?.id === op ||
  words
    .trim()
    .split(/\s+/)
    .every((word) => findOperators(word).some(({ id }) => id === op));

/** For as long as one place is being added at. */
export class Chain {
  private made: Made;

  constructor(private readonly first: Adding) {
    this.made = { text: '', adding: first, steps: [], why: null };
  }

  static under(hands: Hands): Chain {
    return new Chain(Adding.under(hands));
  }

  here(typed: string): Here {
    const cut = typed.lastIndexOf(';');
    const { adding, steps, why } = this.madeOf(cut < 0 ? '' : typed.slice(0, cut));
    const last = typed.slice(cut + 1);
    const output = steps.length > 0 ? outputCalled(adding.effect, last) : null;
    const way = output && adding.feeding(output);
    return {
      ...{ adding, line: adding.line(last), before: steps },
      feeds: output && way ? { output, way } : null,
      why: why ?? (output && !way ? `${outputRecord(output).label} cannot read that.` : null),
    };
  }

  /** What stands before the operation that is typed now: read once, and not at every letter. */
  private madeOf(text: string): Made {
    if (this.made.text === text) return this.made;
    let made: Made = { text, adding: this.first, steps: [], why: null };
    for (const part of text === '' ? [] : text.split(';')) if (made.why === null) made = this.with(made, part);
    return (this.made = { ...made, text });
  }

  private with(made: Made, part: string): Made {
    const step = this.read(made, part);
    if (typeof step === 'string') return { ...made, why: step };
    let { after } = made.adding;
    const effect = produce(made.adding.effect, (draft) => {
      after = put(draft, step) ?? after;
    });
    return { ...made, adding: new Adding(effect, lower(effect, { build: 'live' }), after), steps: [...made.steps, step] };
  }

  /** @returns why it cannot be, in a sentence, where it cannot */
  private read({ adding, steps }: Made, part: string): Step | string {
    const output = steps.length > 0 ? outputCalled(adding.effect, part) : null;
    if (output) {
      const way = adding.feeding(output);
      return way ? { type: 'feed', output, way } : `${outputRecord(output).label} cannot read that.`;
    }
    const line = adding.line(part);
    const op = findOperators(line.words)[0]?.id;
    if (!op || part.trim() === '' || (line.rest === '' && !meant(line.words, op))) return `Nothing is called “${part.trim()}”.`;
    const { why } = adding.foresee(op, line.rest);
    return why ?? { type: 'add', adding, added: { op, line } };
  }
}

/** @returns the id of what was added; null where something was fed */
function put(draft: Effect, step: Step): string | null {
  if (step.type === 'add') return step.adding.put(draft, step.added);
  giveOutput(draft, step.output, () => readBy(draft, { reader: { output: step.output }, way: step.way }));
  return null;
}

/** What a step is called by. */
export const stepWords = (step: Step): string =>
  step.type === 'feed' ? outputRecord(step.output).label : (step.added.line?.name ?? operatorOf(step.added.op).label);

/** Does all that a line says, and chooses what was added last. @returns its id; null where it cannot be */
export function addLine(hands: Hands, here: Here, last: Pick<Added, 'op' | 'turn' | 'splice'>): string | null {
  if (here.why !== null) return null;
  const { adding, line, feeds, before } = here;
  const added: Added = { ...last, line };
  if (!feeds && adding.foresee(last.op, line.rest, last.turn).why !== null) return null;
  const splice = last.splice ?? false;
  const steps: Step[] = [
    ...before.map((step) => (step.type === 'add' ? { ...step, added: { ...step.added, splice } } : step)),
    feeds ? { type: 'feed', ...feeds } : { type: 'add', adding, added },
  ];
  let id: string | null = adding.after;
  let blended = false;
  hands.documents.edit(`${steps[0]!.type === 'add' ? 'Add' : 'Feed'} ${steps.map(stepWords).join(', ')}`, (draft) => {
    const { alphaMode } = draft.finish;
    for (const step of steps) id = put(draft, step) ?? id;
    blended = draft.finish.alphaMode !== alphaMode;
  });
  if (id === null) return null;
  choose(hands, id);
  const offer = feeds ? null : adding.offers(added, id);
  hands.store.setState({ ...(offer ? { offer } : {}), ...(blended ? { notice: BLENDS_NOW } : {}) });
  return id;
}

/** Adds a strand under the chosen one, which it reads where that makes sense. @returns its id */
export const addUnderChosen = (hands: Hands, op: string, splice = false): string =>
  addLine(hands, Chain.under(hands).here(''), { op, splice })!;
