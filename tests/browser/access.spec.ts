/** What people who do not see or do not point meet: axe-core's rules (WCAG 2.2 A and AA, best practices) on every screen and popover. */
import type { Page } from '@playwright/test';
import { expect, openBench, test } from './app.js';
import { finds } from './axe.js';

const TUBE = '0190a000-0000-7000-8000-000000000001';

const held = (page: Page) => page.evaluate(() => document.activeElement?.closest('[role=menu], [role=listbox]') !== null);

test('the bench: its rows, an opened one, the picker, every panel of the deck', async ({ page, app }) => {
  await openBench(page, app, TUBE);
  expect(await finds(page)).toEqual([]);
  await page.locator('[data-strand=lit]').click();
  await page.keyboard.press('Enter');
  await page.locator('[data-strand=hue]').click();
  await page.keyboard.press('Enter');
  await expect(page.locator('[data-opened]').first()).toBeVisible();
  expect(await finds(page)).toEqual([]);
  await page.keyboard.press('/');
  await expect(page.getByRole('dialog', { name: 'Add a strand' })).toBeVisible();
  expect(await finds(page)).toEqual([]);
  await page.keyboard.press('Escape');
  for (const name of ['Pulse', 'Cost', 'Advice']) {
    await page.getByRole('tab', { name }).click();
    await expect(page.getByRole('tabpanel', { name })).toBeVisible();
    expect([name, await finds(page)]).toEqual([name, []]);
  }
});

test('what opens over the bench: menus keep the focus, and every popover has a name', async ({ page, app }) => {
  await openBench(page, app, TUBE);
  await page.locator('[data-strand=lit]').click();
  await page.getByRole('button', { name: 'Lit: actions; drag to move' }).click();
  await expect(page.getByRole('menu')).toBeVisible();
  expect(await finds(page, true)).toEqual([]);
  await page.keyboard.press('Tab');
  expect(await held(page)).toBe(true);
  await page.keyboard.press('End');
  await expect(page.getByRole('menuitem', { name: 'Delete' })).toBeFocused();
  await expect(page.getByRole('menuitem', { name: 'Delete' })).toBeInViewport();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('menu')).toBeHidden();
  const opening = [
    page.getByRole('button', { name: 'Keys' }),
    page.getByRole('button', { name: 'More of the finish' }),
    ...(await page.locator('button.stage-chip[aria-haspopup=dialog]').all()),
  ];
  expect(opening.length).toBeGreaterThanOrEqual(5);
  for (const button of opening) {
    await button.click();
    const popover = page.getByRole('dialog');
    await expect(popover).toBeVisible();
    expect(await finds(page)).toEqual([]);
    await page.keyboard.press('Escape');
    await expect(popover).toBeHidden();
  }
});

test('export, the library, and an address that leads nowhere', async ({ page, app }) => {
  await openBench(page, app, TUBE);
  await page.goto(`${app.url}/effects/${TUBE}/export?clock=frozen&quality=draft`);
  await expect(page.getByRole('dialog')).toBeVisible();
  expect(await finds(page)).toEqual([]);
  await page.goto(app.url);
  await expect(page.getByRole('link', { name: /Failing tube/ }).first()).toBeVisible();
  expect(await finds(page)).toEqual([]);
  await page.goto(`${app.url}/nowhere`);
  await expect(page.getByRole('main')).toBeVisible();
  expect(await finds(page)).toEqual([]);
});
