/** See-through surfaces and what they read: measured in pixels against geometry and the blending equations. */
import type { Strand } from '../../src/core/effect/schema.js';
import { readFileSync } from 'node:fs';
import type { Stage } from '../../src/core/scene/stage.js';
import { readHdr } from '../../src/core/formats/hdr.js';
import { drawn, expect, onCanvas, openBench, saved, test } from './app.js';
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

test('a variant may have a finish of its own: the base blends, it adds', async ({ page, app }) => {
  onwards(20);
  const strands = [grey('c', 0.2), { id: 'o', name: 'O', op: 'number', inputs: { in: v(0.25) } }];
  const id = await effect(
    app,
    strands,
    { emission: { from: 'c' }, opacity: { from: 'o' } },
    { alphaMode: 'blend', writesDepth: false },
    { variants: [{ id: 'bright', name: 'Bright', values: {} }] },
  );
  const back = await plain(app, 0.6);
  const square: Prop['source'] = { primitive: 'plane', size: [0.5, 0.5] };
  const bright = { parts: [{ part: 'all' as const, effect: id, variant: 'bright', overrides: {} }] };
  const stage = await stageWith(
    app,
    [
      prop('a', square, [-0.4, 0, 0.5], id, bright),
      prop('b', square, [0.4, 0, 0.5], id),
      prop('wall', { primitive: 'plane', size: [5, 3] }, [0, 0, 0], back),
    ],
    [0, 0, 5],
    false,
  );
  await openBench(page, app, id, OPEN);
  const seen = (x: number) => seenAt(page, stage, [x, 0.05, 0.5]).then(([r]) => r);
  const [blended, added] = [0.25 * 0.2 + 0.75 * 0.6, 0.25 * 0.2 + 0.6].map(shown) as [number, number];
  await expect.poll(async () => Math.abs((await seen(-0.4)) - blended)).toBeLessThanOrEqual(2);
  await page.getByRole('button', { name: 'More of the finish' }).click();
  await page.getByRole('switch', { name: 'Bright has its own' }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('combobox', { name: 'Finish' }).click();
  await page.getByRole('option', { name: 'add' }).click();
  await expect.poll(async () => Math.abs((await seen(-0.4)) - added)).toBeLessThanOrEqual(2);
  // The base, which another prop wears, blends as before.
  expect(Math.abs((await seen(0.4)) - blended)).toBeLessThanOrEqual(2);
  await saved(page);
  const kept = await app.effect(id);
  expect([kept.finish.alphaMode, kept.variants[0]!.finish?.alphaMode]).toEqual(['blend', 'add']);
  // A variant made from it is drawn as it is.
  await page.getByRole('button', { name: 'Save as variant' }).click();
  await page.getByLabel('Name of the new variant').fill('Brighter');
  await page.keyboard.press('Enter');
  await saved(page);
  expect((await app.effect(id)).variants.map((one) => one.finish?.alphaMode)).toEqual(['add', 'add']);
  await expect.poll(async () => Math.abs((await seen(-0.4)) - added)).toBeLessThanOrEqual(2);
  // Taken back, it is the base's again.
  await page.getByRole('button', { name: 'More of the finish' }).click();
  await page.getByRole('switch', { name: 'Brighter has its own' }).click();
  await expect.poll(async () => Math.abs((await seen(-0.4)) - blended)).toBeLessThanOrEqual(2);
});

test('the pattern of a dither belongs to the object: a copy stands in it elsewhere, and it moves with what is moved', async ({
  page,
  app,
}) => {
  onwards(140);
  const half = await effect(
    app,
    [grey('c', 0.9), { id: 'o', name: 'O', op: 'number', inputs: { in: v(0.5) } }],
    { emission: { from: 'c' }, opacity: { from: 'o' } },
    { alphaMode: 'dither' },
  );
  const back = await plain(app, 0.1);
  const square: Prop['source'] = { primitive: 'plane', size: [0.6, 0.6] };
  const wall = prop('wall', { primitive: 'plane', size: [6, 4] }, [0, 0, 0], back);
  const eye: [number, number, number] = [0, 0, 5];
  const stage = await stageWith(app, [prop('a', square, [0, 0, 0.5], half), wall], eye, false);
  await openBench(page, app, half, OPEN);
  await expect.poll(async () => (await seenAt(page, stage, [1, 0.8, 0]))[0]).toBeGreaterThan(80);
  const height = await page.getByTestId('stage').evaluate((c) => (c as HTMLCanvasElement).height);
  // Metres of a whole number of pixels, at 4.5 m under a lens of 30 degrees.
  const pixel = (2 * Math.tan((15 * Math.PI) / 180) * 4.5) / height;
  const crop = async (x: number, y: number) => {
    const [cx, cy] = await onCanvas(page, stage, 'front', [x, y, 0.5]);
    return page.getByTestId('stage').evaluate(
      (canvas, [left, top]) => {
        const copy = document.createElement('canvas');
        copy.width = copy.height = 48;
        const context = copy.getContext('2d')!;
        context.drawImage(canvas as HTMLCanvasElement, -left!, -top!);
        const { data } = context.getImageData(0, 0, 48, 48);
        return Array.from({ length: 48 * 48 }, (_, k) => data[k * 4]!);
      },
      [Math.round(cx) - 24, Math.round(cy) - 24] as const,
    );
  };
  const alike = (p: number[], q: number[]) => p.filter((c, k) => Math.abs(c - q[k]!) < 40).length / p.length;
  const before = await crop(0, 0);
  const move = async (x: number) => {
    const response = await fetch(`${app.url}/api/stages/${stage.id}`);
    const document = (await response.json()) as Stage;
    document.props[0]!.place[0] = x;
    const put = await fetch(`${app.url}/api/stages/${stage.id}`, {
      method: 'PUT',
      headers: { 'Content-Type': 'application/json', 'If-Match': response.headers.get('ETag')! },
      body: JSON.stringify({ saveId: crypto.randomUUID(), document }),
    });
    expect(put.status).toBe(200);
    await openBench(page, app, half, OPEN);
  };
  await move(37 * pixel);
  await expect.poll(async () => alike(before, await crop(37 * pixel, 0))).toBeGreaterThan(0.97);
  // Where it was, another part of it is seen: as alike as chance has it.
  expect(alike(before, await crop(0, 0))).toBeLessThan(0.75);
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
      { id: 'k', name: 'K', op: 'contact', inputs: { width: v(0.3) } },
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
    {
      viewpoints: [
        { id: 'front', name: 'Front', eye: [0, 5, 0.002], target: [0, 0, 0], fov: 30, lensBend: 0 },
        { id: 'far', name: 'Ten times as far', eye: [0, 50, 0.02], target: [0, 0, 0], fov: 30, lensBend: 0 },
      ],
    },
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
  // A ball of 0.5 m whose middle is 0.3 m under the ground meets it in a circle of 0.4 m, near by and far away.
  for (const view of ['front', 'far'] as const) {
    if (view === 'far') {
      await page.getByRole('button', { name: /^Viewpoint/ }).click();
      await drawn(page, () => page.getByRole('menuitemradio', { name: 'Ten times as far' }).click());
    }
    const [cx, cy] = await onCanvas(page, stage, view, [0.5, 0, 0]);
    const [rim] = await onCanvas(page, stage, view, [0.9, 0, 0]);
    const outermost = await page.getByTestId('stage').evaluate(
      (canvas, [x, y]) => {
        const copy = document.createElement('canvas');
        [copy.width, copy.height] = [Math.min(300, (canvas as HTMLCanvasElement).width - Math.round(x)), 1];
        const context = copy.getContext('2d')!;
        context.drawImage(canvas as HTMLCanvasElement, -Math.round(x), -Math.round(y));
        const { data } = context.getImageData(0, 0, copy.width, 1);
        let last = -1;
        for (let k = 0; k < copy.width; k++) if (data[k * 4]! > 200) last = k;
        return last;
      },
      [cx, cy] as const,
    );
    expect(Math.abs(outermost - (rim - cx))).toBeLessThanOrEqual(view === 'front' ? 2 : 1.5);
  }
});

test('through a slanted surface of glass a line is seen where the law of refraction puts it, and absorbed on the way', async ({
  page,
  app,
}) => {
  onwards(100);
  const index = 1.5;
  const [bar, slant] = [0.12, (35 * Math.PI) / 180];
  const glass = await effect(
    app,
    [
      grey('c', 0),
      { id: 'n', name: 'None', op: 'number', inputs: { in: v(0) } },
      { id: 'r', name: 'R', op: 'refractOffset', options: { by: 'index' }, inputs: { index: v(index) } },
    ],
    { emission: { from: 'c' }, opacity: { from: 'n' }, refraction: { from: 'r' } },
    { alphaMode: 'blend', writesDepth: false },
  );
  // Beer and Lambert: light that goes 0.5 m through 1.2 a metre keeps exp(-0.6) of itself.
  const tinted = await effect(
    app,
    [
      { id: 'b', name: 'B', op: 'behind' },
      { id: 'a', name: 'A', op: 'absorb', inputs: { in: { from: 'b' }, thickness: v(0.5), absorption: v([1.2, 0, 2.4]) } },
    ],
    { emission: { from: 'a' } },
    { alphaMode: 'blend', writesDepth: false },
  );
  const wall = await plain(app, 0.4);
  const line = await plain(app, 0.9);
  const eye = [0, 0, 5] as const;
  const middle = [0, 0, 1] as const;
  const stage = await stageWith(
    app,
    [
      prop('a', { primitive: 'plane', size: [1.2, 0.8] }, [...middle], glass, {
        turn: [0, Math.sin(slant / 2), 0, Math.cos(slant / 2)],
      }),
      prop('b', { primitive: 'plane', size: [0.4, 0.4] }, [-0.9, 0.7, 0.5], tinted),
      prop('line', { primitive: 'plane', size: [0.012, 3] }, [bar, 0, 0.001], line),
      prop('wall', { primitive: 'plane', size: [6, 4] }, [0, 0, 0], wall),
    ],
    [...eye],
    false,
  );
  await openBench(page, app, glass, OPEN);
  await expect
    .poll(async () => Math.abs((await seenAt(page, stage, [-0.9, 0.7, 0.5]))[0] - shown(0.4 * Math.exp(-0.6))))
    .toBeLessThanOrEqual(2);
  expect(Math.abs((await seenAt(page, stage, [-0.9, 0.7, 0.5]))[2] - shown(0.4 * Math.exp(-1.2)))).toBeLessThanOrEqual(2);

  /** Where on the wall the eye comes to rest that looks at a place of the slanted surface, in its plane y = 0. */
  const normal = [Math.sin(slant), Math.cos(slant)] as const;
  const landing = (u: number): number => {
    const s = [middle[0] + u * Math.cos(slant), middle[2] - u * Math.sin(slant)] as const;
    const ray = [s[0] - eye[0], s[1] - eye[2]] as const;
    const length = Math.hypot(...ray);
    const d = [ray[0] / length, ray[1] / length] as const;
    // Angles from the normal, of which the law of refraction speaks.
    const into = Math.asin(normal[0] * d[1] - normal[1] * d[0]);
    const bent = Math.asin(Math.sin(into) / index);
    const back = [-normal[0], -normal[1]] as const;
    const [c, t] = [Math.cos(bent), Math.sin(bent)];
    const r = [back[0] * c + back[1] * t, back[1] * c - back[0] * t] as const;
    return s[0] + r[0] * (s[1] / -r[1]);
  };
  let [low, high] = [-0.6, 0.6];
  for (let k = 0; k < 60; k++) {
    const u = (low + high) / 2;
    if (landing(u) < bar) low = u;
    else high = u;
  }
  const place: [number, number, number] = [low * Math.cos(slant), 0.02, middle[2] - low * Math.sin(slant)];
  const [wanted, y] = await onCanvas(page, stage, 'front', place);
  const [straight] = await onCanvas(page, stage, 'front', [bar, 0.02, 0]);
  const found = await page.getByTestId('stage').evaluate(
    (canvas, [from, to, row]) => {
      const copy = document.createElement('canvas');
      [copy.width, copy.height] = [to! - from!, 1];
      const context = copy.getContext('2d')!;
      context.drawImage(canvas as HTMLCanvasElement, -from!, -Math.round(row!));
      const { data } = context.getImageData(0, 0, copy.width, 1);
      let [sum, at] = [0, 0];
      for (let k = 0; k < copy.width; k++) {
        const over = Math.max(0, data[k * 4]! - 180);
        sum += over;
        at += over * (from! + k + 0.5);
      }
      return at / sum;
    },
    [Math.round(wanted) - 25, Math.round(wanted) + 25, y] as const,
  );
  // It is far from where it would be seen without glass.
  expect(Math.abs(wanted - straight)).toBeGreaterThan(12);
  expect(Math.abs(found - wanted)).toBeLessThanOrEqual(1);
});

test('surroundings light a white matt ball as their picture says, from every side, and need not be seen', async ({
  page,
  app,
}) => {
  onwards(130);
  const matt = await effect(
    app,
    [
      grey('w', 1),
      { id: 'one', name: 'One', op: 'number', inputs: { in: v(1) } },
      { id: 'none', name: 'None', op: 'number', inputs: { in: v(0) } },
    ],
    { baseColour: { from: 'w' }, roughness: { from: 'one' }, reflectance: { from: 'none' } },
    { lighting: 'lit' },
  );
  const strength = 0.25;
  const surroundings = { asset: 'wispen:hall', rgb: [1, 1, 1] as [number, number, number], strength, turn: 0, seen: false };
  const stage = await stageWith(app, [prop('a', { primitive: 'sphere', radius: 0.6 }, [0, 0, 0], matt)], [0, 0, 4], false, {
    surroundings,
    lights: [],
  });
  await openBench(page, app, matt, OPEN);
  const { width, height, rgb } = readHdr(readFileSync(new URL('../../public/surroundings/hall.hdr', import.meta.url)));
  /** The mean of the picture by the cosine: what a matt white surface sends out (Lambert). */
  const lit = (n: readonly [number, number, number]): number[] => {
    const sum = [0, 0, 0];
    let weights = 0;
    for (let y = 0; y < height; y++) {
      const up = (0.5 - (y + 0.5) / height) * Math.PI;
      for (let x = 0; x < width; x++) {
        // An equirectangular picture: its middle column is +x of the stage, as three has it.
        const around = ((x + 0.5) / width - 0.5) * 2 * Math.PI;
        const d = [Math.cos(up) * Math.cos(around), Math.sin(up), Math.cos(up) * Math.sin(around)];
        const weight = Math.max(0, d[0]! * n[0] + d[1]! * n[1] + d[2]! * n[2]) * Math.cos(up);
        weights += weight;
        for (let lane = 0; lane < 3; lane++) sum[lane]! += weight * rgb[(y * width + x) * 3 + lane]!;
      }
    }
    return sum.map((c) => (strength * c) / weights);
  };
  const light = (byte: number) => (byte / 255 <= 0.04045 ? byte / 255 / 12.92 : ((byte / 255 + 0.055) / 1.055) ** 2.4);
  await expect
    .poll(async () => {
      const off: string[] = [];
      for (const n of [
        [0, 0, 1],
        [0.6, 0.3, 0.74],
        [-0.6, 0.3, 0.74],
        [0, 0.75, 0.66],
        [0, -0.75, 0.66],
      ] as const) {
        const got = (await seenAt(page, stage, n.map((c) => c * 0.6) as [number, number, number])).map(light);
        lit(n).forEach((want, lane) => {
          if (Math.abs(got[lane]! - want) > 0.12 * want + 0.004)
            off.push(`${n.join()}: ${got[lane]!.toFixed(3)} not ${want.toFixed(3)}`);
        });
      }
      return off.join('; ');
    })
    .toBe('');
  // Not seen: what lies behind is the plain colour that stands for it, a quarter as bright.
  const [r] = await seenAt(page, stage, [1.4, 0.9, 0]);
  expect(Math.abs(r - shown(strength * 0.25))).toBeLessThanOrEqual(2);
});
