/** Places that were read as a picture has them: how they change from one pixel to the next. */
import type { Leaf } from '../ir/leaves.js';
import type { Planes } from './standing.js';

/** How far apart two neighbours may be before they are taken for the two sides of a seam. */
const SEAM = 0.5;

/** Half the difference of a pixel's two neighbours; 0 at the border of what was read. @param step to the next pixel */
function changeOver(plane: Float32Array, mask: Float32Array, width: number, step: number): Float32Array {
  const out = new Float32Array(plane.length);
  for (let k = 0; k < plane.length; k++) {
    const [before, after] = [k - step, k + step];
    if (
      !(mask[before]! > 0) ||
      !(mask[after]! > 0) ||
      (Math.abs(step) === 1 && Math.floor(before / width) !== Math.floor(after / width))
    )
      continue;
    const change = (plane[after]! - plane[before]!) / 2;
    if (Math.abs(change) < SEAM / 2) out[k] = change;
  }
  return out;
}

/** The changes that a picture shows, to the right and upwards. */
const SHOWN = ['uv', 'position', 'worldPosition'] as const;

/**
 * @param planes of the picture's pixels, row 0 on top; @param mask 0 where there is no surface
 * @returns `uvDx` and their like
 */
export function changesAcross(
  planes: Partial<Record<Leaf, Planes>>,
  mask: Float32Array,
  width: number,
): Partial<Record<Leaf, Float32Array[]>> {
  return Object.fromEntries(
    SHOWN.flatMap((leaf) =>
      (
        [
          [`${leaf}Dx`, 1],
          [`${leaf}Dy`, -width],
        ] as const
      ).map(([name, step]) => [name, planes[leaf]!.map((plane) => changeOver(plane, mask, width, step))]),
    ),
  ) as Partial<Record<Leaf, Float32Array[]>>;
}
