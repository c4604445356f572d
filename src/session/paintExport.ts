/** A painted prop as a mesh file: its paint in COLOR_0, for whatever else reads glTF. */
import { own } from '../core/base/wholesome.js';
import { withPaint, writeMesh } from '../core/formats/glbPaint.js';
import { propOf } from '../core/scene/edits.js';
import type { Bench } from './bench.js';
import { meshBytes } from './meshes.js';
import { download, fileStem } from './exports.js';

/** @returns the file's bytes; null where nothing is painted @throws with a sentence */
export async function paintedMesh({
  painting,
  frames,
  store,
}: Pick<Bench, 'painting' | 'frames' | 'store'>): Promise<Uint8Array | null> {
  const { prop } = painting.store.getState();
  const { stage } = store.getState();
  const made = prop === null ? undefined : frames.view?.scenery.props.get(prop);
  if (prop === null || !made) return null;
  const { source, name } = propOf(stage, prop);
  if ('asset' in source) {
    const why = `${name} was not written: its mesh could not be fetched.`;
    const bytes = await meshBytes(own(stage.assets, source.asset)?.sha256 ?? '', why);
    return withPaint(new Uint8Array(bytes), painting.now);
  }
  const of = (attribute: string) => made.plain.getAttribute(attribute).array;
  return writeMesh(
    { name, position: of('position'), normal: of('normal'), uv: of('uv'), index: made.plain.getIndex()?.array ?? null },
    painting.now,
  );
}

export async function exportPainted(session: Pick<Bench, 'painting' | 'frames' | 'store'>): Promise<void> {
  const { prop } = session.painting.store.getState();
  const { stage } = session.store.getState();
  try {
    const bytes = await paintedMesh(session);
    if (bytes)
      download(`${fileStem(propOf(stage, prop!).name)}.glb`, new Blob([Uint8Array.from(bytes)], { type: 'model/gltf-binary' }));
  } catch (error) {
    session.store.setState({ notice: (error as Error).message });
  }
}
