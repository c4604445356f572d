/** Triggers by hand: fired by a key and by presses on a prop, kept, moved, named, deleted; their rings measured in pixels. */
import type { Page } from '@playwright/test';
import type { Stage } from '../../src/core/scene/stage.js';
import { restingBox, expect, onCanvas, openBench, saved, stageCanvas, test, type Served } from './app.js';
import { crowding } from './boxes.js';
import { OPEN, effect, grey, onwards, prop, seenAt, shown, stageWith } from './panes.js';

const LOOP = 4;
test.use({ viewport: { width: 1280, height: 800 } });

/** A shield: a pane that fills most of the stage, dark where nothing is set off. */
async function shield(app: Served): Promise<{ id: string; stage: Stage }> {
  onwards(600);
  const id = await effect(app, [grey('c', 0)], { emission: { from: 'c' } }, {}, { loop: LOOP });
  const pane = prop('a', { primitive: 'plane', size: [3, 2] }, [0, 0, 0], id);
  return { id, stage: await stageWith(app, [pane], [0, 0, 4.5], false) };
}
async function goTo(page: Page, time: number): Promise<void> {
  const box = await restingBox(page.getByTestId('ruler'));
  await page.mouse.click(box.x + (box.width * time) / LOOP, box.y + box.height / 2);
}
async function press(page: Page, stage: Stage, x: number, y: number): Promise<void> {
  const [px, py] = await onCanvas(page, stage, 'front', [x, y, 0]);
  const box = await restingBox(stageCanvas(page));
  await page.mouse.click(box.x + px, box.y + py);
}
const heard = async (app: Served, id: string) => (await app.effect(id)).triggers;
const brightness = (page: Page, stage: Stage, points: readonly (readonly [number, number])[]) =>
  Promise.all(points.map(async ([x, y]) => (await seenAt(page, stage, [x, y, 0]))[0]));

test('a shield that is hit at two points shows two rings, is kept, and shows them again', async ({ page, app }) => {
  const { id, stage } = await shield(app);
  await openBench(page, app, id, OPEN);
  await page
    .locator('[data-strand]')
    .first()
    .click({ position: { x: 100, y: 14 } });
  await page.keyboard.press('/');
  await page.keyboard.type('ripple width .3; emission');
  await page.keyboard.press('Enter');
  await expect(page.locator('[data-trigger]')).toHaveCount(1);
  // Two presses, at one moment.
  await page.getByRole('region', { name: 'Stage' }).getByRole('button', { name: 'Hit', exact: true }).click();
  await press(page, stage, -0.8, 0.1);
  await press(page, stage, 0.7, -0.1);
  await expect(page.getByRole('button', { name: 'Live firing of Hit at 0.00 s, at A B' })).toBeVisible();
  await expect(page.locator('[data-struck]').first()).toContainText('A');
  await goTo(page, 0.5);
  // After half a second at 1 m/s, of a second that it lasts: half as bright, half a metre about each.
  const rings = [
    [-0.8, 0.6],
    [-0.3, 0.1],
    [0.7, 0.4],
    [0.2, -0.1],
  ] as const;
  const dark = [
    [-0.8, 0.1],
    [0.7, -0.1],
    [-0.05, 0.8],
    [1.4, 0.8],
  ] as const;
  const seen = async () =>
    [...(await brightness(page, stage, rings)), ...(await brightness(page, stage, dark))].map((v) => Math.round(v / 6));
  const wanted = [...rings.map(() => Math.round(shown(0.5) / 6)), ...dark.map(() => 0)];
  await expect.poll(seen).toEqual(wanted);
  await saved(page);
  expect((await heard(app, id))[0]).toMatchObject({ name: 'Hit', at: [] });
  expect(await crowding(page)).toEqual([]);

  await page.getByRole('button', { name: 'Keep what was fired of Hit' }).click();
  await saved(page);
  const [kept] = await heard(app, id);
  expect(kept!.at).toEqual([0, 0]);
  const near = (place: readonly number[] | null | undefined) => place!.map((v) => Number(v.toFixed(1)));
  expect(kept!.places!.map(near)).toEqual([
    [-0.8, 0.1, 0],
    [0.7, -0.1, 0],
  ]);
  await expect.poll(seen).toEqual(wanted);
  await openBench(page, app, id, OPEN);
  await goTo(page, 0.5);
  await expect.poll(seen).toEqual(wanted);
});

test('fired by its key while Record is on; moved, made longer, named, deleted, and undone', async ({ page, app }) => {
  const { id } = await shield(app);
  await openBench(page, app, id, OPEN);
  await page
    .locator('[data-strand]')
    .first()
    .click({ position: { x: 100, y: 14 } });
  await page.keyboard.press('/');
  await page.keyboard.type('age');
  await page.keyboard.press('Enter');
  const lane = page.locator('[data-trigger]');
  await expect(lane).toContainText('never fired');
  await page.getByRole('switch', { name: 'Record' }).click();
  await goTo(page, 1);
  await page
    .locator('[data-strand]')
    .first()
    .click({ position: { x: 100, y: 14 } });
  await page.keyboard.press('t');
  await goTo(page, 2);
  await expect(lane).toContainText('1.00 s ago');
  await page.getByRole('button', { name: 'Fire Hit', exact: true }).click();
  await saved(page);
  expect((await heard(app, id))[0]!.at).toEqual([1, 2]);
  const perSecond = (await restingBox(page.getByTestId('ruler'))).width / LOOP;
  const second = page.getByRole('button', { name: /^Firing of Hit at 2.00 s/ });
  const box = await restingBox(second);
  await page.mouse.move(box.x + 4, box.y + 10);
  await page.mouse.down();
  await page.mouse.move(box.x + 4 + perSecond * 0.3, box.y + 10);
  await page.mouse.move(box.x + 4 + perSecond * 0.5, box.y + 10);
  await page.mouse.up();
  await saved(page);
  expect((await heard(app, id))[0]!.at[1]).toBeCloseTo(2.5, 1);
  const duration = page.getByLabel('Hit duration');
  await duration.fill('2.5');
  await duration.press('Enter');
  await lane.getByRole('button', { name: 'Hit', exact: true }).dblclick();
  await page.getByLabel('Name of Hit').fill('Touch');
  await page.keyboard.press('Enter');
  await saved(page);
  expect((await heard(app, id))[0]).toMatchObject({ name: 'Touch', duration: 2.5 });
  // The strand hears it by its id, whatever it is called.
  await expect(page.locator('[data-strand]').nth(1)).toContainText('Touch');
  await page.getByRole('button', { name: /^Firing of Touch at 1.00 s/ }).focus();
  await page.keyboard.press('Delete');
  await saved(page);
  expect((await heard(app, id))[0]!.at).toHaveLength(1);
  await page.getByRole('button', { name: 'Delete Touch' }).click();
  await expect(lane).toHaveCount(0);
  await expect(page.getByText(/There is no trigger/).first()).toBeVisible();
  for (let k = 0; k < 2; k++) await page.keyboard.press('Control+z');
  await saved(page);
  expect((await heard(app, id))[0]).toMatchObject({ name: 'Touch', at: [1, expect.closeTo(2.5, 1)] });
});
