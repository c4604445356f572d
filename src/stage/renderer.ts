/**
 * The stage: one renderer that draws the room, the props and the effect on the chosen prop, then the optics.
 * It draws when asked. A changed effect keeps its last good picture until its new program is ready.
 */
import {
  AmbientLight,
  Color,
  DirectionalLight,
  FloatType,
  GLSL3,
  Group,
  HalfFloatType,
  Mesh,
  MeshStandardMaterial,
  NearestFilter,
  PCFShadowMap,
  PerspectiveCamera,
  RawShaderMaterial,
  Scene,
  Sphere,
  Vector3,
  WebGLRenderTarget,
  WebGLRenderer,
  type Material,
} from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { Finish } from '../core/effect/schema.js';
import type { Prop, Stage } from '../core/formats/stage.js';
import type { GlslText } from '../core/targets/glsl.js';
import { effectMaterial, programKey } from './effectMaterial.js';
import { geometryOf } from './geometry.js';
import { OpticsPasses } from './optics.js';
import { makeRoom } from './room.js';
import { Spill } from './spill.js';
import { READING_FRAGMENT, READING_VERTEX } from './shaders.js';

/** Places of the chosen prop as planes of numbers, row 0 on top; `mask` is 0 where there is no surface. */
export interface Reading {
  readonly width: number;
  readonly height: number;
  readonly mask: Float32Array;
  readonly position: Float32Array[];
  readonly objectNormal: Float32Array[];
  readonly normal: Float32Array[];
  readonly viewNormal: Float32Array[];
  readonly worldPosition: Float32Array[];
  readonly view: Float32Array[];
  readonly uv: Float32Array[];
}

/** Below this share of the frame a prop is too thin to be read as it is seen, and its surface is unrolled instead. */
const THIN = 0.2;
/** Frames slower than this lower the resolution. */
const SLOW_MS = 50;

export class StageRenderer {
  /** How many programs have been linked for effects; dragging a number never raises it. */
  links = 0;
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  readonly camera = new PerspectiveCamera(38, 1, 0.05, 100);
  readonly controls: OrbitControls;
  private readonly optics: OpticsPasses;
  private picture: WebGLRenderTarget | null = null;
  private room = new Group();
  private props = new Map<string, Mesh>();
  private shape = '';
  private stage: Stage | null = null;
  private worn: { text: GlslText; key: string; buffer: WebGLBuffer } | null = null;
  private readonly key = new DirectionalLight(0xffffff, 1);
  private readonly ambient = new AmbientLight(0xffffff, 1);
  readonly spill = new Spill();
  private readonly neutral = new MeshStandardMaterial({ color: 0x808080, roughness: 0.6 });
  private readonly readingMaterial: RawShaderMaterial;
  private scale = 1;
  private size = { width: 1, height: 1 };
  private slow = 0;
  private wearing = 0;

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
    this.scene.add(this.key, this.key.target, this.ambient, this.room, this.spill.lights);
    this.readingMaterial = new RawShaderMaterial({
      glslVersion: GLSL3,
      vertexShader: READING_VERTEX,
      fragmentShader: READING_FRAGMENT,
      uniforms: { unwrap: { value: false } },
      side: 2,
      depthTest: true,
    });
  }

  private get gl(): WebGL2RenderingContext {
    return this.renderer.getContext() as WebGL2RenderingContext;
  }

  resize(width: number, height: number, pixelRatio: number): void {
    this.size = { width: Math.max(1, Math.round(width * pixelRatio)), height: Math.max(1, Math.round(height * pixelRatio)) };
    this.renderer.setSize(this.size.width, this.size.height, false);
    this.camera.aspect = this.size.width / this.size.height;
    this.camera.updateProjectionMatrix();
    this.dropPicture();
  }

  private dropPicture(): void {
    this.picture?.dispose();
    this.picture = null;
  }

  /** Brings the scene to a stage document; only what differs is made anew. */
  setStage(stage: Stage): void {
    const previous = this.stage;
    this.stage = stage;
    if (previous?.ground !== stage.ground) {
      this.scene.remove(this.room);
      this.room = makeRoom(stage.ground);
      this.scene.add(this.room);
    }
    const shape = JSON.stringify(stage.props.map((p) => [p.id, p.source]));
    if (shape !== this.shape) {
      for (const mesh of this.props.values()) this.scene.remove(mesh.removeFromParent());
      this.props = new Map(stage.props.map((p) => [p.id, this.makeProp(p)]));
      this.shape = shape;
    }
    for (const p of stage.props) {
      const mesh = this.props.get(p.id)!;
      mesh.position.set(...p.place);
      mesh.quaternion.set(...p.turn);
      mesh.scale.set(...p.scale);
      mesh.visible = p.visible;
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
    const { rgb, strength } = stage.surroundings;
    this.ambient.color.setRGB(...rgb);
    this.ambient.intensity = strength * Math.PI;
    this.scene.background = new Color().setRGB(...rgb).multiplyScalar(strength * 0.25);
    this.renderer.shadowMap.needsUpdate = true;
  }

  private spillKey = '';
  private glowing: string | null = null;

  /** The spill stands for the prop that wears the effect; its points are found anew when the prop has moved. */
  private placeSpill(): void {
    const mesh = this.glowing === null ? undefined : this.props.get(this.glowing);
    if (!mesh) return;
    mesh.updateMatrixWorld();
    const key = `${mesh.uuid} ${mesh.matrixWorld.elements.join()}`;
    if (key === this.spillKey) return;
    this.spillKey = key;
    this.spill.standOn(mesh);
  }

  private makeProp(prop: Prop): Mesh {
    const mesh = new Mesh(geometryOf(prop.source), this.neutral);
    mesh.castShadow = true;
    mesh.receiveShadow = true;
    mesh.userData.id = prop.id;
    this.scene.add(mesh);
    return mesh;
  }

  lookFrom({ eye, target, fov }: Stage['viewpoints'][number]): void {
    this.camera.position.set(...eye);
    this.controls.target.set(...target);
    this.camera.fov = fov;
    this.camera.updateProjectionMatrix();
    this.controls.update();
  }

  /**
   * Puts an effect on a prop. Resolves when its program is ready and worn; until then the old one is drawn.
   * @returns false when a later call overtook this one
   */
  async wear(propId: string, text: GlslText, finish: Finish): Promise<boolean> {
    const mesh = this.props.get(propId);
    if (!mesh) return false;
    this.glowing = propId;
    this.placeSpill();
    const turn = ++this.wearing;
    const key = programKey(text, finish);
    if (this.worn?.key === key) {
      this.worn.text = text;
      return true;
    }
    const material = effectMaterial(text, finish);
    const buffer = this.gl.createBuffer()!;
    this.links++;
    const rehearsal = new Mesh(mesh.geometry, material);
    rehearsal.receiveShadow = true;
    rehearsal.castShadow = true;
    rehearsal.visible = true;
    const scene = new Scene();
    scene.add(rehearsal);
    await this.renderer.compileAsync(scene, this.camera, this.scene);
    if (turn !== this.wearing) {
      material.dispose();
      this.gl.deleteBuffer(buffer);
      return false;
    }
    const old = mesh.material as Material;
    mesh.material = material;
    mesh.castShadow = finish.castsShadow;
    mesh.onBeforeRender = () => this.gl.bindBufferBase(this.gl.UNIFORM_BUFFER, 0, buffer);
    if (old !== this.neutral) old.dispose();
    if (this.worn) this.gl.deleteBuffer(this.worn.buffer);
    this.worn = { text, key, buffer };
    this.renderer.shadowMap.needsUpdate = true;
    return true;
  }

  /** The numbers of the effect that is worn, for the next frame. */
  setBlock(text: GlslText, block: Float32Array<ArrayBuffer>): void {
    if (this.worn?.text !== text) return;
    const { gl } = this;
    gl.bindBuffer(gl.UNIFORM_BUFFER, this.worn.buffer);
    gl.bufferData(gl.UNIFORM_BUFFER, block, gl.DYNAMIC_DRAW);
    gl.bindBuffer(gl.UNIFORM_BUFFER, null);
  }

  private pictureTarget(): WebGLRenderTarget {
    const width = Math.max(1, Math.round(this.size.width * this.scale));
    const height = Math.max(1, Math.round(this.size.height * this.scale));
    if (this.picture && (this.picture.width !== width || this.picture.height !== height)) this.dropPicture();
    return (this.picture ??= new WebGLRenderTarget(width, height, { type: HalfFloatType, samples: this.scale < 1 ? 0 : 4 }));
  }

  /** @param raw without bloom and tone curve; @param adapt lets slow frames lower the resolution */
  draw({ raw = false, adapt = true }: { raw?: boolean; adapt?: boolean } = {}): void {
    if (!this.stage) return;
    const began = performance.now();
    const picture = this.pictureTarget();
    this.renderer.setRenderTarget(picture);
    this.renderer.render(this.scene, this.camera);
    this.optics.draw(picture.texture, picture.width, picture.height, this.stage.optics, null, raw);
    if (adapt) this.adapt(performance.now() - began);
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
    this.gl.finish();
  }

  /** What the swatches see of a prop: framed as the camera faces it, or unrolled where it is too thin for that. */
  read(propId: string, width: number, height: number): Reading | null {
    const mesh = this.props.get(propId);
    if (!mesh) return null;
    const geometry = mesh.geometry;
    geometry.computeBoundingSphere();
    const sphere = new Sphere().copy(geometry.boundingSphere!).applyMatrix4(mesh.matrixWorld);
    const camera = new PerspectiveCamera(24, width / height, 0.01, 1000);
    const towards = new Vector3().subVectors(this.camera.position, sphere.center).normalize();
    camera.position.copy(sphere.center).addScaledVector(towards, sphere.radius / Math.sin((12 * Math.PI) / 180));
    camera.lookAt(sphere.center);
    camera.updateMatrixWorld();
    const seen = this.readThrough(mesh, camera, width, height, false);
    const share = seen.mask.reduce((s, m) => s + m, 0) / seen.mask.length;
    return share >= THIN ? seen : this.readThrough(mesh, camera, width, height, true);
  }

  private readThrough(mesh: Mesh, camera: PerspectiveCamera, width: number, height: number, unwrap: boolean): Reading {
    const target = new WebGLRenderTarget(width, height, {
      count: 3,
      type: FloatType,
      minFilter: NearestFilter,
      magFilter: NearestFilter,
    });
    const scene = new Scene();
    const copy = new Mesh(mesh.geometry, this.readingMaterial);
    copy.matrixAutoUpdate = false;
    copy.matrix.copy(mesh.matrixWorld);
    copy.frustumCulled = false;
    scene.add(copy);
    this.readingMaterial.uniforms.unwrap!.value = unwrap;
    const clear = this.renderer.getClearAlpha();
    this.renderer.setClearAlpha(0);
    this.renderer.setRenderTarget(target);
    this.renderer.clear();
    this.renderer.render(scene, camera);
    const planes = [0, 1, 2].map((index) => {
      const data = new Float32Array(width * height * 4);
      this.renderer.readRenderTargetPixels(target, 0, 0, width, height, data, undefined, index);
      return data;
    });
    this.renderer.setRenderTarget(null);
    this.renderer.setClearAlpha(clear);
    target.dispose();
    const count = width * height;
    const plane = (source: number, lane: number) => {
      const out = new Float32Array(count);
      // The picture's row 0 is on top; the graphics card's is at the bottom.
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) out[y * width + x] = planes[source]![((height - 1 - y) * width + x) * 4 + lane]!;
      return out;
    };
    const mask = plane(0, 3);
    const objectNormal = [plane(1, 0), plane(1, 1), plane(1, 2)];
    const worldPosition = [plane(2, 0), plane(2, 1), plane(2, 2)];
    const normal = [0, 1, 2].map(() => new Float32Array(count));
    const viewNormal = [0, 1, 2].map(() => new Float32Array(count));
    const view = [0, 1, 2].map(() => new Float32Array(count));
    const n = new Vector3();
    const v = new Vector3();
    const turn = mesh.matrixWorld.clone().invert().transpose();
    for (let k = 0; k < count; k++) {
      n.set(objectNormal[0]![k]!, objectNormal[1]![k]!, objectNormal[2]![k]!).transformDirection(turn);
      v.set(
        camera.position.x - worldPosition[0]![k]!,
        camera.position.y - worldPosition[1]![k]!,
        camera.position.z - worldPosition[2]![k]!,
      ).normalize();
      [n.x, n.y, n.z].forEach((c, lane) => (normal[lane]![k] = c));
      [v.x, v.y, v.z].forEach((c, lane) => (view[lane]![k] = c));
      n.transformDirection(camera.matrixWorldInverse);
      [n.x, n.y, n.z].forEach((c, lane) => (viewNormal[lane]![k] = c));
    }
    return {
      width,
      height,
      mask,
      position: [plane(0, 0), plane(0, 1), plane(0, 2)],
      objectNormal,
      normal,
      viewNormal,
      worldPosition,
      view,
      uv: [plane(1, 3), plane(2, 3)],
    };
  }

  dispose(): void {
    this.controls.dispose();
    this.optics.dispose();
    this.dropPicture();
    this.renderer.dispose();
    this.renderer.forceContextLoss();
  }

  /** After a lost context: three uploads again what it owns; the effect and its block are made anew. */
  forget(): void {
    this.worn = null;
  }

  /** Called when a lost context has come back. */
  onContextRestored(listener: () => void): void {
    this.canvas.addEventListener('webglcontextrestored', listener);
  }
}
