/** A ramp of a picture's colours along a line: as few stops as tell them, where they bend most. */
import { linearOf, oklabOf, type Row } from '../base/oklab.js';

export interface Stop {
  readonly at: number;
  readonly rgb: readonly [number, number, number];
}

/** A difference in OKLab that is hardly seen; common practice, no source: about twice what is just noticed. */
const NEAR = 0.04;

/**
 * @param colours linear Rec.709, evenly from 0 to 1; two at least
 * @param most how many stops there may be
 * @returns stops that a ramp mixed in OKLab comes near the colours with
 */
export function rampOfColours(colours: readonly Row[], most = 8): Stop[] {
  const last = colours.length - 1;
  const labs = colours.map((c) => oklabOf(c));
  const picked = [0, last];
  const off = (k: number): number => {
    const after = picked.findIndex((p) => p >= k);
    const [a, b] = [picked[Math.max(0, after - 1)]!, picked[after]!];
    const share = a === b ? 0 : (k - a) / (b - a);
    return Math.hypot(...labs[k]!.map((v, j) => v - (labs[a]![j]! + (labs[b]![j]! - labs[a]![j]!) * share)));
  };
  while (picked.length < most) {
    const errors = labs.map((_, k) => (picked.includes(k) ? 0 : off(k)));
    const worst = errors.indexOf(Math.max(...errors));
    if (errors[worst]! < NEAR) break;
    picked.push(worst);
    picked.sort((p, q) => p - q);
  }
  return picked.map((k) => ({
    at: Number((k / last).toFixed(4)),
    rgb: linearOf(labs[k]!).map((v) => Number(Math.max(0, v).toFixed(6))) as [number, number, number],
  }));
}
