/** Pictures that starters look up, made by Wispen's own core. */
import sharp from 'sharp';
import { dice, field, from, strand } from './field.js';

const [WIDE, HIGH] = [192, 192];

/** Lines as a chart has them for the depth of the sea, etched into glass; it repeats without a seam. */
const lines = field(
  [
    strand('p', 'position', {}, { space: 'object' }),
    strand('hills', 'formula', {
      a: from('p'),
      formula: {
        text: 'sin(6.2831853 * a.x) * cos(6.2831853 * a.y) + 0.6 * sin(6.2831853 * (2.0 * a.x + a.y)) + 0.35 * cos(6.2831853 * (a.x - 3.0 * a.y))',
      },
    }),
    strand('line', 'formula', { a: from('hills'), formula: { text: '1.0 - smoothstep(0.1, 0.2, abs(fract(a * 3.5) - 0.5))' } }),
  ],
  'line',
);

/** @returns the bytes of the PNG: white lines, black between them */
export function etchedGlass(): Promise<Buffer> {
  const count = WIDE * HIGH;
  const [[line]] = lines(
    Float32Array.from({ length: count }, (_, k) => ((k % WIDE) + 0.5) / WIDE),
    Float32Array.from({ length: count }, (_, k) => 1 - (Math.floor(k / WIDE) + 0.5) / HIGH),
    new Float32Array(count),
  ) as [[Float32Array]];
  const bytes = Uint8Array.from(line, (v) => Math.round(255 * Math.max(0, Math.min(1, v))));
  return sharp(bytes, { raw: { width: WIDE, height: HIGH, channels: 1 } })
    .png({ compressionLevel: 9, palette: true, colours: 8, dither: 0 })
    .toBuffer();
}

const SEA = 256;
/** Waves that the sea's picture is a sum of. */
const WAVES = 72;
/** How steep it is: the root of the mean square of its slope. */
const STEEP = 0.32;

/**
 * Normals of a sea under wind: waves that fit a whole number of times across the picture, so that it repeats without a
 * seam, lower the shorter they are, most of them about the wind's way.
 * @returns the bytes of the JPEG: x and y tilted by red and green, as glTF has normal maps
 */
export function seaNormals(): Promise<Buffer> {
  const roll = dice(4711);
  const waves = Array.from({ length: WAVES }, () => {
    const count = 5 + 21 * roll() ** 1.2;
    const way = 0.5 + (roll() + roll() + roll() - 1.5) * 1.5;
    const [x, y] = [Math.round(count * Math.cos(way)), Math.round(count * Math.sin(way))];
    return { x, y, high: 1 / (1 + Math.hypot(x, y)) ** 1.35, phase: 2 * Math.PI * roll() };
  });
  const slopes = new Float64Array(SEA * SEA * 2);
  for (let py = 0; py < SEA; py++)
    for (let px = 0; px < SEA; px++) {
      let [u, v] = [0, 0];
      for (const { x, y, high, phase } of waves) {
        const steep = high * Math.cos((2 * Math.PI * (x * (px + 0.5) + y * (py + 0.5))) / SEA + phase);
        u += x * steep;
        v += y * steep;
      }
      slopes.set([u, v], (py * SEA + px) * 2);
    }
  const mean = Math.sqrt(slopes.reduce((sum, v) => sum + v * v, 0) / (SEA * SEA));
  const bytes = new Uint8Array(SEA * SEA * 3);
  for (let py = 0; py < SEA; py++)
    for (let px = 0; px < SEA; px++) {
      const k = (py * SEA + px) * 2;
      const [u, v] = [(-STEEP * slopes[k]!) / mean, (-STEEP * slopes[k + 1]!) / mean];
      const long = Math.hypot(u, v, 1);
      // Rows of pictures go down, and y goes up.
      [u / long, v / long, 1 / long].forEach(
        (c, j) => (bytes[((SEA - 1 - py) * SEA + px) * 3 + j] = Math.round(255 * (c * 0.5 + 0.5))),
      );
    }
  return sharp(bytes, { raw: { width: SEA, height: SEA, channels: 3 } })
    .jpeg({ quality: 86, chromaSubsampling: '4:4:4' })
    .toBuffer();
}

/** By the names of their files. */
export const PICTURES: Readonly<Record<string, () => Promise<Buffer>>> = {
  'etched-glass.png': etchedGlass,
  'sea-normals.jpg': seaNormals,
};
