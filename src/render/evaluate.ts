/**
 * A scene evaluated without a screen: documents, a moment, a size and a count of samples in; a picture, light or numbers
 * out. The same documents and numbers give the same bytes, whatever is shown meanwhile through the same context.
 */
import { FloatType, NearestFilter, WebGLRenderTarget } from 'three';
import type { Picture } from '../core/base/picture.js';
import { peekText, type PeekLook, type PeekName } from '../core/analysis/peek.js';
import { pictureKey, type Effect } from '../core/effect/schema.js';
import { PAINT_TYPE } from '../core/formats/paintFile.js';
import type { MeshData } from '../core/mesh/mesh.js';
import type { Paint } from '../core/paint/paint.js';
import { Materials } from '../core/scene/materials.js';
import type { Stage } from '../core/scene/stage.js';
import { inVariant } from '../core/scene/wearing.js';
import { WornOnStage, steadyOf, type Worn } from '../core/scene/worn.js';
import { fillBlock } from '../core/targets/block.js';
import type { Size } from './frame.js';
import type { Graphics } from './graphics.js';
import type { View } from './looking.js';
import { StageRenderer } from './renderer.js';
import type { Panorama } from './surroundings.js';

export interface SceneDocuments {
  readonly effect: Effect;
  readonly stage: Stage;
  /** Effects that other props of the stage wear, by id; props whose effect is not here stay bare. */
  readonly others: ReadonlyMap<string, Effect>;
}

/** Where a scene's files come from. What rejects is left out: its prop, its image, its surroundings. */
export interface SceneAssets {
  mesh(sha256: string): Promise<MeshData>;
  /** Paint of props: four numbers a vertex. */
  paint(sha256: string): Promise<Paint>;
  picture(asset: Effect['assets'][string]): Promise<Picture>;
  /** @returns null where the stage's surroundings are a plain colour */
  panorama(stage: Stage): Promise<{ readonly id: string; readonly panorama: Panorama } | null>;
  /** Images that have come, by `pictureKey`. */
  readonly pictures: ReadonlyMap<string, Picture>;
}

export interface SceneRequest {
  readonly documents: SceneDocuments;
  readonly assets: SceneAssets;
  /** In which variant the effect is worn: null for its base. What the stage says where it is not given. */
  readonly variant?: string | null;
  /** From where it is seen: the effect's home viewpoint where it is not given. */
  readonly view?: View;
  /** One value of the sheet rather than the finished effect, and how it is shown. */
  readonly peek?: { readonly of: PeekName; readonly look: PeekLook };
}

export interface Shot {
  /** Seconds. */
  readonly time: number;
  /** Pixels. */
  readonly size: Size;
  /** Of a still, 1 to `STILL_SAMPLES`. */
  readonly samples: number;
  /** Without bloom and tone curve. */
  readonly raw?: boolean;
}

/** Waits between two samples, told how many there are. */
export type Between = (done: number) => Promise<void>;
const NOTHING: Between = () => Promise.resolve();

/** Rows from the top, of what the graphics card has from the bottom. */
function topFirst<T extends Float32Array | Uint8Array>(data: T, { width, height }: Size): T {
  const row = width * 4;
  const held = data.slice(0, row);
  for (let y = 0; y < height >> 1; y++) {
    const [above, below] = [y * row, (height - 1 - y) * row];
    held.set(data.subarray(above, above + row));
    data.copyWithin(above, below, below + row);
    data.set(held, below);
  }
  return data;
}

export class OpenScene {
  private constructor(
    private readonly renderer: StageRenderer,
    private readonly request: SceneRequest,
    private readonly stage: Stage,
    private readonly worn: readonly Worn[],
  ) {}

  /**
   * Brings everything that a scene needs together.
   * @param materials what has been made of sheets so far: those that differ in numbers only are not made again
   */
  static async open(
    graphics: Graphics,
    request: SceneRequest,
    materials = new Materials(request.assets.pictures),
  ): Promise<OpenScene> {
    const { documents, assets, variant, view } = request;
    const { effect, others } = documents;
    const stage = variant === undefined ? documents.stage : inVariant(documents.stage, effect, variant);
    const renderer = new StageRenderer(graphics, { onScreen: false });
    try {
      const effects = new Map([...others, [effect.id, effect]]);
      await provide(renderer, stage, [...effects.values()], assets);
      renderer.setStage(stage);
      renderer.looking.from(view ?? stage.viewpoints.find((v) => v.id === effect.home?.viewpoint) ?? stage.viewpoints[0]!);
      const onStage = new WornOnStage(materials);
      const worn = onStage.update(stage, effects, effect);
      await renderer.dressing.dress(worn, undefined, onStage.copies);
      renderer.dressing.bring(onStage);
      const scene = new OpenScene(renderer, request, stage, worn);
      await scene.beginPeek();
      return scene;
    } catch (error) {
      renderer.dispose();
      throw error;
    }
  }

  private get graphics(): Graphics {
    return this.renderer.graphics;
  }

  private peeks: readonly { readonly worn: Worn; readonly text: NonNullable<ReturnType<typeof peekText>> }[] = [];

  private async beginPeek(): Promise<void> {
    const { peek, documents } = this.request;
    if (!peek) return;
    this.peeks = this.worn.flatMap((worn) => {
      const text = worn.shown.id === documents.effect.id ? peekText(worn.program, peek.of) : null;
      return text ? [{ worn, text }] : [];
    });
    if (this.peeks.length === 0) throw new Error('The sheet has no such value to peek at.');
    this.renderer.frame.peekLook = peek.look;
    await this.renderer.wearPeek(this.peeks.map(({ worn, text }) => ({ prop: worn.prop, text, finish: worn.material.finish })));
  }

  private set({ time, size }: Pick<Shot, 'time' | 'size'>): void {
    const { renderer, stage } = this;
    const limit = this.graphics.renderer.capabilities.maxTextureSize;
    if (Math.max(size.width, size.height) > limit)
      throw new Error(`The picture is too large for this graphics card, which draws up to ${limit} pixels a side.`);
    const { pixels } = renderer.frame;
    if (pixels.width !== size.width || pixels.height !== size.height) renderer.resize(size);
    const { pictures } = this.request.assets;
    renderer.dressing.fill(stage, time, pictures);
    for (const { worn, text } of this.peeks)
      renderer.peek.setBlock(
        worn.prop,
        text,
        fillBlock(text, worn.params, time, worn.shown.loop, steadyOf(stage, worn.prop), pictures),
      );
  }

  /** What is shown, encoded for the display: RGBA, opaque, rows from the top. */
  async picture(shot: Shot, between: Between = NOTHING): Promise<Uint8ClampedArray<ArrayBuffer>> {
    const { size, samples, raw = false } = shot;
    this.set(shot);
    const { frame, peek } = this.renderer;
    const target = new WebGLRenderTarget(size.width, size.height, { depthBuffer: false });
    try {
      // A peek is of one moment and one place in the pixel: a mean of values is no value.
      if (peek.on || samples <= 1) {
        frame.draw({ raw, adapt: false, into: target });
        await between(1);
      } else frame.showLight(await frame.gather(samples, between), raw, target);
      const data = new Uint8Array(size.width * size.height * 4);
      await this.read(target, size, data);
      for (let k = 3; k < data.length; k += 4) data[k] = 255;
      return new Uint8ClampedArray(topFirst(data, size).buffer);
    } finally {
      target.dispose();
    }
  }

  /** Light that reaches the eye: scene-linear, before exposure and bloom; RGBA floats, rows from the top. */
  async light(shot: Shot, between: Between = NOTHING): Promise<Float32Array<ArrayBuffer>> {
    const { size, samples } = shot;
    this.set(shot);
    const { frame, graphics } = this.renderer;
    const { renderer } = graphics;
    const light = await frame.gather(samples, between);
    const target = new WebGLRenderTarget(size.width, size.height, {
      ...{ type: FloatType, minFilter: NearestFilter, magFilter: NearestFilter, depthBuffer: false },
    });
    try {
      renderer.initRenderTarget(target);
      renderer.copyTextureToTexture(light, target.texture);
      const data = new Float32Array(size.width * size.height * 4);
      await this.read(target, size, data);
      return topFirst(data, size);
    } finally {
      target.dispose();
    }
  }

  /** @throws where the graphics card let go of the context */
  private async read(target: WebGLRenderTarget, { width, height }: Size, data: Uint8Array | Float32Array): Promise<void> {
    // What three throws then says nothing.
    await this.graphics.renderer.readRenderTargetPixelsAsync(target, 0, 0, width, height, data).catch(() => this.keptContext());
    this.keptContext();
  }

  /** What was drawn meanwhile would be black. @throws where the graphics card let go of the context */
  private keptContext(): void {
    if (this.graphics.lost) throw new Error('The graphics card let go of the picture while it was drawn.');
  }

  /**
   * What is peeked at, pixel by pixel: three numbers of the value, then 0 no surface, 1 numbers, 2 not finite; rows from
   * the top. @throws where the request peeks at nothing
   */
  async numbers({ time, size }: Pick<Shot, 'time' | 'size'>): Promise<Float32Array<ArrayBuffer>> {
    if (this.peeks.length === 0) throw new Error('Nothing is peeked at.');
    this.set({ time, size });
    const target = new WebGLRenderTarget(1, 1, { depthBuffer: false });
    try {
      this.renderer.frame.draw({ adapt: false, into: target });
      const values = (await this.renderer.peek.values()) as Float32Array<ArrayBuffer>;
      this.keptContext();
      return topFirst(values, size);
    } finally {
      target.dispose();
    }
  }

  dispose(): void {
    this.renderer.dispose();
  }
}

async function provide(renderer: StageRenderer, stage: Stage, effects: readonly Effect[], assets: SceneAssets): Promise<void> {
  const quietly = <T>(wanted: Promise<T>, use: (value: T) => void) => wanted.then(use, () => undefined);
  await Promise.all([
    ...Object.values(stage.assets).map(({ sha256, type }) =>
      type === PAINT_TYPE
        ? quietly(assets.paint(sha256), (paint) => renderer.providePaint(sha256, paint))
        : quietly(assets.mesh(sha256), (mesh) => renderer.provideMesh(sha256, mesh)),
    ),
    ...effects
      .flatMap((e) => Object.values(e.assets))
      .map((asset) => quietly(assets.picture(asset), (picture) => renderer.providePicture(pictureKey(asset), picture))),
    quietly(assets.panorama(stage), (found) => found && renderer.providePanorama(found.id, found.panorama)),
  ]);
}
