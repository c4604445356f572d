/** The parts of a mesh: what they are called, by the materials of its file, and each by itself. */
import type { MeshData } from './mesh.js';

/** A part of a stage's prop has no more letters. */
const LONGEST = 64;
/** What a whole prop is called: no part of it. */
const TAKEN = ['', 'all'];

/** The name of each run of triangles, in order. Runs of one name are one part; one without a name of its own has its place. */
export const partNames = ({ parts }: Pick<MeshData, 'parts'>): string[] =>
  parts.map(({ surface }, k) => {
    const name = surface.name.trim().slice(0, LONGEST);
    return TAKEN.includes(name) ? `Part ${k + 1}` : name;
  });

/** Corners by themselves: what they number of the vertices that they have, in the order in which these are first met. */
export function alone(corners: ArrayLike<number>): { order: Uint32Array<ArrayBuffer>; vertices: number[] } {
  const places = new Map<number, number>();
  const order = Uint32Array.from(corners, (v) => {
    if (!places.has(v)) places.set(v, places.size);
    return places.get(v)!;
  });
  return { order, vertices: [...places.keys()] };
}
