/** The Overview: the second reading of a sheet; what is chosen in one is chosen in the other. */
import { restingBox, expect, middleOf, openBench, stageCanvas, test } from './app.js';
import { finds } from './axe.js';

const DOME = '0190a000-0000-7000-8000-000000000004';

test('drawn by itself: choosing there chooses in the sheet, arrows follow threads, Enter opens; the address keeps it', async ({
  page,
  app,
}) => {
  await openBench(page, app, DOME);
  await page.locator('[data-strand=net]').click();
  await page.keyboard.press('m');
  const overview = page.getByRole('region', { name: 'Overview' });
  await expect(overview).toBeVisible();
  // A dot a strand, a curve a thread and an output, and nothing of the sheet's rows.
  const { strands, outputs } = await app.effect(DOME);
  await expect(overview.locator('[data-dot]')).toHaveCount(strands.length);
  const links = strands.reduce(
    (n, s) => n + new Set(Object.values(s.inputs ?? {}).flatMap((i) => (i && 'from' in i ? [i.from] : []))).size,
    0,
  );
  await expect(overview.locator('[data-curve]')).toHaveCount(links + Object.values(outputs).filter((o) => 'from' in o!).length);
  await expect(page.locator('[data-strand]')).toHaveCount(0);
  const list = overview.getByRole('listbox');
  await expect(list.getByRole('option', { selected: true })).toHaveAttribute('data-dot', 'net');
  // The costly one is larger: the disc's radius, in pixels.
  const radius = (id: string) =>
    list.locator(`[data-dot=${id}] circle`).evaluateAll((all) => Math.max(...all.map((c) => Number(c.getAttribute('r')))));
  await expect.poll(() => radius('net')).toBeGreaterThan(3 * (await radius('gap')));
  // Along the threads by keys, and by the pointer.
  await list.focus();
  await page.keyboard.press('ArrowLeft');
  await expect(list.getByRole('option', { selected: true })).toHaveAttribute('data-dot', 'even');
  await page.keyboard.press('ArrowRight');
  const card = page.getByRole('region', { name: 'Chosen strand' });
  await expect(card.getByRole('heading')).toContainText('Net');
  const dot = await restingBox(list.locator('[data-dot=rim] circle').first());
  await page.mouse.click(dot.x + dot.width / 2, dot.y + dot.height / 2);
  await expect(card.getByRole('heading')).toContainText('Rim');
  // The stage is there, smaller, and not blank.
  const box = await restingBox(stageCanvas(page));
  expect(box.height).toBeGreaterThan(200);
  await expect.poll(async () => Math.max(...(await middleOf(page)))).toBeGreaterThan(8);
  expect(await finds(page)).toEqual([]);
  await page.reload();
  await expect(overview).toBeVisible();
  await list.focus();
  await page.keyboard.press('Home');
  await page.keyboard.press('Enter');
  // The first dot, opened in the sheet, and in sight.
  await expect(page.locator('[data-strand=gap]')).toBeVisible();
  await expect(page.locator('[data-strand=gap] [data-opened]')).toBeVisible();
  await page.goBack();
  await expect(overview).toBeVisible();
});
