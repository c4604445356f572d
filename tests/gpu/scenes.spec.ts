/** Scenes evaluated without a screen: pictures, light and numbers, through a context that shows something else meanwhile. */
import { expect, test, type Page } from '@playwright/test';
import { bundleFor } from '../fixtures/bundle.js';
import { effectOf } from '../fixtures/sheets.js';
import { stageOf } from '../fixtures/stages.js';

const text = bundleFor(new URL('./scenesPage.ts', import.meta.url));
declare const window: { page: typeof import('./scenesPage.js') };

test.beforeEach(async ({ page }) => {
  await page.goto('about:blank');
  await page.addScriptTag({ content: await text });
});

/** A wall that fills the picture, in an effect of one number over its time. */
const stage = stageOf({
  props: [
    {
      ...stageOf().props[0]!,
      ...{ id: 'wall', name: 'Wall', source: { primitive: 'plane', size: [8, 8] }, place: [0, 1, 0] },
      parts: [{ part: 'all', effect: 'e-lamp', variant: null, overrides: {} }],
    },
  ],
});
const lamp = effectOf(
  [
    { id: 't', name: 'Time', op: 'time' },
    { id: 'lit', name: 'Lit', op: 'multiply', inputs: { a: { from: 't' }, b: { value: 0.25 } } },
  ],
  { emission: { from: 'lit' } },
  {
    id: 'e-lamp',
    finish: {
      alphaMode: 'opaque',
      sides: 'both',
      lighting: 'unlit',
      castsShadow: false,
      writesDepth: true,
      order: 0,
      alphaCutoff: 0.5,
    },
    dials: [{ id: 'd1', strand: 'lit', input: 'b', label: 'Gain', unit: '', soft: [0, 4], hard: [null, null], scale: 'linear' }],
    variants: [{ id: 'v1', name: 'Bright', values: { d1: 1.5 } }],
  },
);
/** Something with edges, shadows, dither and spill, so that samples differ. */
const sign = effectOf(
  [
    { id: 'u', name: 'U', op: 'uv' },
    { id: 'n', name: 'N', op: 'noise', inputs: { position: { from: 'u' }, scale: { value: 6 } } },
  ],
  { emission: { from: 'n' }, opacity: { from: 'n' } },
  {
    id: 'e-sign',
    finish: {
      alphaMode: 'dither',
      sides: 'both',
      lighting: 'lit',
      castsShadow: true,
      writesDepth: true,
      order: 0,
      alphaCutoff: 0.5,
    },
  },
);
const signStage = stageOf({
  props: [{ ...stageOf().props[0]!, parts: [{ part: 'all', effect: 'e-sign', variant: null, overrides: {} }] }],
});
const size = { width: 48, height: 32 };
const middle = (values: readonly number[]) => values.slice((16 * 48 + 24) * 4, (16 * 48 + 24) * 4 + 4);
const give = (page: Page, kind: 'picture' | 'light' | 'numbers', given: object, alone = false) =>
  page.evaluate(([k, g, a]) => window.page.give(k, g as never, a), [kind, given, alone] as const);

test('light is what the sheet says, in the variant that is asked for, before optics', async ({ page }) => {
  const at = async (time: number, more: object, samples = 1) =>
    middle(await give(page, 'light', { stage, effect: lamp, more, shot: { time, size, samples } })).slice(0, 3);
  // Radiance is time x gain, by the sheet. A half has eleven bits.
  expect(await at(2, {})).toEqual([0.5, 0.5, 0.5]);
  expect(await at(2, { variant: 'v1' })).toEqual([3, 3, 3]);
  expect(await at(8, { variant: null }, 5)).toEqual([2, 2, 2]);
});

test('numbers are those of a strand, unclamped and without a display between', async ({ page }) => {
  const look = { mode: 'unit', low: 0, high: 1, lanes: 1, colour: false };
  const numbers = await give(page, 'numbers', {
    ...{ stage, effect: lamp, more: { peek: { of: 'lit', look }, variant: 'v1' }, shot: { time: 7, size, samples: 1 } },
  });
  expect(middle(numbers)).toEqual([10.5, 0, 0, 1]);
});

test('a picture is encoded for the display, rows from the top, and shows the stage it was given', async ({ page }) => {
  const shot = { time: 2, size, samples: 1, raw: true };
  const picture = await give(page, 'picture', { stage, effect: lamp, shot });
  // IEC 61966-2-1 of 0.5 is 187.5 of 255; a dither of one step either way is added.
  for (const lane of middle(picture).slice(0, 3)) expect(Math.abs(lane - 187.5)).toBeLessThanOrEqual(1.5);
  expect(new Set(picture.filter((_, k) => k % 4 === 3))).toEqual(new Set([255]));
  // The wall stands in the upper half alone: row 0 has it.
  const high = {
    ...stage,
    props: [{ ...stage.props[0]!, place: [0, 5.5, 0] }],
    ground: { ...stage.ground, on: false, wall: false },
  };
  const half = await give(page, 'picture', { stage: high, effect: lamp, shot });
  const row = (y: number) => half.slice(y * 48 * 4 + 96, y * 48 * 4 + 99).reduce((a, b) => a + b, 0);
  expect(row(1)).toBeGreaterThan(400);
  expect(row(30)).toBeLessThan(200);
});

test('the same documents give the same bytes, alone or while another stage is shown, resized and drawn through the same context', async ({
  page,
}) => {
  const given = { stage: signStage, effect: sign, shot: { time: 0.5, size, samples: 8 } };
  const alone = await give(page, 'picture', given, true);
  const meanwhile = await page.evaluate(([shown, g]) => window.page.takenMeanwhile(shown as never, g as never), [
    { stage: signStage, effect: lamp },
    given,
  ] as const);
  expect(meanwhile.draws).toBe(8);
  expect(meanwhile.picture).toEqual(alone);
  // What is shown is what it was, too: shadows, sizes and programs are each renderer's own.
  expect(meanwhile.after).toBe(meanwhile.before);
  // Samples were taken: one alone is another picture.
  expect(await give(page, 'picture', { ...given, shot: { ...given.shot, samples: 1 } })).not.toEqual(alone);
});

test('one that is not wanted any more ends between two samples, and leaves nothing on the graphics card', async ({ page }) => {
  const given = { stage: signStage, effect: sign, shot: { time: 0.5, size, samples: 64 } };
  // Once, for what a context keeps for good.
  await give(page, 'picture', { ...given, shot: { ...given.shot, samples: 2 } });
  const before = await page.evaluate(() => window.page.held());
  const left = await page.evaluate((g) => window.page.leftOff(g as never), given);
  expect(left).toEqual({ why: 'left', samples: 3, other: 48 * 32 * 4 });
  expect(await page.evaluate(() => window.page.held())).toEqual(before);
});

test('a picture larger than the graphics card can draw is refused with a sentence', async ({ page }) => {
  const given = { stage, effect: lamp, shot: { time: 0, size: { width: 200_000, height: 10 }, samples: 1 } };
  await expect(give(page, 'picture', given)).rejects.toThrow(/too large for this graphics card, which draws up to \d+ pixels/);
});

test('a picture whose context is lost meanwhile is no black one, and the next is drawn through another', async ({ page }) => {
  const given = { stage: signStage, effect: sign, shot: { time: 0.5, size, samples: 3 } };
  const { said, next } = await page.evaluate((g) => window.page.lostMeanwhile(g), given);
  expect(said).toBe('The graphics card let go of the picture while it was drawn.');
  expect(next).toEqual(await give(page, 'picture', given));
});
