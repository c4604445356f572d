/** Bringing files of the artist's own in: a mesh onto the stage, a picture into a strand. */
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import { setInput } from '../core/effect/edits.js';
import { MAX_MESH_BYTES, type MeshProgress } from '../core/formats/glb.js';
import { IMAGE_TYPES, MAX_IMAGE_BYTES, imageTypeOf, usualColour, type ImageColour } from '../core/formats/imageFile.js';
import type { MeshAbout } from '../core/mesh/mesh.js';
import { keepStandIn } from '../core/scene/wearing.js';
import { addAsset, addProp, freshPropId, type Vec3 } from '../core/scene/edits.js';
import type { Documents } from './documents.js';
import { isMeshName } from '../core/formats/meshNames.js';
import { convertMesh, keepMesh, readMeshFile } from './meshes.js';
import { placeFor, showBoth, type StageHands } from './standing.js';
import { propInHand } from './state.js';
import { keepPicture, readImageFile, type ImageAsset } from './pictures.js';

/** A mesh whose longest side is outside these metres is brought to `COMFORTABLE`. */
const SMALLEST = 0.05;
const LARGEST = 12;
const COMFORTABLE = 1.4;

/** The scale at which a mesh is of a size for the stage. */
export function comfortable({ low, high }: Pick<MeshAbout, 'low' | 'high'>): number {
  const longest = Math.max(...high.map((h, k) => h - low[k]!));
  return longest > 0 && (longest < SMALLEST || longest > LARGEST) ? COMFORTABLE / longest : 1;
}

export async function storeAsset(name: string, bytes: Uint8Array<ArrayBuffer>): Promise<string> {
  const sha = bytesToHex(sha256(bytes));
  const response = await fetch(`/api/assets/${sha}`, { method: 'PUT', body: new Blob([bytes]) }).catch(() => null);
  if (!response) throw new Error(`${name} was not stored: the server does not answer.`);
  if (!response.ok) throw new Error(`${name} was not stored. ${((await response.json()) as { error: string }).error}`);
  return sha;
}

/**
 * Puts a mesh file on the stage as a prop that wears the effect on the bench.
 * @param asItIs where its file says what it is made of it wears nothing: what is set up is a place, not an effect
 * @returns what was read, for the artist to see
 * @throws with a sentence; then nothing is stored and the stage is as it was
 */
export async function importMesh(
  hands: StageHands,
  files: readonly File[],
  onProgress?: MeshProgress,
  asItIs = false,
): Promise<MeshAbout & { readonly seconds: number }> {
  const began = performance.now();
  const file = files.find((f) => isMeshName(f.name));
  if (!file)
    throw new Error(`${files[0]?.name ?? 'It'} was not opened: a mesh is a file of glTF, .glb or .gltf, of OBJ, or of PLY.`);
  if (file.size > MAX_MESH_BYTES)
    throw new Error(
      `${file.name} is ${(file.size / 1048576).toFixed(0)} MB; a mesh may be at most ${MAX_MESH_BYTES / 1048576} MB.`,
    );
  const bytes = new Uint8Array(await glbOf(file, files));
  const mesh = await readMeshFile(file.name, bytes.slice().buffer, onProgress);
  const { about } = mesh;
  const sha = await storeAsset(file.name, bytes);
  keepMesh(sha, mesh);
  const { effect, stage } = hands.store.getState();
  const name = file.name.replace(/\.[^.]+$/, '').slice(0, 60) || 'Mesh';
  const id = freshPropId(stage, name);
  const scale = comfortable(about);
  const sized = (end: readonly number[]) => end.map((v) => v * scale) as Vec3;
  const room = { low: sized(about.low), high: sized(about.high) };
  const [place, beside] = [placeFor(hands, room), propInHand(hands.store.getState())];
  hands.documents.editStage(`Add ${name}`, (draft) => {
    const key = Object.entries(draft.assets).find(([, a]) => a.sha256 === sha)?.[0] ?? `mesh-${sha.slice(0, 12)}`;
    addAsset(draft, {
      key,
      asset: { sha256: sha, name: `${name}.glb`.slice(0, 200), type: 'model/gltf-binary', size: bytes.byteLength },
    });
    keepStandIn(draft, effect);
    const worn = asItIs && mesh.parts.length > 0 ? null : effect.id;
    addProp(draft, { id, name, source: { asset: key }, place, scale: [scale, scale, scale], effect: worn });
  });
  hands.choosing.hand(id);
  showBoth(hands, room, place, beside);
  return { ...about, seconds: (performance.now() - began) / 1000 };
}

/** The mesh as binary glTF, whatever it came as. */
async function glbOf(file: File, files: readonly File[]): Promise<ArrayBuffer> {
  if (/\.glb$/i.test(file.name)) return file.arrayBuffer();
  const read = async (f: File) => ({ name: f.name, bytes: new Uint8Array(await f.arrayBuffer()) });
  return convertMesh(await read(file), await Promise.all(files.filter((f) => f !== file).map(read)));
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
  const asset: ImageAsset = { sha256, name: file.name.slice(0, 200), type, colour, size: [width, height] };
  keepPicture(asset, picture);
  documents.edit(`Choose ${file.name}`, (draft) => {
    const key = Object.entries(draft.assets).find(([, a]) => a.sha256 === sha256)?.[0] ?? `image-${sha256.slice(0, 12)}`;
    draft.assets[key] ??= asset;
    setInput(draft, { id: strand, name: input, input: { value: { asset: key } } });
  });
}
