/** Reads the places of a prop back from the graphics card, for the swatches: once things have come to rest. */
import {
  DepthTexture,
  FloatType,
  GLSL3,
  Mesh,
  NearestFilter,
  PerspectiveCamera,
  RawShaderMaterial,
  Scene,
  Sphere,
  Vector3,
  WebGLRenderTarget,
  type WebGLRenderer,
} from 'three';
import type { Leaf } from '../core/ir/leaves.js';
import type { BehindPass } from './behind.js';
import { OPAQUE, SEE_THROUGH } from './layers.js';
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
  /** How those change from one of these pixels to the next. */
  readonly changes: Partial<Record<Leaf, Float32Array[]>>;
  /** What lies behind them in the opaque scene; empty where the surface was unrolled. */
  readonly behind: Partial<Record<Leaf, Float32Array[]>>;
}

/** Below this share of the frame a prop is too thin to be read as it is seen, and its surface is unrolled instead. */
const THIN = 0.2;
/** How far apart two neighbours may be before they are taken for the two sides of a seam. */
const SEAM = 0.5;

/** Half the difference of a pixel's two neighbours; 0 at the border of what was read. @param step to the next pixel */
function changeOver(plane: Float32Array, mask: Float32Array, width: number, step: number): Float32Array {
  const out = new Float32Array(plane.length);
  for (let k = 0; k < plane.length; k++) {
    const [before, after] = [k - step, k + step];
    if (
      !(mask[before]! > 0) ||
      !(mask[after]! > 0) ||
      (Math.abs(step) === 1 && Math.floor(before / width) !== Math.floor(after / width))
    )
      continue;
    const change = (plane[after]! - plane[before]!) / 2;
    if (Math.abs(change) < SEAM / 2) out[k] = change;
  }
  return out;
}

export class PlaceReader {
  private readonly material = new RawShaderMaterial({
    glslVersion: GLSL3,
    vertexShader: READING_VERTEX,
    fragmentShader: READING_FRAGMENT,
    uniforms: { unwrap: { value: false } },
    side: 2,
    depthTest: true,
  });

  constructor(
    private readonly renderer: WebGLRenderer,
    private readonly behind: BehindPass,
  ) {}

  /** What the swatches see of a prop: framed as the camera faces it, or unrolled where it is too thin for that. */
  read(mesh: Mesh, scene: Scene, eye: Vector3, width: number, height: number): Reading {
    const geometry = mesh.geometry;
    geometry.computeBoundingSphere();
    const sphere = new Sphere().copy(geometry.boundingSphere!).applyMatrix4(mesh.matrixWorld);
    const camera = new PerspectiveCamera(24, width / height, 0.01, 1000);
    const towards = new Vector3().subVectors(eye, sphere.center).normalize();
    camera.position.copy(sphere.center).addScaledVector(towards, sphere.radius / Math.sin((12 * Math.PI) / 180));
    camera.lookAt(sphere.center);
    camera.updateMatrixWorld();
    const seen = this.readThrough(mesh, scene, camera, width, height, false);
    const share = seen.mask.reduce((s, m) => s + m, 0) / seen.mask.length;
    return share >= THIN ? seen : this.readThrough(mesh, scene, camera, width, height, true);
  }

  private readThrough(
    mesh: Mesh,
    scene: Scene,
    camera: PerspectiveCamera,
    width: number,
    height: number,
    unwrap: boolean,
  ): Reading {
    const target = new WebGLRenderTarget(width, height, {
      count: 3,
      type: FloatType,
      minFilter: NearestFilter,
      magFilter: NearestFilter,
    });
    const alone = new Scene();
    const copy = new Mesh(mesh.geometry, this.material);
    copy.matrixAutoUpdate = false;
    copy.matrix.copy(mesh.matrixWorld);
    copy.frustumCulled = false;
    alone.add(copy);
    this.material.uniforms.unwrap!.value = unwrap;
    const clear = this.renderer.getClearAlpha();
    this.renderer.setClearAlpha(0);
    this.renderer.setRenderTarget(target);
    this.renderer.clear();
    this.renderer.render(alone, camera);
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
    const position = [plane(0, 0), plane(0, 1), plane(0, 2)];
    const uv = [plane(1, 3), plane(2, 3)];
    const across = (planes: readonly Float32Array[]) => planes.map((p) => changeOver(p, mask, width, 1));
    const upwards = (planes: readonly Float32Array[]) => planes.map((p) => changeOver(p, mask, width, -width));
    return {
      width,
      height,
      mask,
      changes: {
        ...{ uvDx: across(uv), uvDy: upwards(uv), positionDx: across(position), positionDy: upwards(position) },
        ...{ worldPositionDx: across(worldPosition), worldPositionDy: upwards(worldPosition) },
      },
      behind: unwrap ? {} : this.readBehind(mesh, scene, camera, worldPosition, width, height),
      position,
      objectNormal,
      normal,
      viewNormal,
      worldPosition,
      view,
      uv,
    };
  }

  /** The opaque scene behind a prop, through the camera that it is read with. */
  private readBehind(
    mesh: Mesh,
    scene: Scene,
    camera: PerspectiveCamera,
    world: readonly Float32Array[],
    width: number,
    height: number,
  ): Partial<Record<Leaf, Float32Array[]>> {
    // An opaque prop has nothing behind it that it could read.
    if (!mesh.layers.isEnabled(SEE_THROUGH)) return {};
    const picture = new WebGLRenderTarget(width, height, {
      type: FloatType,
      depthTexture: new DepthTexture(width, height, FloatType),
    });
    camera.layers.set(OPAQUE);
    // Shadows are made anew by the picture, which knows of everything that casts them.
    const { needsUpdate } = this.renderer.shadowMap;
    this.renderer.shadowMap.needsUpdate = false;
    this.renderer.setRenderTarget(picture);
    this.renderer.render(scene, camera);
    this.renderer.shadowMap.needsUpdate = needsUpdate;
    const light = new Float32Array(width * height * 4);
    this.renderer.readRenderTargetPixels(picture, 0, 0, width, height, light);
    const depth = this.behind.metres(picture, camera);
    picture.dispose();
    this.renderer.setRenderTarget(null);
    const count = width * height;
    const make = (lanes: number) => Array.from({ length: lanes }, () => new Float32Array(count));
    const [eyeDepth, gap, ray, down] = [make(1), make(1), make(1), make(1)];
    const [behind, behindPosition, screen] = [make(3), make(3), make(2)];
    const forward = camera.getWorldDirection(new Vector3());
    const point = new Vector3();
    const pivot = new Vector3().setFromMatrixPosition(mesh.matrixWorld);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const k = y * width + x;
        const there = (height - 1 - y) * width + x;
        point.set(world[0]![k]!, world[1]![k]!, world[2]![k]!).sub(camera.position);
        const near = Math.max(1e-4, point.dot(forward));
        // Where something stands in front of the point, what lies behind it is not seen: as far as can be.
        const far = depth[there]! < near ? camera.far : depth[there]!;
        const reach = point.length() / near;
        point.multiplyScalar(far / near).add(camera.position);
        eyeDepth[0]![k] = near;
        gap[0]![k] = far - near;
        ray[0]![k] = (far - near) * reach;
        down[0]![k] = pivot.y - point.y;
        [point.x, point.y, point.z].forEach((c, lane) => (behindPosition[lane]![k] = c));
        for (let lane = 0; lane < 3; lane++) behind[lane]![k] = light[there * 4 + lane]!;
        screen[0]![k] = (x + 0.5) / width;
        screen[1]![k] = 1 - (y + 0.5) / height;
      }
    return { eyeDepth, depthGap: gap, depthGapRay: ray, depthGapDown: down, behind, behindPosition, screen };
  }

  dispose(): void {
    this.material.dispose();
  }
}
