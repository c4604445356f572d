/** Finding an operator by its name, by words people use for it, or by what is wanted of it. */
import { OPERATORS } from './catalogue.js';
import type { OperatorRecord } from './record.js';

/** Words that say nothing of what is wanted. */
const EMPTY = new Set(
  'a an and as at be by do for from give how i in into is it its me my of on one or so some something than that the them this to up want was what when where with you'.split(
    ' ',
  ),
);

/** A word without what only grammar has put at its end: `edges`, `moving`, `moved`. */
function stemOf(word: string): string {
  if (word.length > 5 && word.endsWith('ing')) return word.slice(0, -3);
  if (word.length > 4 && word.endsWith('ed')) return word.slice(0, -2);
  if (word.length > 4 && word.endsWith('es')) return word.slice(0, -2);
  if (word.length > 3 && (word.endsWith('s') || word.endsWith('e') || word.endsWith('y'))) return word.slice(0, -1);
  return word;
}

const wordsOf = (text: string): string[] => text.toLowerCase().match(/[a-z0-9]+/g) ?? [];

/** What is said of an operator, and how much a word of it counts. */
interface Said {
  readonly stems: ReadonlySet<string>;
  readonly weight: number;
}
const SAID = new Map<string, readonly Said[]>(
  OPERATORS.map((o) => {
    const said = (texts: readonly string[], weight: number): Said => ({
      stems: new Set(texts.flatMap(wordsOf).map(stemOf)),
      weight,
    });
    return [
      o.id,
      [
        said([o.label, o.id], 6),
        said(o.keywords ?? [], 5),
        said([o.summary], 3),
        said([o.family], 1.5),
        said([...Object.keys(o.inputs), ...Object.values(o.options).flatMap((x) => x.values)], 1),
        said(
          Object.values(o.inputs).map((i) => i.note),
          0.8,
        ),
      ],
    ];
  }),
);

/** In how many operators a stem is found at all: what is said of few tells more. */
const COMMON = new Map<string, number>();
for (const all of SAID.values())
  for (const stem of new Set(all.flatMap((s) => [...s.stems]))) COMMON.set(stem, (COMMON.get(stem) ?? 0) + 1);

/** How well an operator answers some words; 0 where it answers none. */
function answers(o: OperatorRecord, stems: readonly string[]): number {
  let score = 0;
  let met = 0;
  for (const stem of stems) {
    let best = 0;
    for (const { stems: said, weight } of SAID.get(o.id)!) {
      if (said.has(stem)) best = Math.max(best, weight);
      else if (stem.length > 3 && [...said].some((s) => s.startsWith(stem) || (s.length > 3 && stem.startsWith(s))))
        best = Math.max(best, weight * 0.6);
    }
    if (best > 0) met++;
    score += best / (1 + Math.log2(1 + (COMMON.get(stem) ?? 0) / 4));
  }
  // Nothing of half the words is no answer to the whole.
  return met * 2 < stems.length ? 0 : score * (met / stems.length);
}

/** Best first: the name itself, a name that begins so, a name that contains it, a keyword, a family, the sentence. */
function byLetters(words: string): OperatorRecord[] {
  const score = (o: OperatorRecord) => {
    const label = o.label.toLowerCase();
    if (label === words || o.id.toLowerCase() === words) return 0;
    if (label.startsWith(words)) return 1;
    if (label.includes(words)) return 2;
    if (o.keywords?.some((k) => k.startsWith(words))) return 3;
    if (o.family.toLowerCase().startsWith(words)) return 4;
    return words.length > 2 && ` ${o.summary.toLowerCase()}`.includes(` ${words}`) ? 5 : 9;
  };
  return OPERATORS.map((o, k) => ({ o, k, s: score(o) }))
    .filter(({ s }) => s < 9)
    .sort((a, b) => a.s - b.s || a.k - b.k)
    .map(({ o }) => o);
}

/**
 * Operators for what was typed, best first: by letters where it is one word or a name; by all its words where it says
 * what is wanted, as in "gradient along the height". All of them where nothing was typed.
 */
export function findOperators(typed: string): OperatorRecord[] {
  const words = typed.trim().toLowerCase();
  if (words === '') return [...OPERATORS];
  const letters = byLetters(words);
  const said = wordsOf(words).filter((w) => !EMPTY.has(w));
  if (said.length === 0 || (said.length === 1 && letters.length > 0)) return letters;
  const stems = said.map(stemOf);
  const scored = OPERATORS.map((o, k) => ({ o, k, s: answers(o, stems) }))
    .filter(({ s }) => s > 0)
    .sort((a, b) => b.s - a.s || a.k - b.k);
  const byWords = scored.filter(({ s }) => s >= scored[0]!.s * 0.3).map(({ o }) => o);
  // What is called so goes before what is about it.
  const named = letters.filter((o) => o.label.toLowerCase().includes(words));
  return [...new Set([...named, ...byWords, ...letters])];
}

/** The operator that goes by exactly this name; undefined where none does. */
export function operatorCalled(name: string): OperatorRecord | undefined {
  const words = name.trim().toLowerCase();
  return OPERATORS.find((o) => o.label.toLowerCase() === words || o.id.toLowerCase() === words);
}
