import { jest } from '@jest/globals';
import { emptyEffect } from '../core/effect/schema.js';
import type { ReadingsAnswer, ReadingsRequest } from '../workers/readings.js';
import { ReadingsPort, type WorkerLike } from './readingsPort.js';

class FakeWorker implements WorkerLike {
  static all: FakeWorker[] = [];
  readonly posted: ReadingsRequest[] = [];
  ended = false;
  private readonly listeners = new Map<string, ((event: { data?: ReadingsAnswer; message?: string }) => void)[]>();
  constructor() {
    FakeWorker.all.push(this);
  }
  postMessage(message: ReadingsRequest): void {
    this.posted.push(message);
  }
  terminate(): void {
    this.ended = true;
  }
  addEventListener(type: string, listener: (event: { data?: ReadingsAnswer; message?: string }) => void): void {
    this.listeners.set(type, [...(this.listeners.get(type) ?? []), listener]);
  }
  emit(type: string, event: { data?: ReadingsAnswer; message?: string }): void {
    for (const l of this.listeners.get(type) ?? []) l(event);
  }
  say(data: ReadingsAnswer): void {
    this.emit('message', { data });
  }
}

function setUp(times = { silenceMs: 1000, restarts: 3, windowMs: 60_000 }) {
  FakeWorker.all = [];
  const answers: ReadingsAnswer[] = [];
  const sentences: string[] = [];
  let fresh = 0;
  const port = new ReadingsPort(
    () => new FakeWorker(),
    { onAnswer: (a) => answers.push(a), onTrouble: (s) => sentences.push(s), onFresh: () => fresh++ },
    times,
  );
  return { port, answers, sentences, now: () => FakeWorker.all[FakeWorker.all.length - 1]!, fresh: () => fresh };
}

const sheet = (name: string) => emptyEffect('e', name);
const draw: ReadingsRequest = { kind: 'draw', number: 1, params: new Float32Array(), time: 0, loop: 4, steady: {}, whole: null };

beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

test('one question of a kind is under way, and the newest of those that came meanwhile follows', () => {
  const { port, now, answers } = setUp();
  for (const name of ['a', 'b', 'c']) port.ask('ranges', sheet(name));
  port.ask('cost', sheet('a'));
  const asked = () => now().posted.map((r) => ('effect' in r ? `${r.kind} ${r.effect.name}` : r.kind));
  expect(asked()).toEqual(['ranges a', 'cost a']);
  now().say({ kind: 'ranges', turn: 1, ranges: new Map(), measured: new Map() });
  expect(asked()).toEqual(['ranges a', 'cost a', 'ranges c']);
  now().say({ kind: 'ranges', turn: 3, ranges: new Map(), measured: new Map() });
  expect(asked()).toHaveLength(3);
  expect(answers).toHaveLength(2);
});

test('a request that fails is told, and the next question goes on', () => {
  const { port, now, sentences } = setUp();
  port.ask('advise', sheet('a'));
  port.ask('advise', sheet('b'));
  now().say({ kind: 'trouble', about: 'advise', turn: 1, message: 'no such thing' });
  expect(sentences).toEqual([expect.stringContaining('no such thing')]);
  expect(now().posted).toHaveLength(2);
  expect(FakeWorker.all).toHaveLength(1);
});

test('one that dies is started again and told everything; at most three times a minute, and then when the minute is over', () => {
  const { port, now, fresh, sentences } = setUp();
  for (let k = 1; k <= 3; k++) {
    const dying = now();
    dying.emit('error', { message: 'out of memory' });
    expect([dying.ended, fresh(), FakeWorker.all.length]).toEqual([true, k, k + 1]);
  }
  now().emit('error', { message: 'out of memory' });
  expect(FakeWorker.all).toHaveLength(4);
  expect(port.post(draw)).toBe(false);
  expect(sentences).toHaveLength(4);
  expect(sentences[3]).toContain('within a minute');
  jest.advanceTimersByTime(60_001);
  expect([FakeWorker.all.length, fresh()]).toEqual([5, 4]);
  expect(port.post(draw)).toBe(true);
});

test('one that does not answer is started again; what an ended one still says is not heard', () => {
  const { port, now, answers, fresh } = setUp();
  const first = now();
  port.post(draw);
  jest.advanceTimersByTime(999);
  first.say({ kind: 'idle', number: 1 });
  jest.advanceTimersByTime(5000);
  expect(fresh()).toBe(0);
  port.post(draw);
  jest.advanceTimersByTime(1001);
  expect([first.ended, fresh()]).toEqual([true, 1]);
  first.say({ kind: 'idle', number: 1 });
  expect(answers).toHaveLength(1);
});

test('stopped, it starts nothing', () => {
  const { port, now, fresh } = setUp();
  port.post(draw);
  port.stop();
  now().emit('error', { message: 'x' });
  jest.advanceTimersByTime(120_000);
  expect([FakeWorker.all.length, fresh(), now().ended]).toEqual([1, 0, true]);
});
