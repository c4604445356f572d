/**
 * Light from shapes: what falls from a glowing capsule or panel on a small surface, as if nothing stood between. The
 * shaders' twin is `render/spillShader.ts`.
 *
 * Sources: an endless cylinder and a sphere give what the handbooks of form factors have for them (Howell, "A Catalog of
 * Radiation Heat Transfer Configuration Factors", B-41, C-130a); a run of a thin line of light integrates in closed form;
 * a polygon by Lambert's formula (Baum et al. 1989), its part below the horizon as of a sphere of its width (Hill, Heitz 2016).
 */
import { along, cross, dot, length, minus, unit, type Vec } from './vectors.js';

export type { Vec } from './vectors.js';

/** A line of light as thick as its radius; a sphere where both ends are one. Metres, scene-linear radiance. */
export interface Capsule {
  readonly kind: 'capsule';
  readonly from: Vec;
  readonly to: Vec;
  readonly radius: number;
  /** How much of a round end it has at either: 1 closed, 0 where it is cut off. */
  readonly ends: readonly [from: number, to: number];
}

/** A rectangle that shines as a white diffuser does. */
export interface Panel {
  readonly kind: 'panel';
  readonly centre: Vec;
  /** From its middle to the middles of two of its sides. */
  readonly across: Vec;
  readonly up: Vec;
  /** It shines to both sides; else to that of across x up. */
  readonly both: boolean;
}

export type Emitter = Capsule | Panel;

/**
 * The share of the half sphere's light that a ball gives, by the sine of its half angle and the cosine of its height over
 * the horizon; a parabola where the horizon cuts it, which meets the exact law at both ends.
 */
export function ballShare(sine: number, height: number): number {
  if (height >= sine) return sine * sine * height;
  if (height <= -sine) return 0;
  return (sine * (height + sine) ** 2) / 4;
}

/** How far before its axis the visible half of a cylinder lies in the mean, in radii. */
const NEAR_SIDE = Math.PI / 4;
/** A ball, and the balls at the ends of a line: as seen from a point, its distance not under its radius. */
const ballAt = (way: Vec, radius: number, normal: Vec): number => {
  const far = Math.max(length(way), radius);
  return ballShare(radius / far, dot(way, normal) / far);
};

function capsuleShare({ from, to, radius, ends }: Capsule, point: Vec, normal: Vec): number {
  let [a, b] = [minus(from, point), minus(to, point)];
  const axis = minus(b, a);
  const whole = length(axis);
  if (whole < 1e-6) return ballAt(a, radius, normal);
  const out = along([0, 0, 0], axis, 1 / whole);
  // An end shows more of its ball the more it looks this way.
  const closed = (way: Vec, toward: number): number => {
    const far = Math.max(length(way), radius);
    return (Math.max(0, dot(way, normal)) / far) * (radius / far) ** 2 * 0.5 * (1 + (toward * dot(way, out)) / far);
  };
  const share = ends[0] * closed(a, 1) + ends[1] * closed(b, -1);
  // What is seen of a thick line is its near side: nearer by as much, and by as much less wide, as half a circle's middle.
  const foot = along(a, out, -dot(a, out));
  const away = length(foot);
  const shift = (NEAR_SIDE * radius) / Math.max(away, radius);
  [a, b] = [along(a, foot, -shift), along(b, foot, -shift)];
  const high = Math.max(away, radius) * (1 - shift);
  // Only what is above the horizon.
  const [first, last] = [dot(a, normal), dot(b, normal)];
  if (first <= 0 && last <= 0) return share;
  if (first < 0) a = along(a, axis, first / (first - last));
  else if (last < 0) b = along(b, axis, -last / (last - first));
  const [aa, bb] = [Math.max(dot(a, a), high * high), Math.max(dot(b, b), high * high)];
  const angle = Math.acos(Math.max(-1, Math.min(1, dot(a, b) / Math.sqrt(aa * bb))));
  const straight = away > 1e-9 ? dot(foot, normal) / away : 0;
  const run = dot(b, out) / bb - dot(a, out) / aa + angle / high;
  const sum = straight * run - dot(out, normal) * high * (1 / bb - 1 / aa);
  return share + Math.max(0, (radius * (1 - shift) * sum) / Math.PI);
}

function panelShare({ centre, across, up, both }: Panel, point: Vec, normal: Vec): number {
  const front = dot(minus(point, centre), cross(across, up));
  if (!both && front <= 0) return 0;
  const corners = (
    [
      [-1, -1],
      [1, -1],
      [1, 1],
      [-1, 1],
    ] as const
  ).map(([i, j]) => unit(minus(along(along(centre, across, i), up, j), point)));
  let flow: Vec = [0, 0, 0];
  for (let k = 0; k < 4; k++) {
    const [a, b] = [corners[k]!, corners[(k + 1) % 4]!];
    const turn = cross(a, b);
    const sine = length(turn);
    if (sine > 1e-9) flow = along(flow, turn, Math.atan2(sine, dot(a, b)) / sine / (2 * Math.PI));
  }
  // The edges run the other way round for who looks from behind.
  if (front > 0) flow = along([0, 0, 0], flow, -1);
  const share = length(flow);
  return share < 1e-12 ? 0 : ballShare(Math.sqrt(share), dot(flow, normal) / share);
}

/**
 * The share of the half sphere over a small surface that an emitter fills, weighed by the cosine: times pi and its
 * radiance that is the irradiance.
 * @param normal of unit length
 */
export const shareOf = (emitter: Emitter, point: Vec, normal: Vec): number =>
  emitter.kind === 'capsule' ? capsuleShare(emitter, point, normal) : panelShare(emitter, point, normal);
