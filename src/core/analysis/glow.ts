/** Why an effect does not glow, and why it went white: the emission's brightest place against bloom and tone curve. */
import { findOperator } from '../operators/catalogue.js';
import { mainInput } from '../operators/record.js';
import { own } from '../base/wholesome.js';
import { produce } from 'immer';
import { reach } from '../base/reach.js';
import { luminance, TONE, type Rgb } from '../optics/tone.js';
import { factorOf, isColour, isLink, strandsOf, type Effect, type Input, type Strand } from '../effect/schema.js';
import type { Optics } from '../scene/stage.js';
import { zeroStop } from './levels.js';

/** The emission's brightest moment and place over the loop, scene-linear. */
export interface Brightest {
  readonly rgb: Rgb;
  readonly time: number;
}

/** How far a colour is from grey: 0 grey, 1 as strong as can be. Largest less smallest channel, over the largest. */
export const strength = ([r, g, b]: Rgb): number => {
  const high = Math.max(r, g, b);
  return high > 0 ? (high - Math.max(0, Math.min(r, g, b))) / high : 0;
};

const exposed = (rgb: Rgb, exposure: number): Rgb => rgb.map((c) => Math.max(0, c) * 2 ** exposure) as unknown as Rgb;

/** The effect's own light at its brightest, exposed, in stops over the bloom threshold, as the gauge counts them. */
export const peakStops = ({ rgb }: Brightest, { exposure, bloom }: Pick<Optics, 'exposure' | 'bloom'>): number =>
  Math.log2(luminance(exposed(rgb, exposure)) / zeroStop(bloom.threshold));

/** Share of a colour's strength that is left on the display: 1 all of it, 0 white. A grey has all of its none. */
export function hueLeft(rgb: Rgb, { exposure, tone }: Pick<Optics, 'exposure' | 'tone'>): number {
  const before = strength(rgb);
  if (before < 1e-6) return 1;
  const shown = TONE[tone](exposed(rgb, exposure)).map((c) => Math.max(0, Math.min(1, c))) as unknown as Rgb;
  return Math.min(1, strength(shown) / before);
}

/** Below this share a hue reads as white. Common practice, no source. */
export const WHITE_BELOW = 0.4;
/** Colours weaker than this have no hue to lose. */
const FAINT = 0.15;

/** Where an effect's brightness is set: a literal that its emission is proportional to. */
export interface BrightnessKnob {
  readonly strand: string;
  readonly name: string;
  readonly input: string;
  readonly kind: 'factor' | 'colour';
  /** The literal as it is, as a factor. */
  readonly factor: number;
}

/** The nearest strand above the emission whose number scales all of it. */
export function brightnessKnob(effect: Effect): BrightnessKnob | null {
  const strands = new Map(strandsOf(effect).map((s) => [s.id, s]));
  const at = (input: Input | undefined): Strand | undefined => (isLink(input) ? strands.get(input.from) : undefined);
  let strand = at(effect.outputs.emission);
  for (let steps = 0; strand && steps < 200; steps++) {
    const { inputs = {}, id, name } = strand;
    const brightness = findOperator(strand.op)?.brightness;
    if (strand.bypassed) {
      const main = mainInput(findOperator(strand.op)!);
      strand = main === undefined ? undefined : at(inputs[main]);
      continue;
    }
    if (!brightness) return null;
    if ('source' in brightness) {
      const given = inputs[brightness.source];
      if (!given || isLink(given) || !isColour(given.value)) return null;
      const { intensity, unit } = given.value;
      const factor = factorOf(intensity, unit);
      return { strand: id, name, input: brightness.source, kind: 'colour', factor };
    }
    for (const input of brightness.factors) {
      const given = inputs[input];
      if (given && !isLink(given) && typeof given.value === 'number' && given.value > 0)
        return { strand: id, name, input, kind: 'factor', factor: given.value };
    }
    // A product is followed through the side that is a colour; the other is a mask.
    const sides: Strand[] = brightness.through.flatMap((input) => at(inputs[input]) ?? []);
    strand = sides.find((s) => reachesColour(s, strands)) ?? sides[0];
  }
  return null;
}

/** A colour, or what makes one brighter: a product alone may be one of masks. */
const isBright = ({ op }: Strand): boolean => {
  const brightness = findOperator(op)?.brightness;
  return brightness !== undefined && ('source' in brightness || brightness.through.length === 1);
};

/** Each strand is looked at once: read by many, it would be walked as many times over at every step. */
function reachesColour(strand: Strand, strands: ReadonlyMap<string, Strand>): boolean {
  const above = (s: Strand) =>
    Object.values(s.inputs ?? {}).flatMap((input) => (isLink(input) ? (strands.get(input.from) ?? []) : []));
  return reach([strand], above).some((s) => isBright(s));
}

/** The effect with its brightness set to a factor. */
export function withBrightness(effect: Effect, knob: BrightnessKnob, factor: number): Effect {
  return produce(effect, (draft) => {
    const strand = strandsOf(draft).find((s) => s.id === knob.strand)!;
    const given = own(strand.inputs, knob.input)!;
    if (isLink(given)) return;
    if (knob.kind === 'factor') given.value = factor;
    else if (isColour(given.value)) given.value.intensity = given.value.unit === 'stops' ? Math.log2(factor) : factor;
  });
}

export type GlowCode = 'does-not-glow' | 'bloom-off' | 'whites-out';

export interface GlowFinding {
  readonly code: GlowCode;
  readonly message: string;
  /** The numbers behind it. */
  readonly why: string;
  readonly mend:
    | { readonly kind: 'brightness'; readonly knob: BrightnessKnob; readonly factor: number; readonly label: string }
    | { readonly kind: 'bloom-on'; readonly label: string }
    | null;
}

const round = (x: number) => String(Number(x.toPrecision(3)));

/** Rounded so that it is easily read, and never past the end it must keep to. */
const tidy = (x: number, way: 'up' | 'down'): number => {
  const step = 10 ** Math.floor(Math.log10(x) - 1);
  return Number(((way === 'up' ? Math.ceil(x / step - 1e-9) : Math.floor(x / step + 1e-9)) * step).toPrecision(4));
};

/** @param brightest of the emission over the surface and the loop; null when the effect gives no light at all */
export function glowFindings(effect: Effect, optics: Optics, brightest: Brightest | null): GlowFinding[] {
  const findings: GlowFinding[] = [];
  if (!effect.outputs.emission || brightest === null) return findings;
  const { bloom, exposure } = optics;
  const peak = luminance(exposed(brightest.rgb, exposure));
  const knob = brightnessKnob(effect);
  const set = (factor: number, way: 'up' | 'down'): GlowFinding['mend'] => {
    if (!knob || !Number.isFinite(factor) || factor <= 0) return null;
    const value = tidy(factor, way);
    return { kind: 'brightness', knob, factor: value, label: `Set ${knob.name} to ${round(value)}x` };
  };
  if (!bloom.on || bloom.intensity <= 0)
    findings.push({
      code: 'bloom-off',
      message: 'It does not glow: bloom is off on this stage',
      why: `Its own light peaks at ${round(peak)}; with bloom on, what is over the threshold of ${round(bloom.threshold)} spreads its light.`,
      mend: { kind: 'bloom-on', label: 'Turn bloom on' },
    });
  else if (peak <= bloom.threshold && peak > 0)
    findings.push({
      code: 'does-not-glow',
      message: 'It does not glow: it stays under the bloom threshold',
      why: `Its own light peaks at ${round(peak)} over the loop, ${Math.abs(peakStops(brightest, optics)).toFixed(1)} stops under the threshold of ${round(bloom.threshold)}.`,
      // Two stops over the threshold is a glow that is seen. Common practice, no source.
      mend: knob ? set((knob.factor * bloom.threshold * 4) / peak, 'up') : null,
    });
  const left = hueLeft(brightest.rgb, optics);
  if (strength(brightest.rgb) >= FAINT && left < WHITE_BELOW)
    findings.push({
      code: 'whites-out',
      message: 'Its brightest place has gone white',
      why: `At ${round(peak)} the tone curve leaves ${Math.round(left * 100)} % of the hue.`,
      mend: knob ? set(knob.factor * gentler(brightest.rgb, optics), 'down') : null,
    });
  return findings;
}

/** The factor at which somewhat more of the hue than the least is left. */
function gentler(rgb: Rgb, optics: Optics): number {
  const wanted = Math.min(0.95, WHITE_BELOW * 1.25);
  let [low, high] = [1e-4, 1];
  for (let k = 0; k < 50; k++) {
    const middle = Math.sqrt(low * high);
    const left = hueLeft(rgb.map((c) => c * middle) as unknown as Rgb, optics);
    if (left > wanted) low = middle;
    else high = middle;
  }
  return low;
}
