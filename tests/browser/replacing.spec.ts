/** Another operation in a strand's place: what it lets go is told before, and it is compared with what was by one key. */
import { strandsOf } from '../../src/core/effect/schema.js';
import { expect, openBench, saved, test, withoutPicture } from './app.js';

const TUBE = '0190a000-0000-7000-8000-000000000001';

test('O and a few letters: links, readers, dials and the name stay; what goes is told; C shows before and after', async ({
  page,
  app,
}) => {
  await withoutPicture(page);
  await openBench(page, app, TUBE);
  const before = await app.effect(TUBE);
  const strandIn = async (id: string) => strandsOf(await app.effect(TUBE)).find((s) => s.id === id)!;
  // Drift is Time x 3, and 3 is a dial: as a sum it keeps all that.
  await page.locator('[data-strand=drift]').click();
  await page.keyboard.press('o');
  const picker = page.getByRole('dialog', { name: 'Another operation for Drift' });
  await page.keyboard.type('add');
  await expect(picker.getByRole('status')).toHaveText('Keeps all that Drift has.');
  // The absolute value has no place for the dial.
  await page.keyboard.press('Control+a');
  await page.keyboard.type('abs');
  await expect(picker.getByRole('status')).toHaveText('Lets go of the dial Drift rate.');
  await page.keyboard.press('Control+a');
  await page.keyboard.type('add');
  await page.keyboard.press('Enter');
  await expect(picker).toBeHidden();
  await expect(page.locator('[data-strand=drift]')).toBeFocused();
  await saved(page);
  const drift = strandsOf(before).find((s) => s.id === 'drift')!;
  expect(await strandIn('drift')).toEqual({ ...drift, op: 'add' });
  expect((await app.effect(TUBE)).dials).toEqual(before.dials);
  // One key, by turns.
  await page.keyboard.press('c');
  await expect(page.getByText('As it was before “Replace Drift by add”. C shows it after.')).toBeVisible();
  await expect(page.getByRole('row', { name: 'Drift, multiply' })).toBeVisible();
  await page.keyboard.press('c');
  await expect(page.getByRole('row', { name: 'Drift, add' })).toBeVisible();
  await saved(page);
  await expect.poll(async () => (await strandIn('drift')).op).toBe('add');
});

test('a slash right after a strand has been fed into an output opens the picker, which stays', async ({ page, app }) => {
  await withoutPicture(page);
  await openBench(page, app, TUBE);
  await page.locator('[data-strand=glow]').click();
  await page.keyboard.press('f');
  await expect(page.getByRole('menu')).toBeVisible();
  await page.keyboard.type('rough');
  await page.keyboard.press('Enter');
  await page.keyboard.press('/');
  await page.keyboard.type('noi');
  const picker = page.getByRole('dialog', { name: 'Add a strand' });
  await expect(picker.getByRole('option').first()).toHaveText(/^noise/);
  await expect(page.getByRole('menu')).toBeHidden();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('row', { name: 'Noise, noise' })).toBeFocused();
});

test('from the menu; what would fail below is told before, in the words of the error', async ({ page, app }) => {
  await withoutPicture(page);
  await openBench(page, app, TUBE);
  await page.locator('[data-strand=lit]').click();
  await page.getByRole('button', { name: 'Lit: actions; drag to move' }).click();
  await page.getByRole('menuitem', { name: 'Another operation' }).click();
  const picker = page.getByRole('dialog', { name: 'Another operation for Lit' });
  await page.keyboard.type('uv');
  await expect(picker.getByRole('status')).toContainText('Lets go of its link to Blink, the dial Floor and the dial Ceiling.');
  await expect(picker.getByRole('status')).toContainText('Lit is two numbers, Gas is a colour.');
  await page.keyboard.press('Escape');
  await expect(page.locator('[data-strand=lit]')).toBeFocused();
  expect(strandsOf(await app.effect(TUBE)).find((s) => s.id === 'lit')!.op).toBe('clamp');
});

test('whatever is typed, the best that is found is chosen, and all of it is seen', async ({ page, app }) => {
  await withoutPicture(page);
  await openBench(page, app, TUBE);
  await page.locator('[data-strand=breath]').click();
  await page.keyboard.press('/');
  const found = page.getByRole('dialog', { name: 'Add a strand' }).getByRole('option');
  for (const [typed, best] of [
    ['m', /^mote/],
    ['ma', /^max/],
    ['m', /^mote/],
  ] as const) {
    await page.keyboard.press('Control+a');
    await page.keyboard.type(typed);
    await expect(found.first()).toHaveText(best);
    await expect(found.first()).toHaveAttribute('aria-selected', 'true');
    await expect(found.first()).toBeInViewport({ ratio: 1 });
  }
});
