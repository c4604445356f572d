/** What lists show of a document, without the document. */
import { strandsOf, type Effect } from '../core/effect/schema.js';
import type { Stage } from '../core/scene/stage.js';
import { effectsOn } from '../core/scene/wearing.js';

export interface Card {
  readonly tags: readonly string[];
  readonly loop: number | null;
  readonly kind: string;
  readonly strands: readonly string[];
  /** The stage it stands on; '' for none. */
  readonly home: string;
  /** The effects that a stage's props wear. */
  readonly worn: readonly string[];
}
const BLANK: Card = { tags: [], loop: null, kind: 'surface', strands: [], home: '', worn: [] };

/** @returns as JSON; of a document that cannot be read, a card that says nothing */
export function cardOf(format: 'effect' | 'stage', document: string): string {
  try {
    const parsed = JSON.parse(document) as Effect | Stage;
    if (format === 'stage') return JSON.stringify({ worn: effectsOn(parsed as Stage) });
    const { tags, loop, kind, home } = parsed as Effect;
    return JSON.stringify({ tags, loop, kind, strands: strandsOf(parsed as Effect).map((s) => s.name), home: home?.stage ?? '' });
  } catch {
    return '{}';
  }
}

/** @param text of a card; one that is broken says nothing */
export function readCard(text: string): Card {
  try {
    return { ...BLANK, ...(JSON.parse(text) as Partial<Card>) };
  } catch {
    return BLANK;
  }
}
