/** How the bench keeps up with the hand at 19 and at 286 strands: scrolling, typing, editing; and until the picture changes. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { SOFTWARE, root, serve } from '../scripts/serve.js';
import type { Effect, Strand } from '../src/core/effect/schema.js';

const DOME = JSON.parse(readFileSync(join(root, 'demo/starters/sampling-dome.wispen.json'), 'utf8')) as Effect;

/** The dome's sheet so many times over, each with names and ids of its own; the emissions are joined by a maximum. */
function domes(times: number, id: string): Effect {
  const strands: Strand[] = [];
  let last = 'glow0';
  for (let k = 0; k < times; k++) {
    for (const s of DOME.strands) {
      const inputs = Object.fromEntries(
        Object.entries(s.inputs ?? {}).map(([name, input]) => [
          name,
          'from' in input! ? { ...input, from: `${input.from}${k}` } : input,
        ]),
      );
      strands.push({ ...s, id: `${s.id}${k}`, name: `${s.name} ${k}`, inputs } as Strand);
    }
    if (k === 0) continue;
    const max: Strand = { id: `max${k}`, name: `Max ${k}`, op: 'max', inputs: { a: { from: last }, b: { from: `glow${k}` } } };
    strands.push(max);
    last = max.id;
  }
  const sections = Array.from({ length: times }, (_, k) => ({ title: `Dome ${k}`, first: `t${k}` }));
  return {
    ...DOME,
    ...{ id, name: `${strands.length} strands`, strands, sections, dials: [], variants: [] },
    outputs: { emission: { from: last }, opacity: { from: 'cover0' } },
  };
}

export interface Kept {
  readonly strands: number;
  /** Milliseconds between frames, the middle one and the one that nine in ten are below. */
  readonly scroll: readonly [number, number];
  readonly typing: readonly [number, number];
  /** Of our own work when a strand is bypassed, until the next frame. */
  readonly edit: readonly [number, number];
}

const spread = (all: number[]): [number, number] => {
  const sorted = [...all].sort((a, b) => a - b);
  return [sorted[Math.floor(sorted.length / 2)]!, sorted[Math.floor(sorted.length * 0.9)]!];
};

/** Frames while something is done at every frame. @param act run in the page, given the number of the frame */
const framesWhile = (page: Page, count: number, act: string): Promise<number[]> =>
  page.evaluate(
    async ([n, code]) => {
      const act = new Function('k', code as string) as (k: number) => void;
      const times: number[] = [];
      let last = await new Promise<number>((done) => requestAnimationFrame(done));
      for (let k = 0; k < (n as number); k++) {
        act(k);
        const now = await new Promise<number>((done) => requestAnimationFrame(done));
        times.push(now - last);
        last = now;
      }
      return times;
    },
    [count, act] as const,
  );

/** From a key to the end of the frame that follows it. */
const keyed = (page: Page, count: number, key: string, on: string): Promise<number[]> =>
  page.evaluate(
    async ([n, k, selector]) => {
      const times: number[] = [];
      for (let i = 0; i < (n as number); i++) {
        const row = document.querySelector(selector as string)!;
        await new Promise((done) => setTimeout(done, 300));
        const began = performance.now();
        row.dispatchEvent(new KeyboardEvent('keydown', { key: k as string, bubbles: true, cancelable: true }));
        await new Promise((done) => requestAnimationFrame(() => setTimeout(done, 0)));
        times.push(performance.now() - began);
      }
      return times;
    },
    [count, key, on] as const,
  );

async function measure(page: Page, strands: number, first: string): Promise<Kept> {
  await page.getByRole('treegrid').waitFor();
  await page.locator(`[data-strand=${first}] [data-testid=range]`).filter({ hasText: '..' }).waitFor();
  const scroll = await framesWhile(page, 90, `document.querySelector('[role=treegrid]').scrollTop = (k % 60) * 40`);
  await page.locator('[role=treegrid]').evaluate((e) => void (e.scrollTop = 0));
  const row = page.locator(`[data-strand=${first}]`);
  await row.click({ position: { x: 100, y: 14 } });
  const edit = await keyed(page, 12, 'b', `[data-strand=${first}]`);
  await page.keyboard.press('/');
  await page.getByRole('dialog', { name: 'Add a strand' }).waitFor();
  const typed = 'Edge = smoothstep .2, .6, Rim cut 0';
  const typing: number[] = [];
  for (const letter of typed) {
    const began = await page.evaluate(() => performance.now());
    await page.keyboard.type(letter);
    typing.push(
      (await page.evaluate(
        () => new Promise<number>((done) => requestAnimationFrame(() => setTimeout(() => done(performance.now()), 0))),
      )) - began,
    );
  }
  await page.keyboard.press('Escape');
  return { strands, scroll: spread(scroll), typing: spread(typing), edit: spread(edit) };
}

/** Milliseconds from what is done in the page to the frame of the stage that follows it. */
const untilDrawn = (page: Page, act: string): Promise<number> =>
  page.evaluate<number>(`(async () => {
    const canvas = document.querySelector('[data-testid=stage]');
    const [before, began] = [canvas.dataset.frames, performance.now()];
    ${act};
    while (canvas.dataset.frames === before) await new Promise(requestAnimationFrame);
    return performance.now() - began;
  })()`);

/** @returns the sheets without a picture; and, on 59 strands, how long a typed number and a step of time take to be drawn */
export async function interfaceFrames(): Promise<{
  small: Kept;
  large: Kept;
  typed: readonly [number, number];
  stepped: readonly [number, number];
}> {
  const { url, stop } = await serve();
  const effects = [1, 3, 15].map((times, k) => domes(times, `0190a000-0000-7000-8000-0000000009${k}0`));
  for (const effect of effects) {
    const { status } = await fetch(`${url}/api/effects/${effect.id}`, {
      method: 'PUT',
      headers: { 'Content-Type': 'application/json', 'If-None-Match': '*' },
      body: JSON.stringify({ saveId: `bench-${effect.id}`, document: { ...effect, home: { ...DOME.home, stage: STAGE } } }),
    });
    if (status !== 201) throw new Error(`the server answered ${status}`);
  }
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: SOFTWARE,
  });
  try {
    const open = async (effect: Effect, dark: boolean) => {
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, serviceWorkers: 'block' });
      if (dark)
        await page.addInitScript(() => {
          const { getContext } = HTMLCanvasElement.prototype;
          HTMLCanvasElement.prototype.getContext = function (this: HTMLCanvasElement, ...args: [string]) {
            return args[0].startsWith('webgl') ? null : getContext.apply(this, args as never);
          } as never;
        });
      await page.goto(`${url}/effects/${effect.id}?clock=frozen&quality=draft`);
      return page;
    };
    const [little, middle, much] = effects as [Effect, Effect, Effect];
    const dark = async (effect: Effect) => {
      const page = await open(effect, true);
      const kept = await measure(page, effect.strands.length, 't0');
      await page.close();
      return kept;
    };
    const small = await dark(little);
    const large = await dark(much);
    const page = await open(middle, false);
    await page.locator('[data-strand=beat0]').click({ position: { x: 100, y: 14 } });
    await page.keyboard.press('Enter');
    const field = page.getByLabel('Beat 0 low value');
    await page.locator('canvas[data-frames]').waitFor();
    await page.getByTestId('links').filter({ hasText: /[1-9]/ }).waitFor();
    const [typed, stepped]: [number[], number[]] = [[], []];
    for (let k = 0; k < 12; k++) {
      await field.fill(String(0.2 + k / 100));
      typed.push(
        await untilDrawn(
          page,
          `document.activeElement.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true, cancelable: true }))`,
        ),
      );
      stepped.push(await untilDrawn(page, `document.querySelector('[aria-label="On one frame"]').click()`));
    }
    return { small, large, typed: spread(typed), stepped: spread(stepped) };
  } finally {
    await browser.close();
    stop();
  }
}

const STAGE = '0190a100-0000-7000-8000-000000000005';
