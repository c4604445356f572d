/**
 * A strand as it may be typed in one line: `max Rim cut, Line cut`, `noise scale 8`, `Glow = multiply Rim, 24`,
 * `= 1 - Rim`. What is no such line is what is looked for: "edge of a mesh".
 */
import { calculate } from '../base/arithmetic.js';
import { listed } from '../base/listed.js';
import { fromHex } from '../base/srgb.js';
import { recordOf, recordOfMotif } from './recordOf.js';
import { FORMULA } from '../operators/catalogue.js';
import { findOperators, operatorCalled } from '../operators/find.js';
import { inputFor } from '../operators/meaning.js';
import { isConstant, takesAs, takesNumbers, type InputRecord, type OperatorRecord } from '../operators/record.js';
import { firstInputFor, givenBy, type KindOf } from './feeding.js';
import { readFormula } from './formulaText.js';
import { MOTIF } from './motifs.js';
import { isLink, type Effect, type Input, type Link, type Motif, type Strand, type Value } from './schema.js';

/** Where the new strand goes, and what is known of those above. */
export interface Above {
  readonly effect: Effect;
  /** From top to bottom, to the one that it goes under. */
  readonly strands: readonly Strand[];
  readonly kindOf: KindOf;
}

/** What a new strand is given. */
export interface Arguments {
  readonly inputs: Readonly<Record<string, Input>>;
  readonly options: Readonly<Record<string, string>>;
}
export type ReadArguments = ({ readonly ok: true } & Arguments) | { readonly ok: false; readonly why: string };

export interface TypedLine {
  /** The name that the strand is to have; null where none was typed. */
  readonly name: string | null;
  /** What operators are looked for by. */
  readonly words: string;
  /** What stands after the operation; empty where nothing does. */
  readonly rest: string;
}

/** Where a line may fall into an operation and what follows it, the longest operation first. */
function* divisions(text: string): Iterable<{ words: string; rest: string }> {
  const ends = [...text.matchAll(/[\s,]+/g)].map((m) => [m.index, m.index + m[0].length] as const);
  for (const [end, next] of ends.reverse()) yield { words: text.slice(0, end), rest: text.slice(next) };
}

/** What was typed, taken apart. An operation is followed by something only where that can be read. */
export function readLine(above: Above, typed: string): TypedLine {
  const text = typed.trim();
  const [, before, after] = /^([^=#]+?)\s*=\s*(.+)$/s.exec(text) ?? [];
  const bare = { name: null, words: text, rest: '' };
  if (operatorCalled(text)) return bare;
  const lines = [{ name: null, line: text }, ...(before === undefined ? [] : [{ name: before, line: after! }])];
  // An operation in full goes before what might be one.
  for (const inFull of [true, false])
    for (const { name, line } of lines) {
      if (name !== null && inFull && operatorCalled(line)) return { name, words: line, rest: '' };
      const found = operation(above, line, inFull);
      if (found) return { name, ...found };
    }
  const formula =
    /^=\s*(.+)$/s.exec(text)?.[1] ??
    (before !== undefined && (/[-+*/(]/.test(after!) || isPart(above, after!)) ? after : undefined);
  if (formula !== undefined) return { name: before ?? null, words: FORMULA.id, rest: formula };
  for (const { name, line } of lines) {
    const wrong = numbersAfter(line);
    if (wrong) return { name, ...wrong };
  }
  if (before !== undefined && findOperators(after!).length > 0) return { name: before, words: after!, rest: '' };
  return bare;
}

/** A use of a motif, as it may be typed: `Current set`, `Another = Current set heading -52, Time Lagging time`. */
export interface TypedUse {
  readonly motif: Motif;
  readonly name: string | null;
  /** What its inputs are given, by their places; why that cannot be. */
  readonly given: ReadArguments;
}

/** What was typed as a use of one of these motifs, by its whole name; null where an operation is meant, or something is looked for. */
export function readUse(above: Above, motifs: readonly Motif[], typed: string): TypedUse | null {
  const text = typed.trim();
  const [, before, after] = /^([^=#]+?)\s*=\s*(.+)$/s.exec(text) ?? [];
  const lines = [{ name: null, line: text }, ...(before === undefined ? [] : [{ name: before, line: after! }])];
  // The longest name goes first: one may begin with another.
  const longest = [...motifs].sort((p, q) => q.name.length - p.name.length);
  for (const { name, line } of lines) {
    const isCalled = ({ name: own }: Motif) =>
      line.toLowerCase().startsWith(own.toLowerCase()) && /^([\s,]|$)/.test(line.slice(own.length));
    const motif = longest.find(isCalled);
    if (!motif) continue;
    const rest = line.slice(motif.name.length).trim();
    // An operation that is called the same, or more at length, is meant where something is given to it.
    if (rest !== '' && [...divisions(line)].some(({ words }) => words.length >= motif.name.length && operatorCalled(words)))
      return null;
    const given = readArguments(above, recordOfMotif(motif), rest, null);
    if (given.ok || NUMBERED.test(rest) || rest.includes(',')) return { motif, name, given };
  }
  return null;
}

/** Whether it is a part of a strand above, and nothing else: `Level = place.xz`. */
const isPart = (above: Above, text: string): boolean =>
  /^\w+\.\w+$/.test(text) && !operatorCalled(text) && readArguments(above, FORMULA, text).ok;

/** Whether an operation's words end in a strand of the sheet: `mul Intensity` is a product of what is called so. */
const endsInStrand = (above: Above, words: string): boolean =>
  [...words.matchAll(/\s+/g)].some((gap) => linkCalled(above, words.slice(gap.index + gap[0].length)) !== null);

/** A number or a colour among words: it is given to an operation, and calls none. */
const NUMBERED = /(^|\s)([-+−]?\.?\d|#)/;

/** An operation by its name with numbers after it that it cannot take: they are not looked for, it says what is wrong with them. */
const numbersAfter = (line: string): Pick<TypedLine, 'words' | 'rest'> | undefined =>
  [...divisions(line)].find(({ words, rest }) => operatorCalled(words) && !rest.startsWith('=') && NUMBERED.test(rest));

function operation(above: Above, line: string, inFull: boolean): Pick<TypedLine, 'words' | 'rest'> | null {
  const all = [...divisions(line)].filter(({ words }) => !/[=*/+()]/.test(words) && (inFull || !NUMBERED.test(words)));
  const plain = inFull ? all : all.filter(({ words }) => !endsInStrand(above, words));
  for (const { words, rest } of [...plain, ...all]) {
    const operator = inFull ? operatorCalled(words) : findOperators(words)[0];
    // A formula says itself what is wrong with it.
    if (operator && rest !== '' && ((inFull && operator === FORMULA) || readArguments(above, operator, rest).ok))
      return { words, rest };
  }
  return null;
}

/** `Cells`, `Cells border`, `Cells.border`, `Position.xz`. */
function linkCalled({ effect, strands }: Above, text: string): Link | null {
  const lower = text.toLowerCase();
  // The nearest goes first where two are called alike.
  for (const { id, name } of [...strands].reverse()) if (name.toLowerCase() === lower) return { from: id };
  for (const strand of [...strands].reverse()) {
    const name = strand.name.toLowerCase();
    if (!lower.startsWith(name) || !/^[.\s]/.test(lower.slice(name.length))) continue;
    const word = lower.slice(name.length + 1).trim();
    const port = recordOf(effect, strand).outputs.find((o) => (o.label ?? o.id).toLowerCase() === word)?.id;
    if (port !== undefined) return { from: strand.id, port };
    if (/^([xyzw]{1,4}|[rgba]{1,4})$/.test(word)) return { from: strand.id, part: word };
  }
  return null;
}

/** Strands one after another, with nothing but spaces between: `Rim cut Line cut`. @returns null where it is not only that */
function namesIn(above: Above, text: string): string[] | null {
  const gaps = [...text.matchAll(/\s+/g)].reverse();
  for (const gap of gaps) {
    const [first, rest] = [text.slice(0, gap.index), text.slice(gap.index + gap[0].length)];
    if (!linkCalled(above, first)) continue;
    if (linkCalled(above, rest)) return [first, rest];
    const more = namesIn(above, rest);
    if (more) return [first, ...more];
  }
  return null;
}

const NUMBER = /^[-+−]?(\d+\.?\d*|\.\d+)$/;

/** A number, several with spaces between, or a colour: `2*pi`, `0 1 -1`, `#f84 x 20`. */
function valueOf(text: string): Value | null {
  const [, hex, factor] = /^(#[0-9a-f]+)(?:\s*[x×*]\s*(.+))?$/i.exec(text) ?? [];
  if (hex !== undefined) {
    const rgb = fromHex(hex);
    const intensity = factor === undefined ? 1 : calculate(factor);
    return rgb && intensity !== null ? { rgb, intensity, unit: 'factor' } : null;
  }
  const several = text.split(/\s+/);
  if (several.length > 1 && several.length <= 4 && several.every((n) => NUMBER.test(n)))
    return several.map((n) => calculate(n)!) as Value;
  return calculate(text);
}

/** Whether an input may hold a value of its own like this. */
function holds(record: InputRecord, value: Value): boolean {
  if (typeof value === 'number')
    return record.literal !== 'colour' && record.literal !== 'vector' && takesAs(record, '1') !== 'no';
  if (Array.isArray(value)) return takesAs(record, String(value.length) as '2' | '3' | '4') === 'as it is';
  return record.literal !== 'number' && takesAs(record, 'rgb') === 'as it is';
}

/** The input by which a strand reads the one that it goes under. */
function readsAbove({ effect, strands, kindOf }: Above, operator: OperatorRecord): string | null {
  const last = strands.at(-1);
  return last ? firstInputFor(effect, operator.id, last.id, kindOf) : null;
}

/**
 * Reads what stands after an operation, for one operator. What has no name goes where it makes sense, in order.
 * @param worksOn the input that is kept for the strand above, unless strands are named
 */
export function readArguments(
  above: Above,
  operator: OperatorRecord,
  rest: string,
  worksOn: string | null = readsAbove(above, operator),
): ReadArguments {
  if (operator === FORMULA) return asFormula(above, rest);
  const parts = listed(rest).filter((p) => p !== '');
  const read = new Reading(above, operator, worksOn).read(parts);
  // What the strand above would be read by is given, where so many values are.
  return read.ok || worksOn === null ? read : new Reading(above, operator, null).read(parts);
}

function asFormula({ effect, strands }: Above, text: string): ReadArguments {
  const stand = { id: '', name: '', op: FORMULA.id };
  const read = readFormula({ ...effect, strands: [...strands, stand] as Effect['strands'] }, stand, text);
  if (!read.ok) return { ok: false, why: `Character ${read.at + 1}: ${read.message}` };
  const inputs = Object.entries(read.inputs).filter((entry): entry is [string, Input] => entry[1] !== undefined);
  return { ok: true, inputs: Object.fromEntries(inputs), options: {} };
}

/** Operands, of which the one that is written first comes first. */
const OPERANDS = ['a', 'b'] as const;

class Reading {
  private readonly inputs: Record<string, Input> = {};
  private readonly options: Record<string, string> = {};
  /** Values without a name, in the order written: they are put when it is known what strands give. */
  private readonly values: { readonly value: Value; readonly text: string; readonly at: number }[] = [];
  /** Which part without a name an input was given by. */
  private readonly given = new Map<string, number>();
  /** The part that is being read. */
  private at = 0;

  constructor(
    private readonly above: Above,
    private readonly operator: OperatorRecord,
    private readonly worksOn: string | null,
  ) {}

  read(parts: readonly string[]): ReadArguments {
    for (const part of parts) {
      this.at++;
      const why = this.take(part);
      if (why !== null) return { ok: false, why };
    }
    const why = this.put();
    if (why !== null) return { ok: false, why };
    this.inWrittenOrder();
    return { ok: true, inputs: this.inputs, options: this.options };
  }

  /** @returns why it cannot be, in a sentence; null where it was taken */
  private take(part: string): string | null {
    // A name that is there goes before what might be the name of an input with something after it.
    const link = linkCalled(this.above, part);
    if (link) return this.link(link, part);
    const why = this.named(part);
    if (why !== undefined) return why;
    const value = valueOf(part);
    if (value !== null) {
      this.values.push({ value, text: part, at: this.at });
      // Nothing is known of what a motif's inputs mean: they are given in order.
      return this.operator.id === MOTIF ? this.put() : null;
    }
    for (const [option, { values }] of Object.entries(this.operator.options))
      if (values.includes(part) && this.options[option] === undefined) {
        this.options[option] = part;
        return null;
      }
    if (this.trigger(part)) return null;
    const names = namesIn(this.above, part);
    if (names) return names.map((name) => (this.at++, this.take(name))).find((no) => no !== null) ?? null;
    return `There is no strand called “${part}” above.`;
  }

  /** The event that it hears, by its name. */
  private trigger(name: string): boolean {
    const heard = Object.entries(this.operator.literals).find(([, { form }]) => form === 'trigger')?.[0];
    const trigger = this.above.effect.triggers.find((t) => t.name.toLowerCase() === name.toLowerCase());
    if (heard === undefined || !trigger || this.inputs[heard]) return false;
    this.inputs[heard] = { value: { text: trigger.id } };
    return true;
  }

  /** `scale 8`, `mode = screen`, `Lagging time Time`. @returns undefined where it is nothing of that name */
  private named(part: string): string | null | undefined {
    const { inputs, options } = this.operator;
    const follows = (name: string): string | undefined => {
      if (!part.toLowerCase().startsWith(name.toLowerCase())) return undefined;
      return /^\s*(?:[=:]\s*|\s)(\S.*)$/s.exec(part.slice(name.length))?.[1];
    };
    for (const [id, { values }] of Object.entries(options)) {
      const text = follows(id);
      if (text === undefined) continue;
      const value = values.find((v) => v.toLowerCase() === text.toLowerCase());
      if (value === undefined) return `${id} is one of ${values.join(', ')}.`;
      this.options[id] = value;
      return null;
    }
    // By its name, or by what it is called on screen: the longest, of which another may be the beginning.
    const found = Object.entries(inputs)
      .flatMap(([id, record]) => [id, ...(record.label ? [record.label] : [])].map((name) => ({ id, record, name })))
      .sort((p, q) => q.name.length - p.name.length)
      .find(({ name }) => follows(name) !== undefined);
    if (!found) return undefined;
    const text = follows(found.name)!;
    const link = linkCalled(this.above, text);
    const value = link ? null : valueOf(text);
    if (!link && value === null) return `“${text}” is neither a strand above nor a value.`;
    const fits = link ? this.takes(found.record, link) : holds(found.record, value!);
    if (!fits) return `The ${this.operator.label} ${found.record.label ?? found.id} does not take ${text}.`;
    this.inputs[found.id] = link ?? { value: value! };
    return null;
  }

  private takes(record: InputRecord, link: Link): boolean {
    const kind = this.above.kindOf(link);
    return kind === undefined || takesAs(record, kind) !== 'no';
  }

  private link(link: Link, text: string): string | null {
    const given = givenBy(this.above.effect, link, this.above.kindOf);
    const taken = new Set(Object.keys(this.inputs));
    // Whoever names it means it: what takes it, takes it.
    const free = Object.entries(this.operator.inputs).filter(
      ([name, record]) => !taken.has(name) && !isConstant(record, this.operator) && this.takes(record, link),
    );
    const input =
      (given && inputFor(this.operator, given, taken)) ?? (free.find(([, record]) => takesNumbers(record)) ?? free[0])?.[0];
    if (input === undefined) return `The ${this.operator.label} has no input left that takes ${text}.`;
    this.inputs[input] = link;
    this.given.set(input, this.at);
    return null;
  }

  /** Puts values where they may be held, in the order written: none goes before one that was written before it. */
  private put(): string | null {
    const order = Object.keys(this.operator.inputs);
    let last = -1;
    /** The next input that may hold it; `exact` where that is as wide as the value. */
    const next = (value: Value, exact: boolean): string | undefined =>
      order.find((name, k) => {
        const record = this.operator.inputs[name]!;
        const free = k > last && this.inputs[name] === undefined && !this.isKept(name) && takesNumbers(record);
        return free && holds(record, value) && !(exact && record.kind === 'any');
      });
    const give = (input: string, value: Value, at: number) => {
      this.inputs[input] = { value };
      this.given.set(input, at);
      last = order.indexOf(input);
    };
    for (const { value, text, at } of this.values.splice(0)) {
      const several = Array.isArray(value);
      const input = next(value, several);
      if (input !== undefined) {
        give(input, value, at);
        continue;
      }
      // Numbers one after another are as many inputs, where none is as wide as they are.
      for (const one of several ? (value as readonly number[]) : [value]) {
        const own = next(one, false);
        if (own === undefined)
          return `The ${this.operator.label} has no input left that takes ${several ? `the ${one} of ${text}` : text}.`;
        give(own, one, at);
      }
    }
    return null;
  }

  /** `subtract 3, Rim` is 3 less what Rim is: what was written first is the first of the two, where either may be either. */
  private inWrittenOrder(): void {
    const [a, b] = OPERANDS;
    const [first, second] = [this.given.get(a), this.given.get(b)];
    if (first === undefined || second === undefined || first <= second) return;
    const [x, y] = [this.inputs[a]!, this.inputs[b]!];
    const fits = (name: string, input: Input) => {
      const record = this.operator.inputs[name]!;
      return isLink(input) ? this.takes(record, input) : holds(record, input.value);
    };
    if (!fits(a, y) || !fits(b, x)) return;
    this.inputs[a] = y;
    this.inputs[b] = x;
  }

  /** What the operation works on is for the strand above, where none is named. */
  private isKept(name: string): boolean {
    return name === this.worksOn && !Object.values(this.inputs).some(isLink);
  }
}
