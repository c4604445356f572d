/** Places of a texture: a sheet of one metre, faced straight on, without anything behind it. */
import type { LeafValues } from '../targets/wasm/runner.js';

export interface TexturePlaces {
  /** Goes to the band of rows that begins with this one, the top one being 0. @param rows of it */
  goTo(top: number, rows: number): void;
  /** As they are in that band. */
  readonly leaves: LeafValues;
}

/** @param width, height of the texture, in texels; @param band the most rows at a time */
export function texturePlaces(width: number, height: number, band: number): TexturePlaces {
  const count = width * band;
  const plane = (f: (k: number) => number) => Float32Array.from({ length: count }, (_, k) => f(k));
  const u = plane((k) => ((k % width) + 0.5) / width);
  const x = plane((k) => u[k]! - 0.5);
  const v = new Float32Array(count);
  const y = new Float32Array(count);
  const [du, dv] = [1 / width, 1 / height];
  return {
    goTo(top, rows) {
      for (let k = 0; k < rows * width; k++) {
        v[k] = 1 - (top + Math.floor(k / width) + 0.5) / height;
        y[k] = v[k]! - 0.5;
      }
    },
    leaves: {
      ...{ uv: [u, v], uv1: [u, v], uvDx: [du, 0], uvDy: [0, dv], uv1Dx: [du, 0], uv1Dy: [0, dv], screen: [u, v] },
      ...{ position: [x, y, 0], worldPosition: [x, y, 0], screenDx: [du, 0], screenDy: [0, dv] },
      ...{ positionDx: [du, 0, 0], positionDy: [0, dv, 0], worldPositionDx: [du, 0, 0], worldPositionDy: [0, dv, 0] },
    },
  };
}
