/** Places on the CPU against three.js's matrices and camera; what changes along the surface against differences. */
import { Euler, Matrix3, Matrix4, PerspectiveCamera, Quaternion, Vector3 } from 'three';
import { randomFrom } from '../../../tests/fixtures/sheets.js';
import type { Leaf } from '../ir/leaves.js';
import { tangentOf } from '../mesh/slopes.js';
import { repeated, restLeaves, standLeaves, surfaceLeaves, type RestPoints, type Stand } from './surface.js';

const random = randomFrom(11);
const COUNT = 24;
const plane = (f: (k: number) => number) => Float32Array.from({ length: COUNT }, (_, k) => f(k));
const vectors = (size: number) =>
  Array.from({ length: COUNT }, () => new Vector3(random(), random(), random()).subScalar(0.5).multiplyScalar(size));
const directions = vectors(1).map((v) => v.normalize());
const positions = vectors(1);
const planes = (list: readonly Vector3[]) => [plane((k) => list[k]!.x), plane((k) => list[k]!.y), plane((k) => list[k]!.z)];
const points: RestPoints = {
  count: COUNT,
  position: planes(positions),
  objectNormal: planes(directions),
  faceNormal: planes(directions),
  uv: [plane(random), plane(random)],
  uv1: [plane(random), plane(random)],
  vertexColour: [plane(random), plane(random), plane(random), plane(random)],
  slopes: {},
};

/** Turned, moved, scaled unevenly, and mirrored where `mirror` is -1. */
const modelOf = (mirror: number) =>
  new Matrix4().compose(
    new Vector3(0.4, -0.2, 0.7),
    new Quaternion().setFromEuler(new Euler(0.3, 0.9, -0.4)),
    new Vector3(1.5, 0.6, 0.9 * mirror),
  );
const camera = new PerspectiveCamera(40, 1.6, 0.1, 50);
camera.position.set(2, 1.5, 4);
camera.lookAt(0.2, 0.1, 0);
camera.setViewOffset(160, 100, 10, 5, 160, 100);
camera.updateMatrixWorld(true);
const eye = { model: camera.matrixWorld.elements, projection: camera.projectionMatrix.elements };

const at = (list: readonly (number | Float32Array)[], k: number): number[] =>
  list.map((p) => (typeof p === 'number' ? p : p[k]!));
const close = (found: readonly number[], wanted: readonly number[], digits = 5) =>
  wanted.forEach((w, lane) => expect(found[lane]).toBeCloseTo(w, digits));

describe.each([1, -1])('a prop scaled unevenly, and by %d', (mirror) => {
  const model = modelOf(mirror);
  const stand: Stand = { model: model.elements, eye };
  const turn = new Matrix3().getNormalMatrix(model);
  const outwards = (k: number) => directions[k]!.clone().applyMatrix3(turn).normalize();

  test('points, normals, view, depth and place on the screen are those of the camera', () => {
    const { leaves, world } = surfaceLeaves(points, stand, null);
    let behind = 0;
    for (let k = 0; k < COUNT; k++) {
      const place = positions[k]!.clone().applyMatrix4(model);
      const to = camera.position.clone().sub(place);
      const n = outwards(k);
      const side = n.dot(to) >= 0 ? 1 : -1;
      if (side < 0) behind++;
      const normal = n.clone().multiplyScalar(side);
      close(at(world, k), place.toArray());
      close(at(leaves.worldPosition!, k), place.toArray());
      close(at(leaves.normal!, k), normal.toArray());
      close(at(leaves.objectNormal!, k), directions[k]!.clone().multiplyScalar(side).toArray());
      close(at(leaves.viewNormal!, k), normal.clone().transformDirection(camera.matrixWorldInverse).toArray());
      close(at(leaves.view!, k), to.clone().normalize().toArray());
      close(at(leaves.facing!, k), [side > 0 ? 1 : 0]);
      close(at(leaves.eyeDepth!, k), [-place.clone().applyMatrix4(camera.matrixWorldInverse).z]);
      const seen = place.clone().project(camera);
      close(at(leaves.screen!, k), [(seen.x + 1) / 2, (seen.y + 1) / 2]);
    }
    expect([behind > 3, behind < COUNT - 3]).toEqual([true, true]);
  });

  test('at rest the same, turned to no side', () => {
    const leaves = restLeaves(points, stand);
    for (let k = 0; k < COUNT; k++) {
      const place = positions[k]!.clone().applyMatrix4(model);
      close(at(leaves.worldPosition!, k), place.toArray());
      close(at(leaves.normal!, k), outwards(k).toArray());
      close(at(leaves.viewNormal!, k), outwards(k).transformDirection(camera.matrixWorldInverse).toArray());
      close(at(leaves.view!, k), camera.position.clone().sub(place).normalize().toArray());
      close(at(leaves.eyeDepth!, k), [-place.clone().applyMatrix4(camera.matrixWorldInverse).z]);
    }
  });

  test('what changes along the surface is what differences say', () => {
    // A surface that bends: its normal turns by this along each axis.
    const bends = { t: vectors(0.6), b: vectors(0.6) };
    const slopes = { objectNormalDt: planes(bends.t), objectNormalDb: planes(bends.b) };
    const leaves = restLeaves({ ...points, slopes }, stand);
    const step = 1e-3;
    for (const axis of ['t', 'b'] as const) {
      const along = directions.map((n) => {
        const t = new Vector3(...tangentOf(n.toArray() as [number, number, number]));
        return axis === 't' ? t : n.clone().cross(t);
      });
      const shifted = (by: number) =>
        restLeaves(
          {
            ...points,
            position: planes(positions.map((p, k) => p.clone().addScaledVector(along[k]!, by))),
            objectNormal: planes(directions.map((n, k) => n.clone().addScaledVector(bends[axis][k]!, by))),
          },
          stand,
        );
      const [after, before] = [shifted(step), shifted(-step)];
      for (const leaf of ['worldPosition', 'normal', 'viewNormal', 'view', 'eyeDepth'] as const)
        for (let k = 0; k < COUNT; k++) {
          const [high, low] = [at(after[leaf]!, k), at(before[leaf]!, k)];
          const wanted = high.map((h, lane) => (h - low[lane]!) / (2 * step));
          at(leaves[`${leaf}D${axis}` as Leaf]!, k).forEach((d, lane) => expect(Math.abs(d - wanted[lane]!)).toBeLessThan(2e-3));
        }
      for (let k = 0; k < COUNT; k++) close(at(leaves[`positionD${axis}`]!, k), along[k]!.toArray());
    }
  });

  test('where the mesh knows no bend, the normal does not turn', () => {
    const leaves = restLeaves(points, stand);
    for (const leaf of ['normalDt', 'normalDb', 'viewNormalDt', 'viewNormalDb'] as const)
      for (let k = 0; k < COUNT; k++) close(at(leaves[leaf]!, k), [0, 0, 0]);
  });

  test('a moved surface has the normal of where it went: tangents and offset together', () => {
    const offsets = vectors(0.4);
    const along = [vectors(0.5), vectors(0.5)] as const;
    const moved = { offset: planes(offsets), along: [planes(along[0]), planes(along[1])] as const };
    const { leaves, world } = surfaceLeaves(points, stand, moved);
    for (let k = 0; k < COUNT; k++) {
      const place = positions[k]!.clone().add(offsets[k]!).applyMatrix4(model);
      close(at(world, k), place.toArray());
      // The position that is read is the one it had.
      close(at(leaves.worldPosition!, k), positions[k]!.clone().applyMatrix4(model).toArray());
      const tangent = new Vector3(...tangentOf(directions[k]!.toArray() as [number, number, number]));
      const bitangent = directions[k]!.clone().cross(tangent);
      const bent = tangent.clone().add(along[0][k]!).cross(bitangent.clone().add(along[1][k]!)).normalize();
      const n = bent.clone().applyMatrix3(turn).normalize();
      const side = n.dot(camera.position.clone().sub(place)) >= 0 ? 1 : -1;
      close(at(leaves.normal!, k), n.multiplyScalar(side).toArray());
      close(at(leaves.objectNormal!, k), bent.multiplyScalar(side).toArray());
    }
  });

  test('without an eye each point is seen from its front, and a little from aside', () => {
    const around = planes(
      directions
        .slice(1)
        .concat(directions[0]!)
        .map((d) => d.clone()),
    );
    const { leaves } = surfaceLeaves(points, { model: model.elements, eye: null, around }, null);
    expect([leaves.eyeDepth, leaves.screen, leaves.eye]).toEqual([undefined, undefined, undefined]);
    for (let k = 0; k < COUNT; k++) {
      const n = outwards(k);
      close(at(leaves.facing!, k), [1]);
      close(at(leaves.normal!, k), n.toArray());
      close(
        at(leaves.view!, k),
        n
          .clone()
          .add(directions[(k + 1) % COUNT]!)
          .normalize()
          .toArray(),
      );
    }
  });
});

test('what is the same all over a prop are the columns of its matrix and of the eye, and half the lens', () => {
  const model = modelOf(1);
  const [x, y, z] = [new Vector3(), new Vector3(), new Vector3()];
  model.extractBasis(x, y, z);
  const leaves = standLeaves({ model: model.elements, eye });
  close(leaves.modelX!, x.toArray());
  close(leaves.modelY!, y.toArray());
  close(leaves.modelZ!, z.toArray());
  close(leaves.pivot!, [0.4, -0.2, 0.7]);
  camera.matrixWorld.extractBasis(x, y, z);
  close(leaves.eyeRight!, x.toArray());
  close(leaves.eyeUp!, y.toArray());
  close(leaves.eyeBack!, z.toArray());
  close(leaves.eye!, camera.position.toArray());
  // Half of what a metre across spans at a metre's depth, as a share of the picture.
  const upright = 1 / (2 * Math.tan((20 * Math.PI) / 180));
  close(leaves.lens!, [upright / 1.6, upright]);
});

test('one point over many moments is that point, with all that it carries', () => {
  const slopes = { uvDt: points.uv };
  const many = repeated({ ...points, slopes }, 7, 3);
  expect(many.count).toBe(3);
  for (const name of ['position', 'objectNormal', 'faceNormal', 'uv', 'uv1', 'vertexColour'] as const)
    many[name].forEach((p, lane) => expect([...p]).toEqual(Array(3).fill(points[name][lane]![7])));
  many.slopes.uvDt!.forEach((p, lane) => expect([...p]).toEqual(Array(3).fill(points.uv[lane]![7])));
});
