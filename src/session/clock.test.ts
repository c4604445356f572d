import { Clock } from './clock.js';

const frames: ((now: number) => void)[] = [];
beforeEach(() => {
  frames.length = 0;
  globalThis.requestAnimationFrame = (f) => frames.push(f);
  globalThis.cancelAnimationFrame = () => void frames.pop();
});
const tick = (now: number) => frames.shift()!(now);

test('time is taken modulo the loop, also below 0', () => {
  const clock = new Clock(true);
  clock.loop = 4;
  clock.set(9.5);
  expect(clock.time).toBeCloseTo(1.5, 12);
  clock.set(-1);
  expect(clock.time).toBe(3);
  clock.loop = null;
  clock.set(90);
  expect(clock.time).toBe(90);
});

test('what goes on over several laps is told apart from the time within one', () => {
  const clock = new Clock(true);
  clock.loop = 4;
  clock.fps = 30;
  clock.set(7.9);
  clock.step(4);
  expect(clock.time).toBeCloseTo(1 / 30, 9);
  expect(clock.onward).toBeCloseTo(8 + 1 / 30, 9);
  clock.step(-4);
  expect(clock.onward).toBeCloseTo(7.9, 9);
  clock.set(1);
  expect(clock.onward).toBe(1);
});

test('steps are whole frames, there and back', () => {
  const clock = new Clock(true);
  clock.fps = 24;
  clock.set(1.01);
  clock.step(1);
  expect(clock.time).toBeCloseTo(25 / 24, 12);
  clock.step(-1);
  clock.step(-1);
  expect(clock.time).toBeCloseTo(23 / 24, 12);
});

test('plays at its speed, tells its listeners, and does not leap after a sleep', () => {
  const clock = new Clock(false);
  const times: number[] = [];
  let states = 0;
  clock.onTick((t) => times.push(t));
  clock.onState(() => states++);
  clock.speed = 2;
  clock.play();
  const start = performance.now();
  tick(start + 100);
  expect(times[0]).toBeCloseTo(0.2, 1);
  const before = clock.time;
  tick(start + 60_000);
  expect(clock.time - before).toBeCloseTo(0.5, 6);
  clock.pause();
  expect([states, frames.length, clock.playing]).toEqual([2, 0, false]);
});

test('frozen, it moves only when it is set', () => {
  const clock = new Clock(true);
  clock.play();
  expect(frames).toHaveLength(0);
  clock.dispose();
});
