/**
 * A stroke of the brush over one channel. It covers each point once: as much as the nearest pass of the brush reached it,
 * however often it passes and however many places the pointer was heard at. What is covered wholly with strength 1 and
 * value 1 has become 1.
 */
import { smoothed } from './fills.js';
import { channelOf, isUntouched, kept, type Canvas, type Channel, type Paint } from './paint.js';

/** What a stroke does: adds its value, takes it away, sets to it, or evens out. */
export const STROKES = ['add', 'take', 'set', 'smooth'] as const;
export type StrokeKind = (typeof STROKES)[number];

export interface Brush {
  readonly kind: StrokeKind;
  /** 0 to 1. */
  readonly value: number;
  /** Metres on the stage. */
  readonly radius: number;
  /** 0 to 1: how much of it a stroke does where it covers wholly. */
  readonly strength: number;
  /** 0 to 1: the share of the radius over which it fades. */
  readonly falloff: number;
}

/** How much of a brush is at a distance from its middle. @param at as a share of its radius @returns 0 to 1 */
export function reachOf(at: number, falloff: number): number {
  const inner = 1 - falloff;
  if (at <= inner) return at <= 1 ? 1 : 0;
  const t = Math.max(0, Math.min(1, (1 - at) / falloff));
  return t * t * (3 - 2 * t);
}

/** A vertex under the brush. */
export interface Touched {
  readonly vertex: number;
  /** Metres from its middle, on the stage. */
  readonly distance: number;
}

/** How often values pass between neighbours where a stroke evens them out. */
const EVENING = 6;

export class Stroke {
  /** One a vertex: the channel as it is with this stroke. */
  readonly values: Float32Array<ArrayBuffer>;
  /** It has reached some vertex. */
  touched = false;
  private readonly before: Float32Array<ArrayBuffer>;
  private readonly covered: Float32Array;
  private even: Float32Array | null = null;

  constructor(
    private readonly canvas: Canvas,
    paint: Paint,
    channel: Channel,
    private readonly brush: Brush,
  ) {
    this.before = channelOf(paint, channel);
    // 1 everywhere is a channel that nobody has painted: what is added begins from nothing.
    if (isUntouched(paint, channel) && (brush.kind === 'add' || brush.kind === 'set')) this.before.fill(0);
    this.values = this.before.slice();
    this.covered = new Float32Array(canvas.vertices);
  }

  /** The brush at one place. @param pressure of a pen, 0 to 1 */
  dab(touched: Iterable<Touched>, pressure = 1): void {
    const { radius, strength, falloff } = this.brush;
    for (const { vertex, distance } of touched) {
      this.touched = true;
      const cover = reachOf(distance / radius, falloff) * strength * pressure;
      if (cover <= this.covered[vertex]!) continue;
      this.covered[vertex] = cover;
      this.values[vertex] = kept(this.become(vertex, cover));
    }
  }

  private become(vertex: number, cover: number): number {
    const { kind, value } = this.brush;
    const was = this.before[vertex]!;
    switch (kind) {
      case 'add':
        return was + cover * value;
      case 'take':
        return was - cover * value;
      case 'set':
        return was + cover * (value - was);
      case 'smooth':
        this.even ??= smoothed(this.canvas, this.before, EVENING);
        return was + cover * (this.even[vertex]! - was);
    }
  }
}
