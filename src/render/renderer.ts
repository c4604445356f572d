/**
 * The stage: one renderer that draws the room, the props and the effect on the chosen prop, then the optics.
 * It draws when asked. A changed effect keeps its last good picture until its new program is ready.
 */
import { own } from '../core/base/wholesome.js';
import {
  Box3,
  DepthTexture,
  DirectionalLight,
  FloatType,
  Group,
  HalfFloatType,
  Mesh,
  MeshStandardMaterial,
  NearestFilter,
  PCFShadowMap,
  PerspectiveCamera,
  Raycaster,
  Scene,
  Vector2,
  Vector3,
  WebGLRenderTarget,
  WebGLRenderer,
  type BufferGeometry,
  type Material,
  type Texture,
} from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { PlaceBounds } from '../core/passes/ranges.js';
import type { Finish } from '../core/effect/schema.js';
import type { PeekLook } from '../core/analysis/peek.js';
import { restLeaves, surfaceLeaves, type MoveBy, type RestPoints, type Stand } from '../core/places/surface.js';
import type { PropAbout } from '../core/analysis/stageAdvice.js';
import type { Leaf } from '../core/ir/leaves.js';
import type { Picture } from '../core/base/picture.js';
import type { MeshData } from '../core/mesh/mesh.js';
import type { Prop, Stage } from '../core/scene/stage.js';
import type { GlslText } from '../core/targets/glsl.js';
import type { LeafValues } from '../core/targets/wasm/runner.js';
import { BehindPass } from './behind.js';
import { attributesOf, effectMaterial, isSeeThrough, programKey } from './effectMaterial.js';
import { disposeGeometry, fitted, geometryFromMesh, geometryOf, reducedOf } from './geometry.js';
import { OpticsPasses } from './optics.js';
import { ProgramState } from './programState.js';
import { PeekPass, type PeekOutfit } from './peek.js';
import { discardRoom, makeRoom } from './room.js';
import { Surroundings } from './surroundings.js';
import { hullOfBounds, placeBounds } from './placeBounds.js';
import { STILL_SAMPLES, Still, jitterOf, lightPlaceOf } from './still.js';
import { shadowMaterial } from './shadowMaterial.js';
import { Spill } from './spill.js';
import { binding, upload } from './uniformBlock.js';
import { OPAQUE, SEE_THROUGH } from './layers.js';
import { firstBehind } from './rays.js';
import { FARTHEST, NOTHING, PlaceReader, type Reading } from './readPlaces.js';
import { pointsOn, standOf } from './surface.js';

/** What a prop is to be drawn in. */
export interface Outfit {
  readonly prop: string;
  readonly text: GlslText;
  readonly finish: Finish;
}

/** What draws an effect's program, and what it wants of a mesh. */
interface Tailored {
  readonly material: Material;
  readonly shadow: Material | null;
  readonly attributes: readonly string[];
}

interface Worn {
  readonly text: GlslText;
  readonly key: string;
  readonly program: string;
  /** The effect's numbers for this prop alone. */
  readonly buffer: WebGLBuffer;
}

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

interface PropMesh {
  readonly shape: string;
  readonly mesh: Mesh;
  /** Its geometry as it is, without what the effect that it wears wants besides. */
  readonly base: BufferGeometry;
}

function discard({ material, shadow }: Tailored): void {
  material.dispose();
  shadow?.dispose();
}

/** Half the angle that the key light's disc is seen under, as its tangent: 1.1 degrees, a lamp of 20 cm at 5 m. */
const LIGHT_RADIUS = 0.02;
/** How often a fence is looked at. */
const FENCE_MS = 2;
/** Frames slower than this lower the resolution. */
const SLOW_MS = 50;

export class StageRenderer {
  /** How many programs have been linked for effects; dragging a number never raises it. */
  links = 0;
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  readonly camera = new PerspectiveCamera(38, 1, 0.05, FARTHEST);
  readonly controls: OrbitControls;
  private readonly state = new ProgramState();
  private readonly optics: OpticsPasses;
  private readonly behind: BehindPass;
  readonly peek: PeekPass;
  /** How a peek shows its values. */
  peekLook: PeekLook | null = null;
  private readonly still: Still;
  /** A frame drawn for its shadows alone. */
  private readonly shadowTarget = new WebGLRenderTarget(1, 1);
  private picture: WebGLRenderTarget | null = null;
  private room = new Group();
  private props = new Map<string, PropMesh>();
  private meshes = new Map<string, BufferGeometry>();
  private stage: Stage | null = null;
  private programs = new Map<string, Tailored>();
  private worn = new Map<string, Worn>();
  private readonly key = new DirectionalLight(0xffffff, 1);
  private readonly surroundings: Surroundings;
  readonly spill = new Spill();
  private readonly neutral = new MeshStandardMaterial({ color: 0x808080, roughness: 0.6 });
  private readonly reader: PlaceReader;
  private scale = 1;
  private size = { width: 1, height: 1 };
  private slow = 0;
  private dressing = 0;

  /** @throws when the browser has no WebGL2 */
  constructor(
    private readonly canvas: HTMLCanvasElement,
    /** Half the resolution always, for machines without a graphics card. */
    private readonly draft = false,
  ) {
    this.sharpen();
    this.renderer = new WebGLRenderer({
      canvas,
      antialias: false,
      alpha: false,
      preserveDrawingBuffer: true,
      powerPreference: 'high-performance',
    });
    this.renderer.shadowMap.enabled = true;
    this.renderer.shadowMap.type = PCFShadowMap;
    this.renderer.shadowMap.autoUpdate = false;
    this.renderer.autoClear = true;
    this.optics = new OpticsPasses(this.renderer);
    this.surroundings = new Surroundings(this.renderer, this.scene);
    this.behind = new BehindPass(this.renderer, this.state);
    this.reader = new PlaceReader(this.renderer, this.behind, this.state);
    this.peek = new PeekPass(this.renderer, this.state);
    this.still = new Still(this.renderer);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.enableDamping = false;
    // Arrow keys pan; with Shift or Ctrl they turn.
    this.controls.listenToKeyEvents(canvas);
    this.controls.minDistance = 0.1;
    this.controls.maxDistance = 40;
    this.key.castShadow = true;
    this.key.shadow.mapSize.set(1024, 1024);
    this.key.shadow.bias = -0.0005;
    this.key.shadow.normalBias = 0.02;
    Object.assign(this.key.shadow.camera, { left: -4, right: 4, top: 4, bottom: -4, near: 0.1, far: 20 });
    this.scene.add(this.key, this.key.target, this.surroundings.ambient, this.room, this.spill.lights);
    // Lights shine on what is see-through too, which is drawn in a layer of its own.
    for (const light of [this.key, this.surroundings.ambient, ...this.spill.lights.children]) light.layers.enableAll();
  }

  private get gl(): WebGL2RenderingContext {
    return this.renderer.getContext() as WebGL2RenderingContext;
  }

  resize(width: number, height: number, pixelRatio: number): void {
    const size = { width: Math.max(1, Math.round(width * pixelRatio)), height: Math.max(1, Math.round(height * pixelRatio)) };
    this.whenFree(() => {
      this.setSize(size);
      this.renderer.setSize(size.width, size.height, false);
    });
  }

  /** Work that would change the picture that is being taken waits until it is there. */
  private whenFree(work: () => void): void {
    if (this.taking) this.waiting.push(work);
    else work();
  }
  private readonly waiting: (() => void)[] = [];
  private taking: Promise<void> | null = null;

  private setSize(size: { width: number; height: number }): void {
    this.size = size;
    this.camera.aspect = size.width / size.height;
    this.camera.updateProjectionMatrix();
    this.dropPicture();
  }

  private dropPicture(): void {
    this.picture?.dispose();
    this.picture = null;
  }

  /** Called when a prop's mesh has been made anew: it is bare until the props are dressed again. */
  onRemade: () => void = () => undefined;

  /** Brings the scene to a stage document; only what differs is made anew. */
  setStage(stage: Stage): void {
    this.whenFree(() => this.bringTo(stage));
  }

  private bringTo(stage: Stage): void {
    const previous = this.stage;
    this.stage = stage;
    if (previous?.ground !== stage.ground) {
      this.scene.remove(this.room);
      discardRoom(this.room);
      this.room = makeRoom(stage.ground);
      this.scene.add(this.room);
    }
    const alive = new Set(stage.props.map((p) => p.id));
    for (const id of this.props.keys()) if (!alive.has(id)) this.dropProp(id);
    let remade = false;
    for (const p of stage.props) {
      const shape = this.shapeOf(stage, p);
      if (this.props.get(p.id)?.shape !== shape) {
        remade = true;
        this.dropProp(p.id);
        const mesh = this.makeProp(stage, p);
        if (mesh) this.props.set(p.id, { shape, mesh, base: mesh.geometry });
      }
      const mesh = this.props.get(p.id)?.mesh;
      if (!mesh) continue;
      mesh.position.set(...p.place);
      mesh.quaternion.set(...p.turn);
      mesh.scale.set(...p.scale);
      mesh.visible = p.visible;
      mesh.updateMatrixWorld();
    }
    this.placeSpill();
    const key = stage.lights.find((l) => l.kind === 'key');
    this.key.visible = key !== undefined;
    if (key) {
      this.key.position.set(...key.place);
      this.key.target.position.set(...key.target);
      this.key.color.setRGB(...key.rgb);
      // three's directional light of intensity pi lights a white diffuser to radiance 1.
      this.key.intensity = key.intensity * Math.PI;
      this.key.castShadow = key.shadow;
    }
    this.surroundings.apply(stage.surroundings);
    this.renderer.shadowMap.needsUpdate = true;
    if (remade) this.onRemade();
  }

  /** Whether a prop's mesh is the one it should have: its primitive, or its file once that is at hand. */
  private shapeOf(stage: Stage, { source }: Prop): string {
    if (!('asset' in source)) return JSON.stringify(source);
    const sha = own(stage.assets, source.asset)?.sha256 ?? '';
    return `${sha} ${this.meshes.has(sha)}`;
  }

  private dropProp(id: string): void {
    const prop = this.props.get(id);
    if (!prop) return;
    prop.mesh.removeFromParent();
    if (![...this.meshes.values()].includes(prop.base)) disposeGeometry(prop.base);
    this.props.delete(id);
    this.undress(id);
  }

  private undress(id: string): void {
    const worn = this.worn.get(id);
    if (worn) this.gl.deleteBuffer(worn.buffer);
    this.worn.delete(id);
    const mesh = this.props.get(id)?.mesh;
    if (!mesh) return;
    mesh.material = this.neutral;
    mesh.geometry = this.props.get(id)!.base;
    delete mesh.customDepthMaterial;
    mesh.frustumCulled = true;
    mesh.castShadow = true;
    mesh.renderOrder = 0;
    mesh.layers.set(OPAQUE);
    mesh.onBeforeRender = () => undefined;
    mesh.onBeforeShadow = () => undefined;
  }

  /** Makes a mesh of the artist's own available; stages that refer to it show it from their next `setStage`. */
  provide(sha256: string, mesh: MeshData): void {
    if (!this.meshes.has(sha256)) this.meshes.set(sha256, geometryFromMesh(mesh));
  }

  hasPanorama(id: string): boolean {
    return this.surroundings.has(id);
  }

  /** Makes a picture of surroundings available; a stage that has them shows it from its next `setStage`. */
  providePanorama(id: string, picture: { width: number; height: number; rgb: Float32Array }): void {
    this.surroundings.provide(id, picture);
  }

  /** Makes an image available to the effects that look it up; grey stands for it until then. */
  providePicture(key: string, picture: Picture): void {
    this.state.providePicture(key, picture);
  }

  /** The spill stands for the props that wear an effect; points are found anew for those that have moved. */
  private placeSpill(): void {
    const glowing = new Map<string, Mesh>();
    for (const [id, { mesh }] of this.props) if (this.worn.has(id) && mesh.visible) glowing.set(id, mesh);
    this.spill.standOn(glowing, this.opaqueMeshes());
  }

  /** What can lie behind a see-through surface. */
  private opaqueMeshes(): Mesh[] {
    const props = [...this.props.values()].map((p) => p.mesh).filter((m) => m.visible && m.layers.isEnabled(OPAQUE));
    this.room.updateMatrixWorld(true);
    return [...props, ...(this.room.children as Mesh[])];
  }

  private makeProp(stage: Stage, { id, source }: Prop): Mesh | null {
    const geometry = 'asset' in source ? this.meshes.get(own(stage.assets, source.asset)?.sha256 ?? '') : geometryOf(source);
    if (!geometry) return null;
    const mesh = new Mesh(geometry, this.neutral);
    mesh.castShadow = true;
    mesh.receiveShadow = true;
    mesh.userData.prop = id;
    this.scene.add(mesh);
    return mesh;
  }

  lookFrom({ eye, target, fov }: Stage['viewpoints'][number]): void {
    this.whenFree(() => {
      this.camera.position.set(...eye);
      this.controls.target.set(...target);
      this.camera.fov = fov;
      this.camera.updateProjectionMatrix();
      this.controls.update();
    });
  }

  /**
   * Dresses the props; those not named become bare. Resolves when every program is ready and worn; until then all keep
   * what they have.
   * @returns false when a later call overtook this one
   */
  async dress(outfits: readonly Outfit[]): Promise<boolean> {
    const turn = ++this.dressing;
    // What casts a shadow has a program for that too.
    const keys = outfits.map(({ text, finish }) => [programKey(text, finish), finish.alphaCutoff, finish.castsShadow].join(' '));
    const made = new Map<string, Tailored>();
    const texts = new Set([...this.worn.values()].map((w) => w.program));
    const rehearsal = new Scene();
    outfits.forEach(({ prop, text, finish }, k) => {
      const key = keys[k]!;
      const mesh = this.props.get(prop)?.mesh;
      if (!mesh || this.programs.has(key) || made.has(key)) return;
      const material = effectMaterial(text, finish, this.state);
      const shadow = finish.castsShadow ? shadowMaterial(text, finish, this.state) : null;
      made.set(key, { material, shadow, attributes: attributesOf(text) });
      // Another threshold of a mask is another material, and the same program.
      if (!texts.has(programKey(text, finish))) this.links += shadow ? 2 : 1;
      for (const worn of shadow ? [material, shadow] : [material]) {
        const stand = new Mesh(mesh.geometry, worn);
        stand.receiveShadow = true;
        stand.castShadow = true;
        rehearsal.add(stand);
      }
    });
    if (made.size > 0) await this.renderer.compileAsync(rehearsal, this.camera, this.scene);
    // What is worn stays as it is in the picture that is being taken.
    while (this.taking) await this.taking;
    if (turn !== this.dressing) {
      for (const tailored of made.values()) discard(tailored);
      return false;
    }
    for (const [key, tailored] of made) this.programs.set(key, tailored);
    const dressed = new Set<string>();
    outfits.forEach(({ prop, text, finish }, k) => {
      const mesh = this.props.get(prop)?.mesh;
      const tailored = this.programs.get(keys[k]!);
      if (!mesh || !tailored) return;
      dressed.add(prop);
      const buffer = this.worn.get(prop)?.buffer ?? this.gl.createBuffer()!;
      this.worn.set(prop, { text, key: keys[k]!, program: programKey(text, finish), buffer });
      mesh.material = tailored.material;
      mesh.geometry = fitted(this.props.get(prop)!.base, tailored.attributes);
      if (tailored.shadow) mesh.customDepthMaterial = tailored.shadow;
      else delete mesh.customDepthMaterial;
      // It may be anywhere: a surface that is moved is never taken to be out of sight.
      mesh.frustumCulled = text.vertex === null;
      mesh.castShadow = finish.castsShadow;
      mesh.renderOrder = finish.order;
      mesh.layers.set(isSeeThrough(finish) ? SEE_THROUGH : OPAQUE);
      const bind = binding(this.gl, buffer);
      mesh.onBeforeRender = bind;
      mesh.onBeforeShadow = bind;
    });
    for (const id of [...this.worn.keys()]) if (!dressed.has(id)) this.undress(id);
    const used = new Set([...this.worn.values()].map((w) => w.key));
    for (const [key, tailored] of this.programs)
      if (!used.has(key)) {
        discard(tailored);
        this.programs.delete(key);
      }
    this.placeSpill();
    this.renderer.shadowMap.needsUpdate = true;
    return true;
  }

  /** The numbers of the effect that a prop wears, for the next frame. */
  setBlock(prop: string, text: GlslText, block: Float32Array<ArrayBuffer>): void {
    const worn = this.worn.get(prop);
    if (worn?.text !== text) return;
    upload(this.gl, worn.buffer, block);
    // What moves or has holes casts another shadow with other numbers.
    if (this.props.get(prop)?.mesh.customDepthMaterial) this.renderer.shadowMap.needsUpdate = true;
  }

  /** The view as it is now, as a viewpoint holds it. */
  looksFrom(): Pick<Stage['viewpoints'][number], 'eye' | 'target' | 'fov'> {
    const plain = ({ x, y, z }: Vector3): [number, number, number] => [x, y, z];
    return { eye: plain(this.camera.position), target: plain(this.controls.target), fov: this.camera.fov };
  }

  // --- pointing

  /** The prop under a point of the picture. @param x @param y shares of its width and height, from the top left */
  pick(x: number, y: number): Hit | null {
    const ray = new Raycaster();
    ray.layers.enableAll();
    ray.setFromCamera(new Vector2(x * 2 - 1, 1 - y * 2), this.camera);
    const visible = [...this.props.values()].map((p) => p.mesh).filter((m) => m.visible);
    // What stands before a prop hides it.
    const [hit] = ray.intersectObjects([...visible, ...this.room.children], false);
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

  /** Where a point of the world is seen: shares of width and height from the top left, and whether it is before the eye. */
  project(point: readonly [number, number, number]): { x: number; y: number; ahead: boolean } {
    const seen = new Vector3(...point).project(this.camera);
    return { x: (seen.x + 1) / 2, y: (1 - seen.y) / 2, ahead: seen.z < 1 };
  }

  /** Moves a point as the picture moves, in the plane through it that faces the eye. @param dx @param dy shares of width and height */
  slide(point: readonly [number, number, number], dx: number, dy: number): [number, number, number] {
    const seen = new Vector3(...point).project(this.camera);
    seen.x += dx * 2;
    seen.y -= dy * 2;
    const { x, y, z } = seen.unproject(this.camera);
    return [x, y, z];
  }

  private readonly points = new Map<string, { readonly key: string; readonly points: RestPoints }>();

  /**
   * A place on a prop, with all that its mesh carries there; null when the prop is not there.
   * @param moveBy what moves it, given what the vertices read; null where nothing does
   */
  placeOn(hit: Hit, moveBy: MoveBy | null): PlaceOn | null {
    const mesh = this.props.get(hit.prop)?.mesh;
    if (!mesh?.visible) return null;
    const { geometry } = mesh;
    const name = `${hit.prop} ${hit.position.join()}`;
    const key = `${geometry.uuid} ${moveBy !== null}`;
    let held = this.points.get(name);
    if (held?.key !== key) {
      if (this.points.size > 100) this.points.clear();
      this.points.set(name, (held = { key, points: pointsOn(geometry, [hit], moveBy !== null) }));
    }
    const { points } = held;
    const stand = standOf(mesh, this.camera);
    const { world, leaves } = surfaceLeaves(points, stand, moveBy && moveBy(restLeaves(points, stand), 1));
    return { points, stand, world: world.map((lane) => lane[0]!) as [number, number, number], leaves };
  }

  /** What lies behind a place on a prop, seen from the eye; an opaque one has nothing behind it. */
  gapsAt(prop: string, { world }: PlaceOn): Partial<Record<Leaf, number[]>> {
    const mesh = this.props.get(prop)?.mesh;
    if (!mesh) return {};
    const point = new Vector3(...world);
    return this.behindPoint(point, new Vector3().subVectors(this.camera.position, point).normalize(), mesh);
  }

  /** What is opaque behind a point that the eye sees. */
  private behindPoint(point: Vector3, view: Vector3, mesh: Mesh): Partial<Record<Leaf, number[]>> {
    const away = view.clone().negate();
    const forward = this.camera.getWorldDirection(new Vector3());
    const cosine = Math.max(1e-4, away.dot(forward));
    const far = (FARTHEST - point.distanceTo(this.camera.position) * cosine) / cosine;
    const opaque = !mesh.layers.isEnabled(SEE_THROUGH);
    const found = opaque ? null : firstBehind(this.opaqueMeshes(), point, away);
    const there = found ?? point.clone().addScaledVector(away, opaque ? NOTHING / cosine : far);
    const ray = there.distanceTo(point);
    const pivot = mesh.matrixWorld.elements[13]!;
    return { depthGap: [ray * cosine], depthGapRay: [ray], depthGapDown: [pivot - there.y], behindPosition: there.toArray() };
  }

  /** Half the largest side of a prop's bounds, in metres; 0 when it is not there. */
  reach(prop: string): number {
    const mesh = this.props.get(prop)?.mesh;
    if (!mesh) return 0;
    const size = new Box3().setFromObject(mesh).getSize(new Vector3());
    return Math.max(size.x, size.y, size.z) / 2;
  }

  // --- drawing

  /** Some prop is drawn after the opaque scene. */
  private get seesThrough(): boolean {
    return [...this.props.values()].some(({ mesh }) => mesh.visible && mesh.layers.isEnabled(SEE_THROUGH));
  }

  private pictureTarget(): WebGLRenderTarget {
    const width = Math.max(1, Math.round(this.size.width * this.scale));
    const height = Math.max(1, Math.round(this.size.height * this.scale));
    const through = this.seesThrough || this.peek.on;
    const old = this.picture;
    if (old && (old.width !== width || old.height !== height || (old.depthTexture !== null) !== through)) this.dropPicture();
    return (this.picture ??= new WebGLRenderTarget(width, height, {
      type: HalfFloatType,
      samples: this.scale < 1 ? 0 : 4,
      // What stands behind see-through surfaces is measured in it.
      ...(through ? { depthTexture: new DepthTexture(width, height, FloatType) } : {}),
    }));
  }

  /** @param raw without bloom and tone curve; @param adapt lets slow frames lower the resolution */
  draw({ raw = false, adapt = true }: { raw?: boolean; adapt?: boolean } = {}): void {
    if (!this.stage || this.capturing) return;
    const began = performance.now();
    this.still.restart();
    this.state.sampleIndex.value = 0;
    const picture = this.pictureTarget();
    const restore = this.drawReduced();
    this.drawScene(picture);
    restore();
    this.show(picture.texture, picture, raw);
    // How long the card draws is known when it has drawn: handing it the work takes no time.
    if (adapt && !this.timed) {
      this.timed = true;
      void this.drawn().then(() => {
        this.timed = false;
        this.adapt(performance.now() - began);
      });
    }
  }

  /** While something is turned about, large meshes are drawn by their reduced copies. */
  coarse = false;

  private drawReduced(): () => void {
    if (!this.coarse) return () => undefined;
    const held = [...this.props.values()].map(({ mesh }) => ({ mesh, geometry: mesh.geometry }));
    for (const { mesh, geometry } of held) mesh.geometry = reducedOf(geometry) ?? geometry;
    return () => {
      for (const { mesh, geometry } of held) mesh.geometry = geometry;
    };
  }

  /** Shows a picture of the scene, through the optics or with what is peeked at in it. */
  private show(light: Texture, picture: WebGLRenderTarget, raw: boolean): void {
    const { optics } = this.stage!;
    if (this.peek.on && this.peekLook)
      this.peek.draw(picture, this.camera, (id) => this.props.get(id)?.mesh, optics.exposure, this.peekLook);
    else this.optics.draw(light, picture.width, picture.height, optics, null, raw);
  }

  /** Peeks at other props or another value; none ends it. @returns false when a later call overtook this one */
  wearPeek(outfits: readonly PeekOutfit[]): Promise<boolean> {
    return this.peek.wear(
      outfits,
      (id) => this.props.get(id)?.mesh,
      this.camera,
      (mesh, text) => fitted(this.props.get(mesh.userData.prop as string)!.base, attributesOf(text)),
    );
  }

  /**
   * Draws one more sample of the still and shows the mean of all, at full resolution. A `draw` begins anew.
   * @returns how many samples the picture has of `STILL_SAMPLES`; it is done with the last, and a peek has none
   */
  refine(raw = false): number {
    const { still, stage } = this;
    if (!stage || this.capturing || this.peek.on || still.samples >= STILL_SAMPLES) return still.samples;
    if (this.scale < 1 && !this.draft) {
      // A still has time: the first sample takes the place of what moved.
      this.sharpen();
      still.restart();
    }
    this.show(this.sample(), this.picture!, raw);
    return still.samples;
  }

  /** Draws one more sample. @returns the mean of all, scene-linear */
  private sample(): Texture {
    const { still, camera, key } = this;
    const picture = this.pictureTarget();
    const { samples } = still;
    const [x, y] = jitterOf(samples);
    camera.setViewOffset(picture.width, picture.height, x, y, picture.width, picture.height);
    this.state.sampleIndex.value = samples;
    const place = key.position.clone();
    this.tiltLight(lightPlaceOf(samples));
    this.drawScene(picture);
    key.position.copy(place);
    // What moves again has the light in its place.
    this.renderer.shadowMap.needsUpdate = true;
    camera.clearViewOffset();
    this.state.sampleIndex.value = 0;
    return still.add(picture);
  }

  /** Moves the key light over its disc. @param place on it, of radius 1 */
  private tiltLight([x, y]: readonly [number, number]): void {
    const { key, renderer } = this;
    const away = key.position.clone().sub(key.target.position);
    const across = new Vector3(0, 1, 0).cross(away);
    if (across.lengthSq() < 1e-9) across.set(1, 0, 0);
    const up = away.clone().cross(across);
    const radius = away.length() * LIGHT_RADIUS;
    key.position.addScaledVector(across.normalize(), x * radius).addScaledVector(up.normalize(), y * radius);
    renderer.shadowMap.needsUpdate = true;
  }

  /** The opaque scene first; then, with it behind them, what is see-through: the farthest first, back faces before front ones. */
  private drawScene(picture: WebGLRenderTarget): void {
    const { renderer, scene, camera } = this;
    camera.layers.set(OPAQUE);
    camera.updateMatrixWorld();
    this.state.seeFrom(camera, picture.width, picture.height);
    if (!picture.depthTexture) {
      renderer.setRenderTarget(picture);
      renderer.render(scene, camera);
      return;
    }
    if (renderer.shadowMap.needsUpdate) {
      // Shadows are of everything that casts them, whichever pass it is drawn in.
      camera.layers.enableAll();
      renderer.setRenderTarget(this.shadowTarget);
      renderer.render(scene, camera);
      camera.layers.set(OPAQUE);
    }
    renderer.setRenderTarget(picture);
    renderer.render(scene, camera);
    this.behind.take(picture, camera);
    const { background } = scene;
    scene.background = null;
    renderer.autoClear = false;
    camera.layers.set(SEE_THROUGH);
    renderer.setRenderTarget(picture);
    renderer.render(scene, camera);
    renderer.autoClear = true;
    scene.background = background;
    camera.layers.set(OPAQUE);
  }

  /** The canvas, in pixels. */
  get pixels(): { readonly width: number; readonly height: number } {
    return this.size;
  }

  /** A picture is being taken: nothing else is to be drawn until it is there. */
  get capturing(): boolean {
    return this.taking !== null;
  }

  /**
   * The picture as it is now, drawn at a size of its own, sample by sample between which the page goes on; the canvas
   * shows what it did until it is there. The camera is held; changes of size, stage and viewpoint wait.
   * @param width, height pixels; @param samples of a still, 1 to `STILL_SAMPLES`; @param onSample told how many there are
   * @returns a PNG
   * @throws when one is being taken already
   */
  async capture(
    width: number,
    height: number,
    raw = false,
    samples = STILL_SAMPLES,
    onSample: (done: number) => void = () => undefined,
  ): Promise<Blob> {
    if (this.taking) throw new Error('A picture is being taken already.');
    let free: () => void;
    this.taking = new Promise<void>((resolve) => (free = resolve));
    const { size, scale } = this;
    this.controls.enabled = false;
    try {
      return await this.take(width, height, raw, samples, onSample);
    } finally {
      this.taking = null;
      this.controls.enabled = true;
      this.resize(size.width, size.height, 1);
      this.scale = scale;
      for (const work of this.waiting.splice(0)) work();
      this.draw({ raw, adapt: false });
      free!();
    }
  }

  private async take(
    width: number,
    height: number,
    raw: boolean,
    samples: number,
    onSample: (done: number) => void,
  ): Promise<Blob> {
    const { still } = this;
    this.setSize({ width, height });
    this.scale = 1;
    still.restart();
    const count = this.peek.on ? 0 : Math.min(samples, STILL_SAMPLES);
    let light: Texture | null = null;
    while (still.samples < count) {
      light = this.sample();
      onSample(still.samples);
      await new Promise((resolve) => setTimeout(resolve));
    }
    this.renderer.setSize(width, height, false);
    const picture = this.pictureTarget();
    if (!light) this.drawScene(picture);
    this.show(light ?? picture.texture, picture, raw);
    // The copy is taken of what the canvas holds now, before it is given its own size back.
    return new Promise<Blob>((resolve, reject) =>
      this.renderer.domElement.toBlob(
        (blob) => (blob ? resolve(blob) : reject(new Error('The picture is too large for this browser.'))),
        'image/png',
      ),
    );
  }

  private readonly lightTarget = new WebGLRenderTarget(1, 1, {
    type: FloatType,
    minFilter: NearestFilter,
    magFilter: NearestFilter,
    depthBuffer: false,
  });
  private readonly onePixel = new Uint8Array(4);
  private readonly displayTarget = new WebGLRenderTarget(256, 144, { depthBuffer: false });

  /**
   * Reads back the picture that was last drawn: every pixel's exposed luminance before bloom, and a smaller copy of
   * what is shown. Null when nothing has been drawn.
   */
  async measure(): Promise<{ luminance: Float32Array; display: Uint8Array } | null> {
    const { picture, stage, lightTarget, displayTarget } = this;
    if (!picture || !stage) return null;
    const width = Math.ceil(picture.width / 2);
    const height = Math.ceil(picture.height / 2);
    if (lightTarget.width !== width || lightTarget.height !== height) lightTarget.setSize(width, height);
    this.optics.measure(picture.texture, stage.optics.exposure, lightTarget);
    this.copyDisplay();
    this.renderer.setRenderTarget(null);
    const luminance = new Float32Array(width * height * 4);
    const display = new Uint8Array(displayTarget.width * displayTarget.height * 4);
    await Promise.all([
      this.renderer.readRenderTargetPixelsAsync(lightTarget, 0, 0, width, height, luminance),
      this.renderer.readRenderTargetPixelsAsync(displayTarget, 0, 0, displayTarget.width, displayTarget.height, display),
    ]);
    return { luminance, display };
  }

  /** Copies what the canvas shows, made smaller by leaving pixels out: no pass and no program of its own. */
  private copyDisplay(): void {
    const { gl, renderer, displayTarget, size } = this;
    renderer.initRenderTarget(displayTarget);
    const { __webglFramebuffer: framebuffer } = renderer.properties.get(displayTarget) as {
      __webglFramebuffer: WebGLFramebuffer;
    };
    renderer.state.bindFramebuffer(gl.READ_FRAMEBUFFER, null);
    renderer.state.bindFramebuffer(gl.DRAW_FRAMEBUFFER, framebuffer);
    const { width, height } = displayTarget;
    gl.blitFramebuffer(0, 0, size.width, size.height, 0, 0, width, height, gl.COLOR_BUFFER_BIT, gl.NEAREST);
    renderer.state.bindFramebuffer(gl.READ_FRAMEBUFFER, null);
  }

  private timed = false;

  /** Resolves when the graphics card has drawn what it was given so far; the page goes on meanwhile. */
  drawn(): Promise<void> {
    const { gl } = this;
    const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    gl.flush();
    // A lost context has nothing to wait for.
    if (!fence) return Promise.resolve();
    return new Promise((resolve) => {
      const look = () => {
        if (gl.clientWaitSync(fence, 0, 0) === gl.TIMEOUT_EXPIRED) {
          setTimeout(look, FENCE_MS);
          return;
        }
        gl.deleteSync(fence);
        resolve();
      };
      setTimeout(look);
    });
  }

  private adapt(ms: number): void {
    this.slow = ms > SLOW_MS ? this.slow + 1 : Math.max(0, this.slow - 1);
    if (this.slow > 4 && this.scale > 0.5) {
      this.scale = this.scale > 0.75 ? 0.75 : 0.5;
      this.slow = 0;
    }
  }

  /** Full resolution again: for stills. */
  sharpen(): void {
    this.scale = this.draft ? 0.5 : 1;
    this.slow = 0;
  }

  /** Waits until the graphics card has drawn. */
  settle(): void {
    // Only numbers that come back tell: `finish` returns before a software renderer has drawn.
    this.renderer.setRenderTarget(null);
    this.gl.readPixels(0, 0, 1, 1, this.gl.RGBA, this.gl.UNSIGNED_BYTE, this.onePixel);
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

  /** What the swatches see of a prop; null while it is not there. */
  read(propId: string, width: number, height: number): Reading | null {
    const mesh = this.props.get(propId)?.mesh;
    const text = this.worn.get(propId)?.text ?? null;
    return mesh ? this.reader.read({ mesh, text }, this.scene, this.camera.position, width, height) : null;
  }

  dispose(): void {
    this.controls.dispose();
    this.optics.dispose();
    this.behind.dispose();
    this.shadowTarget.dispose();
    this.reader.dispose();
    this.peek.dispose();
    this.surroundings.dispose();
    this.still.dispose();
    this.lightTarget.dispose();
    this.state.dispose();
    this.displayTarget.dispose();
    this.dropPicture();
    for (const id of [...this.props.keys()]) this.dropProp(id);
    for (const tailored of this.programs.values()) discard(tailored);
    discardRoom(this.room);
    this.neutral.dispose();
    for (const geometry of this.meshes.values()) disposeGeometry(geometry);
    this.renderer.dispose();
    this.renderer.forceContextLoss();
  }

  /** After a lost context: three uploads again what it owns; the effects and their blocks are made anew. */
  forget(): void {
    this.worn.clear();
    this.programs.clear();
    this.peek.forget();
    this.surroundings.forget();
    if (this.stage) this.surroundings.apply(this.stage.surroundings);
    this.renderer.shadowMap.needsUpdate = true;
    this.still.restart();
  }

  /** Called when a lost context has come back. */
  onContextRestored(listener: () => void): void {
    this.canvas.addEventListener('webglcontextrestored', listener);
  }
}
