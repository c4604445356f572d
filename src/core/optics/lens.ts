/**
 * Lens bend: how a lens draws what is far from its middle. A place of the picture at distance r from its middle, in halves
 * of the picture's height, shows what is at r (1 + bend r²) times a scale, of an unbent picture: the first term of radial
 * distortion (Brown 1966; from memory). Above 0 straight lines bow outward, below 0 inward. The scale leaves no corner empty.
 */

/** Farther either way, places of the picture would be seen twice. */
export const MOST_BEND = 0.5;
export const LEAST_BEND = -0.07;
/** How near to folding over a wide picture's corners may come. */
const UNFOLDED = 0.95;

export interface Lens {
  readonly bend: number;
  /** Width over height. */
  readonly aspect: number;
}

/**
 * A bend as it is drawn. Below 0 places stop going outward at r² = -1 / (3 bend), and beyond would be seen twice: it is held
 * to where the corners of a picture of this shape lie within.
 */
export const heldBend = (bend: number, aspect: number): number =>
  Math.max(LEAST_BEND, -UNFOLDED / (3 * (1 + aspect * aspect)), Math.min(MOST_BEND, bend));

/** The scale: for lines that bow outward the corners stay where they are; for inward ones the middles of the nearer sides. */
export function lensScale({ bend, aspect }: Lens): number {
  const held = heldBend(bend, aspect);
  const fixed = held > 0 ? 1 + aspect * aspect : Math.min(1, aspect * aspect);
  return 1 / (1 + held * fixed);
}

/** Where what is seen at a place lies in the unbent picture. @param x @param y -1 to 1, up */
export function unbent(lens: Lens, x: number, y: number): [number, number] {
  const r2 = (x * lens.aspect) ** 2 + y * y;
  const by = lensScale(lens) * (1 + heldBend(lens.bend, lens.aspect) * r2);
  return [x * by, y * by];
}

/** Where a place of the unbent picture is seen: `unbent` the other way round. */
export function bent(lens: Lens, x: number, y: number): [number, number] {
  const [scale, bend] = [lensScale(lens), heldBend(lens.bend, lens.aspect)];
  const far = Math.hypot(x * lens.aspect, y);
  if (far === 0 || bend === 0) return [x, y];
  // r + bend r³ = far / scale, by Newton's steps: it only rises.
  let r = far;
  for (let k = 0; k < 12; k++) r -= (scale * (r + bend * r ** 3) - far) / (scale * (1 + 3 * bend * r * r));
  return [(x * r) / far, (y * r) / far];
}
