/** Pictures of surroundings: fetched when a stage first has them, kept for as long as the page lives. */
import { readHdr } from '../core/formats/hdr.js';
import { surroundingsOf } from '../core/scene/surroundings.js';
import type { Stage } from '../core/scene/stage.js';
import type { StageRenderer } from '../render/renderer.js';

type Panorama = ReturnType<typeof readHdr>;
const reads = new Map<string, Promise<Panorama>>();

async function fetchPanorama(file: string, name: string): Promise<Panorama> {
  const response = await fetch(`/surroundings/${file}`);
  if (!response.ok) throw new Error(`The surroundings ${name} could not be had; their colour stands for them.`);
  return readHdr(new Uint8Array(await response.arrayBuffer()));
}

/**
 * Gives the renderer what the stage's surroundings need.
 * @returns whether there was anything to give
 * @throws with a sentence when it cannot be had
 */
export async function surround(renderer: StageRenderer, { surroundings }: Stage): Promise<boolean> {
  const found = surroundingsOf(surroundings.asset);
  if (!found || renderer.hasPanorama(found.id)) return false;
  let read = reads.get(found.id);
  if (!read) {
    reads.set(found.id, (read = fetchPanorama(found.file, found.name)));
    read.catch(() => reads.delete(found.id));
  }
  renderer.providePanorama(found.id, await read);
  return true;
}
