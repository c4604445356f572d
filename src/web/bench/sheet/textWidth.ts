/** Pixels that texts take in the faces of the sheet. */
import { useSyncExternalStore } from 'react';

let ruler: CanvasRenderingContext2D | null = null;
const measured = new Map<string, number>();

/** Pixels of a text in a face, as the CSS property `font` names it. */
export function textWidth(text: string, face: string): number {
  const key = `${face}|${text}`;
  const found = measured.get(key);
  if (found !== undefined) return found;
  ruler ??= globalThis.document?.createElement('canvas').getContext('2d') ?? null;
  if (!ruler) return text.length * 6;
  ruler.font = face;
  const { width } = ruler.measureText(text);
  // Until the face has been loaded another one is measured: such widths are not kept.
  if (document.fonts.check(face)) measured.set(key, width);
  return width;
}

let loaded = 0;
const listeners = new Set<() => void>();
globalThis.document?.fonts?.addEventListener('loadingdone', () => {
  loaded++;
  for (const listener of listeners) listener();
});

/** Draws whoever measures texts anew once faces have been loaded: what was measured before was another face. */
export function useFaces(): void {
  useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => loaded,
  );
}

/**
 * A canvas measures faces as wide as they are by themselves; the sheet draws words and numbers narrower (`font-stretch`), by
 * so much as a span of each was found to be.
 */
const SANS_90 = 0.895;
const SANS_92 = 0.915;
const MONO_75 = 0.86;

const sans = (px: number, weight = 400) => `${weight} ${px}px 'Instrument Sans Variable'`;
const MONO = "350 10.5px 'Martian Mono Variable'";

/** Pixels of a strand's name, of an operation's word, of a word and of a number in a chip, of a chip's label, of a range. */
export const nameWidth = (text: string): number => textWidth(text, sans(13, 500)) + 1;
export const operationWidth = (text: string): number => textWidth(text, sans(12)) * SANS_90 + 1;
export const wordWidth = (text: string): number => textWidth(text, sans(12)) * SANS_92;
export const numberWidth = (text: string): number => textWidth(text, MONO) * MONO_75;
export const labelWidth = (text: string): number => textWidth(text, sans(11));
export const rangeWidth = (text: string): number => (textWidth(text, MONO) * MONO_75 * 11) / 10.5;
export const noteWidth = (text: string): number => textWidth(text, sans(12)) + 1;

/** The lines that a text takes in a column of so many pixels, broken between words; a word longer than a line takes several. */
export function linesOf(text: string, column: number, widthOf: (text: string) => number): number {
  const space = widthOf('n n') - widthOf('nn');
  let lines = 1;
  let used = 0;
  for (const word of text.split(/\s+/).filter(Boolean)) {
    const width = widthOf(word);
    if (used > 0 && used + space + width <= column) {
      used += space + width;
      continue;
    }
    if (used > 0) lines++;
    lines += Math.max(0, Math.ceil(width / column) - 1);
    used = width > column ? width % column : width;
  }
  return lines;
}
