/** The queue of scene evaluations: order, turns, and what happens to what is not wanted any more. */
import { SceneQueue, type Turn } from './queue.js';

test('the most urgent goes first, between the steps of what runs already; equals go in the order they came', async () => {
  const queue = new SceneQueue();
  const steps: string[] = [];
  const job = (name: string, count: number) => async (turn: Turn) => {
    for (let k = 0; k < count; k++) {
      if (k > 0) await turn.next();
      steps.push(`${name}${k}`);
    }
    return name;
  };
  const jobs = [
    queue.run(job('idle', 3), { priority: 'idle' }),
    queue.run(job('first', 2), { priority: 'asked' }),
    queue.run(job('seen', 1), { priority: 'seen' }),
    queue.run(job('second', 2), { priority: 'asked' }),
  ];
  expect(await Promise.all(jobs)).toEqual(['idle', 'first', 'seen', 'second']);
  // What has begun does its step; then the urgent ones take turns before the others come.
  expect(steps[0]).toBe('idle0');
  const at = (step: string) => steps.indexOf(step);
  expect(Math.max(at('first1'), at('second1'))).toBeLessThan(at('idle2'));
  expect(at('first0')).toBeLessThan(at('second0'));
  expect(at('first0')).toBeLessThan(at('seen0'));
  expect(steps).toHaveLength(8);
});

test('one step at a time: no two run between the same turns', async () => {
  const queue = new SceneQueue();
  let inside = 0;
  const job = async (turn: Turn) => {
    for (let k = 0; k < 5; k++) {
      expect(++inside).toBe(1);
      await Promise.resolve();
      inside--;
      await turn.next();
    }
  };
  await Promise.all([1, 2, 3].map(() => queue.run(job, { priority: 'asked' })));
});

test('what is not wanted any more ends at its next turn, waiting or begun, and lets the others go on', async () => {
  const queue = new SceneQueue();
  const begun = new AbortController();
  const waiting = new AbortController();
  let steps = 0;
  const running = queue.run(
    async (turn) => {
      for (;;) {
        if (++steps === 3) begun.abort(new Error('closed'));
        await turn.next();
      }
    },
    { priority: 'asked', signal: begun.signal },
  );
  const never = queue.run(() => Promise.resolve(steps), { priority: 'idle', signal: waiting.signal });
  const ends = Promise.all([expect(running).rejects.toThrow('closed'), expect(never).rejects.toThrow('left')]);
  waiting.abort(new Error('left'));
  const after = queue.run(() => Promise.resolve('done'), { priority: 'idle' });
  await ends;
  expect(await after).toBe('done');
  expect(steps).toBe(3);
});

test('a job that fails gives its turn away', async () => {
  const queue = new SceneQueue();
  await expect(queue.run(() => Promise.reject(new Error('no')), { priority: 'asked' })).rejects.toThrow('no');
  expect(await queue.run(() => Promise.resolve(1), { priority: 'idle' })).toBe(1);
});
