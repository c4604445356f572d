/** Imported files, under the SHA-256 of their content, in a folder beside the database. */
import { constants, copyFileSync, existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync, utimesSync } from 'node:fs';
import { join } from 'node:path';
import { MAX_MESH_BYTES } from '../core/formats/glb.js';
import type { Decoder } from '../decoding/decoder.js';
import type { Incoming } from './incoming.js';

export const MAX_ASSET_BYTES = MAX_MESH_BYTES;
const NAME = /^[0-9a-f]{64}$/;
/** What nothing refers to is kept this long: an import is stored before the stage that refers to it. */
const GRACE_MS = 24 * 60 * 60 * 1000;

export const isAssetName = (name: string): boolean => NAME.test(name);

/** The files that a document's text refers to. */
export const namesIn = (document: string): string[] => [
  ...new Set([...document.matchAll(/"sha256":\s*"([0-9a-f]{64})"/g)].map(([, sha]) => sha!)),
];

export class AssetStore {
  readonly folder: string;

  /** @param data the data folder @param decoder reads what comes in before it is kept */
  constructor(
    data: string,
    private readonly decoder: Decoder,
  ) {
    this.folder = join(data, 'assets');
    mkdirSync(this.folder, { recursive: true });
  }

  /** Where a file is, or null when it is not there. @param name 64 hexadecimal digits, checked by the caller */
  path(name: string): string | null {
    const path = join(this.folder, name);
    return existsSync(path) ? path : null;
  }

  /** Keeps a file that has come in whole. @returns why it was refused, as a sentence, or null */
  async take(name: string, { path, sha256 }: Incoming): Promise<string | null> {
    if (sha256 !== name) return 'The file is not the one that was announced: its SHA-256 differs.';
    const there = this.path(name);
    if (there) {
      // Whoever brings it again is about to refer to it: it has as long as a new one.
      const now = new Date();
      utimesSync(there, now, now);
      return null;
    }
    const why = await this.decoder.check(path);
    if (why === null) renameSync(path, join(this.folder, name));
    return why;
  }

  /** Copies in what ships with the application, so that a library is whole by itself. @param shipped paths by their sums */
  stock(shipped: ReadonlyMap<string, string>): void {
    for (const [name, path] of shipped) {
      if (this.path(name)) continue;
      const part = join(this.folder, `${name}.00000000-0000-0000-0000-000000000000.part`);
      copyFileSync(path, part, constants.COPYFILE_FICLONE);
      renameSync(part, join(this.folder, name));
    }
  }

  /** Drops files that nothing refers to. @param used names that documents and revisions refer to @returns how many */
  sweep(used: ReadonlySet<string>, now = Date.now()): number {
    let dropped = 0;
    for (const file of readdirSync(this.folder)) {
      const path = join(this.folder, file);
      // Only what is ours to drop: files under their sum, and such that were never finished.
      if (!/^[0-9a-f]{64}(\.[0-9a-f-]{36}\.part)?$/.test(file)) continue;
      if (used.has(file) || now - statSync(path).mtimeMs < GRACE_MS) continue;
      rmSync(path);
      dropped++;
    }
    return dropped;
  }
}
