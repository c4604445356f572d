/** Anything by its name, without knowing its key or its menu; and the clipboard by the pointer. */
import { expect, openBench, saved, test } from './app.js';
import { finds } from './axe.js';

const TUBE = '0190a000-0000-7000-8000-000000000001';

test('Ctrl K does by a few letters what keys and menus do, at the sheet, on the stage, and goes to strands', async ({
  page,
  app,
}) => {
  await openBench(page, app, TUBE);
  const before = (await app.effect(TUBE)).strands.length;
  const does = async (words: string) => {
    await page.keyboard.press('Control+k');
    await page.getByRole('combobox', { name: 'What to do' }).fill(words);
    await page.keyboard.press('Enter');
    await expect(page.getByRole('dialog', { name: 'Do something' })).toBeHidden();
  };
  await page.keyboard.press('Control+k');
  expect(await finds(page)).toEqual([]);
  await page.keyboard.press('Escape');
  await does('lit');
  await expect(page.locator('[data-strand=lit]')).toBeFocused();
  await does('dupl lit');
  await expect(page.getByRole('row', { name: /^Lit 2,/ })).toBeFocused();
  await does('rename');
  await page.keyboard.type('Lit again');
  await page.keyboard.press('Enter');
  await does('put a ring');
  await does('overview');
  await expect(page.getByRole('region', { name: 'Overview' })).toBeVisible();
  // What is done to rows is done in the sheet.
  await does('another operation');
  await expect(page.getByRole('dialog', { name: /^Another operation for Lit again/ })).toBeVisible();
  await page.keyboard.press('Escape');
  await saved(page);
  const after = await app.effect(TUBE);
  expect(after.strands).toHaveLength(before + 1);
  expect(after.strands.map((s) => s.name)).toContain('Lit again');
  const stage = await app.get<{ props: { name: string }[] }>(`/api/stages/${after.home!.stage}`);
  expect(stage.props.map((p) => p.name)).toContain('Ring');
});

test('the question mark lists the keys; cut and paste are in a row’s menu', async ({ page, app, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await openBench(page, app, TUBE);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText('do anything, by a few letters of its name');
  await page.keyboard.press('Escape');
  const names = async () => (await app.effect(TUBE)).strands.map((s) => s.name);
  const before = await names();
  const menu = async (row: string, item: string) => {
    await page.getByRole('button', { name: `${row}: actions; drag to move` }).click();
    await page.getByRole('menuitem', { name: item }).click();
  };
  await page.locator('[data-strand=hue]').click({ position: { x: 100, y: 14 } });
  await menu('Hue', 'Cut');
  await expect(page.locator('[data-strand=hue]')).toHaveCount(0);
  const first = page.locator('[data-strand]').first();
  await first.click({ position: { x: 100, y: 14 } });
  const [top] = before;
  await menu(top!, 'Paste under it');
  await expect(page.getByRole('row', { name: /^Hue,/ })).toBeVisible();
  await saved(page);
  const after = await names();
  expect([...after].sort()).toEqual([...before].sort());
  expect(after[1]).toBe('Hue');
});

test('a formula is unfolded into strands by its menu, and the strands folded into one again, on the same picture', async ({
  page,
  app,
}) => {
  const FROND = '0190a000-0000-7000-8000-000000000005';
  await openBench(page, app, FROND);
  const ops = async () => (await app.effect(FROND)).strands.map((s) => s.op);
  const before = await ops();
  const picture = () => page.getByTestId('stage').screenshot();
  const seen = await picture();
  const rib = page.locator('[data-strand=rib]');
  await rib.click({ position: { x: 100, y: 14 } });
  await page.getByRole('button', { name: 'Rib: actions; drag to move' }).click();
  await page.getByRole('menuitem', { name: 'Unfold into strands' }).click();
  await saved(page);
  const open = await ops();
  expect(open.length).toBeGreaterThan(before.length);
  expect(open.filter((op) => op === 'formula')).toHaveLength(before.filter((op) => op === 'formula').length - 1);
  // Those that were made stand right above the one that keeps the name.
  await rib.click({ position: { x: 100, y: 14 } });
  for (let k = 0; k < open.length - before.length; k++) await page.keyboard.press('Shift+ArrowUp');
  await page.keyboard.press('Control+k');
  await page.keyboard.type('make one formula');
  await page.keyboard.press('Enter');
  await saved(page);
  await expect.poll(ops).toEqual(before);
  await expect.poll(async () => Buffer.compare(await picture(), seen)).toBe(0);
});
