/** Reads the places of a prop back from the graphics card, for the swatches: once things have come to rest. */
import {
  DepthTexture,
  FloatType,
  Mesh,
  NearestFilter,
  PerspectiveCamera,
  Scene,
  Sphere,
  Vector3,
  WebGLRenderTarget,
  type RawShaderMaterial,
  type WebGLRenderer,
} from 'three';
import { standLeaves } from '../core/places/surface.js';
import { LEAVES, type Leaf } from '../core/ir/leaves.js';
import type { GlslText } from '../core/targets/glsl.js';
import type { BehindPass } from './behind.js';
import { OPAQUE, SEE_THROUGH } from './layers.js';
import type { ProgramState } from './programState.js';
import { readingMaterial } from './readingMaterial.js';
import { standOf } from './surface.js';

/** Places of the chosen prop as planes of numbers, row 0 on top. */
export interface Reading {
  readonly width: number;
  readonly height: number;
  /** 0 where there is no surface. */
  readonly mask: Float32Array;
  /** What can be known there; of what lies behind nothing where the surface was unrolled. */
  readonly planes: Partial<Record<Leaf, Float32Array[]>>;
}

/** What is read of a prop: its mesh, and the program that moves its vertices, with that one's numbers bound. */
export interface Read {
  readonly mesh: Mesh;
  readonly text: GlslText | null;
}

/** Below this share of the frame a prop is too thin to be read as it is seen, and its surface is unrolled instead. */
const THIN = 0.2;
/** How far behind a surface the nearest thing lies where it has none behind it, and where the stage ends: metres. */
export const NOTHING = LEAVES.depthGap.fallback[0]!;
export const FARTHEST = 100;
/** Programs of what moves that are kept. */
const REMEMBERED = 8;
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
  private readonly still: RawShaderMaterial;
  /** For what moves its vertices. */
  private readonly moving = new Map<GlslText, RawShaderMaterial>();

  constructor(
    private readonly renderer: WebGLRenderer,
    private readonly behind: BehindPass,
    private readonly state: ProgramState,
  ) {
    this.still = readingMaterial(null, state);
  }

  /** What the swatches see of a prop: framed as the camera faces it, or unrolled where it is too thin for that. */
  read(what: Read, scene: Scene, eye: Vector3, width: number, height: number): Reading {
    const { mesh } = what;
    const geometry = mesh.geometry;
    geometry.computeBoundingSphere();
    const sphere = new Sphere().copy(geometry.boundingSphere!).applyMatrix4(mesh.matrixWorld);
    const camera = new PerspectiveCamera(24, width / height, 0.01, 1000);
    const towards = new Vector3().subVectors(eye, sphere.center).normalize();
    camera.position.copy(sphere.center).addScaledVector(towards, sphere.radius / Math.sin((12 * Math.PI) / 180));
    camera.lookAt(sphere.center);
    camera.updateMatrixWorld();
    const seen = this.readThrough(what, scene, camera, width, height, false);
    const share = seen.mask.reduce((s, m) => s + m, 0) / seen.mask.length;
    return share >= THIN ? seen : this.readThrough(what, scene, camera, width, height, true);
  }

  private readThrough(
    { mesh, text }: Read,
    scene: Scene,
    camera: PerspectiveCamera,
    width: number,
    height: number,
    unwrap: boolean,
  ): Reading {
    const target = new WebGLRenderTarget(width, height, {
      count: 4,
      type: FloatType,
      minFilter: NearestFilter,
      magFilter: NearestFilter,
    });
    const alone = new Scene();
    const material = this.materialFor(text);
    const copy = new Mesh(mesh.geometry, material);
    copy.onBeforeRender = mesh.onBeforeRender;
    copy.matrixAutoUpdate = false;
    copy.matrix.copy(mesh.matrixWorld);
    copy.frustumCulled = false;
    alone.add(copy);
    material.uniforms.unwrap!.value = unwrap;
    const clear = this.renderer.getClearAlpha();
    this.renderer.setClearAlpha(0);
    this.renderer.setRenderTarget(target);
    this.renderer.clear();
    this.renderer.render(alone, camera);
    const readTarget = (index: number) => {
      const data = new Float32Array(width * height * 4);
      this.renderer.readRenderTargetPixels(target, 0, 0, width, height, data, undefined, index);
      return data;
    };
    const planes = [0, 1, 2, 3].map(readTarget);
    if (mesh.geometry.hasAttribute('uv1')) {
      // Four targets are all that every graphics card has: the second texture coordinates take a turn of their own.
      material.uniforms.second!.value = true;
      this.renderer.setRenderTarget(target);
      this.renderer.render(alone, camera);
      material.uniforms.second!.value = false;
      planes.push(readTarget(3));
    } else planes.push(new Float32Array(width * height * 4));
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
    const seen = plane(0, 3);
    const mask = seen.map((m) => (m > 0 ? 1 : 0));
    const lanes = (source: number, count: number) => Array.from({ length: count }, (_, lane) => plane(source, lane));
    const position = lanes(0, 3);
    const objectNormal = lanes(1, 3);
    const moved = lanes(2, 3);
    const uv = [plane(1, 3), plane(2, 3)];
    const facing = [new Float32Array(count)];
    const eyeDepth = [new Float32Array(count)];
    const screen = [new Float32Array(count), new Float32Array(count)];
    const forward = camera.getWorldDirection(new Vector3());
    const [normal, viewNormal, view, worldPosition] = Array.from({ length: 4 }, () =>
      Array.from({ length: 3 }, () => new Float32Array(count)),
    ) as [Float32Array[], Float32Array[], Float32Array[], Float32Array[]];
    const v = new Vector3();
    const towards = new Vector3();
    const put = (planes: Float32Array[], k: number) => [v.x, v.y, v.z].forEach((c, lane) => (planes[lane]![k] = c));
    const get = (planes: Float32Array[], k: number) => v.set(planes[0]![k]!, planes[1]![k]!, planes[2]![k]!);
    const turn = mesh.matrixWorld.clone().invert().transpose();
    for (let k = 0; k < count; k++) {
      get(moved, k);
      eyeDepth[0]![k] = towards.subVectors(v, camera.position).dot(forward);
      v.subVectors(camera.position, v).normalize();
      put(view, k);
      towards.copy(v);
      get(objectNormal, k).transformDirection(turn);
      // Unrolled, there are no sides but those that the normal tells.
      const front = unwrap ? v.dot(towards) >= 0 : seen[k]! > 0.75;
      facing[0]![k] = front ? 1 : 0;
      if (!front) {
        v.negate();
        for (const lane of objectNormal) lane[k] = -lane[k]!;
      }
      put(normal, k);
      v.transformDirection(camera.matrixWorldInverse);
      put(viewNormal, k);
      screen[0]![k] = ((k % width) + 0.5) / width;
      screen[1]![k] = 1 - (Math.floor(k / width) + 0.5) / height;
      get(position, k).applyMatrix4(mesh.matrixWorld);
      put(worldPosition, k);
    }
    const across = (planes: readonly Float32Array[]) => planes.map((p) => changeOver(p, mask, width, 1));
    const upwards = (planes: readonly Float32Array[]) => planes.map((p) => changeOver(p, mask, width, -width));
    const steady = Object.entries(standLeaves(standOf(mesh, camera))).map(([leaf, values]) => [
      leaf,
      values.map((c) => new Float32Array(count).fill(c)),
    ]);
    return {
      width,
      height,
      mask,
      planes: {
        ...(Object.fromEntries(steady) as Reading['planes']),
        ...{ position, objectNormal, normal, viewNormal, worldPosition, view, uv, uv1: lanes(4, 2), vertexColour: lanes(3, 4) },
        ...{ facing, eyeDepth, screen },
        ...{ uvDx: across(uv), uvDy: upwards(uv), positionDx: across(position), positionDy: upwards(position) },
        ...{ worldPositionDx: across(worldPosition), worldPositionDy: upwards(worldPosition) },
        ...(unwrap ? {} : this.readBehind(mesh, scene, camera, moved, width, height)),
      },
    };
  }

  private materialFor(text: GlslText | null): RawShaderMaterial {
    if (!text?.vertex) return this.still;
    const made = this.moving.get(text) ?? readingMaterial(text, this.state);
    // The last to be read are kept.
    this.moving.delete(text);
    this.moving.set(text, made);
    for (const [old, material] of this.moving) {
      if (this.moving.size <= REMEMBERED) break;
      material.dispose();
      this.moving.delete(old);
    }
    return made;
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
    const scenery = mesh.layers.isEnabled(SEE_THROUGH) ? this.drawBehind(scene, camera, width, height) : null;
    const count = width * height;
    const make = (lanes: number) => Array.from({ length: lanes }, () => new Float32Array(count));
    const [gap, ray, down] = [make(1), make(1), make(1)];
    const [behind, behindPosition] = [make(3), make(3)];
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
        const seen = scenery?.depth[there] ?? near + NOTHING;
        const far = seen < near || seen > 0.99 * camera.far ? FARTHEST : seen;
        const reach = point.length() / near;
        point.multiplyScalar(far / near).add(camera.position);
        gap[0]![k] = far - near;
        ray[0]![k] = (far - near) * reach;
        down[0]![k] = pivot.y - point.y;
        [point.x, point.y, point.z].forEach((c, lane) => (behindPosition[lane]![k] = c));
        for (let lane = 0; lane < 3; lane++) behind[lane]![k] = scenery?.light[there * 4 + lane] ?? 0;
      }
    return { depthGap: gap, depthGapRay: ray, depthGapDown: down, behind, behindPosition };
  }

  /** The opaque scene through a camera: its light, and its depth in metres. */
  private drawBehind(scene: Scene, camera: PerspectiveCamera, width: number, height: number) {
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
    return { light, depth };
  }

  dispose(): void {
    this.still.dispose();
    for (const material of this.moving.values()) material.dispose();
  }
}
