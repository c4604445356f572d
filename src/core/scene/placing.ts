/** Where props stand: how much room they take, a free place for one more, and turns as people read them. */
import type { Prop, PropSource, Stage } from './stage.js';
import type { Vec3 } from './edits.js';

/** Room along the stage's axes, in metres. */
export interface Box {
  readonly low: Vec3;
  readonly high: Vec3;
}
type Standing = Pick<Prop, 'source' | 'place' | 'turn' | 'scale'>;

/** The room that a primitive takes about its own place, unturned; null for a mesh, whose size is not known here. */
function roomOf(source: PropSource): Box | null {
  if (!('primitive' in source)) return null;
  const half = (x: number, y: number, z: number): Box => ({ low: [-x, -y, -z], high: [x, y, z] });
  switch (source.primitive) {
    case 'sphere':
      return half(source.radius, source.radius, source.radius);
    case 'box':
      return half(source.size[0] / 2, source.size[1] / 2, source.size[2] / 2);
    case 'plane':
      return half(source.size[0] / 2, source.size[1] / 2, 0);
    case 'tube':
      return half(source.radius, Math.max(source.length / 2, source.radius), source.radius);
    case 'ring':
      return half(source.radius + source.thickness / 2, source.radius + source.thickness / 2, source.thickness / 2);
    case 'dome':
      return { low: [-source.radius, 0, -source.radius], high: [source.radius, source.radius, source.radius] };
    case 'cylinder':
      return half(source.radius, source.length / 2, source.radius);
  }
}

/** A prop of no size is none: so far from 0 are its scales. */
export const LEAST_SCALE = 0.001;

/** A scale as a prop may have it: below 0 it is the other hand of what it is above. */
export const someScale = (v: number): number => (v < 0 ? -1 : 1) * Math.max(LEAST_SCALE, Math.abs(v));

/** A vector turned by a quaternion (x, y, z, w) of length 1. */
export function turnedBy([x, y, z, w]: readonly number[], [a, b, c]: Vec3): Vec3 {
  // v + 2 w (q x v) + 2 q x (q x v)
  const cross = (p: Vec3, q: Vec3): Vec3 => [p[1] * q[2] - p[2] * q[1], p[2] * q[0] - p[0] * q[2], p[0] * q[1] - p[1] * q[0]];
  const axis: Vec3 = [x!, y!, z!];
  const once = cross(axis, [a, b, c]);
  const twice = cross(axis, once);
  return [a + 2 * (w! * once[0] + twice[0]), b + 2 * (w! * once[1] + twice[1]), c + 2 * (w! * once[2] + twice[2])];
}

/** Where a point of a prop, or of what else stands somewhere, is on the stage. @param local in its own space, before its scale */
export const standingAt = (
  { place, turn, scale = [1, 1, 1] }: Pick<Standing, 'place' | 'turn'> & Partial<Pick<Standing, 'scale'>>,
  local: Vec3,
): Vec3 => turnedBy(turn, local.map((v, axis) => v * scale[axis]!) as Vec3).map((v, axis) => v + place[axis]!) as Vec3;

/** Room that is told about a place, at that place. */
export const roomAt = ({ low, high }: Box, place: Vec3): Box => ({
  low: low.map((v, axis) => v + place[axis]!) as Vec3,
  high: high.map((v, axis) => v + place[axis]!) as Vec3,
});

/** The room that a prop takes on the stage. @param room of a mesh about its own place, where it is known; half a metre each way else */
export function boxOf({ source, place, turn, scale }: Standing, room: Box | null = roomOf(source)): Box {
  const { low, high } = room ?? { low: [-0.5, -0.5, -0.5], high: [0.5, 0.5, 0.5] };
  const corners = Array.from({ length: 8 }, (_, k): Vec3 => {
    const corner = [0, 1, 2].map((axis) => ((k >> axis) & 1 ? high[axis]! : low[axis]!)) as Vec3;
    return standingAt({ place, turn, scale }, corner);
  });
  const along = (pick: (...of: number[]) => number): Vec3 =>
    [0, 1, 2].map((axis) => pick(...corners.map((c) => c[axis]!))) as Vec3;
  return { low: along(Math.min), high: along(Math.max) };
}

const meet = (a: Box, b: Box, gap: number): boolean =>
  [0, 1, 2].every((axis) => a.low[axis]! < b.high[axis]! + gap && b.low[axis]! < a.high[axis]! + gap);

/** Room that is left between a new prop and the others, in metres. */
const GAP = 0.08;
/** Steps that are tried away from where it is wanted. */
const STEPS = 12;

/** How far above the ground what is flat lies: in the ground it would be drawn through it. Metres. */
const HAIR = 0.01;

/** The height of the place of what stands on the ground. @param own the room that it takes about its place */
export const groundHeight = ({ low, high }: Box): number => (high[1] - low[1] < HAIR ? HAIR : 0) - low[1];

const rounded = (value: number, parts: number): number => Math.round(value * parts) / parts;

export interface Wanted {
  /** It is to stand about here. */
  readonly near: Vec3;
  /** How high its place is, in metres; on the ground where it is not given. */
  readonly height?: number;
  /** Along the picture to the right, on the ground; of length 1. */
  readonly right?: Vec3;
  /** Whether the picture shows a place. */
  readonly sees?: (place: Vec3) => boolean;
  /** What else is in the way. */
  readonly obstacles?: readonly Box[];
  /** The room that a prop takes, where more is known of it than its primitive says. */
  readonly roomFor?: (prop: Prop) => Box | null;
}

/**
 * A place for one more prop: on the ground, beside what stands there already, in the picture where there is room in it.
 * It is looked for to both sides of where it is wanted, then before and behind, ever farther away.
 * @param own the room that it takes about its own place, as it is turned and scaled
 */
export function freePlace(stage: Pick<Stage, 'props'>, own: Box, wanted: Wanted): Vec3 {
  const { near, height, right = [1, 0, 0], sees = () => true, roomFor = () => null, obstacles = [] } = wanted;
  // What is locked is what the others stand in.
  const standing = stage.props.filter((p) => p.visible && !p.locked);
  const others = [...obstacles, ...standing.map((p) => roomFor(p) ?? boxOf(p))];
  const step = Math.max(own.high[0] - own.low[0], own.high[2] - own.low[2]) / 2 + GAP;
  const forth: Vec3 = [-right[2], 0, right[0]];
  const at = (across: number, along: number): Vec3 => [
    near[0] + step * (across * right[0] + along * forth[0]),
    height ?? groundHeight(own),
    near[2] + step * (across * right[2] + along * forth[2]),
  ];
  let first: Vec3 | null = null;
  for (const [across, along] of outwards()) {
    const place = at(across, along).map((v, axis) => rounded(v, axis === 1 ? 1000 : 100)) as Vec3;
    const box = roomAt(own, place);
    if (others.some((other) => meet(box, other, GAP))) continue;
    // Whether it is seen is asked last: it costs a ray.
    if (sees(place)) return place;
    first ??= place;
  }
  return first ?? at(STEPS + 1, 0);
}

/** Steps across and along, from nothing outwards; to the sides before to and fro. */
function* outwards(): Iterable<readonly [number, number]> {
  yield [0, 0];
  // Up to two whole props aside: before a thin one there is room sooner, and it would hide it.
  for (const aside of [1, 2, 3, 4])
    yield* [
      [aside, 0],
      [-aside, 0],
    ] as const;
  for (let far = 1; far <= STEPS; far++)
    for (let along = 0; along <= far; along++) {
      yield* [
        [far, along],
        [-far, along],
        [far, -along],
        [-far, -along],
        [along, far],
        [-along, far],
      ] as const;
    }
}

const RAD = Math.PI / 180;

/** A turn in degrees about x, then y, then z, each about the axes as they are turned by then. @returns a quaternion x, y, z, w */
export function turnOf([x, y, z]: Vec3): [number, number, number, number] {
  const half = [x, y, z].map((d) => (d * RAD) / 2);
  const [cx, cy, cz] = half.map(Math.cos) as Vec3;
  const [sx, sy, sz] = half.map(Math.sin) as Vec3;
  return [sx * cy * cz + cx * sy * sz, cx * sy * cz - sx * cy * sz, cx * cy * sz + sx * sy * cz, cx * cy * cz - sx * sy * sz];
}

/** The degrees that `turnOf` makes a turn of. Where y is 90 or -90 x and z turn the same way, and z is 0. */
export function degreesOf([x, y, z, w]: readonly number[]): Vec3 {
  const [qx, qy, qz, qw] = [x!, y!, z!, w!];
  const m13 = 2 * (qx * qz + qw * qy);
  const about = Math.asin(Math.max(-1, Math.min(1, m13)));
  const upright = Math.abs(m13) > 0.9999999;
  const first = upright
    ? Math.atan2(2 * (qy * qz + qw * qx), 1 - 2 * (qx * qx + qz * qz))
    : Math.atan2(-2 * (qy * qz - qw * qx), 1 - 2 * (qx * qx + qy * qy));
  const last = upright ? 0 : Math.atan2(-2 * (qx * qy - qw * qz), 1 - 2 * (qy * qy + qz * qz));
  return [first, about, last].map((r) => Math.round((r / RAD) * 1000) / 1000 + 0) as Vec3;
}
