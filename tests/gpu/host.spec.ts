/**
 * What leaves is drawn by a host that knows only the exported folder, whole pictures at three times, and held to the stage
 * without its optics. Lighting by glTF 2.0, appendix B (Khronos; from memory).
 */
import { expect, test } from '@playwright/test';
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { compile } from '../../src/cli/compile.js';
import { randomOf } from '../../src/core/base/random.js';
import type { Effect } from '../../src/core/effect/schema.js';
import { writeEffect } from '../../src/core/effect/write.js';
import { writeBundle } from '../../src/core/formats/bundle.js';
import { bundleFor } from '../fixtures/bundle.js';
import { effectOf } from '../fixtures/sheets.js';
import { stageOf } from '../fixtures/stages.js';
import { STARTERS, starter } from '../fixtures/starters.js';
import type { Folder } from './hostPage.js';

const text = bundleFor(new URL('./hostPage.ts', import.meta.url));
declare const window: { page: typeof import('./hostPage.js') };

const IMAGES = new URL('../../demo/images/', import.meta.url).pathname;
const images = new Map(
  readdirSync(IMAGES).map((name) => {
    const bytes = readFileSync(join(IMAGES, name));
    return [createHash('sha256').update(bytes).digest('hex'), { bytes, type: name.endsWith('png') ? 'image/png' : 'image/jpeg' }];
  }),
);
const address = (bytes: Buffer, type: string) => `data:${type};base64,${bytes.toString('base64')}`;

/** Behind what is looked at: grains of several sizes. */
const backdrop = effectOf(
  [
    { id: 'p', name: 'Place', op: 'position' },
    { id: 'n', name: 'Grain', op: 'noise', inputs: { position: { from: 'p' }, scale: { value: 2.5 } } },
    { id: 'half', name: 'Half', op: 'multiply', inputs: { a: { from: 'n' }, b: { value: 0.5 } } },
    { id: 'up', name: 'Up', op: 'add', inputs: { a: { from: 'half' }, b: { value: 0.5 } } },
  ],
  { emission: { from: 'up' } },
  {
    id: 'e-backdrop',
    finish: {
      ...{ alphaMode: 'opaque', sides: 'both', lighting: 'unlit', castsShadow: false },
      ...{ writesDepth: true, order: 0, alphaCutoff: 0.5 },
    },
  },
);
const [plain] = stageOf().props;
const wearing = (effect: string) => [{ part: 'all', effect, variant: null, overrides: {} }];
const stageFor = (effect: Effect) =>
  stageOf({
    props: [
      {
        ...plain!,
        ...{ id: 'ball', name: 'Ball', source: { primitive: 'sphere', radius: 0.6 }, place: [0.1, 1, 0], seed: 5 },
        ...{ turn: [0.13, 0.26, 0, 0.957], scale: [1, 0.9, 1.1], parts: wearing(effect.id) },
      },
      {
        ...plain!,
        ...{ id: 'backdrop', name: 'Backdrop', source: { primitive: 'plane', size: [12, 12] }, place: [0, 1, -1.2], seed: 7 },
        parts: wearing(backdrop.id),
      },
    ],
    lights: [{ ...stageOf().lights[0]!, kind: 'sun', place: [2, 3, 4], target: [0, 0, 0], intensity: 1.2, shadow: false }],
    surroundings: { asset: null, rgb: [0, 0, 0], strength: 0, turn: 0, seen: false },
    ground: { ...stageOf().ground, on: false, wall: false },
    spill: { on: false, strength: 0 },
  });

/** What `wispen compile` leaves of a bundle, read back from its folder. */
async function exported(effect: Effect, freeze: boolean, variant: string | null): Promise<Folder> {
  const folder = mkdtempSync(join(tmpdir(), 'wispen-host-'));
  const said = console.log;
  try {
    const file = join(folder, 'effect.wispen');
    const assets = new Map(Object.values(effect.assets).map(({ sha256 }) => [sha256, new Uint8Array(images.get(sha256)!.bytes)]));
    writeFileSync(file, writeBundle({ effects: [effect], stages: [], assets }));
    console.log = () => undefined;
    await compile(file, { target: 'glsl', out: join(folder, 'out'), freeze, variant });
    const read = (name: string) => readFileSync(join(folder, 'out', name));
    const files = readdirSync(join(folder, 'out')).filter((n) => /\.(png|jpg)$/.test(n));
    return {
      vertex: read('effect.vert').toString(),
      fragment: read('effect.frag').toString(),
      about: JSON.parse(read('uniforms.json').toString()) as Folder['about'],
      files: Object.fromEntries(files.map((n) => [n, address(read(n), n.endsWith('png') ? 'image/png' : 'image/jpeg')])),
    };
  } finally {
    console.log = said;
    rmSync(folder, { recursive: true });
  }
}

/** One that refracts and moves, one lit by its mesh's bent normal, one with holes, one unlit with an image. */
const SOME = ['tank-water', 'kelp-current', 'specimen-fade', 'sampling-dome'];
const SURFACES = STARTERS.map((name) => ({ name, effect: starter(name) })).filter(({ effect }) => effect.kind === 'surface');

for (const { name, effect } of SURFACES.filter((s) => process.env.WISPEN_DEEP !== undefined || SOME.includes(s.name)))
  test(`${name} looks in another host as it does on the stage`, async ({ page }) => {
    test.setTimeout(180_000);
    await page.goto('about:blank');
    await page.addScriptTag({ content: await text });
    const folders = { ball: await exported(effect, false, null), backdrop: await exported(backdrop, true, null) };
    const found = await page.evaluate((job) => window.page.both(job), {
      ...{ stage: stageFor(effect), effect: JSON.parse(writeEffect(effect)) as unknown },
      ...{ backdrop: JSON.parse(writeEffect(backdrop)) as unknown, folders },
      images: Object.fromEntries([...images].map(([sha, { bytes, type }]) => [sha, address(bytes, type)])),
      ...{ random: { ball: randomOf(5), backdrop: randomOf(7) }, times: [0, 1.37, 4.6] },
    });
    for (const { stage, host } of found) {
      const apart = stage.map((v, k) => Math.abs(v - host[k]!) > 0.02 + 0.03 * Math.abs(v));
      const mean = (of: number[]) => of.reduce((sum, v) => sum + v, 0) / of.length;
      // Outlines and wires are smoothed on the stage alone; holes that lie elsewhere by a rounding are few.
      expect(apart.filter(Boolean).length / apart.length).toBeLessThan(0.05);
      expect(Math.abs(mean(host) / mean(stage) - 1)).toBeLessThan(0.01);
      expect(Math.max(...stage) - Math.min(...stage)).toBeGreaterThan(0.3);
    }
  });
