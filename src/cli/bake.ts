/** `wispen bake`: an output in texture space, a file a frame, by several threads. */
import { rmSync } from 'node:fs';
import { cpus } from 'node:os';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { OUTPUTS, type OutputName } from '../core/effect/outputs.js';
import { withVariant } from '../core/effect/variant.js';
import { BAKE_FORMATS, MAX_BAKE_SIDE, MOST_OF_HALF, textureBake, type BakeFormat } from '../core/export/texture.js';
import type { BakeWork, FromThread, ToThread } from './bakeWorker.js';
import { folderFor, partOf } from './files.js';
import { BadInput, WrongUsage, effectAndPictures, variantNamed } from './input.js';

export interface BakeOptions {
  readonly output: string;
  readonly size: string;
  readonly frames: string;
  readonly format: string;
  readonly out: string;
  readonly threads: string | null;
  readonly variant: string | null;
}

const MAX_FRAMES = 100_000;

/** `512` or `512x256`. */
function sides(text: string): [number, number] {
  const match = /^(\d{1,5})(?:x(\d{1,5}))?$/.exec(text);
  const [width, height] = match ? [Number(match[1]), Number(match[2] ?? match[1])] : [0, 0];
  if (!match || width < 1 || height < 1 || width > MAX_BAKE_SIDE || height > MAX_BAKE_SIDE)
    throw new WrongUsage(`--size takes a number of pixels or WIDTHxHEIGHT, from 1 to ${MAX_BAKE_SIDE}, not ${text}`);
  return [width, height];
}

/** `7` or `0-63`; both ends count. */
function frameList(text: string): number[] {
  const match = /^(\d{1,9})(?:-(\d{1,9}))?$/.exec(text);
  const [first, last] = match ? [Number(match[1]), Number(match[2] ?? match[1])] : [1, 0];
  if (!match || last < first) throw new WrongUsage(`--frames takes a number or FIRST-LAST, not ${text}`);
  if (last - first >= MAX_FRAMES) throw new WrongUsage(`--frames takes at most ${MAX_FRAMES} frames`);
  return Array.from({ length: last - first + 1 }, (_, k) => first + k);
}

export async function bake(file: string, options: BakeOptions): Promise<number> {
  const [width, height] = sides(options.size);
  const frames = frameList(options.frames);
  if (!(BAKE_FORMATS as readonly string[]).includes(options.format))
    throw new WrongUsage(`there is no format ${options.format}; there are ${BAKE_FORMATS.join(', ')}`);
  const threads = options.threads === null ? cpus().length : Number(options.threads);
  if (!Number.isInteger(threads) || threads < 1 || threads > 64)
    throw new WrongUsage(`--threads takes 1 to 64, not ${options.threads}`);
  const { effect: base, pictures } = await effectAndPictures(file);
  const effect = withVariant(base, options.variant === null ? null : variantNamed(file, base, options.variant));
  const output = options.output as OutputName;
  if (!(OUTPUTS[effect.kind] as readonly string[]).includes(output))
    throw new WrongUsage(`a ${effect.kind} effect has no output ${options.output}; it has ${OUTPUTS[effect.kind].join(', ')}`);
  // Everything that can be wrong is found before the first thread starts and the first file is made.
  const tried = textureBake(effect, output, 4, 4, pictures);
  if (!tried.ok) throw new BadInput(`${file}: ${tried.problem.message}`);
  folderFor(options.out);
  const digits = Math.max(4, String(frames[frames.length - 1]).length);
  const pathOf = (frame: number) => join(options.out, `${output}.${String(frame).padStart(digits, '0')}.${options.format}`);
  const work: BakeWork = { effect, pictures, output, width, height, format: options.format as BakeFormat };
  return runThreads(work, frames, pathOf, Math.min(threads, frames.length));
}

function runThreads(
  work: BakeWork,
  frames: readonly number[],
  pathOf: (frame: number) => string,
  threads: number,
): Promise<number> {
  return new Promise((resolve) => {
    const workers: Worker[] = [];
    let next = 0;
    let done = 0;
    let beyond = 0;
    let over = false;
    const begun = new Set<string>();
    const finish = (code: number, message: string | null) => {
      if (over) return;
      over = true;
      void Promise.all(workers.map((w) => w.terminate())).then(() => {
        // What a stopped thread was in the middle of, and nothing else.
        for (const path of begun) rmSync(partOf(path), { force: true });
        if (message) console.error(`wispen: ${message}`);
        if (beyond > 0)
          console.error(
            `wispen: ${beyond} values are beyond ${MOST_OF_HALF.toLocaleString('en')}, the most that a half float of an EXR holds, and are written as that.`,
          );
        resolve(code);
      });
    };
    const interrupted = () => finish(1, `stopped after ${done} of ${frames.length} frames; those are whole.`);
    process.on('SIGINT', interrupted);
    process.on('SIGTERM', interrupted);
    const began = performance.now();
    const give = (worker: Worker) => {
      const frame = frames[next++];
      if (frame === undefined) return;
      begun.add(pathOf(frame));
      worker.postMessage({ frame, path: pathOf(frame) } satisfies ToThread);
    };
    for (let k = 0; k < threads; k++) {
      const worker = new Worker(new URL('./bakeThread.mjs', import.meta.url), { workerData: work });
      workers.push(worker);
      worker.on('error', (error) => finish(1, `a thread failed: ${error.message}.`));
      worker.on('message', (message: FromThread) => {
        if (over) return;
        if ('failed' in message) return finish(1, message.failed);
        if ('done' in message) {
          done++;
          beyond += message.beyond;
          begun.delete(pathOf(message.done));
          const seconds = (performance.now() - began) / 1000;
          const left = (seconds / done) * (frames.length - done);
          console.error(`${done} of ${frames.length} frames, ${left.toFixed(0)} s left`);
          console.log(pathOf(message.done));
          if (done === frames.length) return finish(0, null);
        }
        give(worker);
      });
    }
  });
}
