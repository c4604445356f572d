/** Makes docs/screenshots/ anew from the demo data. Needs Chromium and a build. */
import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { chromium, type Page } from '@playwright/test';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const out = join(root, 'docs/screenshots');
const TUBE = '/effects/0190a000-0000-7000-8000-000000000001?clock=frozen&t=';
const data = mkdtempSync(join(tmpdir(), 'wispen-shots-'));
const server = spawn(process.execPath, ['--import', 'tsx', 'src/server/main.ts'], {
  cwd: root,
  env: { ...process.env, HOST: '127.0.0.1', PORT: '0', WISPEN_DATA: data },
  stdio: ['ignore', 'pipe', 'inherit'],
});
const url = await new Promise<string>((resolve) =>
  server.stdout.on('data', (text: Buffer) => resolve(/http:\S+[^/\s]/.exec(text.toString())![0])),
);

const SHOTS: Record<string, (page: Page) => Promise<void>> = {
  library: async (page) => {
    await page.goto(url);
    await page.getByText('1 effect').waitFor();
  },
  bench: async (page) => open(page, '1.3'),
  'bench-opened': async (page) => {
    await open(page, '0.9');
    await page.locator('[data-strand=lit]').click();
    await page.keyboard.press('Enter');
  },
  'bench-picker': async (page) => {
    await open(page, '2.3');
    await page.locator('[data-strand=breath]').click();
    await page.keyboard.press('/');
    await page.keyboard.type('m');
  },
  'bench-optics': async (page) => {
    await open(page, '2.3');
    await page.getByRole('button', { name: 'Optics', exact: true }).click();
  },
};

async function open(page: Page, time: string): Promise<void> {
  await page.goto(`${url}${TUBE}${time}`);
  // Every swatch has been drawn once, and so has the stage with its program.
  await page.locator('[data-swatch=glow][data-drawn]').first().waitFor();
  await page.locator('canvas[data-frames]').waitFor();
  await page.getByTestId('links').filter({ hasText: '1' }).waitFor();
}

mkdirSync(out, { recursive: true });
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--use-angle=gl-egl',
    '--ignore-gpu-blocklist',
    '--disable-gpu-compositing',
  ],
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
  server.kill('SIGTERM');
  rmSync(data, { recursive: true, force: true });
}
