/**
 * A frame of each starter against the one that is kept, in small: drawn by Chromium's own software renderer, which is the
 * same on every machine. `WISPEN_FRAMES=keep` keeps those of today, once they have been looked at.
 */
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { PNG } from 'pngjs';
import { STARTERS, starter } from '../fixtures/starters.js';
import { DEEP, expect, nextFrame, openBench, stageCanvas, test } from './app.js';

test.use({ viewport: { width: 1280, height: 800 }, sets: true });

const kept = join(import.meta.dirname, '../frames');
const [WIDE, HIGH] = [144, 86];

/** One of each kind: lit by itself, a sign, moved, see-through before what it meets, motes, water, copies of a painted mesh. */
const SOME = ['failing-tube', 'hatch-sign', 'kelp-frond', 'sampling-dome', 'plankton-motes', 'tank-water', 'ray-drone'];

for (const name of DEEP || process.env.WISPEN_FRAMES ? STARTERS : SOME)
  test(`${name} looks as it did`, async ({ page, app }) => {
    const { id } = starter(name);
    await openBench(page, app, `0190a000-0000-7000-8000-${id.slice(-12)}`, '?clock=frozen&quality=draft&t=2.3');
    await nextFrame(page, 0);
    const draw = () =>
      stageCanvas(page).evaluate(
        (canvas, [width, height]) => {
          const copy = document.createElement('canvas');
          [copy.width, copy.height] = [width!, height!];
          const context = copy.getContext('2d')!;
          context.imageSmoothingQuality = 'high';
          context.drawImage(canvas as HTMLCanvasElement, 0, 0, width!, height!);
          return [...context.getImageData(0, 0, width!, height!).data];
        },
        [WIDE, HIGH] as const,
      );
    const file = join(kept, `${name}.png`);
    const seen = async (): Promise<Uint8Array> => Uint8Array.from(await draw());
    if (process.env.WISPEN_FRAMES === 'keep') {
      let last = await seen();
      await expect
        .poll(
          async () => {
            const now = await seen();
            const same = Buffer.compare(now, last) === 0;
            last = now;
            return same;
          },
          { intervals: [2000] },
        )
        .toBe(true);
      const png = new PNG({ width: WIDE, height: HIGH });
      png.data = Buffer.from(last);
      mkdirSync(kept, { recursive: true });
      writeFileSync(file, PNG.sync.write(png, { colorType: 2 }));
      return;
    }
    expect(existsSync(file)).toBe(true);
    const was = PNG.sync.read(readFileSync(file)).data;
    // A mesh or a light that is not there yet, a hue or a shape that changed: all of them are far beyond this.
    await expect
      .poll(async () => {
        const is = await seen();
        const apart = Array.from(is, (v, k) => (k % 4 === 3 ? 0 : Math.abs(v - was[k]!)));
        const far = apart.filter((v) => v > 24).length / apart.length;
        return apart.reduce((sum, v) => sum + v, 0) / (0.75 * apart.length) < 1.5 && far < 0.01;
      })
      .toBe(true);
  });
