/** Where a scene is seen from: a viewpoint, and on a screen what the pointer and the arrow keys make of it. */
import type { PerspectiveCamera, Vector3 } from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { Box } from '../core/scene/placing.js';
import type { Stage } from '../core/scene/stage.js';

/** How much more than a thing itself is seen when it is framed. */
const AIR = 1.15;

export type View = Pick<Stage['viewpoints'][number], 'eye' | 'target' | 'fov'> & { readonly lensBend?: number };

const plain = ({ x, y, z }: Vector3): [number, number, number] => [x, y, z];

export class Looking {
  readonly controls: OrbitControls;

  /** @param onBend told how the lens bends what is seen @param screen what is dragged; null for a picture that nobody turns */
  constructor(
    private readonly camera: PerspectiveCamera,
    screen: HTMLElement | null,
    private readonly onBend: (bend: number) => void = () => undefined,
  ) {
    this.controls = new OrbitControls(camera, screen);
    this.controls.enableDamping = false;
    // Arrow keys pan; with Shift or Ctrl they turn.
    if (screen) this.controls.listenToKeyEvents(screen);
    this.controls.minDistance = 0.1;
    this.controls.maxDistance = 40;
  }

  /** How the lens bends what is far from the picture's middle. */
  lensBend = 0;

  from({ eye, target, fov, lensBend = 0 }: View): void {
    this.lensBend = lensBend;
    this.onBend(lensBend);
    this.camera.position.set(...eye);
    this.controls.target.set(...target);
    this.camera.fov = fov;
    this.camera.updateProjectionMatrix();
    this.controls.update();
  }

  /** Looks at a thing from where one looks now, from so far that all of it is seen; from then on one goes round it. */
  frame({ low, high }: Box): void {
    const middle = low.map((v, axis) => (v + high[axis]!) / 2) as [number, number, number];
    const radius = Math.max(0.05, Math.hypot(...high.map((v, axis) => v - low[axis]!)) / 2);
    const { camera, controls } = this;
    const away = camera.position.clone().sub(controls.target).normalize();
    // The narrower of both angles counts.
    const half = Math.atan(Math.tan((camera.fov * Math.PI) / 360) * Math.min(1, camera.aspect));
    const distance = Math.min(controls.maxDistance, (radius / Math.sin(half)) * AIR);
    controls.target.set(...middle);
    camera.position.set(...middle).addScaledVector(away, distance);
    controls.update();
  }

  /** The direction to the right of the picture, on the ground. */
  get right(): [number, number, number] {
    const away = this.camera.position.clone().sub(this.controls.target).setY(0);
    if (away.lengthSq() < 1e-9) return [1, 0, 0];
    away.normalize();
    return [away.z, 0, -away.x];
  }

  /** The view as it is now, as a viewpoint holds it. */
  get view(): View {
    return {
      eye: plain(this.camera.position),
      target: plain(this.controls.target),
      fov: this.camera.fov,
      lensBend: this.lensBend,
    };
  }

  dispose(): void {
    // Without a screen there is nothing that it listens to.
    if (this.controls.domElement) this.controls.dispose();
  }
}
