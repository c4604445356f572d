/** Where each strand of a sheet is computed: at the rate of its value, and for whom. */
import type { Rate } from '../ir/leaves.js';
import { outputRecord, type OutputName } from '../effect/outputs.js';
import { isLink, strandsOf, type Effect } from '../effect/schema.js';
import { sourcesOf } from '../effect/threads.js';

/** What each strand reaches in the end: the outputs that hang on it, in the order of the effect's file. */
export function reachedOutputs(effect: Effect): Map<string, ReadonlySet<OutputName>> {
  const reached = new Map<string, Set<OutputName>>(strandsOf(effect).map((s) => [s.id, new Set()]));
  for (const [name, input] of Object.entries(effect.outputs)) if (isLink(input)) reached.get(input.from)?.add(name as OutputName);
  // Strands read only what is above them: from the last to the first, all readers are known before what they read.
  for (const strand of [...strandsOf(effect)].reverse())
    for (const from of sourcesOf(strand)) for (const name of reached.get(strand.id)!) reached.get(from)?.add(name);
  return reached;
}

/**
 * Where each strand is computed: once, once a frame, at the vertices, or for every pixel. What differs over the surface and
 * reaches only outputs of the vertices is computed there; what nothing needs, as if for a pixel.
 * @param rates of the strands' values; of one that is not known, the costliest
 */
export function whereComputed(effect: Effect, rates: ReadonlyMap<string, { readonly rate: Rate }>): Map<string, Rate> {
  const reached = reachedOutputs(effect);
  return new Map(
    strandsOf(effect).map(({ id }) => {
      const rate = rates.get(id)?.rate ?? 'pixel';
      if (rate === 'once' || rate === 'frame') return [id, rate];
      const outputs = [...reached.get(id)!];
      return [id, outputs.length > 0 && outputs.every((name) => outputRecord(name).rate === 'vertex') ? 'vertex' : 'pixel'];
    }),
  );
}
