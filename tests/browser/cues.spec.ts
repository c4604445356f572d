/** Cues by hand: keys set, moved, scaled, eased, copied; lanes and curves; what is recorded and what is held. */
import type { Locator, Page } from '@playwright/test';
import { restingBox, expect, openBench, pixelAt, saved, stageCanvas, test, type Served } from './app.js';
import { finds } from './axe.js';
import { crowding } from './boxes.js';
import { OPEN, effect, onwards, prop, seenAt, shown, stageWith } from './panes.js';

const TUBE = '0190a000-0000-7000-8000-000000000001';
test.use({ viewport: { width: 1280, height: 800 }, permissions: ['clipboard-read', 'clipboard-write'] });

const cueOf = async (app: Served) => {
  const { cues } = await app.effect(TUBE);
  return cues[0]?.keys.map((k) => [Number(k.time.toFixed(3)), k.value]) ?? [];
};
/** Goes to a time by a press on the ruler. The loop of the tube is 4 s. */
async function goTo(page: Page, time: number): Promise<void> {
  const box = await restingBox(page.getByTestId('ruler'));
  await page.mouse.click(box.x + (box.width * time) / 4, box.y + box.height / 2);
}
async function drag(page: Page, what: Locator, dx: number, dy = 0, key?: string): Promise<void> {
  const box = await restingBox(what);
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  if (key) await page.keyboard.down(key);
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + dx / 2, y + dy / 2);
  await page.mouse.move(x + dx, y + dy);
  await page.mouse.up();
  if (key) await page.keyboard.up(key);
}
const key = (page: Page, k: number) => page.getByRole('button', { name: new RegExp(`^Key ${k} of \\d+ of Glow`) }).first();
const type = async (page: Page, value: number) => {
  await page.getByLabel('Glow value', { exact: true }).fill(String(value));
  await page.keyboard.press('Enter');
};

test('a dial is keyed, recorded, held; keys are moved, scaled, eased, deleted, and undone', async ({ page, app }) => {
  await openBench(page, app, TUBE);
  const perSecond = (await restingBox(page.getByTestId('ruler'))).width / 4;
  const base = Number(await page.getByLabel('Glow value', { exact: true }).inputValue());
  await page.getByRole('button', { name: 'Key Glow here' }).click();
  await saved(page);
  expect(await cueOf(app)).toEqual([[0, base]]);
  // Held while nothing is recorded: a typed number changes nothing, and that is said.
  await goTo(page, 2);
  await type(page, 4);
  await expect(page.getByText(/A cue holds Glow: turn Record on/)).toBeVisible();
  await saved(page);
  expect(await cueOf(app)).toEqual([[0, base]]);
  await page.getByRole('switch', { name: 'Record' }).click();
  // What was asked for is done: it is asked for no more.
  await expect(page.getByTestId('notice')).toHaveCount(0);
  await type(page, 4);
  await goTo(page, 3);
  await type(page, 7.5);
  await saved(page);
  expect(await cueOf(app)).toEqual([
    [0, base],
    [2, 4],
    [3, 7.5],
  ]);
  const record = await app.effect(TUBE);
  expect(
    record.strands.find((s) => s.id === record.dials.find((d) => d.id === record.cues[0]!.dial)!.strand)!.inputs,
  ).not.toMatchObject({
    amount: { value: 7.5 },
  });
  // Dragged, a key stands on a whole frame.
  await drag(page, key(page, 3), perSecond * 0.51);
  await saved(page);
  const [, , third] = await cueOf(app);
  expect(third![1]).toBe(7.5);
  expect(Math.abs((third![0] as number) - 3.5)).toBeLessThan(0.034);
  expect(((third![0] as number) * 30) % 1).toBeCloseTo(0, 1);
  await page.keyboard.press('Control+z');
  await saved(page);
  expect((await cueOf(app))[2]).toEqual([3, 7.5]);
  // All of them within a drag around them, scaled about the first by Alt: twice as fast.
  const lane = page.getByRole('group', { name: 'Keys of Glow' }).first();
  const box = await restingBox(lane);
  await page.mouse.move(box.x + 0.2 * perSecond, box.y + 3);
  await page.mouse.down();
  await page.mouse.move(box.x + 3.6 * perSecond, box.y + 20);
  await page.mouse.up();
  await expect(key(page, 2)).toHaveAttribute('aria-pressed', 'true');
  await expect(key(page, 3)).toHaveAttribute('aria-pressed', 'true');
  await drag(page, key(page, 3), -perSecond * 0.5, 0, 'Alt');
  await saved(page);
  expect((await cueOf(app)).map(([t]) => t)).toEqual([0, 2, 2.5]);
  await page.keyboard.press('Control+z');
  // An easing by name, and as CSS writes it.
  await key(page, 2).click();
  await page.getByRole('button', { name: /^Easing of Glow/ }).click();
  await page.getByRole('button', { name: 'hold', exact: true }).click();
  await page.getByLabel('Glow easing as CSS').fill('cubic-bezier(.55, 0, .2, 1)');
  await page.keyboard.press('Enter');
  await page.getByLabel('Glow out x').focus();
  expect(await crowding(page)).toEqual([]);
  expect(await finds(page)).toEqual([]);
  await page.keyboard.press('Escape');
  await saved(page);
  expect((await app.effect(TUBE)).cues[0]!.keys.map((k) => k.ease)).toEqual(['smooth', [0.55, 0, 0.2, 1], 'smooth']);
  // Keys that undo has taken are chosen no more: one more is chosen beside those that are left.
  await goTo(page, 1);
  await type(page, 5);
  await expect(key(page, 2)).toHaveAttribute('aria-pressed', 'true');
  await key(page, 4).click({ modifiers: ['Shift'] });
  await page.keyboard.press('Control+z');
  await key(page, 1).click({ modifiers: ['Shift'] });
  await expect(key(page, 1)).toHaveAttribute('aria-pressed', 'true');
  await key(page, 2).click();
  // Steps from key to key.
  await goTo(page, 3);
  await page.getByRole('button', { name: 'Previous key of Glow' }).click();
  await expect(page.getByTestId('clock')).toHaveText('00:02.00');
  await key(page, 2).focus();
  await page.keyboard.press('Delete');
  await saved(page);
  expect(await cueOf(app)).toEqual([
    [0, base],
    [3, 7.5],
  ]);
});

test('the open curve: keys in both directions, numbers, beyond the keys, text out and in; nothing crowded', async ({
  page,
  app,
}) => {
  await openBench(page, app, TUBE);
  await page.getByRole('button', { name: 'Key Glow here' }).click();
  await page.getByRole('button', { name: 'Curve of Glow' }).click();
  await page.getByRole('switch', { name: 'Record' }).click();
  await goTo(page, 2);
  await type(page, 20);
  const curve = page.locator('[data-curve]');
  await expect(curve).toBeVisible();
  expect(await crowding(page)).toEqual([]);
  expect(await finds(page)).toEqual([]);
  await curve.getByLabel('Glow key value').fill('30');
  await page.keyboard.press('Enter');
  await page.getByRole('combobox', { name: /^Glow, after its keys/ }).click();
  await page.getByRole('option', { name: 'mirror' }).click();
  await saved(page);
  expect((await app.effect(TUBE)).cues[0]).toMatchObject({ after: 'mirror', keys: [{ time: 0 }, { time: 2, value: 30 }] });
  // Raised by a drag in the curve alone.
  await drag(page, curve.getByRole('button', { name: /^Key 2 of 2/ }), 0, 20);
  await saved(page);
  const [, second] = await cueOf(app);
  expect(second![0]).toBe(2);
  expect(second![1]).toBeLessThan(28);
  // As text, and back at another time; what is no such text is said.
  await page.getByRole('button', { name: 'Copy keys of Glow' }).click();
  const text = await page.evaluate(() => navigator.clipboard.readText());
  expect(text).toMatch(/^time,value,ease\n2,[\d.]+,ease-in-out\n$/);
  await goTo(page, 3);
  await page.getByRole('button', { name: 'Paste keys into Glow' }).click();
  await expect(page.getByTestId('question')).toContainText('Glow has 2 keys already; 1 key would come.');
  await page.getByRole('button', { name: 'Add them' }).click();
  await expect.poll(async () => (await cueOf(app)).map(([t]) => t)).toEqual([0, 2, 3]);
  await page.evaluate(() => navigator.clipboard.writeText('nothing of the kind'));
  await page.getByRole('button', { name: 'Paste keys into Glow' }).click();
  await expect(page.getByText(/The first line has to name time, value, ease/)).toBeVisible();
  await page
    .getByLabel('Keys for Glow')
    .setInputFiles({ name: 'glow.csv', mimeType: 'text/csv', buffer: Buffer.from('time,value\n0.5,3\n1,4\n') });
  await page.getByRole('button', { name: 'Leave it' }).click();
  expect((await cueOf(app)).map(([t]) => t)).toEqual([0, 2, 3]);
  const bring = () =>
    page
      .getByLabel('Keys for Glow')
      .setInputFiles({ name: 'glow.csv', mimeType: 'text/csv', buffer: Buffer.from('time,value\n0.5,3\n1,4\n') });
  await bring();
  await page.getByRole('button', { name: 'Add them' }).click();
  await expect.poll(async () => (await cueOf(app)).map(([t]) => t)).toEqual([0, 0.5, 1, 2, 3]);
  await bring();
  await page.getByRole('button', { name: 'Replace all' }).click();
  await expect.poll(async () => (await cueOf(app)).map(([t]) => t)).toEqual([0.5, 1]);
  // Home and End go to the loop's first frame and its last.
  await page.getByRole('slider', { name: 'Time' }).focus();
  await page.keyboard.press('End');
  await expect(page.getByTestId('clock')).toHaveText('00:03.96');
  await page.keyboard.press('Home');
  await expect(page.getByTestId('clock')).toHaveText('00:00.00');
});

test('the picture follows: dark at a key of 0, bright at another, the same where the loop closes', async ({ page, app }) => {
  await openBench(page, app, TUBE);
  const bright = async () => {
    const [width, height] = await stageCanvas(page).evaluate((c: HTMLCanvasElement) => [c.width, c.height]);
    let most = 0;
    // Along the tubes, which go to the right and a little down.
    for (const y of [0.31, 0.34, 0.37, 0.4])
      for (let k = 1; k < 14; k++) most = Math.max(most, ...(await pixelAt(page, (width! * k) / 20, height! * y)));
    return most;
  };
  const links = await page.getByTestId('links').textContent();
  await page.getByRole('button', { name: 'Key Glow here' }).click();
  await page.getByRole('switch', { name: 'Record' }).click();
  await type(page, 0);
  await goTo(page, 2);
  await type(page, 20);
  await expect.poll(bright).toBeGreaterThan(200);
  await goTo(page, 0);
  await expect.poll(bright).toBeLessThan(120);
  await page.getByRole('button', { name: 'Curve of Glow' }).click();
  await page.getByRole('combobox', { name: /^Glow, after its keys/ }).click();
  await page.getByRole('option', { name: 'mirror' }).click();
  // To and fro: at the loop's end it is as at its beginning, and a quarter on as three quarters.
  await saved(page);
  const now = page.getByTestId('cue-now');
  await goTo(page, 1);
  const quarter = await now.textContent();
  await goTo(page, 3);
  await expect(now).toHaveText(quarter!);
  // Nothing of this makes another program but the first key, which is read where a number stood.
  expect(Number(await page.getByTestId('links').textContent()) - Number(links)).toBeLessThanOrEqual(2);
});

test('numbers, vectors, colours and stops of a ramp are keyed; of many lanes four are seen, and an opened curve whole', async ({
  page,
  app,
}) => {
  await openBench(page, app, TUBE);
  const add = async (line: string, name: string) => {
    await page
      .locator('[data-strand]')
      .last()
      .click({ position: { x: 100, y: 14 } });
    await page.keyboard.press('/');
    await page.keyboard.type(line);
    await page.keyboard.press('Control+Enter');
    await expect(page.getByRole('row', { name: new RegExp(`^${name},`) }).locator('[data-opened]')).toBeVisible();
  };
  const mark = (name: string) =>
    page
      .getByRole('button', { name: `Key ${name} here` })
      .first()
      .click();
  await add('Slide = scroll .1 .2', 'Slide');
  await mark('Slide speed');
  await page.getByRole('switch', { name: 'Record' }).click();
  await goTo(page, 1);
  await page.getByLabel('Slide speed x').first().fill('0.9');
  await page.keyboard.press('Enter');
  await add('Fire = ramp', 'Fire');
  await mark('Fire stops.1.place');
  await mark('Fire stops.0.colour');
  await add('Pull = wave', 'Pull');
  for (const input of ['rate', 'low', 'high']) await mark(`Pull ${input}`);
  await page.getByRole('button', { name: 'Key Gas hue here' }).click();
  await saved(page);
  const { cues } = await app.effect(TUBE);
  expect(cues).toHaveLength(7);
  expect(cues.map((c) => c.keys.length)).toEqual([2, 1, 1, 1, 1, 1, 1]);
  expect(cues[0]!.keys[1]!.value).toEqual([0.9, 0.2]);
  // A key sets no curve in the way of the picture; its lanes are four high.
  const lanes = (await page.locator('[data-lane]').all()).length;
  expect(lanes).toBe(7);
  const list = page.getByRole('list', { name: 'Cues' }).locator('..');
  expect((await restingBox(list)).height).toBeLessThanOrEqual(4 * 28);
  await page.locator('[data-lane]').last().scrollIntoViewIfNeeded();
  await page
    .locator('[data-lane]')
    .last()
    .getByRole('button', { name: /^Curve of/ })
    .click();
  await expect(page.locator('[data-curve]')).toBeInViewport({ ratio: 1 });
  // Half way between two keys the field has room for what it says.
  await goTo(page, 0.4);
  expect(await crowding(page)).toEqual([]);
  // The others beside it, told by their names.
  await page.getByRole('button', { name: 'The curves of the other cues' }).click();
  await expect(page.locator('[data-curve] [data-other]')).toHaveCount(6);
  await expect(page.locator('[data-curve]')).toContainText('Slide speed');
  expect(await crowding(page)).toEqual([]);
});

test('an option is keyed by its mark: its word holds until the next key, in the picture, the lane and the file', async ({
  page,
  app,
}) => {
  onwards(790);
  const id = await effect(
    app,
    [
      { id: 'm', name: 'Moment', op: 'number', inputs: { in: { value: 0.125 } } },
      { id: 'w', name: 'Swing', op: 'wave', inputs: { time: { from: 'm' }, low: { value: 0 }, high: { value: 1 } } },
    ],
    { emission: { from: 'w' } },
  );
  const stage = await stageWith(app, [prop('a', { primitive: 'plane', size: [3, 2] }, [0, 0, 0], id)], [0, 0, 4.5], false);
  await openBench(page, app, id, OPEN);
  const seen = async () => Math.round((await seenAt(page, stage, [0.2, 0.1, 0]))[0] / 4);
  // An eighth of a sine's turn between 0 and 1; a square is up there.
  const [sine, square] = [Math.round(shown(0.5 + 0.5 * Math.SQRT1_2) / 4), Math.round(255 / 4)];
  await page
    .locator('[data-strand]')
    .nth(1)
    .click({ position: { x: 100, y: 14 } });
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Key Swing shape here' }).click();
  await expect(page.locator('[data-lane]')).toContainText('sine');
  await page.getByRole('switch', { name: 'Record' }).click();
  await goTo(page, 2);
  const dial = page.locator('[data-dial]').getByRole('combobox', { name: /^Swing shape/ });
  await dial.click();
  await page.getByRole('option', { name: 'square' }).click();
  await expect(page.locator('[data-lane]')).toContainText('square');
  await expect.poll(seen).toBe(square);
  await goTo(page, 1);
  await expect.poll(seen).toBe(sine);
  await expect(dial).toContainText('sine');
  await goTo(page, 3);
  await expect.poll(seen).toBe(square);
  await saved(page);
  const { cues, dials } = await app.effect(id);
  expect(cues).toHaveLength(1);
  expect(cues[0]!.dial).toBe(dials[0]!.id);
  expect(cues[0]!.keys.map((k) => [Number(k.time.toFixed(1)), k.value, k.ease])).toEqual([
    [0, { text: 'sine' }, 'step'],
    [2, { text: 'square' }, 'step'],
  ]);
  // Another word for a key, where its curve is open; out and in as text.
  await page.getByRole('button', { name: /^Curve of Swing shape/ }).click();
  await page
    .getByRole('button', { name: /^Key 2 of 2 of Swing shape/ })
    .first()
    .click();
  await page.getByRole('combobox', { name: 'Swing shape key' }).click();
  await page.getByRole('option', { name: 'triangle' }).click();
  await saved(page);
  expect((await app.effect(id)).cues[0]!.keys[1]!.value).toEqual({ text: 'triangle' });
  expect(await crowding(page)).toEqual([]);
  expect(await finds(page)).toEqual([]);
});
