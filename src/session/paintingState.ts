/** What is known of painting, for whoever shows it: what is painted, with what, and what is under the pointer. */
import type { Channel, Spread } from '../core/paint/paint.js';
import type { Brush } from '../core/paint/stroke.js';
import type { Vec3 } from '../core/scene/edits.js';
import type { PaintViewName } from '../render/paintView.js';

/** What a press on the mesh does. */
export const PAINT_TOOLS = ['brush', 'line', 'pick'] as const;
export type PaintTool = (typeof PAINT_TOOLS)[number];

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
  /** What takes long just now. */
  readonly busy: string | null;
}

/** The brush as it is at first: it adds all there is, softly. */
const FIRST_BRUSH: Brush = { kind: 'add', value: 1, radius: 0.3, strength: 0.6, falloff: 0.5 };

export const RESTING: PaintingState = {
  ...{ prop: null, channel: 0, view: 'grey', tool: 'brush', brush: FIRST_BRUSH, mirrored: false },
  ...{ under: null, picked: [], from: null, vertices: 0, spread: null, extent: [], busy: null },
};
