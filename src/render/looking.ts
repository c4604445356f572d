/** Where a scene is seen from: a viewpoint, and on a screen what the pointer and the arrow keys make of it. */
import type { PerspectiveCamera, Vector3 } from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { Stage } from '../core/scene/stage.js';

export type View = Pick<Stage['viewpoints'][number], 'eye' | 'target' | 'fov'>;

const plain = ({ x, y, z }: Vector3): [number, number, number] => [x, y, z];

export class Looking {
  readonly controls: OrbitControls;

  /** @param screen what is dragged; null for a picture that nobody turns */
  constructor(
    private readonly camera: PerspectiveCamera,
    screen: HTMLElement | null,
  ) {
    this.controls = new OrbitControls(camera, screen);
    this.controls.enableDamping = false;
    // Arrow keys pan; with Shift or Ctrl they turn.
    if (screen) this.controls.listenToKeyEvents(screen);
    this.controls.minDistance = 0.1;
    this.controls.maxDistance = 40;
  }

  from({ eye, target, fov }: View): void {
    this.camera.position.set(...eye);
    this.controls.target.set(...target);
    this.camera.fov = fov;
    this.camera.updateProjectionMatrix();
    this.controls.update();
  }

  /** The view as it is now, as a viewpoint holds it. */
  get view(): View {
    return { eye: plain(this.camera.position), target: plain(this.controls.target), fov: this.camera.fov };
  }

  dispose(): void {
    // Without a screen there is nothing that it listens to.
    if (this.controls.domElement) this.controls.dispose();
  }
}
