/** Makes docs/tone.png anew: six hues at 1/2 to 100 times white, under each tone curve. */
import { writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { encode } from 'fast-png';
import { srgbEncode } from '../src/core/base/srgb.js';
import { TONE, TONE_CURVES, type Rgb } from '../src/core/optics/tone.js';

const HUES: readonly Rgb[] = [
  [1, 0.25, 0.03],
  [1, 0.02, 0.02],
  [0.02, 0.06, 1],
  [0.05, 1, 0.15],
  [0.05, 0.7, 1],
  [0.5, 0.05, 1],
];
const TIMES = [0.5, 1, 2, 5, 10, 20, 50, 100];
const CELL = 32;
const GAP = 16;
const curves = TONE_CURVES.filter((c) => c !== 'linear');
const block = TIMES.length * CELL;
const width = curves.length * block + (curves.length - 1) * GAP;
const height = HUES.length * CELL;
const data = new Uint8Array(width * height * 3);
data.fill(0x14);
curves.forEach((curve, n) => {
  for (let y = 0; y < height; y++)
    for (let x = 0; x < block; x++) {
      const light = HUES[Math.floor(y / CELL)]!.map((c) => c * TIMES[Math.floor(x / CELL)]!) as unknown as Rgb;
      const shown = TONE[curve](light).map((c) => Math.round(255 * srgbEncode(c)));
      data.set(shown, (y * width + n * (block + GAP) + x) * 3);
    }
});
const root = join(dirname(fileURLToPath(import.meta.url)), '..');
writeFileSync(join(root, 'docs/tone.png'), encode({ width, height, data, channels: 3, depth: 8 }));
