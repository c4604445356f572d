/**
 * Runs of strands: several that are copied, pasted, moved, deleted or bypassed together. Copied, a run is a text that any
 * sheet can take: links among its strands are kept, those to strands outside it where such a strand stands above.
 */
import { findOperator } from '../operators/catalogue.js';
import { deleteStrand, dropInput, freshDialId, freshId, freshName, moveStrand, strandOf } from './edits.js';
import { carriedBy, renamed, takeCarried, type Carried } from './carried.js';
import { readEffect } from './read.js';
import { emptyEffect, isLink, strandsOf, type Dial, type Effect, type Input, type Strand } from './schema.js';

type Link = Extract<Input, { from: string }>;

/** A link to a strand outside the run, and what that strand is. */
export interface OuterLink {
  readonly strand: string;
  readonly input: string;
  readonly link: Link;
  readonly name: string;
  readonly op: string;
}

/** What is on the clipboard. */
export interface Run extends Carried {
  readonly format: 'wispen-strands';
  readonly version: 1;
  /** In the order of their sheet, with the links among them. */
  readonly strands: readonly Strand[];
  readonly outer: readonly OuterLink[];
  readonly dials: readonly Dial[];
}

/** In the order of the sheet, each once; those that are not there are left out. */
export function inOrder(effect: Effect, ids: readonly string[]): string[] {
  const wanted = new Set(ids);
  return strandsOf(effect).flatMap((s) => (wanted.has(s.id) ? [s.id] : []));
}

/** @param ids of the strands, in any order */
export function copyRun(effect: Effect, ids: readonly string[]): Run {
  const inside = new Set(ids);
  const outer: OuterLink[] = [];
  const strands = inOrder(effect, ids).map((id) => {
    const strand = structuredClone(strandOf(effect, id));
    for (const [input, value] of Object.entries(strand.inputs ?? {})) {
      if (!isLink(value) || inside.has(value.from)) continue;
      const { name, op } = strandOf(effect, value.from);
      outer.push({ strand: id, input, link: value, name, op });
      dropInput(strand, input);
    }
    return strand;
  });
  return {
    ...{ format: 'wispen-strands', version: 1, strands, outer },
    dials: effect.dials.filter((d) => inside.has(d.strand)).map((d) => structuredClone(d)),
    ...carriedBy(effect, strands),
  };
}

export const writeRun = (run: Run): string => JSON.stringify(run, null, 2);

export type RunRead = { readonly ok: true; readonly run: Run } | { readonly ok: false; readonly why: string };

/** Reads a text as a run: by the rules that a whole effect is read by. @returns a sentence of what is wrong with it */
export function readRun(text: string): RunRead {
  const no = (why: string): RunRead => ({ ok: false, why });
  let given: Partial<Record<keyof Run, unknown>>;
  try {
    given = JSON.parse(text) as typeof given;
  } catch {
    return no('What is on the clipboard is not strands.');
  }
  if (given?.format !== 'wispen-strands') return no('What is on the clipboard is not strands.');
  if (given.version !== 1) return no('These strands are of a newer version of Wispen.');
  const empty = emptyEffect('0190a000-0000-7000-8000-000000000000', 'Strands');
  const { strands, dials = [], assets = {}, shared = [], triggers = [], motifs = [], outer = [] } = given;
  const read = readEffect({ ...empty, strands, dials, assets, shared, triggers, motifs });
  if (!read.ok) return no(`The strands cannot be pasted. ${read.problems[0]!.message}`);
  const links = outersOf(outer, read.effect);
  if (!links) return no('The strands cannot be pasted: what they read outside is written wrongly.');
  const { strands: known, ...more } = read.effect;
  return {
    ok: true,
    run: {
      ...{ format: 'wispen-strands', version: 1, outer: links, strands: known as Strand[] },
      ...{ dials: more.dials, assets: more.assets, shared: more.shared, triggers: more.triggers, motifs: more.motifs },
    },
  };
}

function outersOf(given: unknown, effect: Effect): OuterLink[] | null {
  if (!Array.isArray(given)) return null;
  const ids = new Set(strandsOf(effect).map((s) => s.id));
  for (const one of given as Partial<OuterLink>[]) {
    const { strand, input, name, op, link } = one ?? {};
    const texts = [strand, input, name, op, link?.from].every((t) => typeof t === 'string');
    const parts = [link?.port, link?.part].every((t) => t === undefined || typeof t === 'string');
    if (!texts || !parts || !ids.has(strand!)) return null;
    const operator = findOperator(strandOf(effect, strand!).op)!;
    if (!Object.hasOwn(operator.inputs, input!) && !/^\w+\.\d+\.\w+$/.test(input!)) return null;
  }
  return given as OuterLink[];
}

/** A strand above a place that a link from outside can go on reading: the same one, or one of its name and operation. */
function sourceOf(above: readonly Strand[], { link, name, op }: OuterLink): Link | null {
  const found = above.find((s) => s.id === link.from && s.op === op) ?? above.findLast((s) => s.name === name && s.op === op);
  return found ? { ...link, from: found.id } : null;
}

/**
 * Puts a run under a strand, with ids and names of its own, and its dials.
 * @param after the strand it goes under; null puts it first
 * @returns the new ids, and how many links to the outside found nothing to read
 */
export function pasteRun(draft: Effect, { run, after }: { run: Run; after: string | null }): { ids: string[]; lost: number } {
  const strands = strandsOf(draft);
  const first = after === null ? 0 : strands.findIndex((s) => s.id === after) + 1;
  const above = strands.slice(0, first);
  // What is there stays as it is: the uses of a motif that are pasted are of the same one.
  const names = takeCarried(draft, run);
  const ids = new Map<string, string>();
  run.strands.forEach((strand, k) => {
    const id = freshId(draft, strand.op);
    ids.set(strand.id, id);
    const copy: Strand = { ...structuredClone(strand), id, name: freshName(draft, strand.name) };
    for (const [name, input] of Object.entries(copy.inputs ?? {})) {
      if (isLink(input)) copy.inputs![name] = { ...input, from: ids.get(input.from)! };
      else if (input) copy.inputs![name] = renamed(strand.op, name, input, names);
    }
    strands.splice(first + k, 0, copy);
  });
  let lost = 0;
  for (const link of run.outer) {
    const source = sourceOf(above, link);
    if (source) (strandOf(draft, ids.get(link.strand)!).inputs ??= {})[link.input] = source;
    else lost++;
  }
  for (const dial of run.dials) {
    const id = draft.dials.some((d) => d.id === dial.id) ? freshDialId(draft) : dial.id;
    const label = !dial.label ? {} : { label: freshLabel(draft, dial.label) };
    draft.dials.push({ ...structuredClone(dial), ...label, id, strand: ids.get(dial.strand)! });
  }
  return { ids: [...ids.values()], lost };
}

/** "Hue", "Hue 2", ...: two dials of one name could not be told apart. */
function freshLabel(draft: Effect, label: string): string {
  const taken = new Set(draft.dials.map((d) => d.label));
  if (!taken.has(label)) return label;
  // A name has at most 80 characters.
  const plain = label.replace(/ \d+$/, '').slice(0, 75);
  for (let k = 2; ; k++) if (!taken.has(`${plain} ${k}`)) return `${plain} ${k}`;
}

export function deleteRun(draft: Effect, { ids }: { ids: readonly string[] }): void {
  // From below, so that what a strand lets through is still there.
  for (const id of inOrder(draft, ids).reverse()) deleteStrand(draft, { id });
}

/** All of them, or, where all are bypassed already, none. */
export function bypassRun(draft: Effect, { ids }: { ids: readonly string[] }): void {
  const strands = ids.map((id) => strandOf(draft, id));
  const all = strands.every((s) => s.bypassed);
  for (const s of strands)
    if (all) delete s.bypassed;
    else s.bypassed = true;
}

/** A section of these strands: what comes after them stays in the section that it was in. */
export function sectionRun(draft: Effect, { ids, title }: { ids: readonly string[]; title: string }): void {
  const order = strandsOf(draft).map((s) => s.id);
  const [first] = inOrder(draft, ids);
  if (first === undefined) return;
  let end = order.indexOf(first);
  while (end < order.length && ids.includes(order[end]!)) end++;
  const heads = new Map(draft.sections.map((s) => [s.first, s]));
  const before = order
    .slice(0, end)
    .reverse()
    .map((id) => heads.get(id))
    .find((s) => s !== undefined && s.first !== first);
  const next = order[end];
  draft.sections = draft.sections.filter((s) => s.first === first || !ids.includes(s.first));
  if (next !== undefined && before && !heads.has(next)) draft.sections.push({ ...before, first: next });
  const there = draft.sections.find((s) => s.first === first);
  if (there) there.title = title;
  else draft.sections.push({ title, first });
}

/** Why a run cannot go that way: a strand outside it is read by it, or reads it. */
export interface Hindrance {
  /** Of the run. */
  readonly strand: string;
  /** Outside it. */
  readonly other: string;
}

/** @param rows up where below 0 @returns null where nothing hinders it; the sheet's ends hinder nobody by name */
export function hindrance(effect: Effect, ids: readonly string[], rows: -1 | 1): Hindrance | null {
  const strands = strandsOf(effect);
  const inside = new Set(ids);
  const reads = (a: Strand, b: Strand) => Object.values(a.inputs ?? {}).some((i) => isLink(i) && i.from === b.id);
  for (const [k, other] of strands.entries()) {
    // A strand outside that stands where the run goes: all that hangs together with its neighbour passes it.
    if (inside.has(other.id)) continue;
    for (let at = k - rows; at >= 0 && at < strands.length && inside.has(strands[at]!.id); at -= rows) {
      const strand = strands[at]!;
      if (rows < 0 ? reads(strand, other) : reads(other, strand)) return { strand: strand.id, other: other.id };
    }
  }
  return null;
}

/** Moves a run by one row, as far as nothing hinders it: all of it or nothing. */
export function moveRun(draft: Effect, { ids, rows }: { ids: readonly string[]; rows: -1 | 1 }): void {
  const sorted = inOrder(draft, ids);
  const order = strandsOf(draft).map((s) => s.id);
  const end = order.indexOf(rows < 0 ? sorted[0]! : sorted[sorted.length - 1]!) + rows;
  if (end < 0 || end >= order.length || hindrance(draft, ids, rows)) return;
  for (const id of rows < 0 ? sorted : sorted.reverse()) {
    const to = strandsOf(draft).findIndex((s) => s.id === id) + rows;
    moveStrand(draft, { id, to });
  }
}
