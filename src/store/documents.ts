/** Storing effects and stages: one current document each, revisions behind it, and answers that can be repeated. */
import { Op, QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { namesIn } from './assets.js';
import { cardOf } from './card.js';
import { DocumentRow, MotifRow, RevisionRow, SaveRow } from './rows.js';

/** A sitting's revision is closed this long after its last save. */
const SITTING_MS = 5 * 60 * 1000;

/** So many files are kept for the steps of undo of one document. */
export const MOST_KEPT = 4000;

export type Format = DocumentRow['format'];

/** What writing needs of a database. */
export interface Writer {
  readonly sequelize: Sequelize;
  readonly write: <T>(task: () => Promise<T>) => Promise<T>;
}

export interface Save {
  readonly id: string;
  readonly format: Format;
  readonly name: string;
  /** Canonical text. */
  readonly document: string;
  readonly saveId: string;
  readonly client: string;
  /** Files that steps of undo may bring back; those of before where nothing is said. */
  readonly keeps?: readonly string[] | undefined;
  /** The version the client started from; null to make a new document. */
  readonly base: number | null;
}

export type SaveAnswer =
  | { readonly outcome: 'saved'; readonly version: number; readonly savedAt: string; readonly created: boolean }
  | { readonly outcome: 'conflict'; readonly version: number; readonly document: string }
  | { readonly outcome: 'missing' }
  /** Files that it refers to are not there. */
  | { readonly outcome: 'lacking'; readonly lacking: readonly string[] }
  /** The saveId was used for another document. */
  | { readonly outcome: 'used' };

/** So many answers of a document are kept, and for so long: a save that is sent again comes from a browser that had no reply. */
const ANSWERS = 100;
const ANSWERS_MS = 30 * 24 * 60 * 60 * 1000;

/** Forgets answers that nobody will ask for again. @returns how many */
export function pruneSaves(now = Date.now()): Promise<number> {
  return SaveRow.destroy({ where: { savedAt: { [Op.lt]: new Date(now - ANSWERS_MS).toISOString() } } });
}

/** Revisions that nobody named: so many of a document are kept, and beyond them the last of each day, for so many days. */
export const REVISIONS = { last: 50, days: 30 };

/**
 * Drops revisions that have passed: all that are named stay, of the rest the last 50 and the last of each day for 30 days.
 * No document is read for it.
 */
export async function pruneRevisions(
  sequelize: Sequelize,
  { documentId, transaction, now = Date.now() }: { documentId?: string; transaction?: Transaction; now?: number } = {},
): Promise<void> {
  const since = new Date(now - REVISIONS.days * 24 * 60 * 60 * 1000).toISOString().slice(0, 10);
  await sequelize.query(
    `DELETE FROM revisions WHERE id IN (
       SELECT id FROM (
         SELECT id, substr(updatedAt, 1, 10) AS day,
           row_number() OVER (PARTITION BY documentId ORDER BY id DESC) AS place,
           row_number() OVER (PARTITION BY documentId, substr(updatedAt, 1, 10) ORDER BY id DESC) AS ofDay
         FROM revisions WHERE name IS NULL ${documentId === undefined ? '' : 'AND documentId = :documentId'}
       ) WHERE place > :last AND (ofDay > 1 OR day < :since))`,
    {
      replacements: { last: REVISIONS.last, since, ...(documentId === undefined ? {} : { documentId }) },
      type: QueryTypes.DELETE,
      ...(transaction ? { transaction } : {}),
    },
  );
}

/** The files that documents, their steps of undo, revisions and motifs refer to. No document is read for it. */
export async function assetsInUse(): Promise<Set<string>> {
  const where = { assets: { [Op.ne]: '' } };
  const attributes = ['assets'];
  const used = new Set<string>();
  for (const rows of [await DocumentRow.findAll({ where, attributes }), await RevisionRow.findAll({ where, attributes })])
    for (const { assets } of rows) for (const name of assets.split(' ')) used.add(name);
  for (const { kept } of await DocumentRow.findAll({ where: { kept: { [Op.ne]: '' } }, attributes: ['kept'] }))
    for (const name of kept.split(' ')) used.add(name);
  // The library's motifs are few, and hold the pictures that they look up.
  for (const { document } of await MotifRow.findAll({ attributes: ['document'] }))
    for (const name of namesIn(document)) used.add(name);
  return used;
}

async function saveIn(transaction: Transaction, save: Save, has: (sha: string) => boolean): Promise<SaveAnswer> {
  const earlier = await SaveRow.findByPk(save.saveId, { transaction });
  if (earlier && earlier.documentId !== save.id) return { outcome: 'used' };
  if (earlier) return { outcome: 'saved', version: earlier.version, savedAt: earlier.savedAt, created: earlier.version === 1 };
  const row = await DocumentRow.findByPk(save.id, { transaction });
  if (row && (save.base !== row.version || row.format !== save.format))
    return { outcome: 'conflict', version: row.version, document: row.document };
  if (!row && save.base !== null) return { outcome: 'missing' };
  const version = (row?.version ?? 0) + 1;
  const named = namesIn(save.document);
  // What it has lacked all along hinders nothing; nothing new is named that is not there.
  const before = new Set(row?.assets.split(' '));
  const lacking = named.filter((sha) => !before.has(sha) && !has(sha));
  if (lacking.length > 0) return { outcome: 'lacking', lacking };
  const assets = named.join(' ');
  const fields = {
    name: save.name,
    document: save.document,
    version,
    assets,
    card: cardOf(save.format, save.document),
    ...(save.keeps ? { kept: save.keeps.join(' ') } : {}),
  };
  if (row) await row.update(fields, { transaction });
  else await DocumentRow.create({ id: save.id, format: save.format, ...fields }, { transaction });
  const last = await RevisionRow.findOne({ where: { documentId: save.id }, order: [['id', 'DESC']], transaction });
  const sameSitting = last?.open && last.client === save.client && Date.now() - last.updatedAt.getTime() < SITTING_MS;
  if (last && sameSitting) await last.update({ document: save.document, assets }, { transaction });
  else {
    if (last?.open) await last.update({ open: false }, { transaction });
    await RevisionRow.create(
      { documentId: save.id, document: save.document, client: save.client, name: null, open: true, assets },
      { transaction },
    );
    await pruneRevisions(DocumentRow.sequelize!, { documentId: save.id, transaction });
  }
  const savedAt = new Date().toISOString();
  await SaveRow.create({ saveId: save.saveId, documentId: save.id, version, savedAt }, { transaction });
  await SaveRow.destroy({ where: { documentId: save.id, version: { [Op.lte]: version - ANSWERS } }, transaction });
  return { outcome: 'saved', version, savedAt, created: !row };
}

/** @param has whether a file is there */
export function saveDocument(db: Writer, save: Save, has: (sha: string) => boolean = () => true): Promise<SaveAnswer> {
  return db.write(() => db.sequelize.transaction((transaction) => saveIn(transaction, save, has)));
}

/** Stores several new documents, all or none. @throws when one of them is there already */
export function saveDocuments(db: Writer, saves: readonly Save[]): Promise<void> {
  return db.write(() =>
    db.sequelize.transaction(async (transaction) => {
      for (const save of saves)
        if ((await saveIn(transaction, save, () => true)).outcome !== 'saved')
          throw new Error(`there is a document ${save.id} already`);
    }),
  );
}
