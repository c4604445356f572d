import { jest } from '@jest/globals';
import { Tab, type Role } from './tabs.js';

/** One browser's locks, as the Web Locks API (W3C) has them: requests wait in line; a thief is granted at once. */
class Locks {
  private held: { reject: (e: Error) => void } | null = null;
  private line: (() => void)[] = [];

  request(_: string, options: LockOptions, work: (lock: object | null) => Promise<void> | void): Promise<unknown> {
    return new Promise((resolve, reject) => {
      const grant = () => {
        const holder = { reject };
        this.held = holder;
        void Promise.resolve(work({})).then(() => {
          if (this.held === holder) {
            this.held = null;
            this.line.shift()?.();
          }
          resolve(undefined);
        });
      };
      if (options.steal) {
        this.held?.reject(new Error('AbortError'));
        grant();
      } else if (!this.held) grant();
      else if (options.ifAvailable) resolve(work(null));
      else {
        this.line.push(grant);
        options.signal?.addEventListener('abort', () => {
          this.line = this.line.filter((g) => g !== grant);
          reject(new Error('AbortError'));
        });
      }
    });
  }
}

const browser = (parts: object) => Object.defineProperty(globalThis, 'navigator', { value: parts, configurable: true });
beforeEach(() => void browser({ locks: new Locks() }));

const tabs: Tab<string>[] = [];
afterEach(() => tabs.splice(0).forEach((t) => t.close()));

function open(name: string, settle: () => Promise<void> = () => Promise.resolve()) {
  const roles: Role[] = [];
  const seen: string[] = [];
  const waiting: (() => void)[] = [];
  const note = () => waiting.splice(0).forEach((w) => w());
  const tab = new Tab<string>({
    name: 'test',
    onRole: (role) => (roles.push(role), note()),
    onState: (state) => (seen.push(state), note()),
    state: () => `as ${name} has it`,
    settle,
  });
  tabs.push(tab);
  const until = async (reached: () => boolean) => {
    while (!reached()) await new Promise<void>((r) => waiting.push(r));
  };
  return { tab, roles, seen, until };
}

test('the first edits, the second follows and is shown what the first has', async () => {
  const [a, b] = [open('a'), open('b')];
  expect([await a.tab.join(), await b.tab.join()]).toEqual(['editing', 'following']);
  b.tab.greet();
  await b.until(() => b.seen.length > 0);
  expect(b.seen).toEqual(['as a has it']);
});

test('asked to, the first makes everything safe before it steps back', async () => {
  const order: string[] = [];
  const a = open('a', async () => {
    await Promise.resolve();
    order.push('a is safe');
  });
  const b = open('b');
  await a.tab.join();
  await b.tab.join();
  b.tab.editHere();
  await b.until(() => b.roles.includes('editing'));
  order.push('b edits');
  expect(order).toEqual(['a is safe', 'b edits']);
  expect(a.roles).toEqual(['editing', 'following']);
});

test('when the one that edits is closed, the next in line edits', async () => {
  const [a, b] = [open('a'), open('b')];
  await a.tab.join();
  await b.tab.join();
  a.tab.close();
  await b.until(() => b.roles.includes('editing'));
  expect(b.roles).toEqual(['following', 'editing']);
});

test('a tab that has hung loses its lock to the one that asks, and follows when it comes to', async () => {
  const a = open('a', () => new Promise(() => undefined));
  const b = open('b');
  await a.tab.join();
  await b.tab.join();
  b.tab.editHere();
  await b.until(() => b.roles.includes('editing'));
  await a.until(() => a.roles.includes('following'));
  expect(b.roles).toEqual(['following', 'editing']);
});

test('where a browser has no locks, every tab edits', async () => {
  browser({});
  expect(await open('a').tab.join()).toBe('editing');
});

test('asked twice, it takes the other’s place once, and keeps it', async () => {
  const a = open('a', () => Promise.resolve());
  const b = open('b');
  await a.tab.join();
  await b.tab.join();
  jest.useFakeTimers({ doNotFake: ['queueMicrotask', 'nextTick', 'setImmediate'] });
  try {
    b.tab.editHere();
    b.tab.editHere();
    // The channel of the other tab is a task of its own.
    while (!b.roles.includes('editing')) await new Promise((r) => setImmediate(r));
    jest.advanceTimersByTime(10_000);
    for (let k = 0; k < 20; k++) await new Promise((r) => setImmediate(r));
  } finally {
    jest.useRealTimers();
  }
  expect([b.roles, b.tab.role]).toEqual([['following', 'editing'], 'editing']);
});
