/** What a dial says of itself: named, grouped, bounded, stepped, put in order, searched; all of it kept and undone. */
import type { Page } from '@playwright/test';
import { own } from '../../src/core/base/wholesome.js';
import { expect, openBench, saved, test, withoutPicture, type Served } from './app.js';
import { finds } from './axe.js';

const TUBE = '0190a000-0000-7000-8000-000000000001';
const DOME = '0190a000-0000-7000-8000-000000000004';
const dialOf = async (app: Served, input: string) =>
  (await app.effect(DOME)).dials.find((d) => d.input === input && d.strand === 'line')!;
const type = async (page: Page, label: string, text: string) => {
  await page.getByLabel(label, { exact: true }).fill(text);
  await page.keyboard.press('Enter');
};

test('a dial is renamed, told about, bounded, stepped, grouped, moved, reset, and is no dial any more', async ({ page, app }) => {
  await withoutPicture(page);
  await openBench(page, app, DOME);
  const before = await app.effect(DOME);
  await page.getByRole('button', { name: 'Settings of Line width', exact: true }).click();
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
  await expect(field).toHaveValue('0.29');
  await type(page, 'Reach value', '9');
  await expect(field).toHaveValue('1.2');
  await saved(page);
  for (let k = 0; k < 14; k++) await page.keyboard.press('Control+z');
  await saved(page);
  expect((await app.effect(DOME)).dials).toEqual(before.dials);
  await page.getByRole('button', { name: 'Settings of Line width', exact: true }).click();
  await settings.getByRole('button', { name: 'No longer a dial' }).click();
  await saved(page);
  expect(await dialOf(app, 'width')).toBeUndefined();
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
