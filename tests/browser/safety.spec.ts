/** Nothing typed is lost: a server killed again and again, two tabs, a browser that keeps nothing, undo across a reload. */
import type { Page } from '@playwright/test';
import { emptyEffect, type Effect } from '../../src/core/effect/schema.js';
import { expect, links, openBench, saved, test, withoutPicture } from './app.js';

const ID = '0190c100-0000-7000-8000-00000000000';
const lamp = (n: number): Effect => ({
  ...emptyEffect(`${ID}${n}`, 'Trial lamp'),
  home: { stage: '0190a100-0000-7000-8000-000000000001', prop: 'tube-1', viewpoint: 'hatch' },
  strands: [
    { id: 'level', name: 'Level', op: 'number', inputs: { in: { value: 0 } } },
    { id: 'tint', name: 'Tint', op: 'multiply', inputs: { a: { from: 'level' }, b: { value: 2 } } },
  ],
  outputs: { emission: { from: 'tint' } },
});
const levelOf = (effect: Effect): number => (effect.strands[0]!.inputs as { in: { value: number } }).in.value;
const field = (page: Page) => page.getByLabel('Level in value');
const mark = (page: Page) => page.getByTestId('saved');

async function openRow(page: Page): Promise<void> {
  await page.getByRole('row', { name: /^Level,/ }).click();
  await page.keyboard.press('Enter');
  await expect(field(page)).toBeVisible();
}
async function type(page: Page, value: number): Promise<void> {
  await field(page).fill(String(value));
  await field(page).press('Enter');
}

const KILLS = process.env.WISPEN_DEEP === undefined ? 6 : 50;

test(`killed ${KILLS} times while typing, the server loses no confirmed edit, and never takes a lost reply for a conflict`, async ({
  page,
  own,
}) => {
  await withoutPicture(page);
  test.setTimeout(1_200_000);
  await own.store(lamp(1));
  await openBench(page, own, `${ID}1`);
  await openRow(page);
  let confirmed = 0;
  page.on('response', (response) => {
    if (response.request().method() !== 'PUT' || !response.url().includes(`${ID}1`) || !response.ok()) return;
    const { document } = response.request().postDataJSON() as { document: Effect };
    confirmed = Math.max(confirmed, levelOf(document));
  });
  const isSave = (what: { url(): string; method(): string }) => what.method() === 'PUT' && what.url().includes(`${ID}1`);
  for (let k = 1; k <= KILLS; k++) {
    // Before the save is sent, while it is under way, or just after it is answered, by turns; typing goes on across the kill.
    const moment = k % 3;
    const until =
      moment === 0
        ? Promise.resolve()
        : moment === 1
          ? page.waitForRequest(isSave)
          : page.waitForResponse((response) => isSave(response.request()));
    await type(page, 2 * k - 1);
    await until;
    const safe = confirmed;
    await own.kill();
    await type(page, 2 * k);
    await own.start();
    expect(levelOf(await own.effect(`${ID}1`))).toBeGreaterThanOrEqual(safe);
    expect(await mark(page).getAttribute('data-state')).not.toBe('conflict');
  }
  await saved(page);
  expect(levelOf(await own.effect(`${ID}1`))).toBe(2 * KILLS);
  expect(await field(page).inputValue()).toBe(String(2 * KILLS));
});

test.describe('with the application kept in the browser', () => {
  test.use({ serviceWorkers: 'allow' });
  test('a stopped server is said plainly and work goes on; what was typed survives the page too', async ({ page, own }) => {
    await own.store(lamp(2));
    await openBench(page, own, `${ID}2`);
    await page.evaluate(() => navigator.serviceWorker.ready.then(() => undefined));
    await openRow(page);
    await own.kill();
    // Said without anything having been typed.
    await expect(mark(page)).toHaveAttribute('data-state', 'unreachable');
    await expect(mark(page)).toContainText('The server does not answer.');
    await type(page, 0.7);
    await expect(mark(page)).toContainText('Not saved: the server does not answer.');
    await expect(mark(page)).toContainText('Kept in this browser');
    await type(page, 0.8);
    // Until it is kept, the browser asks before it leaves the page.
    const asks = () =>
      page.evaluate(() => {
        const leave = new Event('beforeunload', { cancelable: true });
        window.dispatchEvent(leave);
        return leave.defaultPrevented;
      });
    await expect.poll(asks).toBe(false);
    // The page is loaded anew with the server still down: it opens, with what was typed, and goes on.
    await page.reload();
    await openRow(page);
    await expect(field(page)).toHaveValue('0.8');
    await expect(mark(page)).toContainText('does not answer');
    await type(page, 0.9);
    await own.start();
    await saved(page);
    await expect.poll(async () => levelOf(await own.effect(`${ID}2`))).toBe(0.9);
  });
});

test('a second tab follows what the first does; Edit here hands over, with the undo; closing hands back', async ({
  page,
  app,
  context,
}) => {
  await app.store(lamp(3));
  await openBench(page, app, `${ID}3`);
  await openRow(page);
  await type(page, 1);
  const second = await context.newPage();
  await openBench(second, app, `${ID}3`);
  await expect(mark(second)).toHaveAttribute('data-state', 'following');
  await expect(mark(second)).toContainText('Open in another tab; this one follows.');
  const shown = (tab: Page, value: string) => expect(tab.getByRole('row', { name: /^Level,/ })).toContainText(value);
  await shown(second, '1');
  await type(page, 7);
  await shown(second, '7');
  // What follows cannot be changed by mistake.
  await second.keyboard.press('Control+z');
  await shown(second, '7');
  await second.getByRole('button', { name: 'Edit here' }).click();
  await expect(mark(page)).toHaveAttribute('data-state', 'following');
  await saved(second);
  await openRow(second);
  await type(second, 9);
  await shown(page, '9');
  await second.getByRole('button', { name: /^Undo/ }).click();
  await second.getByRole('button', { name: /^Undo/ }).click();
  await shown(second, '1');
  await shown(page, '1');
  await saved(second);
  expect(levelOf(await app.effect(`${ID}3`))).toBe(1);
  await second.close();
  await saved(page);
  await expect(page.getByRole('button', { name: 'Edit here' })).toBeHidden();
});

test('a browser that refuses to keep anything: saving works, and what is at stake is said', async ({ page, own }) => {
  await withoutPicture(page);
  await page.addInitScript(() =>
    Object.defineProperty(window, 'indexedDB', {
      get() {
        throw new DOMException('denied', 'SecurityError');
      },
    }),
  );
  await own.store(lamp(4));
  await openBench(page, own, `${ID}4`);
  await openRow(page);
  await type(page, 0.3);
  await saved(page);
  expect(levelOf(await own.effect(`${ID}4`))).toBe(0.3);
  await own.kill();
  await type(page, 0.4);
  await expect(mark(page)).toContainText('leave this tab open');
  await own.start();
  await saved(page);
  expect(levelOf(await own.effect(`${ID}4`))).toBe(0.4);
});

test('undo outlives the page; after somebody else’s save it is dropped, and that is said', async ({ page, app }) => {
  await app.store(lamp(5));
  await openBench(page, app, `${ID}5`);
  await openRow(page);
  await type(page, 0.3);
  await type(page, 0.6);
  await saved(page);
  await page.reload();
  await expect.poll(() => links(page)).toBe(1);
  const undo = page.getByRole('button', { name: /^Undo/ });
  await undo.click();
  await undo.click();
  await expect(undo).toBeDisabled();
  await saved(page);
  await expect.poll(async () => levelOf(await app.effect(`${ID}5`))).toBe(0);
  await page.getByRole('button', { name: /^Redo/ }).click();
  await saved(page);
  await expect.poll(async () => levelOf(await app.effect(`${ID}5`))).toBe(0.3);
  const head = await fetch(`${app.url}/api/effects/${ID}5`);
  const theirs = await fetch(`${app.url}/api/effects/${ID}5`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json', 'If-Match': head.headers.get('etag')! },
    body: JSON.stringify({ saveId: 'somebody-else', document: { ...(await head.json()), name: 'Theirs' } }),
  });
  expect(theirs.status).toBe(200);
  await page.reload();
  await expect(page.getByTestId('notice')).toContainText('Undo begins here');
  await expect(page.getByRole('button', { name: 'Undo', exact: true })).toBeDisabled();
});
