/**
 * One Wispen a data folder. The lock is the operating system's, held through a database of its own: it ends with the
 * process that holds it, however that ends, and is never left behind.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { closeRaw, exec, openRaw } from './sqlite.js';
import { FolderTrouble } from './trouble.js';

/** @returns what gives the folder free @throws FolderTrouble when another process has it */
export async function lockFolder(folder: string): Promise<() => Promise<void>> {
  const raw = await openRaw(join(folder, 'lock'));
  const holder = join(folder, 'lock-holder');
  try {
    await exec(raw, 'PRAGMA locking_mode = EXCLUSIVE; PRAGMA journal_mode = MEMORY; BEGIN EXCLUSIVE');
  } catch (error) {
    await closeRaw(raw).catch(() => undefined);
    if ((error as { code?: string }).code !== 'SQLITE_BUSY') throw error;
    let who = '';
    try {
      who = ` (process ${readFileSync(holder, 'utf8').trim()})`;
    } catch {
      // It has not said yet.
    }
    throw new FolderTrouble(`another Wispen${who} is using it. Stop that one, or name another folder in WISPEN_DATA.`);
  }
  writeFileSync(holder, `${process.pid}\n`);
  return () => closeRaw(raw);
}
