/** The files that a stage refers to, fetched for the renderer that shows it: meshes, paint, surroundings. */
import { PAINT_TYPE } from '../core/formats/paintFile.js';
import type { Stage } from '../core/scene/stage.js';
import type { StageRenderer } from '../render/renderer.js';
import { meshOf } from './meshes.js';
import { paintOf } from './paints.js';
import { panoramaOf } from './surroundings.js';

export interface FurnishingPorts {
  /** Whether the renderer is still the one that is shown. */
  readonly isThere: () => boolean;
  /** A file has come. */
  readonly onThere: () => void;
  readonly onLacking: (why: string) => void;
}

export class Furnishing {
  /** Files that the renderer has, or will have. */
  private readonly provided = new Set<string>();
  /** How many are on their way. */
  coming = 0;

  /** Another renderer has nothing yet. */
  forget(): void {
    this.provided.clear();
  }

  furnish(renderer: StageRenderer, stage: Stage, ports: FurnishingPorts): void {
    const give = <T>(fetched: Promise<T>, use: (value: T) => void, failed: () => void = () => undefined) => {
      this.coming++;
      return fetched.then(
        (value) => {
          this.coming--;
          if (!ports.isThere()) return;
          use(value);
          ports.onThere();
        },
        (error: Error) => {
          this.coming--;
          failed();
          ports.onLacking(error.message);
        },
      );
    };
    const panorama = panoramaOf(stage);
    if (panorama && !renderer.hasPanorama(panorama.id))
      void give(panorama.load(), (read) => renderer.hasPanorama(panorama.id) || renderer.providePanorama(panorama.id, read));
    for (const { sha256, type } of Object.values(stage.assets)) {
      if (this.provided.has(sha256)) continue;
      this.provided.add(sha256);
      const failed = () => this.provided.delete(sha256);
      if (type === PAINT_TYPE) void give(paintOf(sha256), (paint) => renderer.providePaint(sha256, paint), failed);
      else void give(meshOf(sha256), (mesh) => renderer.provideMesh(sha256, mesh), failed);
    }
  }
}
