/** Imported files, under the SHA-256 of their content, in a folder beside the database. */
import { createHash, randomUUID } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { MAX_MESH_BYTES } from '../core/formats/glb.js';
import { Checking } from './checking.js';
import { DocumentRow, RevisionRow } from './database.js';

export const MAX_ASSET_BYTES = MAX_MESH_BYTES;
const NAME = /^[0-9a-f]{64}$/;
/** What nothing refers to is kept this long: an import is stored before the stage that refers to it. */
const GRACE_MS = 24 * 60 * 60 * 1000;

export const isAssetName = (name: string): boolean => NAME.test(name);

export class AssetStore {
  private readonly folder: string;
  private readonly checking = new Checking();

  /** @param data the data folder */
  constructor(data: string) {
    this.folder = join(data, 'assets');
    mkdirSync(this.folder, { recursive: true });
  }

  /** Where a file is, or null when it is not there. @param name 64 hexadecimal digits, checked by the caller */
  path(name: string): string | null {
    const path = join(this.folder, name);
    return existsSync(path) ? path : null;
  }

  /** Checks a file before it is stored. @returns why it is refused, as a sentence, or null */
  async check(name: string, bytes: Uint8Array): Promise<string | null> {
    if (createHash('sha256').update(bytes).digest('hex') !== name)
      return 'The file is not the one that was announced: its SHA-256 differs.';
    return this.path(name) ? null : this.checking.check(bytes);
  }

  /** Stores a file. @returns why it was refused, as a sentence, or null */
  async store(name: string, bytes: Uint8Array): Promise<string | null> {
    const why = await this.check(name, bytes);
    if (why === null) this.keep(name, bytes);
    return why;
  }

  /** Stores a file that has been checked. */
  keep(name: string, bytes: Uint8Array): void {
    if (this.path(name)) return;
    // Written beside and renamed, so that a half-written file never bears the name.
    const part = join(this.folder, `${randomUUID()}.part`);
    writeFileSync(part, bytes);
    renameSync(part, join(this.folder, name));
  }

  close(): Promise<void> {
    return this.checking.close();
  }

  /** Drops files that no document and no revision refers to. @returns how many */
  async sweep(now = Date.now()): Promise<number> {
    const used = new Set<string>();
    for (const rows of [
      await DocumentRow.findAll({ attributes: ['document'] }),
      await RevisionRow.findAll({ attributes: ['document'] }),
    ])
      for (const { document } of rows) for (const [, sha] of document.matchAll(/"sha256":\s*"([0-9a-f]{64})"/g)) used.add(sha!);
    let dropped = 0;
    for (const file of readdirSync(this.folder)) {
      const path = join(this.folder, file);
      if (used.has(file) || now - statSync(path).mtimeMs < GRACE_MS) continue;
      rmSync(path);
      dropped++;
    }
    return dropped;
  }
}
