/** A copy of a large mesh with far fewer triangles, for while it is turned about and for rays: the same vertices, fewer of them used. */

/** Meshes of more triangles than this have one. */
export const REDUCE_ABOVE = 250_000;
/** Triangles that it has, about. */
export const REDUCED_TO = 60_000;
/** How far it may lie from the mesh, as a share of its size. */
const ERROR = 0.02;

/** @returns three vertices a triangle; null where the mesh is small enough as it is */
export async function reduced(
  position: Float32Array<ArrayBuffer>,
  index: Uint32Array<ArrayBuffer>,
): Promise<Uint32Array<ArrayBuffer> | null> {
  if (index.length / 3 <= REDUCE_ABOVE) return null;
  // Loaded for the few meshes that need it.
  const { MeshoptSimplifier: simplifier } = await import('meshoptimizer');
  await simplifier.ready;
  const [fewer] = simplifier.simplify(index, position, 3, REDUCED_TO * 3, ERROR, ['LockBorder']);
  // What has no surface to follow (a cloud of loose triangles) keeps every so many of them.
  if (fewer.length <= index.length / 2) return Uint32Array.from(fewer);
  const step = Math.ceil(index.length / 3 / REDUCED_TO);
  const some = new Uint32Array(Math.floor(index.length / 3 / step) * 3);
  for (let t = 0; t < some.length / 3; t++) some.set(index.subarray(t * step * 3, t * step * 3 + 3), t * 3);
  return some;
}
