/** A plant of kelp that an effect moves: rooted at the origin, painted by how far from its root, how far along its blade, and which blade. */
import { BufferAttribute, type BufferGeometry } from 'three';
import { dice } from '../field.js';
import { Shape, cable, grid, turned, type Triple } from '../shape.js';

interface Told {
  readonly uv: (k: number) => readonly [number, number];
  readonly paint: (k: number) => Triple;
}

/** Gives every vertex its uv and its paint. */
function told(geometry: BufferGeometry, { uv, paint }: Told): BufferGeometry {
  const n = geometry.getAttribute('position').count;
  const all = Array.from({ length: n }, (_, k) => k);
  geometry.setAttribute('uv', new BufferAttribute(Float32Array.from(all.flatMap((k) => [...uv(k)])), 2));
  geometry.setAttribute('paint', new BufferAttribute(Float32Array.from(all.flatMap((k) => [...paint(k)])), 3));
  return geometry;
}

const [ACROSS, ALONG] = [6, 14];

/**
 * A frond. Paint: red 0 at the root to 1 at the top, which is how far it is moved; green 0 to 1 along each blade; blue a
 * number of each blade's own. Uv: across a blade and along it; the stipe lies on its middle line.
 * @param high metres
 */
export function frond(seed: number, high: number): Shape {
  const roll = dice(seed);
  const stem = (t: number): Triple => [0.05 * Math.sin(t * 4.2 + seed) * t, high * t, 0.045 * Math.sin(t * 3.1 + 2 * seed) * t];
  const along = 30;
  const stipe = cable(
    Array.from({ length: 9 }, (_, k) => stem(k / 8)),
    0.011,
    { around: 6, along },
  );
  const shape = new Shape();
  const risen = (y: number) => Math.min(1, Math.max(0, y / high));
  shape.add(
    'weed',
    told(stipe, { uv: (k) => [0.5, Math.floor(k / 7) / along], paint: (k) => [risen(stipe.getAttribute('position').getY(k)), 0, 0] }),
    {},
    true,
  );
  const blades = Math.round(high * 9);
  for (let b = 0; b <= blades; b++) {
    const t = 0.16 + (0.84 * b) / blades;
    const foot = stem(t);
    const last = b === blades;
    // One after another around the stipe, by the angle that puts none over the last ones.
    const turn = b * 2.4 + 0.5 * roll();
    const long = (0.52 + 0.3 * roll()) * (0.62 + 0.5 * Math.sin(Math.PI * Math.min(1, t * 1.05))) * (last ? 1.1 : 1);
    const wide = 0.024 + 0.012 * roll();
    // Held up by a bladder at its foot: a blade floats, it does not hang.
    const [rise, droop] = last ? [1.5, 0.05] : [1.15 + 0.4 * roll(), 0.1 + 0.25 * roll()];
    const own = roll();
    const shapeAt = (i: number, j: number): Triple => {
      const [u, v] = [i / ACROSS - 0.5, j / ALONG];
      const half = wide * Math.sin(Math.PI * Math.min(1, 0.1 + 0.9 * v)) ** 0.65 * (1 - 0.25 * v);
      const ruffle = 0.017 * Math.sin(v * 27 + own * 9) * (2 * Math.abs(u)) ** 1.6 + 0.012 * Math.sin(v * 34 + own * 20) * Math.abs(u);
      const out = long * v * (0.78 - 0.2 * v * (1 + droop));
      const up = long * (rise * v - (0.55 + 0.5 * droop) * v * v) + ruffle + 0.12 * wide * (4 * u * u);
      const across = 2 * u * half;
      return [foot[0] + Math.cos(turn) * out - Math.sin(turn) * across, foot[1] + up, foot[2] + Math.sin(turn) * out + Math.cos(turn) * across];
    };
    const blade = grid(ACROSS, ALONG, shapeAt);
    const row = (k: number) => Math.floor(k / (ACROSS + 1)) / ALONG;
    const bladder = turned(
      [
        [0.002, -0.02],
        [0.013, 0.004],
        [0.011, 0.022],
        [0.003, 0.04],
      ],
      6,
    ).rotateZ(-0.7).rotateY(-turn).translate(...foot);
    const fast = risen(foot[1]);
    shape.add('weed', told(bladder, { uv: () => [0.5, 0], paint: () => [fast, 0, own] }), {}, true);
    shape.add(
      'weed',
      told(blade, {
        uv: (k) => [(k % (ACROSS + 1)) / ACROSS, row(k)],
        // A blade goes with the stipe where it is fast to it, and farther the farther out.
        paint: (k) => [Math.min(1, fast + 0.12 * row(k)), row(k), own],
      }),
      {},
      true,
    );
  }
  return shape;
}

