/** Pictures of stages that are nobody's: drawn once a visit, from their first viewpoint, in the gaps of the page's other work. */
import { emptyEffect } from '../core/effect/schema.js';
import { OpenScene } from '../render/evaluate.js';
import { HiddenGraphics } from '../render/graphics.js';
import { SceneQueue } from '../render/queue.js';
import { loadStage } from './api.js';
import { SCENE_ASSETS } from './sceneAssets.js';
import { othersOn } from './strips.js';
import { STRIP_HEIGHT, STRIP_WIDTH } from './stripShape.js';

const SAMPLES = 4;

export class StagePainter {
  private readonly graphics = new HiddenGraphics();
  private readonly queue = new SceneQueue();
  private readonly stopping = new AbortController();

  /** @returns the address of a picture for as long as the page lives @throws where it cannot be drawn, or was left */
  paint(id: string): Promise<string> {
    return this.queue.run(
      async (turn) => {
        const { document: stage } = await loadStage(id);
        const effect = { ...emptyEffect('nobody', 'No effect'), kind: 'light' as const };
        const documents = { effect, stage, others: await othersOn(stage, effect) };
        const view = stage.viewpoints[0]!;
        const scene = await OpenScene.open(this.graphics.now, { documents, assets: SCENE_ASSETS, view });
        try {
          const size = { width: STRIP_WIDTH, height: STRIP_HEIGHT };
          const pixels = await scene.picture({ time: 0, size, samples: SAMPLES }, () => turn.next());
          const canvas = new OffscreenCanvas(STRIP_WIDTH, STRIP_HEIGHT);
          canvas.getContext('2d')!.putImageData(new ImageData(pixels, STRIP_WIDTH), 0, 0);
          return URL.createObjectURL(await canvas.convertToBlob());
        } finally {
          scene.dispose();
        }
      },
      { priority: 'idle', signal: this.stopping.signal },
    );
  }

  stop(): void {
    this.stopping.abort(new Error('The stages were left.'));
    void this.queue.run(() => Promise.resolve(), { priority: 'idle' }).then(() => this.graphics.dispose());
  }
}
