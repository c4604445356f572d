/** The scene of a stage: its room, props, lights, surroundings and spill, brought to a stage's document. */
import { Box3, Group, Matrix4, Mesh, Scene, Sphere, Vector3, type WebGLRenderer } from 'three';
import type { PropAbout } from '../core/analysis/stageAdvice.js';
import type { PlaceBounds } from '../core/passes/ranges.js';
import { propIn } from '../core/scene/pieces.js';
import type { Box } from '../core/scene/placing.js';
import type { Stage } from '../core/scene/stage.js';
import { OPAQUE, SEE_THROUGH } from './layers.js';
import { StageLights } from './lights.js';
import { birthsOn } from './moteBirths.js';
import { hullOfBounds, placeBounds } from './placeBounds.js';
import { PropMeshes, type PropMesh } from './props.js';
import { discardRoom, makeRoom } from './room.js';
import type { Shading } from './shading.js';
import type { ShadowLamp } from './softShadows.js';
import { Spill } from './spill.js';
import { BEHIND, Surroundings } from './surroundings.js';

/** What is no higher, in metres, is a floor. */
const FLOOR = 0.05;

export class Scenery {
  readonly scene = new Scene();
  readonly meshes: PropMeshes;
  readonly surroundings: Surroundings;
  readonly spill: Spill;
  readonly lights = new StageLights();
  readonly motes = new Group();
  stage: Stage | null = null;
  /** Something that casts a shadow has changed since shadows were drawn. */
  shadowsStale = true;
  /** Called when a prop's mesh has been made anew: it is bare until the props are dressed again. */
  onRemade: () => void = () => undefined;
  private room = new Group();

  constructor(
    renderer: WebGLRenderer,
    private readonly shading: Shading,
  ) {
    this.spill = new Spill(shading.emitters);
    this.meshes = new PropMeshes(this.scene, shading);
    this.surroundings = new Surroundings(renderer, this.scene);
    this.scene.add(this.motes, this.lights.group, this.surroundings.ambient, this.room, shading.haze.sky);
    // It shines on what is see-through too, which is drawn in a layer of its own.
    this.surroundings.ambient.layers.enableAll();
  }

  /** By the ids of their pieces: a prop that is whole has one, its own. */
  get props(): ReadonlyMap<string, PropMesh> {
    return this.meshes.made;
  }

  /** @param prop or a piece of one */
  meshOf(prop: string): Mesh | undefined {
    return this.props.get(prop)?.mesh;
  }

  get walls(): readonly Mesh[] {
    return this.room.children as Mesh[];
  }

  /** Brings the scene to a stage document; only what differs is made anew. */
  bringTo(stage: Stage): void {
    const previous = this.stage;
    this.stage = stage;
    if (previous?.ground !== stage.ground) {
      this.scene.remove(this.room);
      discardRoom(this.room);
      this.room = makeRoom(stage.ground, this.shading);
      this.scene.add(this.room);
    }
    const remade = this.meshes.bringTo(stage);
    this.placeSpill();
    this.bringLights(stage);
    this.shadowsStale = true;
    if (remade) this.onRemade();
  }

  private bringLights(stage: Stage): void {
    this.lights.bringTo(stage, (from) => this.reachFrom(from));
    this.surroundings.apply(stage.surroundings);
    const { rgb, strength, seen, asset } = stage.surroundings;
    const panorama = seen && asset !== null && this.surroundings.has(asset);
    this.shading.haze.apply(stage.haze, panorama ? null : (rgb.map((v) => v * strength * BEHIND) as [number, number, number]));
  }

  /** How far what stands on the stage goes from its middle, in metres. */
  get reach(): number {
    return this.reachFrom(new Vector3(), () => true);
  }

  /** How far what stands on the stage goes from a point of it; where nothing else is said, what throws a shadow. */
  private reachFrom(from: Vector3, counts = (mesh: Mesh) => mesh.castShadow): number {
    let reach = 0;
    const sphere = new Sphere();
    for (const { mesh, base } of this.props.values()) {
      if (!mesh.visible || !counts(mesh)) continue;
      if (!base.boundingSphere) base.computeBoundingSphere();
      sphere.copy(base.boundingSphere!).applyMatrix4(mesh.matrixWorld);
      reach = Math.max(reach, sphere.center.distanceTo(from) + sphere.radius);
    }
    return reach;
  }

  get castingLamps(): ShadowLamp[] {
    return this.lights.casting;
  }

  /** Moves the lights over their discs, for a sample of a still; put back by `straightenLights`. */
  tiltLights(place: readonly [number, number]): void {
    this.lights.tilt(place);
    this.shadowsStale = true;
  }

  straightenLights(): void {
    this.lights.straighten();
    // What moves again has the lights in their places.
    this.shadowsStale = true;
  }

  /** Some motes are drawn; told by the dressing. */
  motesSeen = false;

  /** Some prop is drawn after the opaque scene, or motes are. */
  get seesThrough(): boolean {
    const through = [...this.props.values()].some(({ mesh }) => mesh.visible && mesh.layers.isEnabled(SEE_THROUGH));
    return through || this.motesSeen;
  }

  /** What can lie behind a see-through surface. */
  opaqueMeshes(): Mesh[] {
    const props = [...this.props.values()].map((p) => p.mesh).filter((m) => m.visible && m.layers.isEnabled(OPAQUE));
    this.room.updateMatrixWorld(true);
    return [...props, ...this.walls];
  }

  /** The props that wear an effect, which the spill stands for; told by the dressing. */
  glowing: ReadonlySet<string> = new Set();

  /** Points of the spill are found anew for those that have moved. */
  placeSpill(): void {
    const seen = [...this.props].flatMap(([id, { mesh }]) => (this.glowing.has(id) && mesh.visible ? [[id, mesh] as const] : []));
    this.spill.standOn(new Map(seen), this.opaqueMeshes());
  }

  /** Bounds of the places of props, or pieces, together; those that are not there yet, being fetched, bound nothing. */
  placeBounds(propIds: readonly string[]): PlaceBounds {
    // A part that its mesh does not have is no place.
    const there = propIds.filter((id) => this.props.has(id) || !this.props.has(propIn(id)));
    const props = there.map((id) => this.props.get(id));
    if (props.some((p) => !p)) return {};
    return hullOfBounds(
      props.map((p) => {
        p!.mesh.updateMatrixWorld();
        return placeBounds(p!.base, p!.mesh.matrixWorld);
      }),
    );
  }

  /** What advice wants to know of the mesh of a prop, or of a piece of it; null while it is not at hand. */
  aboutProp(propId: string): PropAbout | null {
    const prop = this.props.get(propId);
    if (!prop) return null;
    const { mesh, base: geometry } = prop;
    geometry.computeBoundingBox();
    const size = geometry.boundingBox!.getSize(new Vector3()).multiply(mesh.scale);
    const colours = geometry.getAttribute('vertexColour');
    return {
      vertices: geometry.getAttribute('position').count,
      // Meshes without any carry white bytes.
      hasColours: colours !== undefined && !(colours.array instanceof Uint8Array),
      radius: size.length() / 2,
      seeThrough: [...this.props].flatMap(([id, other]) =>
        propIn(id) !== propIn(propId) && other.mesh.visible && other.mesh.layers.isEnabled(SEE_THROUGH) ? [propIn(id)] : [],
      ),
      flat: Math.min(size.x, size.y, size.z) < 1e-4 * size.length(),
    };
  }

  /** The room that a prop, in all its pieces, takes on the stage, in metres, before an effect moves it; null where it is not there. */
  roomOf(prop: string): Box | null {
    const mesh = this.meshes.wholeOf(propIn(prop));
    if (!mesh) return null;
    mesh.updateWorldMatrix(true, false);
    // By its vertices: the box of a turned box would stand above the ground.
    const { min, max } = new Box3().setFromObject(mesh, true);
    return { low: [min.x, min.y, min.z], high: [max.x, max.y, max.z] };
  }

  /** Points spread over the surface of a prop, on the stage; those that look up more than down. Null where it is not there. */
  pointsOf(prop: string): [number, number, number][] | null {
    const mesh = this.meshes.wholeOf(prop);
    if (!mesh) return null;
    const births = birthsOn(mesh, new Matrix4());
    return Array.from({ length: births.length / 6 }, (_, k) => k * 6)
      .filter((k) => births[k + 4]! > 0.2)
      .map((k) => [births[k]!, births[k + 1]!, births[k + 2]!]);
  }

  /** What stands about a stage that is no prop: its walls, without the floor. */
  get obstacles(): readonly Box[] {
    return this.walls.flatMap((mesh): Box[] => {
      mesh.updateWorldMatrix(true, false);
      const { min, max } = new Box3().setFromObject(mesh);
      return max.y > FLOOR ? [{ low: [min.x, min.y, min.z], high: [max.x, max.y, max.z] }] : [];
    });
  }

  dispose(): void {
    this.surroundings.dispose();
    this.meshes.dispose();
    discardRoom(this.room);
    this.lights.dispose();
  }
}
