/** Places at which a trigger is fired, told apart by letters. */
import type { Firing, Place } from '../../../core/effect/triggers.js';

const LETTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ';
const same = (a: Place, b: Place) => a.every((v, k) => Math.abs(v - b[k]!) < 1e-6);

/** The places of firings, each once, in the order of the firings. */
export function placesOf(firings: readonly Firing[]): Place[] {
  const places: Place[] = [];
  for (const { place } of firings) if (place && !places.some((p) => same(p, place))) places.push(place);
  return places;
}

/** The letter of a place; empty for a firing of the whole surface. After Z there are no more. */
export function placeLetter(firings: readonly Firing[], place: Place | null): string {
  return place ? (LETTERS[placesOf(firings).findIndex((p) => same(p, place))] ?? '…') : '';
}
