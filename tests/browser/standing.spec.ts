/** Props put on the stage, moved and measured by their numbers; from where they are seen. */
import { boxOf } from '../../src/core/scene/placing.js';
import type { Stage } from '../../src/core/scene/stage.js';
import { restingBox, drawn, expect, frames, nextFrame, openBench, saved, stageCanvas, test, type Served } from './app.js';

const DOME = { effect: '0190a000-0000-7000-8000-000000000004', stage: '0190a000-0000-7000-8000-000000000104' };
const stageOf = async (app: Served): Promise<Stage> => {
  const effect = await app.effect(DOME.effect);
  return app.get<Stage>(`/api/stages/${effect.home!.stage}`);
};

test('new props stand beside the others, on the ground and in the picture, bare where the effect is worn; their numbers move them', async ({
  page,
  app,
}) => {
  await openBench(page, app, DOME.effect);
  const before = await stageOf(app);
  await page.getByRole('button', { name: /^Props:/ }).click();
  for (const name of ['Cylinder', 'Lying plane', 'Sphere']) {
    await page.getByRole('button', { name: 'Add a prop' }).click();
    await page.getByRole('menuitem', { name }).click();
    await expect(page.getByRole('button', { name, exact: true })).toHaveAttribute('aria-pressed', 'true');
  }
  await saved(page);
  const added = (await stageOf(app)).props.filter((p) => !before.props.some((b) => b.id === p.id));
  expect(added.map((p) => [p.name, p.parts])).toEqual([
    ['Cylinder', []],
    ['Lying plane', []],
    ['Sphere', []],
  ]);
  const boxes = [...before.props.filter((p) => p.visible), ...added].map((p) => boxOf(p));
  for (const [k, a] of boxes.entries())
    for (const b of boxes.slice(Math.max(k + 1, before.props.length)))
      expect([0, 1, 2].every((axis) => a.low[axis]! < b.high[axis]! && b.low[axis]! < a.high[axis]!)).toBe(false);
  // What is flat lies a centimetre above the ground, or it would be drawn through it.
  for (const p of added) expect(boxOf(p).low[1]).toBeCloseTo(p.name === 'Lying plane' ? 0.01 : 0, 3);
  // By numbers: lifted, turned, made larger; then set on the ground again.
  const type = async (label: string, text: string) => {
    await page.getByLabel(label, { exact: true }).fill(text);
    await page.keyboard.press('Enter');
  };
  await type('Sphere place y', '2');
  await type('Sphere turn x', '45');
  await type('Sphere scale x', '1.5');
  await type('Sphere radius', '0.4');
  await page.getByRole('button', { name: 'Set on the ground' }).click();
  await saved(page);
  const sphere = (await stageOf(app)).props.find((p) => p.name === 'Sphere')!;
  expect(sphere.scale).toEqual([1.5, 1.5, 1.5]);
  expect(sphere.source).toEqual({ primitive: 'sphere', radius: 0.4 });
  // An eighth of a turn about x: (sin 22.5, 0, 0, cos 22.5). A ball is as high however it is turned.
  sphere.turn.forEach((v, k) => expect(v).toBeCloseTo([Math.sin(Math.PI / 8), 0, 0, Math.cos(Math.PI / 8)][k]!, 6));
  expect(sphere.place[1]).toBeCloseTo(0.6, 3);
  for (let k = 0; k < 8; k++) await page.keyboard.press('Control+z');
  await saved(page);
  await expect.poll(() => stageOf(app)).toEqual(before);
});

test('Frame shows the prop in hand, V goes back; what is seen survives a reload and is kept as a viewpoint for the Library', async ({
  page,
  app,
}) => {
  await openBench(page, app, DOME.effect);
  const picture = () => stageCanvas(page).evaluate((c) => (c as HTMLCanvasElement).toDataURL());
  // One frame more, so that both pictures are settled ones.
  const settled = async () => {
    await nextFrame(page, (await frames(page)) - 1);
    return picture();
  };
  const from = await settled();
  await page.getByRole('button', { name: /^Props:/ }).click();
  await page.getByRole('button', { name: 'Nodule', exact: true }).click();
  await page.keyboard.press('Escape');
  await stageCanvas(page).focus();
  await drawn(page, () => page.keyboard.press('f'));
  const framed = await settled();
  expect(framed).not.toBe(from);
  await page.reload();
  await nextFrame(page, 0);
  await expect.poll(picture).toBe(framed);
  await page.getByRole('button', { name: /^Viewpoint/ }).click();
  await page.getByRole('menuitem', { name: 'Draw it so in the Library' }).click();
  await saved(page);
  const stage = await stageOf(app);
  const kept = stage.viewpoints.at(-1)!;
  expect((await app.effect(DOME.effect)).home!.viewpoint).toBe(kept.id);
  const nodule = stage.props.find((p) => p.name === 'Nodule')!;
  // At its middle, which is about where it stands.
  kept.target.forEach((v, k) => expect(Math.abs(v - nodule.place[k]!)).toBeLessThan(0.08));
  await page.getByRole('button', { name: /^Viewpoint/ }).click();
  await drawn(page, () => page.getByRole('menuitemradio', { name: 'From the bench' }).click());
  await expect.poll(picture).toBe(from);
});

test('handles move the prop in hand along one axis, turn it about one, scale it along one; keys do the same; each drag is one step', async ({
  page,
  app,
}) => {
  await openBench(page, app, DOME.effect);
  const before = await stageOf(app);
  await page.getByRole('button', { name: /^Props:/ }).click();
  await page.getByRole('button', { name: 'Add a prop' }).click();
  await page.getByRole('menuitem', { name: 'Box' }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Handles', exact: true }).click();
  await saved(page);
  const box = async () => (await stageOf(app)).props.find((p) => p.name === 'Box')!;
  const stood = await box();
  const drag = async (name: string, dx: number, dy: number) => {
    const grip = await restingBox(page.getByRole('button', { name }));
    await page.mouse.move(grip.x + 12, grip.y + 12);
    await page.mouse.down();
    await page.mouse.move(grip.x + 12 + dx, grip.y + 12 + dy, { steps: 5 });
    await page.mouse.up();
    await saved(page);
  };
  await drag('Move Box along x', 50, 0);
  await expect.poll(async () => (await box()).place[0]).toBeGreaterThan(stood.place[0] + 0.05);
  const along = await box();
  expect(along.place.slice(1)).toEqual(stood.place.slice(1));
  await drag('Move Box along y', 0, -40);
  await expect.poll(async () => (await box()).place[1]).toBeGreaterThan(along.place[1] + 0.05);
  expect((await box()).place[0]).toBe(along.place[0]);
  await drag('Move Box over the ground', 30, 20);
  await expect.poll(async () => (await box()).place[0]).not.toBe(along.place[0]);
  await page.getByRole('radio', { name: 'Turn' }).click();
  await drag('Turn Box about y', 40, 6);
  await expect.poll(async () => Math.abs((await box()).turn[1])).toBeGreaterThan(0.02);
  expect((await box()).turn[0]).toBeCloseTo(0, 6);
  await page.getByRole('radio', { name: 'Scale' }).click();
  await page.getByRole('button', { name: 'Scale Box along y' }).focus();
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('ArrowUp');
  await saved(page);
  // Twice a twentieth more.
  await expect.poll(async () => (await box()).scale).toEqual([1, 1.103, 1]);
  // Added; three drags; a turn; keys, each let go of.
  for (let k = 0; k < 7; k++) await page.keyboard.press('Control+z');
  await saved(page);
  await expect.poll(() => stageOf(app)).toEqual(before);
});

test('whoever goes on from a viewpoint is told so, and V goes back; a view that steps back by itself says it', async ({
  page,
  app,
}) => {
  await openBench(page, app, DOME.effect);
  const chip = page.getByRole('button', { name: /^Viewpoint:/ });
  const name = (await chip.textContent())!;
  const box = (await stageCanvas(page).boundingBox())!;
  await drawn(page, async () => {
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width / 2 + 120, box.y + box.height / 2, { steps: 4 });
    await page.mouse.up();
  });
  await expect(chip).toHaveText(`from ${name}`);
  await page.keyboard.press('v');
  await expect(chip).toHaveText(name);
  // So many that the picture has no room for all of them.
  await page.getByRole('button', { name: /^Props:/ }).click();
  for (let k = 0; k < 12 && (await chip.textContent()) === name; k++) {
    await page.getByRole('button', { name: 'Add a prop' }).click();
    await page.getByRole('menuitem', { name: 'Cylinder' }).click();
  }
  await expect(chip).toHaveText(`from ${name}`);
  await expect(page.getByTestId('notice')).toContainText('The view stepped back, so that both are seen. V goes back.');
});
