/** Reading a stranger's file on the page: in a worker of its own that is ended when it answers, dies, or takes too long. */

/** Reading a file takes so long at most; one of the largest size takes a tenth of it on a slow machine that is busy. */
export const LONGEST_MS = 180_000;

/** What a worker says of a file, once. */
export type Verdict<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly why: string } | null;

/** The part of a worker that is used here. */
export type FileWorker = Pick<Worker, 'postMessage' | 'terminate' | 'addEventListener'>;

/**
 * @param heed makes of a message what it says; null when it is not the end yet
 * @throws with a sentence, `NAME was not opened. …`
 */
export function readInWorker<T>(
  worker: FileWorker,
  name: string,
  request: object,
  bytes: ArrayBuffer,
  heed: (data: never) => Verdict<T>,
  longestMs = LONGEST_MS,
): Promise<T> {
  let late: ReturnType<typeof setTimeout>;
  return new Promise<T>((resolve, reject) => {
    const refuse = (why: string) => reject(new Error(`${name} was not opened. ${why}`));
    worker.addEventListener('message', ({ data }) => {
      const verdict = heed(data as never);
      if (verdict?.ok) resolve(verdict.value);
      else if (verdict) refuse(verdict.why);
    });
    worker.addEventListener('error', () => refuse('It could not be read: it is broken, or takes more memory than there is.'));
    late = setTimeout(
      () => refuse(`It takes longer than ${Math.round(longestMs / 1000)} s to read, so it was given up.`),
      longestMs,
    );
    worker.postMessage({ ...request, bytes }, [bytes]);
  }).finally(() => {
    clearTimeout(late);
    worker.terminate();
  });
}
