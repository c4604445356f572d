import { effectOf } from '../../../tests/fixtures/sheets.js';
import { stageOf } from '../../../tests/fixtures/stages.js';
import type { Strand } from '../effect/schema.js';
import { lower } from '../lower/lower.js';
import { luminance, type Rgb } from '../optics/tone.js';
import { advise } from './advice.js';
import { dismiss, dismissedIn, findingsOf, recallDismissed } from './findings.js';
import { brightnessKnob, glowFindings, hueLeft, strength, withBrightness, type Brightest } from './glow.js';
import { LEVELS_BINS, LEVELS_LOW, measureLevels } from './levels.js';
import { readStrands } from './reading.js';

const neon = (amount: number, more: object = {}) =>
  effectOf(
    [
      { id: 't', name: 'Time', op: 'time' },
      { id: 'hum', name: 'Hum', op: 'wave', inputs: { time: { from: 't' } } },
      { id: 'hue', name: 'Hue', op: 'colour', inputs: { in: { value: { rgb: [1, 0.1, 0.4], intensity: 1, unit: 'factor' } } } },
      { id: 'gas', name: 'Gas', op: 'multiply', inputs: { a: { from: 'hue' }, b: { from: 'hum' } } },
      { id: 'glow', name: 'Glow', op: 'intensity', inputs: { in: { from: 'gas' }, amount: { value: amount } } },
    ] as Strand[],
    { emission: { from: 'glow' } },
    more,
  );
const at = (amount: number): Brightest => ({ rgb: [amount, 0.1 * amount, 0.4 * amount], time: 0 });
const { optics } = stageOf();
const codes = (amount: number, o = optics) => glowFindings(neon(amount), o, at(amount)).map((f) => f.code);

describe('does not glow', () => {
  test('under the threshold, with the stops that are missing; at two stops over it there is nothing to say', () => {
    const [finding] = glowFindings(neon(0.5), optics, at(0.5));
    const peak = luminance([0.5, 0.05, 0.2]);
    expect(finding!.code).toBe('does-not-glow');
    expect(finding!.why).toContain(`${Math.log2(1 / peak).toFixed(1)} stops under the threshold of 1`);
    const { mend } = finding!;
    if (mend?.kind !== 'brightness') throw new Error('no mend');
    const mended = withBrightness(neon(0.5), mend.knob, mend.factor);
    expect(mended.strands[4]!.inputs!.amount).toEqual({ value: mend.factor });
    // The mend does what it says: four times the threshold, or a little more for a round number.
    const now = luminance(at(mend.factor).rgb) / 1;
    expect(now).toBeGreaterThanOrEqual(4);
    expect(now).toBeLessThan(4.5);
    expect(codes(mend.factor)).not.toContain('does-not-glow');
  });
  test('exposure counts: what is under the threshold at 0 EV may glow at 2', () => {
    expect(codes(1)).toContain('does-not-glow');
    expect(codes(1, { ...optics, exposure: 2 })).not.toContain('does-not-glow');
  });
  test('bloom that is off, or of no intensity, is the reason before any other', () => {
    for (const bloom of [
      { ...optics.bloom, on: false },
      { ...optics.bloom, intensity: 0 },
    ]) {
      const [finding] = glowFindings(neon(0.5), { ...optics, bloom }, at(0.5));
      expect([finding!.code, finding!.mend?.kind]).toEqual(['bloom-off', 'bloom-on']);
    }
  });
  test('nothing is said of an effect that gives no light', () => {
    expect(glowFindings(neon(1), optics, null)).toEqual([]);
    expect(glowFindings(effectOf([{ id: 't', name: 'T', op: 'time' }]), optics, at(1))).toEqual([]);
  });
});

test('a product of products of products is looked through once, not twice at every step', () => {
  const strands: Strand[] = [{ id: 's0', name: 'Time', op: 'time' }];
  for (let k = 1; k <= 60; k++)
    strands.push({ id: `s${k}`, name: `P${k}`, op: 'multiply', inputs: { a: { from: `s${k - 1}` }, b: { from: `s${k - 1}` } } });
  expect(brightnessKnob(effectOf(strands, { emission: { from: 's60' } }))).toBeNull();
});

describe('whites out', () => {
  test('far beyond the tone curve’s shoulder a hue is lost; the mend brings it back', () => {
    expect(codes(4)).not.toContain('whites-out');
    const finding = glowFindings(neon(400), optics, at(400)).find((f) => f.code === 'whites-out')!;
    expect(finding.why).toMatch(/leaves \d+ % of the hue/);
    if (finding.mend?.kind !== 'brightness') throw new Error('no mend');
    expect(codes(finding.mend.factor)).toEqual([]);
    // As much as may be, but for a round number: a sixth more is too much again.
    expect(codes(finding.mend.factor * 1.6)).toContain('whites-out');
  });
  test('what is left of a hue goes from 1 in the dark to nothing, never up again (linear curve: closed form)', () => {
    const rgb: Rgb = [1, 0.1, 0.4];
    // A linear curve clips: below 1 nothing is lost, and from 10 on, where the least channel clips, all of it.
    expect(hueLeft(rgb, { exposure: 0, tone: 'linear' })).toBe(1);
    expect(hueLeft(rgb.map((c) => c * 2) as unknown as Rgb, { exposure: 0, tone: 'linear' })).toBeCloseTo(
      (1 - 0.2) / strength(rgb),
      6,
    );
    expect(hueLeft(rgb.map((c) => c * 10) as unknown as Rgb, { exposure: 0, tone: 'linear' })).toBe(0);
    let last = 1;
    for (let stops = -4; stops <= 12; stops += 0.5) {
      const left = hueLeft(rgb, { exposure: stops, tone: 'khronos-neutral' });
      expect(left).toBeLessThanOrEqual(last + 1e-6);
      last = left;
    }
    expect(last).toBeLessThan(0.05);
    expect(hueLeft([0.5, 0.5, 0.5], { exposure: 8, tone: 'linear' })).toBe(1);
  });
});

describe('where brightness is set', () => {
  test('at the intensity nearest to the emission, else at the colour; a bypassed strand is passed over', () => {
    expect(brightnessKnob(neon(3))).toMatchObject({ strand: 'glow', input: 'amount', kind: 'factor', factor: 3 });
    const strands = neon(3).strands as Strand[];
    const bypassed = effectOf([...strands.slice(0, 4), { ...strands[4]!, bypassed: true }], { emission: { from: 'glow' } });
    expect(brightnessKnob(bypassed)).toMatchObject({ strand: 'hue', kind: 'colour', factor: 1 });
    const plain = effectOf([{ id: 't', name: 'T', op: 'time' }], { emission: { from: 't' } });
    expect(brightnessKnob(plain)).toBeNull();
  });
  test('a colour’s intensity in stops stays in stops', () => {
    const stops = effectOf(
      [{ id: 'hue', name: 'Hue', op: 'colour', inputs: { in: { value: { rgb: [1, 0, 0], intensity: 3, unit: 'stops' } } } }],
      { emission: { from: 'hue' } },
    );
    const knob = brightnessKnob(stops)!;
    expect(knob.factor).toBe(8);
    const { inputs } = withBrightness(stops, knob, 32).strands[0] as Strand;
    expect(inputs!.in).toEqual({ value: { rgb: [1, 0, 0], intensity: 5, unit: 'stops' } });
  });
});

test('findings are of both kinds, and what is waved aside stays so until it is recalled', () => {
  const effect = neon(0.5);
  const program = lower(effect, { build: 'live' });
  const findings = findingsOf(
    advise(effect, program),
    effect,
    program,
    readStrands(program, effect.loop),
    { ...stageOf(), optics },
    null,
    at(0.5),
  );
  expect(findings.map((f) => f.key)).toContain('does-not-glow');
  const draft = structuredClone(effect);
  dismiss(draft, { key: 'does-not-glow' });
  dismiss(draft, { key: 'does-not-glow' });
  expect([...dismissedIn(draft)]).toEqual(['does-not-glow']);
  recallDismissed(draft);
  expect(draft).toEqual(effect);
  expect(dismissedIn(neon(1, { extra: { dismissed: 'all' } })).size).toBe(0);
});

describe('levels', () => {
  /** A picture of so many pixels of each luminance. */
  const measure = (parts: readonly [number, number][], threshold: number, display = new Uint8Array(4)) =>
    measureLevels(Float32Array.from(parts.flatMap(([value, count]) => Array<number>(count).fill(value))), display, threshold);
  test('counts in quarter stops around the threshold', () => {
    const { bins, peak, glows } = measure(
      [
        [0.5, 60],
        [2, 30],
        [8, 10],
      ],
      1,
    );
    const binOf = (stops: number) => (stops - LEVELS_LOW) * 4;
    expect([bins[binOf(-1)], bins[binOf(1)], bins[binOf(3)]].map((b) => Number(b!.toFixed(6)))).toEqual([0.6, 0.3, 0.1]);
    expect([peak, glows]).toEqual([8, 0.4]);
  });
  test('black and NaN are in no bin, what is beyond the ends is in the last or in none', () => {
    const { bins, peak, glows } = measure(
      [
        [0, 1],
        [NaN, 1],
        [1e-9, 1],
        [1e6, 1],
      ],
      1,
    );
    expect(bins[LEVELS_BINS - 1]).toBe(0.25);
    expect([...bins].reduce((a, b) => a + b)).toBe(0.25);
    expect([peak, glows]).toEqual([1e6, 0.25]);
  });
  test('clipping is told by the picture that is shown: one channel at its end is enough', () => {
    const display = Uint8Array.from([255, 0, 0, 255, 254, 254, 254, 255, 10, 20, 255, 255, 0, 0, 0, 255]);
    expect(measure([[1, 4]], 1, display).clips).toBe(0.5);
  });
});
