/** Makes docs/screenshots/ anew from the demo data. Needs Chromium and a build. */
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { SOFTWARE, root, serve } from './serve.js';

const out = join(root, 'docs/screenshots');
const TUBE = '/effects/0190a000-0000-7000-8000-000000000001?clock=frozen&t=';
const DOME = '/effects/0190a000-0000-7000-8000-000000000004?clock=frozen&t=';
const FROND = '/effects/0190a000-0000-7000-8000-000000000005?clock=frozen&t=';
const SIGN = '/effects/0190a000-0000-7000-8000-000000000003?clock=frozen&t=';
const { url, stop } = await serve();

const SHOTS: Record<string, (page: Page) => Promise<void>> = {
  library: async (page) => {
    await page.goto(url);
    await page.getByText(/^\d+ effects$/).waitFor();
    // All pictures are there.
    await page.waitForFunction(
      () => [...document.querySelectorAll<HTMLElement>('[data-testid=strip]')].every((e) => e.style.backgroundImage !== ''),
      null,
      { timeout: 300_000 },
    );
    await page.getByRole('link', { name: 'Vent embers' }).focus();
    await page.evaluate(() => (document.activeElement as HTMLElement).blur());
  },
  bench: async (page) => open(page, '1.3'),
  'bench-opened': async (page) => {
    await open(page, '0.9');
    await page.locator('[data-strand=lit]').click();
    await page.keyboard.press('Enter');
  },
  'bench-picker': async (page) => {
    await open(page, '1.3', DOME);
    await page.getByRole('row', { name: /^Line cut,/ }).click();
    await page.keyboard.press('/');
    await page.keyboard.type('Edges = max Rim cut, Line cut');
  },
  'bench-pulse': async (page) => {
    await open(page, '1.2');
    await page.getByRole('button', { name: /^Viewpoint/ }).click();
    await page.getByRole('menuitemradio', { name: 'Facing the wall' }).click();
    const box = (await page.getByTestId('stage').boundingBox())!;
    for (const across of [0.2, 0.5, 0.8]) {
      await page.getByRole('button', { name: 'Pin', exact: true }).click();
      await page.mouse.click(box.x + box.width * across, box.y + box.height * 0.4);
    }
    await page.locator('[data-strand=lit]').click();
    await page.getByRole('tab', { name: 'Pulse' }).click();
    await page.locator('[data-pulse="C:lit"]').waitFor();
    await page.mouse.move(2, 2);
  },
  'bench-through': async (page) => open(page, '1.3', DOME),
  'bench-vertex': async (page) => open(page, '2.3', FROND),
  'bench-overview': async (page) => {
    await open(page, '1.3', DOME);
    await page.locator('[data-strand=net]').click();
    await page.keyboard.press('m');
    await page
      .getByRole('region', { name: 'Overview' })
      .getByText(/^\d+ %$/)
      .first()
      .waitFor();
  },
  'bench-peek': async (page) => {
    await open(page, '1.3', DOME);
    await page.locator('[data-strand=gap]').click();
    await page.getByRole('button', { name: 'Peek at Gap' }).click();
    await page.locator('[data-testid=peek-legend][data-stats]').waitFor();
    await page.mouse.move(2, 2);
  },
  stages: async (page) => {
    await page.goto(`${url}/stages`);
    // All pictures are there, those that are drawn for the list too.
    await page.waitForFunction(
      () => {
        const pictures = [...document.querySelectorAll<HTMLElement>('[data-stage] a > span:first-child')];
        return pictures.length > 0 && pictures.every((e) => e.style.backgroundImage !== '');
      },
      null,
      { timeout: 300_000 },
    );
    await page.evaluate(async () => {
      for (const e of document.querySelectorAll<HTMLElement>('[data-stage] a > span:first-child')) {
        const picture = new Image();
        picture.src = /url\("(.*)"\)/.exec(e.style.backgroundImage)![1]!;
        await picture.decode();
      }
    });
  },
  'stage-paint': async (page) => {
    await page.goto(`${url}/stages/0190a100-0000-7000-8000-000000000013?clock=frozen&t=1.1`);
    await page.locator('canvas[data-frames][aria-busy=false]').waitFor();
    await page.getByRole('button', { name: 'Right fin', exact: true }).click();
    await page.getByRole('button', { name: 'Paint its vertices' }).click();
    await page.getByTestId('paint-mean').waitFor();
    const box = (await page.getByTestId('stage').boundingBox())!;
    await page.getByLabel('Radius value').fill('0.11');
    await page.keyboard.press('Enter');
    await page.mouse.move(box.x + box.width * 0.27, box.y + box.height * 0.44);
    await page.getByTestId('under-brush').waitFor({ state: 'visible' });
  },
  'bench-props': async (page) => {
    await open(page, '1.3');
    await page.getByRole('button', { name: /^Props:/ }).click();
  },
  'bench-dial': async (page) => {
    await open(page, '1.3', DOME);
    await page.getByRole('button', { name: 'Settings of Line offset' }).click();
    await page.mouse.move(2, 2);
  },
  'bench-export': async (page) => {
    await open(page, '1.3');
    await page.getByRole('link', { name: 'Export' }).click();
    // The bundle is zipped.
    await page.locator('button[aria-label="Save bundle"]:enabled').waitFor();
  },
  // These change the effect: after all others that show it.
  'bench-time': async (page) => {
    await open(page, '0', SIGN);
    const ruler = (await page.getByTestId('ruler').boundingBox())!;
    const goTo = (time: number) => page.mouse.click(ruler.x + (ruler.width * time) / 3, ruler.y + ruler.height / 2);
    await page.getByRole('button', { name: 'Key Edge here' }).click();
    await page.getByRole('button', { name: 'Key Glow here' }).click();
    await page.getByRole('button', { name: 'Curve of Glow' }).click();
    await page.getByRole('switch', { name: 'Record' }).click();
    for (const [time, glow, edge] of [
      [0.8, 9, 0.6],
      [1.6, 2, 0.2],
      [2.4, 7, 0.5],
    ] as const) {
      await goTo(time);
      for (const [dial, value] of [
        ['Edge value', edge],
        ['Glow value', glow],
      ] as const) {
        await page.getByLabel(dial, { exact: true }).fill(String(value));
        await page.keyboard.press('Enter');
      }
    }
    await goTo(1.9);
    await page
      .getByRole('button', { name: /^Key 3 of 4 of Glow/ })
      .first()
      .click();
    await page.getByRole('button', { name: /^Easing of Glow/ }).click();
    await page.getByLabel('Glow easing as CSS').fill('cubic-bezier(.55, 0, .2, 1)');
    await page.keyboard.press('Enter');
    await page.locator('[data-testid=saved][data-state=saved]').waitFor();
    await page.mouse.move(2, 2);
  },
  'bench-history': async (page) => {
    await open(page, '1.3', DOME);
    for (const [strand, key] of [
      ['net', 'b'],
      ['hue', 'd'],
      ['line', 'b'],
    ] as const) {
      await page.locator(`[data-strand=${strand}]`).click({ position: { x: 100, y: 14 } });
      await page.keyboard.press(key);
    }
    await page.keyboard.press('Control+z');
    await page.locator('[data-testid=saved][data-state=saved]').waitFor();
    await page.getByRole('button', { name: 'History', exact: true }).click();
    await page.waitForFunction(() => document.querySelectorAll('[data-thumbnail][data-drawn]').length >= 6);
    await page.mouse.move(2, 2);
  },
  'bench-trigger': async (page) => {
    await open(page, '0', DOME);
    const row = (name: string) => page.getByRole('row', { name: new RegExp(`^${name},`) });
    const at = { position: { x: 100, y: 14 } };
    const type = async (line: string) => {
      await page.keyboard.press('/');
      await page.keyboard.type(line);
      await page.keyboard.press('Enter');
    };
    await row('Gap').click(at);
    await row('Line').click({ ...at, modifiers: ['Shift'] });
    await page.keyboard.press('m');
    await page.getByRole('button', { name: '2 strands inside' }).click();
    await row('Both').click(at);
    await type('ripple width .22, speed .8');
    await type('Struck = max Both, Ripple');
    await row('Cover').click(at);
    await page.getByRole('button', { name: 'Cover in reads Both' }).click();
    await page.getByRole('menuitem', { name: 'Struck', exact: true }).click();
    await page.getByRole('region', { name: 'Stage' }).getByRole('button', { name: 'Hit', exact: true }).click();
    const stage = (await page.getByTestId('stage').boundingBox())!;
    await page.mouse.click(stage.x + stage.width * 0.42, stage.y + stage.height * 0.42);
    const ruler = (await page.getByTestId('ruler').boundingBox())!;
    const goTo = (time: number) => page.mouse.click(ruler.x + (ruler.width * time) / 6, ruler.y + ruler.height / 2);
    await goTo(0.3);
    await page.mouse.click(stage.x + stage.width * 0.6, stage.y + stage.height * 0.5);
    await page.getByRole('button', { name: 'Keep what was fired of Hit' }).click();
    await goTo(0.7);
    await row('Line').click(at);
    await page.locator('[data-testid=saved][data-state=saved]').waitFor();
    await page.mouse.move(2, 2);
  },
  'bench-offline': async (page) => {
    await open(page, '2.3');
    await page.route('**/api/**', (route) => route.abort('connectionrefused'));
    await page.getByLabel('Glow value').fill('11');
    await page.keyboard.press('Enter');
    await page.getByText('Not saved: the server does not answer.').waitFor();
  },
  'bench-optics': async (page) => {
    await open(page, '2.3');
    await page.getByRole('button', { name: /^Optics:/ }).click();
  },
};

async function open(page: Page, time: string, effect = TUBE): Promise<void> {
  await page.goto(`${url}${effect}${time}`);
  // Every swatch has been drawn once, and so has the stage with its program and its meshes.
  await page.locator('[data-swatch=glow][data-drawn]').first().waitFor();
  await page.locator('canvas[data-frames][aria-busy=false]').waitFor();
  await page.getByTestId('links').filter({ hasText: /[1-9]/ }).waitFor();
}

mkdirSync(out, { recursive: true });
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: [...SOFTWARE, '--disable-quic', '--no-first-run', '--disable-background-networking'],
});
try {
  for (const [name, prepare] of Object.entries(SHOTS)) {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await prepare(page);
    await page.evaluate(() => document.fonts.ready.then(() => undefined));
    // Two more frames, so that what was just opened has been painted.
    await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve))));
    await page.screenshot({ path: join(out, `${name}.png`) });
    await page.close();
    console.log(join('docs/screenshots', `${name}.png`));
  }
} finally {
  await browser.close();
  stop();
}
