/** The scene of a stage: its room, props, lights, surroundings and spill, brought to a stage's document. */
import {
  Box3,
  Color,
  Group,
  Matrix4,
  Mesh,
  Scene,
  Sphere,
  Vector3,
  type BufferGeometry,
  type Material,
  type MeshStandardMaterial,
  type WebGLRenderer,
} from 'three';
import { own } from '../core/base/wholesome.js';
import type { PropAbout } from '../core/analysis/stageAdvice.js';
import { paintFor } from '../core/formats/paintFile.js';
import type { MeshData } from '../core/mesh/mesh.js';
import type { Paint } from '../core/paint/paint.js';
import type { PlaceBounds } from '../core/passes/ranges.js';
import type { Box } from '../core/scene/placing.js';
import type { Prop, Stage } from '../core/scene/stage.js';
import { MeshSurfaces, bareSurface } from './bareSurface.js';
import { disposeGeometry, geometryFromMesh, geometryOf, paintedWith } from './geometry.js';
import { OPAQUE, SEE_THROUGH } from './layers.js';
import { StageLights } from './lights.js';
import { birthsOn } from './moteBirths.js';
import { hullOfBounds, placeBounds } from './placeBounds.js';
import { discardRoom, makeRoom } from './room.js';
import type { Shading } from './shading.js';
import type { ShadowLamp } from './softShadows.js';
import { Spill } from './spill.js';
import { BEHIND, Surroundings } from './surroundings.js';

export interface PropMesh {
  readonly shape: string;
  readonly mesh: Mesh;
  /** Its geometry as it is made, without paint. */
  readonly plain: BufferGeometry;
  /** Its geometry as it is, without what the effect that it wears wants besides. */
  readonly base: BufferGeometry;
}

/** What is no higher, in metres, is a floor. */
const FLOOR = 0.05;

export class Scenery {
  readonly scene = new Scene();
  readonly props = new Map<string, PropMesh>();
  readonly surroundings: Surroundings;
  readonly spill: Spill;
  /** What a prop that wears nothing is made of. */
  readonly bare: MeshStandardMaterial;
  readonly lights = new StageLights();
  readonly motes = new Group();
  stage: Stage | null = null;
  /** Something that casts a shadow has changed since shadows were drawn. */
  shadowsStale = true;
  /** Called when a prop's mesh has been made anew: it is bare until the props are dressed again. */
  onRemade: () => void = () => undefined;
  /** Called before a prop's mesh goes. */
  onDrop: (prop: string) => void = () => undefined;
  private room = new Group();
  private readonly meshes = new Map<string, BufferGeometry>();
  private readonly surfaces = new Map<BufferGeometry, MeshSurfaces>();
  private readonly paints = new Map<string, Paint>();
  /** Surfaces of props' own, by prop. */
  private readonly own = new Map<string, { readonly key: string; readonly material: MeshStandardMaterial }>();

  constructor(
    renderer: WebGLRenderer,
    private readonly shading: Shading,
  ) {
    this.spill = new Spill(shading.emitters);
    this.bare = bareSurface(shading, { color: 0x808080, roughness: 0.6 });
    this.surroundings = new Surroundings(renderer, this.scene);
    this.scene.add(this.motes, this.lights.group, this.surroundings.ambient, this.room, shading.haze.sky);
    // It shines on what is see-through too, which is drawn in a layer of its own.
    this.surroundings.ambient.layers.enableAll();
  }

  meshOf(prop: string): Mesh | undefined {
    return this.props.get(prop)?.mesh;
  }

  get walls(): readonly Mesh[] {
    return this.room.children as Mesh[];
  }

  /** Makes a mesh of the artist's own available; stages that refer to it show it from their next `bringTo`. */
  provide(sha256: string, mesh: MeshData): void {
    if (this.meshes.has(sha256)) return;
    const geometry = geometryFromMesh(mesh);
    this.meshes.set(sha256, geometry);
    if (mesh.parts.length > 0) this.surfaces.set(geometry, new MeshSurfaces(this.shading, mesh, geometry));
  }

  /** Makes the paint of props available. @param paint four numbers a vertex, and what fills its file's last row */
  providePaint(sha256: string, paint: Paint): void {
    this.paints.set(sha256, paint);
  }

  /** What a prop is made of that wears no effect. */
  bareOf({ mesh, plain }: Pick<PropMesh, 'mesh' | 'plain'>): Material | Material[] {
    return this.bareFor(mesh.userData.prop as string, plain);
  }

  private bareFor(prop: string, plain: BufferGeometry): Material | Material[] {
    return this.own.get(prop)?.material ?? this.surfaces.get(plain)?.materials ?? this.bare;
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
    for (const prop of stage.props) this.bringSurface(prop);
    const remade = this.bringProps(stage);
    this.placeSpill();
    this.bringLights(stage);
    this.shadowsStale = true;
    if (remade) this.onRemade();
  }

  /** Gives a prop the surface that the stage says it has; one that wears an effect has it for later. */
  private bringSurface({ id, surface }: Prop): void {
    const key = surface ? JSON.stringify(surface) : '';
    const old = this.own.get(id);
    if ((old?.key ?? '') === key) return;
    const prop = this.props.get(id);
    const isBare = prop?.mesh.material === (prop && this.bareOf(prop));
    this.own.delete(id);
    if (surface) {
      const { rgb, roughness, metalness } = surface;
      this.own.set(id, { key, material: bareSurface(this.shading, { color: new Color(...rgb), roughness, metalness }) });
    }
    if (prop && isBare) prop.mesh.material = this.bareOf(prop);
    old?.material.dispose();
  }

  /** @returns whether a prop's mesh was made anew */
  private bringProps(stage: Stage): boolean {
    const alive = new Set(stage.props.map((p) => p.id));
    for (const id of this.props.keys()) if (!alive.has(id)) this.dropProp(id);
    let remade = false;
    for (const p of stage.props) {
      const shape = this.shapeOf(stage, p);
      if (this.props.get(p.id)?.shape !== shape) {
        remade = true;
        this.dropProp(p.id);
        const made = this.makeProp(stage, p);
        if (made) this.props.set(p.id, { shape, ...made });
      }
      const mesh = this.meshOf(p.id);
      if (!mesh) continue;
      mesh.position.set(...p.place);
      mesh.quaternion.set(...p.turn);
      mesh.scale.set(...p.scale);
      mesh.visible = p.visible;
      mesh.updateMatrixWorld();
    }
    return remade;
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

  /** Whether a prop's mesh is the one it should have: its primitive, or its file once that is at hand. */
  private shapeOf(stage: Stage, prop: Prop): string {
    const { source } = prop;
    const sum = this.paintSum(stage, prop);
    const paint = `${sum} ${this.paints.has(sum)}`;
    if (!('asset' in source)) return `${JSON.stringify(source)} ${paint}`;
    const sha = own(stage.assets, source.asset)?.sha256 ?? '';
    return `${sha} ${this.meshes.has(sha)} ${paint}`;
  }

  private paintSum(stage: Stage, { paint }: Prop): string {
    return paint === null ? '' : (own(stage.assets, paint)?.sha256 ?? '');
  }

  /** Without its paint where that is not at hand, or another mesh's. */
  private makeProp(stage: Stage, prop: Prop): Omit<PropMesh, 'shape'> | null {
    const { id, source } = prop;
    const plain = 'asset' in source ? this.meshes.get(own(stage.assets, source.asset)?.sha256 ?? '') : geometryOf(source);
    if (!plain) return null;
    const all = this.paints.get(this.paintSum(stage, prop));
    const paint = all ? paintFor(all, plain.getAttribute('position').count) : null;
    const base = paint ? paintedWith(plain, paint) : plain;
    const mesh = new Mesh<BufferGeometry, Material | Material[]>(base, this.bareFor(id, plain));
    mesh.castShadow = true;
    mesh.receiveShadow = true;
    mesh.userData.prop = id;
    this.scene.add(mesh);
    return { mesh, base, plain };
  }

  private dropProp(id: string): void {
    const prop = this.props.get(id);
    if (!prop) return;
    this.onDrop(id);
    prop.mesh.removeFromParent();
    for (const geometry of new Set([prop.base, prop.plain]))
      if (![...this.meshes.values()].includes(geometry)) disposeGeometry(geometry);
    this.props.delete(id);
    if (!this.stage?.props.some((p) => p.id === id)) {
      this.own.get(id)?.material.dispose();
      this.own.delete(id);
    }
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

  /** Bounds of the places of props together; those that are not there yet, being fetched, bound nothing. */
  placeBounds(propIds: readonly string[]): PlaceBounds {
    const props = propIds.map((id) => this.props.get(id));
    if (props.some((p) => !p)) return {};
    return hullOfBounds(
      props.map((p) => {
        p!.mesh.updateMatrixWorld();
        return placeBounds(p!.base, p!.mesh.matrixWorld);
      }),
    );
  }

  /** What advice wants to know of a prop's mesh; null while it is not at hand. */
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
        id !== propId && other.mesh.visible && other.mesh.layers.isEnabled(SEE_THROUGH) ? [id] : [],
      ),
      flat: Math.min(size.x, size.y, size.z) < 1e-4 * size.length(),
    };
  }

  /** The room that a prop takes on the stage, in metres, before an effect moves it; null where it is not there. */
  roomOf(prop: string): Box | null {
    const mesh = this.meshOf(prop);
    if (!mesh) return null;
    mesh.updateWorldMatrix(true, false);
    // By its vertices: the box of a turned box would stand above the ground.
    const { min, max } = new Box3().setFromObject(mesh, true);
    return { low: [min.x, min.y, min.z], high: [max.x, max.y, max.z] };
  }

  /** Points spread over the surface of a prop, on the stage; those that look up more than down. Null where it is not there. */
  pointsOf(prop: string): [number, number, number][] | null {
    const mesh = this.meshOf(prop);
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

  /** After a lost context: what the graphics card held of the surroundings is made anew. */
  forget(): void {
    this.surroundings.forget();
    if (this.stage) this.surroundings.apply(this.stage.surroundings);
    this.shadowsStale = true;
  }

  dispose(): void {
    this.surroundings.dispose();
    for (const id of [...this.props.keys()]) this.dropProp(id);
    discardRoom(this.room);
    this.bare.dispose();
    this.lights.dispose();
    for (const surfaces of this.surfaces.values()) surfaces.dispose();
    for (const geometry of this.meshes.values()) disposeGeometry(geometry);
  }
}
