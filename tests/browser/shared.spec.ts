/** Shared dials: created by a strand, turned and renamed in the deck for every effect, listed and let go in the Library. */
import type { Strand } from '../../src/core/effect/schema.js';
import { effectOf } from '../fixtures/sheets.js';
import { expect, openBench, saved, test, withoutPicture, type Served } from './app.js';
import { finds } from './axe.js';
import { crowding } from './boxes.js';

test.use({ viewport: { width: 1280, height: 800 } });
const [ONE, TWO] = ['0190b000-0000-7000-8000-00000000d001', '0190b000-0000-7000-8000-00000000d002'] as const;
const reading = async (app: Served, id: string, name: string) =>
  app.store({
    ...effectOf([{ id: 's', name: 'Swell', op: 'shared', inputs: { shared: { value: { text: 'swell' } } } } satisfies Strand], {
      emission: { from: 's' },
    }),
    ...{ id, name, shared: [{ id: 'swell', name: 'Swell', value: 0.4 }] },
  });

test('turned, renamed and undone in one effect, for all; listed with who reads them; what is read stays', async ({
  page,
  app,
}) => {
  await withoutPicture(page);
  await fetch(`${app.url}/api/shared/swell`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ id: 'swell', name: 'Swell', value: 0.4 }),
  });
  await reading(app, ONE, 'Near water');
  await reading(app, TWO, 'Far water');
  const inLibrary = async () =>
    (await app.get<{ id: string; name: string; value: number }[]>('/api/shared')).find((d) => d.id === 'swell');
  await openBench(page, app, ONE);
  const row = page.locator('[data-shared=swell]');
  await expect(row).toContainText('shared with Far water');
  await row.getByLabel('Swell value', { exact: true }).fill('0.7');
  await page.keyboard.press('Enter');
  await expect.poll(inLibrary).toMatchObject({ value: 0.7 });
  await row.getByRole('button', { name: 'Swell', exact: true }).dblclick();
  await page.getByLabel('Name of Swell').fill('Groundswell');
  await page.keyboard.press('Enter');
  await expect.poll(inLibrary).toMatchObject({ name: 'Groundswell', value: 0.7 });
  expect(await crowding(page)).toEqual([]);
  await saved(page);
  // The other follows when it is opened.
  await openBench(page, app, TWO);
  await expect(page.locator('[data-shared=swell]')).toContainText('Groundswell');
  await expect.poll(async () => (await app.effect(TWO)).shared).toEqual([{ id: 'swell', name: 'Groundswell', value: 0.7 }]);
  // Undone in the first, for all.
  await openBench(page, app, ONE);
  await expect(row).toContainText('Groundswell');
  for (let k = 0; k < 2; k++) await page.keyboard.press('Control+z');
  await expect.poll(inLibrary).toMatchObject({ id: 'swell', name: 'Swell', value: 0.4 });
  await saved(page);

  await page.goto(app.url);
  await page.getByRole('button', { name: /^Shared dials/ }).click();
  const panel = page.getByRole('dialog', { name: 'Shared dials' });
  const listed = panel.locator('[data-shared=swell]');
  await expect(listed).toContainText('read by Far water, Near water');
  await expect(listed.getByRole('button', { name: 'Delete Swell' })).toBeDisabled();
  await listed.getByLabel('Swell value', { exact: true }).fill('0.9');
  await page.keyboard.press('Enter');
  await expect.poll(inLibrary).toMatchObject({ value: 0.9 });
  await panel.getByRole('button', { name: 'New' }).click();
  const fresh = panel.locator('[data-shared]').filter({ hasText: 'Shared 1' });
  await expect(fresh).toContainText('not read');
  expect(await crowding(page)).toEqual([]);
  expect(await finds(page)).toEqual([]);
  await fresh.getByRole('button', { name: 'Delete Shared 1' }).click();
  await expect(fresh).toHaveCount(0);
});
