/**
 * How what a mesh carries changes along its surface: by its triangles' own slopes, each vertex having the mean of
 * those around it. Displaced surfaces need it for their normals.
 */

export interface Triangles {
  /** Three numbers a vertex, metres. */
  readonly position: ArrayLike<number>;
  /** Three numbers a vertex, unit length. */
  readonly normal: ArrayLike<number>;
  /** Three vertices a triangle; null where the vertices follow one another. */
  readonly index: ArrayLike<number> | null;
}

export interface Slopes {
  /** As wide as the channel, a metre along the tangent of each vertex. */
  readonly t: Float32Array<ArrayBuffer>;
  /** A metre along its bitangent. */
  readonly b: Float32Array<ArrayBuffer>;
}

/**
 * A tangent for a unit normal, turning without a jump: cross(tangent, bitangent) is the normal. The stage's shaders
 * hold the same (Duff and others 2017, "Building an Orthonormal Basis, Revisited"; formula from memory, checked as such).
 */
export function tangentOf([x, y, z]: readonly [number, number, number]): [number, number, number] {
  const s = z < 0 ? -1 : 1;
  const a = -1 / (s + z);
  return [1 + s * x * x * a, s * x * y * a, -s * x];
}

/** @param channel `width` numbers a vertex; what is not finite counts as 0 */
export function slopesOf({ position, normal, index }: Triangles, channel: ArrayLike<number>, width: number): Slopes {
  const vertices = Math.floor(position.length / 3);
  const corners = index ? index.length : vertices;
  // Gradients in the prop's space, weighted by area.
  const sums = new Float64Array(vertices * width * 3);
  const areas = new Float64Array(vertices);
  const at = (k: number) => [position[k * 3]!, position[k * 3 + 1]!, position[k * 3 + 2]!] as const;
  for (let c = 0; c + 2 < corners; c += 3) {
    const [i, j, k] = index ? [index[c]!, index[c + 1]!, index[c + 2]!] : [c, c + 1, c + 2];
    const [p, q, r] = [at(i), at(j), at(k)];
    const e = [q[0] - p[0], q[1] - p[1], q[2] - p[2]] as const;
    const f = [r[0] - p[0], r[1] - p[1], r[2] - p[2]] as const;
    const n = [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]] as const;
    const twice = Math.hypot(...n);
    if (!(twice > 0) || !Number.isFinite(twice)) continue;
    for (const v of [i, j, k]) areas[v] = areas[v]! + twice;
    for (let lane = 0; lane < width; lane++) {
      const dq = channel[j * width + lane]! - channel[i * width + lane]!;
      const dr = channel[k * width + lane]! - channel[i * width + lane]!;
      if (!Number.isFinite(dq) || !Number.isFinite(dr)) continue;
      // n x (dr e - dq f), over n.n, times the area.
      const m = [0, 1, 2].map((a) => dr * e[a]! - dq * f[a]!) as [number, number, number];
      const g = [
        (n[1] * m[2] - n[2] * m[1]) / twice,
        (n[2] * m[0] - n[0] * m[2]) / twice,
        (n[0] * m[1] - n[1] * m[0]) / twice,
      ] as const;
      for (const v of [i, j, k]) for (let a = 0; a < 3; a++) sums[(v * width + lane) * 3 + a]! += g[a]!;
    }
  }
  const t = new Float32Array(vertices * width);
  const b = new Float32Array(vertices * width);
  for (let v = 0; v < vertices; v++) {
    if (!(areas[v]! > 0)) continue;
    const n = [normal[v * 3]!, normal[v * 3 + 1]!, normal[v * 3 + 2]!] as [number, number, number];
    const u = tangentOf(n);
    const w = [n[1] * u[2] - n[2] * u[1], n[2] * u[0] - n[0] * u[2], n[0] * u[1] - n[1] * u[0]];
    for (let lane = 0; lane < width; lane++) {
      const g = (v * width + lane) * 3;
      t[v * width + lane] = (sums[g]! * u[0] + sums[g + 1]! * u[1] + sums[g + 2]! * u[2]) / areas[v]!;
      b[v * width + lane] = (sums[g]! * w[0]! + sums[g + 1]! * w[1]! + sums[g + 2]! * w[2]!) / areas[v]!;
    }
  }
  return { t, b };
}
