/** The links of a sheet, as a graph: what a strand reads, and all that hangs together with it. */
import { isLink, strandsOf, type Effect, type Strand } from './schema.js';

export interface Thread {
  readonly from: string;
  readonly to: string;
}

/** The strands that a strand reads, each once, in the order of its inputs. */
export const sourcesOf = (strand: Strand): string[] => [
  ...new Set(Object.values(strand.inputs ?? {}).flatMap((i) => (isLink(i) ? [i.from] : []))),
];

export const threadsOf = (effect: Effect): Thread[] =>
  strandsOf(effect).flatMap((s) => sourcesOf(s).map((from) => ({ from, to: s.id })));

/** Every strand that feeds this one, however far up, itself not. */
export const feedersOf = (threads: readonly Thread[], id: string): Set<string> =>
  walk(id, (at) => threads.filter((t) => t.to === at).map((t) => t.from));

/** Every strand that feeds this one, however far up, and every one it feeds. */
export const family = (threads: readonly Thread[], id: string): Set<string> =>
  new Set([...feedersOf(threads, id), ...walk(id, (at) => threads.filter((t) => t.from === at).map((t) => t.to))]);

function walk(id: string, next: (at: string) => string[]): Set<string> {
  const seen = new Set<string>();
  const pending = [id];
  while (pending.length > 0) for (const n of next(pending.pop()!)) if (!seen.has(n)) (seen.add(n), pending.push(n));
  return seen;
}
