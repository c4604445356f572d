/** A thread of `wispen bake`: bakes the frames it is sent, each into a file of its own. */
import { renameSync, unlinkSync, writeFileSync } from 'node:fs';
import { parentPort, workerData } from 'node:worker_threads';
import type { Effect, OutputName } from '../core/effect/schema.js';
import { pictureFile, textureBake, type BakeFormat } from '../core/formats/texture.js';
import { picturesFor } from './pictures.js';

export interface BakeWork {
  readonly effect: Effect;
  readonly assets: ReadonlyMap<string, Uint8Array<ArrayBuffer>>;
  readonly output: OutputName;
  readonly width: number;
  readonly height: number;
  readonly format: BakeFormat;
}
export type ToThread = { readonly frame: number; readonly path: string };
export type FromThread = { readonly ready: true } | { readonly done: number } | { readonly failed: string };

const port = parentPort!;
const { effect, assets, output, width, height, format } = workerData as BakeWork;
const say = (message: FromThread) => port.postMessage(message);

const made = textureBake(effect, output, width, height, await picturesFor(effect, assets));
if (!made.ok) say({ failed: made.problem.message });
else {
  port.on('message', ({ frame, path }: ToThread) => {
    const part = `${path}.part`;
    try {
      // Written beside the target first: whatever happens, a file of its name is whole.
      writeFileSync(part, pictureFile(made.bake.frame(frame), width, height, output, format));
      renameSync(part, path);
      say({ done: frame });
    } catch (error) {
      try {
        unlinkSync(part);
      } catch {
        // It was not begun.
      }
      say({ failed: `${path} cannot be written: ${(error as Error).message}.` });
    }
  });
  say({ ready: true });
}
