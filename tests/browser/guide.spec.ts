/** The first run: an empty library says what to do; five steps build a glow; help tells what each operation does. */
import type { Effect } from '../../src/core/effect/schema.js';
import { expect, openBench, middleOf, saved, test } from './app.js';
import { finds } from './axe.js';

const DOME = '0190a000-0000-7000-8000-000000000004';

test('an empty library begins a guided start; what it says builds a glow, by keys alone; it can be left', async ({
  page,
  app,
}) => {
  for (const { id } of await app.get<{ id: string }[]>('/api/effects'))
    await fetch(`${app.url}/api/effects/${id}/archived`, {
      method: 'PUT',
      headers: { 'Content-Type': 'application/json' },
      body: '{"archived":true}',
    });
  await page.goto(app.url);
  const begin = page.getByRole('region', { name: 'Begin' });
  await expect(begin.getByRole('button', { name: /^Sampling dome/ })).toBeVisible();
  expect(await finds(page)).toEqual([]);
  await begin.getByRole('button', { name: /^Guided start/ }).click();
  const guide = page.getByRole('region', { name: 'Guided start' });
  await expect(guide).toHaveAttribute('data-guide', '0');
  expect(await finds(page)).toEqual([]);
  // What each step says to type and press is typed and pressed.
  for (let step = 0; step < 5; step++) {
    await expect(guide).toHaveAttribute('data-guide', String(step));
    const keys = (await guide.locator('p kbd').allTextContents()).filter((k) => k !== 'Space');
    for (const key of keys) {
      if (key === '/') {
        await page.keyboard.press('/');
        await expect(page.getByRole('dialog', { name: 'Add a strand' })).toBeVisible();
      } else if (['F', 'W'].includes(key)) {
        await page.keyboard.press(key.toLowerCase());
        await expect(page.getByRole('menu')).toBeVisible();
        await expect(page.getByRole('menuitem').first()).toBeFocused();
      } else if (key === 'Enter') {
        await page.keyboard.press('Enter');
        await expect(page.getByRole('menu')).toBeHidden();
        await expect(page.locator('[data-strand][data-lit]')).toBeFocused();
      } else await page.keyboard.type(key);
    }
    if (step === 4) await page.getByRole('menuitem', { name: 'Multiply by a new dial' }).click();
  }
  await expect(guide).toHaveAttribute('data-guide', '5');
  await saved(page);
  // An address keeps the guide. The ball is as orange as what was typed, brighter than white as it is.
  await page.goto(`${page.url()}&clock=frozen&quality=draft`);
  await expect(guide).toHaveAttribute('data-guide', '5');
  await expect.poll(async () => (await middleOf(page))[0]).toBeGreaterThan(240);
  const [r, g, b] = await middleOf(page);
  expect(r - g).toBeGreaterThan(40);
  expect(g - b).toBeGreaterThan(40);
  await guide.getByRole('button', { name: 'Leave the guide' }).click();
  await expect(guide).toBeHidden();
  await page.reload();
  await expect(page.locator('[data-strand]').first()).toBeVisible();
  await expect(guide).toBeHidden();
});

test('H tells what an operation does, from its record, and puts its example on the sheet', async ({ page, app }) => {
  await openBench(page, app, DOME);
  const names = async () =>
    ((await app.get<Effect>(`/api/effects/${DOME}`)).strands as readonly { name: string }[]).map((s) => s.name);
  const before = await names();
  await page.locator('[data-strand=both]').click({ position: { x: 100, y: 14 } });
  await page.keyboard.press('h');
  const help = page.getByRole('dialog', { name: 'About max' });
  await expect(help).toContainText('Arithmetic');
  expect(await finds(page)).toEqual([]);
  await page.keyboard.press('Escape');
  await expect(page.locator('[data-strand=both]')).toBeFocused();
  await page.keyboard.press('h');
  await help.getByRole('button', { name: /^Put its example on the sheet/ }).click();
  await saved(page);
  const after = await names();
  expect(after.length).toBeGreaterThan(before.length + 1);
  // Under the strand that it was asked for at, its last the operation itself.
  expect(after.slice(0, before.indexOf('Both') + 1)).toEqual(before.slice(0, before.indexOf('Both') + 1));
  await page.keyboard.press('Control+z');
  await saved(page);
  await expect.poll(names).toEqual(before);
});
