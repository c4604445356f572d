/** What a dial says of itself: named, grouped, bounded, stepped, put in order, searched; all of it kept and undone. */
import type { Page } from '@playwright/test';
import { own } from '../../src/core/base/wholesome.js';
import { restingBox, expect, openBench, saved, test, type Served, withoutPicture } from './app.js';
import { finds } from './axe.js';
import { crowding } from './boxes.js';
import { OPEN, effect, onwards, prop, seenAt, shown, stageWith } from './panes.js';

const TUBE = '0190a000-0000-7000-8000-000000000001';
const DOME = '0190a000-0000-7000-8000-000000000004';
const dialOf = async (app: Served, input: string) =>
  (await app.effect(DOME)).dials.find((d) => d.input === input && d.strand === 'linecut')!;
const type = async (page: Page, label: string, text: string) => {
  await page.getByLabel(label, { exact: true }).fill(text);
  await page.keyboard.press('Enter');
};

test('a dial is renamed, told about, bounded, stepped, grouped, moved, reset, and is no dial any more', async ({ page, app }) => {
  await withoutPicture(page);
  await openBench(page, app, DOME);
  const before = await app.effect(DOME);
  await page.getByRole('button', { name: 'Settings of Line pattern', exact: true }).click();
  const settings = page.getByRole('dialog', { name: /^Dial / });
  await expect(settings).toBeVisible();
  expect(await finds(page)).toEqual([]);
  await type(page, 'Name of the dial', 'Reach');
  await expect(page.getByRole('button', { name: 'Settings of Reach' })).toBeVisible();
  await settings.getByLabel('About the dial').fill('How far the line reaches from what the dome touches');
  await type(page, 'Range from', '0.01');
  await type(page, 'Range to', '0.8');
  await settings.getByRole('button', { name: 'Upper limit: none' }).click();
  await type(page, 'Upper limit', '1.2');
  await type(page, 'Step', '0.05');
  await settings.getByRole('radio', { name: 'log' }).click();
  await type(page, 'Group of the dial', 'Contact');
  // Still open, though its row stands elsewhere now.
  await settings.getByRole('button', { name: 'Reach: earlier' }).click();
  await saved(page);
  const { dials } = await app.effect(DOME);
  expect(dials[0]).toMatchObject({
    ...{ label: 'Reach', about: 'How far the line reaches from what the dome touches', soft: [0.01, 0.8], step: 0.05 },
    ...{ scale: 'log', group: 'Contact' },
  });
  expect(dials[0]!.hard![1]).toBe(1.2);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: 'Contact 1' })).toBeVisible();
  // A press of an arrow is a step; no value goes past the limit.
  const field = page.getByLabel('Reach value');
  await field.focus();
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('Enter');
  await expect(field).toHaveValue('0.27');
  await type(page, 'Reach value', '9');
  await expect(field).toHaveValue('1.2');
  await saved(page);
  for (let k = 0; k < 14; k++) await page.keyboard.press('Control+z');
  await saved(page);
  expect((await app.effect(DOME)).dials).toEqual(before.dials);
  await page.getByRole('button', { name: 'Settings of Line pattern', exact: true }).click();
  await settings.getByRole('button', { name: 'No longer a dial' }).click();
  await saved(page);
  expect(await dialOf(app, 'c')).toBeUndefined();
});

test('a variant is given the values of another, and the base those of a variant', async ({ page, app }) => {
  await withoutPicture(page);
  await openBench(page, app, TUBE);
  const { variants, dials } = await app.effect(TUBE);
  const [first, second] = variants as [(typeof variants)[0], (typeof variants)[0]];
  const menu = page.getByRole('menu');
  const open = (now: string) => page.getByRole('button', { name: `Variant: ${now}` }).click();
  await open('Base');
  await page.getByRole('menuitemradio', { name: first.name }).click();
  await open(first.name);
  await menu.getByRole('menuitem', { name: second.name, exact: true }).click();
  await saved(page);
  expect((await app.effect(TUBE)).variants[0]!.values).toEqual(second.values);
  await open(first.name);
  await page.getByRole('menuitemradio', { name: 'Base' }).click();
  await open('Base');
  await menu.getByRole('menuitem', { name: second.name, exact: true }).click();
  await saved(page);
  const effect = await app.effect(TUBE);
  for (const [id, value] of Object.entries(second.values)) {
    const dial = dials.find((d) => d.id === id)!;
    expect(own(effect.strands.find((s) => s.id === dial.strand)!.inputs, dial.input)).toEqual({ value });
  }
});

test('an option is a dial too: a variant has another word, in the picture, and the base keeps its own', async ({ page, app }) => {
  onwards(700);
  const id = await effect(
    app,
    [
      { id: 't', name: 'Moment', op: 'number', inputs: { in: { value: 0.125 } } },
      { id: 'w', name: 'Swing', op: 'wave', inputs: { time: { from: 't' }, low: { value: 0 }, high: { value: 1 } } },
    ],
    { emission: { from: 'w' } },
  );
  const stage = await stageWith(app, [prop('a', { primitive: 'plane', size: [3, 2] }, [0, 0, 0], id)], [0, 0, 4.5], false);
  await openBench(page, app, id, OPEN);
  // An eighth of a sine's turn between 0 and 1; a square is up there.
  const seen = async () => Math.round((await seenAt(page, stage, [0.2, 0.1, 0]))[0] / 4);
  const sine = Math.round(shown(0.5 + 0.5 * Math.SQRT1_2) / 4);
  await expect.poll(seen).toBe(sine);
  await page
    .locator('[data-strand]')
    .nth(1)
    .click({ position: { x: 100, y: 14 } });
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'shape: a dial' }).click();
  const dial = page.locator('[data-dial]').getByRole('combobox', { name: /^Swing shape/ });
  await expect(dial).toContainText('sine');
  await page.getByRole('button', { name: 'Save as variant' }).click();
  await page.getByLabel('Name of the new variant').fill('Hard');
  await page.keyboard.press('Enter');
  await dial.click();
  await page.getByRole('option', { name: 'square' }).click();
  await expect.poll(seen).toBe(Math.round(255 / 4));
  await saved(page);
  const stored = await app.effect(id);
  expect(stored.variants[0]!.values[stored.dials[0]!.id]).toBe('square');
  expect(stored.strands[1]!.options).toBeUndefined();
  await page.getByRole('button', { name: 'Variant: Hard' }).click();
  await page.getByRole('menuitemradio', { name: 'Base' }).click();
  await expect.poll(seen).toBe(sine);
  expect(await crowding(page)).toEqual([]);
});

test('a dial is dragged by its name to where another stands', async ({ page, app }) => {
  await page.setViewportSize({ width: 1280, height: 800 });
  await withoutPicture(page);
  await openBench(page, app, DOME);
  const order = async () => (await app.effect(DOME)).dials.map((d) => d.id);
  const before = await order();
  const rows = page.locator('[data-dial]');
  const [from, to] = [await restingBox(rows.nth(3)), await restingBox(rows.first())];
  await page.mouse.move(from.x + 30, from.y + 14);
  await page.mouse.down();
  await page.mouse.move(from.x + 20, from.y, { steps: 3 });
  await page.mouse.move(to.x + 30, to.y + 14, { steps: 6 });
  // A line says where it would stand.
  await expect(rows.first()).toHaveClass(/shadow/);
  await page.mouse.up();
  await expect.poll(order).toEqual([before[3], ...before.slice(0, 3), ...before.slice(4)]);
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await saved(page);
  expect(await order()).toEqual(before);
});
