import { stageOf } from '../../../tests/fixtures/stages.js';
import { addZone } from './edits.js';
import { seenOnMove } from './moves.js';
import { turnOf } from './placing.js';
import { readStage, writeStage, type Stage } from './stage.js';
import { blended, opticsAt, within, type Zone } from './zones.js';

const stage = stageOf();
const zone: Zone = {
  ...{ id: 'z', name: 'Zone', place: [1, 0, 0], turn: [0, 0, 0, 1], size: [2, 4, 2], blend: 0.5 },
  optics: {
    exposure: 2,
    bloom: { on: true, threshold: 3, knee: 0.2, intensity: 2, spread: 0.4, quality: 'full' },
    tone: 'aces',
  },
};

describe('zones', () => {
  test('outside they do nothing, inside all, at their edge they blend', () => {
    expect(within(zone, [2.1, 0, 0])).toBe(0);
    expect(within(zone, [1, 0, 0])).toBe(1);
    // Half of the way in over the edge: half, by the smooth step.
    expect(within(zone, [1.75, 0, 0])).toBeCloseTo(0.5, 9);
    expect(within({ ...zone, blend: 0 }, [1.99, 0, 0])).toBe(1);
    // Turned by a right angle about z, what was high is wide.
    const turned = { ...zone, turn: turnOf([0, 0, 90]) };
    expect(within(turned, [2.4, 0, 0])).toBe(1);
    expect(within(turned, [1, 1.2, 0])).toBe(0);
  });
  test('exposure goes by stops, bloom that is off counts as none, a curve is one or the other', () => {
    const from = { ...stage.optics, exposure: 0, bloom: { ...stage.optics.bloom, on: false, intensity: 5, threshold: 1 } };
    const half = blended(from, zone.optics, 0.5);
    expect(half.exposure).toBe(1);
    expect(half.bloom).toMatchObject({ on: true, threshold: 2, intensity: 1 });
    expect(blended(from, zone.optics, 0.49).tone).toBe(from.tone);
    expect(half.tone).toBe('aces');
    const grade = { slope: [2, 1, 1], offset: [0, 0, 0.1], power: [1, 1, 1], saturation: 0 };
    const warm = { ...zone.optics, grade: grade as NonNullable<typeof zone.optics.grade> };
    // What has none is one that changes nothing.
    expect(blended(from, warm, 0.5).grade).toEqual({ ...grade, slope: [1.5, 1, 1], offset: [0, 0, 0.05], saturation: 0.5 });
    expect(blended(from, zone.optics, 0)).toBe(from);
    expect(blended(from, zone.optics, 1)).toBe(zone.optics);
  });
  test('the stage’s own hold where no zone is; of two the later counts last', () => {
    const other = { ...zone, id: 'y', optics: { ...zone.optics, exposure: -3 } };
    const within_: Stage = { ...stage, zones: [zone, other] };
    expect(opticsAt(within_, [9, 9, 9])).toBe(stage.optics);
    expect(opticsAt(within_, [1, 0, 0]).exposure).toBe(-3);
  });
  test('they are kept with the stage', () => {
    const made = structuredClone(stage) as Stage;
    addZone(made, { id: 'z', place: [0, 1, 0] });
    const read = readStage(JSON.parse(writeStage(made)));
    expect(read.ok && read.stage.zones).toEqual(made.zones);
    expect(made.zones[0]!.optics).toEqual(stage.optics);
  });
});

describe('a slow move', () => {
  const eyes = [
    [0, 1, 5],
    [4, 2, 3],
    [2, 1, -4],
  ] as const;
  const viewpoints = eyes.map((eye, k) => ({
    ...{ id: `v${k}`, name: `V ${k}`, eye: [...eye] as [number, number, number] },
    ...{ target: [0, k, 0] as [number, number, number], fov: 30 + 10 * k, lensBend: 0.1 * k },
  }));
  const moved = (closed: boolean, ids = ['v0', 'v1', 'v2']): Stage => ({
    ...stage,
    viewpoints,
    move: { viewpoints: ids, seconds: 12, closed },
  });
  const far = (a: readonly number[], b: readonly number[]) => Math.hypot(...a.map((v, k) => v - b[k]!));

  test('it goes through its viewpoints in their order', () => {
    const stops = [0, 4, 8].map((t) => seenOnMove(moved(true), t)!);
    stops.forEach((seen, k) => {
      expect(far(seen.eye, eyes[k]!)).toBeLessThan(1e-9);
      expect(seen.fov).toBeCloseTo(30 + 10 * k, 9);
      expect(seen.lensBend).toBeCloseTo(0.1 * k, 9);
    });
    // One that does not close is at its far end half of the way through.
    expect(far(seenOnMove(moved(false), 6)!.eye, eyes[2]!)).toBeLessThan(1e-9);
  });
  test.each([true, false])('it has no step and no corner, and begins again where it ends: closed %s', (closed) => {
    const at = (t: number) => seenOnMove(moved(closed), t)!.eye;
    expect(far(at(0), at(12))).toBeLessThan(1e-9);
    let before = far(at(0), at(0.01));
    for (let t = 0.01; t < 24; t += 0.01) {
      const step = far(at(t), at(t + 0.01));
      expect(step).toBeLessThan(0.06);
      expect(Math.abs(step - before)).toBeLessThan(0.002);
      before = step;
    }
  });
  test('none where there is none, or nothing left to go through', () => {
    expect(seenOnMove(stage, 1)).toBeNull();
    expect(seenOnMove(moved(true, ['v0']), 1)).toBeNull();
    expect(seenOnMove(moved(true, ['gone', 'v0']), 1)).toBeNull();
  });
});
