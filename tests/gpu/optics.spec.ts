/** Bloom and tone curves on the graphics card, against their twins on the CPU and against closed forms. */
import { expect, test, type Page } from '@playwright/test';
import { LEVEL_LINES, haloOf, type Light } from '../../src/core/optics/bloom.js';
import { srgbEncode } from '../../src/core/base/srgb.js';
import { graded } from '../../src/core/optics/grade.js';
import { TONE, TONE_CURVES, type Rgb } from '../../src/core/optics/tone.js';
import type { Optics } from '../../src/core/scene/stage.js';
import { momentsOf, reachOf } from '../fixtures/halo.js';
import { bundleFor } from '../fixtures/bundle.js';
import { stageOf } from '../fixtures/stages.js';
import type { Asked } from './opticsPage.js';

const text = bundleFor(new URL('./opticsPage.ts', import.meta.url));

const optics = (bloom: Partial<Optics['bloom']>, more: Partial<Optics> = {}): Optics => ({
  ...stageOf().optics,
  exposure: 0,
  tone: 'linear',
  ...more,
  bloom: { on: true, threshold: 0, knee: 0, intensity: 1, spread: 0.1, quality: 'full', ...bloom },
});

declare const window: { page: typeof import('./opticsPage.js') };
async function halo(page: Page, asked: Asked, row?: number): Promise<Light> {
  const { rgb, ...size } = await page.evaluate(([a, r]) => window.page.halo(a, r), [asked, row] as const);
  const bytes = Uint8Array.from(Buffer.from(rgb, 'base64'));
  return { ...size, rgb: new Float32Array(bytes.buffer) };
}

test.beforeEach(async ({ page }) => {
  await page.goto('about:blank');
  await page.addScriptTag({ content: await text });
});

test('the halo of a picture is its CPU twin’s, pixel by pixel', async ({ page }) => {
  const [width, height] = [150, 100];
  const lit: Asked['lit'] = [
    ...Array.from(
      { length: 40 },
      (_, k) => [(k * 37) % width, (k * 53) % height, (k % 7) * 0.9, (k % 5) * 0.6, (k % 3) * 1.7] as const,
    ),
    [75, 50, 90, 20, 4],
    [0, 99, 12, 12, 12],
  ];
  for (const bloom of [
    { threshold: 1, knee: 0.5, spread: 0.1 },
    { threshold: 0.4, knee: 0.1, spread: 0.7 },
  ]) {
    const o = optics(bloom, { exposure: 0.5 });
    const got = await halo(page, { width, height, lit, optics: o });
    const picture: Light = { width, height, rgb: new Float32Array(width * height * 3) };
    for (const [x, y, ...rgb] of lit) picture.rgb.set(rgb, (y * width + x) * 3);
    const wanted = haloOf(picture, 0.5, o.bloom);
    expect([got.width, got.height]).toEqual([wanted.width, wanted.height]);
    const peak = wanted.rgb.reduce((m, v) => Math.max(m, v), 0);
    const worst = got.rgb.reduce((m, v, k) => Math.max(m, Math.abs(v - wanted.rgb[k]!)), 0);
    // Half floats between the passes, 11 bits each, and filter weights of 8 bits.
    expect(worst / peak).toBeLessThan(0.01);
  }
});

test('a single bright pixel: its light is spread, not multiplied, as far as the closed form says, and in a round', async ({
  page,
}) => {
  for (const [width, height, spread] of [
    [600, 400, 0.03],
    [600, 400, 0.08],
    [1200, 800, 0.05],
  ] as const) {
    const [x, y] = [width / 2 + 3, height / 2 + 5];
    const value = 4000;
    const o = optics({ spread, threshold: 100 });
    const single = (px: number, py: number) =>
      halo(page, { width, height, lit: [[px, py, value, value, value]], optics: optics({ spread }) });
    const got = await single(x, y);
    // Wherever it is: a spark that moves must not flicker.
    const shares = [];
    for (const [dx, dy] of [
      [0, 0],
      [7, 2],
      [13, 11],
      [22, 5],
      [30, 17],
    ] as const) {
      const { energy } = momentsOf(await single(x + dx, y + dy), 0, 0);
      shares.push(energy / (value / height ** 2));
    }
    for (const share of shares) expect(Math.abs(share - 1)).toBeLessThan(0.02);
    const { xx, yy } = momentsOf(got, (x + 0.5) / width, (y + 0.5) / height);
    expect(Math.abs(xx / yy - 1)).toBeLessThan(0.06);
    expect(Math.abs((xx + yy) / 2 / reachOf(spread, height) - 1)).toBeLessThan(0.12);
    // Its profile falls from the middle outwards, without a second ring.
    const row = Math.floor(((y + 0.5) / height) * got.height);
    const middle = Math.floor(((x + 0.5) / width) * got.width);
    const profile = Array.from({ length: got.width - middle }, (_, k) => got.rgb[(row * got.width + middle + k) * 3]!);
    for (let k = 2; k < profile.length; k++) expect(profile[k]!).toBeLessThanOrEqual(profile[k - 1]! * 1.02 + 1e-4);
    // Under a threshold that the pixel is spread below, nothing is left to halo but what stands out of it.
    const less = await halo(page, { width, height, lit: [[x, y, 50, 50, 50]], optics: o });
    expect(less.rgb.every((v) => v === 0)).toBe(true);
  }
});

test('the same halo at 400 and at 1600 lines', async ({ page }) => {
  const spread = 0.12;
  const profileAt = async (height: number) => {
    const width = height;
    const lit: Asked['lit'][number][] = [];
    const radius = 0.06 * height;
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        if (Math.hypot(x + 0.5 - width / 2, y + 0.5 - height / 2) < radius) lit.push([x, y, 8, 8, 8]);
    const got = await halo(page, { width, height, lit, optics: optics({ spread, threshold: 1, knee: 0.5 }) }, 0.5);
    const at = (share: number) => {
      const x = (0.5 + share) * got.width - 0.5;
      const k = Math.floor(x);
      const v = (i: number) => got.rgb[i * 3]!;
      return v(k) + (v(k + 1) - v(k)) * (x - k);
    };
    return [0, 0.03, 0.08, 0.1, 0.15, 0.2, 0.3].map(at);
  };
  const [small, large] = [await profileAt(400), await profileAt(1600)];
  small.forEach((v, k) => expect(Math.abs(v - large[k]!)).toBeLessThan(0.04 * small[0]!));
  expect(LEVEL_LINES[0]).toBeLessThan(1600);
});

test('every tone curve, and a grade after it, shows what its CPU twin says', async ({ page }) => {
  const colours: Rgb[] = [
    [0.18, 0.18, 0.18],
    [0.02, 0.02, 0.02],
    [1, 1, 1],
    [10, 2, 0.5],
    [0.5, 0.25, 0.1],
    [0, 0, 0],
    [60, 0.2, 30],
    [0.9, 0.05, 0.02],
  ];
  const grade: Optics['grade'] = { slope: [1.2, 0.9, 1], offset: [-0.05, 0.02, 0.1], power: [0.8, 1.3, 1], saturation: 1.4 };
  for (const [tone, more] of TONE_CURVES.flatMap((t) => [{}, { grade }].map((m) => [t, m] as const))) {
    const o = optics({ on: false }, { tone, exposure: 0.25, ...more });
    const asked = { width: colours.length, height: 1, lit: colours.map((c, k) => [k, 0, ...c] as const), optics: o };
    const got = await page.evaluate((a) => window.page.shown(a), asked);
    colours.forEach((c, k) => {
      const coded = TONE[tone](c.map((v) => v * 2 ** 0.25) as unknown as Rgb).map(srgbEncode);
      const wanted = o.grade ? graded(o.grade, coded as unknown as Rgb) : coded;
      // Half a step of dither of the display either way.
      wanted.forEach((w, lane) => expect(Math.abs(got[k * 3 + lane]! - w)).toBeLessThan(0.55 / 255));
    });
  }
});
