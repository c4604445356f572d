/** A slow move of the camera through viewpoints of a stage, one after the other. */
import type { Vec3 } from './edits.js';
import type { Stage, Viewpoint } from './stage.js';

export type Seen = Pick<Viewpoint, 'eye' | 'target' | 'fov' | 'lensBend'>;

/** A curve through four values, at a share between the middle two: no corner at any of them (Catmull and Rom 1974). */
const through = ([a, b, c, d]: readonly [number, number, number, number], t: number): number =>
  b + 0.5 * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)));

/**
 * Where the camera is on a stage's move. It is a function of the time alone: it scrubs, and one that closes is after its
 * seconds where it began; one that does not goes back the way it came.
 * @param time seconds; @returns null where the stage has no move, or fewer than two of its viewpoints are there
 */
export function seenOnMove({ move, viewpoints }: Pick<Stage, 'move' | 'viewpoints'>, time: number): Seen | null {
  if (!move) return null;
  const stops = move.viewpoints.flatMap((id) => viewpoints.find((v) => v.id === id) ?? []);
  if (stops.length < 2) return null;
  const legs = move.closed ? stops.length : stops.length - 1;
  const lap = time / move.seconds;
  const share = lap - Math.floor(lap);
  // There and back as a swing, which rests at both ends.
  const along = legs * (move.closed ? share : 0.5 - 0.5 * Math.cos(2 * Math.PI * share));
  const leg = Math.min(legs - 1, Math.floor(along));
  const stop = (k: number): Viewpoint => {
    const n = stops.length;
    return move.closed ? stops[((k % n) + n) % n]! : stops[Math.max(0, Math.min(n - 1, k))]!;
  };
  const four = [leg - 1, leg, leg + 1, leg + 2].map(stop);
  const at = (of: (v: Viewpoint) => number) => through(four.map(of) as [number, number, number, number], along - leg);
  const vector = (of: (v: Viewpoint) => Vec3) => [0, 1, 2].map((axis) => at((v) => of(v)[axis]!)) as Vec3;
  return { eye: vector((v) => v.eye), target: vector((v) => v.target), fov: at((v) => v.fov), lensBend: at((v) => v.lensBend) };
}
