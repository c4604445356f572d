/**
 * A still that refines itself: while nothing changes, samples of the scene that differ in where within its pixel each
 * ray goes, in which part of the light a shadow is cast from, and in what a dither keeps, are summed up in linear light.
 * Nothing is smoothed: a line of one pixel stays one.
 */
import { FloatType, NearestFilter, WebGLRenderTarget, type Texture, type WebGLRenderer } from 'three';
import { Screen, pass } from './screen.js';
import { ADD_SAMPLE } from './shaders.js';

/** Samples of a picture that is done. */
export const STILL_SAMPLES = 64;

/** Halton's sequence: 0 <= x < 1, evenly spread for any count. */
export function halton(index: number, base: number): number {
  let [x, f] = [0, 1];
  for (let k = index; k > 0; k = Math.floor(k / base)) x += (f /= base) * (k % base);
  return x;
}

/** Where in its pixel a sample is taken: -0.5 to 0.5; the first in its middle. */
export const jitterOf = (sample: number): [number, number] =>
  sample === 0 ? [0, 0] : [halton(sample, 2) - 0.5, halton(sample, 3) - 0.5];

/** A place on the light's disc, of radius 1; the first in its middle. */
export function lightPlaceOf(sample: number): [number, number] {
  if (sample === 0) return [0, 0];
  const radius = Math.sqrt(halton(sample, 5));
  const turn = 2 * Math.PI * halton(sample, 7);
  return [radius * Math.cos(turn), radius * Math.sin(turn)];
}

export class Still {
  private readonly screen: Screen;
  private sums: readonly [WebGLRenderTarget, WebGLRenderTarget] | null = null;
  private readonly adding = pass(ADD_SAMPLE, { sum: { value: null }, picture: { value: null }, share: { value: 1 } });
  /** How many samples the sum has. */
  samples = 0;

  constructor(renderer: WebGLRenderer) {
    this.screen = new Screen(renderer);
  }

  /** @param picture one sample; as large as those before it @returns the mean of all */
  add(picture: WebGLRenderTarget): Texture {
    const { width, height } = picture;
    if (this.sums?.[0].width !== width || this.sums[0].height !== height) {
      this.drop();
      const target = () =>
        new WebGLRenderTarget(width, height, {
          type: FloatType,
          minFilter: NearestFilter,
          magFilter: NearestFilter,
          depthBuffer: false,
        });
      this.sums = [target(), target()];
    }
    const [from, into] = this.samples % 2 === 0 ? this.sums : ([this.sums[1], this.sums[0]] as const);
    this.samples++;
    this.screen.run(this.adding, into, { sum: from.texture, picture: picture.texture, share: 1 / this.samples });
    return into.texture;
  }

  /** Something has changed. */
  restart(): void {
    this.samples = 0;
  }

  private drop(): void {
    for (const t of this.sums ?? []) t.dispose();
    this.sums = null;
    this.samples = 0;
  }

  dispose(): void {
    this.drop();
    this.adding.dispose();
    this.screen.dispose();
  }
}
