/** Numbers of the picture that was last drawn, read back from the graphics card. */
import { FloatType, NearestFilter, WebGLRenderTarget } from 'three';
import type { Frame } from './frame.js';
import type { Graphics } from './graphics.js';
import type { Scenery } from './scenery.js';

export interface Measured {
  /** Every pixel's exposed luminance before bloom, four to a texel, rows from the bottom. */
  readonly luminance: Float32Array;
  /** What is shown, made smaller by leaving pixels out: RGBA. */
  readonly display: Uint8Array;
}

export class Measuring {
  private readonly lightTarget = new WebGLRenderTarget(1, 1, {
    type: FloatType,
    minFilter: NearestFilter,
    magFilter: NearestFilter,
    depthBuffer: false,
  });
  private readonly displayTarget = new WebGLRenderTarget(256, 144, { depthBuffer: false });

  constructor(
    private readonly graphics: Graphics,
    private readonly scenery: Scenery,
    private readonly frame: Frame,
  ) {}

  /** @returns null when nothing has been drawn */
  async measure(): Promise<Measured | null> {
    const { lightTarget, displayTarget } = this;
    const { renderer } = this.graphics;
    const { stage } = this.scenery;
    const { drawn: picture } = this.frame;
    if (!picture || !stage) return null;
    const width = Math.ceil(picture.width / 2);
    const height = Math.ceil(picture.height / 2);
    if (lightTarget.width !== width || lightTarget.height !== height) lightTarget.setSize(width, height);
    this.frame.optics.measure(picture.texture, this.frame.opticsHere!.exposure, lightTarget);
    this.copyDisplay();
    renderer.setRenderTarget(null);
    const luminance = new Float32Array(width * height * 4);
    const display = new Uint8Array(displayTarget.width * displayTarget.height * 4);
    await Promise.all([
      renderer.readRenderTargetPixelsAsync(lightTarget, 0, 0, width, height, luminance),
      renderer.readRenderTargetPixelsAsync(displayTarget, 0, 0, displayTarget.width, displayTarget.height, display),
    ]);
    return { luminance, display };
  }

  /** Copies what the canvas shows: no pass and no program of its own. */
  private copyDisplay(): void {
    const { displayTarget } = this;
    const { gl, renderer, canvas } = this.graphics;
    renderer.initRenderTarget(displayTarget);
    const { __webglFramebuffer: framebuffer } = renderer.properties.get(displayTarget) as {
      __webglFramebuffer: WebGLFramebuffer;
    };
    renderer.state.bindFramebuffer(gl.READ_FRAMEBUFFER, null);
    renderer.state.bindFramebuffer(gl.DRAW_FRAMEBUFFER, framebuffer);
    const { width, height } = displayTarget;
    gl.blitFramebuffer(0, 0, canvas.width, canvas.height, 0, 0, width, height, gl.COLOR_BUFFER_BIT, gl.NEAREST);
    renderer.state.bindFramebuffer(gl.READ_FRAMEBUFFER, null);
  }

  dispose(): void {
    this.lightTarget.dispose();
    this.displayTarget.dispose();
  }
}
