/** What is known of painting, for whoever shows it: what is painted, with what, and what is under the pointer. */
import { extentOf } from '../core/paint/fills.js';
import type { Canvas, Channel, Spread } from '../core/paint/paint.js';
import type { Brush } from '../core/paint/stroke.js';
import type { Vec3 } from '../core/scene/edits.js';
import type { Prop } from '../core/scene/stage.js';
import type { PaintViewName } from '../render/paintView.js';

/** What a press on the mesh does. */
export const PAINT_TOOLS = ['brush', 'line', 'pick'] as const;
export type PaintTool = (typeof PAINT_TOOLS)[number];

export interface Ramp {
  readonly axis: 0 | 1 | 2;
  readonly from: number;
  readonly to: number;
}

export interface PaintingState {
  /** The prop that is painted; null while none is. */
  readonly prop: string | null;
  readonly channel: Channel;
  readonly view: PaintViewName;
  readonly tool: PaintTool;
  readonly brush: Brush;
  /** Every stroke is made on the other side of the prop's own middle too, across x. */
  readonly mirrored: boolean;
  /** What is under the pointer: how many vertices the brush reaches, and the value there. */
  readonly under: { readonly count: number; readonly value: number } | null;
  readonly picked: readonly number[];
  /** The first end of a ramp between two points, in the prop's own space. */
  readonly from: Vec3 | null;
  readonly vertices: number;
  readonly spread: Spread | null;
  /** The ends of the prop along x, y and z, metres of its own. */
  readonly extent: readonly (readonly [number, number])[];
  /** Along which axis a fill goes, from where it is 0 to where it is 1: metres of the prop's own. */
  readonly ramp: Ramp;
  /** What takes long just now. */
  readonly busy: string | null;
  /** A mesh that is being made ready for the brush, and how far that is, 0 to 1. */
  readonly preparing: { readonly prop: string; readonly share: number } | null;
}

/** The brush as it is at first: it adds all there is, softly. */
const FIRST_BRUSH: Brush = { kind: 'add', value: 1, radius: 0.3, strength: 0.6, falloff: 0.5 };

export const RESTING: PaintingState = {
  ...{ prop: null, channel: 0, view: 'grey', tool: 'brush', brush: FIRST_BRUSH, mirrored: false },
  ...{ under: null, picked: [], from: null, vertices: 0, spread: null, extent: [], busy: null, preparing: null },
  ramp: { axis: 1, from: 0, to: 1 },
};

/** As it is when a prop has been taken to be painted; how it is looked at and what the brush does stay. */
export function beginningOf(was: PaintingState, { id, scale }: Prop, canvas: Canvas): PaintingState {
  const extent = ([0, 1, 2] as const).map((axis) => extentOf(canvas, axis));
  const lengths = extent.map(([low, high]) => high - low);
  const size = Math.max(...lengths.map((length, k) => length * Math.abs(scale[k]!)));
  // Along what is longest of it.
  const axis = Math.max(0, lengths.indexOf(Math.max(...lengths))) as 0 | 1 | 2;
  return {
    ...{ ...was, prop: id, vertices: canvas.vertices, extent, picked: [], from: null, under: null },
    ramp: rampTo({ ramp: was.ramp, extent }, { axis }),
    // As large as suits what is painted.
    brush: { ...was.brush, radius: Number((size * 0.1 || 0.1).toPrecision(2)) },
  };
}

/** What a fill goes along; another axis is gone along from end to end. */
export function rampTo({ ramp, extent }: Pick<PaintingState, 'ramp' | 'extent'>, to: Partial<Ramp>): Ramp {
  const [low, high] = (to.axis === undefined ? undefined : extent[to.axis]) ?? [ramp.from, ramp.to];
  return { ...ramp, from: low, to: high, ...to };
}

/** @param radius of the brush, metres */
export const reachedNone = (radius: number): string =>
  `The stroke reached no vertex: none lies within ${(radius * 100).toFixed(1)} cm of it. Make the brush wider, or subdivide the mesh.`;
