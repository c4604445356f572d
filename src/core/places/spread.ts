/** Places of a surface for what is measured rather than derived: spread evenly, and of a piece with each other. */
import { LEAVES, SURFACE_LEAVES, type Leaf } from '../ir/leaves.js';
import { widthOf } from '../ir/types.js';

/** Places on a small prop, spread evenly by the golden ratio so that no two share a coordinate. */
export function samplePlaces(count: number): Partial<Record<Leaf, Float32Array[]>> {
  const places: Partial<Record<Leaf, Float32Array[]>> = {};
  // Each leaf has lanes of its own, so that a normal and a view never point the same way throughout.
  const spread = (k: number, lane: number) =>
    ((k + 0.5) * 0.6180339887498949 + lane * 0.7548776662466927 + k * lane * 0.5698402909980532) % 1;
  let first = 0;
  for (const leaf of SURFACE_LEAVES) {
    const { type, low, high, unit } = LEAVES[leaf];
    const lanes = Array.from({ length: widthOf(type) }, (_, lane) =>
      Float32Array.from({ length: count }, (_, k) => low + (high - low) * spread(k, first + lane)),
    );
    first += lanes.length;
    if (unit)
      for (let k = 0; k < count; k++) {
        const size = Math.hypot(...lanes.map((l) => l[k]!)) || 1;
        for (const l of lanes) l[k] = l[k]! / size;
      }
    places[leaf] = lanes;
  }
  settle(places, count);
  return places;
}

/** What hangs together on a stage: neighbours lie along the surface, the eye looks towards it, axes stand apart. */
function settle(places: Partial<Record<Leaf, Float32Array[]>>, count: number): void {
  const at = (leaf: Leaf, k: number) => places[leaf]!.map((lane) => lane[k]!);
  const put = (leaf: Leaf, k: number, v: readonly number[]) => places[leaf]!.forEach((lane, j) => (lane[k] = v[j]!));
  const cross = (a: number[], b: number[]) =>
    [0, 1, 2].map((j) => a[(j + 1) % 3]! * b[(j + 2) % 3]! - a[(j + 2) % 3]! * b[(j + 1) % 3]!);
  const unit = (v: number[]) => v.map((c) => c / (Math.hypot(...v) || 1));
  for (let k = 0; k < count; k++) {
    const normal = at('normal', k);
    const right = unit(cross(normal, at('worldPositionDx', k)));
    const up = cross(normal, right);
    put(
      'worldPositionDx',
      k,
      right.map((c, j) => 0.02 * c + 0.004 * up[j]!),
    );
    put(
      'worldPositionDy',
      k,
      up.map((c, j) => 0.015 * c - 0.003 * right[j]!),
    );
    // What lies behind a surface lies behind it, mostly near; at every eighth place nothing does.
    for (const gap of ['depthGap', 'depthGapRay', 'depthGapDown'] as const) {
      const share = (at(gap, k)[0]! - LEAVES[gap].low) / (LEAVES[gap].high - LEAVES[gap].low);
      put(gap, k, [share < 0.125 ? LEAVES[gap].fallback[0]! : 3 * ((share - 0.125) / 0.875) ** 2]);
    }
    const around = at('eyeBack', k);
    put('eyeBack', k, unit(at('view', k).map((c, j) => c + 0.4 * around[j]!)));
    (['modelX', 'modelY', 'modelZ'] as const).forEach((axis, a) =>
      put(
        axis,
        k,
        at(axis, k).map((c, j) => 0.05 * c + (j === a ? 1.5 : 0)),
      ),
    );
  }
}
