/** What mesh files are called. */

export const endingOf = (name: string): string => /\.([^.]+)$/.exec(name.toLowerCase())?.[1] ?? '';

/** Mesh files that can be read, by their endings. */
const MESH_ENDINGS: readonly string[] = ['glb', 'gltf', 'obj', 'ply'];

export const isMeshName = (name: string): boolean => MESH_ENDINGS.includes(endingOf(name));
