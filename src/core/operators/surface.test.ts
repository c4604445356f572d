import { Matrix3, Matrix4, Quaternion, Vector3 } from 'three';
import { applier } from '../../../tests/fixtures/read.js';
import { effectOf, randomFrom } from '../../../tests/fixtures/sheets.js';
import { readerOf } from '../../../tests/fixtures/read.js';

const random = randomFrom(3);
const near = (got: readonly number[], wanted: readonly number[], digits = 5) =>
  wanted.forEach((w, k) => expect(got[k]).toBeCloseTo(w, digits));
const unit = (): [number, number, number] => {
  const v = new Vector3(random() - 0.5, random() - 0.5, random() - 0.5).normalize();
  return [v.x, v.y, v.z];
};

describe('normal from height', () => {
  test('a paraboloid’s normal, from its closed form, whatever the pixel’s two directions', () => {
    // h = x^2 + 2 x z over the plane y = 0: the normal of (x, h, z) is (-dh/dx, 1, -dh/dz), of length 1.
    const effect = effectOf([
      { id: 'p', name: 'P', op: 'position', options: { space: 'world' } },
      {
        id: 'h',
        name: 'H',
        op: 'formula',
        inputs: { a: { from: 'p' }, formula: { value: { text: 'a.x * a.x + 2.0 * a.x * a.z' } } },
      },
      { id: 'n', name: 'N', op: 'normalFromHeight', inputs: { height: { from: 'h' } } },
    ]);
    const read = readerOf(effect, 'n');
    for (const [x, z] of [
      [0.3, -0.2],
      [-0.6, 0.5],
      [0, 0],
    ] as const)
      for (const [right, up] of [
        [
          [0.01, 0, 0],
          [0, 0, -0.01],
        ],
        [
          [1e-6, 0, 2e-6],
          [3e-6, 0, -1e-6],
        ],
      ]) {
        const got = read({ worldPosition: [x, 0, z], normal: [0, 1, 0], worldPositionDx: right!, worldPositionDy: up! });
        const wanted = new Vector3(-(2 * x + 2 * z), 1, -(2 * x)).normalize();
        near(got, [wanted.x, wanted.y, wanted.z], 4);
      }
  });
  test('follows texture coordinates too, and is flat where nothing is known of the neighbours', () => {
    const effect = effectOf([
      { id: 'uv', name: 'Uv', op: 'uv' },
      { id: 'h', name: 'H', op: 'formula', inputs: { a: { from: 'uv' }, formula: { value: { text: '0.5 * a.x' } } } },
      { id: 'n', name: 'N', op: 'normalFromHeight', inputs: { height: { from: 'h' }, strength: { value: 2 } } },
    ]);
    const read = readerOf(effect, 'n');
    // u grows by 1 over two metres along x: the slope is a half.
    const changes = { worldPositionDx: [0.002, 0, 0], worldPositionDy: [0, 0.002, 0], uvDx: [0.001, 0], uvDy: [0, 0.001] };
    const wanted = new Vector3(-0.5, 0, 1).normalize();
    near(read({ normal: [0, 0, 1], ...changes }), [wanted.x, wanted.y, wanted.z]);
    near(read({ normal: [0, 0, 1] }), [0, 0, 1]);
  });
});

test('normal map: flat is the normal itself; elsewhere the frame of u and v (glTF 2.0: +y along v)', () => {
  const changes = { worldPositionDx: [0.01, 0, 0], worldPositionDy: [0, 0.02, 0], uvDx: [0.01, 0], uvDy: [0, 0.01] };
  near(applier('normalMap', {})({ normal: [0, 0, 1], ...changes }), [0, 0, 1]);
  near(applier('normalMap', { in: [1, 0.5, 0.5] })({ normal: [0, 0, 1], ...changes }), [1, 0, 0]);
  near(applier('normalMap', { in: [0.5, 1, 0.5] })({ normal: [0, 0, 1], ...changes }), [0, 1, 0]);
  const tilted = applier(
    'normalMap',
    { in: [0.6, 0, 0.8], strength: 0.5 },
    { coded: 'vector' },
  )({ normal: [0, 0, 1], ...changes });
  const wanted = new Vector3(0.3, 0, 0.8).normalize();
  near(tilted, [wanted.x, wanted.y, wanted.z]);
});

test('blend normals: reoriented is the detail turned by the shortest arc from z to the base (three.js)', () => {
  for (let k = 0; k < 30; k++) {
    const a = new Vector3(random() - 0.5, random() - 0.5, 0.4 + random()).normalize();
    const c = new Vector3(random() - 0.5, random() - 0.5, 0.4 + random()).normalize();
    const turned = c.clone().applyQuaternion(new Quaternion().setFromUnitVectors(new Vector3(0, 0, 1), a));
    near(applier('blendNormals', { a: a.toArray(), b: c.toArray() })(), turned.toArray(), 4);
    // Whiteout: slopes added, heights multiplied (Barre-Brisebois and Hill 2012).
    const white = new Vector3(a.x + c.x, a.y + c.y, a.z * c.z).normalize();
    near(applier('blendNormals', { a: a.toArray(), b: c.toArray() }, { how: 'whiteout' })(), white.toArray(), 4);
  }
});

describe('refract offset', () => {
  const looking = (degrees: number) => {
    const a = (degrees * Math.PI) / 180;
    return { view: [Math.sin(a), 0, Math.cos(a)], normal: [0, 0, 1], eyeDepth: [4], lens: [0.5, 0.8], depthGap: [0.5] } as const;
  };
  test('by the index: Snell’s angle below water, at the incidence of several views', () => {
    for (const degrees of [10, 35, 60]) {
      const [x] = applier('refractOffset', { index: 1.333 }, { by: 'index' })(looking(degrees));
      const sin = Math.sin((degrees * Math.PI) / 180);
      const below = Math.asin(sin / 1.333);
      // Both rays reach 0.5 m down; the bent one lands less far away from the eye.
      const aside = 0.5 * (Math.tan((degrees * Math.PI) / 180) - Math.tan(below));
      expect(x).toBeCloseTo((aside / 4.5) * 0.5, 5);
    }
  });
  test('by a strength: nothing when touching, more the deeper, along the way the surface leans', () => {
    const at = (depth: number) =>
      applier('refractOffset', { strength: 0.2, depth })({ normal: [0.6, 0, 0.8], eyeDepth: [2], lens: [1, 1] })[0]!;
    expect(at(0)).toBeCloseTo(0, 9);
    expect(at(1)).toBeCloseTo((-0.6 * 0.2) / 3, 6);
    expect(Math.abs(at(2))).toBeGreaterThan(Math.abs(at(1)));
  });
});

test('absorb: Beer-Lambert, with the absorption of pure water per metre at 650, 550, 450 nm (Pope and Fry 1997, from memory)', () => {
  const left = applier('absorb', { thickness: 3, absorption: [0.34, 0.0565, 0.00922] })();
  near(left, [Math.exp(-1.02), Math.exp(-0.1695), Math.exp(-0.02766)]);
  near(applier('absorb', { thickness: -2, absorption: [1, 1, 1] })(), [1, 1, 1]);
});

describe('Gerstner waves', () => {
  const one = (wavelength: number) => ({ wavelengths: [wavelength, 1, 1, 1], steepness: [0.1, 0, 0, 0], headings: [0, 0, 0, 0] });
  // Deep-water dispersion w^2 = g k, g = 9.80665: wavelength, period and speed as handbooks give them.
  test.each([
    [1, 0.80044, 1.24931],
    [10, 2.53122, 3.95067],
    [100, 8.00441, 12.49311],
  ])('a wave of %d m has a period of %d s and goes %d m/s', (wavelength, period, speed) => {
    const read = applier('gerstner', one(wavelength), {}, { loop: null });
    const at = (x: number, time: number) => read({ position: [x, 0, 0.3], time: [time] });
    near(at(0.2, period), at(0.2, 0), 4);
    near(at(0.2 + speed * 0.7, 0.7), at(0.2, 0), 4);
    expect(at(0.2, period / 2)[1]).toBeCloseTo(-at(0.2, 0)[1]!, 4);
  });
  test('points go in circles of radius steepness / k, and crests stand over the direction of travel', () => {
    const read = applier('gerstner', one(2), {}, { loop: null });
    for (let k = 0; k < 8; k++) {
      const [x, y] = read({ position: [0.3, 0, 0], time: [k * 0.13] });
      expect(Math.hypot(x!, y!)).toBeCloseTo((0.1 * 2) / (2 * Math.PI), 5);
    }
  });
  test('the normal is that of the moved surface, by differences of its points', () => {
    const inputs = { wavelengths: [3, 1.7, 1.1, 0.9], steepness: [0.2, 0.1, 0.15, 0.05], headings: [0, 60, -40, 130] };
    const offset = applier('gerstner', inputs, {}, { port: 'offset' });
    const normal = applier('gerstner', inputs, {}, { port: 'normal' });
    const point = (x: number, z: number) =>
      new Vector3(x, 0, z).add(new Vector3().fromArray(offset({ position: [x, 0, z], time: [0.7] })));
    for (const [x, z] of [
      [0.1, 0.2],
      [1.3, -0.4],
      [-2.1, 0.9],
    ] as const) {
      const e = 1e-3;
      const along = point(x + e, z).sub(point(x - e, z));
      const across = point(x, z + e).sub(point(x, z - e));
      const wanted = across.cross(along).normalize();
      near(normal({ position: [x, 0, z], time: [0.7] }), wanted.toArray(), 3);
    }
  });
  test('asked to close, every wave makes whole turns in the loop', () => {
    const read = applier('gerstner', { wavelengths: [3, 1.7, 1.1, 0.9] }, { over: 'loop' }, { loop: 4 });
    const at = (time: number) => read({ position: [0.4, 0, 0.2], time: [time], loop: [4] });
    near(at(4), at(0), 4);
    expect(Math.abs(at(2.3)[1]! - at(0)[1]!)).toBeGreaterThan(1e-3);
  });
});

test('bend keeps the length from the root, and turns as three.js does', () => {
  for (let k = 0; k < 20; k++) {
    const [position, root, axis] = [unit(), [0.1, -0.2, 0.3], unit()];
    const angle = random() * 160 - 80;
    const offset = applier('bend', { position, root, axis, angle })();
    const moved = new Vector3().fromArray(position).add(new Vector3().fromArray(offset));
    const from = new Vector3().fromArray(position).sub(new Vector3().fromArray(root));
    const wanted = from
      .clone()
      .applyAxisAngle(new Vector3().fromArray(axis), (angle * Math.PI) / 180)
      .add(new Vector3().fromArray(root));
    near(moved.toArray(), wanted.toArray(), 4);
    expect(moved.distanceTo(new Vector3().fromArray(root))).toBeCloseTo(from.length(), 4);
  }
});

test('sway: the root stays, the tip goes, and what is heavier leans further downstream', () => {
  const tip = applier('sway', { amount: 0.3, lean: 0.5, flutter: 0 });
  const root = applier('sway', { amount: 0.3, mask: 0 });
  let mean = 0;
  for (let k = 0; k < 200; k++) {
    const point = { position: [0.1, 0.8, 0], time: [k * 0.37] };
    near(root(point), [0, 0, 0]);
    const [x, y, z] = tip(point);
    mean += x! / 200;
    near([y!, z!], [0, 0]);
    expect(Math.abs(x!)).toBeLessThanOrEqual(0.3 * 1.5 + 1e-5);
  }
  expect(mean).toBeCloseTo(0.15, 1);
});

test('foam: all of it at touching, none from its width on, whatever the noise', () => {
  for (const noise of [-1, -0.3, 0.4, 1]) {
    const at = (gap: number, width = 0.4) => applier('foam', { gap, width, noise, softness: 0.1 })()[0]!;
    expect(at(0)).toBe(1);
    expect(at(0.41)).toBe(0);
    expect(at(1, 0)).toBe(0);
  }
  const some = (noise: number) => applier('foam', { gap: 0.2, width: 0.4, noise })()[0]!;
  expect(some(0.9)).toBeGreaterThan(some(-0.9));
  // Where nothing is given it is torn all the same: some of it is foam and some of it is water, half way in.
  const own = applier('foam', { gap: 0.2, width: 0.4 });
  const over = Array.from({ length: 200 }, (_, k) => own({ worldPosition: [k * 0.037, 0, (k % 7) * 0.11] })[0]!);
  expect(Math.min(...over)).toBeLessThan(0.05);
  expect(Math.max(...over)).toBeGreaterThan(0.95);
  expect(over.reduce((a, b) => a + b) / over.length).toBeGreaterThan(0.2);
  expect(over.reduce((a, b) => a + b) / over.length).toBeLessThan(0.8);
});

describe('transform', () => {
  const model = new Matrix4().compose(
    new Vector3(1, 2, -3),
    new Quaternion().setFromAxisAngle(new Vector3(0.6, 0, 0.8), 0.7),
    new Vector3(2, 0.5, 1.5),
  );
  const camera = new Matrix4().lookAt(new Vector3(4, 2, 5), new Vector3(), new Vector3(0, 1, 0)).setPosition(4, 2, 5);
  const column = (m: Matrix4, k: number) => m.elements.slice(4 * k, 4 * k + 3);
  const place = {
    ...{ modelX: column(model, 0), modelY: column(model, 1), modelZ: column(model, 2), pivot: column(model, 3) },
    ...{ eyeRight: column(camera, 0), eyeUp: column(camera, 1), eyeBack: column(camera, 2), eye: column(camera, 3) },
  };
  const toWorld = { object: model, world: new Matrix4(), view: camera };
  const spaces = ['object', 'world', 'view'] as const;
  test.each(spaces.flatMap((from) => spaces.map((to) => [from, to] as const)))(
    'from %s to %s, as three.js’s matrices do',
    (from, to) => {
      const v = new Vector3(0.4, -0.7, 1.1);
      const whole = toWorld[to].clone().invert().multiply(toWorld[from]);
      const at = (what: string) => applier('transform', { in: v.toArray() }, { from, to, what })(place);
      near(at('point'), v.clone().applyMatrix4(whole).toArray(), 4);
      const linear = new Matrix3().setFromMatrix4(whole);
      near(at('direction'), v.clone().applyMatrix3(linear).toArray(), 4);
      if (from !== to) {
        const normal = v.clone().normalize().applyMatrix3(new Matrix3().getNormalMatrix(whole)).normalize().toArray();
        const got = applier('transform', { in: v.clone().normalize().toArray() }, { from, to, what: 'normal' })(place);
        near(got, normal, 4);
      }
    },
  );
});

test('triplanar weights add up to 1, and a face of a box is seen along its own axis only', () => {
  const weights = applier('triplanar', { sharpness: 4 }, {}, { port: 'weights' });
  near(weights({ objectNormal: [0, 1, 0] }), [0, 1, 0]);
  for (let k = 0; k < 20; k++) {
    const got = weights({ objectNormal: unit() });
    expect(got.reduce((s, w) => s + w, 0)).toBeCloseTo(1, 5);
  }
  near(applier('triplanar', {}, {}, { port: 'x' })({ position: [1, 2, 3] }), [3, 2]);
});

test('flow: whichever phase starts afresh counts for nothing, and the pattern goes on at the speed of the field', () => {
  const of = (port: string) => applier('flow', { field: [0.2, 0], rate: 0.5 }, {}, { port, loop: null });
  const [first, second, mix] = [of('first'), of('second'), of('mix')];
  const at = (read: typeof first, time: number) => read({ uv: [0.5, 0.5], time: [time] });
  expect(at(mix, 0)[0]).toBeCloseTo(1, 5);
  expect(at(mix, 1)[0]).toBeCloseTo(0, 5);
  const step = (read: typeof first, time: number) => at(read, time + 0.1)[0]! - at(read, time)[0]!;
  expect(step(first, 0.4)).toBeCloseTo(-0.02, 5);
  expect(step(second, 0.4)).toBeCloseTo(-0.02, 5);
});

test('parallax: a mark below the surface is met where the ray of sight goes', () => {
  // Seen at 45 degrees along x over a plane where u is one metre: 0.1 m deep is 0.1 m aside.
  const view = [Math.SQRT1_2, 0, Math.SQRT1_2];
  const changes = { worldPositionDx: [0.01, 0, 0], worldPositionDy: [0, 0.01, 0], uvDx: [0.01, 0], uvDy: [0, 0.01] };
  near(applier('parallax', { depth: 0.1 })({ uv: [0.5, 0.5], view, normal: [0, 0, 1], ...changes }), [0.4, 0.5], 4);
});

test('contact: 1 at touching, 0 from its width on, by the power between', () => {
  const at = (gap: number, more = {}) => applier('contact', { gap, width: 0.4, ...more })()[0]!;
  expect([at(0), at(-1), at(0.4), at(9)]).toEqual([1, 1, 0, 0]);
  expect(at(0.1)).toBeCloseTo(0.75, 5);
  expect(at(0.1, { falloff: 3 })).toBeCloseTo(0.75 ** 3, 5);
  expect(at(0.15, { offset: 0.05 })).toBeCloseTo(0.75, 5);
  expect([at(0.001, { width: 0 }), at(0, { width: 0 })]).toEqual([0, 1]);
  expect(applier('contact', { width: 0.5 })({ depthGap: [0.25] })[0]).toBeCloseTo(0.5, 5);
});
