/**
 * What no document may hold, whatever its format: looked at before anything walks it. Names that every object answers to
 * are no names of a document's, so that looking one up finds what the document says or nothing.
 */

/** Levels of lists and objects in one another; effects and stages have up to nine of their own. */
export const MAX_DEPTH = 32;

/** `constructor`, `__proto__`, `toString` and their like. */
// Here the names of every object are what is asked for.
// eslint-disable-next-line no-restricted-syntax
export const isReserved = (name: string): boolean => name in Object.prototype;

/** What a record has of its own under a name that a document gave; nothing of what every object has. */
export const own = <T>(record: { readonly [name: string]: T } | undefined, name: string): T | undefined =>
  record !== undefined && Object.hasOwn(record, name) ? record[name] : undefined;

/** A NUL, or half of a pair of surrogates: a text that cannot be stored and read back as it was. */
const broken = (text: string): boolean => /\0|\p{Surrogate}/u.test(text);

const shown = (text: string): string => JSON.stringify(text.slice(0, 40));

/** Walked without recursion: however deep it is, the answer comes. @returns what is wrong with it, as a sentence, or null */
export function whatIsUnwholesome(parsed: unknown): string | null {
  const rest: { value: unknown; depth: number }[] = [{ value: parsed, depth: 0 }];
  for (let next = rest.pop(); next; next = rest.pop()) {
    const { value, depth } = next;
    if (typeof value === 'string' && broken(value)) return `The text ${shown(value)} holds a character that is none.`;
    if (typeof value !== 'object' || value === null) continue;
    if (depth >= MAX_DEPTH) return `Its lists and objects stand in one another deeper than ${MAX_DEPTH} levels.`;
    if (Array.isArray(value)) for (const item of value as unknown[]) rest.push({ value: item, depth: depth + 1 });
    else
      for (const [name, item] of Object.entries(value)) {
        if (isReserved(name)) return `A field is called ${shown(name)}, which no field may be.`;
        if (broken(name)) return `The name ${shown(name)} holds a character that is none.`;
        rest.push({ value: item, depth: depth + 1 });
      }
  }
  return null;
}
