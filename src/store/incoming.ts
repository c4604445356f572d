/** Files on their way in: written down as they come, so that a large one takes no memory, and counted as they do. */
import { createHash, randomUUID } from 'node:crypto';
import { createWriteStream, mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';

/** More came than is taken. */
export class TooLarge extends Error {
  constructor(readonly limit: number) {
    super('too large');
  }
}

export interface Incoming {
  readonly path: string;
  readonly sha256: string;
  readonly size: number;
}

export class IncomingFiles {
  private readonly folder: string;

  /** What was on its way when a server ended is of no use: the folder begins empty. @param data the data folder */
  constructor(data: string) {
    this.folder = join(data, 'incoming');
    rmSync(this.folder, { recursive: true, force: true });
    mkdirSync(this.folder, { recursive: true });
  }

  /**
   * Writes a stream down, has it looked at, and takes away what is left of it.
   * @param most bytes that are taken @throws TooLarge; what the stream and the disk throw
   */
  async with<T>(stream: Readable, most: number, work: (file: Incoming) => Promise<T>): Promise<T> {
    const path = join(this.folder, `${randomUUID()}.part`);
    const hash = createHash('sha256');
    let size = 0;
    const count = new Transform({
      transform(chunk: Buffer, _encoding, done) {
        size += chunk.length;
        if (size > most) return done(new TooLarge(most));
        hash.update(chunk);
        done(null, chunk);
      },
    });
    try {
      await pipeline(stream, count, createWriteStream(path));
      return await work({ path, sha256: hash.digest('hex'), size });
    } finally {
      rmSync(path, { force: true });
    }
  }
}
