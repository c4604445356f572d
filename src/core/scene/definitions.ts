/**
 * Props that share one definition: what they are made of, painted with and wear is the same, and where one of them is
 * changed all are. Where they stand, how they are turned, their size and seed are each one's own.
 */
import { dropUnusedAssets, duplicateProp, propOf, type Vec3 } from './edits.js';
import type { Prop, Stage } from './stage.js';

/** What is the same for all of a definition. */
const COMMON = ['source', 'parts', 'paint', 'channels', 'surface'] as const;

/** The others that share a prop's definition. */
export const sharers = (stage: Pick<Stage, 'props'>, { id, definition }: Pick<Prop, 'id' | 'definition'>): Prop[] =>
  definition === undefined ? [] : stage.props.filter((p) => p.definition === definition && p.id !== id);

/** A copy that shares the definition of the first, at a place. */
export function shareProp(draft: Stage, { id, newId, place }: { id: string; newId: string; place: Vec3 }): void {
  const prop = propOf(draft, id);
  prop.definition ??= id;
  duplicateProp(draft, { id, newId, place });
  propOf(draft, newId).definition = prop.definition;
}

/** A prop is a thing of its own from now on; so is the last of those that shared with it. */
export function ownDefinition(draft: Stage, { id }: { id: string }): void {
  const prop = propOf(draft, id);
  const [other, ...more] = sharers(draft, prop);
  delete prop.definition;
  if (other && more.length === 0) delete other.definition;
}

/** What an edit has changed on one of a definition, it changes on all. @param before the stage before the edit */
export function keepAlike(before: Pick<Stage, 'props'>, draft: Stage): void {
  // Most stages have none; and what has only come to share is alike already.
  if (!before.props.some((p) => p.definition !== undefined)) return;
  let changed = false;
  const told = new Set<string>();
  for (const prop of draft.props) {
    const { definition } = prop;
    if (definition === undefined || told.has(definition)) continue;
    const was = before.props.find((p) => p.id === prop.id);
    // What has only come to share has what it shares.
    if (was?.definition !== definition) continue;
    const differs = COMMON.filter((key) => JSON.stringify(prop[key]) !== JSON.stringify(was[key]));
    if (differs.length === 0) continue;
    told.add(definition);
    changed = true;
    for (const other of sharers(draft, prop)) for (const key of differs) take(other, prop, key);
  }
  if (changed) dropUnusedAssets(draft);
}

function take(into: Prop, from: Prop, key: (typeof COMMON)[number]): void {
  const value = from[key];
  if (value === undefined) delete (into as Partial<Prop>)[key];
  else Object.assign(into, { [key]: JSON.parse(JSON.stringify(value)) as unknown });
}
