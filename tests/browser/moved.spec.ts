/** Surfaces that move, have holes, edges and two sides: measured in pixels against closed forms. */
import type { Strand } from '../../src/core/effect/schema.js';
import type { Stage } from '../../src/core/scene/stage.js';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, openBench, pixelAt, onCanvas, saved, test } from './app.js';
import { largeMesh } from './meshes.js';
import { OPEN, effect, grey, onwards, plain, prop, seenAt, shown, stageWith, v } from './panes.js';

test('a displaced sphere has the normals of the surface it has become', async ({ page, app }) => {
  onwards(40);
  const [radius, height, waves] = [0.5, 0.04, 12];
  const strands: Strand[] = [
    { id: 'p', name: 'P', op: 'position', options: { space: 'object' } },
    { id: 'n', name: 'N', op: 'normal', options: { space: 'object' } },
    {
      id: 'd',
      name: 'D',
      op: 'formula',
      inputs: { a: { from: 'p' }, b: { from: 'n' }, formula: v({ text: `b * sin(a.y * ${waves}.0) * ${height}` }) },
    },
    { id: 'w', name: 'W', op: 'normal', options: { space: 'world' } },
    { id: 'c', name: 'C', op: 'formula', inputs: { a: { from: 'w' }, formula: v({ text: 'a * 0.5 + 0.5' }) } },
  ];
  const worn = await effect(app, strands, { emission: { from: 'c' }, displacement: { from: 'd' } });
  const stage = await stageWith(app, [prop('a', { primitive: 'sphere', radius }, [0, 0, 0], worn)], [0, 0, 3], false);
  await openBench(page, app, worn, OPEN);
  const looks = [-50, -35, -20, -5, 10, 25, 40, 55].flatMap((up) => [-40, 0, 40].map((around) => [up, around] as const));
  await expect
    .poll(async () => {
      let worst = 0;
      for (const [up, around] of looks) {
        const [a, b] = [(up * Math.PI) / 180, (around * Math.PI) / 180];
        const n = [Math.cos(a) * Math.sin(b), Math.sin(a), Math.cos(a) * Math.cos(b)] as const;
        const r = radius + height * Math.sin(waves * radius * n[1]);
        // The gradient of |p| - R - h sin(k R p.y / |p|), which is 0 on the surface.
        const slope = (height * waves * radius * Math.cos(waves * radius * n[1])) / r;
        const g = n.map((c, k) => c - slope * ((k === 1 ? 1 : 0) - n[1] * c));
        const size = Math.hypot(...g);
        const got = await seenAt(page, stage, n.map((c) => c * r) as [number, number, number]);
        g.forEach((c, k) => (worst = Math.max(worst, Math.abs(got[k]! - shown((c / size) * 0.5 + 0.5)))));
      }
      return worst;
    })
    .toBeLessThanOrEqual(5);
});

test('a masked sheet casts its holes, a displaced one casts where it has moved to, and what moves is never out of sight', async ({
  page,
  app,
}) => {
  onwards(50);
  const casting = { lighting: 'lit', castsShadow: true, sides: 'both' } as const;
  const holed = await effect(
    app,
    [grey('c', 0), { id: 'u', name: 'U', op: 'uv' }],
    { emission: { from: 'c' }, opacity: { from: 'u', part: 'x' } },
    { ...casting, alphaMode: 'mask', alphaCutoff: 0.5 },
  );
  const shift = (id: string, x: number): Strand => ({ id, name: id, op: 'vector', inputs: { in: v([x, 0, 0]) } });
  const moved = await effect(
    app,
    [grey('c', 0), shift('d', 1.5)],
    { emission: { from: 'c' }, displacement: { from: 'd' } },
    casting,
  );
  const far = await effect(app, [grey('c', 0.5), shift('d', -40)], { emission: { from: 'c' }, displacement: { from: 'd' } });
  const lid = { turn: [-Math.SQRT1_2, 0, 0, Math.SQRT1_2] as [number, number, number, number] };
  const key = { id: 'key', name: 'Key', kind: 'key', place: [0, 5, 0], target: [0, 0, 0], rgb: [1, 1, 1] } as const;
  const lights = [{ ...key, intensity: 1, shadow: true, drivenBy: null }] as unknown as Stage['lights'];
  const stage = await stageWith(
    app,
    [
      prop('a', { primitive: 'plane', size: [1, 1] }, [-1, 1.5, 0], holed, lid),
      prop('b', { primitive: 'plane', size: [0.8, 0.8] }, [-0.5, 1.5, 0], moved, lid),
      prop('c', { primitive: 'sphere', radius: 0.15 }, [40, 0.3, 0.9], far),
    ],
    [0, 0.9, 5],
    true,
    { lights },
  );
  await openBench(page, app, holed, OPEN);
  const lit = async (x: number) => (await seenAt(page, stage, [x, 0, 0]))[0];
  await expect
    .poll(async () => {
      // Under the hole, under what is there of the sheet, under where the other was, and under where it is.
      const [hole, solid, was, is] = await Promise.all([lit(-1.25), lit(-0.75), lit(-0.3), lit(1)]);
      return hole! - solid! > 30 && was! - is! > 30 && Math.abs(hole! - was!) < 12 && Math.abs(solid! - is!) < 12
        ? 'as it should'
        : `${hole} ${solid} ${was} ${is}`;
    })
    .toBe('as it should');
  // Taken away and given back, the shadow has its hole again.
  await page.getByRole('button', { name: 'casts shadow' }).click();
  await expect.poll(async () => Math.abs((await lit(-1.25)) - (await lit(-0.75)))).toBeLessThan(12);
  await page.getByRole('button', { name: 'no shadow' }).click();
  await expect.poll(async () => (await lit(-1.25)) - (await lit(-0.75))).toBeGreaterThan(30);
  // Forty metres to the side it would be out of sight: it has been moved to the middle.
  const [r] = await seenAt(page, stage, [0, 0.3, 1.05]);
  expect(Math.abs(r - shown(0.5))).toBeLessThanOrEqual(2);
});

test('edges of quads are lines without diagonals, in metres; triangles’ edges have them', async ({ page, app }) => {
  onwards(60);
  const wires = (diagonals: string): Strand[] => [
    { id: 'e', name: 'E', op: 'edgeDistance', options: { unit: 'metres', diagonals } },
    { id: 'c', name: 'C', op: 'formula', inputs: { a: { from: 'e' }, formula: v({ text: 'vec3(a * 5.0)' }) } },
  ];
  const quads = await effect(app, wires('hidden'), { emission: { from: 'c' } });
  const all = await effect(app, wires('shown'), { emission: { from: 'c' } });
  const box = { primitive: 'box', size: [1.6, 1.6, 0.2] } as const;
  const stage = await stageWith(
    app,
    [
      prop('a', { ...box, size: [...box.size] }, [-0.9, 0, 0], quads, { scale: [1, 1, 1] }),
      prop('b', { ...box, size: [...box.size] }, [0.9, 0, 0], all),
    ],
    [0, 0, 5],
    false,
  );
  await openBench(page, app, quads, OPEN);
  // The box has eight cells to a side, of 0.2 m: their middles are 0.1 m from the nearest wire.
  await expect
    .poll(async () => {
      const at = async (x: number, y: number) => (await seenAt(page, stage, [x, y, 0.1]))[0];
      const [middle, quarter, wire, diagonal] = await Promise.all([
        at(-0.9 + 0.1, 0.1),
        at(-0.9 + 0.05, 0.1),
        at(-0.9, 0.1),
        at(0.9 + 0.1, 0.1),
      ]);
      const wanted = [0.5, 0.25, 0, 0].map(shown);
      const off = [middle, quarter, wire, diagonal].map((c, k) => Math.abs(c! - wanted[k]!));
      // A pixel is 5 mm here, and a wire is narrower than one.
      return off[0]! <= 10 && off[1]! <= 10 && off[2]! <= 60 && off[3]! <= 60 ? 'as far' : off.join();
    })
    .toBe('as far');
});

test('a see-through ball of two sides is blended back faces first; draw order goes before depth', async ({ page, app }) => {
  onwards(70);
  const half = { alphaMode: 'blend', writesDepth: false } as const;
  const sides = await effect(
    app,
    [
      { id: 'f', name: 'F', op: 'facing' },
      { id: 'c', name: 'C', op: 'formula', inputs: { a: { from: 'f' }, formula: v({ text: 'vec3(a, 1.0 - a, 0.0)' }) } },
      { id: 'o', name: 'O', op: 'number', inputs: { in: v(0.5) } },
    ],
    { emission: { from: 'c' }, opacity: { from: 'o' } },
    { ...half, sides: 'both' },
  );
  const pane = (value: number, order: number) =>
    effect(
      app,
      [grey('c', value), { id: 'o', name: 'O', op: 'number', inputs: { in: v(0.5) } }],
      { emission: { from: 'c' }, opacity: { from: 'o' } },
      { ...half, order },
    );
  const [dark, bright, late] = [await pane(0.2, 0), await pane(0.8, 0), await pane(0.8, 1)];
  const square = { primitive: 'plane', size: [0.4, 0.4] } as const;
  const panes = (x: number, behind: string, before: string) => [
    prop(`${behind}${x}`, { ...square, size: [...square.size] }, [x, 0, 0.2], behind),
    prop(`${before}${x}`, { ...square, size: [...square.size] }, [x, 0, 0.4], before),
  ];
  const wall = await plain(app, 0.4);
  const stage = await stageWith(
    app,
    [
      prop('a', { primitive: 'sphere', radius: 0.3 }, [-1, 0, 0.5], sides),
      // Stored in the order that would be wrong.
      ...panes(0, dark, bright).reverse(),
      ...panes(1, late, dark).reverse(),
      prop('wall', { primitive: 'plane', size: [6, 4] }, [0, 0, 0], wall),
    ],
    [0, 0, 5],
    false,
  );
  await openBench(page, app, sides, OPEN);
  const ball = [0.5 * 1 + 0.25 * 0 + 0.25 * 0.4, 0.5 * 0 + 0.25 * 1 + 0.25 * 0.4];
  const byDepth = 0.5 * 0.8 + 0.25 * 0.2 + 0.25 * 0.4;
  // The one behind is drawn last: its order says so.
  const byOrder = 0.5 * 0.8 + 0.25 * 0.2 + 0.25 * 0.4;
  await expect
    .poll(async () => {
      const got = [
        (await seenAt(page, stage, [-1, 0.05, 0.8])).slice(0, 2),
        [(await seenAt(page, stage, [0, 0.05, 0.4]))[0]],
        [(await pixelAt(page, ...(await onCanvas(page, stage, 'front', [1, 0.05, 0.4]))))[0]],
      ].flat();
      const wanted = [...ball, byDepth, byOrder].map(shown);
      return got.every((c, k) => Math.abs(c - wanted[k]!) <= 2)
        ? 'in order'
        : `${got.join()}, not ${wanted.map(Math.round).join()}`;
    })
    .toBe('in order');
});

test('a displacement of a billion metres, or of none that is a number, harms nothing else and is gone when it is undone', async ({
  page,
  app,
}) => {
  onwards(110);
  const wild = (x: string): Strand[] => [
    grey('c', 0.5),
    { id: 'p', name: 'P', op: 'position' },
    { id: 'd', name: 'D', op: 'formula', inputs: { a: { from: 'p' }, formula: v({ text: x }) } },
  ];
  const outputs = { emission: { from: 'c' }, displacement: { from: 'd' } };
  const casting = { lighting: 'lit', castsShadow: true } as const;
  const far = await effect(app, wild('a * 1000000000.0'), outputs, casting);
  const none = await effect(
    app,
    wild('a * 1000000000.0 * 1000000000.0 * 1000000000.0 * 1000000000.0 * 1000000000.0'),
    outputs,
    casting,
  );
  const wall = await plain(app, 0.4);
  const ball = { primitive: 'sphere', radius: 0.3 } as const;
  const stage = await stageWith(
    app,
    [
      prop('a', ball, [-0.8, 0, 0.5], far),
      prop('b', ball, [0.8, 0, 0.5], none),
      prop('wall', { primitive: 'plane', size: [6, 4] }, [0, 0, 0], wall),
    ],
    [0, 0, 5],
    false,
  );
  await openBench(page, app, far, OPEN);
  await expect.poll(async () => (await seenAt(page, stage, [0, 0.9, 0]))[0]).toBeGreaterThan(shown(0.4) - 4);
  // Bypassed, it is where it was.
  await page.locator('[data-strand=d]').click();
  await page.keyboard.press('b');
  await expect.poll(async () => Math.abs((await seenAt(page, stage, [-0.8, 0.1, 0.78]))[0] - shown(0.4))).toBeGreaterThan(8);
});

test('a mesh of two million triangles is read with its progress told, while the sheet goes on; then it wears the effect', async ({
  page,
  app,
}) => {
  onwards(120);
  const worn = await effect(app, [grey('c', 0.6), grey('d', 0.2)], { emission: { from: 'c' } });
  const stage = await stageWith(app, [prop('a', { primitive: 'sphere', radius: 0.1 }, [-1.3, 0.9, 0], worn)], [0, 0.4, 5], false);
  const folder = mkdtempSync(join(tmpdir(), 'wispen-mesh-'));
  try {
    const file = join(folder, 'Seabed.glb');
    writeFileSync(file, largeMesh(1000));
    await openBench(page, app, worn, OPEN);
    await page.getByRole('button', { name: /^Props:/ }).click();
    await page.getByLabel('Mesh file').setInputFiles(file);
    await page.keyboard.press('Escape');
    // Told while it is read, and the sheet takes an edit meanwhile.
    await expect(page.getByRole('region', { name: 'Stage', exact: true }).getByRole('status')).toContainText(
      /\d % of 2,000,000 triangles/,
    );
    await page.locator('[data-strand=d]').click();
    await page.keyboard.press('Delete');
    await expect(page.locator('[data-strand=d]')).toHaveCount(0);
    await expect(page.getByTestId('notice')).toContainText(/2,000,000 triangles, read in [\d.]+ s, and no normals/, {
      timeout: 200_000,
    });
    await saved(page);
    const placed = (await app.get<Stage>(`/api/stages/${stage.id}`)).props.find((p) => p.name === 'Seabed')!;
    // The picture has stepped back to show it and the ball; it is measured from where the stage is looked at.
    await page.getByRole('button', { name: /^Back to the viewpoint/ }).click();
    const spot: [number, number, number] = [placed.place[0], placed.place[1] - 0.5, placed.place[2]];
    await expect
      .poll(async () => Math.abs((await seenAt(page, stage, spot))[0] - shown(0.6)), { timeout: 120_000 })
      .toBeLessThanOrEqual(2);
  } finally {
    rmSync(folder, { recursive: true });
  }
});
