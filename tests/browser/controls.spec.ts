/** The controls of rows and deck: numbers, colours, options, sections, finishes; and sheets that grow. */
import { emptyEffect, strandsOf, type Effect } from '../../src/core/effect/schema.js';
import { constructSheet } from '../fixtures/sheets.js';
import { expect, frames, links, nextFrame, openBench, saved, test, withoutPicture } from './app.js';

const TUBE = '0190a000-0000-7000-8000-000000000001';
const HOME = { stage: '0190a100-0000-7000-8000-000000000001', prop: 'tube-1', viewpoint: 'hatch' };
const strand = async (app: { effect: (id: string) => Promise<Effect> }, id: string) =>
  strandsOf(await app.effect(TUBE)).find((s) => s.id === id)!;

test('a number takes arithmetic, arrow keys and dragging; what is no number is refused and nothing changes', async ({
  page,
  app,
}) => {
  await withoutPicture(page);
  await openBench(page, app, TUBE);
  const field = page.getByLabel('Glow value', { exact: true });
  await field.fill('2*pi');
  await page.keyboard.press('Enter');
  await expect(field).toHaveValue('6.283');
  await page.keyboard.press('Shift+ArrowUp');
  await expect(field).toHaveValue('10.28');
  await saved(page);
  expect((await strand(app, 'glow')).inputs!.amount).toMatchObject({ value: expect.closeTo(10.283, 3) });
  await field.fill('two');
  await page.keyboard.press('Enter');
  await expect(field).toHaveAttribute('aria-invalid', 'true');
  await page.keyboard.press('Escape');
  await expect(field).toHaveValue('10.28');
  // A value beyond the slider's range widens it.
  await field.fill('200');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('slider', { name: 'Glow', exact: true })).toHaveAttribute('aria-valuemax', '200');
  await saved(page);
  expect((await app.effect(TUBE)).dials.find((d) => d.id === 'glow')!.soft).toEqual([0, 200]);
  // Hard limits hold.
  await page.getByLabel('Character value').fill('7');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Character value')).toHaveValue('1');
});

test('hue and intensity are turned apart; intensity reads in factors and in stops', async ({ page, app }) => {
  await withoutPicture(page);
  await openBench(page, app, TUBE);
  // The intensity stands beside the hue.
  await page.getByLabel('Gas hue dial intensity').fill('2.5');
  await page.keyboard.press('Enter');
  await saved(page);
  expect((await strand(app, 'hue')).inputs!.in).toMatchObject({ value: { intensity: 2.5, unit: 'factor' } });
  await expect(page.locator('[data-dial]').getByText('+1.3 stops')).toBeVisible();
  await page.getByLabel('Gas hue dial intensity').fill('1');
  await page.keyboard.press('Enter');
  await page.getByRole('slider', { name: 'Gas hue', exact: true }).focus();
  await page.keyboard.press('Home');
  for (let k = 0; k < 13; k++) await page.keyboard.press('Shift+ArrowRight');
  await saved(page);
  const blue = (await strand(app, 'hue')).inputs!.in as { value: { rgb: number[]; intensity: number } };
  expect(blue.value.rgb[2]).toBeGreaterThan(blue.value.rgb[0]!);
  expect(blue.value.intensity).toBe(1);
  await page.getByRole('button', { name: 'Gas hue: edit colour' }).click();
  await page.getByLabel('Gas hue intensity value').fill('8');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Gas hue intensity in stops')).toHaveValue('3');
  await saved(page);
  expect((await strand(app, 'hue')).inputs!.in).toMatchObject({ value: { intensity: 8, unit: 'factor' } });
  // What is typed last is what is kept.
  await page.getByLabel('Gas hue intensity in stops').fill('4');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Gas hue intensity as a factor')).toHaveValue('16');
  await saved(page);
  expect((await strand(app, 'hue')).inputs!.in).toMatchObject({ value: { intensity: 4, unit: 'stops' } });
});

test('a seed has a stepper and a dice', async ({ page, app }) => {
  await openBench(page, app, TUBE);
  const linked = await links(page);
  await page.getByRole('button', { name: 'Seed: one more' }).click();
  await expect(page.getByLabel('Seed value')).toHaveValue('8');
  const before = await frames(page);
  await page.getByRole('button', { name: 'Seed: any other' }).click();
  await nextFrame(page, before);
  await saved(page);
  expect(Number.isInteger(((await strand(app, 'shift')).inputs!.b as { value: number }).value)).toBe(true);
  expect(await links(page)).toBe(linked);
});

test('an input that may be left out is switched on once; from then on its number links nothing', async ({ page, app }) => {
  await openBench(page, app, TUBE);
  await expect.poll(() => links(page)).toBe(1);
  const row = page.getByRole('row', { name: /^Breath,/ });
  await row.click();
  await page.keyboard.press('Enter');
  await expect(page.getByText('left out')).toBeVisible();
  // The noise of this lamp is computed on the CPU: the program stays, whatever it does.
  await page.getByRole('button', { name: 'churn: link or make a dial' }).click();
  await page.getByRole('menuitem', { name: 'Give it a value' }).click();
  await page.getByLabel('Breath churn value').fill('0.5');
  await page.keyboard.press('Enter');
  await saved(page);
  expect((await strand(app, 'breath')).inputs!.churn).toEqual({ value: 0.5 });
  const settled = await links(page);
  const before = await frames(page);
  await page.getByLabel('Breath scale value').fill('2');
  await page.keyboard.press('Enter');
  await nextFrame(page, before);
  expect(await links(page)).toBe(settled);
  await page.getByRole('button', { name: 'churn: link or make a dial' }).click();
  await page.getByRole('menuitem', { name: 'Leave it out' }).click();
  await saved(page);
  expect((await strand(app, 'breath')).inputs!.churn).toBeUndefined();
});

test('options, links by menu, and making and removing a dial', async ({ page, app }) => {
  await withoutPicture(page);
  await openBench(page, app, TUBE);
  await page.getByRole('row', { name: /^Buzz,/ }).click();
  await page.keyboard.press('Enter');
  await page.getByRole('combobox', { name: 'Buzz shape: sine' }).click();
  await page.getByRole('option', { name: 'square' }).click();
  await expect(page.getByRole('row', { name: /^Buzz,/ })).toContainText('square');
  await page.getByRole('button', { name: 'rate: link or make a dial' }).click();
  await page.getByRole('menuitem', { name: 'Take the dial away' }).click();
  await expect(page.getByRole('slider', { name: 'Buzz rate' })).toHaveCount(1);
  await page.getByRole('button', { name: 'phase: link or make a dial' }).click();
  await page.getByRole('menuitem', { name: 'Time', exact: true }).click();
  await saved(page);
  const after = await app.effect(TUBE);
  expect(await strand(app, 'buzz')).toMatchObject({
    options: { shape: 'square' },
    inputs: { phase: { from: 't' }, rate: { value: 1.5 } },
  });
  expect(after.dials.map((d) => d.id)).not.toContain('rate');
});

test('sections fold and are renamed; the sheet remembers what the effect holds', async ({ page, app }) => {
  await withoutPicture(page);
  await openBench(page, app, TUBE);
  await page.getByRole('button', { name: 'Organic' }).click();
  await expect(page.getByRole('row', { name: /^Breath,/ })).toBeHidden();
  await expect(page.getByRole('button', { name: /Organic/ })).toContainText('3');
  await page.getByRole('button', { name: /Organic/ }).click();
  await expect(page.getByRole('row', { name: /^Breath,/ })).toBeVisible();
  await page.getByRole('button', { name: 'Ends' }).dblclick();
  await page.getByLabel('Title of the section').fill('Electrodes');
  await page.keyboard.press('Enter');
  await saved(page);
  expect((await app.effect(TUBE)).sections.map((s) => s.title)).toContain('Electrodes');
});

test('finish and outputs are set at the sheet’s foot', async ({ page, app }) => {
  await withoutPicture(page);
  await openBench(page, app, TUBE);
  await page.getByRole('combobox', { name: 'Sides: one side' }).click();
  await page.getByRole('option', { name: 'two sides' }).click();
  await page.getByRole('button', { name: 'casts shadow' }).click();
  await page.getByRole('button', { name: 'Emission reads Glow' }).click();
  await page.getByRole('menuitem', { name: 'Lamp' }).click();
  await saved(page);
  const after = await app.effect(TUBE);
  expect(after.finish).toMatchObject({ sides: 'both', castsShadow: false });
  expect(after.outputs.emission).toEqual({ from: 'lamp' });
});

test('single letters act only on a focused row, never while typing, and can be turned off', async ({ page, app }) => {
  await withoutPicture(page);
  await openBench(page, app, TUBE);
  await page.getByRole('heading', { name: 'Failing tube' }).getByRole('button').click();
  await page.getByLabel('Name of the effect').fill('b/s');
  await page.keyboard.press('Enter');
  await saved(page);
  expect((await app.effect(TUBE)).name).toBe('b/s');
  await page.getByRole('button', { name: 'Keys' }).click();
  await page.getByRole('switch', { name: 'Single-letter keys are on' }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('row', { name: /^Lit,/ }).click();
  await page.keyboard.press('b');
  await page.keyboard.press('/');
  await expect(page.getByRole('dialog', { name: 'Add a strand' })).toBeHidden();
  expect((await strand(app, 'lit')).bypassed).toBeUndefined();
});

test('a sheet of 120 strands: only the rows in sight are made, the keys reach all of them', async ({ page, app }) => {
  await withoutPicture(page);
  const big = {
    ...constructSheet(11, { strands: 120, noises: 8, tame: true }),
    id: '0190e000-0000-7000-8000-000000000001',
    name: 'Long sheet',
    home: HOME,
  };
  const empty = emptyEffect(big.id, big.name);
  // Its images are nobody's: a document is not taken without its files.
  await app.store({ ...empty, ...big, outputs: {}, assets: {} });
  await openBench(page, app, big.id);
  await expect(page.getByText('120 strands')).toBeVisible();
  expect(await page.locator('[data-strand]').count()).toBeLessThan(60);
  await page.locator('[data-strand="s0"]').click();
  await page.keyboard.press('End');
  await expect(page.locator('[data-strand="s119"]')).toBeFocused();
  await expect(page.locator('[data-strand="s119"]')).toBeInViewport();
  await page.keyboard.press('Home');
  await expect(page.locator('[data-strand="s0"]')).toBeFocused();
});

test('a range that is proved is told as such; one that nothing bounds says that it was measured', async ({ page, app }) => {
  await withoutPicture(page);
  const [id, name] = ['0190e000-0000-7000-8000-000000000002', 'Open range'];
  const strands = [
    { id: 'place', name: 'Place', op: 'uv' },
    { id: 'grain', name: 'Grain', op: 'noise', inputs: { position: { from: 'place' }, scale: { value: 5 } } },
    { id: 'share', name: 'Share', op: 'divide', inputs: { a: { value: 0.3 }, b: { from: 'grain' } } },
  ];
  await app.store({ ...emptyEffect(id, name), strands, home: HOME } as Effect);
  await openBench(page, app, id);
  const range = (strand: string) => page.locator(`[data-strand="${strand}"]`).getByTestId('range');
  await expect(range('grain')).toHaveText('−1 .. 1');
  await expect(range('grain')).toHaveAttribute('title', /proved/);
  await expect(range('share')).toHaveText(/^measured ≈ −\d.* \.\. \d/);
  await expect(range('share')).toHaveAttribute('title', /^measured/);
});
