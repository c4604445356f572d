/** The axis that the ruler and all lanes share: what stands left and right of it, and where a time is on it. */
import { useEffect, useRef, useState, type RefObject } from 'react';
import { factorOf, isColour, isWritten, type Cue, type Value } from '../../../core/effect/schema.js';
import { cueAt, numbered, wordsOf } from '../../../core/effect/cues.js';
import { luminance } from '../../../core/optics/tone.js';
import { showReading } from '../../ui/numbers.js';

export const LEFT = 252;
const RIGHT = 152;
/** The same numbers, where the page's styles need them. */
export const COLUMNS = 'grid grid-cols-[252px_minmax(0,1fr)_152px] items-center';

/** The width of the axis, in pixels, as wide as its box leaves it. */
export function useWidth(): [RefObject<HTMLElement | null>, number] {
  const box = useRef<HTMLElement>(null);
  const [width, setWidth] = useState(400);
  useEffect(() => {
    const watcher = new ResizeObserver(([entry]) => setWidth(Math.max(60, entry!.contentRect.width - LEFT - RIGHT)));
    watcher.observe(box.current!);
    return () => watcher.disconnect();
  }, []);
  return [box, width];
}

/** The time that is pointed at, within the span. */
export function timeOf({ clientX, currentTarget }: { clientX: number; currentTarget: Element }, span: number): number {
  const { left, width } = currentTarget.getBoundingClientRect();
  return Math.max(0, Math.min(1, (clientX - left) / width)) * span;
}

/** One number for what a curve draws of a value: its first, or how bright a colour is. */
export function levelOf(value: Value): number {
  if (typeof value === 'number') return value;
  if (Array.isArray(value)) return value[0] ?? 0;
  if (isColour(value)) return luminance(value.rgb) * factorOf(value.intensity, value.unit);
  return value === true ? 1 : 0;
}

/** Where a key's value stands among those of its cue: an option's word at its place. */
export const levelIn = (cue: Cue, value: Value): number => (isWritten(value) ? wordsOf(cue).indexOf(value.text) : levelOf(value));

/** A key's value in words. */
export const valueOf = (value: Value): string => (isWritten(value) ? value.text : showReading(levelOf(value)));

export interface Scale {
  readonly low: number;
  readonly high: number;
}

/** What a cue is between its lowest and highest, a little beyond; never empty. */
export function scaleOf(cue: Cue, span: number): Scale {
  const levels = [...numbered(cue).keys.map((k) => levelOf(k.value)), ...sampled(cue, span, 64).map(([, v]) => v)];
  const [low, high] = [Math.min(...levels), Math.max(...levels)];
  return high - low > 1e-9 ? { low, high } : { low: low - 0.5, high: high + 0.5 };
}

export const sampled = (cue: Cue, span: number, count: number): [number, number][] =>
  Array.from({ length: count + 1 }, (_, k) => [(k / count) * span, levelOf(cueAt(numbered(cue), (k / count) * span))]);

/** The curve of a cue. @param top, height where its highest and lowest stand */
export function pathOf(cue: Cue, { low, high }: Scale, span: number, width: number, top: number, height: number): string {
  const moments = sampled(cue, span, Math.min(240, Math.round(width / 2)));
  const y = (v: number) => top + (1 - (v - low) / (high - low)) * height;
  return moments.map(([t, v], k) => `${k === 0 ? 'M' : 'L'}${((t / span) * width).toFixed(1)} ${y(v).toFixed(1)}`).join('');
}
