/** A formula as the strands that it stands for, and strands as one formula: the value is the same either way. */
import { current, isDraft } from 'immer';
import { FORMULA, operatorOf } from '../operators/catalogue.js';
import { FormulaError, parseFormula, type Expression } from '../operators/formula/parse.js';
import {
  FUNCTION_OPERATORS,
  JOINED,
  NEGATIVE,
  PLACE_OPERATORS,
  SIGN_OPERATORS,
  type AsOperator,
} from '../operators/formula/strands.js';
import { freshId, freshName, strandOf } from './edits.js';
import { inOrder } from './runs.js';
import { isLink, isWritten, strandsOf, type Effect, type Input, type Link, type Strand } from './schema.js';

const LETTERS = ['a', 'b', 'c', 'd', 'e', 'f', 'g', 'h'];

/** What cannot be done, as a sentence. */
export class Unfoldable extends Error {}

/** The document itself: an edit's draft cannot be copied from. */
const plainOf = (draft: Effect): Effect => (isDraft(draft) ? current(draft) : draft);

const textOf = (strand: Strand): string => {
  const given = strand.inputs?.formula;
  return given && !isLink(given) && isWritten(given.value) ? given.value.text : 'a';
};

/** Makes the strands of a formula, those that are read first. */
class Unfolder {
  readonly made: Strand[] = [];
  /** Numbers that stand in the text itself: they may be worked out, where a letter's may be a dial. */
  private readonly plain = new WeakSet<Input>();
  private readonly places = new Map<string, Link>();
  /** Where each letter's value went. */
  readonly went = new Map<string, { readonly strand: string; readonly input: string }[]>();

  constructor(
    private readonly effect: Effect,
    private readonly strand: Strand,
  ) {}

  private number(value: number): Input {
    const input: Input = { value };
    this.plain.add(input);
    return input;
  }

  private valueOf(input: Input): number | null {
    return this.plain.has(input) && !isLink(input) && typeof input.value === 'number' ? input.value : null;
  }

  private make(as: AsOperator, args: readonly Input[]): Link {
    const among = { ...this.effect, strands: [...strandsOf(this.effect), ...this.made] } as Effect;
    const id = freshId(among, as.op);
    const name = freshName(among, operatorOf(as.op).label);
    const inputs = Object.fromEntries(args.map((input, k) => [as.inputs[k]!, input]));
    args.forEach((input, k) => {
      for (const letter of LETTERS)
        if (input === this.strand.inputs?.[letter])
          this.went.set(letter, [...(this.went.get(letter) ?? []), { strand: id, input: as.inputs[k]! }]);
    });
    this.made.push({
      ...{ id, name, op: as.op },
      ...(args.length > 0 ? { inputs } : {}),
      ...(as.options ? { options: { ...as.options } } : {}),
    });
    return { from: id };
  }

  private named(name: string): Input {
    const given = LETTERS.includes(name) ? (this.strand.inputs?.[name] as Input | undefined) : undefined;
    if (given) return given;
    if (name === 'pi') return this.number(Math.PI);
    const place = Object.hasOwn(PLACE_OPERATORS, name) ? PLACE_OPERATORS[name]! : null;
    if (!place) return this.number(0);
    const known = this.places.get(name) ?? this.make(place, []);
    this.places.set(name, known);
    return known;
  }

  private part(of: Input, part: string): Link {
    if (!isLink(of)) throw new Unfoldable(`A part, .${part}, of what is no strand has no strand of its own.`);
    if (!of.part) return { ...of, part };
    const letters = /^[xyzw]+$/.test(of.part) ? 'xyzw' : 'rgba';
    const own = /^[xyzw]+$/.test(part) ? 'xyzw' : 'rgba';
    return { ...of, part: [...part].map((c) => of.part![own.indexOf(c)] ?? letters[0]!).join('') };
  }

  private pair(sign: string, x: Input, y: Input): Input {
    const [a, b] = [this.valueOf(x), this.valueOf(y)];
    if (a !== null && b !== null) {
      const worked = { '+': a + b, '-': a - b, '*': a * b, '/': b === 0 ? 0 : a / b }[sign];
      if (worked !== undefined) return this.number(worked);
    }
    return this.make(SIGN_OPERATORS[sign]!, [x, y]);
  }

  of(e: Expression): Input {
    switch (e.kind) {
      case 'number':
        return this.number(e.value);
      case 'name':
        return this.named(e.name);
      case 'part':
        return this.part(this.of(e.of), e.part);
      case 'unary': {
        if (e.sign !== '-') break;
        const input = this.of(e.of);
        const value = this.valueOf(input);
        return value === null ? this.make(NEGATIVE, [input]) : this.number(-value);
      }
      case 'binary':
        if (!Object.hasOwn(SIGN_OPERATORS, e.sign)) break;
        return this.pair(e.sign, this.of(e.left), this.of(e.right));
      case 'call': {
        const joined = /^vec([234])$/.exec(e.name);
        const as = joined && e.args.length === Number(joined[1]) ? JOINED : FUNCTION_OPERATORS[e.name];
        if (!as || (as !== JOINED && as.inputs.length !== e.args.length))
          throw new Unfoldable(`${e.name} has no operation of its own: the formula stays one.`);
        return this.make(
          as,
          e.args.map((arg) => this.of(arg)),
        );
      }
      case 'choice':
        break;
    }
    throw new Unfoldable('A comparison has no strands of its own here: the formula stays one.');
  }
}

/**
 * Puts the strands in a formula's place; the last of them keeps its id, its name and its readers, and dials go where their
 * numbers went. @throws Unfoldable with a sentence; then nothing is changed
 */
export function unfoldFormula(draft: Effect, { id }: { id: string }): void {
  const effect = plainOf(draft);
  const strand = structuredClone(strandOf(effect, id));
  const unfolder = new Unfolder(effect, strand);
  let result: Input;
  try {
    result = unfolder.of(parseFormula(textOf(strand)));
  } catch (error) {
    if (error instanceof FormulaError) throw new Unfoldable(`The formula cannot be read: ${error.message}.`);
    throw error;
  }
  const { made, went } = unfolder;
  const last = made.at(-1);
  if (!last || !isLink(result) || result.from !== last.id || result.part !== undefined)
    throw new Unfoldable('The formula is a single value already.');
  const dials = draft.dials.filter((d) => d.strand === id);
  const moved = dials.map((dial) => ({ dial, to: went.get(dial.input) ?? [] }));
  const lost = moved.find(({ to }) => to.length !== 1);
  if (lost) throw new Unfoldable(`The dial on ${lost.dial.input} would have to be in several strands: the formula stays one.`);
  for (const { dial, to } of moved) {
    dial.strand = to[0]!.strand === last.id ? id : to[0]!.strand;
    dial.input = to[0]!.input;
  }
  const kept: Strand = { ...last, id, name: strand.name };
  if (strand.note !== undefined) kept.note = strand.note;
  if (strand.bypassed) kept.bypassed = true;
  const first = made.length > 1 ? made[0]!.id : id;
  for (const section of draft.sections) if (section.first === id) section.first = first;
  draft.strands.splice(
    draft.strands.findIndex((s) => s.id === id),
    1,
    ...(structuredClone([...made.slice(0, -1), kept]) as typeof draft.strands),
  );
}

/** How a strand of an operator is written in a formula, of what its inputs are written. */
const WRITTEN: ReadonlyMap<string, (args: readonly string[]) => string> = new Map([
  ...Object.entries(FUNCTION_OPERATORS).map(
    ([name, as]) => [as.op, (args: readonly string[]) => `${name}(${args.join(', ')})`] as const,
  ),
  ...Object.entries(SIGN_OPERATORS)
    .filter(([sign]) => sign !== '%')
    .map(([sign, as]) => [as.op, (args: readonly string[]) => `(${args.join(` ${sign} `)})`] as const),
  [NEGATIVE.op, ([x]: readonly string[]) => `(-${x})`] as const,
]);
const INPUTS = new Map(
  [...Object.values(FUNCTION_OPERATORS), ...Object.values(SIGN_OPERATORS), NEGATIVE].map((as) => [as.op, as.inputs]),
);

/** Writes strands as one text, and keeps what it reads from elsewhere under letters. */
class Folder {
  readonly inputs: Record<string, Input> = {};
  readonly dials = new Map<string, string>();
  private readonly letterOf = new Map<string, string>();

  constructor(
    private readonly effect: Effect,
    private readonly inside: ReadonlySet<string>,
  ) {}

  private letter(key: string, input: Input): string {
    const known = this.letterOf.get(key);
    if (known !== undefined) return known;
    const letter = LETTERS[this.letterOf.size];
    if (letter === undefined) throw new Unfoldable(`A formula reads at most ${LETTERS.length} strands.`);
    this.letterOf.set(key, letter);
    this.inputs[letter] = structuredClone(input);
    return letter;
  }

  strand({ id, op, name, inputs = {}, options = {} }: Strand): string {
    const place = Object.entries(PLACE_OPERATORS).find(
      ([, as]) => as.op === op && Object.entries(as.options ?? {}).every(([key, value]) => (options[key] ?? value) === value),
    );
    if (place) return place[0];
    const write = WRITTEN.get(op);
    if (!write) throw new Unfoldable(`${name} is no arithmetic: a formula has no ${operatorOf(op).label}.`);
    return write(INPUTS.get(op)!.map((input) => this.input(id, op, input, inputs[input] as Input | undefined)));
  }

  private input(strand: string, op: string, name: string, given: Input | undefined): string {
    const dial = this.effect.dials.find((d) => d.strand === strand && d.input === name);
    const first = operatorOf(op).inputs[name]!.default;
    const input: Input = given ?? { value: typeof first === 'number' ? first : 0 };
    if (dial) {
      const letter = this.letter(`dial ${dial.id}`, input);
      this.dials.set(dial.id, letter);
      return letter;
    }
    if (!isLink(input))
      return typeof input.value === 'number' ? numberText(input.value) : this.letter(`${strand}.${name}`, input);
    if (this.inside.has(input.from) && input.port === undefined) {
      const text = this.strand(strandOf(this.effect, input.from));
      return input.part ? `(${text}).${input.part}` : text;
    }
    return this.letter(JSON.stringify(input), input);
  }
}

const numberText = (value: number): string => (value < 0 ? `(${value})` : String(value));

/**
 * Makes one formula of strands: the last of them keeps its id, its name and its readers. @throws Unfoldable with a sentence
 * where one of the others is read elsewhere too, or is no arithmetic; then nothing is changed
 */
export function foldStrands(draft: Effect, { ids }: { ids: readonly string[] }): void {
  const effect = plainOf(draft);
  const order = inOrder(effect, ids);
  const last = order.at(-1);
  if (order.length < 2 || last === undefined) throw new Unfoldable('Choose the strands that are to be one formula.');
  const inside = new Set(order);
  const others = new Set(order.slice(0, -1));
  const readers = strandsOf(effect).filter((s) => !inside.has(s.id));
  const read = [...readers.flatMap((s) => Object.values(s.inputs ?? {})), ...Object.values(effect.outputs)];
  const held = read.flatMap((i) => (isLink(i) && others.has(i.from) ? [strandOf(effect, i.from).name] : []))[0];
  if (held !== undefined) throw new Unfoldable(`${held} is read elsewhere too: it cannot be part of one formula.`);
  const root = strandOf(effect, last);
  const bypassed = order.map((id) => strandOf(effect, id)).find((s) => s.bypassed);
  if (bypassed) throw new Unfoldable(`${bypassed.name} is bypassed: use it again, or leave it out.`);
  const folder = new Folder(effect, inside);
  const text = folder.strand(root).replace(/^\((.*)\)$/, (whole, inner: string) => (balanced(inner) ? inner : whole));
  const formula: Strand = {
    ...{ id: last, name: root.name, op: FORMULA.id },
    ...(root.note === undefined ? {} : { note: root.note }),
    inputs: { ...folder.inputs, formula: { value: { text } } },
  };
  for (const dial of draft.dials) {
    const letter = folder.dials.get(dial.id);
    if (letter !== undefined) Object.assign(dial, { strand: last, input: letter });
  }
  // Dials of what nothing of it reads go with their strands.
  draft.dials = draft.dials.filter((d) => !others.has(d.strand));
  for (const section of draft.sections) if (others.has(section.first)) section.first = last;
  const heads = new Set<string>();
  draft.sections = draft.sections.filter((s) => !heads.has(s.first) && heads.add(s.first));
  draft.strands = draft.strands.flatMap((s) =>
    s.id === last ? [structuredClone(formula) as typeof s] : others.has(s.id) ? [] : [s],
  );
}

/** Whether every bracket that is opened is closed, and none before. */
function balanced(text: string): boolean {
  let depth = 0;
  for (const c of text) {
    depth += c === '(' ? 1 : c === ')' ? -1 : 0;
    if (depth < 0) return false;
  }
  return depth === 0;
}
