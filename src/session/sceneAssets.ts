/** Where scenes that are drawn without a screen have their files from: this page's, fetched once. */
import type { SceneAssets } from '../render/evaluate.js';
import { loadPicture, pictures } from './pictures.js';
import { meshOf } from './meshes.js';
import { paintOf } from './paints.js';
import { panoramaOf } from './surroundings.js';

export const SCENE_ASSETS: SceneAssets = {
  mesh: meshOf,
  paint: paintOf,
  picture: loadPicture,
  panorama: async (stage) => {
    const found = panoramaOf(stage);
    return found && { id: found.id, panorama: await found.load() };
  },
  pictures,
};
