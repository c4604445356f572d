/**
 * Mote fields: where each mote is at a moment. All of it is a function of the time, the field and its seed, so that it
 * scrubs, closes over a loop and is the same everywhere; what runs on a graphics card reads what is worked out here.
 *
 * A field has as many places as motes live at once. Each place is reborn when its life is over, with other random numbers.
 */
import { Builder } from '../ir/builder.js';
import { curlOf } from '../ir/kernels/curl.js';
import { scalarise } from '../passes/scalarise.js';
import { emitWasm } from '../targets/wasm/module.js';
import { WasmRunner } from '../targets/wasm/runner.js';
import type { Stage } from './stage.js';

export type MoteField = Stage['motes'][number];
type Vec3 = readonly [number, number, number];

/** A field draws no more than so many at once. */
export const MOST_MOTES = 20_000;
/** Of copies of props, which are drawn one by one. */
export const MOST_COPIES = 400;

/** How many of a field may live at once. */
export const mostOf = ({ shape }: Pick<MoteField, 'shape'>): number => (shape.kind === 'copies' ? MOST_COPIES : MOST_MOTES);

/** Motes that live at a moment, one after another; in the field's own space, metres. */
export interface Motes {
  readonly count: number;
  /** Three numbers each. */
  readonly centre: Float32Array;
  /** Metres a second, three numbers each. */
  readonly velocity: Float32Array;
  /** Age 0..1, a random number 0..1, which mote: three numbers each. */
  readonly mote: Float32Array;
  /** Radius in metres, and turns about the line of sight. */
  readonly body: Float32Array;
}

/** Points of a surface to be born on, in the field's own space: place and normal, six numbers each. */
export type Births = Float32Array;

/** Whether motes are born: told the place that each is born at, of a field's births, and when, in seconds. */
export type Admits = (places: Uint32Array, times: Float32Array, count: number) => (mote: number) => boolean;

/** Well mixed (lowbias32: Wellons, "Prospecting for Hash Functions"). */
function mixed(x: number): number {
  x = Math.imul(x ^ (x >>> 16), 0x7feb352d);
  x = Math.imul(x ^ (x >>> 15), 0x846ca68b);
  return (x ^ (x >>> 16)) >>> 0;
}
const GOLDEN = 0x9e3779b9 | 0;

/** Random numbers of one life of one mote, 0..1, one after another. */
class Life {
  private state = 0;

  begin(seed: number, mote: number, life: number): this {
    this.state = mixed(mixed(mixed(seed | 0) ^ mote) + Math.imul(life, GOLDEN));
    return this;
  }

  next(): number {
    this.state = (this.state + GOLDEN) | 0;
    return (mixed(this.state) >>> 8) * 2 ** -24;
  }

  /** A point of the ball of radius 1, evenly; no trigonometry, which machines differ about. */
  inBall(out: Float64Array): void {
    for (let attempt = 0; attempt < 16; attempt++) {
      for (let k = 0; k < 3; k++) out[k] = this.next() * 2 - 1;
      if (out[0]! ** 2 + out[1]! ** 2 + out[2]! ** 2 <= 1) return;
    }
    out.fill(0);
  }
}

/** How long a life is, how many whole lives a loop has, and how many motes live at once. */
export interface Pace {
  /** Seconds. */
  readonly period: number;
  /** 0 for an effect that runs on. */
  readonly laps: number;
  readonly count: number;
  /** How many the field asks for, where that is more than it may have. */
  readonly wanted: number;
}

/** @param loop in seconds; null for an effect that runs on */
export function paceOf(field: Pick<MoteField, 'rate' | 'life' | 'shape'>, loop: number | null): Pace {
  const { rate, life } = field;
  // Only whole lives close over a loop.
  const laps = loop === null ? 0 : Math.max(1, Math.round(loop / life));
  const period = loop === null ? life : loop / laps;
  const wanted = Math.round(rate * period);
  return { period, laps, count: Math.min(mostOf(field), wanted), wanted };
}

/** Swirls at a time: so that the module's memory is made once. */
const AT_ONCE = 1024;
let swirling: WasmRunner | null = null;
/** Directions that swirl and never pile up. */
function swirler(): WasmRunner {
  if (!swirling) {
    const b = new Builder();
    const node = b.call(curlOf(3, 'still'), b.leaf('position'), b.constant(0));
    swirling = WasmRunner.make(emitWasm(scalarise([node]), new Set(['position'] as const), 0, AT_ONCE));
  }
  return swirling;
}
/** As they live on they come to another part of the field: a way that no axis of its lattice has. */
const ELSEWHERE: Vec3 = [0.53, 0.71, 0.46];

/** So many laps at most is a burst heard of: longer lives end there. */
const MOST_LAPS = 16;

export class MotesOf {
  private readonly life = new Life();
  private readonly ball = new Float64Array(3);
  private room = 0;
  private centre = new Float32Array(0);
  private velocity = new Float32Array(0);
  private mote = new Float32Array(0);
  private body = new Float32Array(0);
  /** Seconds that each that lives has lived. */
  private lived = new Float32Array(0);
  /** Where it was born, of a field's births. */
  private places = new Uint32Array(0);

  private make(room: number): void {
    if (room <= this.room) return;
    this.room = room;
    for (const name of ['centre', 'velocity', 'mote'] as const) this[name] = new Float32Array(room * 3);
    this.body = new Float32Array(room * 2);
    this.lived = new Float32Array(room);
    this.places = new Uint32Array(room);
  }

  /**
   * @param time seconds; @param loop in seconds, null for an effect that runs on
   * @param firings seconds at which the field's trigger has been fired
   * @param births of a field that is born on a prop; none there, none are born
   * @param admits leaves out those that are born where or when they may not be
   * @returns valid until the next call
   */
  at(
    field: MoteField,
    time: number,
    loop: number | null,
    firings: readonly number[] = [],
    births: Births | null = null,
    admits: Admits | null = null,
  ): Motes {
    const { period, laps, count } = paceOf(field, loop);
    const burst = field.burst?.count ?? 0;
    // A burst whose life is longer than the loop is heard of as many laps as it lives.
    const heard = loop === null ? 1 : Math.min(MOST_LAPS, Math.max(1, Math.ceil(field.life / loop)));
    this.make(count + burst * firings.length * heard);
    let alive = 0;
    for (let k = 0; k < count; k++) {
      const phase = (k + this.life.begin(field.seed, k, -1).next()) / count;
      const lives = time / period + phase;
      const whole = Math.floor(lives);
      const life = laps > 0 ? whole - laps * Math.floor(whole / laps) : whole;
      alive = this.add(field, alive, { index: k, life, lived: (lives - whole) * period, longest: period, births });
    }
    firings.forEach((fired, n) => {
      // A loop hears the lap before.
      const past = loop === null ? time - fired : time - fired - loop * Math.floor((time - fired) / loop);
      for (let lap = 0; lap < heard; lap++) {
        const lived = past + lap * (loop ?? 0);
        if (lived < 0 || lived >= field.life) continue;
        // Those of each lap go the same way, so that the loop closes.
        for (let k = 0; k < burst; k++)
          alive = this.add(field, alive, { index: count + n * burst + k, life: n, lived, longest: field.life, births });
      }
    });
    if (admits) alive = this.admitted(admits, time, loop, alive);
    this.drift(field, alive);
    return { count: alive, centre: this.centre, velocity: this.velocity, mote: this.mote, body: this.body };
  }

  /** Closes up over those that were not born. @returns how many are left */
  private admitted(admits: Admits, time: number, loop: number | null, count: number): number {
    const { lived, places } = this;
    const times = Float32Array.from({ length: count }, (_, k) => {
      const born = time - lived[k]!;
      // What is born in the lap before is born in every lap.
      return loop === null ? born : born - loop * Math.floor(born / loop);
    });
    const isBorn = admits(places, times, count);
    let left = 0;
    for (let k = 0; k < count; k++) {
      if (!isBorn(k)) continue;
      for (const [of, width] of [
        [this.centre, 3],
        [this.velocity, 3],
        [this.mote, 3],
        [this.body, 2],
        [lived, 1],
      ] as const)
        of.copyWithin(left * width, k * width, (k + 1) * width);
      places[left] = places[k]!;
      left++;
    }
    return left;
  }

  /** @returns how many live now */
  private add(
    field: MoteField,
    at: number,
    {
      index,
      life,
      lived,
      longest,
      births,
    }: { index: number; life: number; lived: number; longest: number; births: Births | null },
  ): number {
    const random = this.life.begin(field.seed, index, life);
    const [own, long, large, turned] = [random.next(), random.next(), random.next(), random.next()];
    const lasts = longest * (1 - field.lifeSpread * long);
    if (lived >= lasts) return at;
    const { centre, velocity, mote, body } = this;
    const k = at * 3;
    const [hx, hy, hz] = this.born(field, k, random, births) ?? field.heading;
    if (Number.isNaN(centre[k]!)) return at;
    // From all one way to every way.
    random.inBall(this.ball);
    const [x, y, z] = this.ball as unknown as Vec3;
    const { spread } = field;
    const [dx, dy, dz] = [hx * (1 - spread) + x * spread, hy * (1 - spread) + y * spread, hz * (1 - spread) + z * spread];
    const size = Math.sqrt(dx * dx + dy * dy + dz * dz) || 1;
    const speed = (field.speed * (1 - field.speedSpread * random.next())) / size;
    const fall = field.gravity * lived;
    velocity[k] = dx * speed;
    velocity[k + 1] = dy * speed - fall;
    velocity[k + 2] = dz * speed;
    centre[k] = centre[k]! + dx * speed * lived;
    centre[k + 1] = centre[k + 1]! + dy * speed * lived - 0.5 * fall * lived;
    centre[k + 2] = centre[k + 2]! + dz * speed * lived;
    mote[k] = lived / lasts;
    mote[k + 1] = own;
    mote[k + 2] = index;
    body[at * 2] = field.size * (1 - field.sizeSpread * large);
    body[at * 2 + 1] = turned + field.spin * lived;
    this.lived[at] = lived;
    return at + 1;
  }

  /** Where a mote is born, written to its place. @returns which way it goes there, where the place says so */
  private born({ from }: MoteField, k: number, random: Life, births: Births | null): Vec3 | null {
    const { centre } = this;
    switch (from.kind) {
      case 'box':
        for (let axis = 0; axis < 3; axis++) centre[k + axis] = (random.next() - 0.5) * from.size[axis]!;
        return null;
      case 'ball':
        random.inBall(this.ball);
        for (let axis = 0; axis < 3; axis++) centre[k + axis] = this.ball[axis]! * from.radius;
        return null;
      case 'path': {
        const along = random.next() * (from.points.length - 1);
        const step = Math.min(from.points.length - 2, Math.floor(along));
        const [p, q] = [from.points[step]!, from.points[step + 1]!];
        for (let axis = 0; axis < 3; axis++) centre[k + axis] = p[axis]! + (q[axis]! - p[axis]!) * (along - step);
        return null;
      }
      case 'prop': {
        const points = births ? births.length / 6 : 0;
        if (points === 0) {
          centre[k] = NaN;
          return null;
        }
        const chosen = Math.min(points - 1, Math.floor(random.next() * points));
        const place = chosen * 6;
        this.places[k / 3] = chosen;
        for (let axis = 0; axis < 3; axis++) centre[k + axis] = births![place + axis]!;
        return [births![place + 3]!, births![place + 4]!, births![place + 5]!];
      }
    }
  }

  /** Carries them off in swirls: half as far as they go within a second, and never much farther. */
  private drift({ drift, seed }: MoteField, count: number): void {
    if (drift.strength === 0) return;
    const { centre, velocity, lived } = this;
    const run = swirler();
    const planes = [0, 1, 2].map((axis) => run.inputPlane('position', axis));
    // Another seed, another part of the field.
    const apart = (mixed(seed) >>> 16) * 2 ** -8;
    for (let from = 0; from < count; from += AT_ONCE) {
      const size = Math.min(AT_ONCE, count - from);
      for (let k = 0; k < size; k++) {
        const on = lived[from + k]! * drift.pace;
        for (let axis = 0; axis < 3; axis++)
          planes[axis]![k] = centre[(from + k) * 3 + axis]! / drift.scale + apart + on * ELSEWHERE[axis]!;
      }
      const swirls = run.view([], { position: planes }, size)[0]!;
      for (let k = 0; k < size; k++) {
        const [at, slow] = [(from + k) * 3, 1 / (1 + lived[from + k]!)];
        const carried = drift.strength * lived[from + k]! * slow;
        for (let axis = 0; axis < 3; axis++) {
          const by = swirls[axis]![k]!;
          velocity[at + axis]! += by * drift.strength * slow * slow;
          centre[at + axis]! += by * carried;
        }
      }
    }
  }
}

/** Farthest first, for what covers what is behind it. @param ahead along which they are told apart, in the field's own space */
export function farthestFirst({ count, centre }: Pick<Motes, 'count' | 'centre'>, ahead: Vec3): Uint32Array {
  const order = new Uint32Array(count);
  const depth = new Float32Array(count);
  for (let k = 0; k < count; k++) {
    order[k] = k;
    depth[k] = centre[k * 3]! * ahead[0] + centre[k * 3 + 1]! * ahead[1] + centre[k * 3 + 2]! * ahead[2];
  }
  return order.sort((p, q) => depth[q]! - depth[p]!);
}
