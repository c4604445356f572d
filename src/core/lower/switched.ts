/** Options that cues hold: an operation made with every word that a cue goes between, of which one holds at a time. */
import type { Builder } from '../ir/builder.js';
import type { Node } from '../ir/types.js';

export type Results = Readonly<Record<string, Node | undefined>>;

export interface Switching {
  readonly b: Builder;
  /** The words that an option's cue goes between, each once; null for one that no cue has. */
  readonly words: (option: string) => readonly string[] | null;
  /** The place among them of the one that holds now. */
  readonly which: (option: string) => Node;
  readonly make: (options: Readonly<Record<string, string>>) => Results;
  /** Told of an option with whose words the kinds of the results differ. */
  readonly fail: (option: string) => Results;
}

/** @param names options that may have cues */
export function switched(how: Switching, names: readonly string[], options: Readonly<Record<string, string>>): Results {
  const at = names.findIndex((name) => how.words(name) !== null);
  if (at < 0) return how.make(options);
  const name = names[at]!;
  const ways = how.words(name)!.map((word) => switched(how, names.slice(at + 1), { ...options, [name]: word }));
  const which = how.which(name);
  const chosen: Record<string, Node | undefined> = {};
  for (const id of new Set(ways.flatMap((way) => Object.keys(way)))) {
    const [first, ...others] = ways.map((way) => way[id]);
    if (!first || others.some((node) => node?.type !== first.type)) return how.fail(name);
    const { b } = how;
    chosen[id] = others.reduce<Node>((node, way, k) => b.op('select', b.op('eq', which, k + 1), way!, node), first);
  }
  return chosen;
}
