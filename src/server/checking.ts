/** Threads that read imported files, away from the server's own: it answers others meanwhile, and a file that never ends is ended. */
import { fileURLToPath } from 'node:url';
import { Piscina } from 'piscina';

/** Reading a file takes this long at most. */
const LONGEST_MS = 60_000;
/** Memory of a thread, in megabytes: a mesh of the largest size takes about a third of it. */
const MEMORY_MB = 2048;

export class Checking {
  private readonly threads = new Piscina({
    filename: fileURLToPath(new URL('./checkThread.mjs', import.meta.url)),
    minThreads: 0,
    maxThreads: 1,
    idleTimeout: 20_000,
    resourceLimits: { maxOldGenerationSizeMb: MEMORY_MB },
  });

  constructor(private readonly longestMs = LONGEST_MS) {}

  /** @returns why the file is refused, as a sentence, or null */
  async check(bytes: Uint8Array): Promise<string | null> {
    const copy = new Uint8Array(bytes);
    try {
      return (await this.threads.run(copy, {
        transferList: [copy.buffer],
        signal: AbortSignal.timeout(this.longestMs),
      })) as string | null;
    } catch (error) {
      if ((error as Error).name === 'AbortError' || (error as Error).name === 'TimeoutError')
        return `The file takes longer than ${Math.round(this.longestMs / 1000)} s to read, so it was given up.`;
      return 'The file could not be read: it takes more memory than there is for it, or is broken.';
    }
  }

  async close(): Promise<void> {
    await this.threads.destroy();
  }
}
