/** Files that strands name, carried from one effect to another: those of a run, and those of a motif by itself. */
import { isImage, type Effect, type Motif, type Strand } from './schema.js';

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

/** What of a motif may name a file: the inputs of its strands, and what its own inputs begin with. */
function* namedIn(motif: Motif): Iterable<{ get: unknown; set: (value: { asset: string }) => void }> {
  for (const { inputs = {} } of motif.strands as Strand[])
    for (const [name, input] of Object.entries(inputs))
      if (input && 'value' in input) yield { get: input.value, set: (value) => void (inputs[name] = { value }) };
  for (const input of motif.inputs) yield { get: input.default, set: (value) => void (input.default = value) };
}

/** A motif as it goes by itself, to the library or the clipboard: with the files of its effect that it names. */
export function motifAlone({ assets }: Pick<Effect, 'assets'>, motif: Motif): Motif {
  const named = new Set([...namedIn(motif)].flatMap(({ get }) => (isImage(get) ? [get.asset] : [])));
  const own = Object.entries(assets).filter(([key]) => named.has(key));
  return own.length === 0 ? motif : { ...motif, assets: Object.fromEntries(own) };
}

/** A motif that comes from elsewhere as it is within an effect, which has its files from then on. */
export function motifWithin(draft: Pick<Effect, 'assets'>, motif: Motif): Motif {
  const { assets, ...within } = structuredClone(motif);
  if (!assets) return within;
  const names = takeAssets(draft, assets);
  for (const { get, set } of namedIn(within)) if (isImage(get)) set({ asset: names.get(get.asset) ?? get.asset });
  return within;
}
