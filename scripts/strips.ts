/**
 * Makes demo/strips/ anew: the Library draws the starters' pictures, which then ship. Needs Chromium and a build.
 * `npm run strips -- 3` draws that of the third starter alone.
 */
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { SOFTWARE, root, serve } from './serve.js';

const out = join(root, 'demo/strips');
// Without those that ship the Library draws them.
const wanted = process.argv.slice(2);
if (wanted.length === 0) rmSync(out, { recursive: true, force: true });
for (const number of wanted) rmSync(join(out, `${number.padStart(12, '0')}.webp`), { force: true });
mkdirSync(out, { recursive: true });
const { url, stop } = await serve();
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: SOFTWARE });
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(url);
  await page.waitForFunction(
    () => {
      const strips = [...document.querySelectorAll<HTMLElement>('[data-testid=strip]')];
      return strips.length > 0 && strips.every((e) => e.style.backgroundImage !== '');
    },
    null,
    { timeout: 600_000 },
  );
  const found = await page.evaluate(() =>
    [...document.querySelectorAll<HTMLElement>('[data-testid=strip]')].map(
      (e) => /url\("(.*)"\)/.exec(e.style.backgroundImage)![1]!,
    ),
  );
  for (const address of found) {
    const [, number] = /effects\/[0-9a-f-]*-([0-9a-f]{12})\/strip/.exec(address)!;
    const bytes = new Uint8Array(await (await fetch(new URL(address, url))).arrayBuffer());
    writeFileSync(join(out, `${number}.webp`), bytes);
    console.log(`${number}: ${(bytes.length / 1024).toFixed(0)} kB`);
  }
} finally {
  await browser.close();
  await stop();
}
