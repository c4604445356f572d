/** Paint that ships with the stages: for each file, whose mesh it is, and what is on it. */
import { alongAxis, smoothed } from '../../src/core/paint/fills.js';
import { blank, withChannel, type Canvas, type Paint } from '../../src/core/paint/paint.js';

export interface MadePaint {
  /** The set that it is of. */
  readonly mesh: string;
  readonly paint: (canvas: Canvas) => Paint;
}

/** Red: 0 where a fin is hinged, 1 at its tip; even along its root, so that it bends nowhere at once. Nothing else is painted. */
function fin(canvas: Canvas): Paint {
  const along = alongAxis(canvas, 2, 0.12, 0.68).map((t) => t * t * (3 - 2 * t) * (0.4 + 0.6 * t));
  return withChannel(blank(canvas.vertices), 0, smoothed(canvas, along, 3));
}

export const PAINTS: Readonly<Record<string, MadePaint>> = { 'ray-fin.png': { mesh: 'ray-fin', paint: fin } };
