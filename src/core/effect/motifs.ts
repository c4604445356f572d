/**
 * Motifs: groups of strands with inputs and outputs, used as one strand, edited once for all that use it. A use is a strand
 * of the operator `motif`; it names the motif, is given the motif's inputs (`in1`, `in2`, ...), and is read at its outputs
 * (`out1`, ...). Within a motif, strands read its inputs by their ids, as they read one another.
 */
import { current, isDraft } from 'immer';
import { own } from '../base/wholesome.js';
import {
  isLink,
  isWritten,
  strandsOf,
  type Dial,
  type Effect,
  type Input,
  type Link,
  type Motif,
  type MotifInput,
  type Strand,
  type Value,
} from './schema.js';

/** The operator of a use, and the literal that names its motif. */
export const MOTIF = 'motif';
export const MOST_INPUTS = 12;
export const MOST_OUTPUTS = 12;

/** What stands between a use and a strand within it, where the two are told together: `glow1/rim`. */
export const WITHIN = '/';
/** The strand of the sheet that a strand is, or is within. */
export const rowOf = (strand: string): string => strand.split(WITHIN, 1)[0]!;
export const withinOf = (use: string, strand: string): string => `${use}${WITHIN}${strand}`;

/** The motif that a strand is a use of; undefined where it is none, or where that is gone. */
export function motifOf(effect: Pick<Effect, 'motifs'>, strand: Pick<Strand, 'op' | 'inputs'>): Motif | undefined {
  const given = strand.op === MOTIF ? strand.inputs?.[MOTIF] : undefined;
  const id = given && !isLink(given) && isWritten(given.value) ? given.value.text : undefined;
  return id === undefined ? undefined : effect.motifs.find((m) => m.id === id);
}

/** Whether a strand of a flat sheet hands on what it reads: a use, or an input of one. */
export const handsOn = ({ op, inputs }: Pick<Strand, 'op' | 'inputs'>): boolean => op === MOTIF && inputs?.[MOTIF] === undefined;

/** The strands of a sheet that use a motif, themselves; uses within other motifs are `usedWithin`. */
export const usesOf = (effect: Effect, motif: string): Strand[] =>
  strandsOf(effect).filter((s) => motifOf(effect, s)?.id === motif);

/** The motifs that strands use, and those that are used within them. */
export function usedBy(effect: Pick<Effect, 'motifs'>, strands: readonly Strand[]): Motif[] {
  const used = new Set<Motif>();
  const gather = (all: readonly Strand[]): void => {
    for (const s of all) {
      const motif = motifOf(effect, s);
      if (!motif || used.has(motif)) continue;
      used.add(motif);
      gather(strandsOf(motif as unknown as Effect));
    }
  };
  gather(strands);
  return effect.motifs.filter((m) => used.has(m));
}

/** What of a motif gives an output. */
export const sourceOf = ({ id, from }: Motif['outputs'][number]): Link => from ?? { from: id };

/** A motif's inputs or outputs by where a use has them: `in1`, `out1`. Those with an id like that are there, others where room is. */
function placed<P extends { readonly id: string }>(ports: readonly P[], stem: string, most: number): Map<string, P> {
  const places = Array.from({ length: most }, (_, k) => `${stem}${k + 1}`);
  const found = new Map(ports.flatMap((p) => (places.includes(p.id) ? [[p.id, p] as const] : [])));
  for (const port of ports) {
    if (places.includes(port.id)) continue;
    const free = places.find((place) => !found.has(place));
    if (free !== undefined) found.set(free, port);
  }
  return new Map([...found].sort(([a], [b]) => places.indexOf(a) - places.indexOf(b)));
}

export const inputsOf = (motif: Motif): Map<string, MotifInput> => placed(motif.inputs, 'in', MOST_INPUTS);
export const outputsOf = (motif: Motif): Map<string, Motif['outputs'][number]> => placed(motif.outputs, 'out', MOST_OUTPUTS);

export function restOf({ kind, default: rest }: Pick<MotifInput, 'kind' | 'default'>): Value {
  if (rest !== undefined) return rest;
  if (kind === '1') return 0;
  if (kind === 'rgb') return { rgb: [1, 1, 1], intensity: 1, unit: 'factor' };
  return Array.from({ length: Number(kind) }, () => 0);
}

/** Motifs that use themselves, maybe through others: they have no end. @returns the names along the way, the first again at the end */
export function recursion(motifs: readonly Motif[], start: Motif): string[] | null {
  const all = { motifs: [...motifs] };
  // Each motif is walked once: what does not lead back from there does not from elsewhere either.
  const seen = new Set<Motif>([start]);
  const walk = (motif: Motif, way: readonly string[]): string[] | null => {
    for (const s of strandsOf(motif as unknown as Effect)) {
      const inner = motifOf(all, s);
      if (inner === start) return [...way, inner.name];
      if (!inner || seen.has(inner)) continue;
      seen.add(inner);
      const found = walk(inner, [...way, inner.name]);
      if (found) return found;
    }
    return null;
  };
  return walk(start, [start.name]);
}

/** Motifs that have no end, of these. */
function endlessOf(motifs: readonly Motif[]): ReadonlySet<Motif> {
  const known = endless.get(motifs);
  if (known) return known;
  const found = new Set(motifs.filter((m) => recursion(motifs, m) !== null));
  if (!isDraft(motifs)) endless.set(motifs, found);
  return found;
}
const endless = new WeakMap<readonly Motif[], ReadonlySet<Motif>>();

/** A sheet has so many strands at most once its motifs are opened. */
export const MOST_FLAT = 5000;

/**
 * Strands that a sheet has once its motifs are opened: counted, with nothing opened, each motif walked once. What has no
 * end is not opened.
 * @param strands the sheet's, or those of one motif
 */
export function flatCount(effect: Pick<Effect, 'motifs'>, strands: readonly Strand[]): number {
  const counts = new Map<Motif, number>([...endlessOf(effect.motifs)].map((m) => [m, 0]));
  const count = (all: readonly Strand[]): number =>
    all.reduce((sum, s) => {
      const motif = motifOf(effect, s);
      return sum + 1 + (motif ? inside(motif) : 0);
    }, 0);
  const inside = (motif: Motif): number => {
    const known = counts.get(motif);
    if (known !== undefined) return known;
    const own = motif.inputs.length + count(strandsOf(motif as unknown as Effect));
    counts.set(motif, own);
    return own;
  };
  return count(strands);
}

/** Why a sheet grows beyond what can be opened, as a sentence; null where it does not. A motif by itself may not either. */
export function overgrown(effect: Pick<Effect, 'motifs' | 'strands'>): string | null {
  if (effect.motifs.length === 0) return null;
  const said = (count: number) => (count < 1e6 ? count.toLocaleString('en') : 'over a million');
  const most = `at most ${MOST_FLAT.toLocaleString('en')} can be drawn. Use fewer of those that stand within one another.`;
  const sheet = flatCount(effect, strandsOf(effect as Effect));
  if (sheet > MOST_FLAT) return `With its motifs opened the sheet has ${said(sheet)} strands; ${most}`;
  for (const motif of effect.motifs) {
    const own = flatCount(effect, strandsOf(motif as unknown as Effect));
    if (own > MOST_FLAT) return `The motif ${motif.name} has ${said(own)} strands with those within it opened; ${most}`;
  }
  return null;
}

const flattened = new WeakMap<Effect, Effect>();
/** Strands within a use, made once for as long as neither the motif nor the use is another. */
const within = new WeakMap<Motif, WeakMap<Strand, readonly Strand[]>>();

const moved = (prefix: string, input: Input): Input => (isLink(input) ? { ...input, from: withinOf(prefix, input.from) } : input);

/** A use's inputs, its strands, and last the use itself, which hands on what it gives. @param use its links are the sheet's own */
function opened(motif: Motif, use: Strand): readonly Strand[] {
  let uses = within.get(motif);
  if (!uses) within.set(motif, (uses = new WeakMap()));
  const known = uses.get(use);
  if (known) return known;
  const there = new Set([...motif.inputs, ...strandsOf(motif as unknown as Effect)].map((s) => s.id));
  const places = new Map([...inputsOf(motif)].map(([place, { id }]) => [id, place]));
  const inputs = motif.inputs.map((input): Strand => ({
    id: withinOf(use.id, input.id),
    name: `${use.name}, ${input.name}`,
    op: MOTIF,
    inputs: { in1: own(use.inputs, places.get(input.id) ?? '') ?? { value: restOf(input) } },
    // In what its own numbers are said.
    ...(input.unit ? { options: { unit: input.unit } } : {}),
  }));
  const strands = strandsOf(motif as unknown as Effect).map((s): Strand => {
    const read = Object.entries(s.inputs ?? {}).filter(([, input]) => !isLink(input) || there.has(input.from));
    const given = read.map(([name, input]) => [name, input && moved(use.id, input)]);
    return {
      ...s,
      id: withinOf(use.id, s.id),
      name: `${use.name}, ${s.name}`,
      ...(given.length > 0 ? { inputs: Object.fromEntries(given) } : {}),
    } as Strand;
  });
  const outputs = [...outputsOf(motif)].flatMap(([place, o]) =>
    there.has(sourceOf(o).from) ? [[place.replace('out', 'in'), moved(use.id, sourceOf(o))]] : [],
  );
  const { id, name, bypassed } = use;
  const handing = { id, name, op: MOTIF, ...(bypassed ? { bypassed } : {}), inputs: Object.fromEntries(outputs) } as Strand;
  const all = [...inputs, ...strands, handing];
  uses.set(use, all);
  return all;
}

/** What is within goes on being opened, but for what is within itself, which is nothing. */
function spread(effect: Effect, strand: Strand): readonly Strand[] {
  const motif = motifOf(effect, strand);
  if (!motif) return [strand];
  if (endlessOf(effect.motifs).has(motif)) return [{ ...strand, inputs: {} } as Strand];
  return opened(motif, strand).flatMap((s) => spread(effect, s));
}

/**
 * The same effect without motifs: strands of a use stand before it, as `use/strand`, and what it is given as `use/in1`;
 * the use itself hands on what its outputs read. The effect itself where it uses none.
 */
export function flat(effect: Effect): Effect {
  if (effect.motifs.length === 0 || !strandsOf(effect).some((s) => s.op === MOTIF)) return effect;
  const known = flattened.get(effect);
  if (known) return known;
  // No reader and no edit lets one in.
  if (flatCount(effect, strandsOf(effect)) > MOST_FLAT) throw new RangeError(overgrown(effect) ?? 'The sheet grows too far.');
  const uses = new Map(strandsOf(effect).flatMap((s) => (motifOf(effect, s) ? [[s.id, s] as const] : [])));
  const inputOf = (d: Dial) => inputsOf(motifOf(effect, uses.get(d.strand)!)!).get(d.input)?.id;
  const dial = (d: Dial): Dial =>
    uses.has(d.strand) && inputOf(d) !== undefined ? { ...d, strand: withinOf(d.strand, inputOf(d)!), input: 'in1' } : d;
  const made = {
    ...effect,
    strands: strandsOf(effect).flatMap((s) => spread(effect, s)) as Effect['strands'],
    dials: effect.dials.map(dial),
    motifs: [],
  };
  // What is drafted still changes.
  if (!isDraft(effect)) flattened.set(effect, made);
  return made;
}

/** The effect as it is, for what is asked of a draft. */
export const asItIs = (effect: Effect): Effect => (isDraft(effect) ? current(effect) : effect);
