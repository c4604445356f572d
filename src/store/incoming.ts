/** Files on their way in: written down as they come, so that a large one takes no memory, and counted as they do. */
import { createHash, randomUUID } from 'node:crypto';
import { mkdirSync, rmSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';

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

/** A file that is written. */
interface Written {
  appendFile(chunk: Uint8Array): Promise<void>;
  close(): Promise<void>;
}

export class IncomingFiles {
  private readonly folder: string;

  /**
   * What was on its way when a server ended is of no use: the folder begins empty.
   * @param data the data folder @param make opens a new file
   */
  constructor(
    data: string,
    private readonly make: (path: string) => Promise<Written> = (path) => open(path, 'wx'),
  ) {
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
    try {
      return await work({ path, ...(await this.take(stream, most, path)) });
    } finally {
      rmSync(path, { force: true });
    }
  }

  private async take(stream: Readable, most: number, path: string): Promise<Pick<Incoming, 'sha256' | 'size'>> {
    const hash = createHash('sha256');
    let size = 0;
    // A disk that takes no more is said at the end: a sender that is cut off in the middle hears nothing of why.
    let refused: unknown = null;
    const refuse = (error: unknown) => void (refused ??= error);
    const file = await this.make(path).catch((error: unknown) => (refuse(error), null));
    try {
      for await (const chunk of stream as AsyncIterable<Buffer>) {
        size += chunk.length;
        if (size > most) throw new TooLarge(most);
        if (refused !== null) continue;
        hash.update(chunk);
        await file?.appendFile(chunk).catch(refuse);
      }
    } finally {
      await file?.close().catch(refuse);
    }
    if (refused !== null) throw refused as Error;
    return { sha256: hash.digest('hex'), size };
  }
}
