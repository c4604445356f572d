import { jest } from '@jest/globals';
import { createStore } from 'zustand/vanilla';
import { Resting } from './resting.js';

const flush = async () => {
  for (let k = 0; k < 10; k++) await Promise.resolve();
};

function rested(lacks: { id: string; key: string }[], paints: (id: string) => Promise<boolean>) {
  const drawn = new Set<(frame: number) => void>();
  const changed = new Set<() => void>();
  const painted: string[] = [];
  let stops = 0;
  const store = createStore(() => ({ saved: { state: 'saved' }, silentSince: null as Date | null }));
  const resting = new Resting({
    store: store as never,
    documents: { onChange: (l: () => void) => (changed.add(l), () => changed.delete(l)) } as never,
    frames: { onDrawn: (l: (frame: number) => void) => (drawn.add(l), () => drawn.delete(l)), view: {} as never, busy: false },
    lacking: () => Promise.resolve(lacks),
    strips: () =>
      Promise.resolve({
        paint: async (id: string) => {
          painted.push(id);
          const stored = await paints(id);
          if (stored)
            lacks.splice(
              lacks.findIndex((l) => l.id === id),
              1,
            );
          return stored;
        },
        stop: () => void stops++,
      }),
  });
  const pass = async (ms: number) => {
    jest.advanceTimersByTime(ms);
    await flush();
  };
  return {
    resting,
    painted,
    pass,
    store,
    move: () => drawn.forEach((l) => l(1)),
    listeners: () => drawn.size + changed.size,
    stops: () => stops,
  };
}

beforeEach(() => {
  jest.useFakeTimers();
});
afterEach(() => {
  jest.useRealTimers();
});

test('what is lacking is drawn one after another, only while nothing moves', async () => {
  const r = rested(
    [
      { id: 'a', key: '1' },
      { id: 'b', key: '1' },
    ],
    () => Promise.resolve(true),
  );
  for (let k = 0; k < 5; k++) {
    await r.pass(2000);
    r.move();
  }
  expect(r.painted).toEqual([]);
  await r.pass(6000);
  expect(r.painted).toEqual(['a']);
  await r.pass(1000);
  expect(r.painted).toEqual(['a', 'b']);
  await r.pass(60_000);
  expect(r.painted).toEqual(['a', 'b']);
});

test('one under way is given up when something moves; one that cannot be drawn holds up no other', async () => {
  const never = new Promise<boolean>(() => undefined);
  const r = rested(
    [
      { id: 'slow', key: '1' },
      { id: 'b', key: '1' },
    ],
    (id) => (id === 'slow' && r.painted.length === 1 ? never : Promise.resolve(id === 'b')),
  );
  await r.pass(6000);
  expect([r.painted, r.stops()]).toEqual([['slow'], 0]);
  r.move();
  expect(r.stops()).toBe(1);
  await r.pass(6000);
  expect(r.painted).toEqual(['slow', 'slow']);
  await r.pass(6000);
  expect(r.painted).toEqual(['slow', 'slow', 'b']);
});

test('nothing is drawn while something is not saved, or after it is left', async () => {
  const r = rested([{ id: 'a', key: '1' }], () => Promise.resolve(true));
  r.store.setState({ saved: { state: 'unsaved' } });
  await r.pass(20_000);
  expect(r.painted).toEqual([]);
  r.store.setState({ saved: { state: 'saved' } });
  r.resting.stop();
  await r.pass(60_000);
  expect([r.painted, r.listeners()]).toEqual([[], 0]);
});
