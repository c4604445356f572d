/** Taking in a bundle: checked whole, then stored whole or not at all, under ids of its own. */
import { v7 as uuid } from 'uuid';
import { writeEffect } from '../core/effect/write.js';
import { assetsOf, readBundle, withFreshIds } from '../core/formats/bundle.js';
import { writeStage } from '../core/formats/stage.js';
import { DocumentRow, type Database } from './database.js';
import { saveDocuments, type Save } from './documents.js';

export type BundleAnswer =
  | { readonly ok: true; readonly effect: string; readonly effects: number; readonly stages: number }
  | { readonly ok: false; readonly why: string };

/** "Dock passage", and where that is taken "Dock passage 2". */
function freshName(taken: Set<string>, name: string): string {
  const plain = name.replace(/ \d+$/, '').slice(0, 110);
  let fresh = name;
  for (let k = 2; taken.has(fresh); k++) fresh = `${plain} ${k}`;
  taken.add(fresh);
  return fresh;
}

/** @returns the id of the effect the bundle is about, or why nothing was stored */
export async function takeBundle(db: Database, bytes: Uint8Array, client: string): Promise<BundleAnswer> {
  const read = readBundle(bytes);
  if (!read.ok) return read;
  const lacking = assetsOf(read.bundle).filter((sha) => !read.bundle.assets.has(sha) && db.assets.path(sha) === null);
  if (lacking.length > 0) return { ok: false, why: `It refers to a file that it does not hold, ${lacking[0]!.slice(0, 12)}….` };
  for (const [sha, content] of read.bundle.assets) {
    const why = await db.assets.check(sha, content);
    if (why !== null) return { ok: false, why: `Its file ${sha.slice(0, 12)}… is refused. ${why}` };
  }
  const names = new Set((await DocumentRow.findAll({ where: { format: 'stage' }, attributes: ['name'] })).map((r) => r.name));
  const bundle = withFreshIds(read.bundle, uuid, (name) => freshName(names, name));
  for (const [sha, content] of bundle.assets) db.assets.keep(sha, content);
  const fresh = { client, base: null };
  const saves: Save[] = [
    ...bundle.stages.map((s) => ({
      ...fresh,
      id: s.id,
      format: 'stage' as const,
      name: s.name,
      document: writeStage(s),
      saveId: uuid(),
    })),
    // The effect it is about is stored last, so that it is the one that was changed last.
    ...[...bundle.effects]
      .reverse()
      .map((e) => ({ ...fresh, id: e.id, format: 'effect' as const, name: e.name, document: writeEffect(e), saveId: uuid() })),
  ];
  await saveDocuments(db, saves);
  return { ok: true, effect: bundle.effects[0]!.id, effects: bundle.effects.length, stages: bundle.stages.length };
}
