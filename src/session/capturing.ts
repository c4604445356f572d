/** Pictures of the open bench as files: its documents drawn anew, at a size of their own, while the bench goes on. */
import { lookAt } from './peeking.js';
import { OpenScene } from '../render/evaluate.js';
import type { Size } from '../render/frame.js';
import { SceneQueue } from '../render/queue.js';
import type { Clock } from './clock.js';
import type { Compiling } from './compiling.js';
import type { Frames } from './frames.js';
import { SCENE_ASSETS } from './sceneAssets.js';
import type { BenchStore } from './state.js';

export interface CapturedPorts {
  readonly store: BenchStore;
  readonly clock: Pick<Clock, 'time'>;
  readonly compiling: Pick<Compiling, 'materials' | 'otherEffects'>;
  readonly frames: Pick<Frames, 'view'>;
}

const queue = new SceneQueue();

/**
 * What the stage shows now: its moment, its view, with or without optics, or what is peeked at.
 * @param samples of a still, 1 to `STILL_SAMPLES`; @param onSample told how many there are
 * @returns a PNG
 * @throws with a sentence where there is no stage, or the picture is too large
 */
export async function capture(
  { store, clock, compiling, frames }: CapturedPorts,
  size: Size,
  samples: number,
  onSample: (done: number) => void = () => undefined,
): Promise<Blob> {
  const { view } = frames;
  if (!view) throw new Error('There is no stage to take a picture of.');
  const { effect, stage, raw, peek } = store.getState();
  const { time } = clock;
  const look = view.looking.view;
  const pixels = await queue.run(
    async (turn) => {
      const documents = { effect, stage, others: compiling.otherEffects };
      const scene = await OpenScene.open(
        view.graphics,
        { documents, assets: SCENE_ASSETS, view: look, ...(peek ? { peek: { of: peek.of, look: lookAt(peek) } } : {}) },
        compiling.materials,
      );
      try {
        return await scene.picture({ time, size, samples, raw }, (done) => {
          onSample(done);
          return turn.next();
        });
      } finally {
        scene.dispose();
      }
    },
    { priority: 'asked' },
  );
  const canvas = new OffscreenCanvas(size.width, size.height);
  canvas.getContext('2d')!.putImageData(new ImageData(pixels, size.width), 0, 0);
  return canvas.convertToBlob({ type: 'image/png' });
}
