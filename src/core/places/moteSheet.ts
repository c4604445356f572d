/** Places of motes for the swatches of their effect: a sheet of twelve, from birth to end across, three of them down. */
import type { Leaf } from '../ir/leaves.js';
import { randomOf } from '../base/random.js';

const [ACROSS, DOWN] = [4, 3];
/** Metres: a swatch shows motes of about a centimetre. */
const RADIUS = 0.01;

/** @returns 1 wherever there is a mote; planes of numbers, row 0 on top */
export function moteSheet(
  width: number,
  height: number,
): { readonly mask: Float32Array; readonly planes: Partial<Record<Leaf, Float32Array[]>> } {
  const plane = (f: (u: number, v: number, column: number, row: number) => number) =>
    Float32Array.from({ length: width * height }, (_, k) => {
      const [x, y] = [(((k % width) + 0.5) / width) * ACROSS, ((Math.floor(k / width) + 0.5) / height) * DOWN];
      const [column, row] = [Math.floor(x), Math.floor(y)];
      return f(x - column, 1 - (y - row), column, row);
    });
  const still = (value: number) => plane(() => value);
  const zero = still(0);
  const uv = [plane((u) => u), plane((_, v) => v)];
  const at = [plane((u) => (u * 2 - 1) * RADIUS), plane((_, v) => (v * 2 - 1) * RADIUS), zero];
  const ahead = [zero, zero, still(1)];
  const [dx, dy] = [ACROSS / width, DOWN / height];
  return {
    mask: still(1),
    planes: {
      ...{ position: at, worldPosition: at, uv, uv1: uv },
      ...{ normal: ahead, objectNormal: ahead, viewNormal: ahead, view: ahead, facing: [still(1)] },
      ...{ uvDx: [still(dx), zero], uvDy: [zero, still(dy)] },
      // From just born to nearly over.
      moteAge: [plane((_u, _v, column) => (column + 0.5) / ACROSS)],
      moteRandom: [plane((_u, _v, _column, row) => randomOf(row + 1))],
      moteIndex: [plane((_u, _v, column, row) => column + row * ACROSS)],
    },
  };
}
