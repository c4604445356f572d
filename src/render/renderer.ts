/**
 * Draws one stage and what its props wear, through a context that others may draw with too. It draws when asked. Its
 * parts: the scenery, what the props are dressed in, frames, what is measured of them, and pointing.
 */
import { PerspectiveCamera } from 'three';
import type { MeshData } from '../core/mesh/mesh.js';
import type { Picture } from '../core/base/picture.js';
import type { Paint } from '../core/paint/paint.js';
import type { Stage } from '../core/scene/stage.js';
import { BehindPass } from './behind.js';
import { Dressing } from './dressing.js';
import { attributesOf } from './effectMaterial.js';
import { Frame, type Size } from './frame.js';
import { fitted } from './geometry.js';
import type { Graphics } from './graphics.js';
import { Looking } from './looking.js';
import { Measuring } from './measuring.js';
import { PaintView } from './paintView.js';
import { PeekPass, type PeekedProp } from './peek.js';
import { Pointing } from './pointing.js';
import { ProgramState } from './programState.js';
import { FARTHEST, PlaceReader, type Reading } from './readPlaces.js';
import { Scenery } from './scenery.js';
import type { Panorama } from './surroundings.js';

export interface RendererOptions {
  /** Half the resolution always, for machines without a graphics card. */
  readonly draft?: boolean;
  /** What is shown on the canvas, rather than a picture for somebody else. */
  readonly onScreen?: boolean;
}

export class StageRenderer {
  readonly camera = new PerspectiveCamera(38, 1, 0.05, FARTHEST);
  readonly scenery: Scenery;
  readonly dressing: Dressing;
  readonly frame: Frame;
  readonly measuring: Measuring;
  readonly pointing: Pointing;
  readonly looking: Looking;
  readonly peek: PeekPass;
  readonly paint: PaintView;
  private readonly state = new ProgramState();
  private readonly behind: BehindPass;
  private readonly reader: PlaceReader;
  private readonly onScreen: boolean;

  constructor(
    readonly graphics: Graphics,
    { draft = false, onScreen = true }: RendererOptions = {},
  ) {
    const { renderer } = graphics;
    const { camera, state } = this;
    this.onScreen = onScreen;
    this.scenery = new Scenery(renderer, state.shading);
    this.behind = new BehindPass(renderer, state);
    this.reader = new PlaceReader(renderer, this.behind, state);
    this.peek = new PeekPass(renderer, state);
    this.paint = new PaintView(renderer, state);
    this.dressing = new Dressing(graphics, this.scenery, state, camera);
    this.frame = new Frame(graphics, this.scenery, camera, state, this.behind, this.peek, this.paint, draft);
    this.measuring = new Measuring(graphics, this.scenery, this.frame);
    this.pointing = new Pointing(this.scenery, camera);
    this.looking = new Looking(camera, onScreen ? graphics.canvas : null, (bend) => {
      this.frame.lensBend = bend;
      this.pointing.lensBend = bend;
    });
  }

  /** In pixels. */
  resize(size: Size): void {
    this.frame.setSize(size);
    if (this.onScreen) this.graphics.renderer.setSize(size.width, size.height, false);
  }

  setStage(stage: Stage): void {
    this.scenery.bringTo(stage);
    // A sea goes to its horizon; everything else keeps its depths fine.
    const far = Math.max(FARTHEST, 2 * this.scenery.reach);
    if (this.camera.far === far) return;
    this.camera.far = far;
    this.camera.updateProjectionMatrix();
  }

  /** Makes a mesh of the artist's own available; stages that refer to it show it from their next `setStage`. */
  provideMesh(sha256: string, mesh: MeshData): void {
    this.scenery.meshes.provide(sha256, mesh);
  }

  /** Makes the paint of props available; stages that refer to it show it from their next `setStage`. @param paint four numbers a vertex */
  providePaint(sha256: string, paint: Paint): void {
    this.scenery.meshes.providePaint(sha256, paint);
  }

  /** Makes an image available to the effects that look it up; grey stands for it until then. */
  providePicture(key: string, picture: Picture): void {
    this.state.providePicture(key, picture);
  }

  /** Makes a picture of surroundings available; a stage that has them shows it from its next `setStage`. */
  providePanorama(id: string, panorama: Panorama): void {
    this.scenery.surroundings.provide(id, panorama);
  }

  hasPanorama(id: string): boolean {
    return this.scenery.surroundings.has(id);
  }

  /** Peeks at other props or another value; none ends it. @returns false when a later call overtook this one */
  wearPeek(peeked: readonly PeekedProp[]): Promise<boolean> {
    return this.peek.wear(
      peeked,
      (id) => this.scenery.meshOf(id),
      this.camera,
      (mesh, text) => fitted(this.scenery.props.get(mesh.userData.piece as string)!.base, attributesOf(text)),
    );
  }

  /** What the swatches see of a prop; null while it is not there. */
  placesOf(propId: string, width: number, height: number): Reading | null {
    const mesh = this.scenery.meshOf(propId);
    const text = this.dressing.on(propId)?.material.text ?? null;
    return mesh ? this.reader.placesOf({ mesh, text }, this.scenery.scene, this.camera.position, width, height) : null;
  }

  /** Lets go of all that is this renderer's; the context stays. */
  dispose(): void {
    this.looking.dispose();
    this.dressing.dispose();
    this.frame.dispose();
    this.measuring.dispose();
    this.behind.dispose();
    this.reader.dispose();
    this.peek.dispose();
    this.paint.dispose();
    this.state.dispose();
    this.scenery.dispose();
  }
}
