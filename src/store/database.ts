/**
 * SQLite through Sequelize: how a data folder is opened, and the one queue through which everything is written.
 * A database is made, and its tables are changed, beside it and under another name; it takes the name when it is whole.
 */
import { closeSync, existsSync, fsyncSync, mkdirSync, openSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { Sequelize } from 'sequelize';
import { SequelizeStorage, Umzug } from 'umzug';
import { Decoder } from '../decoding/decoder.js';
import { AssetStore } from './assets.js';
import { DATABASE, backUp, backupsIn, newestGood, stampOf } from './backups.js';
import { assetsInUse, pruneRevisions, pruneSaves } from './documents.js';
import { IncomingFiles } from './incoming.js';
import { lockFolder } from './lock.js';
import { MIGRATIONS } from './migrations.js';
import { define } from './rows.js';
import { all, closeRaw, openRaw, whatIsWrong } from './sqlite.js';
import { FolderTrouble, isLocked } from './trouble.js';

export interface Database {
  readonly folder: string;
  readonly sequelize: Sequelize;
  readonly assets: AssetStore;
  readonly incoming: IncomingFiles;
  readonly decoder: Decoder;
  /** Runs one piece of writing after another: SQLite has one writer, and waiting here beats waiting on its lock. */
  readonly write: <T>(task: () => Promise<T>) => Promise<T>;
  readonly close: () => Promise<void>;
}

/** What a new database is filled with before it takes its name. */
export type Fill = (db: Pick<Database, 'sequelize' | 'write'>) => Promise<void>;

const migrationsOf = (sequelize: Sequelize) =>
  new Umzug({
    migrations: MIGRATIONS,
    context: sequelize.getQueryInterface(),
    storage: new SequelizeStorage({ sequelize }),
    logger: undefined,
  });

async function connect(path: string, journal: 'WAL' | 'DELETE'): Promise<Sequelize> {
  const sequelize = new Sequelize({ dialect: 'sqlite', storage: path, logging: false });
  await sequelize.query(`PRAGMA journal_mode = ${journal}`);
  await sequelize.query('PRAGMA synchronous = FULL');
  await sequelize.query('PRAGMA foreign_keys = ON');
  define(sequelize);
  return sequelize;
}

/** Another program may hold the database for a moment: a copy that is made, a look into it. So often, ms apart. */
const WAITS = [50, 200, 800];

/** Does a piece of writing, and does it again where the database was held: what was begun of it has been taken back. */
async function patiently<T>(task: () => Promise<T>): Promise<T> {
  for (const wait of WAITS) {
    try {
      return await task();
    } catch (error) {
      if (!isLocked(error)) throw error;
      await new Promise((r) => setTimeout(r, wait));
    }
  }
  return task();
}

/** One piece of writing after another. */
function queue(): { write: Database['write']; settled: () => Promise<unknown> } {
  let tail: Promise<unknown> = Promise.resolve();
  return {
    write: (task) => {
      const run = tail.then(() => patiently(task));
      tail = run.catch(() => undefined);
      return run;
    },
    settled: () => tail,
  };
}

/** Makes what was prepared beside the database the database. */
function takeName(fresh: string, path: string): void {
  // A journal that was left behind belongs to what was there before, and would be read into what comes.
  for (const end of ['-wal', '-shm']) rmSync(path + end, { force: true });
  renameSync(fresh, path);
  // The name is on the disk too before anything is answered. Not every system lets a folder be opened.
  try {
    const folder = openSync(join(path, '..'), 'r');
    fsyncSync(folder);
    closeSync(folder);
  } catch {
    // Then it comes with the next write.
  }
}

async function make(path: string, fill: Fill): Promise<void> {
  const fresh = `${path}.new`;
  const sequelize = await connect(fresh, 'DELETE');
  try {
    await migrationsOf(sequelize).up();
    const { write, settled } = queue();
    await fill({ sequelize, write });
    await settled();
  } finally {
    await sequelize.close();
  }
  takeName(fresh, path);
}

/** Brings the tables up to date, in a copy; what was there before is kept among the backups. */
async function migrate(folder: string, path: string, pending: readonly string[]): Promise<void> {
  const before = join(backupsIn(folder), `${stampOf(Date.now())}-before-${pending[0]}`);
  await backUp(folder, before);
  const fresh = `${path}.new`;
  const source = await openRaw(path);
  await all(source, `VACUUM INTO '${fresh.replaceAll("'", "''")}'`).finally(() => closeRaw(source));
  const sequelize = await connect(fresh, 'DELETE');
  try {
    await migrationsOf(sequelize).up();
  } finally {
    await sequelize.close();
  }
  takeName(fresh, path);
}

/** @returns names of the steps it lacks @throws FolderTrouble when it is damaged, or newer than this Wispen */
async function look(folder: string, path: string): Promise<readonly string[]> {
  const wrong = await whatIsWrong(path);
  const tables = wrong === null ? await stepsOf(path) : [];
  if (wrong !== null || tables.length === 0) {
    const good = await newestGood(folder);
    throw new FolderTrouble(
      `the database ${path} is damaged (${wrong ?? 'its tables are missing'}). Nothing of it was changed. ` +
        (good
          ? `The newest good backup is ${good}; this puts it back, and keeps the damaged one beside it: npm run wispen -- restore ${good} --data ${folder}`
          : 'There is no backup in its folder. Move the file away to begin anew, and keep it: much of it can often be saved.'),
    );
  }
  const known = new Set(MIGRATIONS.map((m) => m.name));
  const newer = tables.find((name) => !known.has(name));
  if (newer) throw new FolderTrouble(`it was written by a newer Wispen (${newer}); start that one. Nothing was changed.`);
  return MIGRATIONS.map((m) => m.name).filter((name) => !tables.includes(name));
}

async function stepsOf(path: string): Promise<string[]> {
  const raw = await openRaw(path);
  try {
    const there = await all(raw, "SELECT name FROM sqlite_master WHERE type = 'table' AND name = 'SequelizeMeta'");
    return there.length === 0 ? [] : (await all<{ name: string }>(raw, 'SELECT name FROM SequelizeMeta')).map((r) => r.name);
  } finally {
    await closeRaw(raw);
  }
}

/**
 * Opens a data folder, and makes it whole first where it is not: killed at any moment, the next start goes on from there.
 * @param folder made if it is not there @param fill what a new one begins with
 * @throws FolderTrouble when it is in use, damaged, or of a newer Wispen; nothing is changed then
 */
export async function openDatabase(folder: string, fill: Fill = async () => undefined): Promise<Database> {
  mkdirSync(folder, { recursive: true });
  const free = await lockFolder(folder);
  try {
    const path = join(folder, DATABASE);
    for (const name of readdirSync(folder)) if (name.startsWith(`${DATABASE}.new`)) rmSync(join(folder, name));
    const there = existsSync(path) && (statSync(path).size > 0 || existsSync(backupsIn(folder)));
    if (!there) await make(path, fill);
    else {
      const pending = await look(folder, path);
      if (pending.length > 0) await migrate(folder, path, pending);
    }
    const sequelize = await connect(path, 'WAL');
    const { write, settled } = queue();
    const decoder = new Decoder();
    const assets = new AssetStore(folder, decoder);
    await pruneSaves();
    await pruneRevisions(sequelize);
    assets.sweep(await assetsInUse());
    return {
      ...{ folder, sequelize, assets, incoming: new IncomingFiles(folder), decoder, write },
      close: async () => {
        await settled();
        await decoder.close();
        await sequelize.close();
        await free();
      },
    };
  } catch (error) {
    await free();
    throw error;
  }
}
