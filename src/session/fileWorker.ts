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
