import { STARTERS } from '../../tests/fixtures/starters.js';
import { spawn } from 'node:child_process';
import {
  copyFileSync,
  cpSync,
  existsSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  rmSync,
  statSync,
  truncateSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { stageOf } from '../../tests/fixtures/stages.js';
import { emptyEffect } from '../core/effect/schema.js';
import { writeEffect } from '../core/effect/write.js';
import { writeStage } from '../core/scene/stage.js';
import { loadDemo, seed } from '../server/demo.js';
import { DATABASE, backUp, backUpDaily, newestGood, restore } from './backups.js';
import { listEffects } from './cards.js';
import { listStages } from './stages.js';
import { openDatabase, type Database } from './database.js';
import { DocumentRow, RevisionRow } from './rows.js';
import { pruneRevisions, saveDocument } from './documents.js';
import { MIGRATIONS } from './migrations.js';
import { all, closeRaw, exec, openRaw, whatIsWrong } from './sqlite.js';
import { FolderTrouble } from './trouble.js';

const root = join(dirname(fileURLToPath(import.meta.url)), '../..');
const demo = loadDemo(join(root, 'demo'));
const work = mkdtempSync(join(tmpdir(), 'wispen-store-'));
const whole = join(work, 'whole');
let folder = '';
let made = 0;
const open: Database[] = [];

async function opened(path = folder): Promise<Database> {
  const db = await openDatabase(path, (fresh) => seed(fresh, demo));
  open.push(db);
  return db;
}
async function close(db: Database): Promise<void> {
  open.splice(open.indexOf(db), 1);
  await db.close();
}
const refusal = async (path = folder): Promise<string> => {
  try {
    await close(await opened(path));
    return 'it was opened';
  } catch (error) {
    if (!(error instanceof FolderTrouble)) throw error;
    return error.message;
  }
};

beforeAll(async () => {
  await close(await opened(whole));
});
beforeEach(() => {
  folder = join(work, `data-${++made}`);
  cpSync(whole, folder, { recursive: true });
});
afterEach(async () => {
  for (const db of [...open]) await close(db);
});
afterAll(() => rmSync(work, { recursive: true, force: true }));

const idOf = (k: number) => `0190c000-0000-7000-8000-${String(k).padStart(12, '0')}`;
const save = (db: Database, k: number, base: number | null, { client = 'c', name = `Lamp ${k}` } = {}) =>
  saveDocument(db, {
    id: idOf(k),
    format: 'effect',
    name,
    document: writeEffect(emptyEffect(idOf(k), name)),
    saveId: `save-${k}-${base}-${client}`,
    client,
    base,
  });

describe('one Wispen a folder', () => {
  test('a second is refused with a sentence that names the first, and may have it afterwards', async () => {
    const first = await opened();
    const said = await refusal();
    expect(said).toContain(`another Wispen (process ${process.pid}) is using it`);
    await close(first);
    await close(await opened());
  });
});

describe('the first start', () => {
  const START = `
    import { openDatabase } from './src/store/database.ts';
    import { loadDemo, seed } from './src/server/demo.ts';
    console.log('begun');
    await openDatabase(process.argv[1], (fresh) => seed(fresh, loadDemo('demo')));
    console.log('whole');
    process.exit(0);`;
  /** Milliseconds from its beginning to its end; killed after so many, where that is said. */
  async function start(path: string, killAfter: number | null): Promise<number> {
    const child = spawn(process.execPath, ['--import', 'tsx', '--input-type=module', '-e', START, path], { cwd: root });
    let began = 0;
    let took = 0;
    child.stdout.on('data', (text: Buffer) => {
      if (String(text).includes('begun')) {
        began = performance.now();
        if (killAfter !== null) setTimeout(() => child.kill('SIGKILL'), killAfter);
      }
      if (String(text).includes('whole')) took = performance.now() - began;
    });
    await new Promise((resolve) => child.on('exit', resolve));
    return took;
  }
  const KILLS = process.env.WISPEN_DEEP === undefined ? 4 : 120;
  test(`killed at ${KILLS} moments of it, the next is whole`, async () => {
    const fresh = () => join(work, `first-${++made}`);
    const took = await start(fresh(), null);
    let unfinished = 0;
    for (let k = 0; k < KILLS; k++) {
      const path = fresh();
      await start(path, (took * (k + 0.5)) / KILLS);
      if (!existsSync(join(path, DATABASE))) unfinished++;
      const db = await opened(path);
      expect((await listEffects()).cards).toHaveLength(demo.starters.length);
      expect(await listStages(new Set())).toHaveLength(demo.stages.length);
      await close(db);
    }
    expect(unfinished).toBeGreaterThan(0);
  }, 600_000);
});

/** A folder as the first three steps left it. */
async function oldFolder(): Promise<string> {
  const path = join(work, `old-${++made}`);
  cpSync(whole, path, { recursive: true });
  const raw = await openRaw(join(path, DATABASE));
  await exec(
    raw,
    `DROP INDEX documents_format_updated_at_id;
     ALTER TABLE documents DROP COLUMN card; ALTER TABLE documents DROP COLUMN assets; ALTER TABLE documents DROP COLUMN kept;
     ALTER TABLE revisions DROP COLUMN assets; DELETE FROM SequelizeMeta WHERE name > '0004'`,
  );
  await closeRaw(raw);
  return path;
}

describe('tables that change', () => {
  test('are changed in a copy; what was there before is among the backups; lists are as before', async () => {
    const path = await oldFolder();
    const db = await opened(path);
    expect((await listEffects()).cards).toEqual(
      expect.arrayContaining([expect.objectContaining({ name: 'Failing tube', strands: expect.arrayContaining(['Time']) })]),
    );
    const [before] = readdirSync(join(path, 'backups'));
    expect(before).toMatch(/before-0004-cards$/);
    await close(db);
    const raw = await openRaw(join(path, 'backups', before!, DATABASE));
    const columns = (await all<{ name: string }>(raw, 'PRAGMA table_info(documents)')).map((c) => c.name);
    await closeRaw(raw);
    expect([columns.includes('document'), columns.includes('card')]).toEqual([true, false]);
  });
  test('a newer Wispen’s are refused, and left as they are', async () => {
    const raw = await openRaw(join(folder, DATABASE));
    await exec(raw, `INSERT INTO SequelizeMeta VALUES ('9000-of-another-time')`);
    await closeRaw(raw);
    const bytes = readFileSync(join(folder, DATABASE));
    expect(await refusal()).toContain('newer Wispen (9000-of-another-time)');
    expect(readFileSync(join(folder, DATABASE)).equals(bytes)).toBe(true);
  });
  test('steps that were released keep their names', () => {
    expect(MIGRATIONS.map((m) => m.name)).toEqual([
      '0001-documents',
      '0002-strips',
      '0003-shared',
      '0004-cards',
      '0005-motifs',
      '0006-kept',
    ]);
  });
});

describe('a database that is damaged', () => {
  const damages: [string, (path: string) => void][] = [
    ['cut to a half', (path) => truncateSync(path, Math.floor(statSync(path).size / 2 / 4096) * 4096)],
    [
      'overwritten in the middle',
      (path) => {
        const bytes = readFileSync(path);
        bytes.fill(0x5a, 4096, 4096 * 6);
        writeFileSync(path, bytes);
      },
    ],
    ['no database at all', (path) => writeFileSync(path, 'The tide took it.'.repeat(400))],
    ['empty', (path) => truncateSync(path, 0)],
  ];
  test.each(damages)('%s: it is told, kept, and the newest good backup is offered and put back', async (_, damage) => {
    const db = await opened();
    await save(db, 1, null);
    await backUpDaily(folder, Date.UTC(2026, 10, 27));
    await close(db);
    // A newer one that is itself damaged is not offered.
    const bad = join(folder, 'backups', '2026-11-28');
    cpSync(join(folder, 'backups', '2026-11-27'), bad, { recursive: true });
    truncateSync(join(bad, DATABASE), 8192);
    utimesSync(bad, new Date(), new Date(Date.now() + 60_000));
    damage(join(folder, DATABASE));
    const bytes = readFileSync(join(folder, DATABASE));
    const said = await refusal();
    expect(said).toMatch(/is damaged .* Nothing of it was changed\. The newest good backup is .*2026-11-27; .* restore /s);
    expect(readFileSync(join(folder, DATABASE)).equals(bytes)).toBe(true);
    const aside = await restore(folder, (await newestGood(folder))!);
    expect(readFileSync(aside!).equals(bytes)).toBe(true);
    const again = await opened();
    expect((await listEffects()).cards).toEqual(expect.arrayContaining([expect.objectContaining({ name: 'Lamp 1' })]));
    await close(again);
  });
  test('without a backup it says so, and what to do', async () => {
    truncateSync(join(folder, DATABASE), 8192);
    expect(await refusal()).toContain('There is no backup');
  });
});

describe('backups', () => {
  test('are whole while the database is written to, and hold the files too', async () => {
    const db = await opened();
    const sha = 'ab'.repeat(32);
    writeFileSync(join(db.assets.folder, sha), 'a mesh');
    const writing = Promise.all(Array.from({ length: 40 }, (_, k) => save(db, k, null)));
    const to = join(work, `asked-${made}`);
    await backUp(folder, to);
    await writing;
    expect(await whatIsWrong(join(to, DATABASE))).toBeNull();
    expect(readFileSync(join(to, 'assets', sha), 'utf8')).toBe('a mesh');
    // What is dropped here is still there.
    rmSync(join(db.assets.folder, sha));
    expect(existsSync(join(to, 'assets', sha))).toBe(true);
    await expect(backUp(folder, to)).rejects.toThrow(/is there already/);
  });
  test('one a day, the last seven; what is not of ours stays', async () => {
    const noon = (day: number) => Date.UTC(2026, 10, day, 12);
    writeFileSync(join(folder, 'keep.part'), 'mine');
    for (let day = 1; day <= 10; day++) {
      const path = await backUpDaily(folder, noon(day));
      utimesSync(path!, noon(day) / 1000, noon(day) / 1000);
      expect(await backUpDaily(folder, noon(day) + 3_600_000)).toBeNull();
    }
    const dayOf = (n: number) => `2026-11-${String(n).padStart(2, '0')}`;
    expect(readdirSync(join(folder, 'backups')).sort()).toEqual([4, 5, 6, 7, 8, 9, 10].map(dayOf));
    expect(existsSync(join(folder, 'keep.part'))).toBe(true);
  });
  test('of what is none, nothing is put back', async () => {
    const bytes = readFileSync(join(folder, DATABASE));
    await expect(restore(folder, work)).rejects.toThrow(/There is no wispen\.sqlite/);
    const bad = join(work, `bad-${made}`);
    cpSync(folder, bad, { recursive: true });
    truncateSync(join(bad, DATABASE), 8192);
    await expect(restore(folder, bad)).rejects.toThrow(/is damaged itself/);
    expect(readFileSync(join(folder, DATABASE)).equals(bytes)).toBe(true);
    const db = await opened();
    await expect(restore(folder, whole)).rejects.toThrow(/another Wispen/);
    await close(db);
  });
});

describe('revisions', () => {
  const DAY = 24 * 60 * 60 * 1000;
  test('named ones stay; of the rest the last 50, and the last of each day for 30 days', async () => {
    const db = await opened();
    await save(db, 1, null);
    const now = Date.UTC(2026, 10, 28, 12);
    await RevisionRow.destroy({ where: {} });
    // Three a day for 60 days, and one of each tenth day named.
    const rows = Array.from({ length: 180 }, (_, k) => {
      const at = new Date(now - (179 - k) * (DAY / 3));
      const name = k % 30 === 0 ? `Cut ${k}` : null;
      return { documentId: idOf(1), document: '{}', client: 'c', name, open: false, createdAt: at, updatedAt: at };
    });
    await RevisionRow.bulkCreate(rows);
    const asked: string[] = [];
    const { options } = db.sequelize as unknown as { options: { logging: false | ((sql: string) => void) } };
    options.logging = (sql) => void asked.push(sql);
    await pruneRevisions(db.sequelize, { now });
    options.logging = false;
    expect(asked.filter((sql) => /document\b(?!Id)/.test(sql.replaceAll('documentId', '')))).toEqual([]);
    const left = await RevisionRow.findAll({ where: { documentId: idOf(1) }, order: ['id'] });
    const plain = rows.map((r, k) => ({ k, ...r })).filter((r) => r.name === null);
    const lastFifty = new Set(plain.slice(-50).map((r) => r.k));
    const ofDay = new Map(plain.map((r) => [r.updatedAt.toISOString().slice(0, 10), r]));
    const daily = new Set(
      [...ofDay].filter(([day]) => day >= new Date(now - 30 * DAY).toISOString().slice(0, 10)).map(([, r]) => r.k),
    );
    const wanted = rows
      .filter((r, k) => r.name !== null || lastFifty.has(k) || daily.has(k))
      .map((r) => r.updatedAt.toISOString());
    expect(left.map((r) => r.updatedAt.toISOString())).toEqual(wanted);
    expect(wanted.length).toBeLessThan(90);
  });
  test('are dropped as new ones come', async () => {
    const db = await opened();
    await save(db, 1, null);
    for (let k = 1; k < 60; k++) await save(db, 1, k, { client: `c${k}` });
    // All of today: the last fifty, and today's last is among them.
    expect(await RevisionRow.count({ where: { documentId: idOf(1) } })).toBe(50);
  });
  test('a save that was another document’s is refused as such', async () => {
    const db = await opened();
    const other = {
      id: 'one',
      format: 'stage' as const,
      name: 'Hall',
      document: writeStage(stageOf({ id: 'one' })),
      client: 'c',
      base: null,
    };
    expect((await saveDocument(db, { ...other, saveId: 'save-1-null-c' })).outcome).toBe('saved');
    expect((await save(db, 1, null)).outcome).toBe('used');
    expect(await DocumentRow.findByPk(idOf(1))).toBeNull();
  });
});

describe('lists', () => {
  test('come in pages that hold each effect once, from cards alone', async () => {
    const db = await opened();
    const at = (k: number) => new Date(Date.UTC(2026, 10, 1) + (k >> 2) * 1000);
    await DocumentRow.bulkCreate(
      Array.from({ length: 2500 }, (_, k) => ({
        ...{ id: idOf(k), format: 'effect' as const, name: `Lamp ${k}`, version: 1 },
        // A list that read it would fail.
        ...{ document: 'x', card: JSON.stringify({ tags: ['lamp'], strands: ['Time'] }) },
        ...{ createdAt: at(k), updatedAt: at(k) },
      })),
    );
    const seen: string[] = [];
    let pages = 0;
    for (let after: Parameters<typeof listEffects>[0] | undefined = null; after !== undefined; pages++) {
      const { cards, next } = (await listEffects(after)) as { cards: { id: string }[]; next: typeof after };
      seen.push(...cards.map((c) => c.id));
      after = next ?? undefined;
    }
    expect([seen.length, new Set(seen).size, pages]).toEqual([2500 + STARTERS.length, 2500 + STARTERS.length, 6]);
    expect((await listEffects(null, 3)).cards).toHaveLength(3);
    await close(db);
  });
  test('a row that is broken shows as itself and hides nothing else', async () => {
    const db = await opened();
    await save(db, 1, null);
    await db.sequelize.query(`UPDATE documents SET card = '{"tags":', document = 'torn' WHERE id = '${idOf(1)}'`);
    await db.sequelize.query(`UPDATE documents SET card = 'torn' WHERE format = 'stage' AND name = 'Dock passage'`);
    const { cards } = await listEffects();
    expect(cards).toHaveLength(demo.starters.length + 1);
    expect(cards).toEqual(expect.arrayContaining([expect.objectContaining({ name: 'Lamp 1', tags: [], strands: [] })]));
    expect(await listStages(new Set())).toHaveLength(demo.stages.length);
  });
});

test('what was on its way is gone at the next start, and other people’s files are not', async () => {
  writeFileSync(join(folder, 'incoming', 'x.part'), 'half');
  writeFileSync(join(folder, 'assets', 'notes.txt'), 'mine');
  utimesSync(join(folder, 'assets', 'notes.txt'), 1, 1);
  copyFileSync(join(folder, DATABASE), join(folder, `${DATABASE}.new`));
  await close(await opened());
  expect(readdirSync(join(folder, 'incoming'))).toEqual([]);
  expect(readdirSync(join(folder, 'assets'))).toEqual(['notes.txt']);
  expect(existsSync(join(folder, `${DATABASE}.new`))).toBe(false);
});
