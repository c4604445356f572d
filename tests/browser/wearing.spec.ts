/** Who wears what is asked before it is taken; a draft that cannot be read is kept; one edit draws the rows that changed. */
import type { Page } from '@playwright/test';
import type { Stage } from '../../src/core/scene/stage.js';
import { expect, openBench, saved, test, type Served, withoutPicture } from './app.js';

const KELP = { effect: '0190a000-0000-7000-8000-000000000005', stage: '0190a100-0000-7000-8000-000000000006' };
const TUBES = '0190a000-0000-7000-8000-000000000001';
const stageOf = (app: Served, id: string) => app.get<Stage>(`/api/stages/${id}`);
const wornOn = (stage: Stage) => stage.props.map((p) => [p.id, p.parts[0]?.effect ?? null] as const);

async function newEmpty(page: Page, app: Served): Promise<string> {
  await page.goto(app.url);
  await page.getByRole('button', { name: 'New empty' }).click();
  await expect(page.getByText('The sheet is empty')).toBeVisible();
  return page.url().split('/').pop()!;
}
const moveTo = async (page: Page, stage: string) => {
  const choice = page.getByRole('combobox', { name: /^Stage: / });
  if (!(await choice.isVisible())) await page.getByRole('button', { name: /^Stage settings:/ }).click();
  await choice.click();
  await page.getByRole('option', { name: stage, exact: true }).click();
};

test('a stage of another effect is copied or shared, as is said; what that effect wears is taken only when asked', async ({
  page,
  app,
}) => {
  await withoutPicture(page);
  const before = await stageOf(app, KELP.stage);
  const mine = await newEmpty(page, app);
  await moveTo(page, 'Kelp garden');
  const asks = page.getByRole('group', { name: 'A stage that others use' });
  await expect(asks).toContainText('Kelp garden is the stage of Kelp frond');
  await asks.getByRole('button', { name: 'Stay here' }).click();
  await expect(asks).toHaveCount(0);
  await saved(page);
  expect((await app.effect(mine)).home?.stage).not.toBe(KELP.stage);

  // A copy is one's own: dressing it asks for nothing, and takes nothing from anybody.
  const own = (await app.effect(mine)).home!.stage;
  await moveTo(page, 'Kelp garden');
  await asks.getByRole('button', { name: 'Use a copy' }).click();
  // The bench is opened anew on the copy: until it is, what is pressed is pressed on the old one.
  await expect(page.getByRole('button', { name: /^Stage settings:/ })).toContainText('Kelp garden, for Untitled effect');
  expect([own, KELP.stage]).not.toContain((await app.effect(mine)).home!.stage);
  expect(await stageOf(app, KELP.stage)).toEqual(before);

  // Shared: the fronds stay the frond's, until one is taken by somebody who has been asked.
  await moveTo(page, 'Kelp garden');
  await asks.getByRole('button', { name: 'Share it' }).click();
  await expect.poll(async () => (await app.effect(mine)).home?.stage).toBe(KELP.stage);
  await saved(page);
  const fronds = async () => wornOn(await stageOf(app, KELP.stage)).filter(([, effect]) => effect === KELP.effect).length;
  const worn = wornOn(before).filter(([, effect]) => effect === KELP.effect).length;
  expect(worn).toBeGreaterThan(2);
  expect(await fronds()).toBe(worn);

  await page.keyboard.press('Escape');
  const dress = async () => {
    await page.getByRole('button', { name: /^Props:/ }).click();
    await page.getByRole('combobox', { name: /^Frond 2 wears/ }).click();
    await page.getByRole('option', { name: 'Bare' }).click();
  };
  await dress();
  const question = page.getByTestId('question');
  await expect(question).toContainText('Frond 2 belongs to Kelp frond, which would lose it.');
  await question.getByRole('button', { name: 'Leave it' }).click();
  await expect(question).toHaveCount(0);
  await saved(page);
  expect(await fronds()).toBe(worn);
  await dress();
  await question.getByRole('button', { name: 'Take it' }).click();
  await expect.poll(fronds).toBe(worn - 1);
});

test('a draft that cannot be read is kept, said and given back as a file', async ({ page, app }) => {
  await withoutPicture(page);
  await openBench(page, app, TUBES);
  await saved(page);
  // As a version to come may have left it.
  await page.evaluate(
    (id) =>
      new Promise<void>((done, fail) => {
        const asked = indexedDB.open('wispen');
        asked.onerror = () => fail(new Error(String(asked.error)));
        asked.onsuccess = () => {
          const writing = asked.result.transaction('pending', 'readwrite');
          writing
            .objectStore('pending')
            .put({ base: 1, document: { format: 'wispen-effect', version: 9, id, kept: 'by hand' }, sent: null }, `effect:${id}`);
          writing.oncomplete = () => (asked.result.close(), done());
        };
      }),
    TUBES,
  );
  const server = await app.effect(TUBES);
  await openBench(page, app, TUBES);
  const aside = page.getByTestId('aside');
  await expect(aside).toContainText('A draft in this browser cannot be read');
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    aside.getByRole('button', { name: 'Save the draft as a file' }).click(),
  ]);
  const text = await (await download.createReadStream()).toArray();
  expect(JSON.parse(Buffer.concat(text as Buffer[]).toString())).toMatchObject({ version: 9, kept: 'by hand' });
  // It is there until it is let go, and then for good; the document is the server's all the while.
  await openBench(page, app, TUBES);
  await aside.getByRole('button', { name: 'Let the draft go' }).click();
  await expect(aside).toHaveCount(0);
  await openBench(page, app, TUBES);
  await expect(aside).toHaveCount(0);
  expect(await app.effect(TUBES)).toEqual(server);
});

test('one edit draws the rows that changed', async ({ page, app }) => {
  await openBench(page, app, TUBES);
  await page.getByRole('row', { name: /^Lit,/ }).click();
  await page.keyboard.press('Enter');
  const renders = () =>
    page.evaluate(() =>
      Object.fromEntries(
        [...document.querySelectorAll<HTMLElement>('[data-renders]')].map((r) => [r.dataset.strand!, Number(r.dataset.renders)]),
      ),
    );
  // Readings come when they come: two looks at the same.
  const still = async () => {
    let last = await renders();
    await expect
      .poll(
        async () => {
          const now = await renders();
          const same = JSON.stringify(now) === JSON.stringify(last);
          last = now;
          return same;
        },
        { intervals: [400] },
      )
      .toBe(true);
    return last;
  };
  const before = await still();
  expect(Object.keys(before).length).toBeGreaterThan(5);
  await page.getByRole('row', { name: /^Lit,/ }).focus();
  await page.keyboard.press('r');
  await page.keyboard.type('Alight');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('row', { name: /^Alight,/ })).toBeVisible();
  const after = await still();
  const changed = Object.keys(before).filter((id) => after[id] !== before[id]);
  // The row itself, and those that name it.
  const effect = await page.evaluate(() =>
    [...document.querySelectorAll<HTMLElement>('[data-strand]')]
      .filter((r) => r.textContent!.includes('Alight'))
      .map((r) => r.dataset.strand!),
  );
  expect(changed.filter((id) => !effect.includes(id))).toEqual([]);
  expect(changed.length).toBeLessThan(Object.keys(before).length / 2);
});
