/** What effects are worn by: a specimen, a small submersible, a ray drone with painted fins. */
import { BufferAttribute, IcosahedronGeometry, TorusGeometry } from 'three';
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

/** How far a point of the wings is from the body: 0 on it, 1 at the tips; smooth at the body. */
const reach = (z: number): number => {
  const t = Math.max(0, Math.min(1, (Math.abs(z) - 0.1) / 0.55));
  return t * t * (3 - 2 * t);
};

/** A ray drone, 1.3 m across, its nose to +x; red of its paint is 1 at the tips of its fins and 0 on its body. */
export function rayDrone(): Shape {
  const [half, cols, rows] = [0.65, 72, 40];
  const side = (up: 1 | -1) =>
    grid(cols, rows, (i, j): Triple => {
      const z = (i / cols - 0.5) * 2 * half * up;
      const s = Math.abs(z) / half;
      // Swept back, with a long body in the middle.
      const [front, back] = [0.42 * (1 - s ** 1.5) - 0.12 * s, -0.36 * (1 - s ** 1.2) - 0.2 * s];
      const t = j / rows;
      const x = back + (front - back) * t;
      const thick = 0.085 * Math.exp(-((z / 0.14) ** 2)) + 0.02 * (1 - s);
      return [x, up * thick * Math.sqrt(Math.max(0, 1 - (2 * t - 1) ** 2)) ** 0.9, z];
    });
  const shape = new Shape();
  for (const up of [1, -1] as const) {
    const sheet = side(up);
    const p = sheet.getAttribute('position');
    const [paint, uv] = [new Float32Array(p.count * 3), new Float32Array(p.count * 2)];
    for (let k = 0; k < p.count; k++) {
      paint.set([reach(p.getZ(k)), p.getX(k) / 0.8 + 0.5, 0], 3 * k);
      uv.set([p.getZ(k) / (2 * half) + 0.5, p.getX(k) / 0.84 + 0.46], 2 * k);
    }
    sheet.setAttribute('paint', new BufferAttribute(paint, 3)).setAttribute('uv', new BufferAttribute(uv, 2));
    shape.add('enamel', sheet, {}, true);
  }
  const tail = cable([[-0.34, 0, 0], [-0.6, 0.01, 0], [-0.95, 0.03, 0]], 0.012, { around: 7, along: 16 });
  return shape.add('rubber', tail, {}, true);
}
