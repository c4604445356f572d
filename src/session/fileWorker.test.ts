import { readInWorker, type FileWorker } from './fileWorker.js';

class Fake {
  ended = false;
  sent: unknown = null;
  private readonly on = new Map<string, (event: { data: unknown }) => void>();
  readonly worker = {
    postMessage: (message: unknown) => void (this.sent = message),
    terminate: () => void (this.ended = true),
    addEventListener: (name: string, listener: (event: { data: unknown }) => void) => void this.on.set(name, listener),
  } as unknown as FileWorker;
  say(data: unknown): void {
    this.on.get('message')!({ data });
  }
  die(): void {
    this.on.get('error')!({ data: null });
  }
}

const heed = (data: { share?: number; value?: string; why?: string }) =>
  data.share !== undefined
    ? null
    : data.value !== undefined
      ? { ok: true as const, value: data.value }
      : { ok: false as const, why: data.why! };
const read = (fake: Fake, longestMs?: number) =>
  readInWorker<string>(fake.worker, 'reef.exr', { colour: 'data' }, new ArrayBuffer(3), heed as never, longestMs);

test('the first answer that is one is given, words about progress before it are not; then the worker is ended', async () => {
  const fake = new Fake();
  const reading = read(fake);
  expect(fake.sent).toMatchObject({ colour: 'data', bytes: new ArrayBuffer(3) });
  fake.say({ share: 0.5 });
  expect(fake.ended).toBe(false);
  fake.say({ value: 'a reef' });
  expect([await reading, fake.ended]).toEqual(['a reef', true]);
});

test.each([
  ['refuses', (fake: Fake) => fake.say({ why: 'It ends too early.' }), 'It ends too early.'],
  ['dies', (fake: Fake) => fake.die(), 'It could not be read: it is broken, or takes more memory than there is.'],
  ['is silent', () => undefined, 'It takes longer than 0 s to read, so it was given up.'],
])('one that %s: a sentence with the file’s name, and the worker is ended', async (_, act, why) => {
  const fake = new Fake();
  const reading = read(fake, 20);
  act(fake);
  await expect(reading).rejects.toThrow(`reef.exr was not opened. ${why}`);
  expect(fake.ended).toBe(true);
});
