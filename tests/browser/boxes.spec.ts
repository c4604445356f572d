/** On every screen, panel and popover, at 1280 by 800: no text is cut, and nothing lies on anything else. */
import type { Locator, Page } from '@playwright/test';
import type { Strand } from '../../src/core/effect/schema.js';
import { OPERATORS } from '../../src/core/operators/catalogue.js';
import { STARTERS, starter } from '../fixtures/starters.js';
import { DEEP, expect, openBench, test, withoutPicture } from './app.js';
import { crowding } from './boxes.js';
import { effect } from './panes.js';

test.use({ viewport: { width: 1280, height: 800 } });

const [TUBE, DOME] = ['01', '04'].map((k) => `0190a000-0000-7000-8000-0000000000${k}`) as [string, string];
const ALL = STARTERS.map((name) => `0190a000-0000-7000-8000-${starter(name).id.slice(-12)}`);
/** Few rows and many, words and numbers in them. */
const WALKED = DEEP ? ALL : ['01', '04', '0f', '10'].map((k) => `0190a000-0000-7000-8000-0000000000${k}`);

async function uncrowded(page: Page, what: string): Promise<void> {
  // What has just come may still be moving to its place.
  await expect.poll(async () => [what, await crowding(page)]).toEqual([what, []]);
}

/** Opens something, looks, and closes it by Escape. */
async function over(page: Page, what: string, opener: Locator, opened: Locator): Promise<void> {
  await opener.click();
  await expect(opened.first()).toBeVisible();
  await uncrowded(page, what);
  await page.keyboard.press('Escape');
  await expect(opened).toHaveCount(0);
}

test('the measure itself: it finds a cut text, a text on another, a control on another', async ({ page }) => {
  await page.setContent(`<main>
    <p style="position:absolute;top:10px;left:10px;width:40px;overflow:hidden;white-space:nowrap">Displacement of all</p>
    <p style="position:absolute;top:60px;left:10px">peak</p><p style="position:absolute;top:64px;left:14px">threshold</p>
    <button style="position:absolute;top:110px;left:10px">One</button><button style="position:absolute;top:114px;left:20px">Two</button>
    <svg class="lucide" style="position:absolute;top:260px;left:10px" width="14" height="14"><rect width="14" height="14" /></svg>
    <p style="position:absolute;top:254px;left:10px;margin:0">bypassed</p>
    <p style="position:absolute;top:160px;left:1260px;white-space:nowrap">out of the window</p>
    <div style="position:absolute;top:210px;left:10px;width:90px;height:30px;overflow:auto"><p style="margin:0">a list that<br />scrolls</p></div></main>`);
  const found = await crowding(page);
  expect(found).toContain('cut: “Displacement of all”');
  expect(found).toContain('text on text: “peak” and “threshold”');
  expect(found.some((f) => f.startsWith('control on control: “One” and “Two”'))).toBe(true);
  expect(found).toContain('icon on text: “lucide” and “bypassed”');
  expect(found).toContain('cut: “out of the window”');
  expect(found.filter((f) => f.includes('scrolls'))).toEqual([]);
});

test('faces that come late: rows are laid out again for the widths that texts have by then', async ({ page, app }) => {
  await withoutPicture(page);
  let later: (() => void) | null = null;
  const held = new Promise<void>((resolve) => (later = resolve));
  await page.route('**/*.woff2', async (route) => {
    await held;
    await route.continue();
  });
  // The page is there before its faces are.
  await page.goto(`${app.url}/effects/${TUBE}?clock=frozen`, { waitUntil: 'commit' });
  const ranges = page.getByTestId('range');
  await expect.poll(() => ranges.evaluateAll((all) => all.length > 0 && all.every((e) => e.textContent !== ''))).toBe(true);
  // Measured with another face: nothing but the faces themselves will have the rows drawn again.
  expect(await crowding(page)).not.toEqual([]);
  later!();
  await page.evaluate(() => document.fonts.ready.then(() => undefined));
  await uncrowded(page, 'faces came late');
});

test('each starter: its rows, and every panel of the deck', async ({ page, app }) => {
  for (const id of WALKED) {
    await openBench(page, app, id);
    await uncrowded(page, `${id}, rows`);
    const first = page.locator('[data-strand]').first();
    await first.click({ position: { x: 100, y: 14 } });
    // Many rows bypassed, and one peeked at: what says so stands beside their ranges.
    await page
      .locator('[data-strand]')
      .last()
      .click({ position: { x: 100, y: 14 }, modifiers: ['Shift'] });
    await page.keyboard.press('b');
    await uncrowded(page, `${id}, bypassed`);
    await page.keyboard.press('Control+z');
    await page.locator('[data-strand]').nth(4).hover();
    await page
      .locator('[data-strand]')
      .nth(4)
      .getByRole('button', { name: /^Peek at/ })
      .click();
    await uncrowded(page, `${id}, peeked at`);
    await page.keyboard.press('Escape');
    await expect(page.getByTestId('peek-legend')).toHaveCount(0);
    for (const name of ['Pulse', 'Cost', 'Advice', 'Dials']) {
      await page.getByRole('tab', { name }).click();
      await expect(page.getByRole('tabpanel', { name })).toBeVisible();
      await uncrowded(page, `${id}, ${name}`);
    }
  }
  // And where there is less room.
  await page.setViewportSize({ width: 1024, height: 700 });
  await uncrowded(page, 'at 1024 by 700');
  await page.locator('[data-strand]').nth(4).hover();
  await page
    .locator('[data-strand]')
    .nth(4)
    .getByRole('button', { name: /^Peek at/ })
    .click();
  await uncrowded(page, 'peeked at, at 1024 by 700');
});

test('the row of every operator, closed and opened', async ({ page, app }) => {
  await withoutPicture(page);
  const strands: Strand[] = OPERATORS.map(({ id: op }, k) => ({ id: `s${k}`, name: `Strand ${k}`, op }));
  const id = await effect(app, strands, {});
  await openBench(page, app, id);
  const grid = page.getByRole('treegrid');
  await grid.locator('[data-strand=s0]').click({ position: { x: 100, y: 14 } });
  for (const { id: strand, op } of strands) {
    const row = grid.locator(`[data-strand=${strand}]`);
    await expect(row).toBeFocused();
    await page.keyboard.press('Enter');
    await expect(row.locator('[data-opened]')).toBeVisible();
    await uncrowded(page, op);
    await page.keyboard.press('Enter');
    await page.keyboard.press('ArrowDown');
  }
});

test('what opens over the bench', async ({ page, app }) => {
  await openBench(page, app, DOME);
  await page.locator('[data-strand=cover]').click({ position: { x: 100, y: 14 } });
  const dialog = page.getByRole('dialog');
  const menu = page.getByRole('menu');
  const chips = await page.locator('button.stage-chip[aria-haspopup=dialog]').all();
  expect(chips.length).toBeGreaterThanOrEqual(3);
  for (const chip of chips) await over(page, (await chip.getAttribute('aria-label')) ?? 'a chip of the stage', chip, dialog);
  await over(page, 'viewpoints', page.getByRole('button', { name: /^Viewpoint/ }), menu);
  await over(page, 'variants', page.getByRole('button', { name: /^Variant/ }), menu);
  await over(page, 'keys', page.getByRole('button', { name: 'Keys' }), dialog);
  await over(page, 'a dial', page.getByRole('button', { name: 'Settings of Line offset' }), dialog);
  await over(page, 'finish', page.getByRole('button', { name: 'More of the finish' }), dialog);
  await over(page, 'history', page.getByRole('button', { name: 'History', exact: true }), dialog);
  await over(page, 'palette', page.getByRole('button', { name: 'Do something by its name' }), dialog);
  await over(page, 'actions of a row', page.getByRole('button', { name: 'Cover: actions; drag to move' }), menu);
  await over(page, 'an output', page.locator('[data-output=emission] button[aria-haspopup=menu]'), menu);
  await page.getByRole('button', { name: /more$/ }).click();
  await uncrowded(page, 'all outputs');
  await page.getByRole('button', { name: 'fewer' }).click();
  const picker = page.getByRole('dialog', { name: 'Add a strand' });
  await over(page, 'picker', page.getByRole('button', { name: /^Add/ }).first(), picker);
  await page.locator('[data-strand=linecut]').click({ position: { x: 100, y: 14 } });
  await page.keyboard.press('/');
  await expect(picker).toBeVisible();
  await page.keyboard.type('Edges = max Rim cut, Line cut, and then a line far longer than the field');
  await uncrowded(page, 'picker with a long line');
  await page.keyboard.press('Escape');
  for (const [key, name] of [
    ['h', 'help'],
    ['w', 'wraps'],
    ['f', 'feeding'],
  ] as const) {
    await page.keyboard.press(key);
    await expect(name === 'help' ? dialog : menu).toBeVisible();
    await uncrowded(page, name);
    await page.keyboard.press('Escape');
    await expect(name === 'help' ? dialog : menu).toBeHidden();
  }
  await page.getByRole('button', { name: 'Handles' }).click();
  await uncrowded(page, 'handles');
});

test('other screens: library, menus of a card, Overview, guide, export, nowhere', async ({ page, app }) => {
  await page.goto(app.url);
  await expect(page.getByRole('link', { name: /Failing tube/ }).first()).toBeVisible();
  await uncrowded(page, 'library');
  await over(page, 'a card', page.getByRole('button', { name: 'More for Failing tube' }), page.getByRole('menu'));
  await page.goto(`${app.url}/effects/${DOME}?clock=frozen&quality=draft&reading=overview`);
  await expect(page.getByRole('region', { name: 'Overview' })).toBeVisible();
  await uncrowded(page, 'Overview');
  await openBench(page, app, TUBE, '?clock=frozen&quality=draft&guide=1');
  await expect(page.getByRole('region', { name: 'Guided start' })).toBeVisible();
  await uncrowded(page, 'guide');
  await page.goto(`${app.url}/effects/${TUBE}/export?clock=frozen&quality=draft`);
  await expect(page.getByRole('dialog')).toBeVisible();
  await uncrowded(page, 'export');
  await page.goto(`${app.url}/nowhere`);
  await expect(page.getByRole('main')).toBeVisible();
  await uncrowded(page, 'an address that leads nowhere');
});

/** WCAG 2.2, 1.4.4 and 1.4.10: 1280 by 800 at 200 %, and 320 CSS pixels wide. Sheet, time and Overview are read in two directions. */
const DOCK = '0190a100-0000-7000-8000-000000000002';
const LITTLE = [
  { width: 640, height: 400 },
  { width: 320, height: 640 },
];
/** What goes beyond the window's edge, where it cannot be scrolled to within a part that is read in two directions. */
const beyond = (page: Page): Promise<string[]> =>
  page.evaluate(() =>
    [
      ...document.querySelectorAll<HTMLElement>('button, a[href], input, h1, h2, [role=slider], [role=tab], [role=switch]'),
    ].flatMap((e) => {
      const box = e.getBoundingClientRect();
      const out = box.width > 0 && (box.right > innerWidth + 1 || box.left < -1);
      const mayScroll = e.closest('[aria-label=Sheet], [aria-label=Time], [aria-label=Overview], .sr-only') !== null;
      return out && !mayScroll && e.checkVisibility() ? [e.ariaLabel ?? e.textContent] : [];
    }),
  );

for (const size of LITTLE)
  test(`with little room, ${size.width} by ${size.height}: nothing is cut, all is reached by scrolling, dials turn beside the picture`, async ({
    page,
    app,
  }) => {
    await page.setViewportSize(size);
    for (const [name, path] of [
      ['library', '/'],
      ['stages', '/stages'],
      ['stage', `/stages/${DOCK}?clock=frozen&quality=draft`],
      ['bench', `/effects/${TUBE}?clock=frozen&quality=draft`],
    ] as const) {
      await page.goto(app.url + path);
      await expect(page.getByRole('link').first()).toBeVisible();
      await expect.poll(() => page.evaluate(() => document.documentElement.scrollWidth <= innerWidth)).toBe(true);
      if (name === 'bench') await expect(page.locator('[data-strand]').first()).toBeAttached();
      // Handles stand where their prop is in the picture, however small that is.
      if (name === 'stage') await page.getByRole('button', { name: 'Handles' }).click();
      await expect.poll(async () => [name, await beyond(page)]).toEqual([name, []]);
      await uncrowded(page, `${name} at ${size.width}`);
    }
    // On the Bench the picture stays while the dials are turned, and each part is reached.
    const stage = page.getByLabel('Stage', { exact: true });
    for (const name of ['Export', 'Undo'])
      await expect(page.getByLabel(name).or(page.getByRole('link', { name })).first()).toBeInViewport();
    for (const part of ['Deck', 'Time', 'Sheet']) {
      await page.getByRole('region', { name: part, exact: true }).scrollIntoViewIfNeeded();
      await expect(page.getByRole('region', { name: part, exact: true })).toBeInViewport({ ratio: 0.05 });
      await expect(stage).toBeInViewport({ ratio: 0.9 });
    }
    const dial = page.getByLabel('Buzz rate value');
    await dial.fill('2.5');
    await dial.press('Enter');
    await expect(page.getByText(/^Saved/)).toBeVisible();
    expect((await app.effect(TUBE)).strands.length).toBeGreaterThan(3);
  });
