/** The few operations on three numbers that light needs. */
export type Vec = readonly [number, number, number];

export const dot = (a: Vec, b: Vec): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const minus = (a: Vec, b: Vec): Vec => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
/** a, and from there t times b. */
export const along = (a: Vec, b: Vec, t: number): Vec => [a[0] + b[0] * t, a[1] + b[1] * t, a[2] + b[2] * t];
export const cross = (a: Vec, b: Vec): Vec => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
export const length = (a: Vec): number => Math.sqrt(dot(a, a));
/** Upwards where it has no length. */
export function unit(a: Vec): Vec {
  const long = length(a);
  return long > 1e-12 ? [a[0] / long, a[1] / long, a[2] / long] : [0, 1, 0];
}
