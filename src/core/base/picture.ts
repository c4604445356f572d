/**
 * Images as effects read them: linear light, four numbers a texel, every level half the one before. One way of looking
 * them up, in 32-bit floats, for the reference evaluator and WebAssembly alike; graphics cards do the same with their
 * own weights of 8 bits.
 */
export interface Level {
  readonly width: number;
  readonly height: number;
  /** RGBA rows, the top row first. */
  readonly texels: Float32Array;
}

export interface Picture {
  readonly levels: readonly Level[];
}

export const WRAPS = ['repeat', 'mirror', 'clamp'] as const;
export type Wrap = (typeof WRAPS)[number];
export const FILTERS = ['smooth', 'nearest'] as const;
export type Filter = (typeof FILTERS)[number];

/** What an image is until it is there, and where none is chosen. */
export const GREY: Picture = { levels: [{ width: 1, height: 1, texels: Float32Array.from([0.5, 0.5, 0.5, 1]) }] };

export const MAX_SIDE = 8192;

const f = Math.fround;

/** sRGB to linear, IEC 61966-2-1. */
export const fromSrgb = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
/** Linear to sRGB, IEC 61966-2-1. */
export const toSrgb = (v: number): number => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055);

/** All levels down to one texel: each is the mean of what it covers of the level before. */
export function pictureOf(width: number, height: number, texels: Float32Array): Picture {
  const levels: Level[] = [{ width, height, texels }];
  for (let last = levels[0]!; last.width > 1 || last.height > 1; last = levels[levels.length - 1]!) levels.push(halved(last));
  return { levels };
}

function halved({ width, height, texels }: Level): Level {
  const [w, h] = [Math.max(1, width >> 1), Math.max(1, height >> 1)];
  const out = new Float32Array(w * h * 4);
  // An odd side leaves each new texel a little more than two: the parts count by how much of them is covered.
  const [sx, sy] = [width / w, height / h];
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const [x0, x1, y0, y1] = [x * sx, (x + 1) * sx, y * sy, (y + 1) * sy];
      let sum = 0;
      const at = (y * w + x) * 4;
      for (let j = Math.floor(y0); j < Math.min(height, Math.ceil(y1)); j++)
        for (let i = Math.floor(x0); i < Math.min(width, Math.ceil(x1)); i++) {
          const share = (Math.min(x1, i + 1) - Math.max(x0, i)) * (Math.min(y1, j + 1) - Math.max(y0, j));
          sum += share;
          for (let c = 0; c < 4; c++) out[at + c] = out[at + c]! + share * texels[(j * width + i) * 4 + c]!;
        }
      for (let c = 0; c < 4; c++) out[at + c] = out[at + c]! / sum;
    }
  return { width: w, height: h, texels: out };
}

function wrapped(i: number, size: number, wrap: Wrap): number {
  if (wrap === 'clamp') return Math.max(0, Math.min(size - 1, i));
  const lap = i - size * Math.floor(i / size);
  if (wrap === 'repeat') return lap;
  return Math.floor(i / size) % 2 === 0 ? lap : size - 1 - lap;
}

/**
 * @param v upwards, 0 at the bottom; @param level 0 the finest; fractions go over to the next
 * @param out four numbers, from `at` on, `step` apart
 */
export function lookUp(
  { levels }: Picture,
  u: number,
  v: number,
  level: number,
  wrap: Wrap,
  filter: Filter,
  out: Float32Array | number[],
  at = 0,
  step = 1,
): void {
  if (!Number.isFinite(u) || !Number.isFinite(v)) {
    for (let c = 0; c < 4; c++) out[at + c * step] = NaN;
    return;
  }
  const down = f(1 - v);
  if (filter === 'nearest') {
    const { width, height, texels } = levels[0]!;
    const x = wrapped(Math.floor(f(u * width)), width, wrap);
    const y = wrapped(Math.floor(f(down * height)), height, wrap);
    for (let c = 0; c < 4; c++) out[at + c * step] = texels[(y * width + x) * 4 + c]!;
    return;
  }
  const held = Math.max(0, Math.min(levels.length - 1, level));
  const fine = Math.floor(held);
  const blend = f(held - fine);
  for (let c = 0; c < 4; c++) {
    const a = smooth(levels[fine]!, u, down, wrap, c);
    out[at + c * step] = blend > 0 ? f(a + f(blend * f(smooth(levels[fine + 1]!, u, down, wrap, c) - a))) : a;
  }
}

function smooth({ width, height, texels }: Level, u: number, down: number, wrap: Wrap, c: number): number {
  const [x, y] = [f(f(u * width) - 0.5), f(f(down * height) - 0.5)];
  const [x0, y0] = [Math.floor(x), Math.floor(y)];
  const [fx, fy] = [f(x - x0), f(y - y0)];
  const texel = (i: number, j: number) => texels[(wrapped(j, height, wrap) * width + wrapped(i, width, wrap)) * 4 + c]!;
  const row = (j: number) => f(texel(x0, j) + f(fx * f(texel(x0 + 1, j) - texel(x0, j))));
  const low = row(y0);
  return f(low + f(fy * f(row(y0 + 1) - low)));
}
