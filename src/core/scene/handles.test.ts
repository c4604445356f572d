/** Against three, an independent library, where it has the same; else against geometry that is plain to see. */
import { Quaternion as ThreeQuaternion, Ray as ThreeRay, Plane, Vector3 } from 'three';
import { across, alongAxis, angleAbout, onPlane, turnedAbout, type Ray } from './handles.js';
import type { Vec3 } from './edits.js';

const unit = (v: Vec3): Vec3 => v.map((x) => x / Math.hypot(...v)) as Vec3;
/** From a point through another. */
const ray = (origin: Vec3, to: Vec3): Ray => ({ origin, direction: unit(to.map((v, k) => v - origin[k]!) as Vec3) });

test('a ray through a point of an axis finds that point, however the axis lies', () => {
  for (const axis of [[1, 0, 0], [0, 1, 0], [0, 0, 1], unit([1, 2, -0.5])] as Vec3[])
    for (const metres of [-1.5, 0, 0.3, 4]) {
      const through: Vec3 = [0.2, 0.4, -0.1];
      const point = through.map((v, k) => v + axis[k]! * metres) as Vec3;
      expect(alongAxis(ray([3, 5, 7], point), through, axis)).toBeCloseTo(metres, 9);
    }
  expect(alongAxis(ray([0, 0, 5], [0, 0, 0]), [0, 0, 0], [0, 0, 1])).toBeNull();
});

test('a ray that passes an axis finds where it comes nearest', () => {
  // Straight down onto the floor, half a metre beside the x axis, at 2.
  expect(alongAxis(ray([2, 4, 0.5], [2, 0, 0.5]), [0, 0, 0], [1, 0, 0])).toBeCloseTo(2, 12);
});

test('where a ray meets a plane is where three says, and nowhere behind the eye', () => {
  const cases: [Vec3, Vec3, Vec3, Vec3][] = [
    [
      [1, 2, 3],
      [0, 0, 0],
      [0, 0, 0],
      [0, 1, 0],
    ],
    [[4, 1, -2], [0.5, 0.2, 1], [0, 0.3, 0.1], unit([1, 1, 0.2])],
  ];
  for (const [origin, to, through, normal] of cases) {
    const r = ray(origin, to);
    const plane = new Plane().setFromNormalAndCoplanarPoint(new Vector3(...normal), new Vector3(...through));
    const want = new ThreeRay(new Vector3(...r.origin), new Vector3(...r.direction)).intersectPlane(plane, new Vector3())!;
    onPlane(r, through, normal)!.forEach((v, k) => expect(v).toBeCloseTo(want.toArray()[k]!, 9));
  }
  expect(onPlane(ray([0, 1, 0], [0, 2, 0.1]), [0, 0, 0], [0, 1, 0])).toBeNull();
});

test('a quarter on about an axis is a quarter more, right-handed', () => {
  for (const axis of [[1, 0, 0], [0, 1, 0], [0, 0, 1], unit([1, 2, 3])] as Vec3[]) {
    const [u, v] = across(axis);
    const eye = axis.map((x) => x * 5) as Vec3;
    const at = (p: Vec3) => angleAbout(ray(eye, p), [0, 0, 0], axis)!;
    expect(at(v) - at(u)).toBeCloseTo(Math.PI / 2, 9);
    const turned = new Vector3(...u).applyAxisAngle(new Vector3(...axis), Math.PI / 2).toArray();
    turned.forEach((x, k) => expect(x).toBeCloseTo(v[k]!, 9));
  }
});

test('a turn about an axis after another turn is three’s product', () => {
  const first = new ThreeQuaternion().setFromAxisAngle(new Vector3(...unit([0.3, 1, -2])), 0.8);
  for (const [axis, radians] of [
    [[0, 1, 0], 0.5],
    [unit([1, -1, 0.5]), -2],
  ] as [Vec3, number][]) {
    const want = new ThreeQuaternion()
      .setFromAxisAngle(new Vector3(...axis), radians)
      .multiply(first)
      .toArray();
    turnedAbout(axis, radians, first.toArray()).forEach((v, k) => expect(v).toBeCloseTo(want[k]!, 12));
  }
});
