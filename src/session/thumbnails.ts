/** Small pictures of other states of the open bench, drawn one after another while nothing else is asked of the card. */
import { writeEffect } from '../core/effect/write.js';
import { textHash } from '../core/base/textHash.js';
import { writeStage } from '../core/scene/stage.js';
import { OpenScene } from '../render/evaluate.js';
import { SceneQueue } from '../render/queue.js';
import type { CapturedPorts } from './capturing.js';
import { SCENE_ASSETS } from './sceneAssets.js';
import type { Both } from './state.js';

/** Pixels: two for each that is shown. */
export const THUMBNAIL = { width: 128, height: 80 };
/** So many are kept; the oldest go. */
const MOST = 200;

export class Thumbnails {
  private readonly queue = new SceneQueue();
  private readonly made = new Map<string, Promise<ImageData>>();

  constructor(private readonly ports: CapturedPorts) {}

  /**
   * What the stage would show of these documents, from where it is looked at now, at the time that is shown.
   * @throws where there is no stage, or `signal` ends it
   */
  of({ effect, stage }: Both, signal: AbortSignal): Promise<ImageData> {
    const { view } = this.ports.frames;
    if (!view) return Promise.reject(new Error('There is no stage to take a picture of.'));
    const look = view.looking.view;
    const key = textHash(writeEffect(effect) + writeStage(stage) + JSON.stringify([look, this.ports.clock.time]));
    const found = this.made.get(key);
    if (found) return found;
    const made = this.draw({ effect, stage }, signal);
    this.made.set(key, made);
    // One that is given up is drawn anew for whoever asks next.
    const forget = () => this.made.delete(key);
    signal.addEventListener('abort', forget, { once: true });
    made.then(() => signal.removeEventListener('abort', forget), forget);
    for (const old of [...this.made.keys()].slice(0, Math.max(0, this.made.size - MOST))) this.made.delete(old);
    return made;
  }

  private draw({ effect, stage }: Both, signal: AbortSignal): Promise<ImageData> {
    const { clock, compiling, frames } = this.ports;
    return this.queue.run(
      async (turn) => {
        await turn.next();
        const { view } = frames;
        if (!view) throw new Error('The stage is gone.');
        const documents = { effect, stage, others: compiling.otherEffects };
        const request = { documents, assets: SCENE_ASSETS, view: view.looking.view };
        const scene = await OpenScene.open(view.graphics, request, compiling.materials);
        try {
          const shot = { time: clock.time, size: THUMBNAIL, samples: 1 };
          return new ImageData(await scene.picture(shot), THUMBNAIL.width);
        } finally {
          scene.dispose();
        }
      },
      { priority: 'idle', signal },
    );
  }
}
