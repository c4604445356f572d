/**
 * What lies behind see-through surfaces: the opaque scene's colours, sharp and ever softer, and its depth along the view
 * axis. Made from the opaque picture once it is drawn, so that whatever moved or cut holes into it counts.
 */
import {
  FloatType,
  HalfFloatType,
  LinearFilter,
  LinearMipmapLinearFilter,
  NearestFilter,
  RedFormat,
  WebGLRenderTarget,
  type PerspectiveCamera,
  type WebGLRenderer,
} from 'three';
import type { ProgramState } from './programState.js';
import { Screen, pass } from './screen.js';
import { BEHIND_COLOUR, BEHIND_DEPTH } from './shaders.js';

export class BehindPass {
  private readonly screen: Screen;
  private readonly colour = new WebGLRenderTarget(1, 1, {
    type: HalfFloatType,
    generateMipmaps: true,
    minFilter: LinearMipmapLinearFilter,
    magFilter: LinearFilter,
    depthBuffer: false,
  });
  private readonly depth = new WebGLRenderTarget(1, 1, {
    type: FloatType,
    format: RedFormat,
    minFilter: NearestFilter,
    magFilter: NearestFilter,
    depthBuffer: false,
  });
  private readonly copying = pass(BEHIND_COLOUR, { picture: { value: null } });
  private readonly measuring = pass(BEHIND_DEPTH, { depth: { value: null }, near: { value: 0.1 }, far: { value: 100 } });

  constructor(
    private readonly renderer: WebGLRenderer,
    private readonly state: ProgramState,
  ) {
    this.screen = new Screen(renderer);
  }

  private measure(picture: WebGLRenderTarget, { near, far }: PerspectiveCamera, into: WebGLRenderTarget): void {
    this.screen.run(this.measuring, into, { depth: picture.depthTexture, near, far });
  }

  /** @param picture the opaque scene, with a depth texture; both resolved */
  take(picture: WebGLRenderTarget, camera: PerspectiveCamera): void {
    const { width, height } = picture;
    for (const target of [this.colour, this.depth])
      if (target.width !== width || target.height !== height) target.setSize(width, height);
    this.screen.run(this.copying, this.colour, { picture: picture.texture });
    this.measure(picture, camera, this.depth);
    this.state.putBehind(this.colour.texture, this.depth.texture);
  }

  /** The depth of a small picture's opaque scene, in metres along the view axis; rows from the bottom. */
  metres(picture: WebGLRenderTarget, camera: PerspectiveCamera): Float32Array {
    const { width, height } = picture;
    const into = new WebGLRenderTarget(width, height, {
      type: FloatType,
      minFilter: NearestFilter,
      magFilter: NearestFilter,
      depthBuffer: false,
    });
    this.measure(picture, camera, into);
    const pixels = new Float32Array(width * height * 4);
    this.renderer.readRenderTargetPixels(into, 0, 0, width, height, pixels);
    into.dispose();
    return Float32Array.from({ length: width * height }, (_, k) => pixels[k * 4]!);
  }

  dispose(): void {
    for (const part of [this.colour, this.depth, this.copying, this.measuring, this.screen]) part.dispose();
  }
}
