/** Images of effects: fetched and decoded once, kept for as long as the page lives; and bringing one into an effect. */
import { transfer } from 'comlink';
import type { Picture } from '../core/base/picture.js';
import { setInput } from '../core/effect/edits.js';
import { pictureKey, type Effect } from '../core/effect/schema.js';
import { IMAGE_TYPES, MAX_IMAGE_BYTES, imageTypeOf, usualColour, type ImageColour } from '../core/formats/imageFile.js';
import type { ImageReader } from '../workers/images.worker.js';
import type { Documents } from './documents.js';
import { readInWorker } from './fileWorker.js';
import { storeAsset } from './imports.js';

type Asset = Effect['assets'][string];

/** What is there, by `pictureKey`: read directly by whoever evaluates. */
export const pictures = new Map<string, Picture>();
const reads = new Map<string, Promise<Picture>>();

/** What is wrong is said as the rest of a sentence. */
const sentence = ({ message }: Error): never => {
  throw new Error(`${message[0]!.toUpperCase()}${message.slice(1)}.`);
};

const readImageFile = (name: string, bytes: ArrayBuffer, colour: ImageColour): Promise<Picture> =>
  readInWorker<ImageReader, Picture>(
    new Worker(new URL('../workers/images.worker.ts', import.meta.url), { type: 'module' }),
    name,
    (reader) => reader.read(transfer(bytes, [bytes]), colour).catch(sentence),
  );

async function fetchImage(asset: Asset): Promise<Picture> {
  const response = await fetch(`/api/assets/${asset.sha256}`);
  if (!response.ok) throw new Error(`The image ${asset.name} is not on the server; grey stands for it.`);
  return readImageFile(asset.name, await response.arrayBuffer(), asset.colour);
}

/** @throws with a sentence when it cannot be had */
export function loadPicture(asset: Asset): Promise<Picture> {
  const key = pictureKey(asset);
  let read = reads.get(key);
  if (!read) {
    reads.set(key, (read = fetchImage(asset)));
    read.then(
      (picture) => pictures.set(key, picture),
      () => reads.delete(key),
    );
  }
  return read;
}

/** How an image's numbers are to be read from now on. */
export function recolourImage(documents: Documents, key: string, colour: ImageColour): void {
  documents.edit('Read the image otherwise', (draft) => {
    const asset = draft.assets[key];
    if (asset) asset.colour = colour;
  });
}

/** Puts a picture file into the effect, and into a strand. @throws with a sentence; then nothing has changed */
export async function importImage(documents: Documents, strand: string, input: string, file: File): Promise<void> {
  if (file.size > MAX_IMAGE_BYTES)
    throw new Error(
      `${file.name} is ${(file.size / 1048576).toFixed(0)} MB; an image may be at most ${MAX_IMAGE_BYTES / 1048576} MB.`,
    );
  const bytes = new Uint8Array(await file.arrayBuffer());
  const type = imageTypeOf(bytes);
  if (!type) throw new Error(`${file.name} was not opened: it is not one of ${Object.values(IMAGE_TYPES).join(', ')}.`);
  const colour = usualColour(type);
  const picture = await readImageFile(file.name, bytes.slice().buffer, colour);
  const sha256 = await storeAsset(file.name, bytes);
  const { width, height } = picture.levels[0]!;
  const asset: Asset = { sha256, name: file.name.slice(0, 200), type, colour, size: [width, height] };
  pictures.set(pictureKey(asset), picture);
  reads.set(pictureKey(asset), Promise.resolve(picture));
  documents.edit(`Choose ${file.name}`, (draft) => {
    const key = Object.entries(draft.assets).find(([, a]) => a.sha256 === sha256)?.[0] ?? `image-${sha256.slice(0, 12)}`;
    draft.assets[key] ??= asset;
    setInput(draft, { id: strand, name: input, input: { value: { asset: key } } });
  });
}
