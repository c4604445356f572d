/** A motif by itself: as the library keeps it and as it ships, by the rules that one within an effect is read by. */
import { z } from 'zod';
import { readEffect, type Problem } from './read.js';
import { EFFECT_VERSION, emptyEffect, motifSchema, type Motif } from './schema.js';

const file = z.object({ format: z.literal('wispen-motif'), version: z.literal(EFFECT_VERSION) });

export type MotifRead =
  { readonly ok: true; readonly motif: Motif } | { readonly ok: false; readonly problems: readonly Problem[] };

/** @param parsed a file, or a motif without its format and version */
export function readMotif(parsed: unknown): MotifRead {
  const no = (message: string): MotifRead => ({ ok: false, problems: [{ strand: null, code: 'motif', message }] });
  if (typeof parsed !== 'object' || parsed === null || Array.isArray(parsed)) return no('A motif is an object with strands.');
  const { format, version, ...motif } = parsed as Record<string, unknown>;
  if (format !== undefined && !file.safeParse({ format, version }).success)
    return no('The file is no motif, or of a version that this Wispen does not read.');
  const { assets = {}, shared = [], triggers = [], motifs = [] } = motif;
  const all = [motif, ...(Array.isArray(motifs) ? (motifs as unknown[]) : [])];
  const empty = emptyEffect('0190a000-0000-7000-8000-000000000000', 'Motif');
  const read = readEffect({ ...empty, assets, shared, triggers, motifs: all });
  if (!read.ok) return { ok: false, problems: read.problems };
  const checked = motifSchema.safeParse(read.effect.motifs[0]);
  return checked.success ? { ok: true, motif: checked.data } : no('The motif is written wrongly.');
}
