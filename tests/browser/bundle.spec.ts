/** What leaves and comes back: a bundle opens elsewhere to the same picture; the picture, the file and the GLSL too. */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { TorusKnotGeometry, Mesh, MeshStandardMaterial } from 'three';
import { PNG } from 'pngjs';
import { App, expect, furnished, links, openBench, saved, stageCanvas, test } from './app.js';
import { dropOnStage, meshFile } from './meshes.js';

const TUBES = '0190a000-0000-7000-8000-000000000001';
const MOMENT = '?clock=frozen&t=0.6';

test.use({ viewport: { width: 900, height: 560 } });

/** The canvas's pixels, RGBA. */
async function pixels(page: Page): Promise<PNG> {
  const url = await stageCanvas(page).evaluate((c) => (c as HTMLCanvasElement).toDataURL('image/png'));
  return PNG.sync.read(Buffer.from(url.slice(url.indexOf(',') + 1), 'base64'));
}

async function savedFile(page: Page, button: string): Promise<{ name: string; bytes: Buffer }> {
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: button }).click()]);
  return { name: download.suggestedFilename(), bytes: readFileSync(await download.path()) };
}

test('a bundle with a mesh of one’s own opens in a second data folder to the same pixels', async ({ page, app, browser }) => {
  await openBench(page, app, TUBES, MOMENT);
  await dropOnStage(
    page,
    'Coil.glb',
    await meshFile(new Mesh(new TorusKnotGeometry(0.3, 0.08, 96, 12), new MeshStandardMaterial())),
  );
  await expect(page.getByTestId('notice')).toContainText('Coil.glb has');
  await page.getByRole('button', { name: 'Close the notice' }).click();
  await saved(page);
  await expect.poll(() => links(page)).toBe(1);
  await page.reload();
  await furnished(page);
  await expect.poll(() => links(page)).toBe(1);
  let before = await pixels(page);
  // Still: two pictures in a row are the same.
  await expect
    .poll(async () => {
      const last = before;
      before = await pixels(page);
      return Buffer.compare(last.data, before.data);
    })
    .toBe(0);

  await page.getByRole('link', { name: 'Export' }).click();
  await expect(page).toHaveURL(/\/export/);
  const bundle = await savedFile(page, 'Save bundle');
  expect(bundle.name).toBe('failing-tube.wispen');
  await expect(page.getByTestId('exported')).toContainText('failing-tube.wispen');

  // The picture is the canvas, with all samples of a still: the same bytes each time, and edges a little smoother.
  const picture = await savedFile(page, 'Save picture');
  const png = PNG.sync.read(picture.bytes);
  expect([png.width, png.height]).toEqual([before.width, before.height]);
  const apart = before.data.reduce((sum, v, k) => sum + Math.abs(v - png.data[k]!), 0) / before.data.length;
  expect(apart).toBeLessThan(1.5);
  expect(Buffer.compare((await savedFile(page, 'Save picture')).bytes, picture.bytes)).toBe(0);
  // Taking it has left the canvas as it was.
  expect(Buffer.compare((await pixels(page)).data, before.data)).toBe(0);

  // The effect file is read by the command line; the GLSL compiles, and says what each uniform is.
  const file = await savedFile(page, 'Save effect file');
  const glsl = await savedFile(page, 'Save GLSL');
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await page.getByRole('button', { name: 'Copy' }).click();
  await expect(page.getByTestId('exported')).toContainText('on the clipboard');
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe(glsl.bytes.toString());
  const folder = mkdtempSync(join(tmpdir(), 'wispen-out-'));
  try {
    writeFileSync(join(folder, file.name), file.bytes);
    const check = spawnSync(
      process.execPath,
      ['--import', 'tsx', 'src/cli/main.ts', 'check', join(folder, file.name), '--json'],
      { encoding: 'utf8' },
    );
    expect((JSON.parse(check.stdout) as { ok: boolean }).ok).toBe(true);
    const text = glsl.bytes.toString();
    expect(text).toMatch(/k\[\d+\]\.\w\s+dial "Buzz rate": Buzz, rate \(how often it swings\) = 1\.5 Hz/);
    const [, vertex, fragment] = text.split(/^\/\/ -+\n/m);
    for (const [name, source] of [
      ['a.vert', vertex!],
      ['a.frag', fragment!],
    ] as const) {
      writeFileSync(join(folder, name), source.replace(/^\/\/ (vertex|fragment)\n/, ''));
      const judged = spawnSync('glslangValidator', [join(folder, name)], { encoding: 'utf8' });
      expect([name, judged.status, judged.stdout]).toEqual([name, 0, expect.anything()]);
    }
  } finally {
    rmSync(folder, { recursive: true });
  }

  const elsewhere = new App();
  await elsewhere.start();
  const other = await browser.newPage({ viewport: page.viewportSize()! });
  try {
    // Another world, with none of this: what opens is what the bundle holds.
    await other.goto(elsewhere.url);
    await other
      .getByLabel('Bundle or effect file')
      .setInputFiles({ name: bundle.name, mimeType: 'application/zip', buffer: bundle.bytes });
    await expect(other.getByRole('treegrid')).toBeVisible();
    const [id] = /[0-9a-f-]{36}/.exec(other.url())!;
    expect(id).not.toBe(TUBES);
    await openBench(other, elsewhere, id, MOMENT);
    await expect.poll(() => links(other)).toBe(1);
    await expect.poll(async () => Buffer.compare((await pixels(other)).data, before.data)).toBe(0);
    // Broken on the way: a sentence, and nothing is stored.
    const count = async () => (await elsewhere.get<unknown[]>('/api/effects')).length;
    const there = await count();
    await other.goto(elsewhere.url);
    await other.getByLabel('Bundle or effect file').setInputFiles({
      name: 'cut.wispen',
      mimeType: 'application/zip',
      buffer: bundle.bytes.subarray(0, bundle.bytes.length - 40),
    });
    await expect(other.getByRole('alert')).toContainText('cut.wispen was not opened. It is damaged, or cut short.');
    expect(await count()).toBe(there);
  } finally {
    await other.close();
    await elsewhere.stop();
  }
});
