/**
 * One WebGL2 context. Browsers allow few of them, so all that a screen draws shares one: what it shows, and pictures of
 * other scenes that are asked for meanwhile. Whoever draws keeps its own state and says what it needs before it draws.
 */
import { PCFShadowMap, WebGLRenderer } from 'three';

/** How often a fence is looked at. */
const FENCE_MS = 2;

export class Graphics {
  readonly renderer: WebGLRenderer;
  private readonly onePixel = new Uint8Array(4);

  /** @throws when the browser has no WebGL2 */
  constructor(readonly canvas: HTMLCanvasElement) {
    this.renderer = new WebGLRenderer({
      canvas,
      antialias: false,
      alpha: false,
      preserveDrawingBuffer: true,
      powerPreference: 'high-performance',
    });
    this.renderer.shadowMap.enabled = true;
    this.renderer.shadowMap.type = PCFShadowMap;
    this.renderer.shadowMap.autoUpdate = false;
    this.renderer.autoClear = true;
  }

  get gl(): WebGL2RenderingContext {
    return this.renderer.getContext() as WebGL2RenderingContext;
  }

  /** Resolves when the graphics card has drawn what it was given so far; the page goes on meanwhile. */
  drawn(): Promise<void> {
    const { gl } = this;
    const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    gl.flush();
    // A lost context has nothing to wait for.
    if (!fence) return Promise.resolve();
    return new Promise((resolve) => {
      const look = () => {
        if (gl.clientWaitSync(fence, 0, 0) === gl.TIMEOUT_EXPIRED) {
          setTimeout(look, FENCE_MS);
          return;
        }
        gl.deleteSync(fence);
        resolve();
      };
      setTimeout(look);
    });
  }

  /** Waits until the graphics card has drawn. */
  settle(): void {
    // Only numbers that come back tell: `finish` returns before a software renderer has drawn.
    this.renderer.setRenderTarget(null);
    this.gl.readPixels(0, 0, 1, 1, this.gl.RGBA, this.gl.UNSIGNED_BYTE, this.onePixel);
  }

  /** The graphics card has let go of all that was here: what is drawn is drawn nowhere. */
  get lost(): boolean {
    return this.gl.isContextLost();
  }

  dispose(): void {
    this.renderer.dispose();
    this.renderer.forceContextLoss();
  }
}

/** A context that nobody sees, made anew where the graphics card has let go of it. */
export class HiddenGraphics {
  private made: Graphics | null = null;

  /** @throws when the browser has no WebGL2 */
  get now(): Graphics {
    if (!this.made || this.made.lost) this.made = new Graphics(document.createElement('canvas'));
    return this.made;
  }

  dispose(): void {
    this.made?.dispose();
    this.made = null;
  }
}
