/** The demo world: starters, which are read and never written, and what a new data folder begins with. */
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { readEffect } from '../core/effect/read.js';
import { readMotif } from '../core/effect/motifFile.js';
import type { Effect, Motif } from '../core/effect/schema.js';
import { writeEffect } from '../core/effect/write.js';
import { readStage, writeStage, type Stage } from '../core/scene/stage.js';
import { copyStage } from '../core/scene/edits.js';
import type { Database } from '../store/database.js';
import { stripKey } from '../store/cards.js';
import { DocumentRow, StripRow } from '../store/rows.js';
import { saveDocument } from '../store/documents.js';

export interface DemoWorld {
  readonly starters: readonly Effect[];
  readonly stages: readonly Stage[];
  readonly motifs: readonly Motif[];
  /** Where the meshes of its stages and the pictures of its starters are, by their sums. */
  readonly assets: ReadonlyMap<string, string>;
  /** Where the starters' strips are, by the numbers that their ids end with: pictures are there at the first visit. */
  readonly strips: ReadonlyMap<string, string>;
}

function readFolder<T>(folder: string, read: (parsed: unknown, file: string) => T): T[] {
  return readdirSync(folder)
    .filter((f) => f.endsWith('.json'))
    .sort()
    .map((f) => read(JSON.parse(readFileSync(join(folder, f), 'utf8')), f));
}

/** @throws when a shipped file is broken, which is a fault of ours */
export function loadDemo(folder: string): DemoWorld {
  const strips = join(folder, 'strips');
  const files = ['meshes', 'images', 'paints'].flatMap((kind) =>
    readdirSync(join(folder, kind)).map((file) => join(folder, kind, file)),
  );
  const sumOf = (file: string) => createHash('sha256').update(readFileSync(file)).digest('hex');
  const drawn = existsSync(strips) ? readdirSync(strips).filter((f) => f.endsWith('.webp')) : [];
  return {
    strips: new Map(drawn.map((file) => [file.replace('.webp', ''), join(strips, file)])),
    assets: new Map(files.sort().map((file) => [sumOf(file), file])),
    starters: readFolder(join(folder, 'starters'), (parsed, file) => {
      const result = readEffect(parsed);
      if (!result.ok) throw new Error(`${file}: ${result.problems[0]!.message}`);
      return result.effect;
    }),
    motifs: readFolder(join(folder, 'motifs'), (parsed, file) => {
      const result = readMotif(parsed);
      if (!result.ok) throw new Error(`${file}: ${result.problems[0]!.message}`);
      return result.motif;
    }),
    stages: readFolder(join(folder, 'stages'), (parsed, file) => {
      const result = readStage(parsed);
      if (!result.ok) throw new Error(`${file}: ${result.problems[0]!.message}`);
      return result.stage;
    }),
  };
}

/** The library's copy of a starter: an id of its own, with the starter's number. */
const copyId = (starter: Effect): string => `0190a000-0000-7000-8000-${starter.id.slice(-12)}`;

/** Puts what is missing of the demo's stages into the data folder, and into an empty one a copy of every starter. */
export async function seed(db: Pick<Database, 'sequelize' | 'write'>, demo: DemoWorld): Promise<void> {
  const empty = (await DocumentRow.count()) === 0;
  const worn = Object.fromEntries(demo.starters.map((s) => [s.id, copyId(s)]));
  for (const original of demo.stages) {
    if (await DocumentRow.findByPk(original.id)) continue;
    // On the library's stages stand the library's copies.
    const stage = copyStage(original, { id: original.id, name: original.name, worn });
    await saveDocument(db, {
      id: stage.id,
      format: 'stage',
      name: stage.name,
      document: writeStage(stage),
      saveId: `seed-${stage.id}`,
      client: 'demo',
      base: null,
    });
  }
  if (!empty) return;
  for (const starter of demo.starters) {
    const id = copyId(starter);
    const copy = { ...starter, id };
    await saveDocument(db, {
      id,
      format: 'effect',
      name: copy.name,
      document: writeEffect(copy),
      saveId: `seed-${id}`,
      client: 'demo',
      base: null,
    });
  }
  await seedStrips(db, demo);
}

/** Pictures of the starters, as they are on the stages that they came with. */
async function seedStrips(db: Pick<Database, 'write'>, { starters, strips }: DemoWorld): Promise<void> {
  for (const starter of starters) {
    const path = strips.get(starter.id.slice(-12));
    const [documentId, key] = [copyId(starter), await stripKey(copyId(starter))];
    if (path && key) await db.write(() => StripRow.upsert({ documentId, key, bytes: readFileSync(path) }));
  }
}
