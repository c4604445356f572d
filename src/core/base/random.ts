/** One number for a prop, by its seed: as the sheet's own random numbers are made. */

/** @param seed a whole number @returns 0 <= x < 1, the same for the same seed everywhere */
export function randomOf(seed: number): number {
  // lowbias32 (Wellons, "Prospecting for Hash Functions"), as the kernel of that name.
  let x = seed >>> 0;
  x = Math.imul(x ^ (x >>> 16), 0x7feb352d) >>> 0;
  x = Math.imul(x ^ (x >>> 15), 0x846ca68b) >>> 0;
  x = (x ^ (x >>> 16)) >>> 0;
  return (x >>> 8) * 2 ** -24;
}
