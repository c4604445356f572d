/** The same computations as plain JavaScript loops in double precision, written by hand: what WebAssembly is measured against. */

function fade(t: number): number {
  return t * t * t * (t * (t * 6 - 15) + 10);
}

function hash1(x: number): number {
  let h = x;
  h = Math.imul(h ^ (h >>> 16), 0x7feb352d);
  h = Math.imul(h ^ (h >>> 15), 0x846ca68b);
  return h ^ (h >>> 16);
}

const TO_UNIT = 2 ** -31;
/** Where the kernels count their cells from. */
const OFFSET = 0x4b400000;

export function noise1(x: number, seed: number): number {
  const floor = Math.floor(x);
  const cell = (floor | 0) + OFFSET + seed;
  const f = x - floor;
  const u = fade(f);
  const a = hash1(cell) * f;
  const b = hash1(cell + 1) * (f - 1);
  return (a + (b - a) * u) * 2 * TO_UNIT;
}

/** One flat loop over the corners: helpers that take seven numbers would be called with boxed ones, at a tenth of the speed. */
export function noise3(x: number, y: number, z: number, seed: number): number {
  const fx0 = Math.floor(x);
  const fy0 = Math.floor(y);
  const fz0 = Math.floor(z);
  const cx = ((fx0 | 0) + OFFSET + seed) | 0;
  const cy = (fy0 | 0) + OFFSET;
  const cz = (fz0 | 0) + OFFSET;
  const fx = x - fx0;
  const fy = y - fy0;
  const fz = z - fz0;
  const u = fade(fx);
  const v = fade(fy);
  const w = fade(fz);
  let sum = 0;
  for (let corner = 0; corner < 8; corner++) {
    const ox = corner & 1;
    const oy = (corner >> 1) & 1;
    const oz = corner >> 2;
    let hx = (Math.imul(cx + ox, 1664525) + 1013904223) | 0;
    let hy = (Math.imul(cy + oy, 1664525) + 1013904223) | 0;
    let hz = (Math.imul(cz + oz, 1664525) + 1013904223) | 0;
    hx = (hx + Math.imul(hy, hz)) | 0;
    hy = (hy + Math.imul(hz, hx)) | 0;
    hz = (hz + Math.imul(hx, hy)) | 0;
    hx ^= hx >>> 16;
    hy ^= hy >>> 16;
    hz ^= hz >>> 16;
    hx = (hx + Math.imul(hy, hz)) | 0;
    hy = (hy + Math.imul(hz, hx)) | 0;
    hz = (hz + Math.imul(hx, hy)) | 0;
    const weight = (ox ? u : 1 - u) * (oy ? v : 1 - v) * (oz ? w : 1 - w);
    sum += weight * (hx * (fx - ox) + hy * (fy - oy) + hz * (fz - oz));
  }
  sum *= 1.35 * TO_UNIT;
  return sum < -1 ? -1 : sum > 1 ? 1 : sum;
}

export function organicLoop(time: Float32Array, out: Float32Array[]): void {
  const [r, g, b] = out as [Float32Array, Float32Array, Float32Array];
  const seed = hash1(0);
  for (let k = 0; k < time.length; k++) {
    const n = noise1(time[k]! * 3 + 7, seed);
    const lit = n < 0.25 ? 0.25 : n > 1 ? 1 : n;
    r[k] = 0.42 * 12 * lit;
    g[k] = 12 * lit;
    b[k] = 0.76 * 12 * lit;
  }
}

export function fiveNoisesLoop(x: Float32Array, y: Float32Array, z: Float32Array, out: Float32Array): void {
  const seeds = [1, 2, 3, 4, 5].map(hash1);
  for (let k = 0; k < x.length; k++) {
    let sum = 0;
    for (let n = 0; n < 5; n++) {
      const scale = (n + 1) * 1.7;
      sum += noise3(x[k]! * scale, y[k]! * scale, z[k]! * scale, seeds[n]!);
    }
    out[k] = sum;
  }
}
