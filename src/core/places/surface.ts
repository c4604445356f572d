/**
 * Places of a surface on the CPU, in the words of the shaders (targets/glslPlaces.ts): what an effect reads at points of
 * a mesh that stands somewhere, is seen from somewhere, and may be moved by the effect itself. Pins and spill read here.
 */
import { tangentOf } from '../mesh/slopes.js';
import { slopeAlong } from '../ir/derivative.js';
import { LEAVES, SURFACE_LEAVES, type Leaf } from '../ir/leaves.js';
import { widthOf } from '../ir/types.js';
import type { Picture } from '../base/picture.js';
import type { Program } from '../lower/lower.js';
import { evaluatorOf } from '../targets/evaluate.js';
import type { LeafValues } from '../targets/wasm/runner.js';

/** Components of a value at many points, a plane a component. */
export type Planes = readonly Float32Array[];

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
}

/** Where a prop stands, and from where it is seen. Matrices are of 16 numbers, column by column. */
export interface Stand {
  readonly model: ArrayLike<number>;
  /** The eye's own place and turn; null where every point is looked at from its front. */
  readonly eye: { readonly model: ArrayLike<number>; readonly projection: ArrayLike<number> } | null;
  /** Without an eye each point is looked at from its front: from its normal and this, a point of the unit sphere, together. */
  readonly around?: Planes;
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

type Vector = [number, number, number];

const dot = (a: Vector, b: Vector) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const cross = (a: Vector, b: Vector): Vector => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const scaled = (a: Vector, s: number): Vector => [a[0] * s, a[1] * s, a[2] * s];
const plus = (a: Vector, b: Vector): Vector => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
const minus = (a: Vector, b: Vector): Vector => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
function unit(a: Vector): Vector {
  const size = Math.hypot(...a);
  return size > 0 ? scaled(a, 1 / size) : a;
}
/** How the direction of a vector changes as the vector does. */
function unitChange(v: Vector, change: Vector): Vector {
  const far = Math.max(Math.hypot(...v), 1e-20);
  const u = scaled(v, 1 / far);
  return scaled(minus(change, scaled(u, dot(u, change))), 1 / far);
}
const get = (planes: Planes, k: number): Vector => [planes[0]![k]!, planes[1]![k]!, planes[2]![k]!];

/** The axes of a matrix and its origin. */
const columns = (m: ArrayLike<number>): [Vector, Vector, Vector, Vector] =>
  [0, 4, 8, 12].map((c) => [m[c]!, m[c + 1]!, m[c + 2]!]) as [Vector, Vector, Vector, Vector];

/** What is the same all over a prop: where it stands, and where it is seen from. */
export function standLeaves({ model, eye }: Stand): Partial<Record<Leaf, number[]>> {
  const [modelX, modelY, modelZ, pivot] = columns(model);
  if (!eye) return { pivot, modelX, modelY, modelZ };
  const [eyeRight, eyeUp, eyeBack, place] = columns(eye.model);
  const lens = [eye.projection[0]! / 2, eye.projection[5]! / 2];
  return { pivot, modelX, modelY, modelZ, eyeRight, eyeUp, eyeBack, eye: place, lens };
}

/** Fills planes one point at a time. */
class Sheaf {
  readonly planes: Partial<Record<Leaf, Float32Array[]>> = {};
  constructor(private readonly count: number) {}
  put(leaf: Leaf, k: number, ...values: readonly number[]): void {
    const lanes = (this.planes[leaf] ??= Array.from({ length: widthOf(LEAVES[leaf].type) }, () => new Float32Array(this.count)));
    for (let lane = 0; lane < lanes.length; lane++) lanes[lane]![k] = values[lane]!;
  }
}

class Standing {
  readonly axes: [Vector, Vector, Vector, Vector];
  /** Takes normals from the prop's space to the stage's, up to length: the inverse transposed. */
  private readonly turned: [Vector, Vector, Vector];
  readonly eyeAxes: [Vector, Vector, Vector, Vector] | null;

  constructor(private readonly stand: Stand) {
    const [x, y, z] = (this.axes = columns(stand.model));
    const flip = dot(x, cross(y, z)) < 0 ? -1 : 1;
    this.turned = [scaled(cross(y, z), flip), scaled(cross(z, x), flip), scaled(cross(x, y), flip)];
    this.eyeAxes = stand.eye && columns(stand.eye.model);
  }

  direction(v: Vector): Vector {
    const [x, y, z] = this.axes;
    return plus(plus(scaled(x, v[0]), scaled(y, v[1])), scaled(z, v[2]));
  }
  point(v: Vector): Vector {
    return plus(this.direction(v), this.axes[3]);
  }
  normal(v: Vector): Vector {
    const [x, y, z] = this.turned;
    return plus(plus(scaled(x, v[0]), scaled(y, v[1])), scaled(z, v[2]));
  }
  /** A direction of the stage, in the eye's space; as it is where there is none. */
  inEye(v: Vector): Vector {
    const e = this.eyeAxes;
    return e ? [dot(e[0], v), dot(e[1], v), dot(e[2], v)] : v;
  }
  /** From a point to whoever sees it. */
  towards(k: number, world: Vector, normal: Vector): Vector {
    return this.eyeAxes ? minus(this.eyeAxes[3], world) : plus(normal, get(this.stand.around!, k));
  }
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
  const sheaf = new Sheaf(count);
  const at = new Standing(stand);
  const world: Float32Array[] = [0, 1, 2].map(() => new Float32Array(count));
  const projection = stand.eye?.projection;
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
    const place = at.point(here);
    place.forEach((c, lane) => (world[lane]![k] = c));
    const outwards = unit(at.normal(n));
    const to = at.towards(k, place, outwards);
    // Seen from behind, a surface's normals are turned towards the eye.
    const side = !at.eyeAxes || dot(at.normal(face), to) >= 0 ? 1 : -1;
    const normal = scaled(outwards, side);
    sheaf.put('worldPosition', k, ...at.point(position));
    sheaf.put('objectNormal', k, ...scaled(n, side));
    sheaf.put('normal', k, ...normal);
    sheaf.put('viewNormal', k, ...at.inEye(normal));
    sheaf.put('view', k, ...unit(to));
    sheaf.put('facing', k, side > 0 ? 1 : 0);
    if (!projection) continue;
    const [x, y, back] = at.inEye(to);
    const depth = back!;
    sheaf.put('eyeDepth', k, depth);
    // From the eye to the point, in the eye's space, is what `to` is not.
    const across = (scale: number, v: number, shift: number) => ((-v * scale) / depth - shift + 1) / 2;
    sheaf.put('screen', k, across(projection[0]!, x!, projection[8]!), across(projection[5]!, y!, projection[9]!));
  }
  const { position, uv, uv1, vertexColour } = points;
  return { world, leaves: { ...standLeaves(stand), ...sheaf.planes, position, uv, uv1, vertexColour } as LeafValues };
}

/** One of the points, many times over: for a value over many moments. */
export function repeated(points: RestPoints, index: number, count: number): RestPoints {
  const many = (planes: Planes) => planes.map((p) => new Float32Array(count).fill(p[index]!));
  const { position, objectNormal, faceNormal, uv, uv1, vertexColour, slopes } = points;
  return {
    count,
    ...{ position: many(position), objectNormal: many(objectNormal), faceNormal: many(faceNormal) },
    ...{ uv: many(uv), uv1: many(uv1), vertexColour: many(vertexColour) },
    slopes: Object.fromEntries(Object.entries(slopes).map(([leaf, planes]) => [leaf, many(planes)])),
  };
}
