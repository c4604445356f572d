/**
 * Spill: the light that effects throw on their surroundings. Points spread over each glowing prop by area, each seen
 * from a direction spread by the cosine, are parted by where they are; the mean emission of a part is the radiance of a
 * line, a ball or a panel of light that is as large as it.
 */
import { DoubleSide, Vector2, Vector3, type BufferGeometry, type Mesh } from 'three';
import { MeshSurfaceSampler } from 'three/examples/jsm/math/MeshSurfaceSampler.js';
import type { Emitter } from '../core/optics/emitters.js';
import { emitterOf, partsOf, type Glowing } from '../core/optics/fitting.js';
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
import { EmitterTable, MOST_EMITTERS, type Shining } from './spillShader.js';
import { pointsOn, type OnMesh } from './surface.js';

/** Emitters that surfaces are parted into: more where there are more surfaces, each of which has one. */
const PARTED = 16;

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
  /** How they look there, for the emitters that stand for them. */
  normals: Planes;
  readonly both: boolean;
  /** The points that each of its emitters stands for. */
  parts: readonly (readonly number[])[];
  /** Those emitters, until the points move. */
  emitters: readonly Emitter[] | null;
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
  return { key, rest, geometry: mesh.geometry, around, area: areaOf(mesh.geometry, mesh.scale) };
}

function standAt(mesh: Mesh, points: Points, behind: readonly Mesh[], key: string): Standing {
  const stand: Stand = { model: [...mesh.matrixWorld.elements], eye: null, around: points.around };
  const still = surfaceLeaves(points.rest, stand, null);
  return {
    ...{ key, points, stand, still, rest: null, world: still.world, normals: still.leaves.normal as Planes },
    gaps: gaps(still.world, still.leaves.view as Planes, behind),
    both: [mesh.material].flat()[0]!.side === DoubleSide,
    ...{ parts: [], emitters: null },
  };
}

const glowingOf = ({ world, normals, points, both }: Standing): Glowing => ({
  ...{ position: world, normal: normals, area: points.area, both },
});

/**
 * How far what is opaque lies behind each point, seen from its own direction: that of an eye which looks at it squarely,
 * so that the axis of its view is the ray.
 */
function gaps(world: Planes, view: Planes, behind: readonly Mesh[]): LeafValues {
  if (behind.length === 0) return {};
  const found = new Gaps(SPILL_POINTS);
  const far = LEAVES.depthGap.fallback[0]!;
  const from = new Vector3();
  const away = new Vector3();
  for (let k = 0; k < SPILL_POINTS; k++) {
    from.set(world[0]![k]!, world[1]![k]!, world[2]![k]!);
    away.set(-view[0]![k]!, -view[1]![k]!, -view[2]![k]!);
    const there = firstBehind(behind, from, away) ?? from.clone().addScaledVector(away, far);
    found.put(k, from.toArray(), there.toArray(), 1);
  }
  return found.leaves;
}

/** The points with how what they read changes along the surface. */
function withSlopes({ rest, geometry }: Points): RestPoints {
  const at = (planes: Planes, k: number) => planes.map((lane) => lane[k]!);
  const wanted = Array.from({ length: rest.count }, (_, k): OnMesh => ({ position: at(rest.position, k) }));
  return { ...rest, slopes: pointsOn(geometry, wanted, true).slopes };
}

/** The points, and the emitters that they stand for. */
export class Spill {
  /** What shone last. */
  shining: readonly Shining[] = [];
  private standing = new Map<string, Standing>();
  private parted = '';

  constructor(private readonly table = new EmitterTable()) {}

  /**
   * Finds the points anew for the props that changed.
   * @param glowing the props that wear an effect, and can be seen; @param opaque what see-through ones have behind them
   */
  standOn(glowing: ReadonlyMap<string, Mesh>, opaque: readonly Mesh[] = []): void {
    const behindKey = meshesKey(opaque);
    const next = new Map<string, Standing>();
    for (const [prop, mesh] of glowing) {
      mesh.updateMatrixWorld();
      const shape = `${mesh.geometry.uuid} ${mesh.scale.toArray().join()}`;
      const behind = opaque.includes(mesh) ? [] : opaque;
      const both = [mesh.material].flat()[0]!.side;
      const key = `${shape} ${both} ${mesh.matrixWorld.elements.join()} ${behind.length > 0 ? behindKey : ''}`;
      const old = this.standing.get(prop);
      if (old?.key === key) next.set(prop, old);
      else next.set(prop, standAt(mesh, old?.points.key === shape ? old.points : pointsOf(mesh, shape), behind, key));
    }
    this.standing = next;
    this.part();
  }

  /** Parts the surfaces, where any of them is another than it was. */
  private part(): void {
    const all = [...this.standing.values()];
    const key = all.map((s) => s.key).join(';');
    if (key === this.parted) return;
    this.parted = key;
    const still = all.map((s) => ({ ...glowingOf(s), position: s.still.world, normal: s.still.leaves.normal as Planes }));
    partsOf(still, Math.min(MOST_EMITTERS, Math.max(PARTED, all.length))).forEach((parts, k) => {
      Object.assign(all[k]!, { parts, emitters: null });
    });
  }

  /**
   * Places of a prop's points, for whoever computes the emission there.
   * @param moveBy what moves them, given what the vertices read; null where nothing does
   */
  placesOf(prop: string, moveBy: MoveBy | null): LeafValues | null {
    const standing = this.standing.get(prop);
    if (!standing) return null;
    const { points, stand, gaps, still } = standing;
    if (moveBy) standing.rest ??= restLeaves(withSlopes(points), stand);
    const now = moveBy ? surfaceLeaves(points.rest, stand, moveBy(standing.rest!, SPILL_POINTS)) : still;
    if (now.world !== standing.world) standing.emitters = null;
    standing.world = now.world;
    standing.normals = now.leaves.normal as Planes;
    return { ...now.leaves, ...gaps };
  }

  /** Where a prop's points are now, on the stage; null where it has none. */
  worldOf(prop: string): Planes | null {
    return this.standing.get(prop)?.world ?? null;
  }

  /** @param emission radiance at the points of a prop, a plane a channel @returns the sum of each of its parts, a plane a channel */
  gather(prop: string, emission: readonly Float32Array[]): Float32Array[] {
    const { parts } = this.standing.get(prop)!;
    const lit = (v: number) => (v > 0 && Number.isFinite(v) ? v : 0);
    return [0, 1, 2].map((lane) =>
      Float32Array.from(parts, (points) => points.reduce((sum, k) => sum + lit(emission[lane]![k]!), 0)),
    );
  }

  /** @param sums by prop, as gathered; @param strength of the stage's spill, 0 turns it off */
  shine(sums: ReadonlyMap<string, readonly Float32Array[]>, strength: number): void {
    const shining: Shining[] = [];
    if (strength > 0)
      for (const [prop, planes] of sums) {
        const standing = this.standing.get(prop);
        if (!standing) continue;
        const own = [12, 13, 14].map((k) => standing.stand.model[k]!) as [number, number, number];
        const emitters = (standing.emitters ??= standing.parts.map((points) => emitterOf(glowingOf(standing), points)));
        standing.parts.forEach((points, p) => {
          const rgb = planes.map((plane) => (plane[p]! * strength) / points.length) as [number, number, number];
          // What does not shine takes no part: the others keep their places, and nothing is chosen by how strong it is.
          if (Math.max(...rgb) > 0) shining.push({ emitter: emitters[p]!, rgb, own });
        });
      }
    this.shining = shining;
    this.table.put(shining);
  }
}
