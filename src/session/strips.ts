/**
 * The Library's pictures: each effect over its loop on its home stage, drawn once and kept by the server as one WebP
 * of 6 x 4 frames. One renderer draws them all, in the gaps of the page's other work.
 */
import { effectsOn } from '../core/scene/wearing.js';
import type { Effect } from '../core/effect/schema.js';
import type { Stage } from '../core/scene/stage.js';
import { OpenScene, type SceneDocuments } from '../render/evaluate.js';
import { HiddenGraphics } from '../render/graphics.js';
import { SceneQueue, type Turn } from '../render/queue.js';
import { loadEffect, loadStage } from './api.js';
import { FIRST_STAGE } from './exports.js';
import { SCENE_ASSETS } from './sceneAssets.js';
import { STRIP_ACROSS, STRIP_DOWN, STRIP_FRAMES, STRIP_HEIGHT, STRIP_SPAN, STRIP_WIDTH } from './stripShape.js';

const QUALITY = 0.86;
/** Samples of a frame: edges and the noise of dithering settle with the first few. */
const SAMPLES = 4;

/** Mean of the green channel of a frame, which is near enough to how bright it looks. */
function brightness(frame: Readonly<Uint8ClampedArray>): number {
  let sum = 0;
  for (let k = 1; k < frame.length; k += 16) sum += frame[k]!;
  return sum;
}

/** An effect on its home stage, with what else is worn there; props whose effect cannot be had stay bare. */
async function documentsOf(id: string): Promise<SceneDocuments> {
  const { document: effect } = await loadEffect(id);
  const { document: stage } = await loadStage(effect.home?.stage ?? FIRST_STAGE).catch(() => loadStage(FIRST_STAGE));
  return { effect, stage, others: await othersOn(stage, effect) };
}

/** What else is worn on a stage; props whose effect cannot be had stay bare. */
export async function othersOn(stage: Stage, effect: Effect): Promise<Map<string, Effect>> {
  const ids = effectsOn(stage).filter((other) => other !== effect.id);
  const found = await Promise.all(
    ids.map((other) =>
      loadEffect(other).then(
        ({ document }) => [[other, document] as const],
        () => [],
      ),
    ),
  );
  return new Map(found.flat());
}

export class StripPainter {
  private readonly graphics = new HiddenGraphics();
  private readonly queue = new SceneQueue();
  private readonly stopping = new AbortController();

  /** @throws where there is no WebGL2 */
  constructor() {
    void this.graphics.now;
  }

  /** Draws an effect's strip and hands it to the server. @returns whether it was stored; one effect after another */
  async paint(id: string, key: string): Promise<boolean> {
    const { signal } = this.stopping;
    try {
      return await this.queue.run((turn) => this.paintNow(id, key, turn), { priority: 'idle', signal });
    } catch (error) {
      if (signal.aborted) return false;
      throw error;
    }
  }

  private async paintNow(id: string, key: string, turn: Turn): Promise<boolean> {
    const documents = await documentsOf(id);
    const { loop } = documents.effect;
    const scene = await OpenScene.open(this.graphics.now, { documents, assets: SCENE_ASSETS });
    const frames: ImageData[] = [];
    try {
      const size = { width: STRIP_WIDTH, height: STRIP_HEIGHT };
      for (let k = 0; k < STRIP_FRAMES; k++) {
        await turn.next();
        const time = (k / STRIP_FRAMES) * (loop ?? STRIP_SPAN);
        frames.push(new ImageData(await scene.picture({ time, size, samples: SAMPLES }), STRIP_WIDTH));
      }
    } finally {
      scene.dispose();
    }
    const blob = await this.compose(frames, loop !== null);
    const response = await fetch(`/api/effects/${encodeURIComponent(id)}/strip?key=${encodeURIComponent(key)}`, {
      method: 'PUT',
      body: blob,
    });
    return response.ok;
  }

  /** The brightest frame goes first: it is the one that is seen while the card is still. A loop may begin anywhere. */
  private compose(frames: readonly ImageData[], loops: boolean): Promise<Blob> {
    const bright = frames.map((f) => brightness(f.data));
    const first = loops ? bright.indexOf(Math.max(...bright)) : 0;
    const sheet = new OffscreenCanvas(STRIP_WIDTH * STRIP_ACROSS, STRIP_HEIGHT * STRIP_DOWN);
    const context = sheet.getContext('2d')!;
    frames.forEach((_, k) =>
      context.putImageData(
        frames[(first + k) % frames.length]!,
        (k % STRIP_ACROSS) * STRIP_WIDTH,
        Math.floor(k / STRIP_ACROSS) * STRIP_HEIGHT,
      ),
    );
    return sheet.convertToBlob({ type: 'image/webp', quality: QUALITY });
  }

  /** Ends what is under way, and lets go of the context when it has ended. */
  stop(): void {
    this.stopping.abort(new Error('The Library was left.'));
    void this.queue.run(() => Promise.resolve(), { priority: 'idle' }).then(() => this.graphics.dispose());
  }
}
