/** The effects of bench/hand/, as sheets, and the larger ones that the bench times. */
import type { Effect, Input, Strand, Value } from '../src/core/effect/schema.js';
import { readEffect } from '../src/core/effect/read.js';
import { constructSheet } from '../tests/fixtures/sheets.js';

const v = (value: Value): Input => ({ value });
const f = (from: string, part?: string): Input => (part ? { from, part } : { from });
const rgb = (r: number, g: number, b: number, intensity = 1): Input => v({ rgb: [r, g, b], intensity, unit: 'factor' });

function effect(name: string, strands: Strand[], emission: string): Effect {
  const result = readEffect({
    format: 'wispen-effect',
    version: 1,
    id: 'bench',
    name,
    strands,
    outputs: { emission: { from: emission } },
    finish: { lighting: 'unlit' },
  });
  if (!result.ok) throw new Error(result.problems[0]!.message);
  return result.effect;
}

const s = (id: string, op: string, inputs: Record<string, Input> = {}, options: Record<string, string> = {}): Strand => ({
  id,
  name: id,
  op,
  inputs,
  options,
});

export const HAND: Record<string, Effect> = {
  flicker: effect(
    'flicker',
    [
      s('t', 'time'),
      s('rate', 'multiply', { a: f('t'), b: v(3) }),
      s('shift', 'add', { a: f('rate'), b: v(7) }),
      s('breath', 'noise', { position: f('shift') }),
      s('lit', 'clamp', { in: f('breath'), low: v(0.25), high: v(1) }),
      s('along', 'uv'),
      s('left', 'smoothstep', { low: v(0.02), high: v(0.14), in: f('along', 'y') }),
      s('back', 'subtract', { a: v(1), b: f('along', 'y') }),
      s('right', 'smoothstep', { low: v(0.02), high: v(0.14), in: f('back') }),
      s('ends', 'multiply', { a: f('left'), b: f('right') }),
      s('warm', 'colour', { in: rgb(0.5, 0.18, 0.07) }),
      s('hue', 'colour', { in: rgb(0.42, 1, 0.76) }),
      s('gas', 'mix', { a: f('warm'), b: f('hue'), amount: f('ends') }),
      s('level', 'intensity', { in: f('lit'), amount: v(9) }),
      s('glow', 'multiply', { a: f('gas'), b: f('level') }),
    ],
    'glow',
  ),
  halo: effect(
    'halo',
    [
      s('rim', 'fresnel', { width: v(0.6) }),
      s('breath', 'wave', { rate: v(0.75), low: v(0.55) }),
      s('deep', 'colour', { in: rgb(0.1, 0.25, 1) }),
      s('pale', 'colour', { in: rgb(0.5, 0.9, 1) }),
      s('hue', 'mix', { a: f('deep'), b: f('pale'), amount: f('rim') }),
      s('level', 'multiply', { a: f('rim'), b: f('breath') }),
      s('strong', 'intensity', { in: f('level'), amount: v(14) }),
      s('glow', 'multiply', { a: f('hue'), b: f('strong') }),
    ],
    'glow',
  ),
  ash: effect(
    'ash',
    [
      s('p', 'position'),
      s('t', 'time'),
      s('slow', 'multiply', { a: f('t'), b: v(0.5) }),
      s('coarse', 'noise', { position: f('p'), scale: v(2.5), seed: v(3) }),
      s('fine', 'noise', { position: f('p'), scale: v(9), churn: f('slow'), seed: v(8) }),
      s('both', 'mix', { a: f('coarse'), b: f('fine'), amount: v(0.3) }),
      s('mask', 'smoothstep', { low: v(-0.1), high: v(0.35), in: f('both') }),
      s('dark', 'colour', { in: rgb(0.02, 0.015, 0.015) }),
      s('ember', 'colour', { in: rgb(1, 0.35, 0.08, 6) }),
      s('glow', 'mix', { a: f('dark'), b: f('ember'), amount: f('mask') }),
    ],
    'glow',
  ),
};

/** time x rate + seed, noise, floor and ceiling, hue x intensity; the time differs from sample to sample. */
export const ORGANIC = effect(
  'organic flicker',
  [
    s('t', 'time'),
    s('rate', 'multiply', { a: f('t'), b: v(3) }),
    s('shift', 'add', { a: f('rate'), b: v(7) }),
    s('breath', 'noise', { position: f('shift') }),
    s('lit', 'clamp', { in: f('breath'), low: v(0.25), high: v(1) }),
    s('hue', 'colour', { in: rgb(0.42, 1, 0.76, 12) }),
    s('glow', 'multiply', { a: f('hue'), b: f('lit') }),
  ],
  'glow',
);

/** Five noises of position, at five scales, summed. */
export const FIVE_NOISES = effect(
  'five noises',
  [
    s('p', 'position'),
    ...[1, 2, 3, 4, 5].map((k) => s(`n${k}`, 'noise', { position: f('p'), scale: v(k * 1.7), seed: v(k) })),
    s('a', 'add', { a: f('n1'), b: f('n2') }),
    s('b', 'add', { a: f('a'), b: f('n3') }),
    s('c', 'add', { a: f('b'), b: f('n4') }),
    s('d', 'add', { a: f('c'), b: f('n5') }),
  ],
  'd',
);

const made = new Map<string, Effect>();
/**
 * Made once: choosing strands for a thousand takes far longer than anything that is timed with them.
 * @param plain without patterns and bumps, of which each differentiates what it reads
 */
export function ofSize(strands: number, plain: boolean): Effect {
  const key = `${strands} ${plain}`;
  const sheet = made.get(key) ?? constructSheet(strands, { strands, plain });
  made.set(key, sheet);
  return sheet;
}

export const DISSOLVE = effect(
  'dissolve',
  [
    s('p', 'position'),
    s('n', 'noise', { position: f('p'), scale: v(3), seed: v(4) }),
    s('half', 'multiply', { a: f('n'), b: v(0.5) }),
    s('up', 'add', { a: f('half'), b: v(0.5) }),
    s('mask', 'harden', { in: f('up'), low: v(0.2), high: v(0.8) }),
    s('d', 'dissolve', { mask: f('mask'), amount: v(0.45), width: v(0.08), softness: v(0.03) }),
    s('hue', 'colour', { in: rgb(1, 0.3, 0.0625, 8) }),
    s('glow', 'multiply', { a: f('hue'), b: { from: 'd', port: 'rim' } }),
  ],
  'glow',
);

export const FORCE_FIELD = effect(
  'force field',
  [
    s('rim', 'fresnel', { falloff: v(3.5) }),
    s('line', 'contact', { width: v(0.4), falloff: v(2.2) }),
    s('p', 'position'),
    s('n', 'noise', { position: f('p'), scale: v(6), seed: v(2) }),
    s('etch', 'harden', { in: f('n'), low: v(0.1), high: v(0.35) }),
    s('both', 'joinMasks', { a: f('rim'), b: f('line'), subtract: f('etch') }),
    s('hue', 'colour', { in: rgb(0.2, 0.8, 1, 6) }),
    s('glow', 'multiply', { a: f('hue'), b: f('both') }),
  ],
  'glow',
);

export const WATER = effect(
  'water',
  [
    s('w', 'waves', {
      heading: v((0.5 * 180) / Math.PI),
      wavelengths: v([4.2, 2.3, 1.3, 0.7]),
      speeds: v([0.9, 0.7, 0.55, 0.4]),
      amplitudes: v([0.4, 0.3, 0.2, 0.1]),
    }),
    s('g', 'formula', { a: f('w'), formula: v({ text: 'pow(a * 0.5 + 0.5, 8.0)' }) }),
    s('gap', 'depthGap'),
    s('d', 'formula', { a: f('gap'), b: f('w'), formula: v({ text: 'max(a + b * 0.1, 0.0)' }) }),
    s('tint', 'absorb', { in: rgb(0.3, 0.7, 0.8), thickness: f('d'), absorption: v([0.4, 0.08, 0.03]) }),
    s('glow', 'add', { a: f('tint'), b: f('g') }),
  ],
  'glow',
);

/** One noise of a place, for what a sample of it costs. */
export const ONE_NOISE = effect(
  'noise',
  [s('p', 'position'), s('n', 'noise', { position: f('p'), scale: v(1), seed: v(1) })],
  'n',
);

/** Twenty dials that cues drive, and a sum that reads them all. */
function cued(keys: number): Effect {
  const dials = Array.from({ length: 20 }, (_, k) => `d${k}`);
  return {
    ...effect(
      'cued',
      [
        ...dials.map((id) => s(id, 'number', { in: v(0) })),
        ...dials.map((id, k) => s(`s${k}`, 'add', { a: f(id), b: k === 0 ? v(0) : f(`s${k - 1}`) })),
      ],
      's19',
    ),
    loop: 4,
    dials: dials.map((id) => ({ id: `dial-${id}`, strand: id, input: 'in' })),
    cues: dials.map((id, k) => ({
      dial: `dial-${id}`,
      keys: Array.from({ length: keys }, (_, n) => ({
        time: (n * 4) / keys,
        value: Math.sin(n * 1.7 + k),
        ease: (['linear', 'smooth', 'step'] as const)[(n + k) % 3]!,
      })),
    })),
  };
}
export const CUED = cued(256);
export const CUED_LITTLE = cued(2);
