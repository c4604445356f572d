/**
 * Every screen, and all that opens on it, opened once: nothing stops on an error. What is there is found on the page, and
 * the screens in the table of addresses, so that what is added is walked too.
 */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import type { Effect, Motif, Strand } from '../../src/core/effect/schema.js';
import { effectOf } from '../fixtures/sheets.js';
import { STARTERS, starter } from '../fixtures/starters.js';
import { DEEP, expect, openBench, saved, test, withoutPicture } from './app.js';

const idOf = (name: string) => `0190a000-0000-7000-8000-${starter(name).id.slice(-12)}`;
/** `npm test` walks one that has one of everything; what ships is walked where there is time. */
const WALKED = DEEP ? STARTERS : [];

const use = (motif: string, id: string, more: object = {}): Strand => ({
  ...{ id, name: `Use of ${motif}`, op: 'motif' },
  inputs: { motif: { value: { text: motif } }, ...more },
});
const motif = (id: string, strands: Strand[], from: string): Motif => ({
  ...{ id, revision: 1, name: id, inputs: [{ id: 'in1', name: 'Rate', kind: '1', unit: 'Hz' }] },
  outputs: [{ id: 'out1', name: 'Glow', kind: '1', from: { from } }],
  strands: strands as Motif['strands'],
});
/** One of everything that a document may hold. */
const WHOLE: Effect = effectOf(
  [
    use('outer', 'use', { in1: { value: 2 } }),
    { id: 'hit', name: 'Struck', op: 'age', inputs: { trigger: { value: { text: 'hit' } } } },
    { id: 'tide', name: 'Tide', op: 'shared', inputs: { shared: { value: { text: 'tide' } } } },
    {
      id: 'sum',
      name: 'Sum',
      op: 'formula',
      inputs: { formula: { value: { text: 'a + b * c' } }, a: { from: 'use' }, b: { from: 'hit' }, c: { from: 'tide' } },
    },
    { id: 'hues', name: 'Hues', op: 'ramp', inputs: { in: { from: 'sum' } } },
    { id: 'lit', name: 'Lit', op: 'colour', inputs: { in: { value: { rgb: [0.2, 0.7, 1], intensity: 4, unit: 'factor' } } } },
    { id: 'out', name: 'Glow', op: 'multiply', inputs: { a: { from: 'hues' }, b: { from: 'lit' } } },
  ],
  { emission: { from: 'out' }, opacity: { from: 'sum' } },
  {
    id: '0190b000-0000-7000-8000-00000000ee01',
    name: 'One of everything',
    sections: [{ title: 'Whole', first: 'use' }],
    motifs: [
      motif('outer', [use('inner', 'in', { in1: { from: 'in1' } })], 'in'),
      motif('inner', [{ id: 'w', name: 'Hum', op: 'wave', inputs: { rate: { from: 'in1' } } }], 'w'),
    ],
    triggers: [{ id: 'hit', name: 'Hit', at: [0.5, 1.5], duration: 1 }],
    dials: [
      { id: 'rate', strand: 'use', input: 'in1', label: 'Rate', unit: 'Hz' },
      { id: 'hue', strand: 'lit', input: 'in' },
    ],
    variants: [{ id: 'v', name: 'Slow', values: { rate: 0.5 }, finish: { alphaMode: 'add' } }],
    cues: [
      {
        dial: 'rate',
        keys: [
          { time: 0, value: 1, ease: 'smooth' },
          { time: 2, value: 3, ease: [0.2, -0.4, 0.8, 1.4] },
        ],
      },
      { dial: 'hue', keys: [{ time: 1, value: { rgb: [1, 0, 0], intensity: 2, unit: 'factor' }, ease: 'linear' }] },
    ],
  },
);

/** Nothing that the page shows has stopped. */
async function goesOn(page: Page, what: string): Promise<void> {
  expect([what, await page.getByTestId('stopped').allTextContents()]).toEqual([what, []]);
}

const OPENERS = '[role=tab], [aria-haspopup]:not([role=menuitem]), [aria-expanded=false]:not([role=row])';

/** Opens what opens, each thing once, and what opens within it. @returns what has been opened */
async function openAll(page: Page, known: Set<string>, within = 'body', depth = 0): Promise<void> {
  for (;;) {
    // Found anew each time: what one of them opens or shows may open more.
    const next = await page.evaluate(
      ({ within, openers, known }) => {
        const root = document.querySelector(within);
        for (const [k, e] of [...(root?.querySelectorAll<HTMLElement>(openers) ?? [])].entries()) {
          if (!e.checkVisibility({ visibilityProperty: true }) || e.closest('[inert]') || e.ariaDisabled === 'true') continue;
          if ((e as HTMLButtonElement).disabled) continue;
          const name = `${e.getAttribute('role') ?? e.tagName} ${e.ariaLabel ?? e.title ?? ''} ${e.textContent ?? ''}`.slice(
            0,
            80,
          );
          if (known.includes(name)) continue;
          e.dataset.walk = String(k);
          return { name, at: String(k) };
        }
        return null;
      },
      { within, openers: OPENERS, known: [...known] },
    );
    if (next === null) return;
    known.add(next.name);
    const opener = page.locator(`[data-walk="${next.at}"]`).first();
    await opener.scrollIntoViewIfNeeded().catch(() => undefined);
    // One that something covers is reached by the keyboard.
    await opener.focus();
    await opener.evaluate((e) =>
      e.dispatchEvent(new PointerEvent('pointerdown', { bubbles: true, cancelable: true, button: 0 })),
    );
    await opener.evaluate((e) => (e as HTMLElement).getAttribute('data-state') === 'open' || (e as HTMLElement).click());
    await page.evaluate(() => new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r))));
    await goesOn(page, next.name);
    const over = page.locator('[role=dialog], [role=menu], [role=listbox]').last();
    if ((await over.count()) > 0 && depth < 1) {
      await over.evaluate((e) => void (e.id ||= `walked-${Math.random().toString(36).slice(2)}`));
      await openAll(page, known, `[id="${await over.getAttribute('id')}"]`, depth + 1);
    }
    for (let k = 0; k < 3 && (await page.locator('[role=dialog], [role=menu], [role=listbox]').count()) > 0; k++)
      await page.keyboard.press('Escape');
    await page.evaluate(
      (at) => document.querySelectorAll(`[data-walk="${at}"]`).forEach((e) => e.removeAttribute('data-walk')),
      next.at,
    );
  }
}

/** What the keyboard opens at a row. */
async function openAtRows(page: Page): Promise<void> {
  const rows = page.locator('[role=treegrid] [role=row]');
  for (let k = 0; k < Math.min(await rows.count(), DEEP ? 40 : 8); k++) {
    const row = rows.nth(k);
    await row.click({ position: { x: 60, y: 8 } }).catch(() => undefined);
    await row.focus();
    for (const key of ['Enter', 'h', 'w', 'f', '/', 'F2']) {
      await page.keyboard.press(key);
      await page.evaluate(() => new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r))));
      await goesOn(page, `row ${k}, ${key}`);
      await page.keyboard.press('Escape');
    }
  }
}

async function walkBench(page: Page, url: string, id: string): Promise<void> {
  const known = new Set<string>();
  await openAll(page, known);
  // A walk that finds nothing would find no fault either.
  expect(known.size).toBeGreaterThan(15);
  await openAtRows(page);
  for (const address of [`/effects/${id}/export`, `/effects/${id}?reading=overview`]) {
    await page.goto(`${url}${address}${address.includes('?') ? '&' : '?'}clock=frozen&quality=draft`);
    await expect(
      page
        .getByRole('dialog')
        .or(page.getByRole('region', { name: 'Overview' }))
        .first(),
    ).toBeVisible();
    await goesOn(page, address);
    await openAll(page, known);
  }
}

for (const name of WALKED)
  test(`all that opens on the bench of ${name}`, async ({ page, app }) => {
    await withoutPicture(page);
    await openBench(page, app, idOf(name));
    await walkBench(page, app.url, idOf(name));
  });

test('all that opens on the bench of an effect with one of everything', async ({ page, app }) => {
  await app.store(WHOLE);
  await openBench(page, app, WHOLE.id);
  await walkBench(page, app.url, WHOLE.id);
});

test('all that opens on the other screens', async ({ page, app }) => {
  await withoutPicture(page);
  const [stage] = await app.get<{ id: string }[]>('/api/stages');
  const places: Record<string, string> = {
    '/': '/',
    '/effects/:id/:panel?': `/effects/${idOf('failing-tube')}`,
    '/stages': '/stages',
    '/stages/:id': `/stages/${stage!.id}`,
    '*': '/nowhere',
  };
  const table = readFileSync(join(import.meta.dirname, '../../src/web/main.tsx'), 'utf8');
  const paths = [...table.matchAll(/path: '([^']+)'/g)].map(([, path]) => path!);
  // A screen that is added has an address here.
  expect(Object.keys(places).sort()).toEqual(paths.sort());
  for (const path of paths.filter((p) => !p.startsWith('/effects'))) {
    await page.goto(app.url + places[path]!);
    await expect(page.getByRole('main')).toBeVisible();
    await goesOn(page, path);
    await openAll(page, new Set());
  }
});

test('a panel that stops says so and takes nothing else with it; what happened can be copied; it can be tried again', async ({
  page,
  app,
  context,
}) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await withoutPicture(page);
  await openBench(page, app, idOf('kelp-current'));
  await page
    .getByRole('button', { name: 'Export' })
    .or(page.getByRole('link', { name: 'Export' }))
    .first()
    .hover();
  await page.evaluate(() => {
    const { encode } = TextEncoder.prototype;
    TextEncoder.prototype.encode = () => {
      TextEncoder.prototype.encode = encode;
      // React tries once more by itself.
      TextEncoder.prototype.encode = () => {
        throw new Error('made to fail');
      };
      (window as unknown as { mend: () => void }).mend = () => void (TextEncoder.prototype.encode = encode);
      throw new Error('made to fail');
    };
  });
  await page
    .getByRole('button', { name: 'Export' })
    .or(page.getByRole('link', { name: 'Export' }))
    .first()
    .click();
  const stopped = page.getByTestId('stopped');
  await expect(stopped).toContainText('Export stopped on an error. Your work is safe; everything else goes on.');
  await stopped.getByRole('button', { name: 'Copy what happened' }).click();
  await expect(stopped.getByRole('button', { name: 'Copied' })).toBeVisible();
  expect(await page.evaluate(() => navigator.clipboard.readText())).toMatch(/Export stopped[\s\S]*made to fail/);
  await page.evaluate(() => (window as unknown as { mend: () => void }).mend());
  await stopped.getByRole('button', { name: 'Try again' }).click();
  await expect(page.getByRole('region', { name: 'Effect file' })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('treegrid').getByRole('row').first().click();
  await saved(page);
});
