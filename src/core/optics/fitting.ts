/** Points of a glowing surface as emitters: lines and balls of light for what is round, panels for what is flat. */
import type { Emitter } from './emitters.js';
import { along, cross, dot, unit, type Vec } from './vectors.js';

type Planes = readonly Float32Array[];

/** Points spread evenly over a surface. */
export interface Glowing {
  /** Metres, a plane an axis. */
  readonly position: Planes;
  /** Of unit length, outwards. */
  readonly normal: Planes;
  /** Square metres that all of them stand for. */
  readonly area: number;
  /** It shines from both of its sides. */
  readonly both: boolean;
}

const AXES = [0, 1, 2] as const;
const at = (planes: Planes, k: number): Vec => [planes[0]![k]!, planes[1]![k]!, planes[2]![k]!];
function middle({ position }: Pick<Glowing, 'position'>, points: readonly number[]): Vec {
  let sum: Vec = [0, 0, 0];
  for (const k of points) sum = along(sum, at(position, k), 1 / points.length);
  return sum;
}

/** The direction along which points lie farthest apart, by powers of their covariance. @param but at right angles to it */
function longest({ position }: Pick<Glowing, 'position'>, points: readonly number[], centre: Vec, but: Vec | null = null): Vec {
  const c = [0, 0, 0, 0, 0, 0, 0, 0, 0];
  for (const k of points) {
    let d = along(at(position, k), centre, -1);
    if (but) d = along(d, but, -dot(d, but));
    for (const i of AXES) for (const j of AXES) c[3 * i + j]! += d[i] * d[j];
  }
  let way: Vec = but ? unit(cross(but, Math.abs(but[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0])) : unit([0.83, 0.47, 0.31]);
  for (let n = 0; n < 24; n++) {
    const next: Vec = [0, 1, 2].map(
      (i) => c[3 * i]! * way[0] + c[3 * i + 1]! * way[1] + c[3 * i + 2]! * way[2],
    ) as unknown as Vec;
    if (Math.hypot(...next) < 1e-18) break;
    way = unit(next);
  }
  return way;
}

/** How far points reach along a direction, from their middle. */
function reach({ position }: Pick<Glowing, 'position'>, points: readonly number[], centre: Vec, way: Vec): [number, number] {
  let [low, high] = [Infinity, -Infinity];
  for (const k of points) {
    const t = dot(along(at(position, k), centre, -1), way);
    low = Math.min(low, t);
    high = Math.max(high, t);
  }
  // The outermost of points that are spread by chance lie a little within.
  const more = (high - low) / (2 * Math.max(2, points.length));
  return [low - more, high + more];
}

/** Points whose normals agree by so much are a flat run. */
const FLAT = 0.92;
/** A flat run is no thicker than this share of its width. */
const THIN = 0.25;

/** Some of the points as one emitter, which gives as much light as their share of the area. */
export function emitterOf(glowing: Glowing, points: readonly number[]): Emitter {
  const area = (glowing.area * points.length) / glowing.position[0]!.length;
  const centre = middle(glowing, points);
  let mean: Vec = [0, 0, 0];
  for (const k of points) mean = along(mean, at(glowing.normal, k), 1 / points.length);
  const agree = Math.hypot(...mean);
  if (agree > FLAT) {
    const out = unit(mean);
    const across = longest(glowing, points, centre, out);
    const up = cross(out, across);
    const [[a, b], [c, d], [e, f]] = [across, up, out].map((way) => reach(glowing, points, centre, way)) as [
      [number, number],
      [number, number],
      [number, number],
    ];
    const [wide, high] = [b - a, d - c];
    if (f - e < THIN * Math.max(wide, high)) {
      // As large as the surface is: what is cut out of its rectangle makes it smaller.
      const share = Math.sqrt(Math.min(1, area / Math.max(wide * high, 1e-12)));
      const at = along(along(along(centre, across, (a + b) / 2), up, (c + d) / 2), out, (e + f) / 2);
      const half = (way: Vec, size: number): Vec => along([0, 0, 0], way, (size * share) / 2);
      return { kind: 'panel', centre: at, across: half(across, wide), up: half(up, high), both: glowing.both };
    }
  }
  const way = longest(glowing, points, centre);
  const [low, high] = reach(glowing, points, centre, way);
  const long = high - low;
  // A capsule of length e and radius r has the area 2 pi r e, its round ends counted in; a ball is one of length 2 r.
  const radius = Math.min(area / (2 * Math.PI * Math.max(long, 1e-9)), Math.sqrt(area / (4 * Math.PI)));
  // Seen along the line, a round end shows its disc, and one that is cut off shows nothing.
  const ends = [-1, 1].map((end) => {
    const shown = points.reduce((sum, k) => sum + Math.max(0, end * dot(at(glowing.normal, k), way)), 0);
    return Math.min(1, ((shown / points.length) * area) / (Math.PI * radius * radius));
  }) as [number, number];
  const ball = long / 2 <= radius;
  const mid = along(centre, way, (low + high) / 2);
  const end = (k: 0 | 1): Vec => along(mid, way, (k === 0 ? -1 : 1) * Math.max(0, long / 2 - ends[k] * radius));
  return { kind: 'capsule', from: ball ? mid : end(0), to: ball ? mid : end(1), radius, ends: ball ? [1, 1] : ends };
}

/** How far points lie from the surface of their emitter, in the mean, as a share of how far they reach. */
function misfit(glowing: Glowing, points: readonly number[], emitter: Emitter): number {
  if (emitter.kind === 'panel') return 0;
  const { from, to, radius } = emitter;
  const axis = along(to, from, -1);
  const squared = dot(axis, axis);
  let sum = 0;
  for (const k of points) {
    const p = along(at(glowing.position, k), from, -1);
    const t = squared > 0 ? Math.max(0, Math.min(1, dot(p, axis) / squared)) : 0;
    sum += (Math.hypot(...along(p, axis, -t)) - radius) ** 2;
  }
  return Math.sqrt(sum / points.length) / (Math.sqrt(squared) + 2 * radius);
}

/** A line of light longer than so many radii is cut where it is not equally bright. */
const LONG = 9;
/** Surfaces that long lines of light are cut on, for where they are not equally bright. */
const FEW = 2;
/** Points of which an emitter is fitted at least. */
const FEWEST = 10;
/** A surface that lies nearer to its emitter than this needs no further ones. */
const CLOSE = 0.035;

interface Part {
  readonly of: number;
  readonly points: readonly number[];
  readonly depth: number;
  readonly need: number;
}

/**
 * Parts of surfaces, each of which one emitter stands for: cut in two again and again, always that which fits worst. It
 * hangs on where they are alone, not on how they shine, so that no light changes places from frame to frame.
 * @param most emitters in all; each surface has one at least
 * @returns for each surface, the points of each of its parts
 */
export function partsOf(surfaces: readonly Glowing[], most: number): number[][][] {
  // A stage of many lights has them whole: each further emitter costs every pixel.
  const cuts = surfaces.length > FEW ? 0 : 2;
  const partOf = (of: number, points: readonly number[], depth: number): Part => {
    const surface = surfaces[of]!;
    const emitter = emitterOf(surface, points);
    const off = misfit(surface, points, emitter);
    const long =
      emitter.kind === 'capsule' && depth < cuts ? Math.hypot(...along(emitter.to, emitter.from, -1)) / emitter.radius / LONG : 0;
    const share = Math.sqrt((surface.area * points.length) / surface.position[0]!.length);
    // What lies off is mended before what is long is cut.
    const need = points.length < 2 * FEWEST ? 0 : off > CLOSE ? (1 + off) * share * 1e3 : long > 1 ? share : 0;
    return { of, points, depth, need };
  };
  const parts = surfaces.map((s, of) =>
    partOf(
      of,
      Array.from({ length: s.position[0]!.length }, (_, k) => k),
      0,
    ),
  );
  while (parts.length < most) {
    const worst = parts.reduce((a, b) => (b.need > a.need ? b : a), parts[0] ?? { need: 0 });
    if (worst.need === 0 || !('points' in worst)) break;
    const { of, points, depth } = worst;
    const surface = surfaces[of]!;
    const centre = middle(surface, points);
    const way = longest(surface, points, centre);
    const sorted = [...points].sort((a, b) => dot(at(surface.position, a), way) - dot(at(surface.position, b), way) || a - b);
    const half = sorted.length >> 1;
    const [one, other] = [sorted.slice(0, half), sorted.slice(half)].map((p) => partOf(of, p, depth + 1)) as [Part, Part];
    parts.splice(parts.indexOf(worst as Part), 1, one, other);
  }
  return surfaces.map((_, of) => parts.filter((p) => p.of === of).map((p) => [...p.points]));
}
