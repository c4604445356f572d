import { reach } from '../base/reach.js';
import { constructSheet, randomFrom } from '../../../tests/fixtures/sheets.js';
import { Builder } from '../ir/builder.js';
import { power, sineTurns } from '../ir/kernels/transcendental.js';
import { LEAVES, LEAF_NAMES, type Leaf } from '../ir/leaves.js';
import { widthOf, type Node } from '../ir/types.js';
import { lower } from '../lower/lower.js';
import { paramValues } from '../lower/params.js';
import { evaluate } from '../targets/reference.js';
import { scalarise } from './scalarise.js';
import { simplified } from './simplify.js';

type Sample = Record<Leaf, number[]>;
/** Any value of every place, well beyond what an ordinary stage has; directions stay directions. */
function sampleOf(random: () => number, far: number): Sample {
  const shares: readonly Leaf[] = ['facing', 'propRandom', 'moteAge', 'moteRandom'];
  const positive: readonly Leaf[] = ['time', 'edgePixels', 'edgeMetres', 'edgePixelsQuad', 'edgeMetresQuad', 'moteIndex'];
  const one = (leaf: Leaf) =>
    leaf === 'timeRest' || leaf === 'loop'
      ? 0
      : shares.includes(leaf)
        ? random()
        : positive.includes(leaf)
          ? random() * far
          : (random() * 2 - 1) * far;
  return Object.fromEntries(
    LEAF_NAMES.map((leaf) => {
      const values = Array.from({ length: widthOf(LEAVES[leaf].type) }, () => one(leaf));
      const size = Math.hypot(...values) || 1;
      return [leaf, LEAVES[leaf].unit ? values.map((v) => v / size) : values];
    }),
  ) as Sample;
}

const b = new Builder();
const place = b.leaf('position');
const [x, y, z] = b.split(place) as [Node, Node, Node];
const n = b.leaf('edgeMetres');
const c = (...v: number[]) => b.constant(...v);
const clamp01 = (v: Node) => b.composite('clamp', v, 0, 1);
const pw = (v: Node, e: number) => b.call(power, v, c(e));
const sin = (v: Node) => b.call(sineTurns, v);
const slopeOf = (v: Node, e: number, d: Node) => b.op('select', b.op('lt', 0, v), b.mul(d, b.div(b.mul(pw(v, e), e), v)), 0);
const ramp = clamp01(b.div(b.sub(x, 0.5), 2.9));
const Dx = b.leaf('positionDx');
const lap = b.leaf('propRandom');
const turnedBy = (of: Node) => b.composite('dot', b.mul(b.mul(of, 6), b.leaf('normal')), c(1, 2, 3));

const eitherOf = (of: Node) => {
  const [p, q, r] = b.split(b.mul(of, b.leaf('normal'))) as [Node, Node, Node];
  return b.op('select', b.op('lt', x, y), b.add(b.add(b.mul(p, 1.5), b.mul(q, 2)), b.mul(r, 3)), p);
};

/** Each rule by something it makes plainer: it must say the same, in fewer operations. */
const CASES: readonly (readonly [string, Node])[] = [
  ['two limits', b.op('max', b.op('max', x, 0.1), 0.3)],
  ['a limit that is always kept', clamp01(clamp01(x))],
  ['one end that is always kept', b.composite('clamp', b.op('abs', x), 0, 1)],
  ['a mix from nothing to all', b.composite('mix', 0, 1, x)],
  ['a mix of one thing', b.composite('mix', y, y, x)],
  ['a mix the other way', b.composite('mix', 1, 0, x)],
  ['a square', pw(x, 2)],
  ['a root', pw(x, 0.5)],
  ['an eighth power of what is not below 0', pw(n, 8)],
  ['the slope of a power', slopeOf(x, 4, y)],
  ['a scale of a scale', b.mul(b.div(b.mul(place, 3), 7), c(2, 3, 4))],
  ['a scaled sum of scales', b.mul(b.add(b.mul(x, 3), b.mul(y, 5)), 0.2)],
  ['nothing of what is finite', b.mul(clamp01(x), 0)],
  ['a constant within a product', b.mul(b.mul(b.mul(c(1, 2, 3), x), y), 4)],
  ['a mix of numbers within a product', b.mul(b.mul(b.composite('mix', c(1, 2, 3), c(3, 2, 1), z), y), 4)],
  ['a sum of sums', b.add(b.add(x, 3), 4)],
  ['a sum across a scale', b.add(b.div(b.add(x, 0.75), 1.5), 0.5)],
  ['whole numbers in a fraction', b.composite('fract', b.add(b.add(x, 3), y))],
  ['whole numbers in a fraction, as wide as they are', b.composite('fract', b.add(x, c(1, 2, 3)))],
  ['two that stand a fixed way apart', b.div(y, b.sub(b.add(x, 0.12), x))],
  ['a number less a number less something', b.sub(0.1, b.sub(1, x))],
  ['a number less a sum', b.sub(1, b.add(x, 0.25))],
  ['what is taken away twice', b.add(z, b.mul(b.op('neg', x), y))],
  ['a limit below the number it is asked about', b.op('select', b.op('lt', 0.03, b.op('max', x, 1e-6)), y, z)],
  ['an edge a fixed way from the other', b.composite('smoothstep', x, b.add(x, 0.02), y)],
  ['edges the wrong way round', b.composite('smoothstep', 1, 0.8, x)],
  ['a cosine of a cosine', b.add(sin(b.add(b.add(x, 0.25), b.add(y, 0.25))), sin(b.add(x, y)))],
  ['a kernel of numbers', b.mul(x, sin(c(0.1)))],
  ['a cue that waits', b.op('select', b.op('lt', x, 0.5), 0, ramp)],
  ['a cue that stays', b.op('select', b.op('lt', x, 3.4), ramp, 1)],
  ['a mask and a rim of it', b.op('max', clamp01(x), b.mul(clamp01(x), b.sub(1, b.composite('smoothstep', 0, 1, y))))],
  ['vectors put together', b.add(b.join(x, y, c(0)), b.join(c(0), c(0), z))],
  ['a sum of products', b.add(b.add(b.mul(x, 2), b.mul(y, 3)), b.mul(z, 4))],
  ['lanes of one operation', b.join(b.mul(x, lap), b.mul(y, n), b.mul(z, lap))],
  ['sines of a vector’s lanes', b.join(sin(b.add(x, lap)), b.mul(0.3, sin(b.add(y, n))), sin(b.add(z, lap)))],
  ['the length of what is scaled', b.add(b.composite('length', b.mul(place, 3)), b.composite('length', place))],
  ['the direction of what is divided', b.composite('normalize', b.div(place, b.join(n, n, n)))],
  ['a dot product of what is scaled', b.composite('dot', b.mul(place, 3), c(1, 2, 3))],
  ['a dot product of what is divided', b.composite('dot', b.div(place, b.join(n, n, n)), b.leaf('normal'))],
  ['a dot product of what changes, along two axes', b.add(turnedBy(Dx), turnedBy(b.leaf('positionDy')))],
  ['one component or a sum of products, along two axes', b.add(eitherOf(Dx), eitherOf(b.leaf('positionDy')))],
  ['the length of two', b.op('sqrt', b.add(b.mul(b.mul(x, 3), b.mul(x, 3)), b.mul(b.mul(y, 3), b.mul(y, 3))))],
];

/** About what a shader's optimiser counts: an operation of vectors is one, guards come beside it. */
function weightOf(node: Node): number {
  const [low, high] = node.args;
  switch (node.op) {
    case 'const':
    case 'leaf':
    case 'pick':
    case 'join':
      return 0;
    case 'call':
      return node.kernel === power ? 30 : 20;
    case 'div':
      return high!.op === 'const' ? 1 : 3 * widthOf(node.type);
    case 'clamp':
    case 'mix':
      return 2;
    case 'smoothstep':
      return low!.op === 'const' && high!.op === 'const' && low!.values![0]! < high!.values![0]! ? 1 : 12;
    default:
      return 1;
  }
}
const operations = (root: Node): number => reach([root], (node) => node.args).reduce((total, node) => total + weightOf(node), 0);
const valuesAt = (root: Node, leaves: Sample) => evaluate(scalarise([root]), { params: [], leaves })[0]!;

/** The two differ by no more than a few of the last digits of what they are made of. */
function alike(before: readonly number[], after: readonly number[], scale: number): boolean {
  return before.length === after.length && before.every((v, k) => Math.abs(v - after[k]!) <= 2e-6 * Math.max(scale, Math.abs(v)));
}

test.each(CASES)('%s: the same, in fewer operations', (_, root) => {
  const after = simplified(b, [root], [], null).get(root)!;
  expect(operations(after)).toBeLessThan(operations(root));
  const random = randomFrom(7);
  for (let k = 0; k < 400; k++) {
    const sample = sampleOf(random, k % 2 ? 1.5 : 5);
    const [was, is] = [valuesAt(root, sample), valuesAt(after, sample)];
    // An edge met within a rounding may fall on either side of it.
    if (!alike(was, is, 5 ** 4)) expect({ was, is, at: sample.position }).toEqual({ was, is: was, at: sample.position });
  }
});

describe('what must not be left out', () => {
  const stays = (root: Node) => expect(simplified(b, [root], [], null).get(root)).toBe(root);
  // Ordinary stages are small; a program that is handed on may stand on any.
  test('a limit on a place', () => stays(b.composite('clamp', x, -20, 20)));
  test('a limit on how a place changes', () => stays(b.op('max', b.op('abs', b.pick(Dx, 0)), 0.2)));
  test('a cue’s step that its ramp does not reach', () => {
    const root = b.op('select', b.op('lt', x, 0.7), 0, ramp);
    expect(simplified(b, [root], [], null).get(root)!.op).toBe('select');
  });
  test('nothing of what may be without end', () => stays(b.mul(n, 0)));
  test('the power of a number that turns', () => stays(b.call(power, x, y)));
});

/** Where a frozen program of a constructed sheet is another than the live one. */
test('constructed sheets, their numbers written in, give what they give with numbers that turn', () => {
  const random = randomFrom(11);
  let compared = 0;
  const apart: string[] = [];
  const sheets = process.env.WISPEN_DEEP === undefined ? 20 : 200;
  for (let seed = 0; seed < sheets; seed++) {
    const effect = constructSheet(seed * 13 + 1, { strands: 14, noises: 2 });
    const [live, frozen] = [lower(effect, { build: 'live' }), lower(effect, { build: 'frozen' })];
    const params = paramValues(live.params, effect);
    for (const strand of live.strands.values()) {
      if (live.problems.some((p) => p.strand === strand.id)) continue;
      const other = frozen.strands.get(strand.id)!;
      const [was, is] = [scalarise([strand.value.node]), scalarise([other.value.node])];
      // One value in a hundred may lie on an edge; more is a fault.
      let worse = 0;
      for (let k = 0; k < 40; k++) {
        const leaves = sampleOf(random, 2);
        const before = evaluate(was, { params, leaves })[0]!;
        const after = evaluate(is, { params: paramValues(frozen.params, effect), leaves })[0]!;
        compared++;
        const close = before.every((v, lane) => {
          const w = after[lane]!;
          return v === w || !Number.isFinite(v) || Math.abs(v - w) <= 1e-3 * Math.max(1, Math.abs(v));
        });
        if (!close) worse++;
      }
      if (worse > 2) apart.push(`${seed} ${effect.strands.find((s) => s.id === strand.id)!.op} ${worse}`);
    }
  }
  expect(compared).toBeGreaterThan(sheets * 333);
  expect(apart).toEqual([]);
});
