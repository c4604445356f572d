/** See-through surfaces and what they read: measured in pixels against geometry and the blending equations. */
import type { Strand } from '../../src/core/effect/schema.js';
import { expect, onCanvas, openBench, test } from './app.js';
import { OPEN, effect, grey, onwards, plain, prop, seenAt, shown, stageWith, v, type Prop } from './panes.js';

test('blend, add, mask and dither are their equations, over a surface of known light', async ({ page, app }) => {
  onwards(0);
  const strands = [grey('c', 0.2), { id: 'o', name: 'O', op: 'number', inputs: { in: v(0.25) } }];
  const outputs = { emission: { from: 'c' }, opacity: { from: 'o' } };
  const blend = await effect(app, strands, outputs, { alphaMode: 'blend', writesDepth: false });
  const add = await effect(app, strands, outputs, { alphaMode: 'add', writesDepth: false });
  const across: Strand[] = [grey('c', 0.2), { id: 'u', name: 'U', op: 'uv' }];
  const mask = await effect(
    app,
    across,
    { emission: { from: 'c' }, opacity: { from: 'u', part: 'x' } },
    { alphaMode: 'mask', alphaCutoff: 0.5 },
  );
  const half = [grey('c', 0.2), { id: 'o', name: 'O', op: 'number', inputs: { in: v(0.5) } }];
  const dither = await effect(app, half, outputs, { alphaMode: 'dither' });
  const back = await plain(app, 0.6);
  const square: Prop['source'] = { primitive: 'plane', size: [0.5, 0.5] };
  const stage = await stageWith(
    app,
    [
      prop('a', square, [-0.9, 0, 0.5], blend),
      prop('b', square, [-0.3, 0, 0.5], add),
      prop('c', square, [0.3, 0, 0.5], mask),
      prop('d', square, [0.9, 0, 0.5], dither),
      prop('wall', { primitive: 'plane', size: [5, 3] }, [0, 0, 0], back),
    ],
    [0, 0, 5],
    false,
  );
  await openBench(page, app, blend, OPEN);
  const near = (x: number) => seenAt(page, stage, [x, 0.05, 0.5]);
  const wanted = [0.25 * 0.2 + 0.75 * 0.6, 0.25 * 0.2 + 0.6, 0.6, 0.2].map(shown);
  await expect
    .poll(async () => {
      const got = await Promise.all([near(-0.9), near(-0.3), near(0.15), near(0.45)]);
      return got.every(([r], k) => Math.abs(r - wanted[k]!) <= 2)
        ? 'as computed'
        : `${got.map((g) => g[0]).join()} for ${wanted.map(Math.round).join()}`;
    })
    .toBe('as computed');
  // Half of the fragments stay; where none of the surface is, the wall is seen.
  const [x0, y0] = await onCanvas(page, stage, 'front', [0.7, 0.2, 0.5]);
  const [x1, y1] = await onCanvas(page, stage, 'front', [1.1, -0.2, 0.5]);
  const share = await page.getByTestId('stage').evaluate(
    (canvas, [left, top, right, bottom, low, high]) => {
      const copy = document.createElement('canvas');
      [copy.width, copy.height] = [right! - left!, bottom! - top!];
      const context = copy.getContext('2d')!;
      context.drawImage(canvas as HTMLCanvasElement, -left!, -top!);
      const { data } = context.getImageData(0, 0, copy.width, copy.height);
      let sum = 0;
      // Samples of a pixel may differ: light is averaged, so it is compared as light.
      const linear = (c: number) => (c / 255 <= 0.04045 ? c / 255 / 12.92 : ((c / 255 + 0.055) / 1.055) ** 2.4);
      for (let k = 0; k < data.length; k += 4) sum += (linear(high!) - linear(data[k]!)) / (linear(high!) - linear(low!));
      return sum / (data.length / 4);
    },
    [Math.round(x0), Math.round(y0), Math.round(x1), Math.round(y1), shown(0.2), shown(0.6)] as const,
  );
  expect(Math.abs(share - 0.5)).toBeLessThan(0.01);
});

test('a depth gap is the distance to what lies behind, also beside something in front; contact is a circle where a ball meets the ground', async ({
  page,
  app,
}) => {
  onwards(20);
  const gap = await effect(
    app,
    [
      { id: 'g', name: 'G', op: 'depthGap' },
      { id: 'r', name: 'R', op: 'depthGap', options: { along: 'ray' } },
      { id: 'd', name: 'D', op: 'depthGap', options: { along: 'down' } },
      {
        id: 'c',
        name: 'C',
        op: 'formula',
        inputs: { a: { from: 'g' }, b: { from: 'r' }, c: { from: 'd' }, formula: v({ text: 'vec3(a, b, c) * 0.5' }) },
      },
    ],
    { emission: { from: 'c' } },
    { alphaMode: 'blend', writesDepth: false },
  );
  const contact = await effect(
    app,
    [
      { id: 'k', name: 'K', op: 'contact', inputs: { width: v(0.05) } },
      { id: 'c', name: 'C', op: 'formula', inputs: { a: { from: 'k' }, formula: v({ text: 'vec3(a > 0.0 ? 1.0 : 0.0)' }) } },
    ],
    { emission: { from: 'c' } },
    { alphaMode: 'blend', writesDepth: false },
  );
  const flat = { turn: [-Math.SQRT1_2, 0, 0, Math.SQRT1_2] as [number, number, number, number] };
  // Seen from straight above: what lies 0.8 m below a level pane is 0.8 m behind it along the view axis.
  const stage = await stageWith(
    app,
    [
      prop('a', { primitive: 'plane', size: [0.7, 0.7] }, [-1.5, 0.8, 0], gap, flat),
      prop('over', { primitive: 'box', size: [0.1, 0.1, 1] }, [-1.4, 1.4, 0], null),
      prop('ball', { primitive: 'sphere', radius: 0.5 }, [0.5, -0.3, 0], contact),
    ],
    [0, 5, 0.002],
    true,
  );
  await openBench(page, app, gap, OPEN);
  await expect
    .poll(async () => {
      const got = await seenAt(page, stage, [-1.75, 0.8, 0.1]);
      // Along the ray it is longer, by the ray's own length for a metre of depth; straight down it is 0.8 m, as the eye looks down.
      const ray = Math.hypot(1.75, 4.2, 0.1) / 4.2;
      const wanted = [0.4, 0.4 * ray, 0.4].map(shown);
      return got.every((c, k) => Math.abs(c - wanted[k]!) <= 2)
        ? 'the distance'
        : `${got.join()}, not ${wanted.map(Math.round).join()}`;
    })
    .toBe('the distance');
  // Nowhere along the outline of the bar over it is the gap another, but for pixels that are partly the bar.
  const box = [
    await onCanvas(page, stage, 'front', [-1.75, 0.8, 0.2]),
    await onCanvas(page, stage, 'front', [-1.25, 0.8, 0.3]),
  ] as const;
  const brightest = await page.getByTestId('stage').evaluate((canvas, [[x0, y0], [x1, y1]]) => {
    const copy = document.createElement('canvas');
    [copy.width, copy.height] = [Math.round(x1 - x0), Math.max(2, Math.round(y1 - y0))];
    const context = copy.getContext('2d')!;
    context.drawImage(canvas as HTMLCanvasElement, -Math.round(x0), -Math.round(y0));
    const { data } = context.getImageData(0, 0, copy.width, copy.height);
    let high = 0;
    for (let k = 0; k < data.length; k += 4) high = Math.max(high, data[k]!);
    return high;
  }, box);
  expect(brightest).toBeLessThanOrEqual(shown(0.4) + 2);
  // A ball of 0.5 m whose middle is 0.3 m under the ground meets it in a circle of 0.4 m.
  const [cx, cy] = await onCanvas(page, stage, 'front', [0.5, 0, 0]);
  const [rim] = await onCanvas(page, stage, 'front', [0.9, 0, 0]);
  const outermost = await page.getByTestId('stage').evaluate(
    (canvas, [x, y]) => {
      const copy = document.createElement('canvas');
      [copy.width, copy.height] = [(canvas as HTMLCanvasElement).width - Math.round(x), 1];
      const context = copy.getContext('2d')!;
      context.drawImage(canvas as HTMLCanvasElement, -Math.round(x), -Math.round(y));
      const { data } = context.getImageData(0, 0, copy.width, 1);
      let last = -1;
      for (let k = 0; k < copy.width; k++) if (data[k * 4]! > 200) last = k;
      return last;
    },
    [cx, cy] as const,
  );
  expect(Math.abs(outermost - (rim - cx))).toBeLessThanOrEqual(2);
});
