/** Reading what the command line is given. */
import { readFileSync, statSync } from 'node:fs';
import { readEffectText, type ReadResult } from '../core/effect/read.js';
import { readBundle } from '../core/formats/bundle.js';
import { MAX_FILE_BYTES, type Effect } from '../core/effect/schema.js';

/** The input is at fault; the message is one sentence. */
export class BadInput extends Error {}
/** The call is at fault. */
export class WrongUsage extends Error {}

export function readText(file: string, limit = MAX_FILE_BYTES): string {
  let size: number;
  try {
    size = statSync(file).size;
  } catch {
    throw new BadInput(`${file} cannot be read: there is no such file.`);
  }
  if (size > limit) throw new BadInput(`${file} is ${(size / 1048576).toFixed(1)} MB; at most ${limit / 1048576} MB are read.`);
  try {
    return readFileSync(file, 'utf8');
  } catch (error) {
    throw new BadInput(`${file} cannot be read: ${(error as Error).message}.`);
  }
}

export const readFile = (file: string): ReadResult => readEffectText(readText(file));

/** @throws BadInput with the first problem */
export function effectFrom(file: string): Effect {
  const result = readFile(file);
  if (result.ok) return result.effect;
  const more = result.problems.length > 1 ? ` (${result.problems.length - 1} more: run check)` : '';
  throw new BadInput(`${file}: ${result.problems[0]!.message}${more}`);
}

export interface EffectInput {
  readonly effect: Effect;
  /** Files that come with it, by SHA-256; none with an effect's text alone. */
  readonly assets: ReadonlyMap<string, Uint8Array<ArrayBuffer>>;
}

/** An effect's file, or the first effect of a bundle with all that it needs. @throws BadInput */
export function effectAndAssets(file: string): EffectInput {
  if (!file.endsWith('.wispen')) return { effect: effectFrom(file), assets: new Map() };
  let bytes: Uint8Array<ArrayBuffer>;
  try {
    bytes = new Uint8Array(readFileSync(file));
  } catch (error) {
    throw new BadInput(`${file} cannot be read: ${(error as Error).message}.`);
  }
  const read = readBundle(bytes);
  if (!read.ok) throw new BadInput(`${file}: ${read.why}`);
  const [effect] = read.bundle.effects;
  if (!effect) throw new BadInput(`${file} holds no effect.`);
  return { effect, assets: read.bundle.assets as ReadonlyMap<string, Uint8Array<ArrayBuffer>> };
}

/** @returns its id @throws BadInput */
export function variantNamed(file: string, effect: Effect, name: string): string {
  const found = effect.variants.find((v) => v.id === name || v.name === name);
  if (!found) throw new BadInput(`${file}: there is no variant ${name}.`);
  return found.id;
}
