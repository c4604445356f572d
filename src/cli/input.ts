/** Reading what the command line is given. */
import { readFileSync, statSync } from 'node:fs';
import { readEffectText, type ReadResult } from '../core/effect/read.js';
import type { Picture } from '../core/base/picture.js';
import { MAX_FILE_BYTES, type Effect } from '../core/effect/schema.js';
import { MAX_BUNDLE_BYTES } from '../core/formats/bundle.js';
import { Decoder } from '../decoding/decoder.js';

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
    // Some editors begin a text with a mark of its byte order, which is none of it.
    return readFileSync(file, 'utf8').replace(/^\uFEFF/, '');
  } catch (error) {
    const folder = (error as NodeJS.ErrnoException).code === 'EISDIR';
    throw new BadInput(`${file} cannot be read: ${folder ? 'it is a folder' : (error as Error).message}.`);
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
  /** What it looks up, by `pictureKey`; none with an effect's text alone. */
  readonly pictures: ReadonlyMap<string, Picture>;
  /** The images' files, by SHA-256; none with an effect's text alone. */
  readonly files: ReadonlyMap<string, Uint8Array>;
}

/** An effect's file, or the first effect of a bundle with the images it looks up. @throws BadInput */
export async function effectAndFiles(file: string): Promise<EffectInput> {
  if (!file.endsWith('.wispen')) return { effect: effectFrom(file), pictures: new Map(), files: new Map() };
  const size = statSync(file, { throwIfNoEntry: false });
  if (!size?.isFile()) throw new BadInput(`${file} cannot be read: there is no such file.`);
  if (size.size > MAX_BUNDLE_BYTES)
    throw new BadInput(`${file} is larger than ${MAX_BUNDLE_BYTES / 1048576} MB, the most that is read of a bundle.`);
  const decoder = new Decoder();
  try {
    const opened = await decoder.open(file);
    if (!opened.ok) throw new BadInput(`${file}: ${opened.why}`);
    return opened;
  } finally {
    await decoder.close();
  }
}

/** The same, for what reads the images. @throws BadInput where one does not come with the effect */
export async function effectAndPictures(file: string): Promise<EffectInput> {
  const input = await effectAndFiles(file);
  const [lacking] = Object.values(input.effect.assets).filter(({ sha256 }) => !input.files.has(sha256));
  if (lacking) throw new BadInput(`the image ${lacking.name} does not come with the effect; bake its bundle (.wispen) instead.`);
  return input;
}

/** @returns its id @throws BadInput */
export function variantNamed(file: string, effect: Effect, name: string): string {
  const found = effect.variants.find((v) => v.id === name || v.name === name);
  if (!found) throw new BadInput(`${file}: there is no variant ${name}.`);
  return found.id;
}
