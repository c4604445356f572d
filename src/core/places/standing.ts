/** Where a prop stands and from where it is seen: points and directions taken from the one's space to the other's. */
import { LEAVES, type Leaf } from '../ir/leaves.js';
import { widthOf } from '../ir/types.js';

/** Components of a value at many points, a plane a component. */
export type Planes = readonly Float32Array[];

/** Where a prop stands, and from where it is seen. Matrices are of 16 numbers, column by column. */
export interface Stand {
  readonly model: ArrayLike<number>;
  /** The eye's own place and turn; null where every point is looked at from its front. */
  readonly eye: { readonly model: ArrayLike<number>; readonly projection: ArrayLike<number> } | null;
  /** Without an eye each point is looked at from its front: from its normal and this, a point of the unit sphere, together. */
  readonly around?: Planes;
}

export type Vector = [number, number, number];

export const dot = (a: Vector, b: Vector) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const cross = (a: Vector, b: Vector): Vector => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
export const scaled = (a: Vector, s: number): Vector => [a[0] * s, a[1] * s, a[2] * s];
export const plus = (a: Vector, b: Vector): Vector => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
export const minus = (a: Vector, b: Vector): Vector => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export function unit(a: Vector): Vector {
  const size = Math.hypot(...a);
  return size > 0 ? scaled(a, 1 / size) : a;
}
/** How the direction of a vector changes as the vector does. */
export function unitChange(v: Vector, change: Vector): Vector {
  const far = Math.max(Math.hypot(...v), 1e-20);
  const u = scaled(v, 1 / far);
  return scaled(minus(change, scaled(u, dot(u, change))), 1 / far);
}
export const get = (planes: Planes, k: number): Vector => [planes[0]![k]!, planes[1]![k]!, planes[2]![k]!];

/** The axes of a matrix and its origin. */
export const columns = (m: ArrayLike<number>): [Vector, Vector, Vector, Vector] =>
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
export class Sheaf {
  readonly planes: Partial<Record<Leaf, Float32Array[]>> = {};
  constructor(private readonly count: number) {}
  put(leaf: Leaf, k: number, ...values: readonly number[]): void {
    const lanes = (this.planes[leaf] ??= Array.from({ length: widthOf(LEAVES[leaf].type) }, () => new Float32Array(this.count)));
    for (let lane = 0; lane < lanes.length; lane++) lanes[lane]![k] = values[lane]!;
  }
}

export class Standing {
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
