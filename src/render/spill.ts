/**
 * Spill: the light that effects throw on their surroundings. Points spread over each glowing prop by area, each seen
 * from a direction spread by the cosine, are grouped along the prop; a group's mean emission times its area becomes
 * the intensity of a light. The pool of lights is fixed, so that nothing recompiles: the strongest groups have them.
 */
import { Group, PointLight, Vector2, Vector3, type BufferGeometry, type Mesh } from 'three';
import { MeshSurfaceSampler } from 'three/examples/jsm/math/MeshSurfaceSampler.js';
import { Gaps } from '../core/places/behind.js';
import {
  restLeaves,
  surfaceLeaves,
  type MoveBy,
  type Planes,
  type RestPoints,
  type Stand,
  type SurfaceLeaves,
} from '../core/places/surface.js';
import { LEAVES } from '../core/ir/leaves.js';
import { SPILL_POINTS } from '../core/scene/materials.js';
import type { LeafValues } from '../core/targets/wasm/runner.js';
import { firstBehind, meshesKey } from './rays.js';
import { pointsOn, type OnMesh } from './surface.js';

/** Lights in the pool. */
export const SPILL_LIGHTS = 6;

/** Park and Miller's generator with a fixed seed: the same points for the same mesh, always. */
function fixedRandom(): () => number {
  let state = 20261;
  return () => (state = (state * 48271) % 2147483647) / 2147483647;
}

/** Points of a mesh in its own space, which stay when the prop only moves. */
interface Points {
  readonly key: string;
  readonly rest: RestPoints;
  readonly geometry: BufferGeometry;
  /** A point on the unit sphere for each: set on the tip of the normal, directions go with the cosine. */
  readonly around: Planes;
  /** Points in their order along the mesh's longest side. */
  readonly order: readonly number[];
  /** Square metres, at the scale in the key. */
  readonly area: number;
}

interface Standing {
  readonly key: string;
  readonly points: Points;
  readonly stand: Stand;
  /** What lies behind the points. */
  readonly gaps: LeafValues;
  /** The places as nothing moves them, and where they are on the stage. */
  readonly still: SurfaceLeaves;
  /** What vertices read before they are moved; worked out when something moves them. */
  rest: LeafValues | null;
  /** Where the points are now. */
  world: Planes;
  /** Which group each point belongs to. */
  readonly group: Uint8Array;
  readonly groups: number;
}

const lanes = (n: number) => Array.from({ length: n }, () => new Float32Array(SPILL_POINTS));

function areaOf(geometry: BufferGeometry, scale: Vector3): number {
  const position = geometry.getAttribute('position');
  const index = geometry.getIndex();
  const count = index ? index.count : position.count;
  const corner = [new Vector3(), new Vector3(), new Vector3()] as const;
  let area = 0;
  for (let k = 0; k + 2 < count; k += 3) {
    corner.forEach((c, j) => c.fromBufferAttribute(position, index ? index.getX(k + j) : k + j).multiply(scale));
    area += corner[1].sub(corner[0]).cross(corner[2].sub(corner[0])).length() / 2;
  }
  return area;
}

function pointsOf(mesh: Mesh, key: string): Points {
  const random = fixedRandom();
  const sampler = new MeshSurfaceSampler(mesh);
  (sampler as unknown as { setRandomGenerator(f: () => number): void }).setRandomGenerator(random);
  sampler.build();
  const wanted: OnMesh[] = [];
  const around = lanes(3);
  const p = new Vector3();
  const n = new Vector3();
  const t = new Vector2();
  for (let k = 0; k < SPILL_POINTS; k++) {
    sampler.sample(p, n, undefined, t);
    wanted.push({ position: p.toArray(), normal: n.toArray(), uv: t.toArray() });
    const z = 2 * random() - 1;
    const turn = 2 * Math.PI * random();
    const r = Math.sqrt(Math.max(0, 1 - z * z));
    [r * Math.cos(turn), r * Math.sin(turn), z].forEach((c, lane) => (around[lane]![k] = c));
  }
  const rest = pointsOn(mesh.geometry, wanted);
  const { position } = rest;
  mesh.geometry.computeBoundingBox();
  const size = mesh.geometry.boundingBox!.getSize(new Vector3()).multiply(mesh.scale);
  const axis = size.x >= size.y && size.x >= size.z ? 0 : size.y >= size.z ? 1 : 2;
  const order = Array.from({ length: SPILL_POINTS }, (_, k) => k).sort((a, b) => position[axis]![a]! - position[axis]![b]!);
  return { key, rest, geometry: mesh.geometry, around, order, area: areaOf(mesh.geometry, mesh.scale) };
}

function standAt(mesh: Mesh, points: Points, groups: number, behind: readonly Mesh[], key: string): Standing {
  const group = new Uint8Array(SPILL_POINTS);
  points.order.forEach((k, rank) => (group[k] = Math.floor((rank * groups) / SPILL_POINTS)));
  const stand: Stand = { model: [...mesh.matrixWorld.elements], eye: null, around: points.around };
  const still = surfaceLeaves(points.rest, stand, null);
  const height = mesh.matrixWorld.elements[13]!;
  return {
    ...{ key, points, stand, still, rest: null, world: still.world, group, groups },
    gaps: gaps(still.world, still.leaves.view as Planes, height, behind),
  };
}

/**
 * How far what is opaque lies behind each point, seen from its own direction: that of an eye which looks at it squarely,
 * so that the axis of its view is the ray.
 */
function gaps(world: Planes, view: Planes, height: number, behind: readonly Mesh[]): LeafValues {
  if (behind.length === 0) return {};
  const found = new Gaps(SPILL_POINTS);
  const far = LEAVES.depthGap.fallback[0]!;
  const from = new Vector3();
  const away = new Vector3();
  for (let k = 0; k < SPILL_POINTS; k++) {
    from.set(world[0]![k]!, world[1]![k]!, world[2]![k]!);
    away.set(-view[0]![k]!, -view[1]![k]!, -view[2]![k]!);
    const there = firstBehind(behind, from, away) ?? from.clone().addScaledVector(away, far);
    found.put(k, from.toArray(), there.toArray(), 1, height);
  }
  return found.leaves;
}

/** The points with how what they read changes along the surface. */
function withSlopes({ rest, geometry }: Points): RestPoints {
  const at = (planes: Planes, k: number) => planes.map((lane) => lane[k]!);
  const wanted = Array.from({ length: rest.count }, (_, k): OnMesh => ({ position: at(rest.position, k) }));
  return { ...rest, slopes: pointsOn(geometry, wanted, true).slopes };
}

/** The middle of a group's points, where they are now. */
function centreOf({ world, group }: Standing, g: number): Vector3 {
  const sum = new Vector3();
  let count = 0;
  for (let k = 0; k < SPILL_POINTS; k++) {
    if (group[k] !== g) continue;
    sum.x += world[0]![k]!;
    sum.y += world[1]![k]!;
    sum.z += world[2]![k]!;
    count++;
  }
  return sum.divideScalar(Math.max(1, count));
}

/** The pool of lights, and the points they stand for. */
export class Spill {
  readonly lights = new Group();
  private readonly pool = Array.from({ length: SPILL_LIGHTS }, () => new PointLight(0xffffff, 0, 0, 2));
  private standing = new Map<string, Standing>();

  constructor() {
    this.lights.add(...this.pool);
  }

  /**
   * Finds the points anew for the props that changed.
   * @param glowing the props that wear an effect, and can be seen; @param opaque what see-through ones have behind them
   */
  standOn(glowing: ReadonlyMap<string, Mesh>, opaque: readonly Mesh[] = []): void {
    const behindKey = meshesKey(opaque);
    const groups = Math.max(1, Math.min(SPILL_LIGHTS, Math.floor(SPILL_LIGHTS / Math.max(1, glowing.size))));
    const next = new Map<string, Standing>();
    for (const [prop, mesh] of glowing) {
      mesh.updateMatrixWorld();
      const shape = `${mesh.geometry.uuid} ${mesh.scale.toArray().join()}`;
      const behind = opaque.includes(mesh) ? [] : opaque;
      const key = `${shape} ${groups} ${mesh.matrixWorld.elements.join()} ${behind.length > 0 ? behindKey : ''}`;
      const old = this.standing.get(prop);
      if (old?.key === key) next.set(prop, old);
      else next.set(prop, standAt(mesh, old?.points.key === shape ? old.points : pointsOf(mesh, shape), groups, behind, key));
    }
    this.standing = next;
  }

  /**
   * Places of a prop's points, for whoever computes the emission there.
   * @param moveBy what moves them, given what the vertices read; null where nothing does
   */
  placesOf(prop: string, moveBy: MoveBy | null): LeafValues | null {
    const standing = this.standing.get(prop);
    if (!standing) return null;
    const { points, stand, gaps, still } = standing;
    if (!moveBy) {
      standing.world = still.world;
      return { ...still.leaves, ...gaps };
    }
    standing.rest ??= restLeaves(withSlopes(points), stand);
    const moved = surfaceLeaves(points.rest, stand, moveBy(standing.rest, SPILL_POINTS));
    standing.world = moved.world;
    return { ...moved.leaves, ...gaps };
  }

  /** Where a prop's points are now, on the stage; null where it has none. */
  worldOf(prop: string): Planes | null {
    return this.standing.get(prop)?.world ?? null;
  }

  /** @param emission radiance at the points of a prop, a plane a channel @returns each group's sum, a plane a channel */
  gather(prop: string, emission: readonly Float32Array[]): Float32Array[] {
    const { group, groups } = this.standing.get(prop)!;
    const sums = [0, 1, 2].map(() => new Float32Array(groups));
    for (let lane = 0; lane < 3; lane++)
      for (let k = 0; k < SPILL_POINTS; k++) {
        const v = emission[lane]![k]!;
        if (v > 0 && Number.isFinite(v)) sums[lane]![group[k]!]! += v;
      }
    return sums;
  }

  /** @param sums by prop, as gathered; @param strength of the stage's spill, 0 turns it off */
  shine(sums: ReadonlyMap<string, readonly Float32Array[]>, strength: number): void {
    const beams: { rgb: [number, number, number]; peak: number; centre: Vector3 }[] = [];
    if (strength > 0)
      for (const [prop, planes] of sums) {
        const standing = this.standing.get(prop);
        if (!standing) continue;
        // A surface of radiance L and area A sends out the flux pi L A; a point light of that flux has L A / 4 a steradian.
        const scale = (standing.points.area / SPILL_POINTS) * (strength / 4);
        for (let g = 0; g < standing.groups; g++) {
          const rgb = [0, 1, 2].map((lane) => planes[lane]![g]! * scale) as [number, number, number];
          beams.push({ rgb, peak: Math.max(...rgb), centre: centreOf(standing, g) });
        }
      }
    // In the order they were found while they fit, so that no light changes places from frame to frame.
    const shown = beams.length <= this.pool.length ? beams : [...beams].sort((a, b) => b.peak - a.peak);
    this.pool.forEach((light, k) => {
      const beam = shown[k];
      light.intensity = beam?.peak ?? 0;
      if (!beam || beam.peak <= 0) return;
      light.position.copy(beam.centre);
      light.color.setRGB(beam.rgb[0] / beam.peak, beam.rgb[1] / beam.peak, beam.rgb[2] / beam.peak);
    });
  }
}
