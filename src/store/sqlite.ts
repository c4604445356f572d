/** SQLite without the mapping of rows: for what is done to a database as a whole. */
import sqlite3 from 'sqlite3';

type Raw = sqlite3.Database;

export function openRaw(path: string, mode = sqlite3.OPEN_READWRITE | sqlite3.OPEN_CREATE): Promise<Raw> {
  return new Promise((resolve, reject) => {
    const raw = new sqlite3.Database(path, mode, (error) => (error ? reject(error) : resolve(raw)));
  });
}

export const exec = (raw: Raw, sql: string): Promise<void> =>
  new Promise((resolve, reject) => raw.exec(sql, (error) => (error ? reject(error) : resolve())));

export const all = <T>(raw: Raw, sql: string): Promise<T[]> =>
  new Promise((resolve, reject) => raw.all(sql, (error: Error | null, rows: T[]) => (error ? reject(error) : resolve(rows))));

export const closeRaw = (raw: Raw): Promise<void> =>
  new Promise((resolve, reject) => raw.close((error) => (error ? reject(error) : resolve())));

/** @returns what is wrong with a database, or null. It is opened as it is, a journal beside it included */
export async function whatIsWrong(path: string): Promise<string | null> {
  let raw: Raw | null = null;
  try {
    raw = await openRaw(path, sqlite3.OPEN_READWRITE);
    const rows = await all<{ quick_check: string }>(raw, 'PRAGMA quick_check(1)');
    return rows[0]?.quick_check === 'ok' ? null : (rows[0]?.quick_check ?? 'it cannot be read');
  } catch (error) {
    return (error as Error).message;
  } finally {
    if (raw) await closeRaw(raw).catch(() => undefined);
  }
}

/** Copies a database that may be in use, as it is at one moment (SQLite's online backup). @param to is written over */
export async function copyDatabase(from: string, to: string): Promise<void> {
  const raw = await openRaw(from, sqlite3.OPEN_READWRITE);
  try {
    await new Promise<void>((resolve, reject) => {
      const backup = (raw as unknown as { backup(path: string): Backup }).backup(to);
      backup.step(-1, (error) => {
        if (error) return backup.finish(() => reject(error));
        backup.finish((ended) => (ended ? reject(ended) : resolve()));
      });
    });
  } finally {
    await closeRaw(raw);
  }
}

interface Backup {
  step(pages: number, done: (error: Error | null) => void): void;
  finish(done: (error: Error | null) => void): void;
}
