/** Images of effects: fetched and decoded once, kept for as long as the page lives. */
import { transfer } from 'comlink';
import type { Picture } from '../core/base/picture.js';
import { pictureKey, type Effect } from '../core/effect/schema.js';
import type { ImageColour } from '../core/formats/imageFile.js';
import type { ImageReader } from '../workers/images.worker.js';
import { readInWorker } from './fileWorker.js';

export type ImageAsset = Effect['assets'][string];

/** What is there, by `pictureKey`: read directly by whoever evaluates. */
export const pictures = new Map<string, Picture>();
const reads = new Map<string, Promise<Picture>>();

/** What is wrong is said as the rest of a sentence. */
const sentence = ({ message }: Error): never => {
  throw new Error(`${message[0]!.toUpperCase()}${message.slice(1)}.`);
};

/** Reads a picture file in a worker of its own, which ends with it. @throws with a sentence when it is refused */
export const readImageFile = (name: string, bytes: ArrayBuffer, colour: ImageColour): Promise<Picture> =>
  readInWorker<ImageReader, Picture>(
    new Worker(new URL('../workers/images.worker.ts', import.meta.url), { type: 'module' }),
    name,
    (reader) => reader.read(transfer(bytes, [bytes]), colour).catch(sentence),
  );

async function fetchImage(asset: ImageAsset): Promise<Picture> {
  const response = await fetch(`/api/assets/${asset.sha256}`);
  if (!response.ok) throw new Error(`The image ${asset.name} is not on the server; grey stands for it.`);
  return readImageFile(asset.name, await response.arrayBuffer(), asset.colour);
}

/** @throws with a sentence when it cannot be had */
export function loadPicture(asset: ImageAsset): Promise<Picture> {
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

/** Keeps a picture that was read already. */
export function keepPicture(asset: ImageAsset, picture: Picture): void {
  pictures.set(pictureKey(asset), picture);
  reads.set(pictureKey(asset), Promise.resolve(picture));
}
