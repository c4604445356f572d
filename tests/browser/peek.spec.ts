/** Peek and the refined still: values on the surface as they are, and a picture that converges without losing anything. */
import type { Strand } from '../../src/core/effect/schema.js';
import { drawn, expect, openBench, test } from './app.js';
import { OPEN, effect, grey, onwards, plain, prop, seenAt, shown, stageWith, v } from './panes.js';

/** Runs from -0.5 to 1.5 across a plane. */
const across: Strand[] = [
  { id: 'u', name: 'Across', op: 'uv' },
  { id: 'r', name: 'Run', op: 'formula', inputs: { a: { from: 'u' }, formula: v({ text: 'a.x * 2.0 - 0.5' }) } },
  { id: 'bad', name: 'Root', op: 'formula', inputs: { a: { from: 'u' }, formula: v({ text: 'vec3(a.x, a.y, 0.25)' }) } },
  grey('c', 0.5),
];

test('a peek shows a value as it is: grey, stripes outside, two hues for a sign, with numbers; it is held, locked, and ends', async ({
  page,
  app,
}) => {
  onwards(80);
  const worn = await effect(app, across, { emission: { from: 'c' } });
  const other = await plain(app, 0.7);
  const stage = await stageWith(
    app,
    [
      prop('a', { primitive: 'plane', size: [1, 1] }, [0, 0, 0], worn),
      prop('b', { primitive: 'plane', size: [0.4, 0.4] }, [0.9, 0, 0], other),
      // In front of a corner of the first.
      prop('c', { primitive: 'box', size: [0.2, 0.2, 0.1] }, [0, 0.4, 0.4], null),
    ],
    [0, 0, 4],
    false,
  );
  await openBench(page, app, worn, OPEN);
  const at = (x: number, y = 0) => seenAt(page, stage, [x, y, 0]);
  const before = await at(0);
  await page.locator('[data-strand=r]').click();
  await page.getByRole('button', { name: 'Peek at Run' }).click();
  const legend = page.getByTestId('peek-legend');
  await expect(legend).toHaveAttribute('data-stats', /low/);
  const stats = JSON.parse((await legend.getAttribute('data-stats'))!) as Record<string, number>;
  expect(Math.abs(stats.low! + 0.5)).toBeLessThan(0.03);
  expect(Math.abs(stats.high! - 1.5)).toBeLessThan(0.03);
  // A quarter of the plane lies under 0, a quarter above 1; what stands before it is not counted.
  expect(Math.abs(stats.below! - 0.25)).toBeLessThan(0.03);
  expect(Math.abs(stats.above! - 0.25)).toBeLessThan(0.03);
  expect(stats.notFinite).toBe(0);
  // Uv is -0.5 to 0.5 in x: a value of x * 2 + 0.5, straight to the display.
  await expect.poll(async () => Math.abs((await at(0))[0] - 128)).toBeLessThanOrEqual(3);
  for (const x of [-0.15, 0.1, 0.2]) expect(Math.abs((await at(x))[0] - 255 * (x * 2 + 0.5))).toBeLessThanOrEqual(4);
  // Outside 0 to 1 there are two shades within a stripe's width, neither of them there by chance.
  const stripes = async (x: number) => {
    const seen = new Set<number>();
    for (let k = 0; k < 8; k++) seen.add((await at(x + k * 0.004))[0]);
    return seen.size;
  };
  expect(await stripes(0.4)).toBeGreaterThan(1);
  expect(await stripes(-0.45)).toBeGreaterThan(1);
  // What wears another effect steps back to grey.
  const [r, g, b] = await seenAt(page, stage, [0.9, 0, 0]);
  expect(new Set([r, g, b]).size).toBe(1);
  expect(r).toBeLessThan(shown(0.7) / 1.5);
  const [hr, hg, hb] = await seenAt(page, stage, [0, 0.4, 0.45]);
  expect(Math.max(hr, hg, hb) - Math.min(hr, hg, hb)).toBeLessThanOrEqual(1);

  await drawn(page, () => legend.getByRole('radio', { name: 'signed' }).click());
  const warm = await at(0.3);
  const cold = await at(-0.45);
  // + #e89ee0, - #54c7d1: red over green above 0, green over red under it.
  expect(warm[0]).toBeGreaterThan(warm[1]);
  expect(cold[1]).toBeGreaterThan(cold[0]);
  await drawn(page, () => legend.getByRole('radio', { name: 'its range' }).click());
  await expect.poll(async () => Math.abs((await at(0.25))[0] - 255 * 0.75)).toBeLessThanOrEqual(6);
  await expect(page.getByRole('button', { name: 'Peek Run: end it' })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(legend).toHaveCount(0);
  await expect.poll(() => at(0)).toEqual(before);

  // Held by its key it ends with it; several components are a colour.
  await page.locator('[data-strand=bad]').click();
  await page.keyboard.down('p');
  await expect(legend).toHaveAttribute('data-stats', /low/);
  await expect
    .poll(async () => {
      const got = await at(0.25, 0.25);
      return Math.max(...[0.75, 0.75, 0.25].map((c, k) => Math.abs(got[k]! - 255 * c)));
    })
    .toBeLessThanOrEqual(4);
  await page.waitForFunction((began) => performance.now() - began > 400, await page.evaluate(() => performance.now()));
  await page.keyboard.up('p');
  await expect(legend).toHaveCount(0);
  // So it does when the window is left, which hears no key come up.
  await page.keyboard.down('p');
  await expect(legend).toBeVisible();
  await page.evaluate(() => window.dispatchEvent(new Event('blur')));
  await expect(legend).toHaveCount(0);
  await page.keyboard.up('p');
  // An output is peeked at by its swatch.
  await page.locator('[data-output=emission]').getByRole('button', { name: 'Peek at Emission' }).click();
  await expect(legend).toContainText('Emission');
});

test('a still converges: dither becomes its share, a line of a pixel keeps its light, and what moves begins anew', async ({
  page,
  app,
}) => {
  onwards(90);
  const half = await effect(
    app,
    [grey('c', 0.8), { id: 'o', name: 'O', op: 'number', inputs: { in: v(0.5) } }],
    { emission: { from: 'c' }, opacity: { from: 'o' } },
    { alphaMode: 'dither' },
  );
  const back = await plain(app, 0.2);
  const thread = await plain(app, 0.9);
  const stage = await stageWith(
    app,
    [
      prop('a', { primitive: 'plane', size: [0.6, 0.6] }, [-0.4, 0, 0.2], half),
      prop('line', { primitive: 'plane', size: [0.004, 0.8] }, [0.4, 0, 0.2], thread),
      prop('wall', { primitive: 'plane', size: [5, 4] }, [0, 0, 0], back),
    ],
    [0, 0, 4],
    false,
  );
  await openBench(page, app, half, '?clock=frozen');
  const light = (byte: number) => (byte / 255 <= 0.04045 ? byte / 255 / 12.92 : ((byte / 255 + 0.055) / 1.055) ** 2.4);
  const seen = (x: number, y: number) => seenAt(page, stage, [x, y, 0.2]);
  // Across the line: its light over what lies behind it, summed.
  const lineLight = async () => {
    let sum = 0;
    for (let k = -4; k <= 4; k++) sum += light((await seen(0.4 + k * 0.00415, 0.03))[0]) - 0.2;
    return sum;
  };
  await expect.poll(async () => Math.abs((await seen(-0.9, 0.6))[0] - shown(0.2))).toBeLessThanOrEqual(2);
  await page.goto(page.url().replace('?clock=frozen', ''));
  const still = page.getByTestId('still');
  await expect(still).toHaveAttribute('data-samples', '64', { timeout: 200_000 });
  // The mean of a dither of one half, everywhere the same.
  const mean = shown(0.5 * 0.8 + 0.5 * 0.2);
  const seenThere = await Promise.all([-0.6, -0.5, -0.4, -0.3, -0.2].map((x) => seen(x, 0.1)));
  // Sixty-four samples are within one of their number of a half: 0.01 of light here, four steps of the display.
  for (const [r] of seenThere) expect(Math.abs(r - mean)).toBeLessThanOrEqual(4);
  // The line is about a pixel wide, and its light is what its width says: 4 mm of pixels as wide as they are here.
  const canvas = page.getByTestId('stage');
  const height = await canvas.evaluate((c) => (c as HTMLCanvasElement).height);
  const pixel = (2 * Math.tan((15 * Math.PI) / 180) * 3.8) / height;
  const sum = await lineLight();
  // Nine samples 4.15 mm apart: their sum times that is the light across.
  expect(Math.abs((sum * 0.00415) / (0.004 * 0.7) - 1)).toBeLessThan(pixel > 0.0035 ? 0.35 : 0.25);
  await page.getByRole('button', { name: 'With optics' }).click();
  await expect(still).not.toHaveAttribute('data-samples', '64');
  await expect(still).toHaveAttribute('data-samples', '64', { timeout: 200_000 });
});
