/**
 * Effects built from empty through the interface, the stage included, and every action counted as a practised hand makes it:
 * a click or a drag one, a key that is not typing one, a typed name or number one. Bounds are the product's own.
 */
import type { Locator, Page } from '@playwright/test';
import type { Stage } from '../../src/core/scene/stage.js';
import {
  restingBox,
  expect,
  links,
  onCanvas,
  openBench,
  pixelAt,
  saved,
  sometimes,
  stageCanvas,
  test,
  type Served,
} from './app.js';

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
  /** Every name and number of it counts. */
  async type(text: string): Promise<void> {
    this.actions += text.match(/[#\w.-]*\w/g)!.length;
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
  /** One of the choices of a control that names what it shows. */
  async choose(control: string | RegExp, option: string): Promise<void> {
    await this.click(this.page.getByRole('combobox', { name: control }));
    await this.click(this.page.getByRole('option', { name: option, exact: true }));
  }
  unlit = () => this.choose('Lighting: lit', 'unlit');
  twoSides = () => this.choose('Sides: one side', 'two sides');

  /** A line of several operations. @param last what its last strand is called */
  async line(typed: string, last: string): Promise<void> {
    await this.key('/');
    await expect(this.page.getByRole('dialog', { name: 'Add a strand' })).toBeVisible();
    await this.type(typed);
    await this.key('Enter');
    await expect(this.page.getByRole('row', { name: new RegExp(`^${last},`) })).toBeFocused();
  }

  props = () => this.click(this.page.getByRole('button', { name: /^Props:/ }));
  /** A prop that wears the effect. */
  async stand(primitive: string): Promise<void> {
    await this.click(this.page.getByRole('button', { name: 'Add a prop' }));
    await this.click(this.page.getByRole('menuitem', { name: primitive }));
    await this.choose(new RegExp(`^${primitive} wears`), 'Untitled effect');
  }
  /** What stands beside a prop's name while it is pointed at; pointing is no action. */
  async onProp(what: 'Duplicate' | 'Delete', name: string): Promise<void> {
    await this.page.getByRole('button', { name, exact: true }).hover();
    await this.click(this.page.getByRole('button', { name: `${what} ${name}`, exact: true }));
  }
  /** Numbers one after the other, the first by a click, the next by Tab. */
  async numbers(first: string, ...values: number[]): Promise<void> {
    await this.click(this.page.getByLabel(first, { exact: true }));
    for (const [k, value] of values.entries()) {
      if (k > 0) await this.key('Tab');
      await this.type(String(value));
    }
    await this.key('Enter');
  }
}

/** The stage's picture in 96 by 64 places, red, green and blue of each. */
const small = (page: Page): Promise<number[][]> =>
  stageCanvas(page).evaluate((canvas: HTMLCanvasElement) => {
    const copy = document.createElement('canvas');
    [copy.width, copy.height] = [96, 64];
    const context = copy.getContext('2d')!;
    context.drawImage(canvas, 0, 0, 96, 64);
    const { data } = context.getImageData(0, 0, 96, 64);
    return Array.from({ length: 96 * 64 }, (_, k) => [...data.slice(k * 4, k * 4 + 3)]);
  });
const count = (picture: number[][], is: (rgb: [number, number, number]) => boolean) =>
  picture.filter((p) => is(p as [number, number, number])).length;
/** In how many places two pictures differ plainly. */
const differ = (a: number[][], b: number[][]) =>
  a.filter((p, k) => Math.max(...p.map((v, c) => Math.abs(v - b[k]![c]!))) > 30).length;
/** The same effect at another time. */
async function atTime(page: Page, app: Served, id: string, time: number): Promise<number[][]> {
  await openBench(page, app, id, `?clock=frozen&quality=draft&t=${time}`);
  await expect.poll(() => links(page)).toBeGreaterThan(0);
  let last = await small(page);
  // Until what is drawn has come to rest.
  await expect
    .poll(async () => {
      const now = await small(page);
      const still = differ(last, now) === 0;
      last = now;
      return still;
    })
    .toBe(true);
  return last;
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

sometimes('a pressure rim, see-through, with a floor of solidity: 28 actions', async ({ page, app }) => {
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

sometimes('a membrane of two hues, its net lit by a stripe that sweeps: 46 actions', async ({ page, app }) => {
  const { hand, id } = await begin(page, app);
  await hand.line(
    'Rim = fresnel width .5; mix #2040ff, #ff50d0; intensity 6; emission; contact .3; time; Pace = multiply .25; uv',
    'Uv',
  );
  await hand.line(
    'stripe Uv.y, place Pace, width .3; Net = hex tiles 14; Scan = multiply Net, Stripe; join masks Rim, Contact, Scan; opacity',
    'Join masks',
  );
  await hand.unlit();
  await hand.twoSides();
  expect(hand.actions).toBeLessThanOrEqual(46);
  await saved(page);
  const { finish, strands } = await app.effect(id);
  expect(finish).toMatchObject({ alphaMode: 'blend', lighting: 'unlit', sides: 'both' });
  const [net, stripe] = ['Net', 'Stripe'].map((name) => strands.find((s) => s.name === name));
  expect(strands.find((s) => s.name === 'Scan')!.inputs).toMatchObject({ a: { from: net!.id }, b: { from: stripe!.id } });
  const ball = await onBall(page, app, id);
  // Towards the rim the second hue, inside it the first: more red than green there, far more blue than red here.
  await expect.poll(async () => (await ball.round(0.3, 0.985))[0]).toBeGreaterThan(150);
  const [r, g] = await ball.round(0.3, 0.985);
  expect(r).toBeGreaterThan(g + 40);
  const [early, late] = [await atTime(page, app, id, 0.5), await atTime(page, app, id, 2)];
  expect(differ(early, late)).toBeGreaterThan(40);
});

sometimes('tank water: deep and shallow, bent and tinted, foam, two moving normals: 70 actions', async ({ page, app }) => {
  const { hand, id } = await begin(page, app);
  await hand.props();
  await hand.stand('Lying plane');
  await hand.choose(/^Ball wears/, 'Bare');
  await hand.numbers('Lying plane place y', 0.3);
  await hand.numbers('Lying plane width', 6, 6);
  await hand.key('Escape');
  await hand.click(page.getByRole('button', { name: /^Back to the viewpoint/ }));
  await hand.line('scroll .05 .02; noise 30; A = normal height .2; scroll -.03 .04; noise 50; B = normal height .2', 'B');
  await hand.line(
    'blend normals A, B; normal; refract offset; refraction; Shallow = contact .6; Hue = mix #06313f, #3fb6b0; ' +
      'foam .15; mix Hue, #f0fff8, Foam; base colour; Cover = max(.9 - Shallow * .7, Foam); opacity',
    'Cover',
  );
  expect(hand.actions).toBeLessThanOrEqual(70);
  await saved(page);
  const early = await atTime(page, app, id, 0.5);
  // Water is bluer than it is red, over a large part of the picture; foam is nearly white; the ball over it is grey.
  expect(count(early, ([r, , b]) => b > r + 12)).toBeGreaterThan(600);
  expect(count(early, ([r, g, b]) => Math.min(r, g, b) > 140)).toBeGreaterThan(3);
  expect(differ(early, await atTime(page, app, id, 2.5))).toBeGreaterThan(100);
});

sometimes('a swaying plant: root to tip, three that differ: 70 actions', async ({ page, app }) => {
  const { hand, id } = await begin(page, app);
  await hand.props();
  await hand.stand('Upright plane');
  await hand.onProp('Delete', 'Ball');
  await hand.numbers('Upright plane width', 0.25);
  await hand.onProp('Duplicate', 'Upright plane');
  await hand.onProp('Duplicate', 'Upright plane 2');
  await hand.key('Escape');
  await hand.line('Up = uv; Own = prop random; Seed = multiply 50; sway mask Up.y, amount .5, seed Seed; displacement', 'Sway');
  await hand.line(
    'mix #05301a, #3fae5a, Up.y; base colour; Tip = smoothstep .7, 1, Up.y; multiply #80ffc0 x6; emission',
    'Multiply',
  );
  await hand.twoSides();
  await hand.click(page.getByRole('button', { name: /^Frame/ }));
  expect(hand.actions).toBeLessThanOrEqual(70);
  await saved(page);
  const stage = await app.get<Stage>(`/api/stages/${(await app.effect(id)).home!.stage}`);
  expect(stage.props.filter((p) => p.parts.some((part) => part.effect === id))).toHaveLength(3);
  const [early, late] = [await atTime(page, app, id, 0.2), await atTime(page, app, id, 1.4)];
  const green = ([r, g, b]: [number, number, number]) => g > r + 40 && g > b + 20;
  expect(count(early, green)).toBeGreaterThan(80);
  // It moves, and the more the farther from its root: above more than below.
  const rows = (from: number, to: number) => differ(early.slice(from * 96, to * 96), late.slice(from * 96, to * 96));
  expect(rows(0, 24)).toBeGreaterThan(2 * rows(48, 64));
});

test('three lamps that differ: 45 actions', async ({ page, app }) => {
  const { hand, id } = await begin(page, app);
  await hand.props();
  await hand.onProp('Duplicate', 'Ball');
  await hand.onProp('Duplicate', 'Ball 2');
  await hand.key('Escape');
  await hand.line(
    'Own = prop random; Seed = multiply 50; Lamp = flicker 3, seed Seed; multiply #ffb060 x8; emission',
    'Multiply',
  );
  expect(hand.actions).toBeLessThanOrEqual(45);
  await saved(page);
  // The copies made it step back, so that all three are seen: from there it is looked at.
  await page.getByRole('button', { name: /^Viewpoint/ }).click();
  await page.getByRole('menuitem', { name: /^Replace/ }).click();
  await saved(page);
  const stage = await app.get<Stage>(`/api/stages/${(await app.effect(id)).home!.stage}`);
  const lamps = stage.props.filter((p) => p.parts.some((part) => part.effect === id));
  expect(lamps).toHaveLength(3);
  const levels = () =>
    Promise.all(lamps.map(async (p) => (await pixelAt(page, ...(await onCanvas(page, stage, 'hatch', p.place))))[0]));
  const seen: number[][] = [];
  for (const time of [0.3, 0.9, 1.5, 2.1, 2.7]) {
    await atTime(page, app, id, time);
    seen.push(await levels());
  }
  // Each changes over time, and no two are as bright as one another all the time.
  for (const lamp of [0, 1, 2])
    expect(Math.max(...seen.map((l) => l[lamp]!)) - Math.min(...seen.map((l) => l[lamp]!))).toBeGreaterThan(40);
  for (const [a, b] of [
    [0, 1],
    [0, 2],
    [1, 2],
  ] as const)
    expect(Math.max(...seen.map((l) => Math.abs(l[a]! - l[b]!)))).toBeGreaterThan(30);
});

test('a keyed dissolve, from whole to gone with a burning rim: 50 actions, 12 of them for its keys', async ({ page, app }) => {
  const { hand, id } = await begin(page, app);
  await hand.line(
    'fractal 3; remap -.6, .6; Fade = dissolve amount 0, width .1; opacity; multiply Fade rim, #ff8030 x12; emission',
    'Multiply',
  );
  const built = hand.actions;
  // Opened, its amount is keyed where time begins; recorded, another value three seconds on is another key.
  await hand.click(page.locator('[data-strand=dissolve]'));
  await hand.key('Enter');
  await hand.click(page.getByRole('button', { name: 'Key Fade amount here' }));
  await hand.click(page.getByRole('switch', { name: 'Record' }));
  const ruler = await restingBox(page.getByRole('region', { name: 'Time' }).getByTestId('ruler'));
  hand.actions++;
  await page.mouse.click(ruler.x + ruler.width * 0.75, ruler.y + ruler.height / 2);
  await hand.numbers('Fade amount value', 1);
  expect(hand.actions - built).toBeLessThanOrEqual(12);
  expect(hand.actions).toBeLessThanOrEqual(50);
  await saved(page);
  const { cues, dials, finish } = await app.effect(id);
  expect(dials.map((d) => [d.strand, d.input])).toEqual([['dissolve', 'amount']]);
  expect(cues).toEqual([
    {
      dial: dials[0]!.id,
      keys: [
        { time: 0, value: 0, ease: 'smooth' },
        { time: 3, value: 1, ease: 'smooth' },
      ],
    },
  ]);
  expect(finish.alphaMode).toBe('blend');
  const orange = ([r, g, b]: [number, number, number]) => r > 180 && r > g + 40 && g > b;
  const pictures: number[][][] = [];
  for (const time of [0, 0.75, 1.5, 2.25, 3, 3.9]) pictures.push(await atTime(page, app, id, time));
  const rims = pictures.map((p) => count(p, orange));
  // No rim when whole and when gone; along the edge between.
  expect([rims[0], rims[4], rims[5]]).toEqual([0, 0, 0]);
  expect(Math.max(...rims.slice(1, 4))).toBeGreaterThan(40);
  // It goes bit by bit, and what is gone stays gone: the picture farther from the first and nearer to the last.
  const far = pictures.map((p) => differ(p, pictures[4]!));
  expect(far[0]).toBeGreaterThan(150);
  expect(far[5]).toBe(0);
});
