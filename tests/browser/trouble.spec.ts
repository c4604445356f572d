/** What goes wrong must lose nothing: servers that die, files that are broken, sheets with errors. */
import { emptyEffect, type Effect } from '../../src/core/effect/schema.js';
import { drawn, expect, links, openBench, saved, stageCanvas, test, withoutPicture } from './app.js';

const TUBE = '0190a000-0000-7000-8000-000000000001';
const ID = '0190c000-0000-7000-8000-00000000000';
const HOME = { stage: '0190a100-0000-7000-8000-000000000001', prop: 'tube-1', viewpoint: 'hatch' };
const small = (n: number, strands: Effect['strands'], more: Partial<Effect> = {}): Effect => ({
  ...emptyEffect(`${ID}${n}`, 'Trial lamp'),
  home: HOME,
  strands,
  ...more,
});
const lamp = (n: number) =>
  small(
    n,
    [
      { id: 'level', name: 'Level', op: 'number', inputs: { in: { value: 0.4 } } },
      { id: 'along', name: 'Along', op: 'uv' },
      { id: 'tint', name: 'Tint', op: 'mix', inputs: { a: { value: 0.2 }, b: { value: 0.8 }, amount: { from: 'level' } } },
    ],
    { outputs: { emission: { from: 'tint' } } },
  );
const picture = (page: Parameters<typeof stageCanvas>[0]) =>
  stageCanvas(page).evaluate((c) => (c as HTMLCanvasElement).toDataURL());

test('the server dies between writing and replying: nothing lost, no false conflict', async ({ page, own }) => {
  await withoutPicture(page);
  await own.store(lamp(1));
  await openBench(page, own, `${ID}1`);
  // The save reaches the server and is written; its reply never arrives.
  let cut = 0;
  await page.route('**/api/effects/*', async (route) => {
    if (route.request().method() !== 'PUT' || cut > 0) return route.continue();
    cut++;
    await route.fetch();
    await own.kill();
    await route.abort('connectionreset');
  });
  const field = page.getByRole('row', { name: /^Level,/ });
  await field.click();
  await page.keyboard.press('Enter');
  await page.getByLabel('Level in value').fill('0.5');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('saved')).toHaveAttribute('data-state', 'unreachable');
  await expect(page.getByTestId('saved')).toContainText('Not saved: the server does not answer.');
  // Work goes on meanwhile.
  await page.getByLabel('Level in value').fill('0.6');
  await page.keyboard.press('Enter');
  await own.start();
  await saved(page);
  expect((await own.effect(`${ID}1`)).strands[0]).toMatchObject({ inputs: { in: { value: 0.6 } } });
});

test('typed while the server is down, kept across a reload, saved when it is back', async ({ page, app }) => {
  await withoutPicture(page);
  await app.store(lamp(2));
  await openBench(page, app, `${ID}2`);
  await page.getByRole('row', { name: /^Level,/ }).click();
  await page.keyboard.press('Enter');
  await page.route('**/api/effects/*', (route) =>
    route.request().method() === 'PUT' ? route.abort('connectionrefused') : route.continue(),
  );
  await page.getByLabel('Level in value').fill('0.7');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('saved')).toHaveAttribute('data-state', 'unreachable');
  await page.unroute('**/api/effects/*');
  await page.reload();
  await saved(page);
  await expect.poll(async () => (await app.effect(`${ID}2`)).strands[0]).toMatchObject({ inputs: { in: { value: 0.7 } } });
});

test('changed by another client meanwhile: both are offered, neither is lost', async ({ page, app }) => {
  await withoutPicture(page);
  await app.store(lamp(3));
  await openBench(page, app, `${ID}3`);
  const theirs = { ...lamp(3), name: 'Theirs' };
  const put = await fetch(`${app.url}/api/effects/${ID}3`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json', 'If-Match': '"v1"' },
    body: JSON.stringify({ saveId: 'somebody-else', document: theirs }),
  });
  expect(put.status).toBe(200);
  await page.getByRole('row', { name: /^Level,/ }).click();
  await page.keyboard.press('b');
  await expect(page.getByTestId('saved')).toHaveAttribute('data-state', 'conflict');
  await page.getByRole('button', { name: 'Compare' }).click();
  await expect(page.getByText('Name: Trial lamp here, Theirs there.')).toBeVisible();
  await expect(page.getByText('Level is bypassed here only.')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Take the other' }).click();
  await expect(page.getByRole('heading', { name: 'Theirs' })).toBeVisible();
  const list = await app.get<{ name: string }[]>('/api/effects');
  expect(list.map((e) => e.name)).toEqual(expect.arrayContaining(['Theirs', 'Trial lamp (kept)']));
});

test('a stage changed elsewhere is told apart from the effect, and mine can go over it', async ({ page, app }) => {
  await withoutPicture(page);
  await app.store(lamp(8));
  await openBench(page, app, `${ID}8`);
  const path = `/api/stages/${HOME.stage}`;
  const stage = await app.get<{ optics: { exposure: number } }>(path);
  const put = await fetch(app.url + path, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json', 'If-Match': '"v1"' },
    body: JSON.stringify({ saveId: 'somebody-else', document: { ...stage, optics: { ...stage.optics, exposure: 2 } } }),
  });
  expect(put.status).toBe(200);
  await page.getByRole('button', { name: /^Optics:/ }).click();
  await page.getByLabel('Exposure value').fill('-1');
  await page.keyboard.press('Enter');
  await expect(page.getByText('The stage was changed elsewhere too.')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Keep this one' }).click();
  await saved(page);
  expect((await app.get<{ optics: { exposure: number } }>(path)).optics.exposure).toBe(-1);
});

test('a lost graphics context is said, and the picture comes back by itself', async ({ page, app }) => {
  await app.store(lamp(9));
  await openBench(page, app, `${ID}9`);
  await expect.poll(() => links(page)).toBe(1);
  await drawn(page, () => page.getByRole('button', { name: /^Back to the viewpoint/ }).click());
  const before = await picture(page);
  await page.evaluate(() => {
    const said: string[] = ((window as unknown as { said: string[] }).said = []);
    new MutationObserver(() => {
      const status = document.querySelector('[aria-label=Stage] [role=status]')?.textContent;
      if (status && said.at(-1) !== status) said.push(status);
    }).observe(document.body, { childList: true, subtree: true, characterData: true });
  });
  // Twice: what has come back can be lost as well.
  for (let k = 0; k < 2; k++) {
    await stageCanvas(page).evaluate((c) => {
      c.dataset.lost = 'yes';
      (c as HTMLCanvasElement).getContext('webgl2')!.getExtension('WEBGL_lose_context')!.loseContext();
    });
    await expect(page.locator('canvas[data-lost]')).toHaveCount(0);
    await expect.poll(() => picture(page)).toBe(before);
    await expect(page.getByLabel('Stage', { exact: true }).getByRole('status')).toHaveCount(0);
  }
  expect(await page.evaluate(() => (window as unknown as { said: string[] }).said)).toContainEqual(
    expect.stringMatching(/graphics card let go of the picture.*your work is safe/),
  );
  // It is drawn on as before.
  await drawn(page, () => page.getByRole('button', { name: /^Back to the viewpoint/ }).click());
});

test('a graphics context that is not given again is said with a way to ask for it', async ({ page, app }) => {
  await page.clock.install();
  await app.store(lamp(9));
  await openBench(page, app, `${ID}9`);
  await expect.poll(() => links(page)).toBe(1);
  await page.evaluate(() => {
    const proto = HTMLCanvasElement.prototype;
    const real = proto.getContext;
    const gives = ((window as unknown as { gives: { yes: boolean } }).gives = { yes: false });
    proto.getContext = function (this: HTMLCanvasElement, ...args: Parameters<typeof real>) {
      return args[0] === 'webgl2' && !gives.yes && !this.dataset.frames ? null : real.apply(this, args);
    } as typeof real;
  });
  await stageCanvas(page).evaluate((c) =>
    (c as HTMLCanvasElement).getContext('webgl2')!.getExtension('WEBGL_lose_context')!.loseContext(),
  );
  const stage = page.getByLabel('Stage', { exact: true });
  await expect(stage.getByRole('status')).toContainText('being drawn anew');
  await page.clock.runFor(60_000);
  await expect(stage.getByRole('alert')).toContainText('Your work is safe');
  await page.evaluate(() => ((window as unknown as { gives: { yes: boolean } }).gives.yes = true));
  await stage.getByRole('button', { name: 'Draw it again' }).click();
  await page.clock.runFor(5_000);
  await expect(stage.getByRole('alert')).toBeHidden();
  await expect(stageCanvas(page)).toHaveCount(1);
});

test('the gauge says nothing of a picture that is no longer shown', async ({ page, app }) => {
  await page.addInitScript(() => {
    const held: (() => void)[] = [];
    const holder = window as unknown as { holds: boolean; release: () => void };
    holder.release = () => {
      holder.holds = false;
      held.splice(0).forEach((go) => go());
    };
    const real = Worker.prototype.postMessage;
    Worker.prototype.postMessage = function (this: Worker, message: { kind?: string }, transfer: Transferable[]) {
      const go = () => real.call(this, message, transfer as never);
      if (holder.holds && message.kind === 'levels') held.push(go);
      else go();
    } as typeof real;
  });
  await app.store(lamp(9));
  await openBench(page, app, `${ID}9`);
  const gauge = page.getByLabel('Headroom', { exact: true });
  const words = page.getByTestId('headroom');
  await expect(gauge).toHaveAttribute('data-age', 'now');
  await expect(words).toContainText('%');
  const peak = Number(await words.getAttribute('data-peak'));
  await page.evaluate(() => ((window as unknown as { holds: boolean }).holds = true));
  await page.getByRole('button', { name: /^Optics:/ }).click();
  await page.getByLabel('Exposure value').fill('3');
  await page.keyboard.press('Enter');
  await expect(gauge).toHaveAttribute('data-age', 'gone');
  await expect(words).not.toContainText('%');
  await expect(gauge.getByText(/^peak/)).toBeHidden();
  await page.evaluate(() => (window as unknown as { release: () => void }).release());
  await expect(gauge).toHaveAttribute('data-age', 'now');
  await expect.poll(async () => Number((await words.getAttribute('data-peak')) || NaN)).toBeGreaterThan(4 * peak);
});

test('a strand with an error is marked in words, and the last good picture stays', async ({ page, app }) => {
  const striped = small(
    4,
    [
      { id: 'along', name: 'Along', op: 'uv' },
      { id: 'half', name: 'Half', op: 'pick', inputs: { in: { from: 'along' } }, options: { component: 'y' } },
      { id: 'tint', name: 'Tint', op: 'mix', inputs: { b: { value: 3 }, amount: { from: 'half' } } },
    ],
    { outputs: { emission: { from: 'tint' } } },
  );
  await app.store(striped);
  await openBench(page, app, `${ID}4`);
  await expect.poll(() => links(page)).toBe(1);
  const row = (name: string) => page.getByRole('row', { name: new RegExp(`^${name},`) });
  await drawn(page, () => page.getByRole('button', { name: /^Back to the viewpoint/ }).click());
  const before = await picture(page);
  // Deleting the pick hands two numbers to an amount, which takes one.
  await row('Half').click();
  await page.keyboard.press('Delete');
  await expect(page.getByText('Along is two numbers, the mix amount takes one number.')).toBeVisible();
  await expect(page.getByText('1 error')).toBeVisible();
  await drawn(page, () => page.getByRole('button', { name: /^Back to the viewpoint/ }).click());
  expect(await picture(page)).toBe(before);
  expect(await links(page)).toBe(1);
  await saved(page);
  // Mended: the amount gets a value of its own.
  await row('Tint').click();
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'amount: link or make a dial' }).click();
  await page.getByRole('menuitem', { name: 'A value of its own' }).click();
  await expect(page.getByText('1 error')).toBeHidden();
  await expect.poll(() => links(page)).toBe(2);
  await expect.poll(() => picture(page)).not.toBe(before);
});

test('infinity is marked with stripes of a colour that nothing else has', async ({ page, app }) => {
  const huge = ['a', 'b', 'c', 'd', 'e'].map((id, k, all) => ({
    id,
    name: id.toUpperCase(),
    op: 'multiply' as const,
    inputs: { a: k === 0 ? { value: 1e9 } : { from: all[k - 1]! }, b: { value: 1e9 } },
  }));
  await app.store(small(7, huge, { outputs: { emission: { from: 'e' } } }));
  await openBench(page, app, `${ID}7`);
  const share = () =>
    stageCanvas(page).evaluate((canvas) => {
      const { width, height } = canvas as HTMLCanvasElement;
      const copy = document.createElement('canvas');
      Object.assign(copy, { width, height });
      const context = copy.getContext('2d')!;
      context.drawImage(canvas as HTMLCanvasElement, 0, 0);
      const { data } = context.getImageData(0, 0, width, height);
      let marked = 0;
      for (let k = 0; k < data.length; k += 4) if (data[k]! > 200 && data[k + 1]! < 90 && data[k + 2]! > 90) marked++;
      return marked / (width * height);
    });
  await expect.poll(share).toBeGreaterThan(0.003);
});

test('files: a good one is opened, broken ones are refused with a sentence and nothing is stored', async ({ page, app }) => {
  await withoutPicture(page);
  await page.goto(app.url);
  const chooser = page.getByLabel('Bundle or effect file');
  const offer = (name: string, text: string) =>
    chooser.setInputFiles({ name, mimeType: 'application/json', buffer: Buffer.from(text) });
  const count = async () => (await app.get<unknown[]>('/api/effects')).length;
  const before = await count();
  const cyclic = small(6, [
    { id: 'a', name: 'Ash', op: 'fract', inputs: { in: { from: 'b' } } },
    { id: 'b', name: 'Birch', op: 'fract' },
  ]);
  for (const [text, sentence] of [
    ['{ "format"', /not JSON/],
    [JSON.stringify({ ...lamp(6), version: 2 }), /version 2/],
    [JSON.stringify(cyclic), /Strand 1 \(Ash\), input in, reads Birch, which stands below it/],
    [JSON.stringify({ pad: 'x'.repeat(5_000_000) }), /at most 4 MB/],
  ] as const) {
    await offer('trial.wispen.json', text);
    await expect(page.getByRole('alert')).toContainText(sentence);
    await expect(page.getByRole('alert')).toContainText('trial.wispen.json');
  }
  expect(await count()).toBe(before);
  await offer('trial.wispen.json', JSON.stringify(lamp(6)));
  await expect(page.getByRole('treegrid')).toBeVisible();
  expect(await count()).toBe(before + 1);
});

test('an address with nothing behind it says so', async ({ page, app }) => {
  await page.goto(`${app.url}/effects/none`);
  await expect(page.getByText('There is no effect at this address.')).toBeVisible();
  await page.getByRole('link', { name: 'To the Library', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Sallowmere Station' })).toBeVisible();
});

test('without WebGL2 the stage says so in a sentence, and the sheet still edits and saves', async ({ page, app }) => {
  await withoutPicture(page);
  await page.goto(`${app.url}/effects/${TUBE}?clock=frozen`);
  await expect(page.getByRole('alert')).toContainText('This browser has no WebGL2');
  await page.locator('[data-strand=warm]').click();
  await page.keyboard.press('b');
  await saved(page);
  await expect
    .poll(async () => (await app.effect(TUBE)).strands.find((s) => 'op' in s && s.id === 'warm'))
    .toMatchObject({ bypassed: true });
});
