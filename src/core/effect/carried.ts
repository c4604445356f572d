/**
 * What strands name besides one another, carried from one effect to another: files, triggers, shared dials and motifs, and
 * all that those motifs name in turn. Runs on the clipboard and motifs by themselves go with it.
 */
import { findOperator } from '../operators/catalogue.js';
import { own } from '../base/wholesome.js';
import { usedBy } from './motifs.js';
import { isImage, isLink, isWritten, strandsOf, type Effect, type Input, type Motif, type Strand, type Value } from './schema.js';
import { addTrigger, freshTrigger } from './triggers.js';

export type Carried = Pick<Effect, 'assets' | 'shared' | 'triggers' | 'motifs'>;

/** Files taken in under names of their own, where another file has theirs. @returns the names that they have now, by those they had */
export function takeAssets(draft: Pick<Effect, 'assets'>, assets: Effect['assets']): Map<string, string> {
  const names = new Map<string, string>();
  for (const [key, asset] of Object.entries(assets)) {
    const there = Object.entries(draft.assets).find(([, a]) => a.sha256 === asset.sha256 && a.colour === asset.colour);
    let name = there?.[0] ?? key;
    for (let k = 2; !there && Object.hasOwn(draft.assets, name); k++) name = `${key}-${k}`;
    draft.assets[name] = structuredClone(asset);
    names.set(key, name);
  }
  return names;
}

/** A trigger of the same name is the same event; another one that only has its id is not. @returns what each is called here */
function takeTriggers(draft: Effect, triggers: Effect['triggers']): Map<string, string> {
  const names = new Map<string, string>();
  for (const trigger of triggers) {
    const there = draft.triggers.find((t) => t.name === trigger.name);
    const mine = there ?? { ...structuredClone(trigger), id: freshTrigger(draft, trigger.name).id };
    if (!there) addTrigger(draft, { trigger: mine });
    for (const called of [trigger.name, trigger.id]) names.set(called, mine.id);
  }
  return names;
}

/** The strands of a motif, which are an effect's. */
const within = (motif: Motif): Strand[] => strandsOf(motif as unknown as Effect);

/** Values of strands, and those that a motif's inputs begin with. */
function* valuesIn(strands: readonly Strand[], motifs: readonly Motif[]): Iterable<Value> {
  for (const s of [...strands, ...motifs.flatMap(within)])
    for (const input of Object.values(s.inputs ?? {})) if (input && !isLink(input)) yield input.value;
  for (const { inputs } of motifs) for (const input of inputs) if (input.default !== undefined) yield input.default;
}

/** All that strands name, and that what they name names. */
export function carriedBy(effect: Carried, strands: readonly Strand[]): Carried {
  const motifs = usedBy(effect, strands);
  const named = new Set<string>();
  for (const v of valuesIn(strands, motifs)) if (isImage(v) || isWritten(v)) named.add(isImage(v) ? v.asset : v.text);
  return {
    assets: Object.fromEntries(Object.entries(effect.assets).filter(([key]) => named.has(key))),
    shared: effect.shared.filter((s) => named.has(s.id) || named.has(s.name)),
    triggers: effect.triggers.filter((t) => named.has(t.id) || named.has(t.name)),
    motifs,
  };
}

/** What files and triggers are called in the effect that has taken them. */
export interface Names {
  readonly files: ReadonlyMap<string, string>;
  readonly events: ReadonlyMap<string, string>;
}

/** A strand's own value, by the names of the effect that takes it. @param name the input */
export function renamed(op: string, name: string, input: Exclude<Input, { from: string }>, { files, events }: Names): Input {
  const { value } = input;
  if (isImage(value)) return { value: { asset: files.get(value.asset) ?? value.asset } };
  if (isWritten(value) && own(findOperator(op)?.literals, name)?.form === 'trigger')
    return { value: { text: events.get(value.text) ?? value.text } };
  return input;
}

/** A motif by the names of the effect that takes it. */
function motifRenamed(motif: Motif, names: Names): Motif {
  const { id, revision, name, inputs, outputs, strands, note } = structuredClone(motif);
  for (const s of strands as Strand[])
    for (const [key, input] of Object.entries(s.inputs ?? {}))
      if (input && !isLink(input)) s.inputs![key] = renamed(s.op, key, input, names);
  for (const input of inputs)
    if (isImage(input.default)) input.default = { asset: names.files.get(input.default.asset) ?? input.default.asset };
  return { id, revision, name, inputs, outputs, strands, ...(note === undefined ? {} : { note }) };
}

/**
 * Takes what strands came with: what is there already by its sum, its name or its id stays as it is.
 * @param motif what becomes of each motif of them that is not there, and of one that is there in an older revision
 * @returns what is called otherwise here
 */
export function takeCarried(
  draft: Effect,
  carried: Carried,
  motif: (motif: Motif) => void = (m) => void (draft.motifs.some((d) => d.id === m.id) || draft.motifs.push(m)),
): Names {
  const names = { files: takeAssets(draft, carried.assets), events: takeTriggers(draft, carried.triggers) };
  for (const value of carried.shared) if (!draft.shared.some((s) => s.id === value.id)) draft.shared.push(structuredClone(value));
  for (const one of carried.motifs) {
    const there = draft.motifs.find((m) => m.id === one.id);
    // One may come with files of its own, as it went by itself.
    const own = one.assets ? { ...names, files: takeAssets(draft, one.assets) } : names;
    if (!there || there.revision < one.revision) motif(motifRenamed(one, own));
  }
  return names;
}

/** A motif as it goes by itself, to the library: with all that it names. */
export function motifAlone(effect: Carried, motif: Motif): Motif {
  const { assets, shared, triggers, motifs } = carriedBy(effect, within(motif));
  for (const { default: rest } of motif.inputs)
    if (isImage(rest) && own(effect.assets, rest.asset)) assets[rest.asset] = own(effect.assets, rest.asset)!;
  const more = {
    ...(Object.keys(assets).length > 0 ? { assets } : {}),
    ...(shared.length > 0 ? { shared } : {}),
    ...(triggers.length > 0 ? { triggers } : {}),
    ...(motifs.length > 0 ? { motifs } : {}),
  };
  return Object.keys(more).length === 0 ? motif : { ...motif, ...more };
}

/**
 * A motif that comes from elsewhere as it is within an effect, which has from then on what it came with.
 * @param inner what becomes of the motifs that it holds
 */
export function motifWithin(draft: Effect, motif: Motif, inner?: (motif: Motif) => void): Motif {
  const { assets = {}, shared = [], triggers = [], motifs = [] } = motif;
  const carried = { assets, shared, triggers, motifs: motifs as Motif[] };
  return motifRenamed(motif, takeCarried(draft, carried, inner));
}
