/** Optics where the camera is: those of the stage, and within the boxes of its zones others, blended in at their edges. */
import { NO_GRADE, blendedGrade, type Grade } from '../optics/grade.js';
import type { Vec3 } from './edits.js';
import { standingAt, turnedBy } from './placing.js';
import type { Optics, Stage } from './stage.js';

export type Zone = Stage['zones'][number];

/** How far a point is inside a zone: 0 outside, 1 from `blend` metres within its faces on, evenly between but soft at both ends. */
export function within({ place, turn, size, blend }: Zone, point: Vec3): number {
  const [x, y, z, w] = turn;
  const local = turnedBy([-x, -y, -z, w], point.map((v, k) => v - place[k]!) as Vec3);
  const deep = Math.min(...local.map((v, k) => size[k]! / 2 - Math.abs(v)));
  if (deep <= 0) return 0;
  const t = blend > 0 ? Math.min(1, deep / blend) : 1;
  return t * t * (3 - 2 * t);
}

/** The twelve sides of a zone's box, each as points along it: so many that one that passes the eye is seen as far as it is before it. */
export function sidesOfZone(zone: Pick<Zone, 'place' | 'turn' | 'size'>, points = 13): Vec3[][] {
  const { size } = zone;
  return [0, 1, 2].flatMap((axis) =>
    [0, 1, 2, 3].map((corner) =>
      Array.from({ length: points }, (_, k) => {
        const local: Vec3 = [0, 0, 0];
        local[axis] = (k / (points - 1) - 0.5) * size[axis]!;
        local[(axis + 1) % 3] = (corner % 2 === 0 ? -0.5 : 0.5) * size[(axis + 1) % 3]!;
        local[(axis + 2) % 3] = (corner < 2 ? -0.5 : 0.5) * size[(axis + 2) % 3]!;
        return standingAt(zone, local);
      }),
    ),
  );
}

const plain = ({ slope, offset, power, saturation }: Grade): NonNullable<Optics['grade']> => ({
  slope: [...slope],
  offset: [...offset],
  power: [...power],
  saturation,
});

const mix = (a: number, b: number, share: number): number => a + (b - a) * share;

/** One toward another. Exposure goes by stops; bloom that is off counts as none of it. */
export function blended(from: Optics, to: Optics, share: number): Optics {
  if (share <= 0) return from;
  if (share >= 1) return to;
  const amount = ({ bloom }: Optics) => (bloom.on ? bloom.intensity : 0);
  const number = (key: 'threshold' | 'knee' | 'spread') => mix(from.bloom[key], to.bloom[key], share);
  return {
    exposure: mix(from.exposure, to.exposure, share),
    bloom: {
      ...from.bloom,
      on: from.bloom.on || to.bloom.on,
      ...{ threshold: number('threshold'), knee: number('knee'), spread: number('spread') },
      intensity: mix(amount(from), amount(to), share),
    },
    // A curve is one or the other.
    tone: share < 0.5 ? from.tone : to.tone,
    ...(from.grade || to.grade ? { grade: plain(blendedGrade(from.grade ?? NO_GRADE, to.grade ?? NO_GRADE, share)) } : {}),
  };
}

/** @param eye where it is seen from, on the stage */
export const opticsAt = ({ optics, zones }: Pick<Stage, 'optics' | 'zones'>, eye: Vec3): Optics =>
  zones.reduce((now, zone) => blended(now, zone.optics, within(zone, eye)), optics);
