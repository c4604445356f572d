/** Solids put together out of pieces: each of one surface, at its place, with its uv in metres. */
import {
  BoxGeometry,
  BufferAttribute,
  BufferGeometry,
  CatmullRomCurve3,
  CurvePath,
  CylinderGeometry,
  Euler,
  LatheGeometry,
  LineCurve3,
  Matrix4,
  QuadraticBezierCurve3,
  Quaternion,
  TubeGeometry,
  Vector2,
  Vector3,
  type Curve,
} from 'three';
import { RoundedBoxGeometry } from 'three/examples/jsm/geometries/RoundedBoxGeometry.js';

export type Triple = readonly [number, number, number];

/** Where a piece stands: metres, degrees about x, y and z, and how large it is. */
export interface Standing {
  readonly at?: Triple;
  readonly turn?: Triple;
  readonly scale?: Triple | number;
  /** What its colour is multiplied with. */
  readonly tint?: number | Triple;
}

export interface Piece {
  readonly surface: string;
  readonly geometry: BufferGeometry;
  readonly tint: Triple;
}

export function matrixOf({ at = [0, 0, 0], turn = [0, 0, 0], scale = 1 }: Standing): Matrix4 {
  const angles = turn.map((d) => (d * Math.PI) / 180) as [number, number, number];
  const size = typeof scale === 'number' ? ([scale, scale, scale] as const) : scale;
  return new Matrix4().compose(
    new Vector3(...at),
    new Quaternion().setFromEuler(new Euler(...angles)),
    new Vector3(...size),
  );
}

/** Turns a geometry's triangles round where a mirror has turned them. */
function unmirrored(geometry: BufferGeometry, matrix: Matrix4): BufferGeometry {
  geometry.applyMatrix4(matrix);
  if (matrix.determinant() > 0) return geometry;
  const index = geometry.getIndex()!;
  for (let k = 0; k < index.count; k += 3) {
    const b = index.getX(k + 1);
    index.setX(k + 1, index.getX(k + 2));
    index.setX(k + 2, b);
  }
  return geometry;
}

/** The uv of a box about it: seen along the axis that its normal follows most, in metres. */
function boxUv(geometry: BufferGeometry): void {
  const [p, n] = [geometry.getAttribute('position'), geometry.getAttribute('normal')];
  const uv = new Float32Array(p.count * 2);
  for (let k = 0; k < p.count; k++) {
    const [x, y, z] = [Math.abs(n.getX(k)), Math.abs(n.getY(k)), Math.abs(n.getZ(k))];
    const flat = y >= x && y >= z;
    uv[2 * k] = flat || z >= x ? p.getX(k) : p.getZ(k);
    uv[2 * k + 1] = flat ? p.getZ(k) : p.getY(k);
  }
  geometry.setAttribute('uv', new BufferAttribute(uv, 2));
}

export class Shape {
  readonly pieces: Piece[] = [];

  /** @param own keeps the uv that the geometry has */
  add(surface: string, geometry: BufferGeometry, standing: Standing = {}, own = false): this {
    if (!geometry.getIndex()) {
      const n = geometry.getAttribute('position').count;
      geometry.setIndex(Array.from({ length: n }, (_, k) => k));
    }
    if (!geometry.getAttribute('normal')) geometry.computeVertexNormals();
    unmirrored(geometry, matrixOf(standing));
    if (!own) boxUv(geometry);
    for (const name of Object.keys(geometry.attributes))
      if (!['position', 'normal', 'uv', 'paint'].includes(name)) geometry.deleteAttribute(name);
    geometry.clearGroups();
    const { tint = 1 } = standing;
    this.pieces.push({ surface, geometry, tint: typeof tint === 'number' ? [tint, tint, tint] : tint });
    return this;
  }

  /** All of another shape, moved. */
  put(other: Shape, standing: Standing = {}): this {
    const { tint = 1 } = standing;
    const by = typeof tint === 'number' ? [tint, tint, tint] : tint;
    for (const piece of other.pieces) {
      const geometry = unmirrored(piece.geometry.clone(), matrixOf(standing));
      this.pieces.push({ ...piece, geometry, tint: piece.tint.map((v, k) => v * by[k]!) as unknown as Triple });
    }
    return this;
  }
}

/** A box whose edges are rounded. @param round metres */
export const block = (size: Triple, round = 0.008): BufferGeometry =>
  round > 0 ? new RoundedBoxGeometry(...size, 1, Math.min(round, ...size.map((s) => s / 2.01))) : new BoxGeometry(...size);

/** A round bar along y. */
export const bar = (radius: number, length: number, around = 12, along = 1): BufferGeometry =>
  new CylinderGeometry(radius, radius, length, around, along);

/** A solid turned about y. @param outline radius and height, from below */
export const turned = (outline: readonly (readonly [number, number])[], around = 24): BufferGeometry =>
  new LatheGeometry(
    outline.map(([r, y]) => new Vector2(Math.max(r, 1e-4), y)),
    around,
  );

/** A pipe along a line of points, its corners rounded. */
export function pipe(points: readonly Triple[], radius: number, { around = 10, step = 0.25, bend = 0.12 } = {}): BufferGeometry {
  return new TubeGeometry(new Rounded(points, bend), Math.max(4, Math.round(lengthOf(points) / step)), radius, around, false);
}

const lengthOf = (points: readonly Triple[]): number =>
  points.slice(1).reduce((sum, p, k) => sum + Math.hypot(...p.map((v, j) => v - points[k]![j]!)), 0);


/** Straight runs with round corners between them. */
class Rounded extends CurvePath<Vector3> {
  constructor(points: readonly Triple[], bend: number) {
    super();
    const at = points.map((p) => new Vector3(...p));
    let start = at[0]!;
    for (let k = 1; k < at.length; k++) {
      const here = at[k]!;
      const next = at[k + 1];
      if (!next) {
        this.add(new LineCurve3(start, here));
        break;
      }
      const room = Math.min(bend, here.distanceTo(at[k - 1]!) / 2, here.distanceTo(next) / 2);
      const before = here.clone().lerp(at[k - 1]!, room / here.distanceTo(at[k - 1]!));
      const after = here.clone().lerp(next, room / here.distanceTo(next));
      this.add(new LineCurve3(start, before));
      this.add(new QuadraticBezierCurve3(before, here, after));
      start = after;
    }
  }
}

/** A soft line through points: a cable that sags, a stalk. */
export const cable = (points: readonly Triple[], radius: number, { around = 6, along = 24 } = {}): BufferGeometry =>
  new TubeGeometry(new CatmullRomCurve3(points.map((p) => new Vector3(...p))) as Curve<Vector3>, along, radius, around, false);

/** A sheet over a grid. @param place of the point in column i and row j */
export function grid(columns: number, rows: number, place: (i: number, j: number) => Triple): BufferGeometry {
  const geometry = new BufferGeometry();
  const position: number[] = [];
  const index: number[] = [];
  for (let j = 0; j <= rows; j++) for (let i = 0; i <= columns; i++) position.push(...place(i, j));
  const at = (i: number, j: number) => j * (columns + 1) + i;
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++)
      index.push(at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j), at(i + 1, j + 1), at(i, j + 1));
  geometry.setAttribute('position', new BufferAttribute(Float32Array.from(position), 3));
  geometry.setIndex(index);
  geometry.computeVertexNormals();
  return geometry;
}

/** Marks along a side: close together near its ends, where it is rounded, and at most `step` apart between. */
export function marks(length: number, edge: number, step: number): number[] {
  const inner = length - 2 * edge;
  const count = Math.max(1, Math.round(inner / step));
  const half = length / 2;
  const middle = Array.from({ length: count + 1 }, (_, k) => -half + edge + (inner * k) / count);
  return [-half, -half + edge * 0.3, ...middle, half - edge * 0.3, half];
}

/** A plate facing +z whose rim is rounded off: thick metres in its middle, 0 at its rim. */
export function plate(width: number, height: number, thick: number, { edge = 0.02, step = 0.25 } = {}): BufferGeometry {
  const [xs, ys] = [marks(width, edge, step), marks(height, edge, step)];
  const away = (v: number, length: number) => Math.min(1, (length / 2 - Math.abs(v)) / edge);
  return grid(xs.length - 1, ys.length - 1, (i, j) => {
    const d = Math.min(away(xs[i]!, width), away(ys[j]!, height));
    return [xs[i]!, ys[j]!, thick * Math.sqrt(Math.max(0, 1 - (1 - d) ** 2))];
  });
}
