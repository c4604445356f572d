/**
 * Spill: the light an effect throws on its surroundings. Points spread over the surface by area, each seen from a
 * direction spread by the cosine, are grouped along the prop; each group's mean emission times its area becomes the
 * intensity of a light of a fixed pool, so that nothing recompiles.
 */
import { Group, PointLight, Vector3, type Mesh } from 'three';
import { MeshSurfaceSampler } from 'three/examples/jsm/math/MeshSurfaceSampler.js';
import type { Leaf } from '../core/ir/leaves.js';

export const SPILL_POINTS = 256;
const GROUPS = 6;

/** Park and Miller's generator with a fixed seed: the same points for the same mesh, always. */
function fixedRandom(): () => number {
  let state = 20261;
  return () => (state = (state * 48271) % 2147483647) / 2147483647;
}

interface Sampled {
  readonly planes: Partial<Record<Leaf, Float32Array[]>>;
  /** Which group each point belongs to. */
  readonly group: Uint8Array;
  readonly centres: readonly Vector3[];
  /** Square metres that one point stands for. */
  readonly areaEach: number;
}

function areaOf(mesh: Mesh): number {
  const position = mesh.geometry.getAttribute('position');
  const index = mesh.geometry.getIndex();
  const count = index ? index.count : position.count;
  const corner = [new Vector3(), new Vector3(), new Vector3()] as const;
  let area = 0;
  for (let k = 0; k + 2 < count; k += 3) {
    corner.forEach((c, j) => c.fromBufferAttribute(position, index ? index.getX(k + j) : k + j).applyMatrix4(mesh.matrixWorld));
    area += corner[1].clone().sub(corner[0]).cross(corner[2].clone().sub(corner[0])).length() / 2;
  }
  return area;
}

export function sampleSurface(mesh: Mesh): Sampled {
  mesh.updateMatrixWorld();
  const random = fixedRandom();
  const sampler = new MeshSurfaceSampler(mesh);
  (sampler as unknown as { setRandomGenerator(f: () => number): void }).setRandomGenerator(random);
  sampler.build();
  const lanes = (n: number) => Array.from({ length: n }, () => new Float32Array(SPILL_POINTS));
  const position = lanes(3);
  const worldPosition = lanes(3);
  const objectNormal = lanes(3);
  const normal = lanes(3);
  const view = lanes(3);
  const uv = lanes(2);
  const points: Vector3[] = [];
  const p = new Vector3();
  const n = new Vector3();
  const flip = mesh.matrixWorld.clone().invert().transpose();
  const put = (plane: Float32Array[], k: number, v: { x: number; y: number; z?: number }) => {
    plane[0]![k] = v.x;
    plane[1]![k] = v.y;
    if (plane[2]) plane[2][k] = v.z!;
  };
  for (let k = 0; k < SPILL_POINTS; k++) {
    sampler.sample(p, n);
    put(position, k, p);
    put(objectNormal, k, n);
    const world = p.clone().applyMatrix4(mesh.matrixWorld);
    points.push(world);
    put(worldPosition, k, world);
    const facing = n.clone().transformDirection(flip);
    put(normal, k, facing);
    // A direction whose density goes with the cosine: a point on the unit sphere set on the tip of the normal.
    const z = 2 * random() - 1;
    const turn = 2 * Math.PI * random();
    const r = Math.sqrt(Math.max(0, 1 - z * z));
    put(
      view,
      k,
      facing
        .clone()
        .add(new Vector3(r * Math.cos(turn), r * Math.sin(turn), z))
        .normalize(),
    );
  }
  nearestUv(mesh, position, uv);
  mesh.geometry.computeBoundingBox();
  const size = mesh.geometry.boundingBox!.getSize(new Vector3());
  const axis = size.x >= size.y && size.x >= size.z ? 0 : size.y >= size.z ? 1 : 2;
  const order = Array.from({ length: SPILL_POINTS }, (_, k) => k).sort((a, b) => position[axis]![a]! - position[axis]![b]!);
  const group = new Uint8Array(SPILL_POINTS);
  order.forEach((k, rank) => (group[k] = Math.floor((rank * GROUPS) / SPILL_POINTS)));
  const centres = Array.from({ length: GROUPS }, (_, g) => {
    const mine = points.filter((_, k) => group[k] === g);
    return mine.reduce((sum, q) => sum.add(q), new Vector3()).divideScalar(mine.length);
  });
  return {
    planes: { position, worldPosition, objectNormal, normal, viewNormal: normal, view, uv, uv1: uv },
    group,
    centres,
    areaEach: areaOf(mesh) / SPILL_POINTS,
  };
}

/** Texture coordinates of the vertex nearest to each point. */
function nearestUv(mesh: Mesh, position: Float32Array[], uv: Float32Array[]): void {
  const vertices = mesh.geometry.getAttribute('position');
  const source = mesh.geometry.getAttribute('uv');
  if (!source) return;
  for (let k = 0; k < SPILL_POINTS; k++) {
    let nearest = Infinity;
    for (let v = 0; v < vertices.count; v++) {
      const d =
        (vertices.getX(v) - position[0]![k]!) ** 2 +
        (vertices.getY(v) - position[1]![k]!) ** 2 +
        (vertices.getZ(v) - position[2]![k]!) ** 2;
      if (d >= nearest) continue;
      nearest = d;
      uv[0]![k] = source.getX(v);
      uv[1]![k] = source.getY(v);
    }
  }
}

/** The pool of lights, and the points they stand for. */
export class Spill {
  readonly lights = new Group();
  private readonly pool = Array.from({ length: GROUPS }, () => new PointLight(0xffffff, 0, 0, 2));
  private sampled: Sampled | null = null;

  constructor() {
    this.lights.add(...this.pool);
  }

  /** Places of the sample points, for whoever computes the emission there. */
  get planes(): Sampled['planes'] | null {
    return this.sampled?.planes ?? null;
  }

  standOn(mesh: Mesh): void {
    this.sampled = sampleSurface(mesh);
    this.sampled.centres.forEach((c, g) => this.pool[g]!.position.copy(c));
  }

  /** @param emission three planes of radiance at the points; @param strength of the stage's spill, 0 turns it off */
  shine(emission: readonly Float32Array[] | null, strength: number): void {
    const sampled = this.sampled;
    this.pool.forEach((light, g) => {
      let [r, gr, b] = [0, 0, 0];
      if (sampled && emission && strength > 0)
        for (let k = 0; k < SPILL_POINTS; k++) {
          if (sampled.group[k] !== g) continue;
          const part = [0, 1, 2].map((lane) => {
            const v = emission[lane]![k]!;
            return Number.isFinite(v) ? Math.max(0, v) : 0;
          });
          r += part[0]!;
          gr += part[1]!;
          b += part[2]!;
        }
      // A surface of radiance L and area A sends out the flux pi L A; a point light of that flux has L A / 4 a steradian.
      const scale = sampled ? (sampled.areaEach * strength) / 4 : 0;
      const peak = Math.max(r, gr, b);
      light.intensity = peak * scale;
      if (peak > 0) light.color.setRGB(r / peak, gr / peak, b / peak);
    });
  }
}
