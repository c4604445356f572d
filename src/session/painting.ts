/**
 * Painting the vertices of a prop: the brush, fills and picked vertices of one channel, each a step of the stage's undo.
 * The picture shows what is painted at once; the file is written beside, and the stage says so when it is.
 */
import { createStore, type StoreApi } from 'zustand/vanilla';
import * as fills from '../core/paint/fills.js';
import * as paints from '../core/paint/paint.js';
import { channelOf, kept, withChannel, type Canvas, type Channel, type Paint } from '../core/paint/paint.js';
import { Stroke, type Brush, type StrokeKind, type Touched } from '../core/paint/stroke.js';
import { paintFor } from '../core/formats/paintFile.js';
import { own } from '../core/base/wholesome.js';
import { nameChannel, propOf, type Vec3 } from '../core/scene/edits.js';
import type { Stage } from '../core/scene/stage.js';
import { BrushOnMesh, type Struck } from '../render/brush.js';
import { canvasFrom } from '../render/canvas.js';
import type { Clock } from './clock.js';
import type { Documents } from './documents.js';
import type { Frames } from './frames.js';
import { paintOf, painter } from './paints.js';
import { Preparing, type Painted } from './preparing.js';
import { putOn } from './paintPut.js';
import { RESTING, beginningOf, rampTo, reachedNone, type PaintingState, type Ramp } from './paintingState.js';
import type { BenchStore } from './state.js';

/** Steps of the histogram. */
const BINS = 20;
/** A drag is followed in steps of this share of the radius. */
const FOLLOWED = 0.25;
const MOST_STEPS = 48;
/** A picked vertex is one within this many pixels. */
const PICK_PX = 14;

export interface PaintingPorts {
  readonly store: BenchStore;
  readonly documents: Documents;
  readonly frames: Frames;
  readonly clock: Clock;
}

const shapeIn = (stage: Stage, prop: string): string => JSON.stringify(propOf(stage, prop).source);

export class Painting {
  readonly store: StoreApi<PaintingState> = createStore<PaintingState>(() => RESTING);
  private painted: Painted | null = null;
  private paint: Paint = new Float32Array(0);
  /** The sum of the file that holds what is shown; empty where the prop has none. */
  private shown = '';
  private stroke: Stroke | null = null;
  private last: { readonly x: number; readonly y: number } | null = null;
  private queue: Promise<void> = Promise.resolve();
  private writing = 0;
  private played = false;

  private readonly preparing = new Preparing({
    onShare: (preparing) => this.store.setState({ preparing }),
    onTrouble: (sentence) => this.say(sentence),
  });

  constructor(private readonly ports: PaintingPorts) {}

  /** What has been painted so far is in the stage's document. */
  get settled(): Promise<void> {
    return this.queue;
  }

  /** Something painted is not in the stage's document yet. */
  get waits(): boolean {
    return this.writing > 0;
  }

  private say(notice: string): void {
    this.ports.store.setState({ notice });
  }

  // --- beginning and end

  /** Takes a prop to be painted. */
  async begin(prop: string): Promise<void> {
    const { frames, clock, store } = this.ports;
    const renderer = frames.view;
    const made = renderer?.scenery.props.get(prop);
    const { following, stage } = store.getState();
    if (!renderer || !made || following || this.store.getState().preparing?.prop === prop) return;
    if (!propOf(stage, prop).visible) return this.say(`${propOf(stage, prop).name} is hidden: show it to paint it.`);
    this.end();
    // What writes strokes is there before the first: the server may be gone by then.
    painter.begin();
    const { painted, plain } = made;
    const mesh = () => renderer.scenery.meshOf(prop);
    const prepared = await this.preparing.of(prop, plain);
    // Given up, or the stage has changed meanwhile.
    if (!prepared || frames.view?.scenery.props.get(prop)?.plain !== plain) return;
    const canvas = canvasFrom(plain, prepared);
    const colours = plain.getAttribute('vertexColour').array;
    const colour = colours instanceof Float32Array ? colours : null;
    this.painted = { prop, renderer, canvas, colour, shape: shapeIn(stage, prop), brush: new BrushOnMesh(mesh, plain, prepared) };
    this.played = clock.playing;
    clock.pause();
    this.store.setState((was) => beginningOf(was, propOf(stage, prop), canvas));
    await this.take(stage);
    if (this.painted?.prop !== prop) return;
    renderer.paint.show(mesh, painted, this.paint, prepared);
    this.look();
    frames.request();
  }

  end(): void {
    this.preparing.stop();
    const { painted } = this;
    this.painted = null;
    this.stroke = null;
    if (!painted) return;
    painted.renderer.paint.hide();
    this.store.setState({ prop: null, under: null, picked: [], from: null, spread: null, busy: null });
    this.ports.frames.request();
    if (this.played) this.ports.clock.play();
  }

  private sumIn(stage: Stage): string {
    const prop = stage.props.find((p) => p.id === this.painted?.prop);
    return prop?.paint ? (own(stage.assets, prop.paint)?.sha256 ?? '') : '';
  }

  /** Takes the paint that the stage says the prop has. */
  private async take(stage: Stage): Promise<void> {
    const { painted } = this;
    if (!painted) return;
    const { vertices } = painted.canvas;
    const sum = (this.shown = this.sumIn(stage));
    const all = sum === '' ? null : await paintOf(sum).catch((error: Error) => (this.say(error.message), null));
    if (this.painted !== painted || this.shown !== sum) return;
    this.set((all && paintFor(all, vertices)) ?? paints.blank(vertices, painted.colour));
  }

  /** What follows from a change of the stage: undo puts another paint on the prop, or takes the prop away. */
  follow(stage: Stage): void {
    const { painted } = this;
    if (!painted) return;
    if (!painted.renderer.scenery.meshOf(painted.prop)) return this.end();
    if (shapeIn(stage, painted.prop) !== painted.shape) return void this.begin(painted.prop);
    if (this.writing === 0 && this.sumIn(stage) !== this.shown) void this.take(stage);
  }

  private set(paint: Paint): void {
    this.paint = paint;
    this.painted?.renderer.paint.repaint(paint, null);
    this.tell();
    this.ports.frames.requestPaint();
  }

  private tell(): void {
    this.store.setState({ spread: paints.spreadOf(this.paint, this.store.getState().channel, BINS) });
  }

  // --- how it is seen and what the brush is

  private look(): void {
    const { view, channel, picked } = this.store.getState();
    const { painted } = this;
    if (!painted) return;
    painted.renderer.paint.look = { view, channel };
    painted.renderer.paint.mark('picked', picked);
    // What stands in the prop's place is another thing to draw.
    this.ports.frames.request();
  }

  change(to: Partial<Pick<PaintingState, 'channel' | 'view' | 'tool' | 'mirrored'>>): void {
    this.store.setState({ ...to, ...(to.tool ? { from: null } : {}) });
    if (to.tool && to.tool !== 'pick') this.pick([]);
    this.tell();
    this.look();
  }

  /** Another axis is gone along from end to end. */
  setRamp(to: Partial<Ramp>): void {
    this.store.setState((was) => ({ ramp: rampTo(was, to) }));
    this.ports.frames.requestPaint();
  }

  setBrush(to: Partial<Brush>): void {
    this.store.setState(({ brush }) => ({ brush: { ...brush, ...to } }));
    const { painted } = this;
    const at = painted?.renderer.paint.brush;
    const { brush } = this.store.getState();
    if (at) painted.renderer.paint.brush = { ...at, radius: brush.radius, falloff: brush.falloff };
    this.ports.frames.requestPaint();
  }

  nameChannel(channel: Channel, name: string): void {
    const { painted } = this;
    const called = name.trim().slice(0, 24);
    if (painted && called)
      this.ports.documents.editStage(`Call a channel ${called}`, (d) =>
        nameChannel(d, { id: painted.prop, channel, name: called }),
      );
  }

  // --- the pointer, in shares of the picture's width and height from the top left

  private strike(x: number, y: number): Struck | null {
    const { painted } = this;
    if (!painted) return null;
    const { origin, direction } = painted.renderer.pointing.ray(x, y);
    const struck = painted.brush.strike(origin, direction);
    return struck && painted.renderer.pointing.standsBefore(painted.prop, origin, direction, struck.world) ? null : struck;
  }

  private within({ local }: Pick<Struck, 'local'>): Touched[] {
    return this.painted!.brush.within(local, this.store.getState().brush.radius);
  }

  /** The brush goes where the pointer is. @returns whether it is on the mesh */
  hover(x: number, y: number): boolean {
    const { painted } = this;
    if (!painted) return false;
    const struck = this.strike(x, y);
    const { tool, brush, channel, under } = this.store.getState();
    if (!struck) {
      if (under) this.leave();
      return false;
    }
    const value = struck.corners.reduce((sum, v, k) => sum + struck.shares[k]! * this.valueAt(v, channel), 0);
    const touched = tool === 'brush' ? this.within(struck) : [];
    painted.renderer.paint.brush =
      tool === 'brush' ? { middle: struck.world, radius: brush.radius, falloff: brush.falloff } : null;
    painted.renderer.paint.mark(
      'touched',
      touched.map((t) => t.vertex),
    );
    this.store.setState({ under: { count: touched.length, value } });
    this.ports.frames.requestPaint();
    return true;
  }

  private valueAt(vertex: number, channel: Channel): number {
    return this.stroke ? this.stroke.values[vertex]! : this.paint[vertex * 4 + channel]!;
  }

  /** The pointer is on the prop no more. */
  leave(): void {
    const { painted } = this;
    if (!painted) return;
    painted.renderer.paint.brush = null;
    this.store.setState({ under: null });
    this.ports.frames.requestPaint();
  }

  /**
   * A press. @param kind what the stroke does, where it is not what the brush is set to
   * @returns whether it is the mesh's; else the picture is turned
   */
  press(x: number, y: number, pressure = 1, kind?: StrokeKind): boolean {
    const { painted } = this;
    const struck = this.strike(x, y);
    if (!painted || !struck) return false;
    const { tool, brush, channel } = this.store.getState();
    if (tool === 'pick') this.pickAt(struck);
    else if (tool === 'line') this.endOfRamp(struck.local);
    else {
      this.stroke = new Stroke(painted.canvas, this.paint, channel, { ...brush, kind: kind ?? brush.kind });
      this.last = { x, y };
      this.dab(struck, pressure);
      painted.renderer.paint.repaint(this.stroke.values, channel);
      this.hover(x, y);
    }
    return true;
  }

  /** A drag of the brush, followed from where it was. */
  drag(x: number, y: number, pressure = 1): void {
    const { painted, stroke, last } = this;
    if (!painted || !stroke || !last) return;
    const { brush, channel } = this.store.getState();
    const at = painted.renderer.paint.brush?.middle;
    const { height, width } = painted.renderer.frame.pixels;
    const perPixel = painted.renderer.pointing.metresPerPixel(at ?? [0, 0, 0], height);
    const far = Math.hypot((x - last.x) * width, (y - last.y) * height) * perPixel;
    const steps = Math.max(1, Math.min(MOST_STEPS, Math.ceil(far / (brush.radius * FOLLOWED))));
    for (let k = 1; k <= steps; k++) {
      const struck = this.strike(last.x + ((x - last.x) * k) / steps, last.y + ((y - last.y) * k) / steps);
      if (struck) this.dab(struck, pressure);
    }
    this.last = { x, y };
    painted.renderer.paint.repaint(stroke.values, channel);
    this.hover(x, y);
  }

  private dab(struck: Struck, pressure: number): void {
    this.stroke!.dab(this.within(struck), pressure);
    if (!this.store.getState().mirrored) return;
    const [x, y, z] = struck.local;
    this.stroke!.dab(this.within({ local: [-x, y, z] }), pressure);
  }

  release(): void {
    const { stroke } = this;
    this.stroke = null;
    this.last = null;
    if (!stroke) return;
    const { channel, brush } = this.store.getState();
    if (!stroke.touched) return this.say(reachedNone(brush.radius));
    this.commit('Paint', withChannel(this.paint, channel, stroke.values));
  }

  missed(): void {
    this.say('That press missed the prop, so it turns the picture. A stroke begins on the prop.');
  }

  // --- fills

  /** Fills the channel. @param values one a vertex */
  fill(label: string, values: (canvas: Canvas) => ArrayLike<number>): void {
    if (!this.painted) return;
    this.commit(label, withChannel(this.paint, this.store.getState().channel, values(this.painted.canvas)));
  }

  /** Changes what is in the channel. */
  alter(label: string, change: (values: Float32Array<ArrayBuffer>, canvas: Canvas) => ArrayLike<number>): void {
    const { channel } = this.store.getState();
    this.fill(label, (canvas) => change(channelOf(this.paint, channel), canvas));
  }

  private endOfRamp(local: Vec3): void {
    const { from } = this.store.getState();
    if (!from) return this.store.setState({ from: local });
    this.store.setState({ from: null });
    this.fill('Fill between two points', (canvas) => fills.betweenPoints(canvas, from, local));
  }

  // --- vertices by themselves

  private pickAt(struck: Struck): void {
    const { painted } = this;
    const { picked } = this.store.getState();
    const reach = painted!.renderer.pointing.metresPerPixel(struck.world, painted!.renderer.frame.pixels.height) * PICK_PX;
    const these = painted!.brush.nearest(struck, reach, painted!.canvas.welds.point);
    this.pick(picked.includes(these[0]) ? picked.filter((v) => !these.includes(v)) : [...picked, ...these]);
  }

  pick(picked: readonly number[]): void {
    this.store.setState({ picked });
    this.painted?.renderer.paint.mark('picked', picked);
    this.ports.frames.requestPaint();
  }

  /** The paint as it is shown: four numbers a vertex. */
  get now(): Paint {
    return this.paint;
  }

  /** What is painted, for what is worked out beside; null where nothing is. */
  get canvas(): Canvas | null {
    return this.painted?.canvas ?? null;
  }

  /** Gives the picked vertices a value. */
  setPicked(value: number): void {
    const { picked, channel } = this.store.getState();
    if (picked.length === 0) return;
    const values = channelOf(this.paint, channel);
    if (paints.isUntouched(this.paint, channel)) values.fill(0);
    for (const v of picked) values[v] = kept(value);
    this.commit('Set vertices', withChannel(this.paint, channel, values));
  }

  // --- keeping it

  /** Shows what has been made, writes its file, and says so in the stage. */
  private commit(label: string, paint: Paint): void {
    if (!this.painted) return;
    this.set(paint);
    this.write(label, paint, () => undefined);
  }

  /** The prop becomes another mesh with the paint of that. @param reshape what else is done to the stage in the same step */
  remake(label: string, paint: Paint, reshape: (draft: Stage) => void): void {
    if (this.painted) this.write(label, paint, reshape);
  }

  private write(label: string, paint: Paint, also: (draft: Stage) => void): void {
    const { prop } = this.painted!;
    this.writing++;
    this.queue = this.queue.then(async () => {
      try {
        await putOn(this.ports, { prop, paint, label, also, onSum: (sum) => (this.shown = sum) });
      } catch (error) {
        // The strokes after it are written all the same.
        this.say(`The paint was not kept: ${(error as Error).message}`);
      } finally {
        this.writing--;
      }
    });
  }
}
