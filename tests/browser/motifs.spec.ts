/** Motifs by hand: strands made one, named, used again, unfolded, changed and put back; kept in the library, used elsewhere. */
import type { Page } from '@playwright/test';
import { expect, openBench, saved, test } from './app.js';
import { crowding } from './boxes.js';
import { OPEN, effect, onwards, prop, seenAt, shown, stageWith, v } from './panes.js';

test.use({ viewport: { width: 1280, height: 800 } });
const row = (page: Page, name: string) => page.locator(`[data-strand][aria-label^="${name}, "]`);
const choose = (page: Page, name: string, more = false) =>
  row(page, name)
    .first()
    .click({ position: { x: 100, y: 14 }, ...(more ? { modifiers: ['Shift' as const] } : {}) });

test('made one by a key, used twice, edited once: both follow, in the picture too', async ({ page, app }) => {
  onwards(640);
  const id = await effect(
    app,
    [
      { id: 'a', name: 'Level', op: 'number', inputs: { in: v(0.25) } },
      { id: 'b', name: 'Twice', op: 'multiply', inputs: { a: { from: 'a' }, b: v(2) } },
      { id: 'c', name: 'Out', op: 'clamp', inputs: { in: { from: 'b' } } },
    ],
    { emission: { from: 'c' } },
    {},
    { dials: [{ id: 'd1', strand: 'a', input: 'in', label: 'Brightness', soft: [0, 1] }] },
  );
  const pane = prop('a', { primitive: 'plane', size: [3, 2] }, [0, 0, 0], id);
  const stage = await stageWith(app, [pane], [0, 0, 4.5], false);
  await openBench(page, app, id, OPEN);
  const seen = async () => Math.round((await seenAt(page, stage, [0.2, 0.1, 0]))[0] / 4);
  await expect.poll(seen).toBe(Math.round(shown(0.5) / 4));
  await choose(page, 'Level');
  await choose(page, 'Twice', true);
  await page.keyboard.press('m');
  await saved(page);
  let stored = await app.effect(id);
  expect(stored.strands.map((s) => [s.name, s.op])).toEqual([
    ['Twice', 'motif'],
    ['Out', 'clamp'],
  ]);
  expect(stored.dials[0]).toMatchObject({ strand: 'motif', input: 'in1', label: 'Brightness' });
  expect(stored.motifs[0]).toMatchObject({
    revision: 1,
    inputs: [{ name: 'Brightness', default: 0.25, soft: [0, 1] }],
    outputs: [{ name: 'Twice' }],
  });
  await expect.poll(seen).toBe(Math.round(shown(0.5) / 4));
  // Opened, it says what it is; its strands are looked at.
  await expect(page.getByText('revision 1')).toBeVisible();
  await page.getByRole('button', { name: '2 strands inside' }).click();
  await expect(page.getByRole('list', { name: 'Strands within Twice' }).getByRole('listitem')).toHaveCount(2);
  expect(await crowding(page)).toEqual([]);
  // Named; the dial turns it.
  await page.getByRole('button', { name: 'Twice', exact: true }).first().dblclick();
  await page.getByLabel('Name of the motif Twice').fill('Doubled');
  await page.keyboard.press('Enter');
  await page.getByLabel('Brightness value', { exact: true }).fill('0.3');
  await page.keyboard.press('Enter');
  await expect.poll(seen).toBe(Math.round(shown(0.6) / 4));

  // Once more, by its name.
  await choose(page, 'Twice');
  await page.keyboard.press('/');
  await page.keyboard.type('doubled');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('treegrid').getByText('Doubled', { exact: true })).toHaveCount(2);
  // Unfolded there, changed, put back: the first follows.
  await page.keyboard.press('u');
  await expect(row(page, 'Level')).toHaveCount(1);
  await choose(page, 'Twice 2');
  await page.keyboard.press('Enter');
  await page.getByRole('textbox', { name: 'Twice 2 b', exact: true }).fill('3');
  await page.keyboard.press('Enter');
  await choose(page, 'Level');
  await choose(page, 'Twice 2', true);
  await page.keyboard.press('m');
  await expect(page.getByText('Doubled is revision 3 now. One other strand follows.')).toBeVisible();
  await expect.poll(seen).toBe(Math.round(shown(0.9) / 4));
  await saved(page);
  stored = await app.effect(id);
  expect(stored.motifs).toHaveLength(1);
  expect(stored.motifs[0]).toMatchObject({ revision: 3, inputs: [{ id: 'in1', name: 'Brightness', default: 0.25 }] });
  expect(stored.dials).toHaveLength(1);
  await page.keyboard.press('Control+z');
  await expect.poll(seen).toBe(Math.round(shown(0.6) / 4));
});

test('kept in the library, used in another effect, told of a newer revision; a shipped one is at hand', async ({ page, app }) => {
  onwards(650);
  const strands = [
    { id: 'a', name: 'Level', op: 'number', inputs: { in: v(0.25) } },
    { id: 'b', name: 'Half', op: 'multiply', inputs: { a: { from: 'a' }, b: v(0.5) } },
  ];
  const [first, second] = [
    await effect(app, strands as never, { emission: { from: 'b' } }),
    await effect(app, strands as never, { emission: { from: 'b' } }),
  ];
  await stageWith(app, [prop('a', { primitive: 'plane', size: [3, 2] }, [0, 0, 0], first)], [0, 0, 4.5], false).catch(
    () => undefined,
  );
  await openBench(page, app, first, OPEN);
  await choose(page, 'Level');
  await choose(page, 'Half', true);
  await page.keyboard.press('m');
  await page.getByRole('button', { name: 'To the library' }).click();
  await expect(page.getByText('in the library')).toBeVisible();
  await saved(page);
  await openBench(page, app, second, OPEN);
  await choose(page, 'Half');
  await page.keyboard.press('/');
  await page.keyboard.type('half');
  await page.keyboard.press('Control+Enter');
  await saved(page);
  const { motifs } = await app.effect(second);
  expect(motifs).toHaveLength(1);
  await expect(page.getByText(/1 other effect/)).toBeVisible();
  // A newer revision in the library is offered, and taken.
  const newer = { ...motifs[0]!, revision: 7, note: 'Halves what it is given.' };
  const put = await fetch(`${app.url}/api/motifs/${newer.id}`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(newer),
  });
  expect(put.status).toBe(200);
  await openBench(page, app, second, OPEN);
  await choose(page, 'Half 2');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Take 7' }).click();
  await expect(page.getByText('Halves what it is given.')).toBeVisible();
  await saved(page);
  expect((await app.effect(second)).motifs[0]!.revision).toBe(7);
  // Shipped ones stay as they are.
  await page.keyboard.press('Escape');
  await choose(page, 'Half');
  await page.keyboard.press('/');
  await page.keyboard.type('organic flicker');
  await expect(page.getByRole('option').first()).toContainText('Organic flicker');
  await page.keyboard.press('Control+Enter');
  await expect(page.getByText('shipped')).toBeVisible();
  expect(await crowding(page)).toEqual([]);
  // A motif's whole name is the motif, though its words would be an operation and a strand.
  await choose(page, 'Half');
  await page.keyboard.press('/');
  await page.keyboard.type('Rim by width');
  await page.keyboard.press('Enter');
  await choose(page, 'Half');
  await page.keyboard.press('/');
  await page.keyboard.type('dissolve with rim');
  // Operations show beside it; it is the first.
  await expect(page.getByRole('option').first()).toContainText('Dissolve with rim');
  await page.keyboard.press('Enter');
  await expect(row(page, 'Dissolve with rim')).toHaveCount(1);
  const refused = await fetch(`${app.url}/api/motifs/0190a000-0000-7000-8000-0000000a0001`, { method: 'DELETE' });
  expect(refused.status).toBe(403);
});
