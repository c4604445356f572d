/**
 * Frames of a scene: the opaque part, what is see-through over it, samples of a still, and what is shown of them. A slow
 * machine gets a smaller picture while something moves.
 */
import { DepthTexture, FloatType, HalfFloatType, PerspectiveCamera, WebGLRenderTarget, type Texture } from 'three';
import type { PeekLook } from '../core/analysis/peek.js';
import type { Optics, Stage } from '../core/scene/stage.js';
import { opticsAt } from '../core/scene/zones.js';
import type { BehindPass } from './behind.js';
import { reducedOf } from './geometry.js';
import type { Graphics } from './graphics.js';
import { NOTHING, OPAQUE, SEE_THROUGH } from './layers.js';
import { OpticsPasses } from './optics.js';
import type { PaintView } from './paintView.js';
import type { PeekPass } from './peek.js';
import type { ProgramState } from './programState.js';
import type { Scenery } from './scenery.js';
import { STILL_SAMPLES, Still, jitterOf, lightPlaceOf } from './still.js';

/** Frames slower than this lower the resolution. */
const SLOW_MS = 50;

export interface Size {
  readonly width: number;
  readonly height: number;
}

export class Frame {
  readonly optics: OpticsPasses;
  private readonly still: Still;
  /** A frame drawn for its shadows alone. */
  private readonly shadowTarget = new WebGLRenderTarget(1, 1);
  private picture: WebGLRenderTarget | null = null;
  /** How a peek shows its values. */
  peekLook: PeekLook | null = null;
  /** While something is turned about, large meshes are drawn by their reduced copies. */
  coarse = false;
  private scale: number;
  private size: Size = { width: 1, height: 1 };
  private slow = 0;
  private timed = false;

  constructor(
    private readonly graphics: Graphics,
    private readonly scenery: Scenery,
    private readonly camera: PerspectiveCamera,
    private readonly state: ProgramState,
    private readonly behind: BehindPass,
    private readonly peek: PeekPass,
    private readonly paint: PaintView,
    /** Half the resolution always, for machines without a graphics card. */
    private readonly draft: boolean,
  ) {
    this.scale = draft ? 0.5 : 1;
    this.optics = new OpticsPasses(graphics.renderer);
    this.still = new Still(graphics.renderer);
  }

  /** In pixels. */
  get pixels(): Size {
    return this.size;
  }

  setSize(size: Size): void {
    this.size = size;
    this.camera.aspect = size.width / size.height;
    this.camera.updateProjectionMatrix();
    this.dropPicture();
  }

  private dropPicture(): void {
    this.picture?.dispose();
    this.picture = null;
  }

  /** The picture that was last drawn, scene-linear; null when nothing has been. */
  get drawn(): WebGLRenderTarget | null {
    return this.picture;
  }

  private target(): WebGLRenderTarget {
    const width = Math.max(1, Math.round(this.size.width * this.scale));
    const height = Math.max(1, Math.round(this.size.height * this.scale));
    const through = this.scenery.seesThrough || this.peek.on || this.paint.on;
    const old = this.picture;
    if (old && (old.width !== width || old.height !== height || (old.depthTexture !== null) !== through)) this.dropPicture();
    return (this.picture ??= new WebGLRenderTarget(width, height, {
      type: HalfFloatType,
      samples: this.scale < 1 ? 0 : 4,
      // What stands behind see-through surfaces is measured in it.
      ...(through ? { depthTexture: new DepthTexture(width, height, FloatType) } : {}),
    }));
  }

  /**
   * @param raw without bloom and tone curve; @param adapt lets slow frames lower the resolution
   * @param into where it is shown: the canvas, unless another is given
   */
  draw({
    raw = false,
    adapt = true,
    into = null,
  }: { raw?: boolean; adapt?: boolean; into?: WebGLRenderTarget | null } = {}): void {
    const { stage } = this.scenery;
    if (!stage) return;
    const began = performance.now();
    this.still.restart();
    this.state.sampleIndex.value = 0;
    const picture = this.target();
    const restore = this.drawReduced();
    this.drawScene(picture);
    restore();
    this.show(stage, picture.texture, picture, raw, into);
    // How long the card draws is known when it has drawn: handing it the work takes no time.
    if (adapt && !this.timed) {
      this.timed = true;
      void this.graphics.drawn().then(() => {
        this.timed = false;
        this.adapt(performance.now() - began);
      });
    }
  }

  private drawReduced(): () => void {
    if (!this.coarse) return () => undefined;
    const held = [...this.scenery.props.values()].map(({ mesh }) => ({ mesh, geometry: mesh.geometry }));
    // What is made of several things is drawn whole: the reduced copy does not tell them apart.
    for (const { mesh, geometry } of held) if (!Array.isArray(mesh.material)) mesh.geometry = reducedOf(geometry) ?? geometry;
    return () => {
      for (const { mesh, geometry } of held) mesh.geometry = geometry;
    };
  }

  /** How the lens bends what is seen, of a viewpoint. */
  lensBend = 0;

  /** The optics where the camera is. */
  get opticsHere(): Optics | null {
    const { stage } = this.scenery;
    return stage && opticsAt(stage, this.camera.position.toArray());
  }

  /** Shows a picture of the scene, through the optics or with what is peeked at in it. */
  private show(stage: Stage, light: Texture, { width, height }: Size, raw: boolean, into: WebGLRenderTarget | null): void {
    const optics = opticsAt(stage, this.camera.position.toArray());
    const { lensBend } = this;
    if (this.peek.on && this.peekLook)
      this.peek.draw(this.picture!, this.camera, (id) => this.scenery.meshOf(id), optics.exposure, this.peekLook, into);
    else if (this.paint.on && into === null) {
      this.optics.draw(light, width, height, optics, this.paint.under(this.size), raw, lensBend);
      this.paint.draw(this.camera, null);
    } else this.optics.draw(light, width, height, optics, into, raw, lensBend);
  }

  /** Draws what is painted once more over the picture that is there. @returns whether there was one */
  drawPaint(): boolean {
    if (!this.paint.on || !this.picture) return false;
    this.paint.draw(this.camera, null);
    return true;
  }

  /**
   * Draws one more sample of the still and shows the mean of all, at full resolution. A `draw` begins anew.
   * @returns how many samples the picture has of `STILL_SAMPLES`; it is done with the last, and a peek has none
   */
  refine(raw = false): number {
    const { still } = this;
    const { stage } = this.scenery;
    if (!stage || this.peek.on || still.samples >= STILL_SAMPLES) return still.samples;
    if (this.scale < 1 && !this.draft) {
      // A still has time: the first sample takes the place of what moved.
      this.sharpen();
      still.restart();
    }
    const light = this.sample();
    this.show(stage, light, this.picture!, raw, null);
    return still.samples;
  }

  /**
   * Draws a still, sample by sample.
   * @param samples 1 to `STILL_SAMPLES`; @param between what is waited for before each further one
   * @returns their mean, scene-linear, as it is before the optics
   */
  async gather(samples: number, between: (done: number) => Promise<void>): Promise<Texture> {
    this.still.restart();
    let light = this.sample();
    await between(1);
    while (this.still.samples < Math.min(samples, STILL_SAMPLES)) {
      light = this.sample();
      await between(this.still.samples);
    }
    return light;
  }

  /** Shows what has been gathered. */
  showLight(light: Texture, raw: boolean, into: WebGLRenderTarget): void {
    this.show(this.scenery.stage!, light, this.picture!, raw, into);
  }

  /** Draws one more sample. @returns the mean of all, scene-linear */
  private sample(): Texture {
    const { still, camera } = this;
    const picture = this.target();
    const { samples } = still;
    const [x, y] = jitterOf(samples);
    camera.setViewOffset(picture.width, picture.height, x, y, picture.width, picture.height);
    this.state.sampleIndex.value = samples;
    this.scenery.tiltLights(lightPlaceOf(samples));
    this.drawScene(picture);
    this.scenery.straightenLights();
    camera.clearViewOffset();
    this.state.sampleIndex.value = 0;
    return still.add(picture);
  }

  /** The opaque scene first; then, with it behind them, what is see-through: the farthest first, back faces before front ones. */
  private drawScene(picture: WebGLRenderTarget): void {
    const { camera, scenery } = this;
    const { renderer } = this.graphics;
    // The context is shared: whether its shadows are to be drawn anew is what this scene says.
    renderer.shadowMap.needsUpdate = scenery.shadowsStale;
    camera.updateMatrixWorld();
    this.state.seeFrom(camera, picture.width, picture.height);
    if (scenery.shadowsStale) this.drawShadows();
    // What is painted is shown as it is painted, in its own place.
    const { stands } = this.paint;
    const pieces = stands ? this.scenery.meshes.piecesOf(stands.userData.prop as string) : [];
    const seen = pieces.filter(({ mesh }) => mesh.visible);
    for (const { mesh } of seen) mesh.visible = false;
    this.drawParts(picture);
    for (const { mesh } of seen) mesh.visible = true;
  }

  private drawParts(picture: WebGLRenderTarget): void {
    const { camera } = this;
    const { scene } = this.scenery;
    const { renderer } = this.graphics;
    camera.layers.set(OPAQUE);
    if (!picture.depthTexture) {
      renderer.setRenderTarget(picture);
      renderer.render(scene, camera);
      return;
    }
    renderer.setRenderTarget(picture);
    renderer.render(scene, camera);
    this.behind.take(picture, camera);
    const { background } = scene;
    scene.background = null;
    renderer.autoClear = false;
    camera.layers.set(SEE_THROUGH);
    renderer.setRenderTarget(picture);
    renderer.render(scene, camera);
    renderer.autoClear = true;
    scene.background = background;
    camera.layers.set(OPAQUE);
  }

  /** Shadows, of everything that casts them, whichever pass it is drawn in; and how far what casts them is. */
  private drawShadows(): void {
    const { camera, scenery, state } = this;
    const { renderer } = this.graphics;
    camera.layers.set(NOTHING);
    renderer.setRenderTarget(this.shadowTarget);
    renderer.render(scenery.scene, camera);
    state.shading.shadows.take(renderer, scenery.castingLamps, state.sampleIndex.value === 0);
    scenery.shadowsStale = false;
  }

  private adapt(ms: number): void {
    this.slow = ms > SLOW_MS ? this.slow + 1 : Math.max(0, this.slow - 1);
    if (this.slow > 4 && this.scale > 0.5) {
      this.scale = this.scale > 0.75 ? 0.75 : 0.5;
      this.slow = 0;
    }
  }

  /** Full resolution again: for stills. */
  sharpen(): void {
    this.scale = this.draft ? 0.5 : 1;
    this.slow = 0;
  }

  dispose(): void {
    this.optics.dispose();
    this.shadowTarget.dispose();
    this.still.dispose();
    this.dropPicture();
  }
}
