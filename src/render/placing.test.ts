/** Rooms, turns and free places, against three.js: the meshes that are drawn, and its own Euler angles. */
import fc from 'fast-check';
import { Box3, Euler, Mesh, Quaternion, Vector3 } from 'three';
import { stageOf } from '../../tests/fixtures/stages.js';
import { PRIMITIVES, addProp, type Vec3 } from '../core/scene/edits.js';
import { boxOf, degreesOf, freePlace, turnOf, turnedBy } from '../core/scene/placing.js';
import { SEGMENTS, cut, resized, segmentsOf, sizesOf } from '../core/scene/primitives.js';
import type { Primitive, Stage } from '../core/scene/stage.js';
import { geometryOf } from './geometry.js';

const degrees = fc.tuple(...[0, 1, 2].map(() => fc.integer({ min: -180, max: 180 }))) as fc.Arbitrary<Vec3>;
const scales = fc.tuple(...[0, 1, 2].map(() => fc.integer({ min: 1, max: 40 }).map((n) => n / 10))) as fc.Arbitrary<Vec3>;
const SEED = { seed: 20261128, numRuns: 60 };

test('a turn in degrees is three.js’s Euler angles in the order XYZ, both ways', () => {
  fc.assert(
    fc.property(degrees, (turn) => {
      const theirs = new Quaternion().setFromEuler(new Euler(...(turn.map((d) => (d * Math.PI) / 180) as Vec3), 'XYZ'));
      const ours = turnOf(turn);
      theirs.toArray().forEach((v, k) => expect(ours[k]).toBeCloseTo(v, 12));
      // Other angles may make the same turn.
      const again = new Quaternion(...turnOf(degreesOf(ours)));
      expect(again.angleTo(theirs)).toBeLessThan(1e-4);
      const [x, y, z] = new Vector3(1, 2, 3).applyQuaternion(theirs).toArray();
      turnedBy(ours, [1, 2, 3]).forEach((v, k) => expect(v).toBeCloseTo([x, y, z][k]!, 9));
    }),
    { ...SEED, numRuns: 400 },
  );
  expect(degreesOf([0, 0, 0, 1])).toEqual([0, 0, 0]);
  expect(degreesOf(turnOf([-90, 0, 0]))).toEqual([-90, 0, 0]);
});

test.each(PRIMITIVES.map(({ name, source }) => [name, source] as const))(
  'the room of a %s holds the mesh that is drawn, and little more',
  (_, source) => {
    const geometry = geometryOf(source as Primitive);
    fc.assert(
      fc.property(degrees, scales, (turn, scale) => {
        const mesh = new Mesh(geometry);
        mesh.quaternion.set(...turnOf(turn));
        mesh.scale.set(...scale);
        mesh.position.set(1, 2, 3);
        mesh.updateMatrixWorld();
        const drawn = new Box3().setFromObject(mesh, true);
        const room = boxOf({ source, place: [1, 2, 3], turn: turnOf(turn), scale });
        const span = Math.max(...drawn.getSize(new Vector3()).toArray());
        for (const [axis, at] of (['x', 'y', 'z'] as const).entries()) {
          expect(room.low[axis]).toBeLessThanOrEqual(drawn.min[at] + 1e-6);
          expect(room.high[axis]).toBeGreaterThanOrEqual(drawn.max[at] - 1e-6);
          expect(drawn.min[at] - room.low[axis]!).toBeLessThan(span);
        }
      }),
      SEED,
    );
    const flat = boxOf({ source, place: [0, 0, 0], turn: [0, 0, 0, 1], scale: [1, 1, 1] });
    const drawn = new Box3().setFromObject(new Mesh(geometry), true);
    [drawn.min.toArray(), drawn.max.toArray()].flat().forEach((v, k) => expect([...flat.low, ...flat.high][k]).toBeCloseTo(v, 3));
    geometry.dispose();
  },
);

test('new props stand on the ground, none in another, in the picture while there is room in it', () => {
  const stage = { ...stageOf([]), props: [] };
  const sees = ([x]: Vec3) => Math.abs(x) < 3;
  for (let k = 0; k < 14; k++) {
    const { name, source } = PRIMITIVES[k % PRIMITIVES.length]!;
    const prop = {
      source,
      place: [0, 0, 0] as Vec3,
      turn: [0, 0, 0, 1] as [number, number, number, number],
      scale: [1, 1, 1] as Vec3,
    };
    const place = freePlace(stage, boxOf(prop), { near: [0, 0, 0], sees });
    expect(sees(place)).toBe(true);
    expect(boxOf({ ...prop, place }).low[1]).toBeCloseTo(0, 3);
    addProp(stage, { id: `p${k}`, name, source, place, effect: null });
  }
  const boxes = stage.props.map((p) => boxOf(p));
  for (const [k, a] of boxes.entries())
    for (const b of boxes.slice(k + 1))
      expect([0, 1, 2].every((axis) => a.low[axis]! < b.high[axis]! && b.low[axis]! < a.high[axis]!)).toBe(false);
  // What is locked, as a set is that all stands in, is in nobody's way.
  const locked = { ...stage, props: (stage.props as Stage['props']).map((p) => ({ ...p, locked: true })) };
  const ball = {
    source: PRIMITIVES[0]!.source,
    place: [0, 0, 0] as Vec3,
    turn: [0, 0, 0, 1] as [number, number, number, number],
  };
  const among = freePlace(locked, boxOf({ ...ball, scale: [1, 1, 1] }), { near: [0, 0, 0], sees });
  expect([among[0], among[2]]).toEqual([0, 0]);
  // Beside what is pressed, along the picture’s own right.
  const box = {
    source: PRIMITIVES[1]!.source,
    place: [0, 0, 0] as Vec3,
    turn: [0, 0, 0, 1] as [number, number, number, number],
    scale: [1, 1, 1] as Vec3,
  };
  const alone = freePlace({ props: [] }, boxOf(box), { near: [2, 0, 1], right: [0, 0, -1] });
  expect(alone).toEqual([2, 0.4, 1]);
});

test('how low it reaches however it is turned; sizes are numbers by their names', () => {
  const plane = { source: PRIMITIVES[2]!.source, place: [0, 3, 0] as Vec3, turn: turnOf([-90, 0, 0]), scale: [1, 1, 1] as Vec3 };
  expect(boxOf(plane).low[1]).toBeCloseTo(3, 9);
  expect(boxOf({ ...plane, turn: turnOf([0, 0, 45]) }).low[1]).toBeCloseTo(3 - 0.8 * Math.SQRT2, 9);
  expect(sizesOf({ primitive: 'box', size: [1, 2, 3] })).toEqual([
    { name: 'width', value: 1 },
    { name: 'height', value: 2 },
    { name: 'depth', value: 3 },
  ]);
  expect(resized({ primitive: 'box', size: [1, 2, 3] }, 1, 5)).toEqual({ primitive: 'box', size: [1, 5, 3] });
  expect(sizesOf({ primitive: 'ring', radius: 1, thickness: 0.2 }).map((s) => s.name)).toEqual(['radius', 'thickness']);
  expect(resized({ primitive: 'ring', radius: 1, thickness: 0.2 }, 1, 0.4)).toEqual({
    primitive: 'ring',
    radius: 1,
    thickness: 0.4,
  });
  expect(sizesOf({ asset: 'hull' })).toEqual([]);
});

test('a primitive is cut into as many parts as is said, or as suit it; its size stays', () => {
  for (const { name, source } of PRIMITIVES) {
    const plain = geometryOf(source as Primitive);
    const same = geometryOf(cut(source, 0, segmentsOf(source)[0]!.value) as Primitive);
    expect([name, same.getAttribute('position').count]).toEqual([name, plain.getAttribute('position').count]);
    const coarse = cut(cut(source, 0, 6), 1, 5);
    expect(segmentsOf(coarse).map((s) => s.value)).toEqual([6, 5]);
    expect(geometryOf(coarse as Primitive).getAttribute('position').count).toBeLessThan(plain.getAttribute('position').count);
    expect(sizesOf(coarse)).toEqual(sizesOf(source));
  }
  // A grid of 3 by 2 has 4 by 3 corners.
  const plane = cut(cut({ primitive: 'plane', size: [1, 1] }, 0, 3), 1, 2) as Primitive;
  expect(geometryOf(plane).getAttribute('position').count).toBe(12);
  expect(segmentsOf(cut(plane, 0, 1e9))[0]!.value).toBe(512);
  expect(Object.keys(SEGMENTS).sort()).toEqual([...new Set(PRIMITIVES.map((p) => (p.source as Primitive).primitive))].sort());
});
