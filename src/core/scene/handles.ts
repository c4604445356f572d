/**
 * What a drag of a handle means: where the pointer's ray meets an axis or a plane of what is dragged. Exact under
 * perspective, whatever the size of the picture.
 */
import type { Vec3 } from './edits.js';

/** From the eye through the pointer; the direction has length 1. */
export interface Ray {
  readonly origin: Vec3;
  readonly direction: Vec3;
}
/** x, y, z, w; of length 1. */
export type Quaternion = [number, number, number, number];

const dot = (a: Vec3, b: Vec3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const minus = (a: Vec3, b: Vec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const cross = (a: Vec3, b: Vec3): Vec3 => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
export const further = (from: Vec3, axis: Vec3, metres: number): Vec3 => from.map((v, k) => v + axis[k]! * metres) as Vec3;

/** A ray that is nearer to an axis, or to a plane, than this sine says nothing of where along it it points. */
const GRAZING = 0.02;

/**
 * Where along an axis a ray comes nearest to it.
 * @param through a point of it; @param axis of length 1
 * @returns metres from that point; null where the ray runs along the axis
 */
export function alongAxis({ origin, direction }: Ray, through: Vec3, axis: Vec3): number | null {
  const between = minus(origin, through);
  const slant = dot(axis, direction);
  const sine2 = 1 - slant * slant;
  if (sine2 < GRAZING * GRAZING) return null;
  return (dot(axis, between) - slant * dot(direction, between)) / sine2;
}

/** Where a ray meets a plane before the eye; null where it does not. @param normal of length 1 */
export function onPlane({ origin, direction }: Ray, through: Vec3, normal: Vec3): Vec3 | null {
  const slant = dot(direction, normal);
  if (Math.abs(slant) < GRAZING) return null;
  const far = dot(minus(through, origin), normal) / slant;
  return far > 0 ? further(origin, direction, far) : null;
}

/** Two directions of length 1 across an axis, so that they and it are a right-handed three. */
export function across(axis: Vec3): [Vec3, Vec3] {
  const other: Vec3 = Math.abs(axis[1]) < 0.9 ? [0, 1, 0] : [0, 0, 1];
  const first = cross(other, axis);
  const length = Math.hypot(...first);
  const u = first.map((v) => v / length) as Vec3;
  return [u, cross(axis, u)];
}

/** The angle about an axis at which a ray meets the plane across it, in radians; null where it does not. */
export function angleAbout(ray: Ray, through: Vec3, axis: Vec3): number | null {
  const point = onPlane(ray, through, axis);
  if (!point) return null;
  const [u, v] = across(axis);
  const from = minus(point, through);
  return Math.atan2(dot(from, v), dot(from, u));
}

/** A turn, and after it one about an axis of the stage. */
export function turnedAbout(axis: Vec3, radians: number, [x, y, z, w]: readonly number[]): Quaternion {
  const sine = Math.sin(radians / 2);
  const c = Math.cos(radians / 2);
  const [a, b, d] = axis.map((v) => v * sine) as Vec3;
  // The product of two quaternions, the later one first.
  return [
    c * x! + a * w! + b * z! - d * y!,
    c * y! - a * z! + b * w! + d * x!,
    c * z! + a * y! - b * x! + d * w!,
    c * w! - a * x! - b * y! - d * z!,
  ];
}
