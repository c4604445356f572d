/** Strands added in one line of typing, read where it makes sense, offered where it does not; chips changed where they stand. */
import { strandsOf, type Strand } from '../../src/core/effect/schema.js';
import { effectOf } from '../fixtures/sheets.js';
import { expect, openBench, saved, test, withoutPicture, type Served } from './app.js';

const ID = '0190a000-0000-7000-8000-00000000ad01';
const BROKEN = '0190a000-0000-7000-8000-00000000ad02';
const find = (strands: readonly Strand[], name: string) => strands.find((s) => s.name === name)!;
const strandsIn = async (app: Served, id = ID) => strandsOf(await app.effect(id));

test.beforeEach(async ({ page, app }) => {
  await withoutPicture(page);
  await app.store({ ...effectOf([]), id: ID, name: 'Added', shared: [] });
  await openBench(page, app, ID);
});

test('a line of typing gives a strand its name, what it reads and its numbers; what it would read is told before', async ({
  page,
  app,
}) => {
  const add = async (line: string, name: string) => {
    await page.keyboard.press('/');
    await page.keyboard.type(line);
    await page.keyboard.press('Enter');
    await expect(page.getByRole('row', { name: new RegExp(`^${name},`) })).toBeFocused();
  };
  await add('Rim = fresnel width .3', 'Rim');
  await add('Line = contact .4', 'Line');
  await page.keyboard.press('/');
  await page.keyboard.type('max Rim, Line');
  await expect(page.getByRole('status', { name: 'It would read' })).toHaveText(/^a Rim\s*b Line$/);
  await page.keyboard.press('Enter');
  await add('Edge = mul #4080ff x 20', 'Edge');
  // A mistake is told, and Enter keeps what was typed.
  await page.keyboard.press('/');
  await page.keyboard.type('mix Rim, Lime');
  await expect(page.getByText('Nothing is called “mix Rim, Lime”')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.keyboard.press('/');
  await page.keyboard.type('Inner = 1 - smoothstep(0, .5, rim)');
  await page.keyboard.press('Enter');
  await saved(page);
  const strands = await strandsIn(app);
  const [rim, line, max, edge] = ['Rim', 'Line', 'Max', 'Edge'].map((n) => find(strands, n));
  expect(rim!.inputs).toEqual({ width: { value: 0.3 } });
  expect(line!.inputs).toEqual({ width: { value: 0.4 } });
  expect(max!.inputs).toEqual({ a: { from: rim!.id }, b: { from: line!.id } });
  expect(edge!.inputs).toMatchObject({ a: { from: max!.id }, b: { value: { intensity: 20, unit: 'factor' } } });
  expect(find(strands, 'Inner').inputs).toEqual({
    a: { from: rim!.id },
    formula: { value: { text: '1 - smoothstep(0, .5, a)' } },
  });
});

test('Tab turns to another input; what makes no sense is not linked, and offered', async ({ page, app }) => {
  const status = page.getByRole('status', { name: 'It would read' });
  await page.keyboard.press('/');
  await page.keyboard.type('time');
  await page.keyboard.press('Enter');
  await page.keyboard.press('/');
  await page.keyboard.type('noise');
  await expect(status).toContainText('churn Time');
  await page.keyboard.press('Tab');
  await expect(status).toContainText('position Time');
  await page.keyboard.press('Shift+Tab');
  await page.keyboard.press('Enter');
  // A mask makes no place to look a pattern up at.
  await page.keyboard.press('/');
  await page.keyboard.type('stripes');
  await expect(status).toContainText('Reads nothing yet.');
  await page.keyboard.press('Enter');
  const stripes = page.getByRole('row', { name: /^Stripes,/ });
  await stripes.getByRole('button', { name: 'read Noise' }).click();
  await page.getByRole('menuitem', { name: 'width' }).click();
  await expect(stripes.getByRole('button', { name: 'read Noise' })).toBeHidden();
  await saved(page);
  const strands = await strandsIn(app);
  expect(find(strands, 'Noise').inputs).toEqual({ churn: { from: find(strands, 'Time').id } });
  expect(find(strands, 'Stripes').inputs).toEqual({ width: { from: find(strands, 'Noise').id } });
});

test('a number in a closed row is typed where it stands; a press on a row that is not chosen only chooses it', async ({
  page,
  app,
}) => {
  for (const line of ['Rim = fresnel width .3', 'Line = contact .4']) {
    await page.keyboard.press('/');
    await page.keyboard.type(line);
    await page.keyboard.press('Enter');
  }
  const rim = page.getByRole('row', { name: /^Rim,/ });
  // Where the number will be typed: this press only chooses.
  await rim.getByText('0.3').click();
  await expect(rim).toBeFocused();
  await page.keyboard.press('Tab');
  await expect(page.getByLabel('Rim width')).toBeFocused();
  await page.keyboard.type('1/2');
  await page.keyboard.press('Enter');
  await expect(rim).toBeFocused();
  await saved(page);
  expect(find(await strandsIn(app), 'Rim').inputs).toEqual({ width: { value: 0.5 } });
});

test('kinds that do not go together are mended in their place; a wrap brings a number to 0..1 from what it can be', async ({
  page,
  app,
}) => {
  const strands: Strand[] = [
    { id: 'hue', name: 'Hue', op: 'palette', inputs: { in: { from: 'grain' } } },
    { id: 'gone', name: 'Gone', op: 'dissolve', inputs: { mask: { from: 'hue' } } },
  ];
  await app.store({
    ...effectOf([{ id: 'grain', name: 'Grain', op: 'noise' }, ...strands], { opacity: { from: 'gone' } }),
    ...{ id: BROKEN, name: 'Broken', shared: [] },
  });
  await openBench(page, app, BROKEN);
  const gone = page.getByRole('row', { name: /^Gone,/ });
  await expect(gone).toHaveAccessibleName(/Hue is a colour, the dissolve mask takes one number/);
  await gone.getByRole('button', { name: 'Hue by luminance' }).click();
  await expect(gone).not.toHaveAccessibleName(/error/);
  await page.getByRole('row', { name: /^Grain,/ }).focus();
  await page.keyboard.press('w');
  await page.getByRole('menuitem', { name: /^To 0/ }).click();
  await saved(page);
  const made = await strandsIn(app, BROKEN);
  expect(made.map((s) => s.name)).toEqual(['Grain', 'Grain 0..1', 'Hue', 'Hue luminance', 'Gone']);
  expect(find(made, 'Grain 0..1').inputs).toMatchObject({ fromLow: { value: -1 }, fromHigh: { value: 1 } });
  expect(find(made, 'Gone').inputs).toEqual({ mask: { from: find(made, 'Hue luminance').id } });
});
