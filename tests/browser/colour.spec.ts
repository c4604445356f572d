/** Colours by hand: in numbers, as written, from the picture; what sRGB does not have is said and brought in. */
import { converter } from 'culori';
import { restingBox, expect, onCanvas, openBench, saved, stageCanvas, test } from './app.js';
import { finds } from './axe.js';
import { crowding } from './boxes.js';
import { OPEN, effect, grey, onwards, prop, seenAt, stageWith, v } from './panes.js';

test.use({ viewport: { width: 1280, height: 800 } });

test('a colour is written, brought into sRGB, taken from the picture as it is drawn, and remembered', async ({ page, app }) => {
  onwards(680);
  const other = await effect(
    app,
    [{ id: 'x', name: 'X', op: 'colour', inputs: { in: v({ rgb: [0.9, 0.3, 0.05], intensity: 1, unit: 'factor' }) } }],
    { emission: { from: 'x' } },
  );
  const id = await effect(
    app,
    [grey('c', 0.2)],
    { emission: { from: 'c' } },
    {},
    { dials: [{ id: 'd', strand: 'c', input: 'in', label: 'Hue' }] },
  );
  const square = { primitive: 'plane' as const, size: [1, 1] as [number, number] };
  const stage = await stageWith(
    app,
    [prop('a', square, [-0.8, 0, 0], id), prop('b', square, [0.8, 0, 0], other)],
    [0, 0, 4.5],
    false,
  );
  await openBench(page, app, id, OPEN);
  const stored = async () => {
    await saved(page);
    const input = (await app.effect(id)).strands[0]!.inputs as unknown as { in: { value: { rgb: number[] } } };
    return input.in.value.rgb;
  };
  await page.getByRole('button', { name: 'Hue: edit colour' }).click();
  const hex = page.getByLabel('Hue in hexadecimal');
  await hex.fill('#336699');
  await page.keyboard.press('Enter');
  // sRGB, IEC 61966-2-1: 0x33, 0x66, 0x99 in linear light.
  (await stored()).forEach((c, k) => expect(c).toBeCloseTo([0.033105, 0.132868, 0.318547][k]!, 4));
  await page.getByLabel('Hue chroma value').fill('0.3');
  await page.keyboard.press('Enter');
  await expect(page.getByText('not in sRGB')).toBeVisible();
  expect(await crowding(page)).toEqual([]);
  expect(await finds(page)).toEqual([]);
  await page.getByRole('button', { name: 'Bring in' }).click();
  await expect(page.getByText('not in sRGB')).toHaveCount(0);
  for (const c of await stored()) expect(c).toBeGreaterThanOrEqual(-2e-4);
  // From the other pane, as it is drawn; the panel stays open.
  const drawn = await seenAt(page, stage, [0.8, 0.1, 0]);
  const [x, y] = await onCanvas(page, stage, 'front', [0.8, 0.1, 0]);
  const box = await restingBox(stageCanvas(page));
  await page.getByRole('button', { name: 'From the stage' }).click();
  await page.mouse.move(box.x + x - 3, box.y + y);
  await page.mouse.click(box.x + x, box.y + y);
  await expect(hex).toHaveValue(`#${drawn.map((c) => c.toString(16).padStart(2, '0')).join('')}`);
  await expect
    .poll(async () => (await seenAt(page, stage, [-0.8, 0.1, 0])).map((c, k) => Math.abs(c - drawn[k]!) < 3))
    .toEqual([true, true, true]);
  await page.getByRole('button', { name: 'Hue: #336699' }).click();
  await expect(hex).toHaveValue('#336699');
  // The field is dragged: to the left, where all are grey.
  const field = await restingBox(page.getByTestId('colour-field'));
  await page.mouse.click(field.x + 1, field.y + field.height / 2);
  await saved(page);
  const [r, g, b] = (await stored()) as [number, number, number];
  expect([Math.abs(r - g) < 0.01, Math.abs(g - b) < 0.01]).toEqual([true, true]);
  // The wheel: all hues at this lightness, the hue counted from the right; what lies up there is of hue 90 by culori too.
  await page.getByRole('button', { name: 'Hue: a wheel of hues' }).click();
  await expect(page.getByRole('slider', { name: 'Hue lightness' })).toBeVisible();
  const wheel = await restingBox(page.getByTestId('colour-field'));
  await page.mouse.click(wheel.x + wheel.width / 2, wheel.y + wheel.height * 0.36);
  await saved(page);
  const [red, green, blue] = (await stored()) as [number, number, number];
  const up = converter('oklch')({ mode: 'lrgb', r: red, g: green, b: blue });
  expect(Math.abs(up.h! - 90)).toBeLessThan(2);
  expect(up.c).toBeCloseTo(0.28 * 0.34, 2);
  await page.getByRole('slider', { name: 'Hue hue and chroma' }).focus();
  await page.keyboard.press('Shift+ArrowUp');
  await expect(page.getByLabel('Hue hue value')).toHaveValue(/^(99|100|101)(\.\d)?$/);
  expect(await crowding(page)).toEqual([]);
  expect(await finds(page)).toEqual([]);
  await page.getByRole('button', { name: 'Hue: a field of one hue' }).click();
  // Escape lets the picture be.
  await page.getByRole('button', { name: 'From the stage' }).click();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: 'From the stage' })).toBeVisible();
});
