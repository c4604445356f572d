import { Euler, Quaternion, Vector3 } from 'three';
import { stageOf } from '../../../tests/fixtures/stages.js';
import { MAX_PROPS, addProp, type Vec3 } from './edits.js';
import { freshGroup, moveTogether, scatterProp, spread, spreadAbout, turnTogether } from './scatter.js';
import { readStage, writeStage, type Stage } from './stage.js';

/** A stage with one prop in hand, seeded 1. */
function withOne(): Stage {
  const stage = structuredClone(stageOf()) as Stage;
  stage.props = [];
  addProp(stage, { id: 'a', name: 'Frond', source: { primitive: 'sphere', radius: 0.1 }, place: [1, 0.5, 2], effect: 'e' });
  return stage;
}
const far = (a: readonly number[], b: readonly number[]) => Math.hypot(...a.map((v, k) => v - b[k]!));
const nearest = (places: readonly Vec3[]) =>
  places.map((p, k) => Math.min(...places.filter((_, j) => j !== k).map((q) => far(p, q))));

test('places are spread over all of their area, evenly: none so near to another as chance would have them', () => {
  const places = spreadAbout({ place: [1, 0.5, 2] }, 60, 3, [4, 2]);
  for (const [x, y, z] of places) {
    expect(Math.abs(x - 1)).toBeLessThanOrEqual(2);
    expect(y).toBe(0.5);
    expect(Math.abs(z - 2)).toBeLessThanOrEqual(1);
  }
  // Points by chance are 1 / (2 sqrt(density)) from their nearest in the mean (Clark and Evans 1954); these are farther.
  const chance = 1 / (2 * Math.sqrt(60 / 8));
  const apart = nearest(places);
  expect(apart.reduce((a, b) => a + b) / 60).toBeGreaterThan(1.3 * chance);
  expect(Math.min(...apart)).toBeGreaterThan(0.5 * chance);
  expect(spreadAbout({ place: [1, 0.5, 2] }, 60, 3, [4, 2])).toEqual(places);
  expect(spreadAbout({ place: [1, 0.5, 2] }, 60, 4, [4, 2])).not.toEqual(places);
  expect(spread(3, 1, () => [0, 0, 0])).toHaveLength(3);
});

test('copies stand upright in the same dress, each turned and sized by itself, with a seed of its own, in one group', () => {
  const stage = withOne();
  expect(scatterProp(stage, { id: 'a', places: spreadAbout(stage.props[0]!, 12, 5, [3, 3]), seed: 5 })).toBe(12);
  expect(stage.props).toHaveLength(13);
  expect(new Set(stage.props.map((p) => p.group))).toEqual(new Set(['Frond']));
  expect(new Set(stage.props.map((p) => p.seed)).size).toBe(13);
  expect(new Set(stage.props.map((p) => p.name)).size).toBe(13);
  for (const { turn, scale, parts } of stage.props) {
    const up = new Vector3(0, 1, 0).applyQuaternion(new Quaternion(...turn));
    expect(up.y).toBeCloseTo(1, 6);
    expect(Math.abs(scale[0] - 1)).toBeLessThanOrEqual(0.1501);
    expect(parts[0]!.effect).toBe('e');
  }
  expect(new Set(stage.props.map((p) => p.scale[0])).size).toBeGreaterThan(8);
  expect(readStage(JSON.parse(writeStage(stage))).ok).toBe(true);
});

test('no more than there is room for', () => {
  const stage = withOne();
  const places = Array.from({ length: 600 }, (_, k): Vec3 => [k, 0, 0]);
  expect(scatterProp(stage, { id: 'a', places, seed: 1 })).toBe(MAX_PROPS - 1);
  expect(stage.props).toHaveLength(MAX_PROPS);
});

test('a group goes together: its members keep their distances and turn about the one in hand; what is locked stays', () => {
  const stage = withOne();
  scatterProp(stage, {
    id: 'a',
    places: [
      [2, 0.5, 2],
      [1, 0.5, 4],
      [5, 0, 5],
    ],
    seed: 2,
  });
  stage.props[3]!.locked = true;
  const before = structuredClone(stage.props);
  moveTogether(stage, { id: 'a', place: [2, 1.5, 2] });
  for (const k of [0, 1, 2])
    expect(
      far(
        stage.props[k]!.place,
        before[k]!.place.map((v, axis) => v + [1, 1, 0][axis]!),
      ),
    ).toBeLessThan(1e-12);
  expect(stage.props[3]!.place).toEqual(before[3]!.place);

  const was = structuredClone(stage.props);
  const quarter = new Quaternion().setFromEuler(new Euler(0.3, Math.PI / 2, -0.2));
  turnTogether(stage, { id: 'a', turn: quarter.toArray() as [number, number, number, number] });
  for (const k of [1, 2]) {
    // As three.js turns them.
    const arm = new Vector3(...was[k]!.place).sub(new Vector3(...was[0]!.place)).applyQuaternion(quarter);
    expect(far(stage.props[k]!.place, arm.add(new Vector3(...was[0]!.place)).toArray())).toBeLessThan(1e-9);
    const whole = quarter.clone().multiply(new Quaternion(...was[k]!.turn));
    expect(Math.abs(whole.dot(new Quaternion(...stage.props[k]!.turn)))).toBeCloseTo(1, 9);
  }
  expect(stage.props[3]!.turn).toEqual(was[3]!.turn);
});

test('groups have names of their own', () => {
  const stage = withOne();
  stage.props[0]!.group = 'Frond';
  expect(freshGroup(stage, 'Frond 7')).toBe('Frond 2');
  expect(freshGroup(stage, 'Rock')).toBe('Rock');
});
