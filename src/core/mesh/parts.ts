/** What the parts of a mesh are called: by the materials of its file. */
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
