/**
 * When each strand's motion repeats. What is periodic by its nature (waves, beats, scrolls, turns) gives its period from
 * its rate and from how fast the time it follows runs; whatever reads it repeats when all that it reads does: after
 * their least common multiple. What comes of that is looked at before it is told; whether the outputs close is measured
 * in loop.ts.
 */
import { own } from '../base/wholesome.js';
import { folded } from '../base/reach.js';
import { derivatives } from '../ir/derivative.js';
import { widthOf, type Node } from '../ir/types.js';
import { findOperator } from '../operators/catalogue.js';
import { restsOn } from '../operators/record.js';
import { flat } from '../effect/motifs.js';
import { isLink, strandsOf, type Effect, type Strand, type Value } from '../effect/schema.js';
import type { Program } from '../lower/lower.js';
import { paramValues } from '../lower/params.js';
import { rates } from '../passes/rates.js';
import { scalarise } from '../passes/scalarise.js';
import { evaluate } from '../targets/reference.js';
import { evaluatorOf } from '../targets/evaluate.js';
import { FRAME_LEAVES, LEAVES, type Leaf, type Rate } from '../ir/leaves.js';
import { samplePlaces } from '../places/spread.js';
import type { Mend } from '../effect/mends.js';

export type Motion =
  | { readonly kind: 'still' }
  /** Seconds, as a fraction of whole numbers so that periods can be brought together exactly. */
  | { readonly kind: 'repeats'; readonly period: Fraction }
  /** Grows evenly with time, so much a second. */
  | { readonly kind: 'grows'; readonly slope: number }
  /** Never the same again. */
  | { readonly kind: 'free' };

export interface Fraction {
  readonly top: bigint;
  readonly bottom: bigint;
}

const gcd = (a: bigint, b: bigint): bigint => {
  let [x, y] = [a < 0n ? -a : a, b < 0n ? -b : b];
  while (y > 0n) [x, y] = [y, x % y];
  return x;
};

/** The fraction of the smallest numbers within a millionth of a number above 0 (Stern and Brocot, by continued fractions). */
export function fractionOf(x: number): Fraction {
  let [h, k, hBefore, kBefore] = [1n, 0n, 0n, 1n];
  let rest = x;
  for (let n = 0; n < 40; n++) {
    const whole = Math.floor(rest);
    [h, hBefore] = [BigInt(whole) * h + hBefore, h];
    [k, kBefore] = [BigInt(whole) * k + kBefore, k];
    if (Math.abs(Number(h) / Number(k) - x) <= 1e-7 * x || rest === whole) break;
    rest = 1 / (rest - whole);
  }
  return { top: h, bottom: k };
}

/** The shortest time that holds both a whole number of times: lcm(a / b, c / d) = lcm(a, c) / gcd(b, d) in lowest terms. */
export function commonMultiple(p: Fraction, q: Fraction): Fraction {
  const lowest = ({ top, bottom }: Fraction): Fraction => {
    const g = gcd(top, bottom);
    return { top: top / g, bottom: bottom / g };
  };
  const [a, b] = [lowest(p), lowest(q)];
  return lowest({ top: (a.top / gcd(a.top, b.top)) * b.top, bottom: gcd(a.bottom, b.bottom) });
}

/** Periods may be far beyond a float's whole numbers, and still have a size. */
export const seconds = ({ top, bottom }: Fraction): number =>
  top < 2n ** 52n && bottom < 2n ** 52n ? Number(top) / Number(bottom) : Number((top * 1000n) / bottom) / 1000;

const every = (rate: number): Motion =>
  Math.abs(rate) < 1e-9 ? { kind: 'still' } : { kind: 'repeats', period: fractionOf(1 / Math.abs(rate)) };

/** Together: as long as any of it is free, all of it is. */
function together(motions: readonly Motion[]): Motion {
  let period: Fraction | null = null;
  for (const m of motions) {
    if (m.kind === 'free' || m.kind === 'grows') return { kind: 'free' };
    if (m.kind === 'repeats') period = period ? commonMultiple(period, m.period) : m.period;
  }
  return period ? { kind: 'repeats', period } : { kind: 'still' };
}

/** What a strand's literals say, or would say by themselves. */
function textsOf(strand: Strand): Record<string, string> {
  return Object.fromEntries(
    Object.entries(findOperator(strand.op)!.literals).map(([name, record]) => {
      const given = strand.inputs?.[name];
      const value = given && !isLink(given) ? given.value : undefined;
      const text = typeof value === 'object' && value !== null && 'text' in value ? value.text : record.default;
      return [name, typeof text === 'string' ? text : ''];
    }),
  );
}

export interface StrandMotion {
  readonly motion: Motion;
  /** What would make its own motion close over the loop; null where it does, or where nothing here can. */
  readonly nearest: Mend | null;
}

class Reader {
  readonly found = new Map<string, StrandMotion>();
  private readonly params: Float32Array;
  // Strands are made of one another: what is found of one is kept for those that read it.
  private readonly byTime: (node: Node) => Node;
  private readonly rates = new Map<Node, Rate>();
  private readonly moving = new Map<Node, boolean>();

  constructor(
    private readonly program: Program,
    private readonly effect: Effect,
  ) {
    this.params = paramValues(program.params, effect);
    const { builder: b } = program;
    this.byTime = derivatives(b, (leaf) => (leaf === 'time' ? b.constant(1) : null));
  }

  private evaluate(node: Node): number[] {
    const leaves = Object.fromEntries(FRAME_LEAVES.map((l) => [l, LEAVES[l].fallback]));
    return evaluate(scalarise([node]), { params: this.params, leaves: { ...leaves, loop: [this.effect.loop ?? 0] } })[0]!;
  }

  /** How fast a node grows with time, when that is the same at every moment and place; null otherwise. */
  private slopeOf(node: Node): number[] | null {
    const slope = this.byTime(node);
    return rates([slope], this.rates).get(slope) === 'once' ? this.evaluate(slope) : null;
  }

  private motionOfInput(strand: Strand, name: string): Motion {
    const input = strand.inputs?.[name];
    if (isLink(input)) {
      const source = this.found.get(input.from)!.motion;
      if (source.kind !== 'grows') return source;
      // A component, or another output, may grow at another pace, or not at all.
      const port = this.program.strands.get(input.from)!;
      const node = input.port === undefined ? port.value.node : own(port.ports, input.port)!.node;
      return this.growth(node);
    }
    const dial = this.effect.dials.find((d) => d.strand === strand.id && d.input === name);
    if (dial && this.effect.cues.some((c) => c.dial === dial.id))
      return this.effect.loop === null ? { kind: 'free' } : { kind: 'repeats', period: fractionOf(this.effect.loop) };
    const record = findOperator(strand.op)?.inputs[name];
    return input === undefined && record && restsOn(record) === 'time' ? { kind: 'grows', slope: 1 } : { kind: 'still' };
  }

  private growth(node: Node): Motion {
    const moves = (n: Node, args: readonly boolean[]) => (n.op === 'leaf' ? n.leaf === 'time' : args.includes(true));
    if (!folded([node], moves, this.moving).get(node)) return { kind: 'still' };
    const slope = this.slopeOf(node);
    if (!slope || widthOf(node.type) !== 1) return { kind: 'free' };
    return Math.abs(slope[0]!) < 1e-9 ? { kind: 'free' } : { kind: 'grows', slope: slope[0]! };
  }

  /** A number that the strand holds itself; null where it is linked. */
  private literal(strand: Strand, name: string): Value | null {
    const input = strand.inputs?.[name];
    if (isLink(input)) return null;
    if (input) return input.value;
    const fallback = findOperator(strand.op)?.inputs[name]?.default;
    return typeof fallback === 'number' || Array.isArray(fallback) ? (fallback as Value) : null;
  }

  read(strand: Strand): void {
    const own = strand.bypassed ? { motion: this.whole(strand), nearest: null } : this.own(strand);
    this.found.set(strand.id, own);
  }

  /** What its inputs make of it, when it has no motion of its own. */
  private whole(strand: Strand): Motion {
    const node = this.program.strands.get(strand.id)!.value.node;
    const growing = this.growth(node);
    if (growing.kind !== 'free') return growing;
    const names = new Set([...Object.keys(findOperator(strand.op)!.inputs), ...Object.keys(strand.inputs ?? {})]);
    return together([...names].map((name) => this.motionOfInput(strand, name)));
  }

  private mend(strand: Strand, input: string, value: Value, what: string): Mend {
    return { label: `Set ${strand.name}${what} to ${words(value)}`, edits: [{ kind: 'input', strand: strand.id, input, value }] };
  }

  private own(strand: Strand): StrandMotion {
    const { loop } = this.effect;
    const others = (except: readonly string[]) =>
      Object.keys(findOperator(strand.op)!.inputs)
        .filter((n) => !except.includes(n))
        .map((n) => this.motionOfInput(strand, n));
    const lapsOf = (input: string) => this.motionOfInput(strand, input);
    const closesItself = strand.options?.over === 'loop' && loop !== null;
    const openOption = findOperator(strand.op)!.options.over !== undefined && !closesItself;
    const setOver: Mend | null =
      openOption && loop !== null
        ? {
            label: `Close ${strand.name} over the loop`,
            edits: [{ kind: 'option', strand: strand.id, option: 'over', value: 'loop' }],
          }
        : null;

    const motion = findOperator(strand.op)!.motion;
    switch (motion?.kind) {
      case 'fired':
        return { motion: loop === null ? { kind: 'free' } : { kind: 'repeats', period: fractionOf(loop) }, nearest: setOver };
      case 'clock':
        return { motion: { kind: 'grows', slope: 1 }, nearest: null };
      case 'laps': {
        const moving = lapsOf(motion.input);
        const by = typeof motion.lap === 'number' ? null : motion.lap.input;
        const length = by === null ? motion.lap : this.literal(strand, by);
        if (moving.kind !== 'grows' || typeof length !== 'number' || length <= 0) break;
        return {
          motion: together([every(moving.slope / length), ...others([motion.input, ...(by ? [by] : [])])]),
          nearest: null,
        };
      }
      case 'rated': {
        const moving = lapsOf('time');
        const rate = this.literal(strand, motion.rate);
        if (moving.kind !== 'grows' || typeof rate !== 'number') break;
        const rest = others(['time', motion.rate]);
        if (closesItself && moving.slope === 1)
          return { motion: together([every(wholeLaps(rate, loop) / loop), ...rest]), nearest: null };
        const steps = Math.max(1, motion.steps?.(textsOf(strand)) ?? 1);
        const laps = (rate * moving.slope) / steps;
        const nearest =
          loop === null || rate === 0 || isWhole(laps * loop)
            ? null
            : this.mend(strand, motion.rate, tidy((wholeLaps(laps, loop) / loop / moving.slope) * steps), ` ${motion.rate}`);
        return { motion: together([every(laps), ...rest]), nearest };
      }
      case 'waves':
        return this.waves(strand, motion, lapsOf('time'), others(['time']));
      case 'wanders': {
        const moving = lapsOf(motion.by);
        if (moving.kind !== 'grows') break;
        const rest = others([motion.by]);
        if (closesItself) return { motion: together([every(1 / loop), ...rest]), nearest: null };
        if (!motion.turns) return { motion: { kind: 'free' }, nearest: setOver };
        return {
          motion: together([every(moving.slope), ...rest]),
          nearest: isWhole(moving.slope * (loop ?? 1)) ? null : setOver,
        };
      }
    }
    return { motion: this.whole(strand), nearest: null };
  }

  /** Each of the four repeats after its wavelength over its speed. */
  private waves(
    strand: Strand,
    { lengths: of, speeds: at }: { readonly lengths: string; readonly speeds: string },
    moving: Motion,
    others: readonly Motion[],
  ): StrandMotion {
    const [lengths, speeds] = [this.literal(strand, of), this.literal(strand, at)];
    if (moving.kind !== 'grows' || !Array.isArray(lengths) || !Array.isArray(speeds))
      return { motion: this.whole(strand), nearest: null };
    const { loop } = this.effect;
    const laps = speeds.map((v, k) => (v * moving.slope) / lengths[k]!);
    const motion = together([...laps.map(every), ...others]);
    if (loop === null || laps.every((l) => isWhole(l * loop))) return { motion, nearest: null };
    const closed = laps.map((l, k) => (l === 0 ? 0 : tidy(((wholeLaps(l, loop) / loop) * lengths[k]!) / moving.slope)));
    return { motion, nearest: this.mend(strand, at, closed, ` ${at}`) };
  }
}

const isWhole = (x: number): boolean => Math.abs(x - Math.round(x)) < 1e-4;
const wholeLaps = (rate: number, loop: number): number => Math.round(rate * loop) || Math.sign(rate);
const tidy = (x: number): number => Number(x.toPrecision(7));
const words = (value: Value): string =>
  Array.isArray(value)
    ? value.map((v) => String(Number(v.toPrecision(4)))).join(', ')
    : String(Number(Number(value).toPrecision(4)));

/** Longer periods are not measured: so far on, time's own steps would be what is seen. */
const LONGEST = 120;
const POINTS = 16;

/**
 * What is said to repeat is looked at, now and a period later, at places of different props: a coordinate that scrolls a
 * whole lap is back where a tile is, but not where noise is. What does not repeat is told to wander.
 */
function measured(program: Program, effect: Effect, found: ReadonlyMap<string, StrandMotion>): ReadonlyMap<string, StrandMotion> {
  const claims = new Map<string, number>();
  const keyed = new Map<Node, boolean>();
  for (const [id, { motion }] of found) {
    const node = program.strands.get(id)!.value.node;
    const claim = motion.kind === 'repeats' ? seconds(motion.period) : Infinity;
    // What is keyed begins anew with the loop, which time here does not.
    const isKeyed = folded([node], (n, args) => n.op === 'keys' || args.includes(true), keyed).get(node);
    if (claim <= LONGEST && !isKeyed) claims.set(id, claim);
  }
  if (claims.size === 0) return found;
  const ids = [...claims.keys()];
  const places = {
    ...samplePlaces(POINTS),
    propRandom: [Float32Array.from({ length: POINTS }, (_, k) => (k * 0.754877666) % 1)],
  };
  const roots = ids.map((id) => program.strands.get(id)!.value.node);
  const evaluator = evaluatorOf(program, roots, new Set(Object.keys(places) as Leaf[]), POINTS);
  const params = paramValues(program.params, effect);
  const seen = new Map<number, number[][][]>();
  const at = (time: number): number[][][] => {
    let values = seen.get(time);
    if (!values) {
      const result = evaluator.evaluate(params, { ...places, time: [time], loop: [effect.loop ?? 0] }, POINTS);
      seen.set(time, (values = result.map((root) => root.map((lane) => [...lane]))));
    }
    return values;
  };
  const step = 0.01 / effect.fps;
  const wanders = new Set<string>();
  for (const [k, id] of ids.entries())
    for (const moment of [0.137, 0.611]) {
      const [now, next, later] = [at(moment), at(moment + step), at(moment + claims.get(id)!)].map((v) => v[k]!) as [
        number[][],
        number[][],
        number[][],
      ];
      now.forEach((lane, l) => {
        const size = lane.reduce((m, v) => Math.max(m, Math.abs(v)), 1e-3);
        lane.forEach((v, p) => {
          const gap = Math.abs(later[l]![p]! - v);
          if (gap > Math.abs(next[l]![p]! - v) + 2e-3 * size) wanders.add(id);
        });
      });
    }
  return new Map([...found].map(([id, f]) => [id, wanders.has(id) ? { motion: { kind: 'free' }, nearest: f.nearest } : f]));
}

/** @returns by strand: how it moves, and the nearest values that close it over the loop */
export function readMotions(program: Program, whole: Effect): ReadonlyMap<string, StrandMotion> {
  const effect = flat(whole);
  const reader = new Reader(program, effect);
  for (const strand of strandsOf(effect)) reader.read(strand);
  return measured(program, effect, reader.found);
}
