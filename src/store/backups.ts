/**
 * Copies of the data folder: the database by SQLite's own online backup, and the imported files as links to the same
 * content, so that a copy takes next to no room and outlives what is dropped later. One is made a day, the last seven
 * are kept; those made before the tables changed, and those that were asked for, are left alone.
 */
import { copyFileSync, existsSync, linkSync, mkdirSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { copyDatabase, whatIsWrong } from './sqlite.js';
import { lockFolder } from './lock.js';
import { FolderTrouble } from './trouble.js';

export const DATABASE = 'wispen.sqlite';
const KEPT = 7;
const DAY_MS = 24 * 60 * 60 * 1000;
const DAILY = /^\d{4}-\d{2}-\d{2}$/;

export const backupsIn = (data: string): string => join(data, 'backups');

/** Fit for a file's name: `2026-11-28T09-15-02`. */
export const stampOf = (now: number): string => new Date(now).toISOString().slice(0, 19).replaceAll(':', '-');

/** A file under another name: the same content where the file system can, or else a copy. */
function linkOrCopy(from: string, to: string): void {
  if (existsSync(to)) return;
  try {
    linkSync(from, to);
  } catch {
    copyFileSync(from, `${to}.part`);
    renameSync(`${to}.part`, to);
  }
}

function linkAssets(from: string, to: string): void {
  mkdirSync(to, { recursive: true });
  if (!existsSync(from)) return;
  for (const name of readdirSync(from)) if (/^[0-9a-f]{64}$/.test(name)) linkOrCopy(join(from, name), join(to, name));
}

/**
 * Copies a data folder, in use or not. The copy bears its name only when it is whole and has been looked over.
 * @param to a folder that is not there yet @throws FolderTrouble
 */
export async function backUp(data: string, to: string): Promise<void> {
  if (!existsSync(join(data, DATABASE))) throw new FolderTrouble(`There is no ${DATABASE} in ${data}.`);
  if (existsSync(to)) throw new FolderTrouble(`${to} is there already; a backup is made in a folder of its own.`);
  const part = `${to}.part`;
  rmSync(part, { recursive: true, force: true });
  mkdirSync(part, { recursive: true });
  try {
    await copyDatabase(join(data, DATABASE), join(part, DATABASE));
    const wrong = await whatIsWrong(join(part, DATABASE));
    if (wrong !== null) throw new FolderTrouble(`The copy is not whole (${wrong}), so it was not kept.`);
    linkAssets(join(data, 'assets'), join(part, 'assets'));
    renameSync(part, to);
  } catch (error) {
    rmSync(part, { recursive: true, force: true });
    throw error;
  }
}

/** The copy of the day, where there is none yet; the oldest of the daily ones go. @returns its folder, or null */
export async function backUpDaily(data: string, now = Date.now()): Promise<string | null> {
  const folder = backupsIn(data);
  mkdirSync(folder, { recursive: true });
  const daily = () =>
    readdirSync(folder)
      .filter((name) => DAILY.test(name))
      .sort();
  const last = daily().at(-1);
  const today = join(folder, new Date(now).toISOString().slice(0, 10));
  if (existsSync(today) || (last && now - statSync(join(folder, last)).mtimeMs < DAY_MS / 2)) return null;
  await backUp(data, today);
  for (const old of daily().slice(0, -KEPT)) rmSync(join(folder, old), { recursive: true, force: true });
  return today;
}

/** The newest backup that is whole, or null. */
export async function newestGood(data: string): Promise<string | null> {
  const folder = backupsIn(data);
  if (!existsSync(folder)) return null;
  const whole = readdirSync(folder)
    .filter((name) => !name.endsWith('.part') && existsSync(join(folder, name, DATABASE)))
    .map((name) => join(folder, name))
    .sort((a, b) => statSync(b).mtimeMs - statSync(a).mtimeMs);
  for (const candidate of whole) if ((await whatIsWrong(join(candidate, DATABASE))) === null) return candidate;
  return null;
}

/**
 * Puts a backup back. What is there now is kept beside it, under a name that says when.
 * @returns where what was there is now, or null when nothing was @throws FolderTrouble
 */
export async function restore(data: string, backup: string, now = Date.now()): Promise<string | null> {
  const source = join(backup, DATABASE);
  if (!existsSync(source)) throw new FolderTrouble(`There is no ${DATABASE} in ${backup}: a backup is a folder that holds one.`);
  const wrong = await whatIsWrong(source);
  if (wrong !== null) throw new FolderTrouble(`The backup ${backup} is damaged itself (${wrong}); nothing was changed.`);
  mkdirSync(data, { recursive: true });
  const free = await lockFolder(data);
  try {
    const current = join(data, DATABASE);
    const fresh = `${current}.new`;
    rmSync(fresh, { force: true });
    await copyDatabase(source, fresh);
    linkAssets(join(backup, 'assets'), join(data, 'assets'));
    const aside = `${current}.before-restore-${stampOf(now)}`;
    const kept = existsSync(current);
    // The journal goes with its database: left behind, it would be read into the other.
    for (const end of ['-wal', '-shm', '']) if (existsSync(current + end)) renameSync(current + end, aside + end);
    renameSync(fresh, current);
    return kept ? aside : null;
  } finally {
    await free();
  }
}
