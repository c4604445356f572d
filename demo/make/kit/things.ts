/** What effects are worn by: a specimen, a small submersible, a ray drone and its fin. */
import { BufferAttribute, IcosahedronGeometry, TorusGeometry, type BufferGeometry } from 'three';
import { mergeVertices } from 'three/examples/jsm/utils/BufferGeometryUtils.js';
import { Shape, bar, block, cable, grid, turned, type Triple } from '../shape.js';

/** A ball of few corners, each of them once. */
const KNOB = (() => {
  const ball = new IcosahedronGeometry(1, 1);
  ball.deleteAttribute('normal');
  ball.deleteAttribute('uv');
  const welded = mergeVertices(ball, 1e-4);
  welded.computeVertexNormals();
  return welded;
})();

/** An urchin's shell, 0.8 m wide, standing on the origin: ten double rows of knobs on a ribbed sphere. */
export function urchin(): Shape {
  const [radius, flat] = [0.4, 0.8];
  const at = (a: number, b: number, out = 0): Triple => {
    // a around, b from its mouth below to its top.
    const rib = 1 - 0.045 * Math.abs(Math.cos(5 * a)) ** 0.7 - 0.02 * Math.abs(Math.cos(10 * a));
    const pole = Math.sin(b) ** 0.92;
    const r = radius * rib + out;
    return [r * pole * Math.cos(a), (radius * flat + out) * -Math.cos(b) + radius * flat * 0.97, r * pole * Math.sin(a)];
  };
  const shape = new Shape().add(
    'shell',
    grid(160, 44, (i, j) => at((-i / 160) * 2 * Math.PI, 0.12 + (j / 44) * (Math.PI - 0.2))),
    {},
    true,
  );
  for (let row = 0; row < 20; row++)
    for (let k = 0; k < 12; k++) {
      const b = 0.45 + (k / 11) * 2.3;
      const size = 0.019 * (0.45 + 0.75 * Math.sin(b));
      const a = ((row + 0.5) / 20) * 2 * Math.PI + (row % 2 ? 0.03 : -0.03);
      shape.add('shell', KNOB.clone(), { at: at(a, b, 0.002), scale: size, tint: 1.15 });
    }
  const uv = shape.pieces[0]!.geometry.getAttribute('position');
  const around = new Float32Array(uv.count * 2);
  for (let k = 0; k < uv.count; k++) around.set([(k % 161) / 160, Math.floor(k / 161) / 44], 2 * k);
  shape.pieces[0]!.geometry.setAttribute('uv', new BufferAttribute(around, 2));
  return shape.add('iron', new TorusGeometry(0.05, 0.012, 8, 24), { at: [0, radius * flat * 1.95, 0], turn: [90, 0, 0] });
}

/** A submersible for two, 1.6 m long, along x, its nose to +x, its middle in the origin. */
export function submersible(): Shape {
  const hull: (readonly [number, number])[] = [
    [0.02, -0.78],
    [0.1, -0.74],
    [0.17, -0.62],
    [0.25, -0.4],
    [0.3, -0.15],
    [0.31, 0.15],
    [0.29, 0.38],
    [0.24, 0.52],
  ];
  const shape = new Shape().add('enamel', turned(hull, 40), { turn: [0, 0, -90] });
  shape.add('glass', turned([[0.235, 0], [0.22, 0.07], [0.17, 0.14], [0.09, 0.185], [0, 0.2]], 32), { at: [0.53, 0, 0], turn: [0, 0, -90] });
  for (const x of [0.52, 0.16, -0.16, -0.44]) shape.add('iron', new TorusGeometry(x > 0.5 ? 0.24 : x < -0.4 ? 0.238 : 0.312, 0.014, 8, 40), { at: [x, 0, 0], turn: [0, 90, 0] });
  shape.add('trim', turned([[0.315, -0.07], [0.318, 0], [0.315, 0.07]], 40), { at: [0.0, 0, 0], turn: [0, 0, -90] });
  shape.add('enamel', turned([[0.16, 0], [0.16, 0.12], [0.14, 0.15], [0, 0.16]], 24), { at: [-0.02, 0.27, 0] });
  shape.add('iron', new TorusGeometry(0.12, 0.014, 8, 28), { at: [-0.02, 0.43, 0], turn: [90, 0, 0] });
  for (const z of [-1, 1]) {
    shape.add('iron', cable([[-0.5, -0.36, z * 0.2], [0, -0.37, z * 0.21], [0.45, -0.36, z * 0.2], [0.6, -0.3, z * 0.18]], 0.022, { around: 8, along: 20 }));
    for (const x of [-0.34, 0.28]) shape.add('iron', bar(0.014, 0.16, 8), { at: [x, -0.3, z * 0.2] });
    shape.add('trim', block([0.22, 0.02, 0.2], 0.008), { at: [-0.58, 0, z * 0.27] });
    shape.add('iron', turned([[0.07, -0.08], [0.085, -0.04], [0.085, 0.06], [0.07, 0.08]], 20), { at: [-0.3, 0.05, z * 0.4], turn: [0, 0, -90] });
    shape.add('iron', bar(0.016, 0.12, 8), { at: [-0.3, 0.05, z * 0.33], turn: [90, 0, 0] });
    shape.add('iron', turned([[0.001, 0], [0.045, 0.01], [0.05, 0.07], [0.03, 0.09]], 16), { at: [0.56, 0.26, z * 0.15], turn: [0, 0, 90] });
    shape.add('port', bar(0.042, 0.008, 16), { at: [0.57, 0.26, z * 0.15], turn: [0, 0, 90] });
  }
  shape.add('trim', block([0.2, 0.24, 0.02], 0.008), { at: [-0.6, 0.15, 0] });
  shape.add('iron', turned([[0.16, -0.05], [0.175, 0], [0.16, 0.06]], 28), { at: [-0.82, 0, 0], turn: [0, 0, -90] });
  for (let k = 0; k < 4; k++) shape.add('copper', block([0.012, 0.15, 0.055], 0.004), { at: [-0.82, 0.075 * Math.cos((k * Math.PI) / 2), 0.075 * Math.sin((k * Math.PI) / 2)], turn: [(k * 90), 25, 0] });
  shape.add('copper', cable([[0.42, -0.22, 0.12], [0.66, -0.26, 0.2], [0.78, -0.14, 0.16], [0.86, -0.16, 0.1]], 0.016, { around: 8, along: 14 }));
  return shape.add('copper', cable([[0.42, -0.22, -0.12], [0.66, -0.24, -0.2], [0.8, -0.2, -0.16], [0.86, -0.2, -0.08]], 0.016, { around: 8, along: 14 }));
}

/** The body of a ray drone, 0.9 m long without its tail, its nose to +x, its middle in the origin. */
export function rayBody(): Shape {
  const hull: (readonly [number, number])[] = [
    [0.012, -0.44],
    [0.05, -0.4],
    [0.1, -0.28],
    [0.142, -0.08],
    [0.15, 0.1],
    [0.135, 0.26],
    [0.1, 0.37],
    [0.05, 0.43],
    [0.001, 0.445],
  ];
  const flat = { turn: [0, 0, -90] as Triple, scale: [0.62, 1, 1] as Triple };
  const shape = new Shape().add('enamel', turned(hull, 40), { ...flat, tint: [0.3, 0.33, 0.36] });
  // A seam round its middle, a spine, and what it sees and breathes with.
  shape.add('iron', turned([[0.1425, -0.066], [0.1465, -0.06], [0.1465, -0.05], [0.1435, -0.044]], 40), flat);
  shape.add('trim', block([0.36, 0.022, 0.03], 0.008), { at: [-0.06, 0.088, 0], turn: [0, 0, -3] });
  for (const z of [-1, 1]) {
    shape.add('iron', turned([[0.001, 0], [0.02, 0.004], [0.024, 0.03], [0.015, 0.04]], 18), { at: [0.345, 0.036, z * 0.062], turn: [0, z * -28, -72] });
    shape.add('port', bar(0.011, 0.006, 18), { at: [0.378, 0.044, z * 0.079], turn: [0, z * -28, -72] });
    for (let k = 0; k < 4; k++) shape.add('rubber', block([0.05, 0.004, 0.008], 0.001), { at: [0.14 - k * 0.045, 0.076, z * 0.072], turn: [z * 32, z * 12, 0] });
    // What its fins turn on.
    shape.add('iron', bar(0.017, 0.36, 12), { at: [0.03, 0, z * 0.13], turn: [0, 0, 90] });
  }
  shape.add('iron', turned([[0.016, -0.03], [0.026, -0.02], [0.026, 0.02], [0.018, 0.03]], 16), { at: [-0.43, 0, 0], turn: [0, 0, -90] });
  return shape.add('rubber', cable([[-0.42, 0, 0], [-0.62, 0.012, 0], [-0.98, 0.04, 0]], 0.011, { around: 8, along: 18 }), {}, true);
}

/** The fin at the left hand of a ray drone, out to z = 0.68, swept back; u goes from its root to its tip, v from back to front. */
export function rayFin(): Shape {
  const [root, tip, cols, rows] = [0.1, 0.68, 44, 26];
  const side = (up: 1 | -1) =>
    grid(cols, rows, (i, j): Triple => {
      // Closer together towards the tip, where it bends most.
      const s = 1 - (1 - i / cols) ** 1.15;
      const z = (root + (tip - root) * s) * up;
      const front = 0.25 * (1 - s ** 1.7) - 0.2 * s ** 1.3;
      const back = -0.27 * (1 - s ** 1.15) - 0.26 * s;
      const t = j / rows;
      const thick = 0.026 * (1 - s) ** 0.8 + 0.0035;
      return [back + (front - back) * t, up * thick * Math.sqrt(Math.max(0, 1 - (2 * t - 1) ** 2)), Math.abs(z)];
    });
  const shape = new Shape();
  for (const up of [1, -1] as const) {
    const sheet = side(up);
    if (up < 0) flipped(sheet);
    const p = sheet.getAttribute('position');
    const uv = new Float32Array(p.count * 2);
    for (let k = 0; k < p.count; k++) uv.set([(k % (cols + 1)) / cols, Math.floor(k / (cols + 1)) / rows], 2 * k);
    sheet.setAttribute('uv', new BufferAttribute(uv, 2));
    shape.add('enamel', sheet, {}, true);
  }
  return shape;
}

/** Turned inside out: what looked up looks down. */
function flipped(sheet: BufferGeometry): void {
  const index = sheet.getIndex()!;
  for (let k = 0; k < index.count; k += 3) {
    const b = index.getX(k + 1);
    index.setX(k + 1, index.getX(k + 2));
    index.setX(k + 2, b);
  }
  sheet.computeVertexNormals();
}
