/** The artist's main job once through, by keyboard alone: an organic flicker from an empty sheet, glowing, saved. */
import type { Effect } from '../../src/core/effect/schema.js';
import type { Stage } from '../../src/core/scene/stage.js';
import { srgbDecode } from '../../src/core/base/srgb.js';
import { readAt } from '../fixtures/read.js';
import {
  restingBox,
  drawn,
  expect,
  frames,
  links,
  nextFrame,
  onCanvas,
  openBench,
  pixelAt,
  saved,
  stageCanvas,
  test,
} from './app.js';

const STAGE = '0190a100-0000-7000-8000-000000000007';

test.use({ viewport: { width: 960, height: 640 } });

test('an organic flicker, built by keyboard, blinks between floor and ceiling, is tuned and kept', async ({ page, own }) => {
  await page.goto(own.url);
  await page.getByRole('button', { name: 'New empty' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByText('The sheet is empty')).toBeVisible();
  const id = page.url().split('/').pop()!;
  await openBench(page, own, id);

  const key = (...keys: string[]) =>
    keys.reduce<Promise<void>>((before, k) => before.then(() => page.keyboard.press(k)), Promise.resolve());
  const add = async (letters: string, name: string, ...how: string[]) => {
    await key('/');
    await page.keyboard.type(letters);
    await key(...how, 'Enter');
    await expect(page.getByRole('row', { name: new RegExp(`^${name},`) })).toBeFocused();
  };
  const value = async (label: string, text: string) => {
    // Tab walks the opened row's controls until the one that is named.
    for (let k = 0; k < 40; k++) {
      const focused = await page.evaluate(() => document.activeElement?.getAttribute('aria-label') ?? '');
      if (focused === label) break;
      await key('Tab');
    }
    await expect(page.getByLabel(label, { exact: true })).toBeFocused();
    await page.keyboard.type(text);
    await key('Enter', 'Escape');
  };

  await add('time', 'Time');
  await add('mult', 'Multiply');
  await key('Enter');
  await value('Multiply b value', '6/2');
  await key('Enter');
  await add('add', 'Add');
  await key('Enter');
  await value('Add b value', '7');
  await key('Enter');
  // By itself a time makes noise boil in place; Tab turns to its place, so that all of the surface flickers as one.
  await add('noi', 'Noise', 'Tab');
  await add('clam', 'Clamp');
  await key('r');
  await page.keyboard.type('Lit');
  await key('Enter');
  await expect(page.getByRole('row', { name: /^Lit,/ })).toBeFocused();
  await key('Enter');
  await value('Lit low value', '0.25');
  await value('Lit high value', '0.75');
  await key('Enter');
  await add('colou', 'Colour');
  await add('mult', 'Multiply 2');
  // The lit mask goes into its second input, from the mask's own row.
  await key('ArrowUp', 'ArrowUp');
  await expect(page.getByRole('row', { name: /^Lit,/ })).toBeFocused();
  await key('f');
  await expect(page.getByRole('menu')).toBeVisible();
  await key('End');
  await expect(page.getByRole('menuitem', { name: /^Multiply 2\s?b$/ })).toBeFocused();
  await key('Enter');
  await expect(page.getByRole('menu')).toBeHidden();
  await expect(page.getByRole('row', { name: /^Lit,/ })).toBeFocused();
  await expect(page.getByRole('row', { name: /^Multiply 2,/ })).toContainText('Lit');
  await key('ArrowDown', 'ArrowDown');
  await add('intens', 'Intensity');
  await key('Enter');
  await value('Intensity amount value', '12');
  await key('f');
  await expect(page.getByRole('menuitem', { name: 'Emission' })).toBeFocused();
  await key('Enter');

  await saved(page);
  const built = await own.effect(id);
  expect(built.strands.map((s) => s.op)).toEqual([
    'time',
    'multiply',
    'add',
    'noise',
    'clamp',
    'colour',
    'multiply',
    'intensity',
  ]);
  expect(built.outputs.emission).toEqual({ from: 'intensity' });
  expect(built.strands.find((s) => s.name === 'Lit')!.inputs).toEqual({
    in: { from: 'noise' },
    low: { value: 0.25 },
    high: { value: 0.75 },
  });

  // It glows: brighter than the display can show at its peak, and the bloom lights the wall beside it.
  const stage = await own.get<Stage>(`/api/stages/${STAGE}`);
  const middle = await onCanvas(page, stage, 'hatch', [0.226, 0.638, 1.532]);
  const beside = await onCanvas(page, stage, 'hatch', [0, 1.14, 1.05]);
  await expect.poll(async () => Math.max(...(await pixelAt(page, ...middle)))).toBeGreaterThan(200);
  const withBloom = await pixelAt(page, ...beside);
  await drawn(page, () => page.getByRole('button', { name: 'With optics' }).click());
  const without = await pixelAt(page, ...beside);
  expect(withBloom[0]).toBeGreaterThan(without[0] + 3);

  // Measured without optics, unlit and under display white, a pixel is the strand's number.
  await page.getByRole('combobox', { name: 'Lighting: lit' }).click();
  const lit = await links(page);
  await page.getByRole('option', { name: 'unlit' }).click();
  await expect.poll(() => links(page)).toBe(lit + 1);
  await page.getByRole('row', { name: /^Intensity,/ }).focus();
  await value('Intensity amount value', '0.9');
  await saved(page);
  const tuned = await own.effect(id);
  await expect.poll(async () => (await pixelAt(page, ...middle))[0]).toBeLessThan(250);
  const red: number[] = [];
  expect(tuned.strands.find((s) => s.name === 'Intensity')!.inputs!.amount).toEqual({ value: 0.9 });
  expect(tuned.strands.find((s) => s.name === 'Lit')).toEqual(built.strands.find((s) => s.name === 'Lit'));
  const timeSlider = page.getByRole('slider', { name: 'Time' });
  await timeSlider.focus();
  for (let frame = 0; frame < 20; frame++) {
    const [r] = await pixelAt(page, ...middle);
    const shown = srgbDecode(r / 255);
    const time = Number(await stageCanvas(page).getAttribute('data-time'));
    const expected = readAt(tuned, 'intensity', { time: [time] })[0]!;
    expect(Math.abs(shown - expected)).toBeLessThan(0.015);
    red.push(shown);
    await drawn(page, () => key('ArrowRight', 'ArrowRight'));
  }
  // Colour red is 1, so the number runs from floor to ceiling times 0.9.
  expect(Math.min(...red)).toBeGreaterThan(0.25 * 0.9 - 0.015);
  expect(Math.max(...red)).toBeLessThan(0.75 * 0.9 + 0.015);
  expect(Math.max(...red) - Math.min(...red)).toBeGreaterThan(0.1);

  // A dial and a literal, dragged: the next frame shows it and nothing is linked anew.
  await page.getByRole('row', { name: /^Lit,/ }).focus();
  await key('Enter');
  await page.getByRole('button', { name: 'high: link or make a dial' }).focus();
  await key('Enter');
  await expect(page.getByRole('menuitem', { name: 'Make a dial' })).toBeFocused();
  await key('Enter');
  const dial = page.getByRole('slider', { name: 'Lit high' }).last();
  await expect(dial).toBeVisible();
  const linked = await links(page);
  await page.getByRole('row', { name: /^Lit,/ }).focus();
  await value('Lit low value', '1');
  await expect.poll(async () => (await pixelAt(page, ...middle))[0]).toBeGreaterThan(205);
  const bright = await pixelAt(page, ...middle);
  const dragBy = async (locator: typeof dial, pixels: number) => {
    await locator.scrollIntoViewIfNeeded();
    const box = await restingBox(locator);
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await page.mouse.down();
    const before = await frames(page);
    await page.mouse.move(box.x + box.width / 2 + pixels, box.y + box.height / 2, { steps: 4 });
    await nextFrame(page, before);
    await page.mouse.up();
  };
  await dragBy(dial, -40);
  await expect.poll(async () => (await pixelAt(page, ...middle))[0]).toBeLessThan(bright[0] - 15);
  const dimmed = await pixelAt(page, ...middle);
  await dragBy(page.getByLabel('Intensity amount value'), -20);
  await expect.poll(async () => (await pixelAt(page, ...middle))[0]).not.toBe(dimmed[0]);
  expect(await links(page)).toBe(linked);

  // Kept: through a reload, and through the end of the server.
  await saved(page);
  const before: Effect = await own.effect(id);
  await own.kill();
  await own.start();
  await openBench(page, own, id);
  expect(await own.effect(id)).toEqual(before);
  await expect(page.getByRole('row', { name: /^Lit,/ })).toBeVisible();
  await expect(page.getByRole('slider', { name: 'Lit high' })).toBeVisible();
});
