/** The colours that were chosen last, the latest first: this browser remembers them. */
import type { Rgb } from '../../core/optics/tone.js';
import { hexOf } from './oklch.js';

const KEY = 'wispen-recent-colours';
const MOST = 8;

export function recentColours(): readonly string[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEY) ?? '[]');
    return Array.isArray(kept)
      ? kept.filter((c): c is string => typeof c === 'string' && /^#[0-9a-f]{6}$/.test(c)).slice(0, MOST)
      : [];
  } catch {
    return [];
  }
}

export function rememberColour(rgb: Rgb): void {
  const hex = hexOf(rgb);
  try {
    localStorage.setItem(KEY, JSON.stringify([hex, ...recentColours().filter((c) => c !== hex)].slice(0, MOST)));
  } catch {
    // A browser that keeps nothing has none.
  }
}
