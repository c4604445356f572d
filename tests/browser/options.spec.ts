/** What is chosen is what is seen: options of kernels, and images that are read at a place of time, on the stage. */
import type { Page } from '@playwright/test';
import { PNG } from 'pngjs';
import type { Strand } from '../../src/core/effect/schema.js';
import type { Stage } from '../../src/core/scene/stage.js';
import { readAt } from '../fixtures/read.js';
import { expect, links, openBench, saved, test } from './app.js';
import { OPEN, effect, onwards, prop, seenAt, shown, stageWith, v } from './panes.js';

test.use({ viewport: { width: 1000, height: 620 } });
test.beforeEach(() => void onwards(300));

const PLACES = [
  [0.13, 0.21],
  [-0.31, 0.11],
  [0.27, -0.34],
  [-0.2, -0.3],
] as const;
/** A pane of 1 m by 1 m, seen from the front. */
const pane = (id: string) => prop('a', { primitive: 'plane', size: [1, 1] }, [0, 0, 0], id);

async function choose(page: Page, name: string, option: string, value: string): Promise<void> {
  await page.getByRole('row', { name: new RegExp(`^${name},`) }).focus();
  // In the opened row: the closed line offers it too, once it is not what it rests on.
  await page
    .getByRole('combobox', { name: new RegExp(`^${name} ${option}: `) })
    .last()
    .click();
  await page.getByRole('option', { name: value, exact: true }).click();
}
const open = async (page: Page, name: string) => {
  await page.getByRole('row', { name: new RegExp(`^${name},`) }).click();
  await page.keyboard.press('Enter');
};

for (const [op, option, values] of [
  ['fractal', 'kind', ['turbulence', 'ridged', 'fbm']],
  ['cells', 'metric', ['city', 'chess', 'straight']],
] as const)
  test(`another ${option} of ${op} is another picture at once, and the one that its numbers say`, async ({ page, app }) => {
    const strands: Strand[] = [
      { id: 'at', name: 'At', op: 'uv' },
      { id: 'n', name: 'Stone', op, inputs: { position: { from: 'at' }, scale: v(3) } },
      {
        id: 'g',
        name: 'Grey',
        op: 'formula',
        inputs: { a: { from: 'n' }, formula: v({ text: 'clamp(a * 0.3 + 0.4, 0.0, 1.0)' }) },
      },
    ];
    const id = await effect(app, strands, { emission: { from: 'g' } });
    const stage: Stage = await stageWith(app, [pane(id)], [0, 0, 2.4], false);
    await openBench(page, app, id, OPEN);
    await open(page, 'Stone');
    let made = await links(page);
    for (const value of values) {
      await choose(page, 'Stone', option, value);
      await saved(page);
      const stored = await app.effect(id);
      expect(stored.strands).toContainEqual(expect.objectContaining({ id: 'n', options: { [option]: value } }));
      for (const [x, y] of PLACES) {
        const wanted = shown(readAt(stored, 'g', { uv: [x + 0.5, y + 0.5] })[0]!);
        // A place is a pixel wide at most: as much as the grey changes across it.
        await expect.poll(async () => Math.abs((await seenAt(page, stage, [x, y, 0]))[0] - wanted)).toBeLessThan(6);
      }
      made = Math.max(made, await links(page));
    }
    expect(made).toBeGreaterThan(1);
  });

test('an image that time alone looks up is seen on the stage in its own colours', async ({ page, app }) => {
  const strands: Strand[] = [
    { id: 't', name: 'Time', op: 'time' },
    { id: 'at', name: 'At', op: 'join', inputs: { x: { from: 't' }, y: v(0.5) } },
    { id: 'i', name: 'Strip', op: 'image', inputs: { uv: { from: 'at' } } },
  ];
  const id = await effect(app, strands, { emission: { from: 'i', port: 'rgb' } });
  const stage = await stageWith(app, [pane(id)], [0, 0, 2.4], false);
  // Red, then green, each half of a second: middles of texels are theirs alone.
  const png = new PNG({ width: 2, height: 1 });
  png.data = Buffer.from([230, 10, 10, 255, 10, 230, 10, 255]);
  await openBench(page, app, id, `${OPEN}&t=0.25`);
  await open(page, 'Strip');
  await page.getByLabel('File of Strip').setInputFiles({ name: 'strip.png', mimeType: 'image/png', buffer: PNG.sync.write(png) });
  await expect.poll(async () => Object.keys((await app.effect(id)).assets)).toHaveLength(1);
  await saved(page);
  for (const [time, rgb] of [
    [0.25, [230, 10, 10]],
    [0.75, [10, 230, 10]],
  ] as const) {
    await openBench(page, app, id, `${OPEN}&t=${time}`);
    await expect
      .poll(async () => {
        const got = await seenAt(page, stage, [0.1, 0.1, 0]);
        return Math.max(...rgb.map((w, k) => Math.abs(got[k]! - w)));
      })
      .toBeLessThanOrEqual(3);
  }
});
