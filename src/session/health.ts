/** Whether the server answers: asked so often that a stopped one is said within two seconds. */

/** @param onChange called when the answer differs from the one before; it is taken to answer at first @returns stops asking */
export function watchServer(onChange: (answers: boolean) => void): () => void {
  const worker = new Worker(new URL('../workers/health.worker.ts', import.meta.url), { type: 'module' });
  worker.addEventListener('message', ({ data }: MessageEvent<boolean>) => onChange(data));
  return () => worker.terminate();
}
