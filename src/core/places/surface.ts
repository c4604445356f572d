/**
 * Places of a surface on the CPU, as the shaders have them (targets/places.ts): what an effect reads at points of a mesh
 * that stands somewhere, is seen from somewhere, and may be moved by the effect itself. Pins, spill and swatches read here.
 */
import { tangentOf } from '../mesh/slopes.js';
import { slopeAlong } from '../ir/derivative.js';
import { SURFACE_LEAVES, type Leaf } from '../ir/leaves.js';
import type { Picture } from '../base/picture.js';
import type { Program } from '../lower/lower.js';
import { evaluatorOf } from '../targets/evaluate.js';
import type { LeafValues } from '../targets/wasm/runner.js';
import {
  Sheaf,
  Standing,
  cross,
  dot,
  get,
  plus,
  scaled,
  standLeaves,
  unit,
  unitChange,
  type Planes,
  type Stand,
  type Vector,
} from './standing.js';

export { standLeaves, type Planes, type Stand } from './standing.js';

/** Points of a mesh at rest, in its own space, with what the mesh carries there. */
export interface RestPoints {
  readonly count: number;
  readonly position: Planes;
  /** Unit length, as shaded. */
  readonly objectNormal: Planes;
  /** Unit length, of the triangles themselves: which side is in front. */
  readonly faceNormal: Planes;
  readonly uv: Planes;
  /** 0 where the mesh has none. */
  readonly uv1: Planes;
  /** 1 where the mesh has none. */
  readonly vertexColour: Planes;
  /** How these change along the surface, where the mesh knows: `uvDt` and their like. */
  readonly slopes: Partial<Record<Leaf, Planes>>;
  /** Metres to the nearest edge, and to the nearest that is no diagonal of a quad; where an effect has asked for them. */
  readonly edges?: Planes;
}

/** Of a point that is in no picture: as wide as a pixel is to an eye 1 m away, in 600 rows over 45 degrees; in metres. */
const NOMINAL_PIXEL = (2 * Math.tan(Math.PI / 8)) / 600;

function edgeLeaves({ edges }: RestPoints): Partial<Record<Leaf, Planes>> {
  if (!edges) return {};
  const [all, quads] = edges as readonly [Float32Array, Float32Array];
  const pixels = (metres: Float32Array) => [metres.map((m) => m / NOMINAL_PIXEL)];
  return { edgeMetres: [all], edgeMetresQuad: [quads], edgePixels: pixels(all), edgePixelsQuad: pixels(quads) };
}

/** What an effect does to the vertices: an offset, and how it changes along tangent and bitangent; all in the prop's own space. */
export interface Movement {
  at(
    params: ArrayLike<number>,
    leaves: LeafValues,
    count: number,
  ): { readonly offset: Planes; readonly along: readonly [Planes, Planes] };
}

/** What moves the vertices, given what they read. */
export type MoveBy = (rest: LeafValues, count: number) => ReturnType<Movement['at']>;

/**
 * @param samples points at a time, or, `overTime`, moments of one point
 * @returns null where nothing moves the vertices
 */
export function movementOf(
  program: Program,
  samples: number,
  pictures?: ReadonlyMap<string, Picture>,
  overTime = false,
): Movement | null {
  const port = program.outputs.get('displacement');
  if (!port) return null;
  const { builder: b } = program;
  const roots = [port.node, slopeAlong(b, port.node, 't'), slopeAlong(b, port.node, 'b')];
  const evaluator = evaluatorOf(program, roots, new Set<Leaf>(overTime ? ['time'] : SURFACE_LEAVES), samples, pictures);
  return {
    at: (params, leaves, count) => {
      const [offset, t, bt] = evaluator.view(params, leaves, count) as unknown as [Planes, Planes, Planes];
      return { offset, along: [t, bt] };
    },
  };
}

/** What a vertex reads before it is moved, and how that changes along the surface. */
export function restLeaves(points: RestPoints, stand: Stand): LeafValues {
  const { count } = points;
  const sheaf = new Sheaf(count);
  const at = new Standing(stand);
  for (let k = 0; k < count; k++) {
    const world = at.point(get(points.position, k));
    const n = get(points.objectNormal, k);
    const long = at.normal(n);
    const normal = unit(long);
    const to = at.towards(k, world, normal);
    sheaf.put('worldPosition', k, ...world);
    sheaf.put('normal', k, ...normal);
    sheaf.put('viewNormal', k, ...at.inEye(normal));
    sheaf.put('view', k, ...unit(to));
    if (at.eyeAxes) sheaf.put('eyeDepth', k, at.inEye(to)[2]);
    const tangent = tangentOf(n);
    const sides = { t: tangent, b: cross(n, tangent) };
    for (const axis of ['t', 'b'] as const) {
      const step = sides[axis];
      const worldStep = at.direction(step);
      sheaf.put(`positionD${axis}`, k, ...step);
      sheaf.put(`worldPositionD${axis}`, k, ...worldStep);
      const bend = points.slopes[`objectNormalD${axis}`];
      const turn = bend ? unitChange(long, at.normal(get(bend, k))) : ([0, 0, 0] as Vector);
      sheaf.put(`normalD${axis}`, k, ...turn);
      sheaf.put(`viewNormalD${axis}`, k, ...at.inEye(turn));
      sheaf.put(`viewD${axis}`, k, ...unitChange(to, scaled(worldStep, -1)));
      if (at.eyeAxes) sheaf.put(`eyeDepthD${axis}`, k, -at.inEye(worldStep)[2]);
    }
  }
  const { position, objectNormal, uv, uv1, vertexColour, slopes } = points;
  return { ...standLeaves(stand), ...slopes, ...sheaf.planes, position, objectNormal, uv, uv1, vertexColour } as LeafValues;
}

/** What the pixels read: the normal and the view of the surface as it has become, the position that it had. */
export interface SurfaceLeaves {
  readonly leaves: LeafValues;
  /** Where each point has come to, on the stage. */
  readonly world: Planes;
}

/**
 * @param moved what the effect does to these points now; null where it moves nothing. Where a movement bends nothing,
 * the normal stays what it was
 */
export function surfaceLeaves(points: RestPoints, stand: Stand, moved: ReturnType<Movement['at']> | null): SurfaceLeaves {
  const { count } = points;
  const seen = new Seen(count, stand);
  for (let k = 0; k < count; k++) {
    const position = get(points.position, k);
    let n = get(points.objectNormal, k);
    let face = get(points.faceNormal, k);
    let here = position;
    if (moved) {
      here = plus(position, get(moved.offset, k));
      const tangent = tangentOf(n);
      const bitangent = cross(n, tangent);
      const bent = cross(plus(tangent, get(moved.along[0], k)), plus(bitangent, get(moved.along[1], k)));
      if (dot(bent, bent) > 0) n = face = unit(bent);
    }
    const place = seen.at.point(here);
    seen.put(k, position, place, n, seen.inFront(k, place, n, face));
  }
  const { position, uv, uv1, vertexColour } = points;
  const own = { ...edgeLeaves(points), position, uv, uv1, vertexColour };
  return { world: seen.world, leaves: { ...standLeaves(stand), ...seen.planes, ...own } as LeafValues };
}

/** Points as a picture has them: where each has come to, and which way it faces there. */
export interface SeenPoints extends Pick<RestPoints, 'count' | 'position' | 'uv' | 'uv1' | 'vertexColour'> {
  /** In the prop's own space, of unit length, as the surface has become; towards its front. */
  readonly objectNormal: Planes;
  readonly world: Planes;
  /** Above 0 where its front is seen; null where the normal tells. */
  readonly front: ArrayLike<number> | null;
}

/** What the pixels read at points that are known as they are seen. */
export function seenLeaves(points: SeenPoints, stand: Stand): SurfaceLeaves {
  const { count, world, front } = points;
  const seen = new Seen(count, stand);
  for (let k = 0; k < count; k++) {
    const place = get(world, k);
    const n = get(points.objectNormal, k);
    seen.put(k, get(points.position, k), place, n, front ? front[k]! > 0 : seen.inFront(k, place, n, n));
  }
  const { position, uv, uv1, vertexColour } = points;
  return { world, leaves: { ...standLeaves(stand), ...seen.planes, position, uv, uv1, vertexColour } as LeafValues };
}

/** What follows of a point from where it is and how it faces, point by point. */
class Seen {
  readonly at: Standing;
  readonly world: readonly Float32Array[];
  private readonly sheaf: Sheaf;

  constructor(
    count: number,
    private readonly stand: Stand,
  ) {
    this.at = new Standing(stand);
    this.sheaf = new Sheaf(count);
    this.world = [0, 1, 2].map(() => new Float32Array(count));
  }

  get planes(): Sheaf['planes'] {
    return this.sheaf.planes;
  }

  /** @param face the normal that tells the sides apart, in the prop's own space */
  inFront(k: number, place: Vector, n: Vector, face: Vector): boolean {
    return !this.at.eyeAxes || dot(this.at.normal(face), this.at.towards(k, place, unit(this.at.normal(n)))) >= 0;
  }

  put(k: number, position: Vector, place: Vector, n: Vector, front: boolean): void {
    const { at, sheaf } = this;
    place.forEach((c, lane) => (this.world[lane]![k] = c));
    const outwards = unit(at.normal(n));
    const to = at.towards(k, place, outwards);
    // Seen from behind, a surface's normals are turned towards the eye.
    const side = front ? 1 : -1;
    const normal = scaled(outwards, side);
    sheaf.put('worldPosition', k, ...at.point(position));
    sheaf.put('objectNormal', k, ...scaled(n, side));
    sheaf.put('normal', k, ...normal);
    sheaf.put('viewNormal', k, ...at.inEye(normal));
    sheaf.put('view', k, ...unit(to));
    sheaf.put('facing', k, front ? 1 : 0);
    const projection = this.stand.eye?.projection;
    if (!projection) return;
    const [x, y, depth] = at.inEye(to);
    sheaf.put('eyeDepth', k, depth);
    // From the eye to the point, in the eye's space, is what `to` is not.
    const across = (scale: number, v: number, shift: number) => ((-v * scale) / depth - shift + 1) / 2;
    sheaf.put('screen', k, across(projection[0]!, x, projection[8]!), across(projection[5]!, y, projection[9]!));
  }
}

/** One of the points, many times over: for a value over many moments. */
export function repeated(points: RestPoints, index: number, count: number): RestPoints {
  const many = (planes: Planes) => planes.map((p) => new Float32Array(count).fill(p[index]!));
  const { position, objectNormal, faceNormal, uv, uv1, vertexColour, slopes, edges } = points;
  return {
    count,
    ...(edges ? { edges: many(edges) } : {}),
    ...{ position: many(position), objectNormal: many(objectNormal), faceNormal: many(faceNormal) },
    ...{ uv: many(uv), uv1: many(uv1), vertexColour: many(vertexColour) },
    slopes: Object.fromEntries(Object.entries(slopes).map(([leaf, planes]) => [leaf, many(planes)])),
  };
}
