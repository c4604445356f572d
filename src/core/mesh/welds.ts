/**
 * Which vertices of a mesh are one point of its surface. Where uv or a normal jumps, a mesh has two vertices in one place;
 * who paints or smooths a surface means the place.
 */

export interface Welds {
  /** The point that each vertex is at. */
  readonly point: Uint32Array;
  /** How many points there are. */
  readonly count: number;
}

/** Vertices that are nearer than this share of the mesh's size are one point: as near as rounding leaves the ends of a circle. */
const SAME = 1e-6;

/** @param position three numbers a vertex */
export function weldsOf(position: ArrayLike<number>): Welds {
  const vertices = Math.floor(position.length / 3);
  let [low, high] = [Infinity, -Infinity];
  for (let k = 0; k < vertices * 3; k++) {
    low = Math.min(low, position[k]!);
    high = Math.max(high, position[k]!);
  }
  const cell = Math.max(Number.MIN_VALUE, (high - low) * SAME);
  const at = new Map<string, number>();
  const point = new Uint32Array(vertices);
  for (let v = 0; v < vertices; v++) {
    // The sum brings -0 to 0.
    const key = [0, 1, 2].map((k) => Math.round(position[v * 3 + k]! / cell) + 0).join();
    let known = at.get(key);
    if (known === undefined) at.set(key, (known = at.size));
    point[v] = known;
  }
  return { point, count: at.size };
}

/** The points beside each point along the sides of triangles: those of `p` are `beside[first[p]]` to `beside[first[p + 1] - 1]`. */
export interface Neighbours {
  readonly first: Uint32Array;
  readonly beside: Uint32Array;
}

/** @param index three vertices a triangle; null where the vertices follow one another */
export function neighboursOf(index: ArrayLike<number> | null, { point, count }: Welds): Neighbours {
  const corners = index ? index.length - (index.length % 3) : point.length - (point.length % 3);
  const at = (k: number) => point[index ? index[k]! : k]!;
  const sides = new Set<number>();
  for (let k = 0; k < corners; k += 3)
    for (let side = 0; side < 3; side++) {
      const [a, b] = [at(k + side), at(k + ((side + 1) % 3))];
      if (a !== b) sides.add(Math.min(a, b) * count + Math.max(a, b));
    }
  const first = new Uint32Array(count + 1);
  const ends = (side: number) => [Math.floor(side / count), side % count] as const;
  for (const side of sides) for (const end of ends(side)) first[end + 1]!++;
  for (let p = 0; p < count; p++) first[p + 1]! += first[p]!;
  const beside = new Uint32Array(sides.size * 2);
  const next = first.slice();
  for (const side of sides) {
    const [a, b] = ends(side);
    beside[next[a]!++] = b;
    beside[next[b]!++] = a;
  }
  return { first, beside };
}

/** The connected part that each point belongs to, counted from 0 in the order of the points. */
export function partsOf({ first, beside }: Neighbours): Uint32Array {
  const points = first.length - 1;
  const part = new Uint32Array(points).fill(points);
  let parts = 0;
  const waiting: number[] = [];
  for (let p = 0; p < points; p++) {
    if (part[p] !== points) continue;
    part[p] = parts;
    waiting.push(p);
    while (waiting.length > 0) {
      const here = waiting.pop()!;
      for (let k = first[here]!; k < first[here + 1]!; k++)
        if (part[beside[k]!] === points) {
          part[beside[k]!] = parts;
          waiting.push(beside[k]!);
        }
    }
    parts++;
  }
  return part;
}
