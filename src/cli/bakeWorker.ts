/** A thread of `wispen bake`: bakes the frames it is sent, each into a file of its own. */
import { parentPort, workerData } from 'node:worker_threads';
import type { Effect } from '../core/effect/schema.js';
import type { OutputName } from '../core/effect/outputs.js';
import { beyondHalf, pictureFile, textureBake, type BakeFormat } from '../core/export/texture.js';
import type { Picture } from '../core/base/picture.js';
import { writeWhole } from './files.js';

export interface BakeWork {
  readonly effect: Effect;
  readonly pictures: ReadonlyMap<string, Picture>;
  readonly output: OutputName;
  readonly width: number;
  readonly height: number;
  readonly format: BakeFormat;
}
export type ToThread = { readonly frame: number; readonly path: string };
export type FromThread =
  { readonly ready: true } | { readonly done: number; readonly beyond: number } | { readonly failed: string };

const port = parentPort!;
const { effect, pictures, output, width, height, format } = workerData as BakeWork;
const say = (message: FromThread) => port.postMessage(message);

const made = textureBake(effect, output, width, height, pictures);
if (!made.ok) say({ failed: made.problem.message });
else {
  port.on('message', ({ frame, path }: ToThread) => {
    try {
      const planes = made.bake.frame(frame);
      writeWhole(path, pictureFile(planes, width, height, output, format));
      say({ done: frame, beyond: format === 'exr' ? beyondHalf(planes) : 0 });
    } catch (error) {
      say({ failed: (error as Error).message });
    }
  });
  say({ ready: true });
}
