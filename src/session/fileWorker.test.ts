import { expose, proxy } from 'comlink';
import { LastingWorker, readInWorker, type FileWorker } from './fileWorker.js';

/** A worker at the other end of a channel. */
class Fake {
  ended = false;
  private readonly channel = new MessageChannel();
  private readonly dead: (() => void)[] = [];
  readonly worker: FileWorker;

  constructor(api: object) {
    const { port1, port2 } = this.channel;
    expose(api, port1 as never);
    this.worker = {
      postMessage: (message: unknown, transfer: never) => port2.postMessage(message, transfer),
      addEventListener: (name: string, listener: never) =>
        name === 'error' ? this.dead.push(listener) : port2.addEventListener(name, listener),
      removeEventListener: (name: string, listener: never) => port2.removeEventListener(name, listener),
      terminate: () => {
        this.ended = true;
        port1.close();
        port2.close();
      },
    } as unknown as FileWorker;
    port2.start();
  }
  die(): void {
    for (const tell of this.dead) tell();
  }
}

interface Reader {
  read(bytes: ArrayBuffer, colour: string, onProgress: (share: number) => void): Promise<string>;
}
const read = (fake: Fake, longestMs?: number, onProgress: (share: number) => void = () => undefined) =>
  readInWorker<Reader, string>(
    fake.worker,
    'reef.exr',
    (reader) => reader.read(new ArrayBuffer(3), 'data', proxy(onProgress)) as Promise<string>,
    longestMs,
  );

test('what it answers is given, words about progress come before; then the worker is ended', async () => {
  const shares: number[] = [];
  const fake = new Fake({
    read: async (bytes: ArrayBuffer, colour: string, onProgress: (share: number) => Promise<void>) => {
      await onProgress(0.5);
      return `${colour} of ${bytes.byteLength}`;
    },
  });
  expect(await read(fake, undefined, (share) => shares.push(share))).toBe('data of 3');
  expect([shares, fake.ended]).toEqual([[0.5], true]);
});

test.each([
  [
    'refuses',
    {
      read: () => {
        throw new Error('It ends too early.');
      },
    },
    () => undefined,
    'It ends too early.',
  ],
  [
    'dies',
    { read: () => new Promise(() => undefined) },
    (fake: Fake) => fake.die(),
    'It could not be read: it is broken, or takes more memory than there is.',
  ],
  [
    'is silent',
    { read: () => new Promise(() => undefined) },
    () => undefined,
    'It takes longer than 0 s to read, so it was given up.',
  ],
])('one that %s: a sentence with the file’s name, and the worker is ended', async (_, api, act, why) => {
  const fake = new Fake(api);
  const reading = read(fake, 50);
  act(fake);
  await expect(reading).rejects.toThrow(`reef.exr was not opened. ${why}`);
  expect(fake.ended).toBe(true);
});

describe('a worker that stays', () => {
  interface Twice {
    twice(n: number): Promise<number>;
    never(): Promise<number>;
  }
  const api = { twice: (n: number) => 2 * n, never: () => new Promise<number>(() => undefined) };
  test('one that dies, or never answers, lets go of all that wait behind it; the next work has a new one', async () => {
    const made: Fake[] = [];
    const lasting = new LastingWorker<Twice>(() => {
      made.push(new Fake(api));
      return made.at(-1)!.worker;
    });
    const twice = (n: number) => lasting.ask((w) => w.twice(n) as Promise<number>);
    expect(await twice(2)).toBe(4);
    const held = [lasting.ask((w) => w.never() as Promise<number>), lasting.ask((w) => w.never() as Promise<number>)];
    made[0]!.die();
    for (const one of held) await expect(one).rejects.toThrow('What was working on it stopped');
    expect([await twice(3), made.length, made[0]!.ended]).toEqual([6, 2, true]);
    await expect(lasting.ask((w) => w.never() as Promise<number>, 20)).rejects.toThrow('What was working on it stopped');
    expect([await twice(4), made.length]).toEqual([8, 3]);
  });
});
