/**
 * Reads files that strangers made, in a process of its own with limits of time and memory: one that never ends, or asks
 * for all there is, is ended, and whoever asked is told. The server and the command line read their files through it.
 */
import { fileURLToPath } from 'node:url';
import workerpool from 'workerpool';
import type { Names, Opened, Unbundled } from './decode.js';
import { TOO_LONG } from './signals.js';

export interface DecoderLimits {
  /** Reading one file computes so long at most, whatever else the machine does meanwhile. */
  readonly longestMs: number;
  /** The process takes so much memory at most; a picture of the largest size takes two thirds of it. */
  readonly memoryMb: number;
}
const LIMITS: DecoderLimits = { longestMs: 30_000, memoryMb: 3072 };

/** A file that waits instead of computing is given up after so many times as long. */
const PATIENCE = 20;

/** A file was not read; the message is a sentence. */
export class NotDecoded extends Error {}

export class Decoder {
  private readonly limits: DecoderLimits;
  private readonly pool: workerpool.Pool;
  /** The file before has been read, refused, or given up with its process. */
  private line: Promise<unknown> = Promise.resolve();

  constructor(limits: Partial<DecoderLimits> = {}) {
    this.limits = { ...LIMITS, ...limits };
    this.pool = workerpool.pool(fileURLToPath(new URL('./decodeProcess.mjs', import.meta.url)), {
      workerType: 'process',
      maxWorkers: 1,
      // What reads a hostile file may hang in a loop: it is not asked to end, it is ended.
      workerTerminateTimeout: 0,
      forkOpts: {
        serialization: 'advanced',
        execArgv: [],
        env: { ...process.env, WISPEN_MEMORY_MB: `${this.limits.memoryMb}`, WISPEN_LONGEST_MS: `${this.limits.longestMs}` },
      },
    });
  }

  /** @param path of a file @returns why it is refused, as a sentence, or null */
  async check(path: string): Promise<string | null> {
    try {
      return (await this.run('check', path)) as string | null;
    } catch (error) {
      if (error instanceof NotDecoded) return error.message;
      throw error;
    }
  }

  /**
   * Takes a bundle apart: its files are stored, its documents given back under ids of their own.
   * @param assets the folder of files by their SHA-256 @param names that are taken
   */
  async unbundle(path: string, assets: string, names: Names): Promise<Unbundled> {
    try {
      return (await this.run('unbundle', path, assets, names)) as Unbundled;
    } catch (error) {
      if (error instanceof NotDecoded) return { ok: false, why: error.message };
      throw error;
    }
  }

  /** The first effect of a bundle, with the pictures it looks up. */
  async open(path: string): Promise<Opened> {
    try {
      return (await this.run('open', path)) as Opened;
    } catch (error) {
      if (error instanceof NotDecoded) return { ok: false, why: error.message };
      throw error;
    }
  }

  async close(): Promise<void> {
    await this.pool.terminate(true);
  }

  /**
   * One file after another. The pool is given a file when the one before is done with, however that ended: where a process
   * is ended, what the pool itself had in line behind would wait for the next file that somebody brings.
   */
  private run(method: string, ...args: unknown[]): Promise<unknown> {
    const turn = this.line.then(() => this.decode(method, args));
    this.line = turn.catch(() => undefined);
    return turn;
  }

  private async decode(method: string, args: unknown[]): Promise<unknown> {
    const { longestMs } = this.limits;
    try {
      return await this.pool.exec(method, args).timeout(longestMs * PATIENCE);
    } catch (error) {
      if (error instanceof workerpool.Promise.TimeoutError || (error as Error).message.includes(TOO_LONG))
        throw new NotDecoded(`The file takes longer than ${Math.round(longestMs / 1000)} s to read, so it was given up.`);
      throw new NotDecoded('The file could not be read: it takes more memory than there is for it, or is broken.');
    }
  }
}
