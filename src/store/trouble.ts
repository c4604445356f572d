/** The data folder cannot be used as it is; the message is one sentence or more. */
export class FolderTrouble extends Error {}

const FULL = new Set(['ENOSPC', 'EDQUOT', 'EFBIG', 'SQLITE_FULL']);
const CLOSED = new Set(['EROFS', 'EACCES', 'EPERM', 'SQLITE_READONLY', 'SQLITE_CANTOPEN']);

/** Whether another program holds the database (SQLITE_BUSY, SQLITE_LOCKED). */
export function isLocked(error: unknown): boolean {
  type Told = { code?: string; message?: string; original?: unknown; parent?: unknown };
  for (let e = error as Told | undefined; e; e = (e.original ?? e.parent) as Told | undefined)
    if (/SQLITE_(BUSY|LOCKED)/.test(`${e.code ?? ''} ${e.message ?? ''}`)) return true;
  return false;
}

/** What the disk refuses, as a sentence; null where the error is of another kind. */
export function diskTrouble(error: unknown): string | null {
  type Told = { code?: string; message?: string; original?: unknown; parent?: unknown; cause?: unknown };
  for (let e = error as Told | undefined; e;) {
    if (e.code && FULL.has(e.code)) return 'The disk is full.';
    if (e.code && CLOSED.has(e.code)) return 'The data folder cannot be written to.';
    const said = /SQLITE_(FULL|READONLY|CANTOPEN|IOERR)/.exec(e.message ?? '')?.[1];
    if (said === 'FULL') return 'The disk is full.';
    if (said === 'READONLY' || said === 'CANTOPEN') return 'The data folder cannot be written to.';
    // SQLite says "disk I/O error" of a disk that is full while it writes its journal.
    if (e.code === 'SQLITE_IOERR' || said === 'IOERR') return 'The disk cannot be written to; it may be full.';
    e = (e.original ?? e.parent ?? e.cause) as Told | undefined;
  }
  return null;
}
