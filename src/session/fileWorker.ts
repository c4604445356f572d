/** Work on a file on the page: in a worker of its own that is ended when it answers, dies, or takes too long. */
import { wrap, type Remote } from 'comlink';

/** Reading a file takes so long at most; one of the largest size takes a tenth of it on a slow machine that is busy. */
export const LONGEST_MS = 180_000;

/** The part of a worker that is used here. */
export type FileWorker = Pick<Worker, 'postMessage' | 'terminate' | 'addEventListener' | 'removeEventListener'>;

/**
 * @param work asks the worker; its failure is the sentence of what is wrong
 * @throws with a sentence
 */
export function inWorker<Api, T>(
  worker: FileWorker,
  work: (remote: Remote<Api>) => Promise<T>,
  longestMs = LONGEST_MS,
): Promise<T> {
  let late: ReturnType<typeof setTimeout>;
  return new Promise<T>((resolve, reject) => {
    worker.addEventListener('error', () =>
      reject(new Error('It could not be read: it is broken, or takes more memory than there is.')),
    );
    late = setTimeout(
      () => reject(new Error(`It takes longer than ${Math.round(longestMs / 1000)} s to read, so it was given up.`)),
      longestMs,
    );
    work(wrap<Api>(worker)).then(resolve, reject);
  }).finally(() => {
    clearTimeout(late);
    worker.terminate();
  });
}

/**
 * A worker that stays for the next piece of work. One that dies takes what it was asked with it, with a sentence, and the
 * next piece of work has a new one.
 */
export class LastingWorker<Api> {
  private worker: FileWorker | null = null;
  private remote: Remote<Api> | null = null;
  private readonly asked = new Set<(error: Error) => void>();

  constructor(private readonly make: () => FileWorker) {}

  /** Has it there before it is needed. */
  begin(): Remote<Api> {
    if (this.remote) return this.remote;
    const worker = (this.worker = this.make());
    worker.addEventListener('error', () => {
      if (this.worker !== worker) return;
      this.end();
    });
    return (this.remote = wrap<Api>(worker));
  }

  /** @throws with a sentence */
  ask<T>(work: (remote: Remote<Api>) => Promise<T>, longestMs = LONGEST_MS): Promise<T> {
    let fail: (error: Error) => void;
    // What never answers is ended, with all that waits behind it: a worker does one thing after another.
    const late = setTimeout(() => this.end(), longestMs);
    return new Promise<T>((resolve, reject) => {
      this.asked.add((fail = reject));
      work(this.begin()).then(resolve, reject);
    }).finally(() => {
      clearTimeout(late);
      this.asked.delete(fail);
    });
  }

  private end(): void {
    this.worker?.terminate();
    this.worker = this.remote = null;
    const asked = [...this.asked];
    this.asked.clear();
    for (const tell of asked)
      tell(new Error('What was working on it stopped: it is broken, or takes more memory than there is.'));
  }
}

/** The same of a file with a name. @throws with a sentence, `NAME was not opened. …` */
export const readInWorker = <Api, T>(
  worker: FileWorker,
  name: string,
  work: (remote: Remote<Api>) => Promise<T>,
  longestMs?: number,
): Promise<T> =>
  inWorker(worker, work, longestMs).catch((error: Error) => {
    throw new Error(`${name} was not opened. ${error.message}`);
  });
