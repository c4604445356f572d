/**
 * The starters built anew from an empty sheet, strand by strand through the interface, and held against those that ship: at
 * many points of a surface both give the same to every output. Actions are counted as in counting.spec.
 */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { isLink, strandsOf, type Effect, type Link, type Motif, type Strand } from '../../src/core/effect/schema.js';
import { motifOf } from '../../src/core/effect/motifs.js';
import { outputRecord, type OutputName } from '../../src/core/effect/outputs.js';
import { starter, outputAt, type Points } from '../fixtures/starters.js';
import { typedStrand, type TypedStrand } from '../fixtures/typed.js';
import { DEEP, expect, openBench, saved, test, withoutPicture } from './app.js';

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
  ...{ modelX: [[1, 0, 0]], modelY: [[0, 1, 0]], modelZ: [[0, 0, 1]] },
  vertexColour: rows(...[0.618034, 0.7548777, 0.569840291, 0.445041868].map((stride) => scattered(stride, 0, 1))),
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

  private async line(name: string, line: string): Promise<void> {
    await this.key('/');
    await expect(this.page.getByRole('dialog', { name: 'Add a strand' })).toBeVisible();
    await this.type(line);
    await this.key('Enter');
    await expect(this.row(name), line).toBeFocused();
  }

  async strands(): Promise<void> {
    let made: Motif | undefined;
    for (const strand of strandsOf(this.from)) {
      const motif = motifOf(this.from, strand);
      if (motif && motif !== made) {
        await this.motif(strand, (made = motif));
        continue;
      }
      const { name, line, letters, ramp, picture } = motif ? this.use(strand, motif) : typedStrand(this.from, strand);
      await this.line(name, line);
      if (strand.op === 'shared') await this.share(name, this.from.shared[0]!.value as number);
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

  /** A dial that effects share, made by the strand that reads it. */
  private async share(name: string, value: number): Promise<void> {
    this.actions += 2;
    await this.key('Enter');
    await this.choose(new RegExp(`^${name} which`), 'A new one');
    await this.page.getByLabel(/, in every effect$/).fill(String(value));
    await this.key('Enter');
    await this.row(name).focus();
    await this.key('ArrowLeft');
  }

  /** A motif's inputs by the words of the sheet it is made on: what the use is given, a number by the input's name. */
  private given(use: Strand, motif: Motif): Map<string, { name: string; own?: number }> {
    return new Map(
      motif.inputs.map(({ id, name }) => {
        const input = use.inputs![id]!;
        const own = isLink(input) ? undefined : (input.value as number);
        return [id, { name: isLink(input) ? strandsOf(this.from).find((s) => s.id === input.from)!.name : name, own }];
      }),
    );
  }

  /** The strands of a motif are typed, chosen and made one; both it and its first use get their names. */
  private async motif(use: Strand, motif: Motif): Promise<void> {
    const given = this.given(use, motif);
    // As if they stood on the sheet: what they read of the motif's inputs are strands of those names, or numbers of a dial.
    const within = strandsOf(motif as unknown as Effect);
    const around = [...given].map(([id, { name }]): Strand => ({ id, name, op: 'number' }));
    for (const strand of within) {
      const dialled = Object.entries(strand.inputs ?? {}).filter(([, i]) => isLink(i) && given.get(i.from)?.own !== undefined);
      const inputs = { ...strand.inputs };
      for (const [input, link] of dialled) inputs[input] = { value: given.get((link as Link).from)!.own! };
      const all = [...around, ...within.map((s) => (s === strand ? { ...strand, inputs } : s))];
      const { name, line } = typedStrand({ ...this.from, dials: [], strands: all } as unknown as Effect, { ...strand, inputs });
      await this.line(name, line);
      for (const [input] of dialled) {
        await this.key('Enter');
        this.actions += 2;
        await this.page.getByRole('button', { name: `${input}: link or make a dial` }).click();
        await this.page.getByRole('menuitem', { name: 'Make a dial' }).click();
        await this.row(name).focus();
        await this.key('ArrowLeft');
      }
    }
    await this.row(within[0]!.name).focus();
    await this.key('ArrowDown');
    await this.key('ArrowUp');
    for (let k = 1; k < within.length; k++) await this.key('Shift+ArrowDown');
    await this.key('m');
    await expect(this.row(within[0]!.name)).toHaveCount(0);
    const last = within.at(-1)!.name;
    await this.row(last).focus();
    await this.key('F2');
    await this.page.keyboard.insertText(use.name);
    await this.key('Enter');
    await expect(this.row(use.name)).toBeVisible();
    this.actions += 4;
    await this.page.getByRole('button', { name: last, exact: true }).first().dblclick();
    await this.page.getByLabel(`Name of the motif ${last}`).fill(motif.name);
    await this.key('Enter');
    await this.row(use.name).focus();
    await this.key('ArrowLeft');
  }

  /** A further use, by the motif's name and its inputs'. */
  private use(strand: Strand, motif: Motif): TypedStrand {
    const first = strandsOf(this.from).find((s) => motifOf(this.from, s) === motif)!;
    const names = this.given(first, motif);
    const parts = [...this.given(strand, motif)].map(([id, { name, own }]) =>
      own === undefined ? `${names.get(id)!.name} ${name}` : own,
    );
    return { name: strand.name, line: `${strand.name} = ${motif.name} ${parts.join(', ')}`, letters: [] };
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
      // Its own number, which nothing was to be built for.
      if (!isLink(input)) continue;
      await this.row(strandsOf(this.from).find((s) => s.id === input.from)!.name).focus();
      await this.key('f');
      await expect(this.page.getByRole('menu')).toBeVisible();
      const label = outputRecord(name as OutputName).label;
      this.actions++;
      // A menu hears keys: the first letters are enough.
      const item = this.page.getByRole('menuitem', { name: new RegExp(`^${label}`, 'i') }).first();
      await expect(async () => {
        // It hears them once it has the focus, and letters that come slowly begin another word: then once more.
        await expect(this.page.getByRole('menuitem').and(this.page.locator(':focus'))).toHaveCount(1);
        await this.page.keyboard.type(label.slice(0, 4).toLowerCase());
        await expect(item).toBeFocused({ timeout: 2000 });
      }).toPass();
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
  'kelp-current': 336,
};

/** Those that take all that there is between them: formulas, sections, images, motifs. */
const SOME = ['sampling-dome', 'kelp-current', 'tide-inlet'];

for (const [name, budget] of Object.entries(BUDGET).filter(([each]) => DEEP || SOME.includes(each)))
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
    const names = (effect: Effect) => strandsOf(effect).map((s) => [s.name, s.op]);
    expect(names(built)).toEqual(names(whole));
    const linked = Object.entries(whole.outputs).flatMap(([output, input]) => (isLink(input) ? [output] : []));
    expect(Object.keys(built.outputs).sort()).toEqual(linked.sort());
    const { alphaMode, lighting, sides, castsShadow } = whole.finish;
    expect(built.finish).toMatchObject({ alphaMode, lighting, sides, castsShadow });
    for (const output of linked) {
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
