/** What fills a whole channel: ramps along a line, from what the mesh is shaped like, and changes of what is there. One number a vertex each. */
import { randomOf } from '../base/random.js';
import { partsOf } from '../mesh/welds.js';
import type { Canvas } from './paint.js';

type Vec3 = readonly [number, number, number];
type Values = Float32Array<ArrayBuffer>;

const perVertex = ({ vertices }: Canvas, value: (v: number) => number): Values =>
  Float32Array.from({ length: vertices }, (_, v) => value(v));
const clamped = (v: number) => Math.max(0, Math.min(1, v));

/** How far along from 0 to 1; a step where both ends are one. */
const share = (v: number, from: number, to: number): number =>
  from === to ? (v < from ? 0 : 1) : clamped((v - from) / (to - from));

/** The ends of a mesh along an axis of its own, in metres. */
export function extentOf(
  { position, vertices }: Pick<Canvas, 'position' | 'vertices'>,
  axis: 0 | 1 | 2,
): readonly [number, number] {
  let [low, high] = [Infinity, -Infinity];
  for (let v = 0; v < vertices; v++) {
    low = Math.min(low, position[v * 3 + axis]!);
    high = Math.max(high, position[v * 3 + axis]!);
  }
  return vertices > 0 ? [low, high] : [0, 0];
}

/** 0 at `from` and 1 at `to` along an axis of the prop's own, in metres. */
export const alongAxis = (canvas: Canvas, axis: 0 | 1 | 2, from: number, to: number): Values =>
  perVertex(canvas, (v) => share(canvas.position[v * 3 + axis]!, from, to));

/** 0 at one point and 1 at another, along the line between them; all of one height across it. */
export function betweenPoints(canvas: Canvas, from: Vec3, to: Vec3): Values {
  const line = from.map((c, k) => to[k]! - c);
  const length = line.reduce((sum, c) => sum + c * c, 0);
  const { position } = canvas;
  return perVertex(canvas, (v) => {
    const along = line.reduce((sum, c, k) => sum + c * (position[v * 3 + k]! - from[k]!), 0);
    return length > 0 ? clamped(along / length) : 0;
  });
}

/** 0 at points, 1 from so many metres away from the nearest on. */
export function fromDistance(canvas: Canvas, points: readonly Vec3[], metres: number): Values {
  const { position } = canvas;
  const away = (v: number, point: Vec3) => Math.hypot(...point.map((c, k) => position[v * 3 + k]! - c));
  return perVertex(canvas, (v) =>
    share(
      points.reduce((least, p) => Math.min(least, away(v, p)), Infinity),
      0,
      metres,
    ),
  );
}

/** A number for each connected part of the mesh, 0 to 1. */
export function randomPerPart(canvas: Canvas, seed: number): Values {
  const part = partsOf(canvas.neighbours);
  return perVertex(canvas, (v) => randomOf(seed * 9176 + part[canvas.welds.point[v]!]!));
}

/** One number a point of what there is one of a vertex: the mean of those that are in one place. */
function perPoint({ welds: { point, count } }: Canvas, values: ArrayLike<number>): Float64Array {
  const [sums, sizes] = [new Float64Array(count), new Float64Array(count)];
  for (let v = 0; v < point.length; v++) {
    sums[point[v]!]! += values[v]!;
    sizes[point[v]!]!++;
  }
  return sums.map((sum, p) => sum / sizes[p]!);
}

/** Each value becomes the mean of itself and its neighbours, so many times; seams of uv are no borders. */
export function smoothed(canvas: Canvas, values: ArrayLike<number>, times: number): Values {
  const { first, beside } = canvas.neighbours;
  let now = perPoint(canvas, values);
  for (let turn = 0; turn < times; turn++) {
    const next = now.slice();
    for (let p = 0; p < next.length; p++) {
      let sum = now[p]!;
      for (let k = first[p]!; k < first[p + 1]!; k++) sum += now[beside[k]!]!;
      next[p] = sum / (1 + first[p + 1]! - first[p]!);
    }
    now = next;
  }
  return perVertex(canvas, (v) => now[canvas.welds.point[v]!]!);
}

export const inverted = (values: ArrayLike<number>): Values => Float32Array.from(values, (v) => 1 - v);

/** What is at `low` becomes 0 and what is at `high` 1; between them by a power, as `gamma` bends it. */
export const levelled = (values: ArrayLike<number>, low: number, high: number, gamma: number): Values =>
  Float32Array.from(values, (v) => share(v, low, high) ** (1 / gamma));

/**
 * How much a surface bends at each vertex: the mean of its two curvatures, one over metres; a ridge is above 0, a hollow
 * below. By the cotangents of the angles opposite to each side, over the mixed area around it (Meyer, Desbrun, Schröder,
 * Barr, "Discrete Differential-Geometry Operators for Triangulated 2-Manifolds", 2003; from memory, checked on a ball and a
 * cylinder).
 */
export function meanCurvature(canvas: Canvas): Values {
  const { position, index, normal, vertices, welds } = canvas;
  const sums = new Float64Array(welds.count * 3);
  const areas = new Float64Array(welds.count);
  const corners = index ? index.length - (index.length % 3) : vertices - (vertices % 3);
  const at = (v: number): Vec3 => [position[v * 3]!, position[v * 3 + 1]!, position[v * 3 + 2]!];
  for (let c = 0; c < corners; c += 3) {
    const vs = [0, 1, 2].map((k) => (index ? index[c + k]! : c + k));
    const ps = vs.map(at);
    const points = vs.map((v) => welds.point[v]!);
    const side = (a: number, b: number) => ps[b]!.map((x, k) => x - ps[a]![k]!);
    const dot = (u: number[], w: number[]) => u[0]! * w[0]! + u[1]! * w[1]! + u[2]! * w[2]!;
    const [u, w] = [side(0, 1), side(0, 2)];
    const twice = Math.hypot(u[1]! * w[2]! - u[2]! * w[1]!, u[2]! * w[0]! - u[0]! * w[2]!, u[0]! * w[1]! - u[1]! * w[0]!);
    if (!(twice > 0)) continue;
    const cosines = [0, 1, 2].map((k) => dot(side(k, (k + 1) % 3), side(k, (k + 2) % 3)));
    const blunt = cosines.findIndex((cosine) => cosine < 0);
    for (let k = 0; k < 3; k++) {
      // Opposite to corner k lies the side between the other two.
      const [a, b] = [(k + 1) % 3, (k + 2) % 3];
      const cotangent = cosines[k]! / twice;
      const along = side(a, b);
      for (let x = 0; x < 3; x++) {
        sums[points[a]! * 3 + x]! += cotangent * along[x]!;
        sums[points[b]! * 3 + x]! -= cotangent * along[x]!;
      }
      const square = dot(along, along);
      if (blunt < 0) for (const end of [a, b]) areas[points[end]!]! += (square * cotangent) / 8;
      else areas[points[k]!]! += twice / (k === blunt ? 4 : 8);
    }
  }
  return perVertex(canvas, (v) => {
    const p = welds.point[v]!;
    if (!(areas[p]! > 0)) return 0;
    // It points into the bend: against the normal of a ridge. What lies in the surface is its border's, and no bend.
    return [0, 1, 2].reduce((sum, k) => sum - sums[p * 3 + k]! * normal[v * 3 + k]!, 0) / (4 * areas[p]!);
  });
}

/** Half where it is flat, 1 at a ridge and 0 in a hollow that bend as a ball of that radius does. */
export const fromCurvature = (canvas: Canvas, radius: number): Values =>
  meanCurvature(canvas).map((bend) => clamped(0.5 + 0.5 * bend * radius));

/** Directions about +z, as many of each slope as light from everywhere has weight there: cosine-weighted, by Hammersley's points. */
function directions(count: number): Vec3[] {
  return Array.from({ length: count }, (_, k) => {
    let [bits, reversed] = [k, 0];
    for (let place = 0.5; bits > 0; bits = Math.floor(bits / 2), place /= 2) reversed += (bits % 2) * place;
    const [r, turn] = [Math.sqrt((k + 0.5) / count), 2 * Math.PI * reversed];
    return [r * Math.cos(turn), r * Math.sin(turn), Math.sqrt(Math.max(0, 1 - r * r))];
  });
}

/**
 * How much of the light from everywhere reaches each vertex: 1 in the open.
 * @param blocked whether the mesh itself stands in the way within reach, from a point in a direction of unit length
 */
export function openness(canvas: Canvas, rays: number, blocked: (from: Vec3, to: Vec3) => boolean): Values {
  const fan = directions(rays);
  return perVertex(canvas, (v) => {
    const n = [0, 1, 2].map((k) => canvas.normal[v * 3 + k]!) as [number, number, number];
    const p = [0, 1, 2].map((k) => canvas.position[v * 3 + k]!) as [number, number, number];
    // Any two directions square to the normal.
    const s = n[2] < 0 ? -1 : 1;
    const a = -1 / (s + n[2]);
    const b = n[0] * n[1] * a;
    const [t, u] = [
      [1 + s * n[0] * n[0] * a, s * b, -s * n[0]],
      [b, s + n[1] * n[1] * a, -n[1]],
    ];
    let open = 0;
    for (const [x, y, z] of fan) {
      const to = [0, 1, 2].map((k) => x * t![k]! + y * u![k]! + z * n[k]!) as [number, number, number];
      if (!blocked(p, to)) open++;
    }
    return open / fan.length;
  });
}
