/** What only the artist can give: formulas, ramps, patterns, images, shared dials; and what the sheet costs. */
import type { Page } from '@playwright/test';
import { PNG } from 'pngjs';
import type { Effect, Strand } from '../../src/core/effect/schema.js';
import { effectOf } from '../fixtures/sheets.js';
import { restingBox, drawn, expect, onCanvas, openBench, pixelAt, saved, test, type Served, withoutPicture } from './app.js';
import type { Stage } from '../../src/core/scene/stage.js';
import { Quaternion, Vector3 } from 'three';

const BAY = '0190a100-0000-7000-8000-000000000001';

const ID = '0190b000-0000-7000-8000-00000000f001';

async function shell(app: Served): Promise<Effect> {
  const strands: Strand[] = [
    { id: 'around', name: 'Around', op: 'uv' },
    { id: 'width', name: 'Rim width', op: 'number', inputs: { in: { value: 0.4 } } },
    { id: 'level', name: 'Level', op: 'formula', inputs: { a: { from: 'around', part: 'x' } } },
    { id: 'signal', name: 'Signal', op: 'beat', inputs: { rate: { value: 2 } } },
    { id: 'ember', name: 'Ember', op: 'ramp', inputs: { in: { from: 'level' } } },
    { id: 'stain', name: 'Stain', op: 'image' },
    { id: 'tide', name: 'Tide', op: 'shared' },
    { id: 'lit', name: 'Lit', op: 'multiply', inputs: { a: { from: 'stain' }, b: { from: 'tide' } } },
  ];
  const finish = {
    alphaMode: 'opaque',
    sides: 'front',
    lighting: 'unlit',
    castsShadow: false,
    writesDepth: true,
    order: 0,
    alphaCutoff: 0.5,
  };
  const home = { stage: BAY, prop: 'tube-1', viewpoint: 'front' };
  const effect: Effect = {
    ...effectOf(strands, { emission: { from: 'lit' } }, { finish, home, loop: 4 }),
    id: ID,
    name: 'Lantern shell',
    shared: [],
  };
  await app.store(effect);
  return effect;
}

const row = (page: Page, name: string) => page.getByRole('row', { name: new RegExp(`^${name},`) });
const open = async (page: Page, name: string) => {
  await row(page, name).click();
  await page.keyboard.press('Enter');
};
const strandIn = async (app: Served, id: string) => (await app.effect(ID)).strands.find((s) => (s as Strand).id === id) as Strand;

test('a formula is typed with the names of strands; an error points at its character and changes nothing', async ({
  page,
  app,
}) => {
  await shell(app);
  await openBench(page, app, ID);
  await open(page, 'Level');
  const field = page.getByRole('textbox', { name: 'Level formula' });
  await expect(field).toHaveText('around.x');
  await field.fill('1 - smoothstp(0, rimWidth, around.x)');
  await field.press('Enter');
  await expect(page.getByRole('alert')).toHaveText('Character 5: there is no function smoothstp');
  // The cursor stands at the character, and the word is underlined.
  expect(await page.evaluate(() => getSelection()!.getRangeAt(0).toString().length + getSelection()!.anchorOffset)).toBe(4);
  await expect(page.locator('.cm-lintRange-error')).toHaveText('smoothstp');
  await field.fill('1 - smoothstep(0, rimWidth, around.x)');
  await field.press('Enter');
  await expect(page.getByRole('alert')).toBeHidden();
  await saved(page);
  expect((await strandIn(app, 'level')).inputs).toEqual({
    a: { from: 'around' },
    b: { from: 'width' },
    formula: { value: { text: '1 - smoothstep(0, b, a.x)' } },
  });
  // A renamed strand goes by its new name, and the formula goes on reading it.
  await row(page, 'Rim width').click();
  await page.keyboard.press('r');
  await page.keyboard.type('Halo');
  await page.keyboard.press('Enter');
  await expect(field).toHaveText('1 - smoothstep(0, halo, around.x)');
  await expect(page.locator('[data-now="level"]')).not.toHaveText('');
});

test('a pattern is typed; a ramp gets a stop, whose place becomes a dial', async ({ page, app }) => {
  await shell(app);
  await openBench(page, app, ID);
  await open(page, 'Signal');
  const pattern = page.getByRole('textbox', { name: 'Signal pattern' });
  await pattern.fill('1011000');
  await pattern.press('Enter');
  await open(page, 'Ember');
  await page.getByRole('button', { name: 'Add a stop after stop 1' }).click();
  const place = page.getByRole('textbox', { name: 'Ember stop 2 place' });
  await expect(place).toHaveValue('0.5');
  await place.fill('0.3');
  await place.press('Enter');
  await page.getByRole('button', { name: 'stop 2 place: link or make a dial' }).click();
  await page.getByRole('menuitem', { name: 'Make a dial' }).click();
  await page.getByRole('combobox', { name: 'Ember mixes in: linear light' }).click();
  await page.getByRole('option', { name: 'OKLab' }).click();
  await saved(page);
  expect((await strandIn(app, 'signal')).inputs!.pattern).toEqual({ value: { text: '1011000' } });
  const { inputs } = await strandIn(app, 'ember');
  expect(inputs).toMatchObject({
    'stops.1.place': { value: 0.3 },
    stops: { value: { space: 'oklab', stops: [{ at: 0 }, { at: 0.5 }, { at: 1 }] } },
  });
  expect((await app.effect(ID)).dials).toEqual([expect.objectContaining({ strand: 'ember', input: 'stops.1.place' })]);
  // The dial's number links nothing anew.
  const linked = await page.getByTestId('links').textContent();
  const dial = page.getByRole('textbox', { name: 'Ember stop 2 place value' });
  await dial.fill('0.7');
  await dial.press('Enter');
  await saved(page);
  expect((await strandIn(app, 'ember')).inputs!['stops.1.place']).toEqual({ value: 0.7 });
  expect(await page.getByTestId('links').textContent()).toBe(linked);
});

test('a ramp by hand: a stop is added by a press and dragged, all are spread evenly, another comes from CSS', async ({
  page,
  app,
}) => {
  await shell(app);
  await openBench(page, app, ID);
  await open(page, 'Ember');
  const strip = page.getByRole('group', { name: 'The colours of Ember' });
  const places = async () => {
    const { inputs } = await strandIn(app, 'ember');
    const { stops } = (inputs!.stops as { value: { stops: { at: number }[] } }).value;
    return stops.map((s, k) => (inputs![`stops.${k}.place`] as { value: number } | undefined)?.value ?? s.at);
  };
  const box = await restingBox(strip);
  await page.mouse.click(box.x + box.width * 0.25, box.y + box.height / 2);
  await expect(strip.getByRole('button')).toHaveCount(3);
  const stop = await restingBox(strip.getByRole('button', { name: /stop 2 of 3/ }));
  await page.mouse.move(stop.x + stop.width / 2, stop.y + stop.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.6, stop.y + stop.height / 2, { steps: 4 });
  await page.mouse.up();
  await saved(page);
  expect(Math.abs((await places())[1]! - 0.6)).toBeLessThan(0.02);
  await page.getByRole('button', { name: 'Even', exact: true }).click();
  await saved(page);
  expect(await places()).toEqual([0, 0.5, 1]);
  await page.getByRole('button', { name: 'CSS', exact: true }).click();
  const text = page.getByLabel('Ember as a CSS gradient');
  await text.fill('linear-gradient(reddish, blue)');
  await expect(page.getByText('“reddish” is no colour.')).toBeVisible();
  await text.fill('linear-gradient(to right in oklab, black, #ff8000 30%, white)');
  await page.getByRole('button', { name: 'Take it' }).click();
  await saved(page);
  expect(await places()).toEqual([0, 0.3, 1]);
  expect((await strandIn(app, 'ember')).inputs!.stops).toMatchObject({ value: { space: 'oklab' } });
  await page.keyboard.press('Control+z');
  await saved(page);
  expect(await places()).toEqual([0, 0.5, 1]);
  // From a picture, red on its left and blue on its right: its ends are those colours.
  const picture = page.getByLabel('A picture for Ember');
  await picture.setInputFiles({ name: 'torn.png', mimeType: 'image/png', buffer: Buffer.from('89504e47', 'hex') });
  await expect(page.getByText(/torn\.png is no picture/)).toBeVisible();
  const png = new PNG({ width: 64, height: 1 });
  png.data = Buffer.from(Array.from({ length: 64 }, (_, k) => (k < 32 ? [255, 0, 0, 255] : [0, 0, 255, 255])).flat());
  await picture.setInputFiles({ name: 'halves.png', mimeType: 'image/png', buffer: PNG.sync.write(png) });
  // Read in its own time: what was saved before it is saved still.
  await expect.poll(async () => (await places()).length).toBeGreaterThan(3);
  await saved(page);
  const taken = (await strandIn(app, 'ember')).inputs!.stops as { value: { stops: { at: number; rgb: number[] }[] } };
  const { stops } = taken.value;
  stops[0]!.rgb.forEach((c, k) => expect(c).toBeCloseTo([1, 0, 0][k]!, 2));
  stops.at(-1)!.rgb.forEach((c, k) => expect(c).toBeCloseTo([0, 0, 1][k]!, 2));
});

test('an image of the artist’s own is seen on the surface, is there after a reload, and a broken one is refused', async ({
  page,
  app,
}) => {
  await shell(app);
  await openBench(page, app, ID);
  await open(page, 'Stain');
  const file = page.getByLabel('File of Stain');
  await file.setInputFiles({ name: 'torn.png', mimeType: 'image/png', buffer: Buffer.from('89504e470d0a1a0a00', 'hex') });
  await expect(page.getByRole('alert')).toHaveText(/torn\.png was not opened\. It ends too early\./);
  // Red above, green below: v runs along the tube.
  const png = new PNG({ width: 1, height: 2 });
  png.data = Buffer.from([230, 10, 10, 255, 10, 230, 10, 255]);
  await drawn(page, () => file.setInputFiles({ name: 'halves.png', mimeType: 'image/png', buffer: PNG.sync.write(png) }));
  // What it is multiplied by: a shared dial of the library's.
  await open(page, 'Tide');
  await page.getByRole('combobox', { name: /^Tide which/ }).click();
  await page.getByRole('option', { name: 'A new one' }).click();
  await saved(page);
  const stage = await app.get<Stage>(`/api/stages/${BAY}`).then((r) => (r as unknown as { document?: Stage }).document ?? r);
  const prop = stage.props[0]!;
  const at = async (along: number) => {
    const p = new Vector3(0, along, 0.044).applyQuaternion(new Quaternion(...prop.turn)).add(new Vector3(...prop.place));
    const [x, y] = await onCanvas(page, stage, 'front', [p.x, p.y, p.z]);
    return pixelAt(page, x, y);
  };
  // Smooth: half way between the two texels their mean is seen, on the graphics card too.
  await expect
    .poll(async () => {
      const [r, g] = await at(0);
      return Math.abs(r - g) < 25 && r > 60;
    })
    .toBe(true);
  await page.getByRole('combobox', { name: 'Stain filter: smooth' }).click();
  await page.getByRole('option', { name: 'nearest' }).click();
  const both = async () => {
    const [top, bottom] = [await at(0.4), await at(-0.4)];
    return [top[0] - top[1] > 60, bottom[1] - bottom[0] > 60];
  };
  await expect.poll(both).toEqual([true, true]);
  const linked = await page.getByTestId('links').textContent();
  const dial = page.getByRole('textbox', { name: 'Tide, in every effect' });
  await dial.fill('0.5');
  await dial.press('Enter');
  await expect.poll(() => app.get<unknown[]>('/api/shared')).toMatchObject([{ id: 'tide', name: 'Tide', value: 0.5 }]);
  expect(await page.getByTestId('links').textContent()).toBe(linked);
  await saved(page);
  expect(Object.values((await app.effect(ID)).assets)).toEqual([
    expect.objectContaining({ name: 'halves.png', type: 'image/png', colour: 'srgb', size: [1, 2] }),
  ]);
  await page.reload();
  await expect(page.getByRole('treegrid')).toBeVisible();
  await expect.poll(both).toEqual([true, true]);
  // Another effect that knows the dial by an older value follows the library when it is opened.
  const other = ID.replace('f001', 'f002');
  const strands: Strand[] = [{ id: 's', name: 'S', op: 'shared', inputs: { shared: { value: { text: 'tide' } } } }];
  await app.store({
    ...effectOf(strands, { emission: { from: 's' } }, { shared: [{ id: 'tide', name: 'Tide', value: 0.9 }] }),
    id: other,
    name: 'Other',
  });
  await openBench(page, app, other);
  await expect.poll(async () => (await app.effect(other)).shared).toEqual([{ id: 'tide', name: 'Tide', value: 0.5 }]);
});

test('a further output of a strand is linked by menu', async ({ page, app }) => {
  await withoutPicture(page);
  const strands: Strand[] = [
    { id: 'tiles', name: 'Tiles', op: 'hexTiles' },
    { id: 'lit', name: 'Lit', op: 'multiply', inputs: { a: { from: 'tiles' } } },
  ];
  await app.store({ ...effectOf(strands, { emission: { from: 'lit' } }), id: ID, name: 'Tiles', shared: [] });
  await openBench(page, app, ID);
  await open(page, 'Lit');
  await page.getByRole('button', { name: 'b: link or make a dial' }).click();
  await page.getByRole('menuitem', { name: 'Tiles cell' }).click();
  await saved(page);
  expect((await strandIn(app, 'lit')).inputs).toEqual({ a: { from: 'tiles' }, b: { from: 'tiles', port: 'cell' } });
});

test('cost and advice: what a dial would save is told, and a mend is one press', async ({ page, app }) => {
  await withoutPicture(page);
  const strands: Strand[] = [
    { id: 'clouds', name: 'Clouds', op: 'fractal', inputs: { octaves: { value: 2 } } },
    { id: 'sharp', name: 'Sharp', op: 'power', inputs: { in: { from: 'clouds' } } },
  ];
  const dials = [{ id: 'oct', strand: 'clouds', input: 'octaves' }];
  await app.store({ ...effectOf(strands, { emission: { from: 'sharp' } }, { dials }), id: ID, name: 'Clouds', shared: [] });
  await openBench(page, app, ID);
  await page.getByRole('tab', { name: 'Cost' }).click();
  await expect(page.locator('[data-cost="clouds"]')).toContainText(/9\d %/);
  await expect(page.locator('[data-saving="oct"]')).toContainText(/[67]\d %/);
  await page.getByRole('tab', { name: /^Advice/ }).click();
  const finding = page.locator('[data-finding="power-below-zero:sharp"]');
  await finding.getByRole('button', { name: 'Keep Clouds at 0 or more' }).click();
  await expect(finding).toBeHidden();
  await saved(page);
  expect(await strandIn(app, 'sharp')).toMatchObject({ inputs: { in: { from: 'clamp' } } });
  expect(await strandIn(app, 'clamp')).toMatchObject({ op: 'max', inputs: { a: { from: 'clouds' }, b: { value: 0 } } });
});
