/** What the stage shows, measured: exposure, tone curves, sRGB, bloom, against their definitions on the CPU. */
import { emptyEffect, type Effect } from '../../src/core/effect/schema.js';
import type { Stage } from '../../src/core/scene/stage.js';
import { srgbEncode } from '../../src/core/base/srgb.js';
import { TONE, type Rgb } from '../../src/core/optics/tone.js';
import { readAt } from '../fixtures/read.js';
import { drawn, expect, links, onCanvas, openBench, pixelAt, test } from './app.js';

const STAGE = '0190a100-0000-7000-8000-000000000001';
const HOME = { stage: STAGE, prop: 'tube-1', viewpoint: 'hatch' };
test.use({ viewport: { width: 1000, height: 620 } });

/** A tube of one colour, unlit. */
function plain(n: number, rgb: Rgb, intensity: number): Effect {
  const empty = emptyEffect(`0190d000-0000-7000-8000-00000000000${n}`, 'Plain tube');
  return {
    ...empty,
    home: HOME,
    finish: { ...empty.finish, lighting: 'unlit' },
    strands: [{ id: 'hue', name: 'Hue', op: 'colour', inputs: { in: { value: { rgb: [...rgb], intensity, unit: 'factor' } } } }],
    outputs: { emission: { from: 'hue' } },
  };
}

async function setStage(
  app: { url: string; get: <T>(path: string) => Promise<T> },
  change: (stage: Stage) => void,
): Promise<Stage> {
  const response = await fetch(`${app.url}/api/stages/${STAGE}`);
  const stage = (await response.json()) as Stage;
  change(stage);
  const put = await fetch(`${app.url}/api/stages/${STAGE}`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json', 'If-Match': response.headers.get('ETag')! },
    body: JSON.stringify({ saveId: crypto.randomUUID(), document: stage }),
  });
  expect(put.status).toBe(200);
  return stage;
}

test('a pixel is the colour, exposed, through the tone curve and the sRGB transfer', async ({ page, app }) => {
  const cases: { rgb: Rgb; intensity: number; exposure: number; tone: 'khronos-neutral' | 'linear' }[] = [
    { rgb: [0.18, 0.18, 0.18], intensity: 1, exposure: 0, tone: 'khronos-neutral' },
    { rgb: [1, 0.2, 0.05], intensity: 10, exposure: 0, tone: 'khronos-neutral' },
    { rgb: [0.5, 0.25, 0.1], intensity: 1, exposure: 1.5, tone: 'khronos-neutral' },
    { rgb: [0.5, 0.25, 0.1], intensity: 1, exposure: -1, tone: 'linear' },
    { rgb: [0.5, 0.25, 0.1], intensity: 3, exposure: 0, tone: 'linear' },
  ];
  for (const [k, { rgb, intensity, exposure, tone }] of cases.entries()) {
    const stage = await setStage(app, (s) => {
      Object.assign(s.optics, { exposure, tone });
      s.optics.bloom.on = false;
    });
    const effect = plain(k, rgb, intensity);
    await app.store(effect);
    await openBench(page, app, effect.id, '?clock=frozen');
    await expect.poll(() => links(page)).toBe(1);
    const middle = await onCanvas(page, stage, 'hatch', [0, 1.62, 0.135]);
    const exposed = rgb.map((c) => c * intensity * 2 ** exposure) as unknown as Rgb;
    const expected = TONE[tone](exposed).map((c) => Math.round(255 * srgbEncode(c)));
    await expect
      .poll(async () => Math.max(...(await pixelAt(page, ...middle)).map((v, lane) => Math.abs(v - expected[lane]!))))
      .toBeLessThanOrEqual(2);
  }
});

test('bloom: nothing under the threshold, a halo over it, wider with a wider spread, gone when it is off', async ({
  page,
  app,
}) => {
  const stage = await setStage(app, (s) => {
    Object.assign(s.optics, { exposure: 0, tone: 'linear' });
    Object.assign(s.optics.bloom, { on: true, threshold: 1, knee: 0.1, intensity: 2, spread: 0.1 });
    Object.assign(s.ground, { on: false });
    s.spill.on = false;
    s.surroundings.strength = 0;
  });
  const dim = plain(6, [0.8, 0.8, 0.8], 1);
  const bright = plain(7, [0.8, 0.8, 0.8], 12);
  await app.store(dim);
  await app.store(bright);

  await openBench(page, app, dim.id, '?clock=frozen');
  await expect.poll(() => links(page)).toBe(1);
  const at = await onCanvas(page, stage, 'hatch', [0, 1.74, 0.09]);
  const far = await onCanvas(page, stage, 'hatch', [0, 2.0, 0.09]);
  expect((await pixelAt(page, ...at))[0]).toBeLessThanOrEqual(1);

  await openBench(page, app, bright.id, '?clock=frozen');
  await expect.poll(() => links(page)).toBe(1);
  await expect.poll(async () => (await pixelAt(page, ...at))[0]).toBeGreaterThan(20);
  const narrow = (await pixelAt(page, ...far))[0];
  await page.getByRole('button', { name: /^Optics:/ }).click();
  await drawn(page, async () => {
    await page.getByLabel('Bloom spread value').fill('0.6');
    await page.keyboard.press('Enter');
  });
  await expect.poll(async () => (await pixelAt(page, ...far))[0]).toBeGreaterThan(narrow);
  await drawn(page, () => page.getByRole('switch', { name: 'Bloom' }).click());
  await expect.poll(async () => (await pixelAt(page, ...at))[0]).toBeLessThanOrEqual(1);
});

test('an effect that runs on is as smooth after twelve days as in its first second', async ({ page, app }) => {
  const plainTube = plain(8, [1, 1, 1], 1);
  const strands = [
    ...plainTube.strands,
    { id: 'hum', name: 'Hum', op: 'wave', inputs: { rate: { value: 0.75 }, low: { value: 0.05 }, high: { value: 0.6 } } },
    { id: 'lamp', name: 'Lamp', op: 'flicker', inputs: { rate: { value: 3 }, low: { value: 0.2 }, high: { value: 1 } } },
    { id: 'both', name: 'Both', op: 'multiply', inputs: { a: { from: 'hue' }, b: { from: 'hum' } } },
    { id: 'flicked', name: 'Flicked', op: 'multiply', inputs: { a: { from: 'hue' }, b: { from: 'lamp' } } },
  ];
  const [hum, lamp] = (['both', 'flicked'] as const).map((from, k) => ({
    ...plainTube,
    id: `0190d000-0000-7000-8000-0000000000a${k}`,
    loop: null,
    strands,
    outputs: { emission: { from } },
  })) as [Effect, Effect];
  await app.store(hum);
  await app.store(lamp);
  const stage = await setStage(app, (s) => {
    Object.assign(s.optics, { exposure: 0, tone: 'linear' });
    s.optics.bloom.on = false;
  });
  const shown = async (effect: Effect, time: number) => {
    await openBench(page, app, effect.id, `?clock=frozen&quality=draft&t=${time}`);
    await expect.poll(() => links(page)).toBe(1);
    const middle = await onCanvas(page, stage, 'hatch', [0, 1.62, 0.135]);
    return (await pixelAt(page, ...middle))[0];
  };
  // 0.75 Hz has come round 750,000 times.
  for (const time of [0.1, 0.37])
    expect(Math.abs((await shown(hum, 1e6 + time)) - (await shown(hum, time)))).toBeLessThanOrEqual(1);
  // Floats of that size have steps of 62 ms: between them a picture would stand still. Frames are 33 ms apart.
  const seen: number[] = [];
  for (const frame of [4, 5, 6, 7]) {
    const time = 1e6 + frame / 30;
    seen.push(await shown(lamp, time));
    const [value] = readAt(lamp, 'lamp', { time: [time] }) as [number];
    expect(Math.abs(seen.at(-1)! - 255 * srgbEncode(value))).toBeLessThanOrEqual(2);
  }
  expect(new Set(seen).size).toBe(4);
});
