/** Names for shader text: from an artist's words to identifiers that no compiler minds. */
import { RESERVED_WORDS } from './reserved.js';

/** Names that the programs themselves have. */
const OURS = (
  'main divide unit window k s surface finite displacement ' +
  'screenHere depthHere depthBehind depthUnder sceneBehind lensHere rayHere pointBehind nearestEdge unitChange tangentOf'
).split(' ');
const RESERVED: ReadonlySet<string> = new Set([...RESERVED_WORDS, ...OURS]);

/** Words that are a name already. */
const PLAIN = /^[a-z][A-Za-z0-9]*$/;

function joinedWords(words: string): string {
  const parts = words
    .normalize('NFKD')
    .replace(/[^A-Za-z0-9]+/g, ' ')
    .trim()
    .split(' ')
    .filter(Boolean);
  return parts.map((p, k) => (k === 0 ? p[0]!.toLowerCase() : p[0]!.toUpperCase()) + p.slice(1)).join('');
}

/** Letters of a name. */
const LONGEST = 48;

/** Hands out names, each once. */
export class Names {
  private readonly taken = new Map<string, number>();

  /** @param taken names that are numbered on from; @param functions those of the program's kernels, which no variable may hide */
  constructor(
    taken: Iterable<string> = [],
    private readonly functions: ReadonlySet<string> = new Set(),
  ) {
    for (const name of taken) this.taken.set(name, 1);
  }

  /** @param words what the artist called it; @param fallback used when nothing of it survives */
  give(words: string, fallback: string): string {
    const joined = PLAIN.test(words) ? words : joinedWords(words);
    let base = (/^[A-Za-z]/.test(joined) ? joined : fallback).slice(0, LONGEST);
    if (RESERVED.has(base) || this.functions.has(base) || /^gl[A-Z_]/.test(base)) base += 'Value';
    const used = this.taken.get(base) ?? 0;
    this.taken.set(base, used + 1);
    if (used === 0) return base;
    // A number makes room for itself: names that share all that is left of them are still told apart.
    for (let n = used + 1; ; n++) {
      const numbered = `${base.slice(0, LONGEST - String(n).length)}${n}`;
      if (this.taken.has(numbered)) continue;
      this.taken.set(base, n);
      this.taken.set(numbered, 1);
      return numbered;
    }
  }
}
