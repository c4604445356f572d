/** The floor of the sea: sand in ripples, boulders and outcrops, a vent's chimney, tube worms, shells. */
import { IcosahedronGeometry, Vector3, type BufferGeometry } from 'three';
import { mergeVertices } from 'three/examples/jsm/utils/BufferGeometryUtils.js';
import { dice, field, from, strand } from '../field.js';
import { Shape, bar, cable, grid, turned, type Triple } from '../shape.js';

const place = strand('p', 'position', {}, { space: 'object' });
const broken = field(
  [
    place,
    strand('a', 'fractal', { position: from('p'), scale: 0.9, octaves: 5, seed: 3 }),
    strand('b', 'fractal', { position: from('p'), scale: 1.7, octaves: 5, seed: 9 }, { kind: 'ridged' }),
  ],
  'a',
  'b',
);
const ground = field(
  [
    place,
    strand('flat', 'multiply', { a: from('p'), b: [1, 0, 1] }),
    strand('dune', 'fractal', { position: from('flat'), scale: 0.22, octaves: 4, seed: 6 }),
    strand('rough', 'fractal', { position: from('flat'), scale: 1.6, octaves: 4, seed: 12 }),
    strand('bend', 'noise', { position: from('flat'), scale: 0.45, seed: 4 }),
    strand('crests', 'noise', { position: from('flat'), scale: 0.7, seed: 21 }),
  ],
  'dune',
  'rough',
  'bend',
  'crests',
);

const lanes = (list: readonly Triple[]) => [0, 1, 2].map((k) => Float32Array.from(list, (p) => p[k]!)) as [Float32Array, Float32Array, Float32Array];

/** A boulder about the origin, about two metres wide before it is scaled: broken along planes, and worn. */
export function boulder(seed: number, detail = 11, faces = 9): BufferGeometry {
  const roll = dice(seed * 7919 + 13);
  const ball = new IcosahedronGeometry(1, detail);
  ball.deleteAttribute('normal');
  ball.deleteAttribute('uv');
  const geometry = mergeVertices(ball, 1e-4);
  const p = geometry.getAttribute('position');
  const planes = Array.from({ length: faces }, () => {
    const z = 2 * roll() - 1;
    const t = 2 * Math.PI * roll();
    const r = Math.sqrt(1 - z * z);
    return { n: new Vector3(r * Math.cos(t), z, r * Math.sin(t)), d: 0.52 + 0.34 * roll() };
  });
  const points = Array.from({ length: p.count }, (_, k): Triple => [p.getX(k) + seed * 3.1, p.getY(k), p.getZ(k) - seed * 1.7]);
  const [[wide], [fine]] = broken(...lanes(points)) as [[Float32Array], [Float32Array]];
  const v = new Vector3();
  for (let k = 0; k < p.count; k++) {
    v.fromBufferAttribute(p, k).multiplyScalar(1 + 0.32 * wide![k]!);
    for (const { n, d } of planes) {
      const over = v.dot(n) - d;
      if (over > 0) v.addScaledVector(n, -0.86 * over);
    }
    v.multiplyScalar(1 + 0.14 * (fine![k]! - 0.5));
    p.setXYZ(k, v.x, v.y, v.z);
  }
  geometry.computeVertexNormals();
  return geometry;
}

export interface SandBox {
  readonly west: number;
  readonly east: number;
  readonly near: number;
  readonly far: number;
  /** Metres between points, in the middle. */
  readonly step: number;
  /** Where it is level, and how wide. */
  readonly level?: readonly [x: number, z: number, radius: number];
  readonly high?: number;
}

/** The unevenness of ground at places: broad, fine, what bends its ripples, and how high they are. */
export function groundAt(points: readonly Triple[]): Record<'dune' | 'rough' | 'bend' | 'crests', Float32Array> {
  const [[dune], [rough], [bend], [crests]] = ground(...lanes(points)) as [[Float32Array], [Float32Array], [Float32Array], [Float32Array]];
  return { dune, rough, bend, crests };
}

/** How high the sand is at places. */
function sandHeights(points: readonly Triple[], { level, high = 1 }: SandBox): Float32Array {
  const { dune, rough, bend, crests } = groundAt(points);
  return Float32Array.from(points, ([x, , z], k) => {
    const d = level ? Math.hypot(x - level[0], z - level[1]) / level[2] : 9;
    const rise = Math.min(1, Math.max(0, (d - 0.7) / 1.6));
    const phase = (0.9 * z + 0.35 * x) * 15 + 7 * bend[k]!;
    const ripple = 0.016 * (0.6 + 0.8 * crests[k]!) * (1 - Math.abs(Math.sin(phase / 2))) * 1.6;
    return high * 0.62 * dune[k]! * rise + 0.03 * rough[k]! + ripple - 0.02;
  });
}

/** A floor of sand. */
export function sand(box: SandBox): Shape {
  const { west, east, near, far, step } = box;
  const along = (a: number, b: number) => {
    const n = Math.round(Math.abs(b - a) / step);
    return Array.from({ length: n + 1 }, (_, k) => a + ((b - a) * k) / n);
  };
  const [xs, zs] = [along(west, east), along(near, far)];
  const points = zs.flatMap((z) => xs.map((x): Triple => [x, 0, z]));
  const heights = sandHeights(points, box);
  return new Shape().add(
    'sediment',
    grid(xs.length - 1, zs.length - 1, (i, j) => [xs[i]!, heights[j * xs.length + i]!, zs[j]!]),
  );
}

/** Stones lying about on the sand. */
export function stones(seed: number, count: number, of: (roll: () => number) => { at: Triple; size: number }): Shape {
  const roll = dice(seed);
  const shape = new Shape();
  const kinds = [boulder(seed + 1, 4, 7), boulder(seed + 2, 4, 8), boulder(seed + 3, 4, 6)];
  for (let k = 0; k < count; k++) {
    const { at, size } = of(roll);
    shape.add('stone', kinds[k % 3]!.clone(), {
      at,
      turn: [roll() * 40, roll() * 360, roll() * 40],
      scale: [size * (0.8 + 0.5 * roll()), size * (0.5 + 0.4 * roll()), size * (0.8 + 0.5 * roll())],
      tint: 0.75 + 0.3 * roll(),
    });
  }
  return shape;
}

/** A heap of layered rock: large ones below, smaller ones leaning on them. */
export function outcrop(seed: number, { high = 1.6, count = 7, detail = 9 } = {}): Shape {
  const roll = dice(seed * 31 + 5);
  const shape = new Shape();
  for (let k = 0; k < count; k++) {
    const share = k / Math.max(1, count - 1);
    const size = high * (0.75 - 0.42 * share) * (0.8 + 0.4 * roll());
    const turn = 2 * Math.PI * roll();
    const away = high * 0.75 * share * (0.7 + 0.5 * roll());
    shape.add('stone', boulder(seed * 10 + k, Math.round(detail * (1 - 0.4 * share))), {
      at: [Math.cos(turn) * away, size * 0.42 * (1 - 0.6 * share), Math.sin(turn) * away * 0.8],
      turn: [roll() * 24 - 12, roll() * 360, roll() * 24 - 12],
      scale: [size, size * (0.95 + 0.5 * roll()) * (k === 0 ? 1.35 : 0.9), size],
      tint: 0.82 + 0.2 * roll(),
    });
  }
  return shape;
}

/** A chimney of a vent: rings of what it has thrown out, open at its top. */
export function chimney(seed: number, high = 1.8): Shape {
  const roll = dice(seed);
  const outline: [number, number][] = [];
  const rows = 30;
  for (let k = 0; k <= rows; k++) {
    const t = k / rows;
    outline.push([0.62 * high * (0.16 + 0.5 * (1 - t) ** 2.2 + 0.05 * Math.sin(t * 19 + seed) + 0.05 * roll()), high * t]);
  }
  outline.push([0.07 * high, high * 1.01], [0.05 * high, high * 0.9]);
  const body = turned(outline, 40);
  const p = body.getAttribute('position');
  const points = Array.from({ length: p.count }, (_, k): Triple => [p.getX(k) * 2 + seed, p.getY(k) * 1.4, p.getZ(k) * 2]);
  const [[wide], [fine]] = broken(...lanes(points)) as [[Float32Array], [Float32Array]];
  for (let k = 0; k < p.count; k++) {
    const by = 1 + 0.4 * wide![k]! + 0.34 * (fine![k]! - 0.5);
    p.setXYZ(k, p.getX(k) * by, p.getY(k), p.getZ(k) * by);
  }
  body.computeVertexNormals();
  return new Shape().add('stone', body, { tint: [0.7, 0.64, 0.6] });
}

/** Worms that live in tubes, standing in a bunch. */
export function tubeWorms(seed: number, count = 12): Shape {
  const roll = dice(seed);
  const shape = new Shape();
  for (let k = 0; k < count; k++) {
    const [t, r] = [2 * Math.PI * roll(), 0.16 * Math.sqrt(roll())];
    const [high, w] = [0.1 + 0.2 * roll(), 0.014 + 0.012 * roll()];
    const at: Triple = [r * Math.cos(t), -0.02, r * Math.sin(t)];
    const turn: Triple = [roll() * 24 - 12, 0, roll() * 24 - 12];
    const tint: Triple = [1.35, 1.15 + 0.2 * roll(), 0.95];
    shape.add('stone', turned([[w * 1.25, 0], [w, 0.02], [w * 0.95, high * 0.9], [w * 1.3, high], [w * 0.85, high], [w * 0.7, high * 0.85]], 10), { at, turn, tint });
    shape.add('rubber', bar(w * 0.75, 0.004, 10), { at: [at[0], at[1] + high * 0.86, at[2]], turn });
  }
  return shape;
}

/** A shell, lying: half of one, ribbed. */
export function shell(seed: number): Shape {
  const roll = dice(seed);
  const size = 0.05 + 0.03 * roll();
  const geometry = grid(14, 7, (i, j) => {
    const t = (i / 14 - 0.5) * 2.2;
    const r = (j / 7) * size;
    const rib = 1 + 0.05 * Math.cos(i * Math.PI);
    return [Math.sin(t) * r * rib, 0.45 * size * Math.sin((j / 7) * Math.PI * 0.85) * Math.cos(t * 0.8), -Math.cos(t) * r * rib];
  });
  return new Shape().add('stone', geometry, { turn: [0, roll() * 360, roll() * 16 - 8], tint: [2.3, 2.1, 1.9] });
}

/** A blade of weed with its waves, rooted at the origin. */
export function weed(seed: number, high: number): Shape {
  const roll = dice(seed);
  const lean = 0.25 + 0.3 * roll();
  const stem = Array.from({ length: 9 }, (_, k): Triple => {
    const t = k / 8;
    return [lean * high * t * t * 0.6 + 0.06 * Math.sin(t * 7 + seed), high * t, 0.08 * Math.sin(t * 5 + 2 * seed)];
  });
  const shape = new Shape().add('stalk', cable(stem, 0.014, { around: 5, along: 26 }));
  for (let k = 1; k < high * 7; k++) {
    const t = k / (high * 7 + 1);
    const at = stem[Math.round(t * 8)]!;
    const [long, wide, turn] = [0.34 + 0.3 * roll(), 0.05 + 0.03 * roll(), roll() * 360];
    const blade = grid(4, 12, (i, j) => {
      const [u, v] = [i / 4 - 0.5, j / 12];
      const w = wide * Math.sin(Math.PI * Math.min(1, v * 0.9 + 0.08)) ** 0.7;
      return [long * v, -0.32 * long * v * v + 0.02 * Math.sin(v * 17 + k) * Math.abs(u) * 2, 2 * u * w + 0.02 * Math.sin(v * 9 + k)];
    });
    const bright = 0.6 + 0.8 * roll();
    shape.add('weed', blade, { at: [at[0], high * t, at[2]], turn: [roll() * 30 - 15, turn, 18 - 30 * roll()], tint: [bright, bright, bright * 0.8] });
  }
  return shape;
}
