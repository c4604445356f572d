/** Which effects the Library shows, and in which order. */
import type { EffectCard } from '../data/library.js';

export const SORTS = [
  { id: 'changed', name: 'Last changed' },
  { id: 'name', name: 'Name' },
  { id: 'made', name: 'Newest' },
  { id: 'loop', name: 'Shortest loop' },
] as const;
export type Sort = (typeof SORTS)[number]['id'];

export interface Wanted {
  /** Words that must all be found, each in the name, a tag or a strand's name. */
  readonly search: string;
  readonly tag: string | null;
  readonly sort: Sort;
  readonly archived: boolean;
}

const ORDER: Readonly<Record<Sort, (a: EffectCard, b: EffectCard) => number>> = {
  changed: (a, b) => b.updatedAt.localeCompare(a.updatedAt),
  name: (a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }),
  made: (a, b) => b.createdAt.localeCompare(a.createdAt),
  loop: (a, b) => (a.loop ?? Infinity) - (b.loop ?? Infinity),
};

export function sift(effects: readonly EffectCard[], { search, tag, sort, archived }: Wanted): EffectCard[] {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  return effects
    .filter((e) => e.archived === archived && (tag === null || e.tags.includes(tag)))
    .filter((e) => {
      const texts = [e.name, ...e.tags, ...e.strands].map((t) => t.toLowerCase());
      return words.every((w) => texts.some((t) => t.includes(w)));
    })
    .sort((a, b) => ORDER[sort](a, b) || a.id.localeCompare(b.id));
}

/** The tags of effects with how many bear each, the commonest first. */
export function tagsOf(effects: readonly EffectCard[]): { readonly tag: string; readonly count: number }[] {
  const counts = new Map<string, number>();
  for (const e of effects) for (const tag of e.tags) counts.set(tag, (counts.get(tag) ?? 0) + 1);
  return [...counts].map(([tag, count]) => ({ tag, count })).sort((a, b) => b.count - a.count || a.tag.localeCompare(b.tag));
}
