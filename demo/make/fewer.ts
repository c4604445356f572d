/** The same surface of fewer triangles, where it is nearly flat and evenly coloured. */
import { MeshoptSimplifier } from 'meshoptimizer';
import { BufferAttribute, BufferGeometry } from 'three';

/** How far it may lie from what it was, in metres. */
const OFF = 0.005;
/** What a change of the normal and of the colour counts, to a metre. */
const [NORMAL, COLOUR] = [0.02, 0.05];

/** @param geometry with `position`, `normal`, `uv` and `colour`, indexed */
export async function fewer(geometry: BufferGeometry): Promise<BufferGeometry> {
  await MeshoptSimplifier.ready;
  const list = (name: string) => Float32Array.from(geometry.getAttribute(name).array);
  const [position, normal, colour] = [list('position'), list('normal'), list('colour')];
  const count = position.length / 3;
  const beside = new Float32Array(count * 4);
  for (let k = 0; k < count; k++) beside.set([...normal.subarray(3 * k, 3 * k + 3), colour[4 * k]!], 4 * k);
  const index = Uint32Array.from(geometry.getIndex()!.array);
  const [left] = MeshoptSimplifier.simplifyWithAttributes(
    ...([index, position, 3, beside, 4] as const),
    ...([[NORMAL, NORMAL, NORMAL, COLOUR], null, 0, OFF] satisfies [number[], null, number, number]),
    ['ErrorAbsolute', 'LockBorder'],
  );
  const places = new Map<number, number>();
  const compact = Uint32Array.from(left, (v) => {
    if (!places.has(v)) places.set(v, places.size);
    return places.get(v)!;
  });
  const made = new BufferGeometry().setIndex(new BufferAttribute(compact, 1));
  for (const [name, { array, itemSize }] of Object.entries(geometry.attributes)) {
    const kept = new Float32Array(places.size * itemSize);
    for (const [was, is] of places) for (let j = 0; j < itemSize; j++) kept[is * itemSize + j] = array[was * itemSize + j]!;
    made.setAttribute(name, new BufferAttribute(kept, itemSize));
  }
  return made;
}
