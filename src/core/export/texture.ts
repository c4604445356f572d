/** Baking in texture space: an output over the unit square, frame by frame, as files of numbers. */
import { encode } from 'fast-png';
import { toSrgb, type Picture } from '../base/picture.js';
import type { Effect } from '../effect/schema.js';
import { outputRecord, type OutputName } from '../effect/outputs.js';
import { SURFACE_LEAVES } from '../ir/leaves.js';
import { widthOf } from '../ir/types.js';
import { lower } from '../lower/lower.js';
import { texturePlaces } from '../places/texture.js';
import { paramValues } from '../lower/params.js';
import { evaluatorOf, type Evaluator } from '../targets/evaluate.js';
import type { Problem } from '../effect/read.js';
import { writeExr } from '../formats/exr.js';

export const BAKE_FORMATS = ['png', 'exr'] as const;
export type BakeFormat = (typeof BAKE_FORMATS)[number];
export const MAX_BAKE_SIDE = 8192;

/** Rows that are computed at a time. */
const BAND = 16;

export interface TextureBake {
  /** Rows of the output's channels, planes of width x height, top row first. */
  frame(index: number): Float32Array[];
}

export type BakeResult = { readonly ok: true; readonly bake: TextureBake } | { readonly ok: false; readonly problem: Problem };

/** @param effect with the variant's values written in; @param pictures by their `pictureKey` */
export function textureBake(
  effect: Effect,
  output: OutputName,
  width: number,
  height: number,
  pictures: ReadonlyMap<string, Picture> = new Map(),
): BakeResult {
  const problem = (message: string): BakeResult => ({ ok: false, problem: { strand: null, code: 'bake', message } });
  const program = lower(effect, { build: 'frozen' });
  if (program.problems.length > 0) return { ok: false, problem: program.problems[0]! };
  const port = program.outputs.get(output);
  if (!port) return problem(`Nothing is connected to the output ${output}.`);
  const params = paramValues(program.params, effect);
  const count = width * BAND;
  const evaluator: Evaluator = evaluatorOf(program, [port.node], new Set(SURFACE_LEAVES), count, pictures);
  const places = texturePlaces(width, height, BAND);
  const channels = widthOf(port.node.type);
  return {
    ok: true,
    bake: {
      frame(index) {
        const seconds = index / effect.fps;
        const time = effect.loop === null ? seconds : seconds - effect.loop * Math.floor(seconds / effect.loop);
        const planes = Array.from({ length: channels }, () => new Float32Array(width * height));
        for (let top = 0; top < height; top += BAND) {
          const rows = Math.min(BAND, height - top);
          places.goTo(top, rows);
          const values = evaluator.view(params, { ...places.leaves, time: [time], loop: [effect.loop ?? 0] }, rows * width)[0]!;
          planes.forEach((p, c) => p.set(values[c]!.subarray(0, rows * width), top * width));
        }
        return planes;
      },
    },
  };
}

/** The most that a half float holds (IEEE 754 binary16). */
export const MOST_OF_HALF = 65504;

/** How many values are beyond what EXR's halves hold: they are written as the most of it. */
export const beyondHalf = (planes: readonly Float32Array[]): number =>
  planes.reduce((sum, plane) => sum + plane.reduce((n, v) => n + (Math.abs(v) > MOST_OF_HALF ? 1 : 0), 0), 0);

/**
 * PNG of 16 bits a channel: colours are coded as sRGB (IEC 61966-2-1) and cut off at 1. EXR holds halves, cut off at
 * 65,504; what is no number is 0 in both.
 */
export function pictureFile(
  planes: readonly Float32Array[],
  width: number,
  height: number,
  output: OutputName,
  format: BakeFormat,
): Uint8Array {
  const wide = planes.length === 2 ? [...planes, new Float32Array(width * height)] : planes;
  if (format === 'exr') {
    const names = wide.length === 1 ? ['Y'] : ['R', 'G', 'B', 'A'];
    const held = (plane: Float32Array) => plane.map((v) => (v !== v ? 0 : Math.max(-MOST_OF_HALF, Math.min(MOST_OF_HALF, v))));
    return writeExr({ width, height, channels: Object.fromEntries(wide.map((p, k) => [names[k]!, held(p)])), depth: 'half' });
  }
  const channels = wide.length as 1 | 3 | 4;
  const { stored } = outputRecord(output);
  const [colour, signed] = [stored === 'colour', stored === 'signed'];
  const code = (value: number) => {
    const v = Number.isFinite(value) ? value : 0;
    const held = Math.max(0, Math.min(1, signed ? v * 0.5 + 0.5 : v));
    return Math.round((colour ? toSrgb(held) : held) * 65535);
  };
  const data = new Uint16Array(width * height * channels);
  wide.forEach((plane, c) => {
    for (let k = 0; k < plane.length; k++) data[k * channels + c] = code(plane[k]!);
  });
  return encode({ width, height, data, depth: 16, channels });
}
