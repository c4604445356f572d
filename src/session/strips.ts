/**
 * The Library's pictures: each effect over its loop on its home stage, drawn once and kept by the server as one WebP
 * of 6 x 4 frames. One renderer draws them all, in the gaps of the page's other work.
 */
import { pictureKey, type Effect } from '../core/effect/schema.js';
import { effectsOn } from '../core/scene/wearing.js';
import type { Stage } from '../core/scene/stage.js';
import { StageRenderer } from '../render/renderer.js';
import { loadEffect, loadStage } from './api.js';
import { FIRST_STAGE } from './exports.js';
import { loadPicture } from './images.js';
import { meshOf } from './meshes.js';
import { STRIP_ACROSS, STRIP_DOWN, STRIP_FRAMES, STRIP_HEIGHT, STRIP_SPAN, STRIP_WIDTH } from './stripShape.js';
import { surround } from './surroundings.js';
import { Wardrobe } from './wardrobe.js';

const QUALITY = 0.86;

const breath = (): Promise<void> =>
  new Promise((r) => ('requestIdleCallback' in window ? requestIdleCallback(() => r(), { timeout: 200 }) : setTimeout(r, 16)));

/** Mean of the green channel of a frame, which is near enough to how bright it looks. */
function brightness(frame: Uint8ClampedArray): number {
  let sum = 0;
  for (let k = 1; k < frame.length; k += 16) sum += frame[k]!;
  return sum;
}

export class StripPainter {
  private readonly canvas = document.createElement('canvas');
  private readonly renderer: StageRenderer;
  private stopped = false;
  private tail: Promise<unknown> = Promise.resolve();

  /** @throws where there is no WebGL2 */
  constructor() {
    this.renderer = new StageRenderer(this.canvas);
    this.renderer.resize(STRIP_WIDTH, STRIP_HEIGHT, 1);
  }

  /** Draws an effect's strip and hands it to the server. @returns whether it was stored; one effect after another */
  paint(id: string, key: string): Promise<boolean> {
    const turn = this.tail.then(() => (this.stopped ? false : this.paintNow(id, key)));
    this.tail = turn.catch(() => undefined);
    return turn;
  }

  private async paintNow(id: string, key: string): Promise<boolean> {
    const { document: effect } = await loadEffect(id);
    const { document: stage } = await loadStage(effect.home?.stage ?? FIRST_STAGE).catch(() => loadStage(FIRST_STAGE));
    const wardrobe = await this.furnish(effect, stage);
    const { renderer } = this;
    renderer.lookFrom(stage.viewpoints.find((v) => v.id === effect.home?.viewpoint) ?? stage.viewpoints[0]!);
    await wardrobe.dress(renderer);
    const frames: ImageData[] = [];
    const small = new OffscreenCanvas(STRIP_WIDTH, STRIP_HEIGHT).getContext('2d', { willReadFrequently: true })!;
    const span = effect.loop ?? STRIP_SPAN;
    for (let k = 0; k < STRIP_FRAMES; k++) {
      await breath();
      if (this.stopped) return false;
      wardrobe.fill(renderer, stage, (k / STRIP_FRAMES) * span);
      renderer.draw({ adapt: false });
      small.drawImage(this.canvas, 0, 0);
      frames.push(small.getImageData(0, 0, STRIP_WIDTH, STRIP_HEIGHT));
    }
    const blob = await this.compose(frames, effect.loop !== null);
    const response = await fetch(`/api/effects/${encodeURIComponent(id)}/strip?key=${encodeURIComponent(key)}`, {
      method: 'PUT',
      body: blob,
    });
    return response.ok;
  }

  private async furnish(effect: Effect, stage: Stage): Promise<Wardrobe> {
    const effects = new Map<string, Effect>([[effect.id, effect]]);
    await Promise.all(
      effectsOn(stage)
        .filter((other) => other !== effect.id)
        .map((other) =>
          loadEffect(other).then(
            ({ document }) => void effects.set(other, document),
            () => undefined,
          ),
        ),
    );
    await Promise.all(
      Object.values(stage.assets).map(({ sha256 }) =>
        meshOf(sha256).then(
          (mesh) => this.renderer.provide(sha256, mesh),
          () => undefined,
        ),
      ),
    );
    const images = [...effects.values()].flatMap((e) => Object.values(e.assets));
    await Promise.all(
      images.map((asset) =>
        loadPicture(asset).then(
          (picture) => this.renderer.providePicture(pictureKey(asset), picture),
          () => undefined,
        ),
      ),
    );
    await surround(this.renderer, stage).catch(() => undefined);
    this.renderer.setStage(stage);
    const wardrobe = new Wardrobe();
    wardrobe.update(stage, effects, effect);
    return wardrobe;
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

  stop(): void {
    this.stopped = true;
    void this.tail.then(() => this.renderer.dispose());
  }
}
