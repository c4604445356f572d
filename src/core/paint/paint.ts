/**
 * Vertex paint: four numbers a vertex, 0 to 1, which effects read as vertex colour. Kept with sixteen bits a channel, as
 * glTF's COLOR_0 may be, so that what is seen, kept and exported is the same number.
 */
import { neighboursOf, weldsOf, type Neighbours, type Welds } from '../mesh/welds.js';

export const CHANNELS = ['r', 'g', 'b', 'a'] as const;
export type Channel = 0 | 1 | 2 | 3;

/** What is painted on: a mesh with what is known of its surface. */
export interface Canvas {
  readonly vertices: number;
  /** Three numbers a vertex, in the prop's own space. */
  readonly position: ArrayLike<number>;
  readonly normal: ArrayLike<number>;
  /** Three vertices a triangle; null where the vertices follow one another. */
  readonly index: ArrayLike<number> | null;
  readonly welds: Welds;
  readonly neighbours: Neighbours;
}

/** A mesh to be painted. */
export function canvasOf({ position, normal, index }: Pick<Canvas, 'position' | 'normal' | 'index'>): Canvas {
  let [welds, neighbours]: [Welds | null, Neighbours | null] = [null, null];
  return {
    ...{ vertices: position.length / 3, position, normal, index },
    // Most fills ask for neither.
    get welds() {
      return (welds ??= weldsOf(position));
    },
    get neighbours() {
      return (neighbours ??= neighboursOf(index, this.welds));
    },
  };
}

/** Four numbers a vertex. */
export type Paint = Float32Array<ArrayBuffer>;

const STEPS = 65535;

/** To the nearest number that is kept; what is no number becomes 0. */
export const kept = (v: number): number => (v > 0 ? Math.fround(Math.round(Math.min(1, v) * STEPS) / STEPS) : 0);

/** As an unpainted mesh is read: 1 everywhere. @param colour what its file has instead, four numbers a vertex */
export const blank = (vertices: number, colour: ArrayLike<number> | null = null): Paint =>
  colour ? Float32Array.from(colour, kept) : new Float32Array(vertices * 4).fill(1);

export function channelOf(paint: ArrayLike<number>, channel: Channel): Float32Array<ArrayBuffer> {
  return Float32Array.from({ length: paint.length / 4 }, (_, v) => paint[v * 4 + channel]!);
}

/** The paint with one channel in place of what it had. @param values one a vertex */
export function withChannel(paint: Paint, channel: Channel, values: ArrayLike<number>): Paint {
  const out = paint.slice();
  for (let v = 0; v * 4 < out.length; v++) out[v * 4 + channel] = kept(values[v]!);
  return out;
}

/** Nothing has been painted in a channel that is 1 everywhere: so a mesh without paint is read. */
export function isUntouched(paint: ArrayLike<number>, channel: Channel): boolean {
  for (let k = channel; k < paint.length; k += 4) if (paint[k] !== 1) return false;
  return true;
}

export interface Spread {
  /** How many vertices have a value in each of as many equal steps from 0 to 1. */
  readonly bins: readonly number[];
  readonly mean: number;
  readonly low: number;
  readonly high: number;
}

/** How the values of a channel are spread. */
export function spreadOf(paint: ArrayLike<number>, channel: Channel, bins: number): Spread {
  const counts = Array.from({ length: bins }, () => 0);
  let [sum, low, high, n] = [0, Infinity, -Infinity, 0];
  for (let k = channel; k < paint.length; k += 4) {
    const v = paint[k]!;
    counts[Math.min(bins - 1, Math.floor(v * bins))]!++;
    sum += v;
    low = Math.min(low, v);
    high = Math.max(high, v);
    n++;
  }
  return { bins: counts, mean: n > 0 ? sum / n : 0, low: n > 0 ? low : 0, high: n > 0 ? high : 0 };
}
