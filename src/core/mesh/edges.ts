/**
 * Distances to the edges of a mesh's triangles, for its corners: between them a graphics card interpolates exactly.
 * Sides that only cut a quad in two are known by their shape, since meshes hold triangles.
 */

export interface Edges {
  /** Three numbers a corner, three corners a triangle: metres to the side opposite to each corner of the triangle. */
  readonly all: Float32Array<ArrayBuffer>;
  /** The same, with the diagonals of quads far away. */
  readonly quads: Float32Array<ArrayBuffer>;
}

/** Metres: farther than any edge is looked for. */
export const FAR_EDGE = 1000;
/** Two triangles that make a quad lie within this of one plane, as the cosine of their angle. */
const FLAT = 0.99;
/** The corners of a quad are within this of a right angle, as their cosine. */
const SQUARE = 0.82;

export function edgesOf(position: ArrayLike<number>, index: ArrayLike<number>): Edges {
  const triangles = Math.floor(index.length / 3);
  const all = new Float32Array(triangles * 9);
  const corner = (t: number, k: number) => index[t * 3 + (k % 3)]!;
  const at = (v: number) => [position[v * 3]!, position[v * 3 + 1]!, position[v * 3 + 2]!] as Vec;
  const longest = new Uint8Array(triangles);
  const normals = new Float32Array(triangles * 3);
  for (let t = 0; t < triangles; t++) {
    const p = [at(corner(t, 0)), at(corner(t, 1)), at(corner(t, 2))] as const;
    const n = cross(less(p[1], p[0]), less(p[2], p[0]));
    const twice = Math.hypot(...n);
    let best = -1;
    for (let k = 0; k < 3; k++) {
      const side = Math.hypot(...less(p[(k + 1) % 3]!, p[(k + 2) % 3]!));
      // A triangle without area is an edge all over.
      all[t * 9 + k * 3 + k] = side > 0 && Number.isFinite(twice) ? twice / side : 0;
      if (side > best) [best, longest[t]] = [side, k];
    }
    normals.set(twice > 0 ? n.map((c) => c / twice) : n, t * 3);
  }
  const quads = all.slice();
  const waiting = new Map<number, number>();
  const vertices = position.length / 3;
  for (let t = 0; t < triangles; t++) {
    const [a, b] = [corner(t, longest[t]! + 1), corner(t, longest[t]! + 2)];
    const key = Math.min(a, b) * vertices + Math.max(a, b);
    const other = waiting.get(key);
    if (other === undefined) {
      waiting.set(key, t);
      continue;
    }
    if (!isQuad(t, other)) continue;
    waiting.delete(key);
    for (const half of [t, other]) for (let k = 0; k < 3; k++) quads[half * 9 + k * 3 + longest[half]!] = FAR_EDGE;
  }
  return { all, quads };

  function isQuad(s: number, t: number): boolean {
    if (dot(normals.subarray(s * 3, s * 3 + 3), normals.subarray(t * 3, t * 3 + 3)) < FLAT) return false;
    const round = [corner(s, longest[s]!), corner(s, longest[s]! + 1), corner(t, longest[t]!), corner(s, longest[s]! + 2)].map(
      at,
    );
    return round.every((p, k) => {
      const [u, v] = [less(round[(k + 1) % 4]!, p), less(round[(k + 3) % 4]!, p)];
      return Math.abs(dot(u, v)) <= SQUARE * Math.hypot(...u) * Math.hypot(...v);
    });
  }
}

/**
 * The sides of a mesh's triangles that are drawn of it, each once: without the diagonals of quads.
 * @returns two vertices a side
 */
export function sidesOf(position: ArrayLike<number>, index: ArrayLike<number>): Uint32Array<ArrayBuffer> {
  const { quads } = edgesOf(position, index);
  const vertices = position.length / 3;
  const sides = new Set<number>();
  for (let c = 0; c + 2 < index.length; c += 3)
    for (let k = 0; k < 3; k++) {
      if (quads[c * 3 + k * 3 + k] === FAR_EDGE) continue;
      const [a, b] = [index[c + ((k + 1) % 3)]!, index[c + ((k + 2) % 3)]!];
      sides.add(Math.min(a, b) * vertices + Math.max(a, b));
    }
  const out = new Uint32Array(sides.size * 2);
  let at = 0;
  for (const side of sides) {
    out[at++] = Math.floor(side / vertices);
    out[at++] = side % vertices;
  }
  return out;
}

type Vec = [number, number, number];
const less = (p: Vec, q: Vec): Vec => [p[0] - q[0], p[1] - q[1], p[2] - q[2]];
const dot = (p: ArrayLike<number>, q: ArrayLike<number>) => p[0]! * q[0]! + p[1]! * q[1]! + p[2]! * q[2]!;
const cross = (p: Vec, q: Vec): Vec => [p[1] * q[2] - p[2] * q[1], p[2] * q[0] - p[0] * q[2], p[0] * q[1] - p[1] * q[0]];
