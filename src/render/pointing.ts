/** Pointing at a scene: which prop is under a point of the picture, and what is to be known of a place on it. */
import { Raycaster, Vector2, Vector3, type Mesh, type PerspectiveCamera } from 'three';
import type { Leaf } from '../core/ir/leaves.js';
import { Gaps } from '../core/places/behind.js';
import { restLeaves, surfaceLeaves, type MoveBy, type RestPoints, type Stand } from '../core/places/surface.js';
import { bent, unbent } from '../core/optics/lens.js';
import type { Ray } from '../core/scene/handles.js';
import type { LeafValues } from '../core/targets/wasm/runner.js';
import { SEE_THROUGH } from './layers.js';
import { firstBehind } from './rays.js';
import { NOTHING } from './readPlaces.js';
import type { Scenery } from './scenery.js';
import { pointsOn, standOf } from './surface.js';

/** A place on a prop that was pointed at. */
export interface Hit {
  readonly prop: string;
  /** In the prop's own space, before displacement. */
  readonly position: [number, number, number];
  readonly normal: [number, number, number];
  readonly uv: [number, number];
}

/** A place on a prop as it is now. */
export interface PlaceOn {
  readonly points: RestPoints;
  readonly stand: Stand;
  /** Where it is on the stage. */
  readonly world: [number, number, number];
  readonly leaves: LeafValues;
}

/** Places whose points are remembered. */
const REMEMBERED = 100;

export class Pointing {
  /** How the lens bends what is seen: where the pointer is is not where a straight ray would be. */
  lensBend = 0;
  private readonly points = new Map<string, { readonly key: string; readonly points: RestPoints }>();

  constructor(
    private readonly scenery: Scenery,
    private readonly camera: PerspectiveCamera,
  ) {}

  /** Where a point of the picture would be without the lens. @param x @param y shares of its width and height, from the top left */
  private straight(x: number, y: number): Vector2 {
    return new Vector2(...unbent({ bend: this.lensBend, aspect: this.camera.aspect }, x * 2 - 1, 1 - y * 2));
  }

  /** The prop under a point of the picture. @param x @param y shares of its width and height, from the top left */
  pick(x: number, y: number): Hit | null {
    const ray = new Raycaster();
    ray.layers.enableAll();
    ray.setFromCamera(this.straight(x, y), this.camera);
    const visible = [...this.scenery.props.values()].map((p) => p.mesh).filter((m) => m.visible);
    // What stands before a prop hides it.
    const [hit] = ray.intersectObjects([...visible, ...this.scenery.walls], false);
    const prop = hit?.object.userData.prop as string | undefined;
    if (!hit || prop === undefined) return null;
    const local = hit.object.worldToLocal(hit.point.clone());
    const normal = hit.normal ?? new Vector3(0, 0, 1);
    return {
      prop,
      position: [local.x, local.y, local.z],
      normal: [normal.x, normal.y, normal.z],
      uv: [hit.uv?.x ?? 0, hit.uv?.y ?? 0],
    };
  }

  /** Whether nothing opaque stands before a point of the stage. @param except a prop that does not count: what the point is of */
  sees(point: readonly [number, number, number], except: string | null = null): boolean {
    const to = new Vector3(...point).sub(this.camera.position);
    const ray = new Raycaster(this.camera.position.clone(), to.clone().normalize(), 0, to.length());
    ray.layers.enableAll();
    ray.layers.disable(SEE_THROUGH);
    const solid = [...this.scenery.props.values()]
      .map((p) => p.mesh)
      .filter((m) => m.visible && !m.layers.isEnabled(SEE_THROUGH) && m.userData.prop !== except);
    return ray.intersectObjects([...solid, ...this.scenery.walls], false).length === 0;
  }

  /** Whether something opaque besides a prop stands before a place of it. @param direction of length 1, from the eye */
  standsBefore(
    prop: string,
    origin: readonly [number, number, number],
    direction: readonly [number, number, number],
    place: readonly [number, number, number],
  ): boolean {
    const eye = new Vector3(...origin);
    const others = this.scenery.opaqueMeshes().filter((m) => m.userData.prop !== prop);
    const found = firstBehind(others, eye, new Vector3(...direction));
    return found !== null && found.distanceTo(eye) < new Vector3(...place).distanceTo(eye) - 1e-3;
  }

  /** Where a point of the world is seen: shares of width and height from the top left, and whether it is before the eye. */
  project(point: readonly [number, number, number]): { x: number; y: number; ahead: boolean } {
    const straight = new Vector3(...point).project(this.camera);
    const [x, y] = bent({ bend: this.lensBend, aspect: this.camera.aspect }, straight.x, straight.y);
    return { x: (x + 1) / 2, y: (1 - y) / 2, ahead: straight.z < 1 };
  }

  /** From the eye through a point of the picture. @param x @param y shares of its width and height, from the top left */
  ray(x: number, y: number): Ray {
    const caster = new Raycaster();
    caster.setFromCamera(this.straight(x, y), this.camera);
    const { ray } = caster;
    return { origin: ray.origin.toArray(), direction: ray.direction.toArray() };
  }

  /** How many metres a pixel is at a point of the stage. @param height of the picture in pixels */
  metresPerPixel(point: readonly [number, number, number], height: number): number {
    const forward = this.camera.getWorldDirection(new Vector3());
    const ahead = Math.max(1e-3, new Vector3(...point).sub(this.camera.position).dot(forward));
    return (2 * ahead * Math.tan(((this.camera.fov / 2) * Math.PI) / 180)) / Math.max(1, height);
  }

  /** Moves a point as the picture moves, in the plane through it that faces the eye. @param dx @param dy shares of width and height */
  slide(point: readonly [number, number, number], dx: number, dy: number): [number, number, number] {
    const seen = new Vector3(...point).project(this.camera);
    seen.x += dx * 2;
    seen.y -= dy * 2;
    const { x, y, z } = seen.unproject(this.camera);
    return [x, y, z];
  }

  /**
   * A place on a prop, with all that its mesh carries there; null when the prop is not there.
   * @param moveBy what moves it, given what the vertices read; null where nothing does
   */
  placeOn(hit: Hit, moveBy: MoveBy | null): PlaceOn | null {
    const mesh = this.scenery.meshOf(this.pieceOf(hit));
    if (!mesh?.visible) return null;
    const points = this.pointsAt(hit, mesh, moveBy !== null);
    const stand = standOf(mesh, this.camera);
    const { world, leaves } = surfaceLeaves(points, stand, moveBy && moveBy(restLeaves(points, stand), 1));
    return { points, stand, world: world.map((lane) => lane[0]!) as [number, number, number], leaves };
  }

  /** The piece on which a place of a prop is. */
  pieceOf({ prop, position }: Pick<Hit, 'prop' | 'position'>): string {
    return this.scenery.meshes.pieceAt(prop, position);
  }

  private pointsAt(hit: Hit, { geometry }: Mesh, moves: boolean): RestPoints {
    const name = `${hit.prop} ${hit.position.join()}`;
    const key = `${geometry.uuid} ${moves}`;
    const held = this.points.get(name);
    if (held?.key === key) return held.points;
    if (this.points.size > REMEMBERED) this.points.clear();
    const points = pointsOn(geometry, [hit], moves);
    this.points.set(name, { key, points });
    return points;
  }

  /** What lies behind a place on a prop, or a piece of one, seen from the eye; an opaque one has nothing behind it. */
  gapsAt(prop: string, { world }: Pick<PlaceOn, 'world'>): Partial<Record<Leaf, number[]>> {
    const mesh = this.scenery.meshOf(prop);
    if (!mesh) return {};
    const point = new Vector3(...world);
    const away = new Vector3().subVectors(point, this.camera.position).normalize();
    const forward = this.camera.getWorldDirection(new Vector3());
    const cosine = Math.max(1e-4, away.dot(forward));
    const far = (this.camera.far - point.distanceTo(this.camera.position) * cosine) / cosine;
    const opaque = !mesh.layers.isEnabled(SEE_THROUGH);
    const found = opaque ? null : firstBehind(this.scenery.opaqueMeshes(), point, away);
    const there = found ?? point.clone().addScaledVector(away, opaque ? NOTHING / cosine : far);
    const gaps = new Gaps(1);
    gaps.put(0, point.toArray(), there.toArray(), cosine);
    const first = Object.entries(gaps.leaves).map(([leaf, lanes]) => [leaf, lanes.map((lane) => (lane as Float32Array)[0]!)]);
    return Object.fromEntries(first) as Partial<Record<Leaf, number[]>>;
  }
}
