/**
 * The starters built anew from an empty sheet, strand by strand through the interface, and held against those that ship: at
 * many points of a surface both give the same to every output. Actions are counted as in counting.spec.
 */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { isLink, strandsOf, type Effect } from '../../src/core/effect/schema.js';
import { outputRecord, type OutputName } from '../../src/core/effect/outputs.js';
import { starter, outputAt, type Points } from '../fixtures/starters.js';
import { typedStrand } from '../fixtures/typed.js';
import { expect, openBench, saved, test, withoutPicture } from './app.js';

test.use({ viewport: { width: 1280, height: 800 } });

const COUNT = 400;
/** Numbers from 0 to 1 that scatter evenly (the golden ratio and its kin). */
const scattered = (stride: number, low: number, high: number) => (k: number) => low + (high - low) * ((k * stride) % 1);
const rows = (...lanes: ((k: number) => number)[]) => Array.from({ length: COUNT }, (_, k) => lanes.map((f) => f(k)));
const directions = (a: number, b: number) =>
  rows(scattered(a, 0, 1), scattered(b, 0, 1)).map(([u, v]) => {
    const z = 2 * u! - 1;
    const r = Math.sqrt(1 - z * z);
    return [r * Math.cos(6.2831853 * v!), r * Math.sin(6.2831853 * v!), z];
  });
const places = rows(scattered(0.618034, -1, 1), scattered(0.7548777, -1, 1), scattered(0.569840291, -1, 1));
const POINTS: Points = {
  position: places,
  worldPosition: places,
  behindPosition: places.map(([x, y, z]) => [x! + 0.1, y! - 0.2, z!]),
  normal: directions(0.618034, 0.7548777),
  objectNormal: directions(0.618034, 0.7548777),
  view: directions(0.569840291, 0.819172513),
  uv: rows(scattered(0.618034, 0, 1), scattered(0.7548777, 0, 1)),
  time: rows(scattered(0.445041868, 0, 6)),
  depthGap: rows(scattered(0.671043607, 0, 0.6)),
  depthGapDown: rows(scattered(0.671043607, 0, 0.6)),
  edgePixelsQuad: rows(scattered(0.549700478, 0, 3)),
  propRandom: [[0.37]],
  ...{
    positionDx: [[0.003, 0, 0]],
    positionDy: [[0, 0.003, 0]],
    worldPositionDx: [[0.003, 0, 0]],
    worldPositionDy: [[0, 0, -0.003]],
  },
  ...{ uvDx: [[0.002, 0]], uvDy: [[0, 0.002]] },
};

class Builder {
  actions = 0;
  constructor(
    readonly page: Page,
    readonly from: Effect,
  ) {}

  private async key(key: string): Promise<void> {
    this.actions++;
    await this.page.keyboard.press(key);
  }
  private async type(text: string): Promise<void> {
    this.actions += text.match(/[#\w.-]*\w/g)!.length;
    await this.page.keyboard.insertText(text);
  }
  private row = (name: string) =>
    this.page.getByRole('row', { name: new RegExp(`^${name.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')},`) });

  async strands(): Promise<void> {
    for (const strand of strandsOf(this.from)) {
      const { name, line, letters, ramp, picture } = typedStrand(this.from, strand);
      await this.key('/');
      await expect(this.page.getByRole('dialog', { name: 'Add a strand' })).toBeVisible();
      await this.type(line);
      await this.key('Enter');
      await expect(this.row(name), line).toBeFocused();
      if (letters.length === 0 && !ramp && !picture) continue;
      await this.key('Enter');
      for (const [letter, value] of letters) {
        this.actions += 2;
        await this.page.getByLabel(`${name} ${letter} value`, { exact: true }).fill(String(value));
        await this.key('Enter');
      }
      if (ramp) {
        this.actions += 3;
        await this.page.getByRole('button', { name: 'CSS', exact: true }).click();
        await this.page.getByLabel(`${name} as a CSS gradient`).fill(ramp);
        await this.page.getByRole('button', { name: 'Take it' }).click();
      }
      if (picture) await this.choosePicture(name, picture);
      await this.row(name).focus();
      await this.key('ArrowLeft');
    }
  }

  private async choosePicture(name: string, file: string): Promise<void> {
    this.actions += 3;
    await this.page.getByLabel(`File of ${name}`).setInputFiles({
      name: file,
      mimeType: 'image/*',
      buffer: readFileSync(join(import.meta.dirname, '../../demo/images', file)),
    });
    const as = this.page.getByRole('combobox', { name: new RegExp(`^${name} read as`) });
    await expect(as).toBeVisible();
    if ((await as.textContent()) === 'data') return;
    await as.click();
    await this.page.getByRole('option', { name: /^data/ }).click();
  }

  async outputs(): Promise<void> {
    for (const [name, input] of Object.entries(this.from.outputs)) {
      if (!isLink(input)) throw new Error(`${name} has a value of its own`);
      await this.row(strandsOf(this.from).find((s) => s.id === input.from)!.name).focus();
      await this.key('f');
      await expect(this.page.getByRole('menu')).toBeVisible();
      const label = outputRecord(name as OutputName).label;
      this.actions++;
      // A menu hears keys: the first letters are enough.
      await this.page.keyboard.type(label.slice(0, 4).toLowerCase());
      await expect(this.page.getByRole('menuitem', { name: new RegExp(`^${label}`, 'i') }).first()).toBeFocused();
      await this.key('Enter');
      await expect(this.page.getByRole('menu')).toBeHidden();
    }
  }

  private async choose(control: RegExp, option: string): Promise<void> {
    const box = this.page.getByRole('combobox', { name: control });
    if ((await box.textContent()) === option) return;
    this.actions += 2;
    await box.click();
    await this.page.getByRole('option', { name: option, exact: true }).click();
  }

  async finish(): Promise<void> {
    const { alphaMode, lighting, sides, castsShadow } = this.from.finish;
    await this.page.getByRole('combobox', { name: /^Finish/ }).click();
    this.actions += 2;
    await this.page.getByRole('option', { name: new RegExp(`^${alphaMode}`) }).click();
    await this.choose(/^Lighting/, lighting);
    await this.choose(/^Sides/, { front: 'one side', back: 'back side', both: 'two sides' }[sides]);
    const shadow = this.page.getByRole('button', { name: /^(casts|no) shadow/ });
    if (((await shadow.textContent()) === 'casts shadow') !== castsShadow) {
      this.actions++;
      await shadow.click();
    }
  }
}

/** Actions by hand: a strand is five or six of them, its line the most. */
const BUDGET: Readonly<Record<string, number>> = {
  'vent-embers': 195,
  'specimen-fade': 176,
  'pressure-halo': 131,
  'sampling-dome': 186,
  'moon-pool-membrane': 167,
  'chart-hologram': 173,
  'ripple-tray': 193,
  'tank-water': 249,
  'tide-inlet': 291,
  'open-swell': 204,
};

for (const [name, budget] of Object.entries(BUDGET))
  test(`${name} is built anew from an empty sheet, in ${budget} actions at most`, async ({ page, app }) => {
    const whole = { ...starter(name), cues: [] };
    await withoutPicture(page);
    await page.goto(app.url);
    await page.getByRole('button', { name: 'New empty' }).click();
    await expect(page.getByText('The sheet is empty')).toBeVisible();
    const id = /[0-9a-f-]{36}/.exec(page.url())![0];
    await openBench(page, app, id);
    const builder = new Builder(page, whole);
    await builder.strands();
    await builder.outputs();
    await builder.finish();
    await saved(page);
    const built = await app.effect(id);
    expect(strandsOf(built).map((s) => [s.name, s.op])).toEqual(strandsOf(whole).map((s) => [s.name, s.op]));
    expect(Object.keys(built.outputs).sort()).toEqual(Object.keys(whole.outputs).sort());
    const { alphaMode, lighting, sides, castsShadow } = whole.finish;
    expect(built.finish).toMatchObject({ alphaMode, lighting, sides, castsShadow });
    for (const output of Object.keys(whole.outputs)) {
      const [is, was] = [built, whole].map((effect) => outputAt(effect, output, POINTS, COUNT)) as [
        Float32Array[],
        Float32Array[],
      ];
      // A colour's code has 8 bits a channel: within 2 %.
      const most = Math.max(...was.flatMap((lane) => [...lane].map(Math.abs)), 0.05);
      const apart = Math.max(...was.flatMap((lane, c) => [...lane].map((v, k) => Math.abs(v - is[c]![k]!))));
      expect([output, apart / most < 0.02], `${output}: ${apart} of ${most}`).toEqual([output, true]);
    }
    expect(builder.actions).toBeLessThanOrEqual(budget);
  });
