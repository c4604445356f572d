import { stageOf } from '../../../tests/fixtures/stages.js';
import { MOST_COPIES, MOST_MOTES, MotesOf, farthestFirst, paceOf, type MoteField, type Motes } from './motes.js';
import { readStage, writeStage } from './stage.js';

const FIELD: MoteField = {
  ...{ id: 'm', name: 'Motes', effect: 'e', variant: null, seed: 3, place: [0, 0, 0], turn: [0, 0, 0, 1] },
  ...{ from: { kind: 'box', size: [4, 2, 6] }, rate: 100, life: 2, lifeSpread: 0, size: 0.02, sizeSpread: 0 },
  ...{ speed: 0, speedSpread: 0, heading: [0, 1, 0], spread: 0, gravity: 0, drift: { strength: 0, scale: 1, pace: 0 }, spin: 0 },
  ...{ shape: { kind: 'round' }, soft: 0, burst: null, visible: true },
};
const field = (more: Partial<MoteField>): MoteField => ({ ...FIELD, ...more });
const copied = ({ count, centre, mote, body, velocity }: Motes) => ({
  count,
  centre: [...centre.subarray(0, count * 3)],
  mote: [...mote.subarray(0, count * 3)],
  body: [...body.subarray(0, count * 2)],
  velocity: [...velocity.subarray(0, count * 3)],
});
const at = (f: MoteField, time: number, loop: number | null = null, firings: number[] = [], births?: Float32Array) =>
  copied(new MotesOf().at(f, time, loop, firings, births ?? null));
const lane = (values: readonly number[], width: number, k: number) => values.filter((_, j) => j % width === k);

describe('how many, and how long', () => {
  test('as many live at once as are born in a life', () => expect(at(FIELD, 7.3).count).toBe(200));
  test('a loop holds whole lives', () => {
    expect(paceOf({ rate: 100, life: 2, shape: { kind: 'round' } }, 5)).toMatchObject({ laps: 3, count: 167 });
    expect(paceOf({ rate: 100, life: 9, shape: { kind: 'round' } }, 4)).toMatchObject({ laps: 1, period: 4 });
  });
  test('a million are as many as there is room for, and it is told', () =>
    expect(paceOf({ rate: 1e6, life: 1, shape: { kind: 'round' } }, null)).toMatchObject({ count: MOST_MOTES, wanted: 1e6 }));
  test('lives that differ leave fewer at once', () => {
    const { count, mote } = at(field({ lifeSpread: 1, rate: 2000 }), 5);
    // Lives are evenly long from 0 to 2 s: half of the places are empty, in the mean.
    expect(count / 4000).toBeCloseTo(0.5, 1);
    expect(Math.max(...lane(mote, 3, 0))).toBeLessThanOrEqual(1);
  });
  test('ages are spread evenly, whatever the moment', () => {
    for (const time of [0, 0.7, 31.4]) {
      const ages = lane(at(field({ rate: 2000 }), time).mote, 3, 0);
      for (const share of [0.1, 0.5, 0.9]) expect(ages.filter((a) => a < share).length / ages.length).toBeCloseTo(share, 1);
    }
  });
});

describe('a function of time and seed', () => {
  const busy = field({ speed: 0.5, spread: 0.7, gravity: 1, drift: { strength: 0.3, scale: 0.7, pace: 0.4 }, lifeSpread: 0.3 });
  test('the same again, whatever was asked for between', () => {
    const motes = new MotesOf();
    const first = copied(motes.at(busy, 3.21, null));
    motes.at(busy, 9, null);
    motes.at(field({ rate: 900 }), 1, null);
    expect(copied(motes.at(busy, 3.21, null))).toEqual(first);
  });
  test('after a whole loop it is as at its beginning', () => {
    const [start, end] = [at(busy, 0.4, 5), at(busy, 5.4, 5)];
    expect(end.count).toBe(start.count);
    end.centre.forEach((v, k) => expect(v).toBeCloseTo(start.centre[k]!, 4));
    expect(lane(end.mote, 3, 1)).toEqual(lane(start.mote, 3, 1));
  });
  test('another seed, other motes', () => expect(at(field({ seed: 4 }), 1).centre).not.toEqual(at(FIELD, 1).centre));
  test('a mote goes on smoothly while it lives', () => {
    const [now, soon] = [at(busy, 2), at(busy, 2 + 1 / 240)];
    const places = (m: ReturnType<typeof at>) =>
      new Map(lane(m.mote, 3, 2).map((id, k) => [id, [m.mote[k * 3]!, m.centre.slice(k * 3, k * 3 + 3)]] as const));
    const later = places(soon);
    let compared = 0;
    for (const [id, [age, place]] of places(now)) {
      const next = later.get(id);
      if (!next || next[0] < age) continue;
      compared++;
      expect(Math.hypot(...place.map((v, k) => v - next[1][k]!))).toBeLessThan(0.05);
    }
    expect(compared).toBeGreaterThan(100);
  });
});

describe('born where they may be', () => {
  const births = Float32Array.from({ length: 6 * 100 }, (_, k) => (k % 6 === 0 ? Math.floor(k / 6) / 100 : k % 6 === 4 ? 1 : 0));
  const on = field({ from: { kind: 'prop', prop: 'p' }, speed: 0, rate: 1000, drift: { strength: 0, scale: 1, pace: 0 } });
  test('asked of their places and the times of their births, which are in the past; the others are as they were', () => {
    const all = copied(new MotesOf().at(on, 4.5, 6, [], births));
    const told: { place: number; time: number }[] = [];
    const some = copied(
      new MotesOf().at(on, 4.5, 6, [], births, (places, times, count) => {
        for (let k = 0; k < count; k++) told.push({ place: places[k]!, time: times[k]! });
        return (k) => places[k]! >= 50;
      }),
    );
    expect(told).toHaveLength(all.count);
    for (const { time } of told) {
      expect(time).toBeGreaterThanOrEqual(2.49);
      expect(time).toBeLessThanOrEqual(4.5);
    }
    expect(some.count).toBeGreaterThan(all.count * 0.35);
    expect(some.count).toBeLessThan(all.count * 0.65);
    // Every place along x from the middle on, and each of those that is there at all.
    const xs = lane(some.centre, 3, 0);
    expect(Math.min(...xs)).toBeGreaterThanOrEqual(0.5);
    const known = new Map(lane(all.mote, 3, 2).map((id, k) => [id, all.centre[k * 3]!]));
    lane(some.mote, 3, 2).forEach((id, k) => expect(some.centre[k * 3]).toBe(known.get(id)));
    expect(lane(all.centre, 3, 0).filter((x) => x >= 0.5)).toHaveLength(some.count);
  });
  test('in a loop, those of the lap before are asked of as of that lap', () => {
    new MotesOf().at(on, 0.2, 6, [], births, (_, times, count) => {
      const late = [...times.subarray(0, count)].filter((t) => t > 4);
      expect(late.length).toBeGreaterThan(count / 2);
      for (const t of times.subarray(0, count)) expect(t >= 0 && t < 6).toBe(true);
      return () => true;
    });
  });
  test('copies of props are fewer: each is drawn by itself', () =>
    expect(paceOf({ rate: 1e5, life: 2, shape: { kind: 'copies', prop: 'p' } }, null)).toMatchObject({
      count: MOST_COPIES,
      wanted: 2e5,
    }));
});

describe('where, and which way', () => {
  test('in a box, evenly', () => {
    const { centre } = at(field({ rate: 4000 }), 1);
    [4, 2, 6].forEach((size, axis) => {
      const along = lane(centre, 3, axis);
      expect(Math.max(...along.map(Math.abs))).toBeLessThanOrEqual(size / 2);
      // The variance of what is even over a length: its square over 12.
      expect(along.reduce((sum, v) => sum + v * v, 0) / along.length).toBeCloseTo((size * size) / 12, 0);
    });
  });
  test('in a ball: as many within half its radius as its share of the volume', () => {
    const { centre } = at(field({ from: { kind: 'ball', radius: 2 }, rate: 4000 }), 1);
    const far = lane(centre, 3, 0).map((x, k) => Math.hypot(x, centre[k * 3 + 1]!, centre[k * 3 + 2]!));
    expect(Math.max(...far)).toBeLessThanOrEqual(2);
    expect(far.filter((r) => r < 1).length / far.length).toBeCloseTo(1 / 8, 1);
  });
  test('along a path', () => {
    const { centre } = at(
      field({
        from: {
          kind: 'path',
          points: [
            [0, 0, 0],
            [1, 0, 0],
            [1, 1, 0],
          ],
        },
      }),
      1,
    );
    for (let k = 0; k < centre.length; k += 3) expect(centre[k + 1] === 0 || centre[k] === 1).toBe(true);
  });
  test('on a prop, square to it; none where it is not there', () => {
    const births = Float32Array.of(1, 2, 3, 0, 0, 1, -1, 2, 3, 1, 0, 0);
    const f = field({ from: { kind: 'prop', prop: 'p' }, speed: 1 });
    const { centre, mote, count } = at(f, 0.5, null, [], births);
    expect(count).toBe(200);
    for (let k = 0; k < count; k++) {
      const lived = mote[k * 3]! * 2;
      const [x, y, z] = centre.slice(k * 3, k * 3 + 3) as [number, number, number];
      expect(y).toBeCloseTo(2, 5);
      expect(Math.min(Math.abs(x - 1) + Math.abs(z - 3 - lived), Math.abs(z - 3) + Math.abs(x + 1 - lived))).toBeLessThan(1e-4);
    }
    expect(at(f, 0.5).count).toBe(0);
  });
  test('thrown up, they fall as thrown things do', () => {
    const { centre, mote } = at(field({ from: { kind: 'ball', radius: 1e-6 }, speed: 3, gravity: 9.81 }), 4);
    for (let k = 0; k < centre.length; k += 3) {
      const t = mote[k]! * 2;
      expect(centre[k + 1]).toBeCloseTo(3 * t - 4.905 * t * t, 3);
    }
  });
  test('from all one way to every way: the mean of the directions', () => {
    const mean = (spread: number) => {
      const { velocity } = at(field({ speed: 1, spread, rate: 4000 }), 1);
      return lane(velocity, 3, 1).reduce((sum, v) => sum + v, 0) / (velocity.length / 3);
    };
    expect(mean(0)).toBeCloseTo(1, 5);
    expect(mean(1)).toBeCloseTo(0, 1);
    expect(mean(0.4)).toBeGreaterThan(0.5);
  });
});

test('a trigger sets off so many at once, each for its life; in a loop those of the lap before are heard', () => {
  const f = field({ rate: 0, burst: { trigger: 't', count: 30 } });
  expect([0.9, 1, 2.9, 3.1].map((t) => at(f, t, null, [1]).count)).toEqual([0, 30, 30, 0]);
  expect(at(f, 1.2, null, [1, 1.1]).count).toBe(60);
  expect(at(f, 0.5, 4, [3]).count).toBe(30);
  // Each firing throws others.
  const two = at(f, 1.1, null, [1, 1.1]).centre;
  expect(two.slice(0, 90)).not.toEqual(two.slice(90));
});

test('farthest first, along the way that is looked', () => {
  const centre = Float32Array.of(0, 0, -1, 0, 0, -5, 0, 0, 2);
  expect([...farthestFirst({ count: 3, centre }, [0, 0, -1])]).toEqual([1, 0, 2]);
});

test('a field is kept as it is; what is no field is refused with a sentence', () => {
  const stage = stageOf({ motes: [FIELD] });
  const again = readStage(JSON.parse(writeStage(stage)));
  expect(again.ok && again.stage.motes).toEqual([FIELD]);
  expect(readStage({ ...stage, motes: [{ ...FIELD, life: 0 }] })).toMatchObject({
    ok: false,
    problems: [{ message: expect.stringContaining('motes.0.life') }],
  });
});

test('a burst whose life is longer than the loop lives to its end, and the loop closes', () => {
  const long = field({ rate: 0, life: 7, burst: { trigger: 'hit', count: 3 } });
  // Fired at 1 in a loop of 3: motes of this lap, of the one before, and of the one before that, while they live.
  for (const time of [0, 0.9, 1.1, 2.5]) {
    const past = time - 1 - 3 * Math.floor((time - 1) / 3);
    const alive = [0, 1, 2].filter((lap) => past + 3 * lap < 7).length;
    const now = at(long, time, 3, [1]);
    expect([time, now.count]).toEqual([time, 3 * alive]);
    const sorted = (all: readonly number[]) => [...all].map((v) => v.toFixed(4)).sort();
    expect(sorted(at(long, time + 3, 3, [1]).centre)).toEqual(sorted(now.centre));
  }
});
