/** In a page: what the optics make of a picture, in numbers. */
import { DataTexture, DataUtils, FloatType, LinearFilter, RGBAFormat, WebGLRenderTarget, WebGLRenderer } from 'three';
import type { Optics } from '../../src/core/formats/stage.js';
import { OpticsPasses } from '../../src/stage/optics.js';

export interface Asked {
  readonly width: number;
  readonly height: number;
  /** Pixels that are not dark: place and light. */
  readonly lit: readonly (readonly [x: number, y: number, r: number, g: number, b: number])[];
  readonly optics: Optics;
}

function pictureOf({ width, height, lit }: Asked): DataTexture {
  const data = new Float32Array(width * height * 4);
  for (const [x, y, ...rgb] of lit) data.set(rgb, (y * width + x) * 4);
  const texture = new DataTexture(data, width, height, RGBAFormat, FloatType);
  texture.minFilter = texture.magFilter = LinearFilter;
  texture.needsUpdate = true;
  return texture;
}

const renderer = new WebGLRenderer();
const passes = new OpticsPasses(renderer);

/** r, g, b of each pixel of the halo, or of those in one row of it, given as a share of its height. */
export function halo(asked: Asked, only?: number): { width: number; height: number; rgb: number[] } {
  const target = passes.halo(pictureOf(asked), asked.width, asked.height, asked.optics);
  const { width, height } = target;
  const pixels = new Uint16Array(width * height * 4);
  renderer.readRenderTargetPixels(target, 0, 0, width, height, pixels);
  const rgb: number[] = [];
  const from = only === undefined ? 0 : Math.floor(only * height) * width;
  const to = only === undefined ? width * height : from + width;
  for (let k = from; k < to; k++) for (let lane = 0; lane < 3; lane++) rgb.push(DataUtils.fromHalfFloat(pixels[k * 4 + lane]!));
  return { width, height, rgb };
}

/** What is shown, 0 to 1, of pixels in one row. */
export function shown(asked: Asked): number[] {
  const target = new WebGLRenderTarget(asked.width, asked.height, { type: FloatType, depthBuffer: false });
  passes.draw(pictureOf(asked), asked.width, asked.height, asked.optics, target);
  const pixels = new Float32Array(asked.width * asked.height * 4);
  renderer.readRenderTargetPixels(target, 0, 0, asked.width, asked.height, pixels);
  target.dispose();
  return [...pixels].filter((_, k) => k % 4 !== 3);
}
