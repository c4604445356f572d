/** Taking in a bundle: taken apart and checked by the decoding process, then stored whole or not at all. */
import { v7 as uuid } from 'uuid';
import type { Database } from '../store/database.js';
import { DocumentRow } from '../store/rows.js';
import { saveDocuments } from '../store/documents.js';
import type { Incoming } from '../store/incoming.js';

export type BundleAnswer =
  | { readonly ok: true; readonly effect: string; readonly effects: number; readonly stages: number }
  | { readonly ok: false; readonly why: string };

/** @returns the id of the effect the bundle is about, or why nothing was stored */
export async function takeBundle(db: Database, { path }: Incoming, client: string): Promise<BundleAnswer> {
  const rows = (await DocumentRow.findAll({ attributes: ['name', 'format'], raw: true })) as { name: string; format: string }[];
  const called = (format: string) => rows.flatMap((r) => (r.format === format ? [r.name] : []));
  const names = { stages: called('stage'), effects: called('effect') };
  const read = await db.decoder.unbundle(path, db.assets.folder, names);
  if (!read.ok) return read;
  const { effect, effects, stages } = read;
  await saveDocuments(
    db,
    read.documents.map((d) => ({ ...d, client, base: null, saveId: uuid() })),
  );
  return { ok: true, effect, effects, stages };
}
