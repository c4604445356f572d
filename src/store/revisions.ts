/** The revisions of a document: what it was at the end of each sitting, listed, read, and named so that they stay for good. */
import type { Writer } from './documents.js';
import { RevisionRow } from './rows.js';

export interface RevisionListed {
  readonly id: number;
  readonly name: string | null;
  /** Of its last save. */
  readonly savedAt: string;
  /** The sitting still goes on: it is what the document is now. */
  readonly open: boolean;
}

const listed = ({ id, name, updatedAt, open }: RevisionRow): RevisionListed => ({
  ...{ id, name, open },
  savedAt: updatedAt.toISOString(),
});

/** The latest first. No document is read for it. */
export async function listRevisions(documentId: string): Promise<RevisionListed[]> {
  const attributes = ['id', 'name', 'updatedAt', 'open'];
  return (await RevisionRow.findAll({ where: { documentId }, attributes, order: [['id', 'DESC']] })).map(listed);
}

/** @returns its text, or null where the document has no such revision */
export async function revisionText(documentId: string, id: number): Promise<string | null> {
  return (await RevisionRow.findOne({ where: { documentId, id }, attributes: ['document'] }))?.document ?? null;
}

/**
 * Gives a revision a name, or takes it away. One that is named is closed: the next save begins another, so that the name
 * stays with what it was given to.
 */
export function nameRevision(
  db: Writer,
  { documentId, id, name }: { documentId: string; id: number; name: string | null },
): Promise<RevisionListed | null> {
  return db.write(async () => {
    const row = await RevisionRow.findOne({ where: { documentId, id } });
    if (!row) return null;
    await row.update(name === null ? { name } : { name, open: false }, { silent: true });
    return listed(row);
  });
}
