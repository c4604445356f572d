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
  // Where each is, in cells: whole numbers up to a million, whose mix is a place in a table of the points found so far.
  const cells = new Int32Array(vertices * 3);
  for (let k = 0; k < vertices * 3; k++) cells[k] = Math.round((position[k]! - low) / cell);
  let size = 16;
  while (size < vertices * 2) size *= 2;
  const table = new Int32Array(size).fill(-1);
  const point = new Uint32Array(vertices);
  let count = 0;
  for (let v = 0; v < vertices; v++) {
    const [x, y, z] = [cells[v * 3]!, cells[v * 3 + 1]!, cells[v * 3 + 2]!];
    let mix = Math.imul(x, 73856093) ^ Math.imul(y, 19349663) ^ Math.imul(z, 83492791);
    mix = Math.imul(mix ^ (mix >>> 15), 0x2c1b3c6d);
    let slot = (mix ^ (mix >>> 13)) & (size - 1);
    for (; table[slot]! >= 0; slot = (slot + 1) & (size - 1)) {
      const other = table[slot]!;
      if (cells[other * 3] === x && cells[other * 3 + 1] === y && cells[other * 3 + 2] === z) break;
    }
    if (table[slot]! < 0) {
      table[slot] = v;
      point[v] = count++;
    } else point[v] = point[table[slot]!]!;
  }
  return { point, count };
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
  // Every side once for each triangle that it is of, at both of its ends; then what is there more than once is left out.
  const from = new Uint32Array(count + 1);
  const each = (visit: (a: number, b: number) => void) => {
    for (let k = 0; k < corners; k += 3) {
      const [a, b, c] = [at(k), at(k + 1), at(k + 2)];
      if (a !== b) visit(a, b);
      if (b !== c) visit(b, c);
      if (c !== a) visit(c, a);
    }
  };
  each((a, b) => {
    from[a + 1]!++;
    from[b + 1]!++;
  });
  for (let p = 0; p < count; p++) from[p + 1]! += from[p]!;
  const all = new Uint32Array(from[count]!);
  const next = from.slice();
  each((a, b) => {
    all[next[a]!++] = b;
    all[next[b]!++] = a;
  });
  const first = new Uint32Array(count + 1);
  let end = 0;
  for (let p = 0; p < count; p++) {
    const begins = end;
    for (let k = from[p]!; k < from[p + 1]!; k++) {
      const other = all[k]!;
      let known = false;
      for (let m = begins; m < end && !known; m++) known = all[m] === other;
      // What is kept never overtakes what is read.
      if (!known) all[end++] = other;
    }
    first[p + 1] = end;
  }
  return { first, beside: all.slice(0, end) };
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
