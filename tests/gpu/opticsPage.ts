/** In a page: what the optics make of a picture, in numbers. */
import { DataTexture, DataUtils, FloatType, LinearFilter, RGBAFormat, WebGLRenderTarget, WebGLRenderer } from 'three';
import type { Optics } from '../../src/core/scene/stage.js';
import { OpticsPasses } from '../../src/render/optics.js';

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

/**
 * r, g, b of each pixel of the halo, or of those in one row of it, given as a share of its height: 32-bit floats as text
 * in base 64, since what leaves a page number by number takes minutes.
 */
export function halo(asked: Asked, only?: number): { width: number; height: number; rgb: string } {
  const target = passes.halo(pictureOf(asked), asked.width, asked.height, asked.optics);
  const { width, height } = target;
  const pixels = new Uint16Array(width * height * 4);
  renderer.readRenderTargetPixels(target, 0, 0, width, height, pixels);
  const from = only === undefined ? 0 : Math.floor(only * height) * width;
  const to = only === undefined ? width * height : from + width;
  const rgb = new Float32Array((to - from) * 3);
  for (let k = 0; k < rgb.length; k++) rgb[k] = DataUtils.fromHalfFloat(pixels[(from + Math.floor(k / 3)) * 4 + (k % 3)]!);
  const bytes = new Uint8Array(rgb.buffer);
  let text = '';
  for (let k = 0; k < bytes.length; k += 8192) text += String.fromCharCode(...bytes.subarray(k, k + 8192));
  return { width, height, rgb: btoa(text) };
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
