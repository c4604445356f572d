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

const smooth = (low: number, high: number, x: number): number => {
  const t = Math.min(1, Math.max(0, (x - low) / (high - low)));
  return t * t * (3 - 2 * t);
};

/** A dissolve at .45 with a burning rim, over noise of the place; emission and opacity. */
export function dissolveLoop(x: Float32Array, y: Float32Array, z: Float32Array, out: Float32Array[]): void {
  const [r, g, b, a] = out as [Float32Array, Float32Array, Float32Array, Float32Array];
  const seed = hash1(4);
  const [width, softness] = [0.08, 0.03];
  const threshold = -1e-5 - (softness + width) + (1 + 1e-5 + 1e-5 + softness + width) * 0.45;
  for (let k = 0; k < x.length; k++) {
    const n = noise3(x[k]! * 3, y[k]! * 3, z[k]! * 3, seed) * 0.5 + 0.5;
    const mask = Math.min(1, Math.max(0, (n - 0.2) / 0.6));
    const inner = threshold + softness;
    const keep = smooth(threshold, inner, mask);
    const rim = keep * (1 - smooth(inner, inner + width, mask));
    r[k] = 8 * rim;
    g[k] = 2.4 * rim;
    b[k] = 0.5 * rim;
    a[k] = keep;
  }
}

/** A rim by Fresnel and a contact line, each less a pattern of noise, the larger of them, in a hue. */
export function forceFieldLoop(
  n: readonly Float32Array[],
  v: readonly Float32Array[],
  gap: Float32Array,
  p: readonly Float32Array[],
  out: Float32Array[],
): void {
  const seed = hash1(2);
  for (let k = 0; k < gap.length; k++) {
    const facing = Math.min(1, Math.max(0, n[0]![k]! * v[0]![k]! + n[1]![k]! * v[1]![k]! + n[2]![k]! * v[2]![k]!));
    const rim = Math.pow(1 - facing, 3.5);
    const line = Math.pow(1 - Math.min(1, Math.max(0, gap[k]! / 0.4)), 2.2);
    const noise = noise3(p[0]![k]! * 6, p[1]![k]! * 6, p[2]![k]! * 6, seed);
    const etch = Math.min(1, Math.max(0, (noise - 0.1) / 0.25));
    const both = Math.max(Math.max(rim - etch, 0), Math.max(line - etch, 0));
    out[0]![k] = 1.2 * both;
    out[1]![k] = 4.8 * both;
    out[2]![k] = 6 * both;
  }
}

/** Four travelling waves, light lost with depth, and a glitter by a power. */
export function waterLoop(x: Float32Array, z: Float32Array, depth: Float32Array, time: number, out: Float32Array[]): void {
  const lengths = [4.2, 2.3, 1.3, 0.7];
  const speeds = [0.9, 0.7, 0.55, 0.4];
  const strong = [0.4, 0.3, 0.2, 0.1];
  const [east, south] = [Math.cos(0.5), -Math.sin(0.5)];
  const turn = 2 * Math.PI;
  for (let k = 0; k < x.length; k++) {
    const along = x[k]! * east + z[k]! * south;
    let sum = 0;
    for (let w = 0; w < 4; w++) sum += strong[w]! * Math.sin((turn * (along - speeds[w]! * time)) / lengths[w]!);
    const glitter = Math.pow(sum * 0.5 + 0.5, 8);
    const d = Math.max(0, depth[k]! + sum * 0.1);
    out[0]![k] = 0.3 * Math.exp(-0.4 * d) + glitter;
    out[1]![k] = 0.7 * Math.exp(-0.08 * d) + glitter;
    out[2]![k] = 0.8 * Math.exp(-0.03 * d) + glitter;
  }
}
