/** A prop of more vertices, where there are too few to paint: its paint is carried over. */
import { own } from '../core/base/wholesome.js';
import { kept } from '../core/paint/paint.js';
import { addAsset, dropUnusedAssets, propOf, shapeProp } from '../core/scene/edits.js';
import { finerOf } from '../core/scene/primitives.js';
import type { PropSource, Stage } from '../core/scene/stage.js';
import { geometryOf } from '../render/geometry.js';
import type { PropMesh } from '../render/props.js';
import { pointsOn, verticesOf, type OnMesh } from '../render/surface.js';
import type { Bench } from './bench.js';
import { storeAsset } from './imports.js';
import { finerMesh, keepMesh, meshBytes, readMeshFile } from './meshes.js';

type Hands = Pick<Bench, 'painting' | 'frames' | 'store' | 'documents'>;

/** Cuts what is painted finer: a primitive into twice as many parts each way, a mesh into four triangles for each. */
export async function subdivide(hands: Hands): Promise<void> {
  const { painting, frames, store } = hands;
  const { prop } = painting.store.getState();
  const made = prop === null ? undefined : frames.view?.scenery.props.get(prop);
  if (prop === null || !made) return;
  const { source } = propOf(store.getState().stage, prop);
  if ('primitive' in source) {
    const finer = finerOf(source);
    const geometry = geometryOf(finer);
    const { position } = verticesOf(geometry);
    geometry.dispose();
    remake(
      hands,
      prop,
      made,
      Array.from(position[0]!, (_, v) => ({ position: position.map((lane) => lane[v]!) })),
      (draft) => shapeProp(draft, { id: prop, source: finer }),
    );
    return;
  }
  painting.store.setState({ busy: 'Cutting every triangle into four' });
  try {
    await subdivideMesh(hands, prop, made, source);
  } catch (error) {
    store.setState({ notice: (error as Error).message });
  } finally {
    painting.store.setState({ busy: null });
  }
}

async function subdivideMesh(
  hands: Hands,
  prop: string,
  made: PropMesh,
  source: Extract<PropSource, { asset: string }>,
): Promise<void> {
  const { store, painting } = hands;
  const was = own(store.getState().stage.assets, source.asset);
  const { name } = propOf(store.getState().stage, prop);
  if (!was) return;
  const bytes = new Uint8Array(
    await finerMesh(name, await meshBytes(was.sha256, `${name} was not cut finer: its mesh could not be fetched.`)),
  );
  const mesh = await readMeshFile(name, bytes.slice().buffer);
  const sha256 = await storeAsset(name, bytes);
  keepMesh(sha256, mesh);
  // Somebody has gone on meanwhile: what was asked for is of another prop or mesh now.
  const now = store.getState().stage.props.find((p) => p.id === prop)?.source;
  if (painting.store.getState().prop !== prop || JSON.stringify(now) !== JSON.stringify(source)) return;
  const wanted = Array.from({ length: mesh.position.length / 3 }, (_, v) => ({
    position: [...mesh.position.subarray(v * 3, v * 3 + 3)],
  }));
  // It is drawn at once: what is not there is not painted either.
  hands.frames.view?.provideMesh(sha256, mesh);
  const key = `mesh-${sha256.slice(0, 12)}`;
  remake(hands, prop, made, wanted, (draft) => {
    addAsset(draft, { key, asset: { ...was, sha256, size: bytes.byteLength } });
    shapeProp(draft, { id: prop, source: { asset: key } });
    dropUnusedAssets(draft);
  });
}

/** @param wanted where the vertices of the finer one are */
function remake(
  { painting, documents, store }: Hands,
  prop: string,
  { painted }: PropMesh,
  wanted: readonly OnMesh[],
  reshape: (draft: Stage) => void,
): void {
  const { paint, name } = propOf(store.getState().stage, prop);
  if (paint === null) return documents.editStage(`Subdivide: ${name}`, reshape);
  const lanes = pointsOn(painted, wanted).vertexColour;
  painting.remake(
    'Subdivide',
    Float32Array.from({ length: wanted.length * 4 }, (_, k) => kept(lanes[k % 4]![k >> 2]!)),
    reshape,
  );
}
