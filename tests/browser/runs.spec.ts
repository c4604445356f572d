/** Several strands at once: chosen by keys, clicks and a band; copied within a sheet and into another; moved, or told why not. */
import { strandsOf, type Strand } from '../../src/core/effect/schema.js';
import { restingBox, expect, openBench, saved, test, withoutPicture } from './app.js';

const TUBE = '0190a000-0000-7000-8000-000000000001';
const SIGN = '0190a000-0000-7000-8000-000000000003';

test('chosen by keys and clicks, doubled, made a section, bypassed, deleted, each by one key; undo takes each back at once', async ({
  page,
  app,
}) => {
  await withoutPicture(page);
  await openBench(page, app, TUBE);
  const before = await app.effect(TUBE);
  const row = (name: string) => page.getByRole('row', { name: new RegExp(`^${name},`) });
  const chosen = () =>
    page.locator('[data-strand][aria-selected=true]').evaluateAll((rows) => rows.map((r) => r.getAttribute('data-strand')));
  await row('Drift').click();
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Shift+ArrowDown');
  expect(await chosen()).toEqual(['drift', 'shift', 'breath']);
  await expect(page.getByText('3 of 17 chosen')).toBeVisible();
  // Back by one, and one more by Ctrl and a click.
  await page.keyboard.press('Shift+ArrowUp');
  expect(await chosen()).toEqual(['drift', 'shift']);
  await row('Breath').click({ modifiers: ['Control'] });
  expect(await chosen()).toEqual(['drift', 'shift', 'breath']);
  // D: a copy of all three under them, the links among them kept, with the dials.
  await page.keyboard.press('d');
  await saved(page);
  const doubled = await app.effect(TUBE);
  const strands = strandsOf(doubled);
  const at = strands.findIndex((s) => s.id === 'breath') + 1;
  const copies = strands.slice(at, at + 3);
  expect(copies.map((s) => s.name)).toEqual(['Drift 2', 'Shift 2', 'Breath 2']);
  const linkOf = (s: Strand) => Object.values(s.inputs ?? {}).flatMap((i) => (i && 'from' in i ? [i.from] : []));
  expect(copies.map(linkOf)).toEqual([['t'], [copies[0]!.id], [copies[1]!.id]]);
  expect(doubled.dials.length).toBeGreaterThan(before.dials.length);
  expect(await chosen()).toEqual(copies.map((s) => s.id));
  await page.keyboard.press('g');
  await page.keyboard.press('b');
  await saved(page);
  const off = await app.effect(TUBE);
  expect(off.sections.map((s) => s.title)).toContain('Drift 2');
  expect(
    strandsOf(off)
      .filter((s) => s.bypassed)
      .map((s) => s.id),
  ).toEqual(copies.map((s) => s.id));
  await page.keyboard.press('Delete');
  await saved(page);
  expect(strandsOf(await app.effect(TUBE)).map((s) => s.id)).toEqual(strandsOf(before).map((s) => s.id));
  for (let k = 0; k < 4; k++) await page.keyboard.press('Control+z');
  await saved(page);
  await expect.poll(() => app.effect(TUBE)).toEqual(before);
});

test('cut and copied as text into another effect: what it reads there by name, its dials; what is no strand is refused with a sentence', async ({
  page,
  app,
}) => {
  await withoutPicture(page);
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await openBench(page, app, TUBE);
  const row = (name: string) => page.getByRole('row', { name: new RegExp(`^${name},`) });
  await row('Drift').click();
  await row('Breath').click({ modifiers: ['Shift'] });
  await page.keyboard.press('Control+c');
  const text = await page.evaluate(() => navigator.clipboard.readText());
  expect(JSON.parse(text)).toMatchObject({
    format: 'wispen-strands',
    version: 1,
    strands: [{ id: 'drift' }, { id: 'shift' }, { id: 'breath' }],
  });
  await openBench(page, app, SIGN);
  const before = await app.effect(SIGN);
  const last = strandsOf(before).at(-1)!;
  await page.locator(`[data-strand="${last.id}"]`).click();
  await page.keyboard.press('Control+v');
  await expect(row('Breath')).toBeVisible();
  await saved(page);
  const after = strandsOf(await app.effect(SIGN)).slice(-3);
  expect(after.map((s) => [s.name, s.op])).toEqual([
    ['Drift', 'multiply'],
    ['Shift', 'add'],
    ['Breath', 'noise'],
  ]);
  const time = strandsOf(before).find((s) => s.op === 'time')!;
  expect(after[0]!.inputs!.a).toEqual({ from: time.id });
  await page.evaluate(() => navigator.clipboard.writeText('a shopping list'));
  await page.keyboard.press('Control+v');
  await expect(page.getByText('What is on the clipboard is not strands.')).toBeVisible();
  // Cut takes them away here.
  await row('Drift').click();
  await row('Breath').click({ modifiers: ['Shift'] });
  await page.keyboard.press('Control+x');
  await saved(page);
  await expect.poll(async () => strandsOf(await app.effect(SIGN)).length).toBe(strandsOf(before).length);
});

test('a band in the margin chooses the rows that it touches; a move that order forbids says why, and offers what makes it possible', async ({
  page,
  app,
}) => {
  await withoutPicture(page);
  await openBench(page, app, TUBE);
  const chosen = () =>
    page.locator('[data-strand][aria-selected=true]').evaluateAll((rows) => rows.map((r) => r.getAttribute('data-strand')));
  const rowBox = (id: string) => restingBox(page.locator(`[data-strand="${id}"]`));
  const [from, to] = [await rowBox('drift'), await rowBox('breath')];
  await page.mouse.move(from.x + 12, from.y + 6);
  await page.mouse.down();
  await page.mouse.move(from.x + 12, (from.y + to.y) / 2, { steps: 4 });
  await page.mouse.move(from.x + 12, to.y + to.height / 2, { steps: 4 });
  await page.mouse.up();
  expect(await chosen()).toEqual(['drift', 'shift', 'breath']);
  // A press that does not move is a click, in the margin as elsewhere.
  const blink = await rowBox('blink');
  await page.keyboard.down('Control');
  await page.mouse.click(blink.x + 12, blink.y + 8);
  await page.keyboard.up('Control');
  expect(await chosen()).toEqual(['drift', 'shift', 'breath', 'blink']);
  // Shift reads Drift: alone it goes no higher.
  await page.locator('[data-strand=shift]').click();
  await page.keyboard.press('Alt+ArrowUp');
  await expect(page.getByText('Shift reads Drift, so it stays below it.')).toBeVisible();
  await page.getByRole('button', { name: 'Move Drift too' }).click();
  await saved(page);
  const ids = strandsOf(await app.effect(TUBE)).map((s) => s.id);
  expect(ids.slice(ids.indexOf('drift') - 1, ids.indexOf('drift') + 3)).toEqual(['buzz', 'drift', 'shift', 'stutter']);
});

test('pasted into an empty sheet, where nothing has the focus', async ({ page, app }) => {
  await withoutPicture(page);
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await openBench(page, app, TUBE);
  await page.locator('[data-strand=drift]').click();
  await page.locator('[data-strand=breath]').click({ modifiers: ['Shift'] });
  await page.keyboard.press('Control+c');
  await page.goto(app.url);
  await page.getByRole('button', { name: 'New empty' }).click();
  await expect(page.getByText('The sheet is empty.')).toBeVisible();
  await page.keyboard.press('Control+v');
  await expect(page.locator('[data-strand][aria-selected=true]')).toHaveCount(3);
  await expect(page.getByText('One link of what was pasted found nothing to read here.')).toBeVisible();
});
