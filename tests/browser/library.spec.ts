/** The Library: pictures that are still until they are pointed at; finding, sorting, renaming, copying, putting away. */
import { STARTER_NAMES } from '../fixtures/starters.js';
import { expect, test, withoutPicture } from './app.js';

const card = (page: Parameters<Parameters<typeof test>[2]>[0]['page'], name: string) =>
  page.getByRole('listitem').filter({ has: page.getByRole('link', { name, exact: true }) });
type Row = { name: string; archived: boolean; tags: string[] };

const OTHERS = STARTER_NAMES.filter((name) => name !== 'Beacon bulb');

test('pictures are drawn once by one renderer, move when pointed at or focused, and are still under reduced motion', async ({
  page,
  app,
}) => {
  // Of the stage that ships the pictures ship too, and are there at once; of another they are drawn.
  await page.goto(app.url);
  const strip = card(page, 'Beacon bulb').getByTestId('strip');
  await expect(strip).toHaveAttribute('style', /strip\?key=/);
  const [shipped, home] = [await strip.getAttribute('style'), (await app.effect('0190a000-0000-7000-8000-000000000002')).home!];
  const stage = await app.get<object>(`/api/stages/${home.stage}`);
  await fetch(`${app.url}/api/stages/${home.stage}`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json', 'If-Match': '"v1"' },
    body: JSON.stringify({ saveId: 'test-stage', document: { ...stage, name: 'Another walk' } }),
  });
  await page.reload();
  await expect(strip).not.toHaveAttribute('style', shipped!);
  await expect
    .poll(() => strip.evaluate((e) => (e as HTMLElement).style.backgroundImage), { timeout: 200_000 })
    .toContain('strip?key=');
  // The frames are 6 x 4 of 296 x 144, they show something, and they differ.
  const picture = await strip.evaluate(async (e) => {
    const image = new Image();
    image.src = /"(.*)"/.exec((e as HTMLElement).style.backgroundImage)![1]!;
    await image.decode();
    const canvas = document.createElement('canvas');
    Object.assign(canvas, { width: image.width, height: image.height });
    const context = canvas.getContext('2d')!;
    context.drawImage(image, 0, 0);
    const light = Array.from({ length: 24 }, (_, k) => {
      const { data } = context.getImageData((k % 6) * 296, Math.floor(k / 6) * 144, 296, 144);
      let total = 0;
      for (let j = 0; j < data.length; j += 4) total += data[j]! + data[j + 1]! + data[j + 2]!;
      return total / (296 * 144 * 3);
    });
    return { width: image.width, height: image.height, light };
  });
  expect([picture.width, picture.height]).toEqual([1776, 576]);
  expect(Math.max(...picture.light)).toBe(picture.light[0]);
  expect(picture.light[0]!).toBeGreaterThan(4);
  expect(Math.max(...picture.light) / Math.min(...picture.light)).toBeGreaterThan(1.2);
  const frame = () => strip.getAttribute('data-frame');
  expect(await frame()).toBe('0');
  await card(page, 'Beacon bulb').hover();
  await expect.poll(frame).not.toBe('0');
  await page.mouse.move(2, 790);
  await expect.poll(frame).toBe('0');
  await card(page, 'Beacon bulb').getByRole('link').focus();
  await expect.poll(frame).not.toBe('0');
  await page.emulateMedia({ reducedMotion: 'reduce' });
  await page.getByLabel('Search names, tags, strands').focus();
  await card(page, 'Beacon bulb').hover();
  await page.evaluate(() => new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r))));
  expect(await frame()).toBe('0');
  // Once drawn they are the server's: another visit draws nothing.
  await page.reload();
  await expect(strip).toHaveAttribute('style', /strip\?key=/);
});

test('search, tags, sort, rename, tags, duplicate, archive and restore', async ({ page, app }) => {
  await withoutPicture(page);
  await page.goto(app.url);
  const names = () =>
    page
      .getByRole('main')
      .getByRole('listitem')
      .getByRole('link')
      .evaluateAll((all) => all.map((a) => a.getAttribute('aria-label')));
  await expect.poll(async () => (await names()).sort()).toEqual(STARTER_NAMES);
  const rows = () => app.get<Row[]>('/api/effects');
  // F finds; a strand's name is found too.
  await page.keyboard.press('f');
  await page.keyboard.type('stutter');
  await expect.poll(names).toEqual(['Failing tube']);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: /^neon/ }).click();
  await expect.poll(names).toEqual(['Hatch sign']);
  // What is wanted is in the address: it survives a reload.
  await page.reload();
  await expect.poll(names).toEqual(['Hatch sign']);
  await page.getByRole('button', { name: /^All/ }).click();
  await page.getByRole('combobox', { name: /^Sort/ }).click();
  await page.getByRole('option', { name: 'Name' }).click();
  await expect.poll(names).toEqual(STARTER_NAMES);

  await card(page, 'Beacon bulb').hover();
  await page.getByRole('button', { name: 'More for Beacon bulb' }).click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page.getByLabel('Name of Beacon bulb').fill('Reef beacon');
  await page.keyboard.press('Enter');
  await expect.poll(names).toEqual([...OTHERS, 'Reef beacon'].sort());
  await card(page, 'Reef beacon').hover();
  await page.getByRole('button', { name: 'More for Reef beacon' }).click();
  await page.getByRole('menuitem', { name: 'Edit tags' }).click();
  await page.getByLabel(/^Tags of Reef beacon/).fill('Reef, light, reef');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await rows()).find((e) => e.name === 'Reef beacon')!.tags).toEqual(['reef', 'light']);
  await expect(page.getByRole('button', { name: /^reef/ })).toBeVisible();

  // A copy stands on a copy of the stage, and wears itself there.
  await card(page, 'Reef beacon').hover();
  await page.getByRole('button', { name: 'Duplicate Reef beacon', exact: true }).click();
  await expect.poll(names).toContain('Reef beacon copy');
  const list = await app.get<(Row & { id: string })[]>('/api/effects');
  const copy = await app.effect(list.find((e) => e.name === 'Reef beacon copy')!.id);
  const stage = await app.get<{ name: string; props: { parts: { effect: string }[] }[] }>(`/api/stages/${copy.home!.stage}`);
  expect(stage.name).toBe('Outer walk 2');
  const worn = new Set(stage.props.flatMap((p) => p.parts.map((part) => part.effect)));
  expect([...worn]).toEqual([copy.id]);

  await card(page, 'Reef beacon').hover();
  await page.getByRole('button', { name: 'Archive Reef beacon', exact: true }).click();
  await expect.poll(names).not.toContain('Reef beacon');
  await page.getByRole('button', { name: /^Archived/ }).click();
  await expect.poll(names).toEqual(['Reef beacon']);
  await card(page, 'Reef beacon').hover();
  await page.getByRole('button', { name: 'Restore Reef beacon' }).click();
  await page.getByRole('button', { name: /^Back to the Library/ }).click();
  await expect.poll(names).toEqual([...OTHERS, 'Reef beacon', 'Reef beacon copy'].sort());

  // A new one has a stage of its own too.
  await page.getByRole('button', { name: 'New empty' }).click();
  await expect(page.getByRole('treegrid')).toBeVisible();
  const [id] = /[0-9a-f-]{36}/.exec(page.url())!;
  const fresh = await app.effect(id);
  expect([fresh.name, fresh.strands.length]).toEqual(['Untitled effect', 0]);
  expect((await app.get<{ name: string }>(`/api/stages/${fresh.home!.stage}`)).name).toBe('Trial deck 2');
  // Which goes into the archive with it, and comes back with it.
  const stages = async () => (await app.get<{ name: string }[]>('/api/stages')).map((s) => s.name);
  expect(await stages()).toContain('Trial deck 2');
  await page.goto(app.url);
  await card(page, 'Untitled effect').hover();
  await page.getByRole('button', { name: 'Archive Untitled effect', exact: true }).click();
  await expect.poll(stages).not.toContain('Trial deck 2');
  await page.getByRole('button', { name: /^Archived/ }).click();
  await card(page, 'Untitled effect').hover();
  await page.getByRole('button', { name: 'Restore Untitled effect' }).click();
  await expect.poll(stages).toContain('Trial deck 2');
});

test('four in a row, with a scroll bar and without one', async ({ page, app }) => {
  const inFirstRow = async () => {
    const boxes = await page.locator('main li').evaluateAll((cards) => cards.map((c) => c.getBoundingClientRect().top));
    return boxes.filter((top) => top === boxes[0]).length;
  };
  await page.setViewportSize({ width: 1280, height: 1400 });
  await page.goto(app.url);
  await expect(page.locator('main li').nth(4)).toBeVisible();
  const scrolls = () => page.locator('main').evaluate((m) => m.scrollHeight > m.clientHeight);
  expect([await scrolls(), await inFirstRow()]).toEqual([false, 4]);
  await page.setViewportSize({ width: 1280, height: 600 });
  expect([await scrolls(), await inFirstRow()]).toEqual([true, 4]);
  // The bar takes room of its own, here too.
  expect(await page.locator('main').evaluate((m) => (m as HTMLElement).offsetWidth - m.clientWidth)).toBe(8);
});

test('several files are brought in at once, and those of one name are told apart; what is refused is said with its name', async ({
  page,
  app,
}) => {
  const text = JSON.stringify({
    ...{ format: 'wispen-effect', version: 1, id: '0190d000-0000-7000-8000-0000000000aa', name: 'Lantern', loop: 2 },
    strands: [{ id: 't', name: 'Time', op: 'time' }],
    outputs: { emission: { from: 't' } },
  });
  await withoutPicture(page);
  await page.goto(app.url);
  await expect(page.getByText(/^\d+ effects$/)).toBeVisible();
  const file = (name: string, content: string) => ({ name, mimeType: 'application/json', buffer: Buffer.from(content) });
  await page
    .getByLabel('Bundle or effect file')
    .setInputFiles([file('a.wispen.json', text), file('b.wispen.json', '{'), file('c.wispen.json', text)]);
  await expect(page.getByRole('alert')).toContainText('2 of 3 were brought in. b.wispen.json was not opened.');
  for (const name of ['Lantern', 'Lantern 2']) await expect(page.getByRole('link', { name, exact: true })).toBeVisible();
});
