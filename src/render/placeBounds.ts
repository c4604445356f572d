/** Where a prop is: bounds of the places that its surface has, for what a sheet's values can be on it. */
import { Box3, Vector3, type BufferGeometry, type Matrix4 } from 'three';
import { LEAVES, type Leaf } from '../core/ir/leaves.js';
import type { PlaceBounds } from '../core/passes/ranges.js';
import { widthOf } from '../core/ir/types.js';
import type { Interval } from '../core/ir/types.js';

/** What a mesh carries at its vertices: between them nothing is beyond what they have. */
const CARRIED: readonly Leaf[] = ['position', 'uv', 'uv1', 'vertexColour'];
const carried = new WeakMap<BufferGeometry, PlaceBounds>();

function ofMesh(geometry: BufferGeometry): PlaceBounds {
  let bounds = carried.get(geometry);
  if (bounds) return bounds;
  const found: Partial<Record<Leaf, Interval[]>> = {};
  for (const leaf of CARRIED) {
    const attribute = geometry.getAttribute(leaf);
    if (!attribute) continue;
    found[leaf] = Array.from({ length: widthOf(LEAVES[leaf].type) }, (_, lane) => {
      let [low, high] = [Infinity, -Infinity];
      if (lane >= attribute.itemSize) return { low: LEAVES[leaf].low, high: LEAVES[leaf].high };
      for (let k = 0; k < attribute.count; k++) {
        const v = attribute.getComponent(k, lane);
        low = Math.min(low, v);
        high = Math.max(high, v);
      }
      return { low, high };
    });
  }
  carried.set(geometry, (bounds = found));
  return bounds;
}

/** @param geometry of a prop, as its effect finds it @param model where it stands */
export function placeBounds(geometry: BufferGeometry, model: Matrix4): PlaceBounds {
  const mesh = ofMesh(geometry);
  const at = (m: readonly number[]): Interval[] => m.map((v) => ({ low: v, high: v }));
  const columns = model.elements;
  const own = {
    pivot: at(columns.slice(12, 15)),
    modelX: at(columns.slice(0, 3)),
    modelY: at(columns.slice(4, 7)),
    modelZ: at(columns.slice(8, 11)),
  };
  const { position } = mesh;
  if (!position) return { ...mesh, ...own };
  const box = new Box3(new Vector3(...position.map((i) => i.low)), new Vector3(...position.map((i) => i.high))).applyMatrix4(
    model,
  );
  // Each corner was rounded on its way: a hair more than there is.
  const slack = 1e-5 * Math.max(1, box.min.length(), box.max.length());
  const worldPosition = box.min.toArray().map((low, k) => ({ low: low - slack, high: box.max.getComponent(k) + slack }));
  return { ...mesh, ...own, worldPosition };
}

/** Of several props together; a place that one of them does not bound is bounded for none. */
export function hullOfBounds(all: readonly PlaceBounds[]): PlaceBounds {
  const [first, ...rest] = all;
  if (!first) return {};
  return Object.fromEntries(
    (Object.entries(first) as [Leaf, readonly Interval[]][]).flatMap(([leaf, lanes]) => {
      if (rest.some((r) => !r[leaf])) return [];
      const others = rest.map((r) => r[leaf]!);
      return [
        [
          leaf,
          lanes.map((lane, k) => ({
            low: Math.min(lane.low, ...others.map((o) => o[k]!.low)),
            high: Math.max(lane.high, ...others.map((o) => o[k]!.high)),
          })),
        ],
      ];
    }),
  );
}
