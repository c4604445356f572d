/** The history: steps with their pictures, to go to; revisions named, seen by holding, restored; variants held against. */
import type { Page } from '@playwright/test';
import { restingBox, drawn, expect, middleOf, openBench, saved, test } from './app.js';
import { finds } from './axe.js';
import { effect, grey, plain, prop, stageWith } from './panes.js';

/** Brightness at the middle of the stage. */
const middle = async (page: Page) => (await middleOf(page))[0];
/** At the middle of the nth picture in the history. */
const pictured = (page: Page, n: number) =>
  page
    .locator('[data-thumbnail]')
    .nth(n)
    .evaluate((c: HTMLCanvasElement) => c.getContext('2d')!.getImageData(c.width / 2, c.height / 2, 1, 1).data[0]!);

test('a step is gone to by its picture; a revision is named, seen by holding, and restored', async ({ page, app }) => {
  const id = await effect(app, [grey('c', 0.6), grey('d', 0.05)], { emission: { from: 'c' } });
  const wall = await plain(app, 0);
  await stageWith(
    app,
    [
      prop('a', { primitive: 'plane', size: [4, 4] }, [0, 0, 0], id),
      prop('b', { primitive: 'plane', size: [40, 40] }, [0, 0, -1], wall),
    ],
    [0, 0, 3],
    false,
  );
  await openBench(page, app, id);
  await expect.poll(() => middle(page)).toBeGreaterThan(190);
  // The dark one lights it from now on.
  await page.locator('[data-strand=d]').click();
  await page.keyboard.press('f');
  await page.getByRole('menuitem', { name: 'Emission' }).click();
  await expect.poll(() => middle(page)).toBeLessThan(90);
  await saved(page);
  await page.getByRole('button', { name: 'History', exact: true }).click();
  const panel = page.getByRole('dialog', { name: 'History' });
  await expect(panel.locator('[data-thumbnail][data-drawn]')).toHaveCount(4);
  // Now, before; this sitting, the one that made it.
  const [now, before] = [await pictured(page, 0), await pictured(page, 1)];
  expect(before).toBeGreaterThan(190);
  expect(now).toBeLessThan(90);
  expect(await finds(page)).toEqual([]);
  await panel.getByRole('button', { name: 'Before the first step' }).click();
  await expect.poll(() => middle(page)).toBeGreaterThan(190);
  await panel.getByRole('button', { name: /taken back/ }).click();
  await expect.poll(() => middle(page)).toBeLessThan(90);
  // What is here now has a name.
  await panel.getByRole('button', { name: 'Name what is here now' }).click();
  await panel.getByLabel('Name of the revision').fill('Low tide');
  await page.keyboard.press('Enter');
  await expect(panel.getByText('Low tide')).toBeVisible();
  const stored = await app.get<{ name: string | null; open: boolean }[]>(`/api/effects/${id}/revisions`);
  expect(stored.map((r) => [r.name, r.open])).toEqual([
    ['Low tide', false],
    [null, false],
  ]);
  // Held, the first state is on the stage; the sheet and the server know nothing of it.
  const eye = await restingBox(panel.getByRole('button', { name: 'Hold to see A sitting' }));
  await page.mouse.move(eye.x + 8, eye.y + 8);
  await page.mouse.down();
  await expect.poll(() => middle(page)).toBeGreaterThan(190);
  expect((await app.effect(id)).outputs.emission).toEqual({ from: 'd' });
  await page.mouse.up();
  await expect.poll(() => middle(page)).toBeLessThan(90);
  await drawn(page, () => panel.getByRole('button', { name: 'Restore A sitting' }).click());
  await expect.poll(() => middle(page)).toBeGreaterThan(190);
  await saved(page);
  await expect.poll(async () => (await app.effect(id)).outputs.emission).toEqual({ from: 'c' });
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+z');
  await expect.poll(() => middle(page)).toBeLessThan(90);
});

test('another variant is on the stage for as long as it is held; nothing of it is saved', async ({ page, app }) => {
  const hue = (rgb: [number, number, number]) => ({ rgb, intensity: 1, unit: 'factor' as const });
  const id = await effect(
    app,
    [{ id: 'c', name: 'Hue', op: 'colour', inputs: { in: { value: hue([1, 0, 0]) } } }],
    { emission: { from: 'c' } },
    {},
    { dials: [{ id: 'd', strand: 'c', input: 'in' }], variants: [{ id: 'v', name: 'Deep', values: { d: hue([0, 0, 1]) } }] },
  );
  await stageWith(app, [prop('a', { primitive: 'plane', size: [9, 9] }, [0, 0, 0], id)], [0, 0, 2], false);
  await openBench(page, app, id);
  const seen = async () => (await middleOf(page)).indexOf(Math.max(...(await middleOf(page))));
  await expect.poll(seen).toBe(0);
  const before = await app.effect(id);
  await page.getByRole('button', { name: 'History', exact: true }).click();
  const eye = await restingBox(page.getByRole('button', { name: 'Hold to see Deep' }));
  await page.mouse.move(eye.x + 8, eye.y + 8);
  await page.mouse.down();
  await expect.poll(seen).toBe(2);
  await page.mouse.up();
  await expect.poll(seen).toBe(0);
  await saved(page);
  expect(await app.effect(id)).toEqual(before);
});
