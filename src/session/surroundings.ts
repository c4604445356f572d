/** Pictures of surroundings: fetched when a stage first has them, kept for as long as the page lives. */
import { readHdr } from '../core/formats/hdr.js';
import { surroundingsOf } from '../core/scene/surroundings.js';
import type { Stage } from '../core/scene/stage.js';
import type { Panorama } from '../render/surroundings.js';

const reads = new Map<string, Promise<Panorama>>();

async function fetchPanorama(file: string, name: string): Promise<Panorama> {
  const response = await fetch(`/surroundings/${file}`);
  if (!response.ok) throw new Error(`The surroundings ${name} could not be had; their colour stands for them.`);
  return readHdr(new Uint8Array(await response.arrayBuffer()));
}

/**
 * The picture that a stage's surroundings need; null for a plain colour.
 * `load` throws with a sentence when it cannot be had.
 */
export function panoramaOf({ surroundings }: Stage): { readonly id: string; load(): Promise<Panorama> } | null {
  const found = surroundingsOf(surroundings.asset);
  if (!found) return null;
  const { id, file, name } = found;
  return {
    id,
    load: () => {
      const read = reads.get(id) ?? fetchPanorama(file, name);
      reads.set(id, read);
      read.catch(() => reads.delete(id));
      return read;
    },
  };
}
