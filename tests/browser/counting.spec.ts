/**
 * Effects built from empty through the interface, the stage included, and every action counted as a practised hand makes it:
 * a click or a drag one, a key that is not typing one, a typed name or number one. Bounds are the product's own.
 */
import type { Locator, Page } from '@playwright/test';
import type { Stage } from '../../src/core/scene/stage.js';
import { expect, links, onCanvas, openBench, pixelAt, saved, test, type Served } from './app.js';

test.use({ viewport: { width: 960, height: 640 } });

/** A hand that counts. */
class Hand {
  actions = 0;
  constructor(readonly page: Page) {}

  async click(what: Locator): Promise<void> {
    this.actions++;
    await what.click();
  }
  async key(key: string): Promise<void> {
    this.actions++;
    await this.page.keyboard.press(key);
  }
  /** Every word and number of it counts. */
  async type(text: string): Promise<void> {
    this.actions += text.match(/[^\s,=]+/g)!.length;
    await this.page.keyboard.type(text);
  }

  /** A strand, by a line of typing. */
  async add(line: string, name: string): Promise<void> {
    await this.key('/');
    await this.type(line);
    await this.key('Enter');
    await expect(this.page.getByRole('row', { name: new RegExp(`^${name},`) })).toBeFocused();
  }
  /** What is chosen goes into an output; the first of the list is taken where no letters are typed. */
  async feed(letters = ''): Promise<void> {
    await this.key('f');
    await expect(this.page.getByRole('menu')).toBeVisible();
    if (letters !== '') {
      await this.type(letters);
      await expect(this.page.getByRole('menuitem', { name: new RegExp(`^${letters}`, 'i') }).first()).toBeFocused();
    }
    await this.key('Enter');
    await expect(this.page.getByRole('menu')).toBeHidden();
  }
  async unlit(): Promise<void> {
    await this.click(this.page.getByRole('combobox', { name: 'Lighting: lit' }));
    await this.click(this.page.getByRole('option', { name: 'unlit' }));
  }
}

/** Begins with an empty sheet, as frozen as tests need it. */
async function begin(page: Page, app: Served): Promise<{ hand: Hand; id: string }> {
  await page.goto(app.url);
  const hand = new Hand(page);
  await hand.click(page.getByRole('button', { name: 'New empty' }));
  await expect(page.getByText('The sheet is empty')).toBeVisible();
  const id = page.url().split('/').pop()!.split('?')[0]!;
  await openBench(page, app, id);
  return { hand, id };
}

/** Pixels of the ball that the effect is worn by: at its middle as it is seen, and round its rim. */
async function onBall(page: Page, app: Served, id: string) {
  const effect = await app.effect(id);
  const stage = await app.get<Stage>(`/api/stages/${effect.home!.stage}`);
  const { place, source } = stage.props.find((p) => p.name === 'Ball')!;
  const radius = (source as { radius: number }).radius;
  const { eye } = stage.viewpoints[0]!;
  const at = async (point: [number, number, number]) => pixelAt(page, ...(await onCanvas(page, stage, 'hatch', point)));
  const toEye = eye.map((v, k) => v - place[k]!);
  const far = Math.hypot(...toEye);
  const forth = toEye.map((v) => v / far);
  // Square to the way to the eye: across and up; the rim is where sight grazes the ball.
  const across = [forth[2]!, 0, -forth[0]!];
  const length = Math.hypot(...across);
  const side = across.map((v) => v / length);
  const up = [1, 2, 0].map((k, n) => forth[k]! * side[[2, 0, 1][n]!]! - forth[[2, 0, 1][n]!]! * side[k]!);
  const point = (turn: number, share: number) =>
    place.map(
      (v, k) =>
        v + radius * (share * (Math.cos(turn) * side[k]! + Math.sin(turn) * up[k]!) + Math.sqrt(1 - share * share) * forth[k]!),
    ) as [number, number, number];
  return {
    middle: () => at(point(0, 0)),
    /** Counted from the side, in turns; the share of the way from the middle to the rim. */
    round: (turn: number, share: number) => at(point(2 * Math.PI * turn, share)),
  };
}

test('a plain glow: 8 actions', async ({ page, app }) => {
  const { hand, id } = await begin(page, app);
  await hand.add('colour #40c0ff x12', 'Colour');
  await hand.feed();
  expect(hand.actions).toBeLessThanOrEqual(8);
  await saved(page);
  const ball = await onBall(page, app, id);
  await expect.poll(async () => (await ball.middle())[2]).toBeGreaterThan(220);
});

test('a pressure rim, see-through, with a floor of solidity: 28 actions', async ({ page, app }) => {
  const { hand, id } = await begin(page, app);
  await hand.add('Rim = fresnel width .4', 'Rim');
  await hand.add('Solid = max .08', 'Solid');
  await hand.feed('opac');
  await hand.add('Glow = multiply #58c8ff x14', 'Glow');
  await hand.feed();
  await hand.unlit();
  expect(hand.actions).toBeLessThanOrEqual(28);
  await saved(page);
  const { finish } = await app.effect(id);
  expect([finish.alphaMode, finish.lighting]).toEqual(['blend', 'unlit']);
  const ball = await onBall(page, app, id);
  const blue = async (share: number) => (await ball.round(0.3, share))[2];
  // Bright where sight grazes it, and darker towards its middle.
  await expect.poll(() => blue(0.98)).toBeGreaterThan(200);
  const [rim, half, middle] = [await blue(0.98), await blue(0.75), (await ball.middle())[2]];
  expect(half).toBeLessThan(rim);
  expect(middle).toBeLessThan(half);
});

test('a contact field with a pattern taken from each of its masks: 40 actions', async ({ page, app }) => {
  const { hand, id } = await begin(page, app);
  await hand.add('Rim = fresnel width .5', 'Rim');
  await hand.add('Touch = contact .3', 'Touch');
  await hand.add('Net = hex tiles 16', 'Net');
  await hand.add('Field = join masks Rim, Touch, subtract Net', 'Field');
  await hand.feed('opac');
  await hand.add('Glow = multiply #60e0ff x10', 'Glow');
  await hand.feed();
  await hand.unlit();
  expect(hand.actions).toBeLessThanOrEqual(40);
  await saved(page);
  await expect.poll(() => links(page)).toBeGreaterThan(1);
  const ball = await onBall(page, app, id);
  // Along the rim the net cuts dark lines into the light.
  await expect.poll(async () => (await ball.round(0.2, 0.97))[2]).toBeGreaterThan(60);
  const rim: number[] = [];
  for (let k = 0; k < 20; k++) rim.push((await ball.round(0.1 + (k / 20) * 0.3, 0.94))[2]);
  expect(Math.max(...rim)).toBeGreaterThan(200);
  expect(Math.min(...rim)).toBeLessThan(Math.max(...rim) - 60);
});
