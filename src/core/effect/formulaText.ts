/**
 * Formulas as artists read and write them: with the names of strands. In the file a formula holds the letters of its
 * inputs, so that renaming a strand breaks nothing.
 */
import { FORMULA_FUNCTIONS, FORMULA_PLACES, checkFunctions } from '../operators/formula/lower.js';
import { FormulaError, namesIn, parseFormula } from '../operators/formula/parse.js';
import { findOperator } from '../operators/catalogue.js';
import { isLink, isWritten, strandsOf, type Effect, type Input, type Link, type Strand } from './schema.js';

const LETTERS = ['a', 'b', 'c', 'd', 'e', 'f', 'g', 'h'];

const formulaOf = (strand: Strand): string => {
  const given = strand.inputs?.formula;
  return given && !isLink(given) && isWritten(given.value) ? given.value.text : 'a';
};

/** A name as a word of a formula: `Rim tint` is rimTint. */
function wordOf(name: string): string {
  const parts = name.split(/[^A-Za-z0-9]+/).filter(Boolean);
  const word = parts.map((p, k) => (k === 0 ? p[0]!.toLowerCase() + p.slice(1) : p[0]!.toUpperCase() + p.slice(1))).join('');
  if (!word) return 'strand';
  if (/^\d/.test(word)) return `_${word}`;
  return LETTERS.includes(word) || word === 'pi' || Object.hasOwn(FORMULA_FUNCTIONS, word) ? `${word}_` : word;
}

/** The strands above one, by the words they go by; later ones of the same name get a number. */
export function wordsAbove(effect: Effect, id: string): Map<string, Strand> {
  const words = new Map<string, Strand>();
  for (const strand of strandsOf(effect)) {
    if (strand.id === id) break;
    const base = wordOf(strand.name);
    let word = base;
    for (let k = 2; words.has(word); k++) word = `${base}${k}`;
    words.set(word, strand);
  }
  return words;
}

/** A strand's further values, by the words they go by: `gusts.first`. */
const portsOf = ({ op }: Strand): string[] => (findOperator(op)?.outputs ?? []).slice(1).map((o) => o.id);

/** What a word stands for, whatever its case: a strand above, or one of its further values. */
class Readable {
  private readonly exact = new Map<string, Link>();
  private readonly any = new Map<string, Link>();

  constructor(words: ReadonlyMap<string, Strand>) {
    for (const [word, strand] of words) {
      this.put(word, { from: strand.id });
      // What it gives first has a name too: `tiles.line` is `tiles`.
      const first = findOperator(strand.op)?.outputs[0]?.id;
      if (first !== undefined) this.put(`${word}_${first}`, { from: strand.id });
      for (const port of portsOf(strand)) this.put(`${word}_${port}`, { from: strand.id, port });
    }
  }
  private put(word: string, link: Link): void {
    this.exact.set(word, link);
    if (!this.any.has(word.toLowerCase())) this.any.set(word.toLowerCase(), link);
  }

  get(word: string): Link | undefined {
    return this.exact.get(word) ?? this.any.get(word.toLowerCase());
  }
  /** The text with each further value as one word, of the same length: what is wrong with it stays where it is. */
  joined(text: string): string {
    return text.replace(/([A-Za-z_]\w*)\.([A-Za-z]\w*)/g, (whole, word: string, port: string) =>
      this.get(`${word}_${port}`) ? `${word}_${port}` : whole,
    );
  }
}
const keyOf = ({ from, port }: Link): string => `${from} ${port ?? ''}`;

/** Before the name of a place where a strand above is called like it: the strand goes first. */
const PLAIN = 'plain_';

/** The place that a word names, whatever its case. */
function placeCalled(word: string): string | undefined {
  const lower = word.toLowerCase();
  const bare = lower.startsWith(PLAIN) ? lower.slice(PLAIN.length) : lower;
  return Object.keys(FORMULA_PLACES).find((place) => place.toLowerCase() === bare);
}

function replaced(text: string, by: (name: string) => string): string {
  let out = '';
  let from = 0;
  for (const { name, at } of namesIn(text)) {
    out += text.slice(from, at) + by(name);
    from = at + name.length;
  }
  return out + text.slice(from);
}

/** The formula with the words of the strands it reads. */
export function shownFormula(effect: Effect, strand: Strand): string {
  const words = new Map([...wordsAbove(effect, strand.id)].map(([word, s]) => [s.id, word]));
  const taken = new Set(words.values());
  const text = formulaOf(strand);
  try {
    return replaced(text, (letter) => {
      const input = strand.inputs?.[letter];
      if (!isLink(input)) return Object.hasOwn(FORMULA_PLACES, letter) && taken.has(letter) ? PLAIN + letter : letter;
      const word = words.get(input.from);
      const more = [input.port, input.part].flatMap((part) => (part === undefined ? [] : `.${part}`)).join('');
      return word ? word + more : letter;
    });
  } catch {
    return text;
  }
}

export type WrittenFormula =
  | { readonly ok: true; readonly inputs: Record<string, Input | undefined> }
  | { readonly ok: false; readonly message: string; readonly at: number };

/**
 * What an artist typed, as the inputs a strand is to have: its text with letters, and what they are linked to. Letters
 * that hold numbers keep them while the formula names them.
 */
export function readFormula(effect: Effect, strand: Strand, written: string): WrittenFormula {
  const words = new Readable(wordsAbove(effect, strand.id));
  const typed = words.joined(written);
  const before = strand.inputs ?? {};
  try {
    checkFunctions(parseFormula(typed));
    const inputs: Record<string, Input | undefined> = {};
    const letterOf = new Map<string, string>();
    // A letter keeps the link it had, so that a formula that is edited keeps its dials.
    const had = new Map(
      LETTERS.flatMap((l) => {
        const link = before[l];
        return isLink(link) ? [[keyOf(link), l] as const] : [];
      }),
    );
    const found = namesIn(typed);
    const kept = new Set(found.map((f) => f.name).filter((n) => LETTERS.includes(n) && before[n] && !isLink(before[n])));
    const reserved = new Set(
      found.flatMap(({ name }) => {
        const link = words.get(name);
        return (link && had.get(keyOf(link))) ?? [];
      }),
    );
    const free = (): string | undefined =>
      LETTERS.find((l) => !kept.has(l) && !reserved.has(l) && !inputs[l] && ![...letterOf.values()].includes(l));
    for (const { name, at } of found) {
      if (kept.has(name)) {
        inputs[name] = before[name];
        continue;
      }
      if (name === 'pi' || letterOf.has(name)) continue;
      const source = words.get(name);
      const linked = isLink(before[name]) ? before[name] : undefined;
      const place = source || linked ? undefined : placeCalled(name);
      if (place !== undefined) {
        letterOf.set(name, place);
        continue;
      }
      if (!source && !linked && !LETTERS.includes(name))
        throw new FormulaError(`there is no strand called ${name} above this one`, at);
      const old = source && had.get(keyOf(source));
      const letter = !source ? name : old && !inputs[old] && !kept.has(old) ? old : free();
      if (letter === undefined) throw new FormulaError(`a formula reads at most ${LETTERS.length} strands`, at);
      letterOf.set(name, letter);
      inputs[letter] = source ?? linked ?? { value: 0 };
    }
    const text = replaced(typed, (name) => letterOf.get(name) ?? name);
    return { ok: true, inputs: { ...inputs, formula: { value: { text } } } };
  } catch (error) {
    if (!(error instanceof FormulaError)) throw error;
    return { ok: false, message: error.message, at: error.at };
  }
}

/** Gives a strand what was read. */
export function writeFormula(draft: Effect, { id, inputs }: { id: string; inputs: Record<string, Input | undefined> }): void {
  const strand = strandsOf(draft).find((s) => s.id === id)!;
  const given = Object.entries(inputs).filter(([, input]) => input !== undefined);
  if (given.length > 0) strand.inputs = Object.fromEntries(given);
  else delete strand.inputs;
}
