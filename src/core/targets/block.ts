/** Fills an effect's uniform block: what changes at most once a frame, computed on the CPU by WebAssembly. */
import type { Picture } from '../base/picture.js';
import type { Leaf } from '../ir/leaves.js';
import type { ShaderPlan } from './plan.js';
import { emitWasm } from './wasm/module.js';
import { WasmRunner } from './wasm/runner.js';

/** The places, other than time and loop, that are one value for a frame of a prop. */
export type FrameLeaves = Partial<Record<Leaf, readonly number[]>>;

/** What of a plan the block is made of. */
export type BlockPlan = Pick<ShaderPlan, 'slots' | 'vec4s' | 'frame'>;

/** Programs of the block, made when they are first filled; images are looked at on every run, so that late ones count. */
const runners = new WeakMap<BlockPlan, { readonly pictures: ReadonlyMap<string, Picture>; readonly runner: WasmRunner }>();

function runnerOf(text: BlockPlan, params: number, pictures: ReadonlyMap<string, Picture>): WasmRunner {
  const found = runners.get(text);
  if (found?.pictures === pictures) return found.runner;
  const runner = WasmRunner.make(emitWasm(text.frame, new Set(), params, 1), pictures);
  runners.set(text, { pictures, runner });
  return runner;
}

const NONE: ReadonlyMap<string, Picture> = new Map();

/**
 * The uniform block of an effect for one moment.
 * @param params live numbers of the program that the text was made of
 * @param time seconds, already taken modulo the loop; @param loop seconds, or null
 * @param places the prop's own: its random number
 * @param pictures images by their `pictureKey`; grey stands for those that are missing
 * @returns vec4s * 4 floats
 */
export function fillBlock(
  text: BlockPlan,
  params: ArrayLike<number>,
  time: number,
  loop: number | null,
  places: FrameLeaves = {},
  pictures: ReadonlyMap<string, Picture> = NONE,
): Float32Array<ArrayBuffer> {
  const block = new Float32Array(text.vec4s * 4);
  if (text.slots.length === 0) return block;
  const values = runnerOf(text, params.length, pictures).view(params, { ...places, time: [time], loop: [loop ?? 0] }, 1);
  text.slots.forEach((slot, k) => values[k]!.forEach((lane, j) => (block[slot.at + j] = lane[0]!)));
  return block;
}
