/**
 * What runs on with time. An effect without a loop may run for days, and `rate x time` outgrows a float: its steps show.
 * So what grows evenly is known as slope x time + rest, and whatever repeats by whole numbers of it (fractions, sines,
 * cells of a lattice, images that repeat) is given what is left beside whole laps, which is exact (kernels/laps.ts);
 * cells are counted on in integers. Sums in which the growth cancels, as x - floor(x), do without it.
 *
 * The figures themselves (`time x 2`, shown as a strand) stay floats, as large as they are.
 */
import { folded } from '../base/reach.js';
import { Builder, type Growing } from './builder.js';
import { countBits, countFloat, lapCount, lapFraction } from './kernels/laps.js';
import { widthOf, type Grown, type ImageSlot, type Kernel, type Node } from './types.js';

/** A product of scalars: `times`, over the first, by the second. Kept in parts so that equal slopes are seen to be equal. */
interface Slope {
  readonly times: number;
  readonly over: readonly Node[];
  readonly under: readonly Node[];
}

/** slope x time + rest. */
interface Growth {
  /** By component; null where it does not grow. */
  readonly slopes: readonly (Slope | null)[];
  /** As wide as the value. */
  readonly rest: Node;
}
type Found = Growth | null;

const UNIT: Slope = { times: 1, over: [], under: [] };

const same = (p: readonly Node[], q: readonly Node[]) => p.length === q.length && p.every((n, k) => n === q[k]);
const sameSlope = (p: Slope | null, q: Slope | null): boolean =>
  p === q || (p !== null && q !== null && p.times === q.times && same(p.over, q.over) && same(p.under, q.under));

/** Longer products are brought to one number. */
const LONGEST = 8;

class Growths implements Growing {
  private readonly known = new Map<Node, Found>();
  /** Values that are whole already: their floor is themselves. */
  private readonly whole = new Map<Node, { readonly of: Node; readonly fraction: () => Node }>();

  constructor(private readonly b: Builder) {}

  op(name: string, args: readonly Node[]): Node | null {
    if (name === 'floor') return this.floor(args[0]!);
    if (name === 'ceil') {
      const floor = this.growth(args[0]!) && this.floor(this.b.op('neg', args[0]!));
      return floor && this.b.op('neg', floor);
    }
    // x - floor(x) is a fraction, and is seen to be one.
    const floored = name === 'sub' ? this.whole.get(args[1]!) : undefined;
    if (floored?.of === args[0]) return floored!.fraction();
    // A sum without growth is the sum of the rests.
    if ((name !== 'add' && name !== 'sub') || !this.growth(args[0]!) || !this.growth(args[1]!)) return null;
    const sum = this.linear(name, [args[0]!, args[1]!]);
    return sum && !sum.slopes.some((s) => s !== null) ? sum.rest : null;
  }

  fract(value: Node): Node | null {
    const near = this.near(value);
    return near && this.b.composite('fract', near);
  }

  call(kernel: Kernel, args: readonly Node[]): Node | null {
    if (!kernel.far || !args.some((a) => this.growth(a))) return null;
    return kernel.far(this.b, args, (node) => this.grown(node));
  }

  sample(image: ImageSlot, uv: Node, level: Node): Node | null {
    if (image.wrap === 'clamp') return null;
    // A mirrored image is the same again after two.
    const laps = image.wrap === 'mirror' ? 2 : 1;
    const near = this.growth(uv) && this.near(this.b.mul(uv, 1 / laps));
    return near && this.b.sample(image, this.b.mul(near, laps), level);
  }

  grown(node: Node): Grown | null {
    const found = this.growth(node);
    if (!found) return null;
    const { b } = this;
    const lanes = found.slopes.flatMap((s, k) => (s ? [k] : []));
    const rates = lanes.map((k) => this.nodeOf(found.slopes[k]!));
    return {
      rest: found.rest,
      lanes,
      rates,
      ...this.clock(),
      near: this.near(node)!,
      counts: () => b.join(...rates.map((rate) => countBits(b, this.laps(lapCount, rate)))),
    };
  }

  private clock() {
    return { time: this.b.leaf('time'), timeRest: this.b.leaf('timeRest') };
  }
  private laps(kernel: Kernel, rate: Node): Node {
    const { time, timeRest } = this.clock();
    return this.b.call(kernel, rate, time, timeRest);
  }

  private nodeOf({ times, over, under }: Slope): Node {
    const { b } = this;
    const product = (of: readonly Node[]) => of.reduce((p, q) => b.mul(p, q));
    const top = over.length > 0 ? b.mul(product(over), times) : b.constant(times);
    return under.length > 0 ? b.div(top, product(under)) : top;
  }

  /** The fractions of a growth's laps, component by component; 0 where it does not grow. */
  private fractions({ slopes }: Growth): Node {
    const { b } = this;
    return b.join(...slopes.map((s) => (s ? this.laps(lapFraction, this.nodeOf(s)) : b.constant(0))));
  }

  /** The value less whole numbers of its laps; null where it does not grow. */
  private near(node: Node): Node | null {
    const found = this.growth(node);
    return found && this.b.add(found.rest, this.fractions(found));
  }

  private floor(node: Node): Node | null {
    if (this.whole.has(node)) return node;
    const found = this.growth(node);
    if (!found) return null;
    const { b } = this;
    const left = this.near(node)!;
    const near = b.op('floor', left);
    const counts = b.join(...found.slopes.map((s) => (s ? countFloat(b, this.laps(lapCount, this.nodeOf(s))) : b.constant(0))));
    const floor = b.add(counts, near);
    this.whole.set(floor, { of: node, fraction: () => b.sub(left, near) });
    this.known.set(floor, { slopes: found.slopes, rest: b.sub(near, this.fractions(found)) });
    return floor;
  }

  private growth(node: Node): Found {
    return folded<Node, Found>([node], (n, args) => this.of(n, args), this.known).get(node)!;
  }

  private of(node: Node, args: readonly Found[]): Found {
    if (node.op === 'leaf') return node.leaf === 'time' ? { slopes: [UNIT], rest: this.b.constant(0) } : null;
    if (!args.some((a) => a !== null)) return null;
    const found = this.linear(node.op, node.args, node.lanes);
    return found && found.slopes.some((s) => s !== null) ? found : null;
  }

  /** @returns null for what does not grow evenly, or not as a float's own sum would say */
  private linear(op: Node['op'], args: readonly Node[], lanes?: readonly number[]): Found {
    const { b } = this;
    const of = (k: number): Growth => {
      const node = args[k]!;
      return this.known.get(node) ?? { slopes: Array<null>(widthOf(node.type)).fill(null), rest: node };
    };
    const grows = (k: number) => of(k).slopes.some((s) => s !== null);
    const width = Math.max(...args.map((a) => widthOf(a.type)));
    const lane = (g: Growth, k: number) => g.slopes[g.slopes.length === 1 ? 0 : k]!;
    const each = (slope: (k: number) => Slope | null, rest: Node): Growth => ({
      slopes: Array.from({ length: width }, (_, k) => slope(k)),
      rest,
    });
    switch (op) {
      case 'add':
      case 'sub': {
        const sign = op === 'add' ? 1 : -1;
        return each((k) => this.sum(lane(of(0), k), lane(of(1), k), sign), b.op(op, of(0).rest, of(1).rest));
      }
      case 'neg':
        return each((k) => this.times(lane(of(0), k), [b.constant(-1)], []), b.op('neg', of(0).rest));
      case 'mul': {
        if (grows(0) && grows(1)) return null;
        const [value, by] = grows(0) ? [of(0), args[1]!] : [of(1), args[0]!];
        return each((k) => this.times(lane(value, k), [this.part(by, k)], []), b.mul(value.rest, by));
      }
      case 'div':
        if (grows(1)) return null;
        return each((k) => this.times(lane(of(0), k), [], [this.part(args[1]!, k)]), b.div(of(0).rest, args[1]!));
      case 'select': {
        if (grows(0) || !Array.from({ length: width }, (_, k) => k).every((k) => sameSlope(lane(of(1), k), lane(of(2), k))))
          return null;
        return each((k) => lane(of(1), k), b.op('select', args[0]!, of(1).rest, of(2).rest));
      }
      case 'dot': {
        if (grows(0) && grows(1)) return null;
        const [value, by] = grows(0) ? [of(0), args[1]!] : [of(1), args[0]!];
        const slope = value.slopes.map((s, k) => this.times(s, [this.part(by, k)], [])).reduce((p, q) => this.sum(p, q, 1), null);
        return { slopes: [slope], rest: b.composite('dot', value.rest, by) };
      }
      case 'join': {
        const parts = args.map((_, k) => of(k));
        return { slopes: parts.flatMap((p) => p.slopes), rest: b.join(...parts.map((p) => p.rest)) };
      }
      case 'pick':
        return lanes ? { slopes: lanes.map((k) => of(0).slopes[k]!), rest: b.pick(of(0).rest, ...lanes) } : null;
      default:
        return null;
    }
  }

  private part(node: Node, k: number): Node {
    return widthOf(node.type) === 1 ? node : this.b.pick(node, k);
  }

  private sum(p: Slope | null, q: Slope | null, sign: 1 | -1): Slope | null {
    if (!q) return p;
    if (!p) return { ...q, times: q.times * sign };
    if (!same(p.over, q.over) || !same(p.under, q.under))
      return { times: 1, over: [this.b.op(sign === 1 ? 'add' : 'sub', this.nodeOf(p), this.nodeOf(q))], under: [] };
    const times = p.times + sign * q.times;
    // Multiplied and divided by the same number, a float may come back beside itself.
    return Math.abs(times) < 1e-12 * Math.abs(p.times) ? null : { ...p, times };
  }

  /** What is over and under one another is left out, so that dividing and multiplying by the same leads back. */
  private times(slope: Slope | null, over: readonly Node[], under: readonly Node[]): Slope | null {
    if (!slope) return null;
    let { times } = slope;
    const [top, bottom] = [[...slope.over], [...slope.under]];
    for (const node of over)
      if (node.op === 'const') times *= node.values![0]!;
      else if (bottom.includes(node)) bottom.splice(bottom.indexOf(node), 1);
      else top.push(node);
    for (const node of under)
      if (node.op === 'const') times = node.values![0] === 0 ? 0 : times / node.values![0]!;
      else if (top.includes(node)) top.splice(top.indexOf(node), 1);
      else bottom.push(node);
    if (times === 0) return null;
    const byId = (p: Node, q: Node) => p.id - q.id;
    const product: Slope = { times, over: top.sort(byId), under: bottom.sort(byId) };
    return top.length + bottom.length > LONGEST ? { times: 1, over: [this.nodeOf(product)], under: [] } : product;
  }
}

/** A builder for effects that run on. */
export const growingBuilder = (): Builder => new Builder((b) => new Growths(b));
