/** Editing a sheet: order, names, undo; the starter; time. */
import { strandsOf } from '../../src/core/effect/schema.js';
import { restingBox, expect, frames, links, openBench, saved, test, withoutPicture } from './app.js';

const TUBE = '0190a000-0000-7000-8000-000000000001';
const STAGE = '0190a100-0000-7000-8000-000000000002';

test('reorder, rename, splice, bypass, swap and delete by keyboard; undo takes all of it back', async ({ page, app }) => {
  await withoutPicture(page);
  await openBench(page, app, TUBE);
  const before = await app.effect(TUBE);
  const row = (name: string) => page.getByRole('row', { name: new RegExp(`^${name},`) });
  const ids = async () => strandsOf(await app.effect(TUBE)).map((s) => s.id);

  await row('Warm').click();
  await page.keyboard.press('Alt+ArrowUp');
  await expect(row('Warm')).toBeFocused();
  // It stands above the hue now, and can go no higher than what it reads: nothing.
  await page.keyboard.press('r');
  await page.keyboard.type('Ember');
  await page.keyboard.press('Enter');
  await expect(row('Ember')).toBeFocused();
  await row('Lit').click();
  await page.keyboard.press('/');
  await page.keyboard.type('pow');
  await page.keyboard.press('Shift+Enter');
  await expect(row('Power')).toBeFocused();
  await page.keyboard.press('b');
  await row('Body').click();
  await page.keyboard.press('s');
  await row('Stutter').click();
  await page.keyboard.press('Delete');
  await expect(row('Stutter')).toBeHidden();
  await saved(page);

  const after = await app.effect(TUBE);
  const strand = (id: string) => strandsOf(after).find((s) => s.id === id)!;
  expect((await ids()).indexOf('warm')).toBe((await ids()).indexOf('hue') - 1);
  expect(strand('warm').name).toBe('Ember');
  expect(strand('power')).toMatchObject({ inputs: { in: { from: 'lit' } }, bypassed: true });
  expect(strand('lamp').inputs!.b).toEqual({ from: 'power' });
  expect(strand('body').inputs).toEqual({ a: { from: 'right' }, b: { from: 'left' } });
  expect(strand('blink').inputs!.a).toEqual({ from: 'buzz' });

  const undo = page.getByRole('button', { name: /^Undo/ });
  while (await undo.isEnabled()) await page.keyboard.press('Control+z');
  await saved(page);
  await expect.poll(() => app.effect(TUBE)).toEqual(before);
  const redo = page.getByRole('button', { name: /^Redo/ });
  while (await redo.isEnabled()) await page.keyboard.press('Control+Shift+z');
  await saved(page);
  await expect.poll(() => app.effect(TUBE)).toEqual(after);
});

test('a strand dragged by its mark moves as far as what it reads and what reads it', async ({ page, app }) => {
  await withoutPicture(page);
  await openBench(page, app, TUBE);
  const row = page.getByRole('row', { name: /^Lit,/ });
  await row.hover();
  const mark = page.getByRole('button', { name: 'Lit: actions; drag to move' });
  const box = await restingBox(mark);
  await page.mouse.move(box.x + 8, box.y + 12);
  await page.mouse.down();
  await page.mouse.move(box.x + 8, box.y + 400, { steps: 6 });
  await page.mouse.up();
  await saved(page);
  // Only Lamp reads it: it comes to stand right above.
  await expect
    .poll(async () =>
      strandsOf(await app.effect(TUBE))
        .map((s) => s.id)
        .join(),
    )
    .toContain('gas,lit,lamp');
});

test('threads of the chosen strand are lit, up and down', async ({ page, app }) => {
  await withoutPicture(page);
  await openBench(page, app, TUBE);
  await page.getByRole('row', { name: /^Lit,/ }).click();
  const stroke = (thread: string) => page.locator(`[data-thread="${thread}"]`).getAttribute('stroke');
  expect(await stroke('blink lit')).toBe('var(--color-wisp)');
  expect(await stroke('lit lamp')).toBe('var(--color-wisp)');
  expect(await stroke('t buzz')).toBe('var(--color-indirect)');
  expect(await stroke('along left')).toBe('var(--color-thread)');
});

test('ranges, kinds and swatches are shown; a variant changes the numbers, not the program', async ({ page, app }) => {
  await openBench(page, app, TUBE);
  await expect(page.getByRole('row', { name: /^Buzz,/ })).toContainText('−1 .. 1');
  await expect(page.getByRole('row', { name: /^Gas,/ })).toContainText('rgb');
  await expect(page.locator('[data-swatch="glow"]').first()).toHaveAttribute('data-drawn', /.+/);
  const colours = await page
    .locator('[data-swatch="glow"]')
    .first()
    .evaluate((c) => {
      const { data } = (c as HTMLCanvasElement).getContext('2d')!.getImageData(32, 24, 1, 1);
      return [...data];
    });
  // The middle of the tube is the gas: more green than red.
  expect(colours[1]).toBeGreaterThan(colours[0]!);
  const linked = await links(page);
  const before = await frames(page);
  await page.getByRole('button', { name: /^Variant/ }).click();
  await page.getByRole('menuitemradio', { name: 'Organic' }).click();
  await expect.poll(() => frames(page)).toBeGreaterThan(before);
  await expect(page.locator('[data-dial="character"]')).toContainText('Character');
  await expect(page.getByLabel('Character value')).toHaveValue('1');
  expect(await links(page)).toBe(linked);
});

test('time plays, pauses, steps and is scrubbed', async ({ page, app }) => {
  await openBench(page, app, TUBE, '?quality=draft');
  const clock = page.getByTestId('clock');
  await expect(clock).toHaveText('00:00.00');
  await page.getByRole('treegrid').hover();
  await page.keyboard.press(' ');
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
  await expect(clock).not.toHaveText('00:00.00');
  await page.getByRole('button', { name: 'Pause' }).click();
  const ruler = await restingBox(page.getByRole('slider', { name: 'Time' }).locator('..'));
  await page.mouse.click(ruler.x + ruler.width / 2, ruler.y + 20);
  await expect(clock).toHaveText('00:02.00');
  await page.getByRole('button', { name: 'On one frame' }).click();
  await expect(clock).toHaveText('00:02.03');
  await page.getByRole('button', { name: 'Back one frame' }).click();
  await expect(clock).toHaveText('00:02.00');
});

test('a starter opens as a copy; optics belong to the stage and are kept with it', async ({ page, app }) => {
  const count = async () => (await app.get<unknown[]>('/api/effects')).length;
  const before = await count();
  await page.goto(app.url);
  await page.getByRole('button', { name: 'New from starter' }).click();
  await page.getByRole('menuitem', { name: /Failing tube/ }).click();
  await expect(page.getByRole('treegrid')).toBeVisible();
  expect(page.url()).not.toContain(TUBE);
  await page.getByRole('button', { name: /^Optics:/ }).click();
  await page.getByLabel('Bloom threshold value').fill('2');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await saved(page);
  // A stage of its own: the original's stays as it was.
  type Threshold = { optics: { bloom: { threshold: number } } };
  const [id] = /[0-9a-f-]{36}/.exec(page.url())!;
  const own = (await app.effect(id)).home!.stage;
  expect(own).not.toBe(STAGE);
  expect((await app.get<Threshold>(`/api/stages/${own}`)).optics.bloom.threshold).toBe(2);
  expect((await app.get<Threshold>(`/api/stages/${STAGE}`)).optics.bloom.threshold).toBe(1);
  await page.goBack();
  await expect(page.getByRole('heading', { name: 'Sallowmere Station' })).toBeVisible();
  expect(await count()).toBe(before + 1);
});
