/** The places an effect may read, with the rate at which each changes. */
import type { Type } from './shape.js';

/** How often a value must be computed anew; later is costlier. */
export const RATES = ['once', 'frame', 'vertex', 'pixel'] as const;
export type Rate = (typeof RATES)[number];

export const costlier = (a: Rate, b: Rate): Rate => (RATES.indexOf(a) >= RATES.indexOf(b) ? a : b);

interface LeafRecord {
  readonly type: Type;
  readonly rate: Rate;
  /** The value of a point that does not say (`wispen eval`). */
  readonly fallback: readonly number[];
  readonly low: number;
  readonly high: number;
  /** A direction: its components are those of a unit vector. */
  readonly unit?: true;
}

const leaf = (
  type: Type,
  rate: Rate,
  fallback: readonly number[],
  [low, high]: readonly [number, number],
  more: { unit?: true } = {},
): LeafRecord => ({ type, rate, fallback, low, high, ...more });
const direction = (fallback: readonly number[]) => leaf('f3', 'vertex', fallback, [-1, 1], { unit: true });

/** Bounds are over a stage of ordinary size; they feed the `can be` ranges. */
const PLACES = {
  /** Seconds since the loop began, already taken modulo the loop. */
  time: leaf('f1', 'frame', [0], [0, 60]),
  /** Seconds that `time` has not: what a float leaves of it. Programs that loop do not ask. */
  timeRest: leaf('f1', 'frame', [0], [-1, 1]),
  /** The loop's length in seconds; 0 for an effect that runs on. */
  loop: leaf('f1', 'once', [0], [0, 3600]),
  /** Metres, in the prop's own space, before displacement. */
  position: leaf('f3', 'vertex', [0, 0, 0], [-2, 2]),
  /** Metres, on the stage, before displacement. */
  worldPosition: leaf('f3', 'vertex', [0, 0, 0], [-10, 10]),
  /** On the stage, turned towards the eye on back faces. */
  normal: direction([0, 0, 1]),
  /** In the prop's own space. */
  objectNormal: direction([0, 0, 1]),
  /** In the eye's space. */
  viewNormal: direction([0, 0, 1]),
  /** From the surface to the eye, on the stage. */
  view: direction([0, 0, 1]),
  /** glTF TEXCOORD_0 with v up. */
  uv: leaf('f2', 'vertex', [0, 0], [0, 1]),
  /** glTF TEXCOORD_1 with v up. */
  uv1: leaf('f2', 'vertex', [0, 0], [0, 1]),
  /** glTF COLOR_0; 1 where the mesh has none. */
  vertexColour: leaf('f4', 'vertex', [1, 1, 1, 1], [0, 1]),
  /** 1 on front faces, 0 on back faces. */
  facing: leaf('f1', 'pixel', [1], [0, 1]),
  /** 0..1 over the picture, the origin at the bottom left. */
  screen: leaf('f2', 'pixel', [0.5, 0.5], [0, 1]),
  /** Metres along the view axis, positive away from the eye. */
  eyeDepth: leaf('f1', 'vertex', [5], [0.1, 50]),
  /** Metres by which the opaque scene lies behind this point, along the view axis; the far plane where there is nothing. */
  depthGap: leaf('f1', 'pixel', [50], [-50, 50]),
  /** The same along the ray from the eye. */
  depthGapRay: leaf('f1', 'pixel', [50], [-100, 100]),
  /** The same straight down: the pivot's height less that of the point seen behind. */
  depthGapDown: leaf('f1', 'pixel', [50], [-50, 50]),
  /** Scene-linear colour of the opaque scene behind this point. */
  behind: leaf('f3', 'pixel', [0, 0, 0], [0, 1000]),
  /** Metres, on the stage: the opaque point behind this one. */
  behindPosition: leaf('f3', 'pixel', [0, 0, -50], [-50, 50]),
  /** One number a prop, 0..1. */
  propRandom: leaf('f1', 'frame', [0], [0, 1]),
  /** Metres, on the stage: where the prop stands. */
  pivot: leaf('f3', 'vertex', [0, 0, 0], [-10, 10]),
  /** 0 when a mote is born, 1 when it ends. */
  moteAge: leaf('f1', 'vertex', [0], [0, 1]),
  /** One number a mote, 0..1. */
  moteRandom: leaf('f1', 'vertex', [0], [0, 1]),
  /** Which mote: a whole number. */
  moteIndex: leaf('f1', 'vertex', [0], [0, 1e6]),
  /** Distance to the nearest edge of a triangle, in pixels and in metres; `Quad`: without the diagonals of quads. */
  edgePixels: leaf('f1', 'pixel', [1000], [0, 4000]),
  edgeMetres: leaf('f1', 'pixel', [1], [0, 10]),
  edgePixelsQuad: leaf('f1', 'pixel', [1000], [0, 4000]),
  edgeMetresQuad: leaf('f1', 'pixel', [1], [0, 10]),
  /** Where the prop's own axes point on the stage, one metre of each. */
  modelX: leaf('f3', 'vertex', [1, 0, 0], [-10, 10]),
  modelY: leaf('f3', 'vertex', [0, 1, 0], [-10, 10]),
  modelZ: leaf('f3', 'vertex', [0, 0, 1], [-10, 10]),
  /** Where the eye's right, its up and its back point on the stage. */
  eyeRight: direction([1, 0, 0]),
  eyeUp: direction([0, 1, 0]),
  eyeBack: direction([0, 0, 1]),
  /** Metres, on the stage: where the eye is. */
  eye: leaf('f3', 'vertex', [0, 0, 5], [-50, 50]),
  /** How much of the picture's width and height one metre fills, one metre away. */
  lens: leaf('f2', 'pixel', [1, 1], [0.1, 10]),
} as const satisfies Record<string, LeafRecord>;

/** Places whose change from one pixel to the next is a place too: `uvDx` to the right, `uvDy` upwards. */
export const CHANGING = [
  ...(['position', 'worldPosition', 'normal', 'objectNormal', 'viewNormal', 'view', 'uv', 'uv1', 'vertexColour'] as const),
  ...(['screen', 'eyeDepth', 'depthGap', 'depthGapRay', 'depthGapDown', 'behind', 'behindPosition'] as const),
] as const satisfies readonly (keyof typeof PLACES)[];
type Changing = (typeof CHANGING)[number];

/**
 * Those that vertices have: their change along the surface is a place too, a metre in the prop's own space to either
 * side: `uvDt` along its tangent, `uvDb` along the bitangent. `cross(tangent, bitangent)` is the normal.
 */
const ALONG = [
  ...(['position', 'worldPosition', 'normal', 'objectNormal', 'viewNormal', 'view', 'uv', 'uv1'] as const),
  ...(['vertexColour', 'eyeDepth'] as const),
] as const satisfies readonly Changing[];
type Along = (typeof ALONG)[number];

/** A direction in which places change: to the right and upwards on the screen, along tangent and bitangent on the surface. */
export type Axis = 'x' | 'y' | 't' | 'b';

export type Leaf = keyof typeof PLACES | `${Changing}D${'x' | 'y'}` | `${Along}D${'t' | 'b'}`;

/** Absent changes are 0: edges are hard there. */
const changeOf = (name: Changing): LeafRecord => {
  const { type, rate } = PLACES[name];
  return leaf(type, rate, Array<number>(Number(type[1])).fill(0), [-0.1, 0.1]);
};
const changesOf = <N extends Changing, A extends Axis>(names: readonly N[], axes: readonly A[]) =>
  Object.fromEntries(names.flatMap((name) => axes.map((a) => [`${name}D${a}`, changeOf(name)]))) as Record<
    `${N}D${A}`,
    LeafRecord
  >;
export const LEAVES: Readonly<Record<Leaf, LeafRecord>> = {
  ...PLACES,
  ...changesOf(CHANGING, ['x', 'y']),
  ...changesOf(ALONG, ['t', 'b']),
};
export const LEAF_NAMES = Object.keys(LEAVES) as Leaf[];

/** The place whose change a leaf is, and the direction; null for a place itself. */
export function changeIn(name: Leaf): { readonly of: Changing; readonly along: Axis } | null {
  const of = CHANGING.find((c) => name.length === c.length + 2 && name.startsWith(`${c}D`));
  return of ? { of, along: name.at(-1) as Axis } : null;
}

/** One value for a whole frame of a prop. */
export const FRAME_LEAVES: readonly Leaf[] = LEAF_NAMES.filter((l) => LEAVES[l].rate === 'once' || LEAVES[l].rate === 'frame');
/** What may differ from point to point of a surface. */
export const SURFACE_LEAVES: readonly Leaf[] = LEAF_NAMES.filter((l) => !FRAME_LEAVES.includes(l));

/** What `time` has not where it is a number: floats that were made of one before have lost it. */
export const restOf = (time: readonly (number | Float32Array)[] | undefined): readonly number[] =>
  typeof time?.[0] === 'number' && Number.isFinite(time[0]) ? [time[0] - Math.fround(time[0])] : [0];
