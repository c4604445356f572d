import { jest } from '@jest/globals';
import { createStore } from 'zustand/vanilla';
import { watchAge, type Age } from './age.js';

interface Reading {
  readonly frame: number;
}

/** A bench of which frames are drawn and readings come as a test says. */
function watched(playing = false) {
  const store = createStore<{ levels: Reading | null; other: number }>(() => ({ levels: null, other: 0 }));
  const drawn = new Set<() => void>();
  const frames = { shown: 0, onDrawn: (l: () => void) => (drawn.add(l), () => drawn.delete(l)) };
  const said: Age[] = [];
  const clock = { playing };
  const end = watchAge({ store, frames, clock } as never, (age) => said.push(age));
  return {
    clock,
    end,
    listeners: drawn,
    draw: () => {
      frames.shown++;
      for (const l of drawn) l();
    },
    read: (frame = frames.shown) => store.setState({ levels: { frame } }),
    get age() {
      return said.at(-1);
    },
  };
}

beforeEach(() => {
  jest.useFakeTimers();
});
afterEach(() => {
  jest.useRealTimers();
});

test('a reading is old as soon as a newer frame is shown, and says nothing after a second', () => {
  const w = watched();
  w.draw();
  w.read();
  expect(w.age).toBe('now');
  w.draw();
  expect(w.age).toBe('old');
  jest.advanceTimersByTime(990);
  expect(w.age).toBe('old');
  jest.advanceTimersByTime(20);
  expect(w.age).toBe('gone');
  // Further frames make it no younger.
  w.draw();
  expect(w.age).toBe('gone');
  w.read();
  expect(w.age).toBe('now');
});

test('a reading that comes late is of an earlier frame, and old at once', () => {
  const w = watched();
  w.draw();
  w.draw();
  w.read(1);
  expect(w.age).toBe('old');
  jest.advanceTimersByTime(1000);
  expect(w.age).toBe('gone');
});

test('while the picture moves a reading is as good as of the frame until the next could be there', () => {
  const w = watched(true);
  w.draw();
  w.read();
  for (let k = 0; k < 10; k++) {
    jest.advanceTimersByTime(16);
    w.draw();
  }
  expect(w.age).toBe('now');
  w.read();
  // The measuring stops, the picture goes on.
  for (let k = 0; k < 40; k++) {
    jest.advanceTimersByTime(16);
    w.draw();
  }
  expect(w.age).toBe('old');
  jest.advanceTimersByTime(500);
  expect(w.age).toBe('gone');
});

test('what is watched no longer is left alone', () => {
  const w = watched();
  w.draw();
  w.read();
  w.draw();
  w.end();
  expect(w.listeners.size).toBe(0);
  jest.advanceTimersByTime(2000);
  expect(w.age).toBe('old');
});
