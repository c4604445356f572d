/** What the decoding process does: each of these reads a file to its end, and says why not as a sentence. */
import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { v7 as uuid } from 'uuid';
import { MAX_SIDE, type Picture } from '../core/base/picture.js';
import { pictureKey, type Effect } from '../core/effect/schema.js';
import { writeEffect } from '../core/effect/write.js';
import { assetsOf, readBundle, withFreshIds } from '../core/formats/bundle.js';
import { MeshRefused, readGlb } from '../core/formats/glb.js';
import { BadImage, imageTypeOf, readImage, usualColour, type DecodeBitmap, type ImageColour } from '../core/formats/imageFile.js';
import { writeStage } from '../core/scene/stage.js';

sharp.concurrency(1);
sharp.cache(false);

const decodeBitmap: DecodeBitmap = async (bytes) => {
  const { data, info } = await sharp(bytes, { limitInputPixels: MAX_SIDE * MAX_SIDE })
    .ensureAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, data };
};

const bytesOf = (path: string) => new Uint8Array(readFileSync(path));

/** @returns why a mesh or an image is refused, or null */
export async function check(path: string): Promise<string | null> {
  return whyNot(bytesOf(path));
}

async function whyNot(bytes: Uint8Array<ArrayBuffer>): Promise<string | null> {
  const type = imageTypeOf(bytes);
  try {
    if (type) await readImage(bytes, usualColour(type), decodeBitmap);
    else await readGlb(bytes);
    return null;
  } catch (error) {
    if (error instanceof BadImage) return `The image cannot be read: ${error.message}.`;
    return error instanceof MeshRefused ? error.message : 'The file is neither a mesh nor an image that can be read.';
  }
}

/** @returns the picture, or the rest of a sentence that begins with the file's name */
async function pictureIn(bytes: Uint8Array<ArrayBuffer>, colour: ImageColour): Promise<Picture | string> {
  try {
    return await readImage(bytes, colour, decodeBitmap);
  } catch (error) {
    return error instanceof BadImage ? error.message : 'it is broken';
  }
}

export interface UnbundledDocument {
  readonly id: string;
  readonly format: 'effect' | 'stage';
  readonly name: string;
  /** Canonical text. */
  readonly document: string;
}
export type Unbundled =
  | {
      readonly ok: true;
      readonly effect: string;
      readonly effects: number;
      readonly stages: number;
      readonly documents: readonly UnbundledDocument[];
    }
  | { readonly ok: false; readonly why: string };

/** What is called so already. */
export interface Names {
  readonly stages: readonly string[];
  readonly effects: readonly string[];
}

/** "Dock passage", and where that is taken "Dock passage 2". */
function freshName(taken: Set<string>, name: string): string {
  const plain = name.replace(/ \d+$/, '').slice(0, 110);
  let fresh = name;
  for (let k = 2; taken.has(fresh); k++) fresh = `${plain} ${k}`;
  taken.add(fresh);
  return fresh;
}

/** Checked whole, then its files are stored: a bundle that is refused leaves nothing. */
export async function unbundle(path: string, assets: string, names: Names): Promise<Unbundled> {
  const read = readBundle(bytesOf(path));
  if (!read.ok) return read;
  const stored = (sha: string) => existsSync(join(assets, sha));
  const lacking = assetsOf(read.bundle).find((sha) => !read.bundle.assets.has(sha) && !stored(sha));
  if (lacking) return { ok: false, why: `It refers to a file that it does not hold, ${lacking.slice(0, 12)}….` };
  for (const [sha, content] of read.bundle.assets) {
    const why = stored(sha) ? null : await whyNot(new Uint8Array(content));
    if (why !== null) return { ok: false, why: `Its file ${sha.slice(0, 12)}… is refused. ${why}` };
  }
  const [stages, effects] = [new Set(names.stages), new Set(names.effects)];
  const bundle = withFreshIds(
    read.bundle,
    uuid,
    (name) => freshName(stages, name),
    (name) => freshName(effects, name),
  );
  for (const [sha, content] of bundle.assets) if (!stored(sha)) keep(join(assets, sha), content);
  return {
    ok: true,
    effect: bundle.effects[0]!.id,
    effects: bundle.effects.length,
    stages: bundle.stages.length,
    documents: [
      ...bundle.stages.map((s) => ({ id: s.id, format: 'stage' as const, name: s.name, document: writeStage(s) })),
      // The effect it is about comes last, so that it is the one that was changed last.
      ...[...bundle.effects]
        .reverse()
        .map((e) => ({ id: e.id, format: 'effect' as const, name: e.name, document: writeEffect(e) })),
    ],
  };
}

/** Written beside and renamed, so that a half-written file never bears the name. */
function keep(path: string, content: Uint8Array): void {
  const part = `${path}.${uuid()}.part`;
  writeFileSync(part, content);
  renameSync(part, path);
}

export type Opened =
  | {
      readonly ok: true;
      readonly effect: Effect;
      readonly pictures: ReadonlyMap<string, Picture>;
      /** The images' files, by SHA-256. */
      readonly files: ReadonlyMap<string, Uint8Array>;
    }
  | { readonly ok: false; readonly why: string };

/** The first effect of a bundle, with the pictures it looks up. */
export async function open(path: string): Promise<Opened> {
  const read = readBundle(bytesOf(path));
  if (!read.ok) return read;
  const effect = read.bundle.effects[0]!;
  const pictures = new Map<string, Picture>();
  const files = new Map<string, Uint8Array>();
  for (const asset of Object.values(effect.assets)) {
    const bytes = read.bundle.assets.get(asset.sha256);
    if (!bytes) return { ok: false, why: `The image ${asset.name} does not come with it.` };
    const found = await pictureIn(new Uint8Array(bytes), asset.colour);
    if (typeof found === 'string') return { ok: false, why: `The image ${asset.name} cannot be read: ${found}.` };
    pictures.set(pictureKey(asset), found);
    files.set(asset.sha256, bytes);
  }
  return { ok: true, effect, pictures, files };
}
