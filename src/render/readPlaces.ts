/** Reads a prop back from the graphics card as it is seen, for the swatches: once things have come to rest. What follows of that is worked out as for any other place. */
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
import { Gaps } from '../core/places/behind.js';
import { changesAcross } from '../core/places/grid.js';
import { seenLeaves } from '../core/places/surface.js';
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
export interface Seen {
  readonly mesh: Mesh;
  readonly text: GlslText | null;
}

/** Below this share of the frame a prop is too thin to be read as it is seen, and its surface is unrolled instead. */
const THIN = 0.2;
const shareOf = ({ mask }: Reading): number => mask.reduce((s, m) => s + m, 0) / mask.length;
/** How far behind a surface the nearest thing lies where it has none behind it, in metres. */
export const NOTHING = LEAVES.depthGap.fallback[0]!;
/** As far as a stage is seen that reaches no farther, in metres. */
export const FARTHEST = 100;
/** Programs of what moves that are kept. */
const REMEMBERED = 8;
/** Where each pixel of an unrolled surface lies in its swatch: there is no other picture that it is in. */
function unrolledScreen(width: number, height: number): Float32Array[] {
  const at = (f: (k: number) => number) => Float32Array.from({ length: width * height }, (_, k) => f(k));
  return [at((k) => ((k % width) + 0.5) / width), at((k) => 1 - (Math.floor(k / width) + 0.5) / height)];
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

  /** What the swatches see of a prop: framed as the camera faces it, or unrolled where it is too thin for that and its uv show more. */
  placesOf(what: Seen, scene: Scene, eye: Vector3, width: number, height: number): Reading {
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
    const share = shareOf(seen);
    if (share >= THIN) return seen;
    // A part of a mesh may have hardly any uv of its own, or none.
    const unrolled = this.readThrough(what, scene, camera, width, height, true);
    return shareOf(unrolled) > share ? unrolled : seen;
  }

  /** Draws the prop as numbers. @returns planes of RGBA: position, normal, place, paint, second coordinates; rows from the bottom */
  private draw({ mesh, text }: Seen, camera: PerspectiveCamera, width: number, height: number, unwrap: boolean): Float32Array[] {
    const { renderer } = this;
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
    const clear = renderer.getClearAlpha();
    renderer.setClearAlpha(0);
    renderer.setRenderTarget(target);
    renderer.clear();
    renderer.render(alone, camera);
    const readTarget = (index: number) => {
      const data = new Float32Array(width * height * 4);
      renderer.readRenderTargetPixels(target, 0, 0, width, height, data, undefined, index);
      return data;
    };
    const planes = [0, 1, 2, 3].map(readTarget);
    if (mesh.geometry.hasAttribute('uv1')) {
      // Four targets are all that every graphics card has: the second texture coordinates take a turn of their own.
      material.uniforms.second!.value = true;
      renderer.setRenderTarget(target);
      renderer.render(alone, camera);
      material.uniforms.second!.value = false;
      planes.push(readTarget(3));
    } else planes.push(new Float32Array(width * height * 4));
    renderer.setRenderTarget(null);
    renderer.setClearAlpha(clear);
    target.dispose();
    return planes;
  }

  private readThrough(
    what: Seen,
    scene: Scene,
    camera: PerspectiveCamera,
    width: number,
    height: number,
    unwrap: boolean,
  ): Reading {
    const { mesh } = what;
    const drawn = this.draw(what, camera, width, height, unwrap);
    const count = width * height;
    const plane = (source: number, lane: number) => {
      const out = new Float32Array(count);
      // The picture's row 0 is on top; the graphics card's is at the bottom.
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) out[y * width + x] = drawn[source]![((height - 1 - y) * width + x) * 4 + lane]!;
      return out;
    };
    const lanes = (source: number, lane: number) => Array.from({ length: lane }, (_, k) => plane(source, k));
    const seen = plane(0, 3);
    const mask = seen.map((m) => (m > 0 ? 1 : 0));
    const world = lanes(2, 3);
    const stand = standOf(mesh, camera);
    const { leaves } = seenLeaves(
      {
        ...{ count, world, position: lanes(0, 3), objectNormal: lanes(1, 3) },
        ...{ uv: [plane(1, 3), plane(2, 3)], uv1: lanes(4, 2), vertexColour: lanes(3, 4) },
        // Back faces are half there. Unrolled, there are no sides but those that the normal tells.
        front: unwrap ? null : seen.map((m) => (m > 0.75 ? 1 : 0)),
      },
      stand,
    );
    const planes = Object.fromEntries(
      Object.entries(leaves).map(([leaf, values]) => [
        leaf,
        values.map((c) => (typeof c === 'number' ? new Float32Array(count).fill(c) : c)),
      ]),
    ) as Record<Leaf, Float32Array[]>;
    return {
      ...{ width, height, mask },
      planes: {
        ...planes,
        ...changesAcross(planes, mask, width),
        ...(unwrap ? { screen: unrolledScreen(width, height) } : this.readBehind(mesh, scene, camera, world, width, height)),
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
    const gaps = new Gaps(width * height);
    const behind = [0, 1, 2].map(() => new Float32Array(width * height));
    const forward = camera.getWorldDirection(new Vector3());
    const point = new Vector3();
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const k = y * width + x;
        const there = (height - 1 - y) * width + x;
        const here = [world[0]![k]!, world[1]![k]!, world[2]![k]!] as const;
        point.set(...here).sub(camera.position);
        const near = Math.max(1e-4, point.dot(forward));
        // Where something stands in front of the point, what lies behind it is not seen: as far as can be.
        const seen = scenery?.depth[there] ?? near + NOTHING;
        const far = seen < near || seen > 0.99 * camera.far ? FARTHEST : seen;
        const cosine = near / Math.max(1e-4, point.length());
        point.multiplyScalar(far / near).add(camera.position);
        gaps.put(k, here, point.toArray(), cosine);
        for (let lane = 0; lane < 3; lane++) behind[lane]![k] = scenery?.light[there * 4 + lane] ?? 0;
      }
    return { ...(gaps.leaves as Partial<Record<Leaf, Float32Array[]>>), behind };
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
